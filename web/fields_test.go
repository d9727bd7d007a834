package web

import (
	"encoding/json"
	"net/http"
	"net/url"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
	"itemrack/web/kit"
)

// usual are values for fields by their names, with which deeds go far.
var usual = map[string]any{
	"name": "Thing", "category": "Swim", "tracking": "counted", "unit": "piece", "price": "5", "cost": "2",
	"code":     "TRV-COR-S",
	"quantity": "1", "reason": "damaged", "condition": "damaged", "to": "damaged", "from": "for sale",
	"number":   "Q1-00001",
	"supplier": "Kelpline", "amount": "1", "kind": "fixed", "zone": "Europe/London", "currency": "GBP", "format": "csv",
	"role": "clerk", "login": "newone", "password": "harbour lights 26", "method": "cash", "percent": "10",
	"came_on": "2026-11-20",
	"expiry":  "2127-12-31", "freight": "1", "spread": "value", "counted": "10", "factor": "6", "sku": "S-1", "value": "x",
	"base": 1, "price_list_id": 1,
}

// filled makes a body of a type: every field with its usual value, lists with one element. Path
// is the field that has another.
func filled(of reflect.Type, name, path, at string, other any, leaves *[]string) any {
	for of.Kind() == reflect.Pointer {
		of = of.Elem()
	}
	if of.Kind() == reflect.Struct && of.NumField() > 0 && of.String() != "decimal.Decimal" &&
		of.String() != "time.Time" {
		body := map[string]any{}
		for i := range of.NumField() {
			f := of.Field(i)
			tag, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			switch {
			case tag == "-" || !f.IsExported():
			case f.Anonymous && tag == "":
				for k, v := range filled(f.Type, name, path, at, other, leaves).(map[string]any) {
					body[k] = v
				}
			default:
				body[tag] = filled(f.Type, tag, path+"."+tag, at, other, leaves)
			}
		}
		return body
	}
	switch of.Kind() {
	case reflect.Slice:
		return []any{filled(of.Elem(), name, path, at, other, leaves)}
	case reflect.Map:
		return map[string]any{"1": filled(of.Elem(), name, path, at, other, leaves)}
	}
	*leaves = append(*leaves, path)
	if path == at {
		return other
	}
	if v, ok := usual[name]; ok && (reflect.TypeOf(v).Kind() == reflect.String) == (of.Kind() == reflect.String) {
		return v
	}
	switch of.Kind() {
	case reflect.String:
		return ""
	case reflect.Bool:
		return false
	}
	return 1
}

// TestNoFieldTakesTheProgramDown sends every body with one field that holds too much, or what
// nobody would type: the answer is a refusal, or the deed is done, and never an error of the
// program.
func TestNoFieldTakesTheProgramDown(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "900", "5")
	s.Open(t, 1)
	s.Sold(t, made.Variants[0].ID, "1")
	c := newClient(t, s)
	c.signIn("maren")
	odd := []any{strings.Repeat("漢", 300), "\u0000\u200bé👩‍🚀" + strings.Repeat("ﬃ", 110), strings.Repeat("9", 60), "1e400",
		strings.Repeat("x", 70_000), uint64(1<<64 - 1), -1}
	asked := 0
	for _, r := range everyRoute() {
		if r.In == nil || r.Method == http.MethodGet || strings.Contains(r.Path, "logout") {
			continue
		}
		var leaves []string
		filled(r.In, "", "", "none", nil, &leaves)
		for _, at := range append([]string{"none"}, leaves...) {
			for _, other := range odd {
				body, err := json.Marshal(filled(r.In, "", "", at, other, new([]string)))
				require.NoError(t, err)
				status, answer := c.json(r.Method, example(r.Path), string(body))
				if status == http.StatusUnauthorized { // it changed who one is
					c.signIn("maren")
				}
				if asked++; status >= 500 || strings.Contains(answer, "too long to be kept") ||
					strings.Contains(answer, "too large to be kept") {
					assert.Fail(t, "no rule bounds a field", "%s %s, %s = %.40v: %d %.300s", r.Method, r.Path, at,
						other, status, answer)
				}
				if at == "none" {
					break
				}
			}
		}
	}
	t.Log(asked, "bodies")
	assert.Greater(t, asked, 1000)
	s.InStep(t)
}

// TestNoAddressTakesTheProgramDown asks for every page and list with what nobody would write
// behind the question mark.
func TestNoAddressTakesTheProgramDown(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "9", "5")
	c := newClient(t, s)
	c.signIn("maren")
	names := map[string]bool{}
	for _, r := range everyRoute() {
		for _, q := range r.Queries {
			names[q.Name] = true
		}
	}
	common := map[string]bool{}
	for _, more := range []string{"q", "page", "sort", "list", "columns", "as", "format", "filter", "category", "code",
		"from", "to", "back",
		"next", "hang", "ids", "variant", "branch", "day", "after", "register", "condition", "product"} {
		names[more], common[more] = true, true
	}
	for _, r := range everyRoute() {
		if r.Method != http.MethodGet || r.Streamed {
			continue
		}
		for _, odd := range []string{"%00", "%F0%9F%AA%A2%e2%80%8b", "-1", "18446744073709551616", "1e9", "%ff%fe",
			"%27--", "a%0d%0aSet-Cookie:x=1",
			strings.Repeat("%E6%BC%A2", 20)} {
			var query []string
			for name := range names {
				query = append(query, name+"="+odd)
			}
			status, answer := c.get(example(r.Path) + "?" + strings.Join(query, "&"))
			assert.Less(t, status, 500, "%s with %.30s: %.300s", r.Path, odd, answer)
			for name := range names { // and one by one: the first that is wrong hides the others
				own := common[name] || slices.ContainsFunc(r.Queries, func(q kit.Query) bool { return q.Name == name })
				if odd == "-1" && own && !strings.HasPrefix(r.Path, "/api/") {
					status, answer := c.get(example(r.Path) + "?" + name + "=" + odd)
					assert.Less(t, status, 500, "%s with %s=%.30s: %.300s", r.Path, name, odd, answer)
				}
			}
		}
	}
}

// FuzzAddresses asks for lists with what stands behind the question mark.
func FuzzAddresses(f *testing.F) {
	for _, query := range []string{"q=vest&page=2", "sort=-margin&columns=cost,price",
		"list=variants&under=1&category=1", "a%zz", "page=%00&q=%ff",
		"columns=,,&sort=--", "price_from=1e9&price_to=x"} {
		f.Add("/catalog", query)
	}
	f.Add("/stock", "branch=9&as=csv")
	f.Add("/api/v1/variants", "q=%F0%9F%AA%A2&after=18446744073709551615")
	s := testkit.New(f)
	s.Vest(f)
	c := newClient(f, s)
	c.signIn("maren")
	f.Fuzz(func(t *testing.T, path, query string) {
		c.t = t
		if !strings.HasPrefix(path, "/") || strings.ContainsAny(path+query, " ?#\r\n\t\x00\x7f") ||
			len(path)+len(query) > 4000 {
			return
		}
		for _, sign := range path + query {
			if sign < ' ' || sign > '~' {
				return // an address is ASCII
			}
		}
		at, err := url.Parse(path + "?" + query)
		if err != nil || at.Host != "" || strings.HasPrefix(path, "/logout") {
			return
		}
		if status, answer := c.get(path + "?" + query); status >= 500 {
			t.Fatalf("%s?%s: %d %.300s", path, query, status, answer)
		}
	})
}
