package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
)

var (
	snakeCase = regexp.MustCompile(`^[a-z][a-z0-9]*(_[a-z0-9]+)*$`)
	toSecond  = regexp.MustCompile(`^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ$`)
)

// held holds a value against its schema, and says what differs.
func held(schema map[string]any, value any, at string) []string {
	kinds, ok := schema["type"].([]any)
	if !ok {
		kinds = []any{schema["type"]}
	}
	var kind string
	switch v := value.(type) {
	case nil:
		kind = "null"
	case bool:
		kind = "boolean"
	case float64:
		kind = "number"
		if slices.Contains(kinds, "integer") {
			kind = "integer"
		}
	case string:
		kind = "string"
		if schema["format"] == "date-time" && !toSecond.MatchString(v) {
			return []string{at + ": " + v + " is no moment to the second"}
		}
	case []any:
		kind = "array"
	case map[string]any:
		kind = "object"
	}
	if !slices.Contains(kinds, any(kind)) {
		return []string{fmt.Sprintf("%s is %s, described as %v", at, kind, kinds)}
	}
	var wrong []string
	if list, ok := value.([]any); ok {
		for i, v := range list {
			wrong = append(wrong, held(schema["items"].(map[string]any), v, fmt.Sprint(at, "[", i, "]"))...)
		}
	}
	fields, ok := value.(map[string]any)
	if !ok {
		return wrong
	}
	properties, closed := schema["properties"].(map[string]any)
	for name, v := range fields {
		if !closed {
			wrong = append(wrong, held(schema["additionalProperties"].(map[string]any), v, at+"."+name)...)
			continue
		}
		described, ok := properties[name].(map[string]any)
		if !ok {
			wrong = append(wrong, at+"."+name+" is not described")
			continue
		}
		wrong = append(wrong, held(described, v, at+"."+name)...)
	}
	return wrong
}

// names lists the names of all properties of a schema.
func names(schema map[string]any) []string {
	var list []string
	properties, _ := schema["properties"].(map[string]any)
	for name, part := range properties {
		list = append(list, name)
		list = append(list, names(part.(map[string]any))...)
	}
	if items, ok := schema["items"].(map[string]any); ok {
		list = append(list, names(items)...)
	}
	return list
}

// answersAreAsDescribed asks a shop with a history everything that the API answers,
// and holds each answer against its own description; names are written alike throughout.
func answersAreAsDescribed(t *testing.T, s *testkit.Shop) {
	t.Helper()
	c := newClient(t, s)
	c.signIn("maren")
	_, text := c.get("/api/v1/openapi.json")
	var document struct {
		Paths map[string]map[string]struct {
			RequestBody struct {
				Content map[string]struct {
					Schema map[string]any `json:"schema"`
				} `json:"content"`
			} `json:"requestBody"`
			Responses map[string]struct {
				Content map[string]struct {
					Schema map[string]any `json:"schema"`
				} `json:"content"`
			} `json:"responses"`
		} `json:"paths"`
	}
	require.NoError(t, json.Unmarshal([]byte(text), &document))
	number := func(path string) string {
		_, body := c.get("/api/v1" + path)
		var list struct {
			Items []struct {
				Number string `json:"number"`
			} `json:"items"`
		}
		require.NoError(t, json.Unmarshal([]byte(body), &list), body)
		require.NotEmpty(t, list.Items, path)
		return list.Items[0].Number
	}
	_, vouchers := c.get("/api/v1/vouchers")
	code := regexp.MustCompile(`VO-[-\d]+`).FindString(vouchers)
	require.NotEmpty(t, code, vouchers)
	fill := map[string]string{"{id}": "1", "{figure}": "on_hand"}
	asked := 0
	for path, methods := range document.Paths {
		for method, op := range methods {
			for _, content := range op.RequestBody.Content {
				for _, name := range names(content.Schema) {
					assert.Regexp(t, snakeCase, name, "%s %s takes it", method, path)
				}
			}
			schema := op.Responses["200"].Content["application/json"].Schema
			for _, name := range names(schema) {
				assert.Regexp(t, snakeCase, name, "%s %s answers it", method, path)
			}
			if method != "get" {
				continue
			}
			address := path
			for place, value := range fill {
				address = strings.ReplaceAll(address, place, value)
			}
			if strings.Contains(address, "{number}") {
				address = strings.ReplaceAll(address, "{number}", number(strings.TrimSuffix(path, "/{number}")))
			}
			if strings.Contains(address, "{code}") {
				address = strings.ReplaceAll(address, "{code}", code)
			}
			if path == "/find" {
				address += "?q=vest"
			}
			status, body := c.get("/api/v1" + address)
			if status == http.StatusNotFound && strings.HasPrefix(path, "/imports") {
				continue // the demo shop imports from its program
			}
			if !assert.Equal(t, http.StatusOK, status, "%s: %s", address, body) {
				continue
			}
			var value any
			require.NoError(t, json.Unmarshal([]byte(body), &value), address)
			assert.NotRegexp(t, `"-?\d+\.000"`, body, "%s: figures have no zeros at their end", address)
			wrong := held(schema, value, address)
			assert.Empty(t, wrong[:min(len(wrong), 5)])
			asked++
		}
	}
	assert.Greater(t, asked, 25)
	for path, methods := range document.Paths {
		for _, content := range methods["put"].RequestBody.Content {
			if slices.Contains(names(content.Schema), "revision") {
				revisionIsTold(t, c, path)
			}
		}
	}
}

