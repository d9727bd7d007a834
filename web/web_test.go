package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/staff"
	"itemrack/shop/counts"
	"itemrack/shop/lists"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/web/kit"
)

// TestMain keeps the request log out of the tests' output.
func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

// client speaks to an application as a browser or a program does.
type client struct {
	t       testing.TB
	app     *fiber.App
	cookies map[string]string
	token   string
	csrf    string
}

func newClient(t testing.TB, s *testkit.Shop) *client {
	app, err := New(s.Shop, kit.Config{})
	require.NoError(t, err)
	return &client{t: t, app: app, cookies: map[string]string{}}
}

// places are addresses in memory, which nobody wants to read.
var places = regexp.MustCompile(`\b0x[0-9a-f]{6,}\b`)

// send sends a request and returns its status and body.
func (c *client) send(method, path, contentType, body string, headers ...string) (int, string) {
	c.t.Helper()
	request := httptest.NewRequest(method, path, strings.NewReader(body))
	request.Header.Set("Content-Type", contentType)
	for i := 0; i+1 < len(headers); i += 2 {
		request.Header.Set(headers[i], headers[i+1])
	}
	for name, value := range c.cookies {
		request.AddCookie(&http.Cookie{Name: name, Value: value})
	}
	if c.token != "" {
		request.Header.Set("Authorization", "Bearer "+c.token)
	}
	if c.csrf != "" && request.Header.Get("X-Csrf-Token") == "" {
		request.Header.Set("X-Csrf-Token", c.csrf)
	}
	answer, err := c.app.Test(request, fiber.TestConfig{Timeout: 0})
	require.NoError(c.t, err)
	defer answer.Body.Close()
	for _, cookie := range answer.Cookies() {
		c.cookies[cookie.Name] = cookie.Value
	}
	data, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	if place := places.Find(data); place != nil && strings.Contains(answer.Header.Get("Content-Type"), "html") {
		c.t.Errorf("%s prints where something lies in memory: %s", path, place)
	}
	if found := regexp.MustCompile(`name="csrf" content="([^"]+)"`).FindSubmatch(data); found != nil {
		c.csrf = string(found[1])
	}
	return answer.StatusCode, string(data)
}

func (c *client) get(path string) (int, string) { return c.send("GET", path, "", "") }

func (c *client) json(method, path, body string, headers ...string) (int, string) {
	return c.send(method, path, "application/json", body, headers...)
}

// signIn signs a person in as a browser does.
func (c *client) signIn(login string) {
	c.t.Helper()
	_, _ = c.get("/login")
	status, _ := c.send("POST", "/login", "application/x-www-form-urlencoded",
		url.Values{"login": {login}, "password": {testkit.Password}, "_csrf": {c.csrf}}.Encode())
	require.Equal(c.t, http.StatusSeeOther, status)
	_, _ = c.get("/")
}

var logins = map[staff.Role]string{staff.Manager: "maren", staff.Clerk: "tobi", staff.Stock: "callum"}

// example puts numbers into a path's places.
func example(path string) string {
	path = strings.NewReplacer(":number", "D-0001", ":figure", "on_hand", ":name", "card%20terminal", ":line", "1",
		":event", "1", ":product", "1", ":id", "1").
		Replace(path)
	return path
}

// TestEveryRouteForEveryRole holds each address against the table of deeds: who
// may is not forbidden, who may not is, and nobody is let in unknown.
func TestEveryRouteForEveryRole(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "3", "5")
	stranger := newClient(t, s)
	for _, role := range staff.Roles {
		c := newClient(t, s)
		c.signIn(logins[role])
		for _, r := range everyRoute() {
			if r.Path == "/logout" || strings.HasSuffix(r.Path, "/lock") {
				continue
			}
			status, body := c.json(r.Method, example(r.Path), "{}")
			allowed := staff.Actor{Role: role}.Can(r.Deed)
			if allowed {
				asks := strings.Contains(body, `"field":"`+staff.ApprovalField+`"`) // a yes on the spot lets it through
				assert.True(t, status != http.StatusForbidden || asks, "%s %s as %s: %s", r.Method, r.Path, role, body)
				assert.Less(t, status, 500, "%s %s as %s: %s", r.Method, r.Path, role, body)
			} else {
				assert.Equal(t, http.StatusForbidden, status, "%s %s as %s", r.Method, r.Path, role)
			}
			status, _ = stranger.get(example(r.Path))
			if r.Method == "GET" && strings.HasPrefix(r.Path, "/api/") {
				assert.Equal(t, http.StatusUnauthorized, status, r.Path)
			} else if r.Method == "GET" {
				assert.Equal(t, http.StatusSeeOther, status, r.Path)
			}
		}
	}
	s.InStep(t)
}

// everyRoute lists the addresses of all places as they are asked for.
func everyRoute() []kit.Route {
	var list []kit.Route
	for _, p := range Places {
		for _, r := range p.Pages {
			if !r.Unsigned {
				list = append(list, r)
			}
		}
		for _, r := range p.API {
			r.Path = "/api/v1" + r.Path
			list = append(list, r)
		}
	}
	return list
}

// TestWithoutTheCSRFToken refuses every change that does not bring the token.
func TestWithoutTheCSRFToken(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	c.signIn("maren")
	for _, token := range []string{"none", ""} {
		for _, r := range everyRoute() {
			if r.Method == "GET" {
				continue
			}
			kept := c.csrf
			c.csrf = ""
			headers := []string{}
			if token != "" {
				headers = []string{"X-Csrf-Token", token}
			}
			status, body := c.json(r.Method, example(r.Path), "{}", headers...)
			assert.Equal(t, http.StatusForbidden, status, "%s %s", r.Method, r.Path)
			assert.Contains(t, body, "Load it again")
			c.csrf = kept
		}
	}
	c.csrf = ""
	status, body := c.json("POST", "/api/v1/tile-pages", `{"name": "Every day"}`, "Sec-Fetch-Site", "same-origin")
	assert.Equal(t, http.StatusOK, status, "the browser says that it came from our page: %s", body)
	for _, site := range []string{"same-site", "cross-site"} {
		status, _ = c.json("POST", "/api/v1/tile-pages", `{"name": "Every day"}`, "Sec-Fetch-Site", site)
		assert.Equal(t, http.StatusForbidden, status, site)
	}
	status, _ = c.send("POST", "/logout", "application/x-www-form-urlencoded", "", "Sec-Fetch-Site", "same-origin")
	assert.Equal(t, http.StatusForbidden, status, "a form brings its token")
	fresh := newClient(t, s)
	_, _ = fresh.get("/login")
	status, _ = fresh.send("POST", "/login", "application/x-www-form-urlencoded",
		url.Values{"login": {"maren"}, "password": {testkit.Password}}.Encode(), "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, http.StatusForbidden, status, "another site may not sign anybody in")
	status, _ = fresh.send("POST", "/login", "application/x-www-form-urlencoded",
		url.Values{"login": {"maren"}, "password": {testkit.Password}}.Encode(), "Origin", "https://elsewhere.example")
	assert.Equal(t, http.StatusForbidden, status)
	assert.Empty(t, fresh.cookies, "whoever only looks leaves nothing behind")
}

func TestTokensAndProblems(t *testing.T) {
	s := testkit.New(t)
	one, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	token := one.Token
	require.NoError(t, err)
	c := newClient(t, s)
	c.token = token
	status, body := c.json("POST", "/api/v1/products",
		`{"name":"Whistle","category":"Swim","tax_class_id":1,"tracking":"counted","price":"4.00"}`, "Idempotency-Key",
		"k1")
	require.Equal(t, http.StatusOK, status, body)
	status, again := c.json("POST", "/api/v1/products",
		`{"name":"Whistle","category":"Swim","tax_class_id":1,"tracking":"counted","price":"4.00"}`, "Idempotency-Key",
		"k1")
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, body, again, "the same key gets the first answer")

	status, body = c.json("POST", "/api/v1/products",
		`{"name":"Thing","category":"Swim","tax_class_id":1,"tracking":"counted","price":"4.005"}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	var p kit.Problem
	require.NoError(t, json.Unmarshal([]byte(body), &p))
	assert.Equal(t, []string{"price", "4.005", "invalid"}, []string{p.Field, p.Value, p.Title})
	assert.NotEmpty(t, p.Want)
	assert.NotEmpty(t, p.ID)
	for _, bad := range []string{"{", "", `{"nmae":"x"}`, `[]`} {
		status, body = c.json("POST", "/api/v1/products", bad)
		assert.Equal(t, http.StatusUnprocessableEntity, status, bad)
		assert.Contains(t, body, "can't be read")
	}
	for held, says := range map[string]string{`"-3x"`: "“-3x” is not a whole number.",
		"1.5": "“1.5” is not a whole number.",
		`"漢"`: "“漢” is not a whole number.", "true": "“true” is not a whole number.",
		"[7]": "“[7]” is not a whole number.", `"-"`: "“-” is not a whole number."} {
		status, body = c.json("POST", "/api/v1/shelves", `{"name":"Wall A","branch_id":1,"position":`+held+`}`)
		assert.Equal(t, http.StatusUnprocessableEntity, status, held)
		var other kit.Problem
		require.NoError(t, json.Unmarshal([]byte(body), &other))
		assert.Equal(t, []string{"position", says, ""}, []string{other.Field, other.Detail, other.Advice}, held)
	}
	status, body = c.json("POST", "/api/v1/shelves", `{"name":"Wall A","branch_id":-1,"position":1}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "“-1” is not a whole number from 0 on.")
	status, _ = c.get("/api/v1/products/99")
	assert.Equal(t, http.StatusNotFound, status)
	status, body = c.get("/api/v1/nowhere")
	assert.Equal(t, http.StatusNotFound, status)
	assert.Contains(t, body, "There is no page")
	status, body = c.get("/api/v1/find?q=whistle")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, `"name":"Whistle"`)
	c.token = token + "x"
	status, _ = c.get("/api/v1/find?q=whistle")
	assert.Equal(t, http.StatusUnauthorized, status)
}