// toldAt is where the revision of what is saved with PUT is read: an address, and the way through its answer.
var toldAt = map[string][]string{
	"/bills/{id}":                     {"/bills/1", "bill", "revision"},
	"/branch-ways":                    {"/branch-ways", "0", "revision"},
	"/branches/{id}":                  {"/branches", "0", "revision"},
	"/categories/{id}":                {"/categories", "0", "revision"},
	"/conditions/{id}":                {"/conditions", "0", "revision"},
	"/count-schedules/{id}":           {"/count-schedules", "0", "revision"},
	"/counts/{id}/counters":           {"/counts/1", "count", "counters_revision"},
	"/customers/{id}":                 {"/customers/1", "revision"},
	"/deliveries/{id}":                {"/deliveries/1", "delivery", "revision"},
	"/label-templates/{code}":         {"/label-templates", "0", "revision"},
	"/orders/{id}":                    {"/orders/1", "order", "revision"},
	"/orders/{id}/lines":              {"/orders/1", "lines", "0", "revision"},
	"/people/{id}":                    {"/people", "0", "revision"},
	"/price-lists/{id}":               {"/price-lists", "0", "revision"},
	"/products/{id}":                  {"/products/1", "revision"},
	"/products/{id}/packs/{pack}":     {"/products/{packed}", "packs", "0", "revision"},
	"/products/{id}/parts":            {"/products/1/parts", "revision"},
	"/reasons/{id}":                   {"/reasons", "0", "revision"},
	"/sendings/{id}":                  {"/sendings/1", "revision"},
	"/settings":                       {"/settings", "revision"},
	"/settings/register":              {"/settings", "register_revision"},
	"/shelves/{id}":                   {"/branches", "0", "shelves", "0", "revision"},
	"/suppliers/{id}":                 {"/suppliers", "0", "revision"},
	"/tile-pages/{id}":                {"/tile-pages", "0", "revision"},
	"/values/{id}":                    {"/values", "0", "values", "0", "revision"},
	"/variants/{id}/condition-prices": {"/variants/1/condition-prices", "0", "revision"},
}

// revisionIsTold reads the revision that a program needs to save something on top of.
func revisionIsTold(t *testing.T, c *client, path string) {
	way := toldAt[path]
	if !assert.NotEmpty(t, way, "nothing tells the revision that PUT %s takes", path) {
		return
	}
	address, value := way[0], any(nil)
	read := func() {
		_, body := c.get("/api/v1" + address)
		require.NoError(t, json.Unmarshal([]byte(body), &value), body)
	}
	if strings.Contains(address, "{packed}") {
		for id := 1; address == way[0] && id < 100; id++ {
			one := c.answered("GET", fmt.Sprint("/api/v1/products/", id), "")
			if packs, _ := one["packs"].([]any); len(packs) > 0 {
				address = fmt.Sprint("/products/", id)
			}
		}
	}
	read()
	for _, step := range way[1:] {
		if at, err := strconv.Atoi(step); err == nil {
			list := value.([]any)
			require.Greater(t, len(list), at, "%s, %s", path, address)
			value = list[at]
			continue
		}
		value = value.(map[string]any)[step]
	}
	assert.NotContains(t, []any{nil, "", 0.0}, value, "%s is told by %v", path, way)
}

// TestAKeyIsOfOneBody sends another body, and the same to another address, under a key
// that was used.
func TestAKeyIsOfOneBody(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Open(t, 1)
	c := newClient(t, s)
	c.signIn("tobi")
	send := func(path, body string) (int, string) {
		return c.json("POST", "/api/v1/registers/"+path+"/basket/lines", body, "Idempotency-Key", "k1")
	}
	one := fmt.Sprintf(`{"variant_id":%d}`, made.Variants[0].ID)
	status, first := send("1", one)
	require.Equal(t, http.StatusOK, status, first)
	status, again := send("1", one)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, first, again)
	for path, body := range map[string]string{"1": `{"variant_id":2}`, "2": one} {
		status, said := send(path, body)
		assert.Equal(t, http.StatusConflict, status, said)
		assert.Contains(t, said, "Idempotency-Key")
	}
}