func TestImportThroughTheAPI(t *testing.T) {
	s := testkit.New(t)
	one, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	token := one.Token
	require.NoError(t, err)
	c := newClient(t, s)
	c.token = token
	list := "product,size,category,price,cost,opening quantity\nVest,M,Swim,34.95,13.95,6\n"
	status, body := c.send("POST", "/api/v1/catalog/import?dry_run=true", "text/csv", list)
	require.Equal(t, http.StatusOK, status, body)
	assert.Contains(t, body, `"dry_run":true`)
	_, body = c.send("POST", "/api/v1/catalog/import", "text/csv", list)
	assert.Contains(t, body, `"opening":"OS-0001"`)
	s.InStep(t)
}

// TestOpenAPIHoldsEveryRoute holds the document against the table of routes.
func TestOpenAPIHoldsEveryRoute(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	status, body := c.get("/api/v1/openapi.json")
	require.Equal(t, http.StatusOK, status)
	var document struct {
		OpenAPI string
		Paths   map[string]map[string]struct {
			Summary     string
			RequestBody map[string]any `json:"requestBody"`
			Parameters  []struct{ Name, In string }
		}
	}
	require.NoError(t, json.NewDecoder(bytes.NewReader([]byte(body))).Decode(&document))
	assert.Equal(t, "3.1.0", document.OpenAPI)
	registered := map[string]bool{}
	for _, r := range c.app.GetRoutes(true) {
		if strings.HasPrefix(r.Path, "/api/v1/") && r.Method != "HEAD" && r.Path != "/api/v1/openapi.json" {
			registered[strings.ToLower(r.Method)+" "+
				regexp.MustCompile(`:(\w+)`).ReplaceAllString(strings.TrimPrefix(r.Path, "/api/v1"), "{$1}")] = true
		}
	}
	described := map[string]bool{}
	for path, methods := range document.Paths {
		for method, op := range methods {
			described[method+" "+path] = true
			assert.NotEmpty(t, op.Summary, path)
			for _, m := range regexp.MustCompile(`\{(\w+)\}`).FindAllStringSubmatch(path, -1) {
				found := false
				for _, p := range op.Parameters {
					found = found || p.Name == m[1] && p.In == "path"
				}
				assert.True(t, found, "%s %s does not describe %s", method, path, m[1])
			}
		}
	}
	assert.Equal(t, registered, described)
	properties := document.Paths["/sales"]["post"].RequestBody["content"].(map[string]any)["application/json"].(map[string]any)["schema"].(map[string]any)["properties"].(map[string]any)
	assert.Contains(t, properties, "basket_id")
}

func TestStaticAndHealth(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	status, body := c.get("/healthz")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "ok")
	_, page := c.get("/login")
	for _, address := range regexp.MustCompile(`(?:src|href)="(/static/[^"]+)"`).FindAllStringSubmatch(page, -1) {
		status, _ := c.get(address[1])
		assert.Equal(t, http.StatusOK, status, address[1])
	}
	assert.NotContains(t, page, "http://")
	for _, to := range []string{"//evil.example", "https://evil.example", `/\evil.example`} {
		_, page := c.get("/login?to=" + url.QueryEscape(to))
		assert.Contains(t, page, `name="to" value="/"`)
	}
}

// TestTextIsNeverMarkup shows a name that looks like markup as text.
func TestTextIsNeverMarkup(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, `<script>alert("x")</script>`, "counted", "4.00")
	s.Stock(t, v, "1", "1")
	s.Open(t, 1)
	done := s.Sold(t, v, "1")
	c := newClient(t, s)
	c.signIn("maren")
	for _, path := range []string{"/catalog", "/catalog/1", "/stock/1", "/sales/" + done.Number, "/documents/" +
		done.Number, "/catalog/1/labels", "/labels/preview?n=1:1", "/register/1/products"} {
		status, body := c.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		assert.NotContains(t, body, "<script>alert", path)
	}
}

func TestLabelAddress(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	c := newClient(t, s)
	c.signIn("callum")
	status, body := c.get("/labels/pdf?template=roll-40x25&n=1:2")
	assert.Equal(t, http.StatusOK, status)
	assert.True(t, strings.HasPrefix(body, "%PDF"))
	for _, bad := range []string{"n=1", "n=x:1", "n=1:x", "n=1:-1", "n=1:99999", "template=a5&n=1:1", "n=99:1", ""} {
		status, _ := c.get("/labels/pdf?" + bad)
		assert.Contains(t, []int{http.StatusUnprocessableEntity, http.StatusNotFound}, status, bad)
	}
}

// TestNoQueryPerRow holds that a page takes as many statements with a lot of
// rows as with a few, and never more than some.
func TestNoQueryPerRow(t *testing.T) {
	s := testkit.New(t)
	one, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	token := one.Token
	require.NoError(t, err)
	c := newClient(t, s)
	c.token = token
	s.Open(t, 1)
	first := s.Vest(t)
	s.Stock(t, first.Variants[0].ID, "9", "5")
	number := s.Sold(t, first.Variants[0].ID, "1").Number
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 2, Category: 1})
	require.NoError(t, err)
	_, err = register.AddToBasket(s.By(s.Tobi), 1,
		register.BasketAdd{Variant: first.Variants[0].ID})
	require.NoError(t, err)
	pages := []string{"/", "/catalog", "/catalog/1", "/catalog/1/labels", "/buying", "/register", "/register/1",
		"/register/1/rack/1", "/sales/" + number, "/stock", "/stock/1", "/stock/not-for-sale", "/counts", "/counts/1",
		"/counts/1/settle", "/documents", "/documents/" + number, "/drawers", "/api/v1/registers/1/basket",
		"/api/v1/find?q=vest"}
	count := func() map[string]string {
		taken := map[string]string{}
		for _, path := range pages {
			request := httptest.NewRequest("GET", path, nil)
			request.Header.Set("Authorization", "Bearer "+token)
			answer, err := c.app.Test(request, fiber.TestConfig{Timeout: 0})
			require.NoError(t, err)
			require.Equal(t, http.StatusOK, answer.StatusCode, path)
			taken[path] = answer.Header.Get("Server-Timing")
		}
		return taken
	}
	few := count()
	var list strings.Builder
	list.WriteString("product,size,category,price,cost,opening quantity,restock level\n")
	for n := range 120 {
		for _, size := range []string{"S", "M", "L"} {
			_, _ = fmt.Fprintf(&list, "Style %03d,%s,Swim > Rash vests,9.95,4.00,5,9\n", n, size)
		}
	}
	report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(list.String()), 1,
		false)
	require.NoError(t, err)
	require.Equal(t, 360, report.Made)
	s.Stock(t, first.Variants[0].ID, "40", "5")
	for n := uint64(7); n < 60; n++ {
		s.Sold(t, n, "1")
		_, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: n})
		require.NoError(t, err)
		_, err = counts.Count(s.By(s.Callum), plan.ID,
			counts.CountInput{Variant: n, Quantity: "1"})
		require.NoError(t, err)
	}
	many := count()
	for _, path := range pages {
		assert.Equal(t, few[path], many[path], path)
		assert.Regexp(t, `"([1-9]|1\d|2[0-9]) statements"`, many[path], path)
	}
}

// TestTheCycleThroughTheAPI does what the pages do with nothing but a token:
// make, receive, open, scan, sell, take back, put for sale, count, settle.
func TestTheCycleThroughTheAPI(t *testing.T) {
	s := testkit.New(t)
	one, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	token := one.Token
	require.NoError(t, err)
	c := newClient(t, s)
	c.token = token
	do := func(method, path, body string) map[string]any {
		t.Helper()
		status, said := c.json(method, "/api/v1"+path, body)
		require.Equal(t, http.StatusOK, status, "%s %s: %s", method, path, said)
		var answer map[string]any
		require.NoError(t, json.Unmarshal([]byte(said), &answer))
		return answer
	}
	made := do(
		"POST",
		"/products",
		`{"name":"Tidewater rash vest","category":"Swim > Rash vests","supplier":"Kelpline Textiles","tax_class_id":1,"tracking":"counted","price":"34.95","style":"TWV",
		"axes":[{"name":"Size","values":[{"name":"S"},{"name":"M"}]}]}`,
	)
	assert.Equal(t, "TWV-S", made["variants"].([]any)[0].(map[string]any)["sku"])
	delivery := do("POST", "/deliveries",
		`{"supplier_id":1,"branch_id":1,"extra":"5.00","lines":[{"variant_id":1,"quantity":"10","cost":"20"}]}`)
	assert.Equal(t, 1.0, delivery["id"])
	draft := do("GET", "/deliveries/1", "")
	assert.Equal(t, "205", draft["totals"].(map[string]any)["net"])
	assert.Equal(t, "D-0001", do("POST", "/deliveries/1/post", "")["number"])
	do("POST", "/registers/1/open", `{"float":"100"}`)
	basket := do("POST", "/registers/1/basket/lines", `{"code":"3 x TWV-S"}`)
	assert.Equal(t, "104.85", basket["totals"].(map[string]any)["gross"])
	sale := do("POST", "/sales", fmt.Sprintf(`{"register_id":1,"basket_id":%v,"cash":"120"}`, basket["id"]))
	assert.Equal(t, []any{"Q1-00001", "15.15"}, []any{sale["number"], sale["change"]})
	back := do("POST", "/returns", `{"register_id":1,"sale":"Q1-00001","lines":[{"line":1,"quantity":"1"}]}`)
	assert.Equal(t, "34.95", back["cash"])
	do("POST", "/condition-changes",
		`{"variant_id":1,"branch_id":1,"from":"To look over","to":"For sale","quantity":"1"}`)
	count := do("POST", "/counts", `{"branch_id":1,"category_id":2}`)
	assert.Equal(t, 2.0, count["rows"])
	do("POST", "/counts/1/events", `{"variant_id":1,"quantity":"7"}`)
	do("POST", "/counts/1/state", `{"state":"Settling"}`)
	settled := do("POST", "/counts/1/settle", `{"uncounted":"leave","reasons":{}}`)
	assert.Equal(t, "SC-0001", settled["number"])
	explained := do("GET", "/variants/1/explain/on_hand", "")
	assert.Equal(t, "7", explained["amount"])
	document := do("GET", "/documents/SC-0001", "")
	assert.Len(t, document["postings"], 2)
	closing := do("POST", "/registers/1/cash-up", `{"counted":[{"value":"50","count":3},{"value":"10","count":2}]}`)
	assert.Equal(t, "0.1", closing["difference"])
	assert.Equal(t, "RV-0001", do("POST", "/documents/SC-0001/reverse", `{"note":"wrong wall"}`)["number"])
	_, said := c.get("/api/v1/verify")
	assert.NotContains(t, said, "wrong")
	s.InStep(t)
}
