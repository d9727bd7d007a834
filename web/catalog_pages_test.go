package web

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/catalog"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// manager is a client with a manager's token.
func manager(t *testing.T, s *testkit.Shop) *client {
	t.Helper()
	made, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	token := made.Token
	require.NoError(t, err)
	c := newClient(t, s)
	c.token = token
	return c
}

// answered sends JSON, wants it to be taken, and reads what comes back.
func (c *client) answered(method, path, body string) map[string]any {
	c.t.Helper()
	status, text := c.json(method, path, body)
	require.Less(c.t, status, 300, "%s %s: %s", method, path, text)
	var out map[string]any
	if strings.HasPrefix(text, "{") {
		require.NoError(c.t, json.Unmarshal([]byte(text), &out))
	}
	return out
}

// refused sends JSON and wants a problem that names a field.
func (c *client) refused(method, path, body, field string) {
	c.t.Helper()
	status, text := c.json(method, path, body, "Accept", "application/json")
	assert.GreaterOrEqual(c.t, status, 400, "%s %s: %s", method, path, text)
	assert.Less(c.t, status, 500, "%s %s: %s", method, path, text)
	assert.Contains(c.t, text, fmt.Sprintf(`"field":%q`, field), "%s %s", method, path)
}

func square(t *testing.T) string {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewNRGBA(image.Rect(0, 0, 30, 30))))
	return out.String()
}

// TestTheCatalogThroughTheAPI does what the catalog's pages do with nothing but a
// token.
func TestTheCatalogThroughTheAPI(t *testing.T) {
	s := testkit.New(t)
	c := manager(t, s)
	swim := c.answered("POST", "/api/v1/categories",
		`{"name":"Swim","markup":"110","ending":"1/0.95/nearest","restock_level":"2"}`)
	assert.Equal(t, "Swim", swim["path"])
	c.refused("POST", "/api/v1/categories", `{"name":"swim"}`, "name")
	c.refused("POST", "/api/v1/categories", `{"name":"X","markup":"lots"}`, "markup")
	asked := c.answered("POST", "/api/v1/prices/suggest", `{"category":"Swim","cost":"13.95"}`)
	assert.Equal(t, []any{"34.95", "52.1 %", true}, []any{asked["price"], asked["margin"], asked["by_rule"]})
	c.refused("POST", "/api/v1/prices/suggest", `{"category":"Swim","cost":"13..95"}`, "cost")

	made := c.answered("POST", "/api/v1/products",
		`{"name":"Rash vest","category":"Swim","supplier":"Kelpline Textiles","tracking":"counted","cost":"13.95","axes":[{"name":"Colour","text":"Coral, Slate"},{"name":"Size","text":"s-l"}],"own_costs":[{"choice":["Coral","L"],"text":"14.50"}],"own_levels":[{"choice":["Coral","L"],"text":"5"}],"barcodes":[{"choice":["Slate","S"],"text":"4006381333931"}]}`)
	require.Len(t, made["variants"], 6)
	c.refused("POST", "/api/v1/products", `{"name":"","category":"Swim","tracking":"counted"}`, "name")
	c.refused("POST", "/api/v1/products", `{"name":"A","category":"Swim","tracking":"counted","price":"1e9"}`, "price")
	c.refused("POST", "/api/v1/products",
		`{"name":"A","category":"Swim","tracking":"counted","barcode":"4006381333931"}`, "barcode")
	read := c.answered("GET", "/api/v1/products/1", "")
	first := read["variants"].([]any)[0].(map[string]any)
	assert.Equal(t, []any{"Coral · S", "34.95"}, []any{first["label"], first["price"]})

	assert.Contains(t,
		c.answered("POST", "/api/v1/products/1/cells",
			`{"figure":"sku","cells":[{"variant_id":1,"text":"VEST-1"}]}`)["says"],
		"1")
	c.refused("POST", "/api/v1/products/1/cells", `{"figure":"sku","cells":[{"variant_id":2,"text":"VEST-1"}]}`, "sku")
	c.refused("POST", "/api/v1/products/1/cells", `{"figure":"weather","cells":[{"variant_id":2,"text":"1"}]}`,
		"figure")
	more := c.answered("POST", "/api/v1/products/1/values", `{"axes":[{"name":"Colour","text":"Kelp"}]}`)
	assert.Len(t, more["variants"], 3)
	c.answered("POST", "/api/v1/products/1/values/change", `{"axis":"Colour","value":"Kelp","do":"retire"}`)
	c.answered("POST", "/api/v1/products/1/values/change", `{"axis":"Colour","value":"Kelp","do":"restore"}`)
	c.answered("POST", "/api/v1/products/1/values/change", `{"axis":"Colour","value":"Kelp","do":"drop"}`)
	c.refused("POST", "/api/v1/products/1/values/change", `{"axis":"Colour","value":"Kelp","do":"drop"}`, "value")

	code := c.answered("POST", "/api/v1/variants/1/barcodes", `{"code":"012345678905"}`)
	assert.Equal(t, "012345678905", code["barcode"])
	status, body := c.get("/api/v1/find?q=0012345678905")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "VEST-1")
	c.answered("DELETE", "/api/v1/variants/1/barcodes/012345678905", "")

	pack := c.answered("POST", "/api/v1/products/1/packs",
		`{"name":"box of 6","factor":"6","variant_id":1,"barcode":"96385074","price":"190"}`)
	c.answered("PUT", fmt.Sprintf("/api/v1/products/1/packs/%v", pack["id"]),
		`{"name":"box of 5","factor":"5","variant_id":1}`)
	c.refused("POST", "/api/v1/products/1/packs", `{"name":"half","factor":"0.5"}`, "factor")
	c.answered("DELETE", fmt.Sprintf("/api/v1/products/1/packs/%v", pack["id"]), "")

	list := c.answered("POST", "/api/v1/price-lists", `{"name":"Club","kind":"other list","list_id":1,"percent":"−10"}`)
	c.answered("PUT", fmt.Sprintf("/api/v1/price-lists/%v", list["id"]),
		`{"name":"Club","kind":"other list","list_id":1,"percent":"-20"}`)
	_, body = c.get("/api/v1/variants/1/price?quantity=3")
	assert.Contains(t, body, "27.96", "34.95 less 20 %")
	prices := c.answered("POST", "/api/v1/products/1/prices", `{"price":"30","from":"2031-01-01","variants":[]}`)
	assert.NotNil(t, prices["follow"])
	c.answered("POST", "/api/v1/products/1/prices/drop-later", `{}`)
	c.answered("PUT", "/api/v1/suppliers/1", `{"name":"Kelpline Textiles","markup":"60","ending":"none"}`)
	c.refused("PUT", "/api/v1/suppliers/1", `{"name":"Kelpline Textiles","markup":"60","ending":"9/1/2/3"}`, "ending")
	c.answered("POST", "/api/v1/tax-classes/1/rates", `{"percent":"22","from":"2031-01-01"}`)
	c.refused("POST", "/api/v1/tax-classes/1/rates", `{"percent":"220","from":"2031-01-01"}`, "percent")
	_, body = c.get("/prices")
	for _, want := range []string{"Club", "22 %", "to come"} {
		assert.Contains(t, body, want)
	}
	c.answered("DELETE", fmt.Sprintf("/api/v1/price-lists/%v", list["id"]), "")

	c.answered("PUT", "/api/v1/products/1",
		`{"name":"Rash vest","short_name":"Vest","category":"Swim","tracking":"counted","brand":"Breakwater Own","attributes":{"Material":"Nylon"},"suppliers":[{"supplier":"Kelpline Textiles","part":"KT-1180"}]}`)
	c.answered("POST", "/api/v1/values", `{"set":"Colour","values":[{"name":"Tide","swatch":"#2F6F8F"}]}`)
	status, _ = c.send("POST", "/api/v1/products/1/pictures?name=vest.png", "image/png", square(t))
	require.Less(t, status, 300)
	status, body = c.send("POST", "/api/v1/products/1/pictures?name=x.png", "image/png", "not a picture")
	assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	status, _ = c.send("POST", fmt.Sprintf("/api/v1/categories/%v/picture?name=tile.png", swim["id"]), "image/png",
		square(t))
	require.Less(t, status, 300)
	picture := fmt.Sprint(c.answered("GET", "/api/v1/products/1", "")["picture_id"])
	for _, small := range []string{"", "?small=1"} {
		status, body = c.get("/pictures/" + picture + small)
		assert.Equal(t, http.StatusOK, status)
		_, _, err := image.Decode(strings.NewReader(body))
		assert.NoError(t, err)
	}
	status, _ = c.get("/pictures/999")
	assert.Equal(t, http.StatusNotFound, status)
	c.answered("PATCH", "/api/v1/products/1/pictures/"+picture, `{"do":"drop"}`)

	c.answered("POST", "/api/v1/products/1/prices", `{"price":"34.95"}`)
	preview := c.answered("POST", "/api/v1/products/bulk",
		`{"products":[1],"what":"price_percent","to":"10","preview":true}`)
	assert.NotEmpty(t, preview["rows"])
	done := c.answered("POST", "/api/v1/products/bulk",
		`{"query":"q=rash","what":"brand","to":"Other","preview":false}`)
	assert.Equal(t, "Other", c.answered("GET", "/api/v1/products/1", "")["brand"])
	c.answered("POST", fmt.Sprintf("/api/v1/products/bulk/%v/undo", done["id"]), "")
	assert.Equal(t, "Breakwater Own", c.answered("GET", "/api/v1/products/1", "")["brand"])
	c.refused("POST", "/api/v1/products/bulk", `{"products":[1],"what":"weather","to":"10"}`, "what")
	c.refused("POST", "/api/v1/products/bulk", `{"products":[],"what":"brand","to":"x"}`, "products")

	c.answered("POST", "/api/v1/views", `{"name":"Vests","query":"q=vest"}`)
	_, body = c.get("/catalog")
	assert.Contains(t, body, `href="/catalog?q=vest"`)
	_, body = c.get("/catalog?q=vest&sort=-price")
	for _, link := range []string{`href="?q=vest&amp;sort=name"`, `href="/catalog/export?q=vest&amp;sort=-price"`,
		`href="?q=vest&amp;sort=-price&by=variant"`} {
		assert.Contains(t, body, link, "what is filtered stays filtered")
	}
	c.answered("DELETE", "/api/v1/views/1", "")
	opened := c.answered("POST", "/api/v1/opening-stock",
		`{"branch_id":1,"lines":[{"variant_id":1,"quantity":"4","cost":"13.95"}]}`)
	assert.NotEmpty(t, opened)
	next := c.answered("POST", "/api/v1/products/1/successor", `{"tracking":"lot","unit":"pc"}`)
	assert.Equal(t, "Rash vest", next["name"])
	assert.Contains(t, c.answered("GET", "/api/v1/settings", "")["currency"], "GBP")
	c.answered("PUT", "/api/v1/settings", `{"name":"Saltmarsh","scale_prefix":"28"}`)
	c.refused("PUT", "/api/v1/settings", `{"name":"","scale_prefix":""}`, "name")
	c.refused("PUT", "/api/v1/settings", `{"name":"S","scale_prefix":"20"}`, "scale_prefix")
	opens := c.answered("POST", "/api/v1/barcode-ranges", `{"name":"Winter","prefix":"21","first":1,"last":500}`)
	c.answered("PUT", fmt.Sprintf("/api/v1/barcode-ranges/%v", opens["id"]), `{"open":false}`)
	c.refused("POST", "/api/v1/barcode-ranges", `{"name":"Other","prefix":"50","first":1,"last":500}`, "prefix")
	s.InStep(t)
}

// TestTheRackAsItIsTyped draws the rack that a product would have.
func TestTheRackAsItIsTyped(t *testing.T) {
	s := testkit.New(t)
	c := manager(t, s)
	in := `{"name":"Rash vest","category":"Swim","tracking":"counted","tax_class_id":1,"price":"34.95","axes":[{"name":"Colour","text":"Coral, Slate"},{"name":"Size","text":"S, M"}],"left_out":[["Slate","S"]],"own_prices":[{"choice":["Coral","M"],"text":"36.95"}],"own_costs":[{"choice":["Coral","M"],"text":"14"}],"own_levels":[{"choice":["Coral","M"],"text":"7"}],"barcodes":[{"choice":["Coral","S"],"text":"4006381333931"}]}`
	for view, want := range map[string][]string{"made": {"3 variants", "RV-COR-S"}, "price": {"36.95", "34.95"},
		"cost": {"14"}, "level": {"7"}, "barcode": {"4006381333931"}} {
		status, body := c.json("POST", "/catalog/new/rack?view="+view, in)
		assert.Equal(t, http.StatusOK, status, view)
		for _, text := range want {
			assert.Contains(t, body, text, view)
		}
	}
	products, _, err := book.Documents(s.Store.Read(context.Background()), "", 1)
	require.NoError(t, err)
	assert.Empty(t, products)
	_, body := c.get("/api/v1/products")
	assert.Contains(t, body, `"items":`)
	assert.NotContains(t, body, "Rash vest", "a drawing keeps nothing")
	status, body := c.json("POST", "/catalog/new/rack",
		`{"name":"X","category":"Swim","tracking":"counted","price":"1.2.3"}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "not an amount")
}

// TestPagesOfAProduct opens what a product has, hung in every way.
func TestPagesOfAProduct(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "3", "13.955")
	facts := catalog.ProductFacts{
		NewProduct: catalog.NewProduct{
			Name:        "Tidewater rash vest",
			Category:    "Swim > Rash vests",
			Tracking:    "counted",
			Cost:        "13.955",
			Style:       "TWV",
			Attributes:  map[string]string{"Material": "Nylon"},
			Description: "Dries <fast>.",
		},
		Suppliers: []catalog.SupplierInput{{Supplier: "Kelpline Textiles", Part: "KT-1180"}},
	}
	_, err := catalog.SaveProduct(s.By(s.Maren), made.ID, facts)
	require.NoError(t, err)
	c := manager(t, s)
	for path, want := range map[string][]string{
		"/catalog/1": {"Tidewater rash vest", "price, with tax",
			"Dries &lt;fast&gt;."}, "/catalog/1?hang=available": {"Tidewater"}, "/catalog/1?hang=value": {"41.87"},
		"/catalog/1?hang=here": {"Coral"}, "/catalog/1?made=1": {"Labels"},
		"/catalog/1/edit": {`value="13.955"`, "KT-1180", "Nylon",
			"Take over"}, "/catalog/1/rack?set=barcode": {made.Variants[0].Barcode, "another of our own"},
		"/catalog/1/rack?set=sku":  {"TWV-COR-S"},
		"/catalog/1/labels?each=1": {"As many as are here"}, "/catalog/variants/1/tag": {"TWV-COR-S"},
		"/labels?variants=1,2,x": {"Tidewater"}, "/labels/kinds/roll-57x32": {"Design a label"},
		"/catalog/values": {"Coral"}, "/catalog/categories?at=1": {"Merge"}, "/catalog/categories?new=1": {"New category"},
	} {
		status, body := c.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		for _, text := range want {
			assert.Contains(t, body, text, path)
		}
	}
	for _, path := range []string{"/catalog/99", "/catalog/99/edit", "/catalog/99/rack", "/catalog/99/labels",
		"/catalog/variants/99/tag", "/catalog/import/99"} {
		status, _ := c.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	for query, want := range map[string]int{"": 1, "q=coral": 1, "q=nylon": 1, "q=kt-1180": 1, "value=Slate": 1,
		"value=Pink": 0, "attribute=Material%3DNylon": 1, "attribute=Material": 1, "attribute=Care": 0,
		"price_from=36&price_to=40": 1, "price_from=50": 0, "stock_from=1": 1, "stock_from=4": 0, "margin_from=40": 1,
		"margin_to=10":    0,
		"without=picture": 1, "without=barcode": 0, "without=price": 0, "is=under+cost": 0, "discontinued=yes": 0,
		"discontinued=no": 1, "tracking=lot": 0, "brand=X": 0, "category=1": 1, "supplier=1": 1, "is=low": 0} {
		for _, by := range []string{"", "variant"} {
			status, body := c.get("/catalog?fragment=1&by=" + by + "&" + query)
			assert.Equal(t, http.StatusOK, status, query)
			assert.Equal(t, want == 1, strings.Contains(body, "Tidewater rash vest"), "%s by %q", query, by)
		}
	}
	for _, bad := range []string{"price_from=x", "margin_to=1.2.3", "sort=weather"} {
		status, _ := c.get("/catalog?" + bad)
		assert.Equal(t, http.StatusUnprocessableEntity, status, bad)
	}
	for _, sort := range []string{"name", "created", "category", "supplier", "brand", "sku", "price", "on_hand",
		"for_sale", "value", "margin"} {
		for _, by := range []string{"", "variant"} {
			for _, way := range []string{"", "-"} {
				status, body := c.get("/catalog?fragment=1&by=" + by + "&sort=" + way + sort + "&q=vest")
				assert.Equal(t, http.StatusOK, status, sort)
				assert.Contains(t, body, "Tidewater", sort)
			}
		}
	}
	_, body := c.get("/catalog?q=tidewatr&fragment=1")
	assert.Contains(t, body, "These have")
	for _, path := range []string{"/catalog/export", "/catalog/export?format=xlsx",
		"/catalog/export?as=list&by=variant&columns=sku,price", "/catalog/export?as=list&format=xlsx"} {
		status, body := c.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		assert.True(t, strings.HasPrefix(body, "PK") == strings.Contains(path, "xlsx"), path)
	}
	_, body = c.get("/catalog/export?as=list&by=variant&columns=sku,price&sort=sku")
	assert.Contains(t, body, "Product,Variant,SKU,Price\r\nTidewater rash vest,Coral · L,TWV-COR-L,36.95")
}

// TestAnImportThroughTheAPI keeps a list, matches it, adds pictures, tries it and
// reads it in.
func TestAnImportThroughTheAPI(t *testing.T) {
	s := testkit.New(t)
	c := manager(t, s)
	status, body := c.send("POST", "/api/v1/imports?kind=catalog&name=hats.csv", "text/csv",
		"Hut;Price;Bild;Category\nDrift hat;12,95;hat.png;Swim\nSun hat;1.2.3;;Swim\n")
	require.Less(t, status, 300, body)
	var job struct {
		ID    uint64
		State string
		Made  int
		Heads []string `json:"heads"`
		Says  string
	}
	require.NoError(t, json.Unmarshal([]byte(body), &job))
	assert.Equal(t, []string{"Hut", "Price", "Bild", "Category"}, job.Heads)
	at := fmt.Sprintf("/api/v1/imports/%d", job.ID)
	c.refused("PUT", at+"/columns", `{"columns":["product"]}`, "columns")
	c.refused("PUT", at+"/columns", `{"columns":["product","product","",""]}`, "columns")
	c.answered("PUT", at+"/columns", `{"columns":["product","price","picture","category"]}`)
	var pack bytes.Buffer
	z := zip.NewWriter(&pack)
	w, err := z.Create("hat.png")
	require.NoError(t, err)
	_, err = w.Write([]byte(square(t)))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	status, body = c.send("POST", at+"/pictures", "application/zip", pack.String())
	require.Less(t, status, 300, body)
	status, _ = c.send("POST", at+"/pictures", "application/zip", "not a ZIP")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	wait := func(dry bool) {
		c.answered("POST", at+"/run", fmt.Sprintf(`{"dry_run":%v,"branch_id":1}`, dry))
		for range 200 {
			_, body = c.get(at)
			require.NoError(t, json.Unmarshal([]byte(body), &job))
			if job.State != "running" {
				return
			}
			time.Sleep(20 * time.Millisecond)
		}
		t.Fatal("the import did not end")
	}
	wait(true)
	assert.Equal(t, []any{"tried", 1}, []any{job.State, job.Made}, job.Says)
	_, body = c.get(at + "/rows?outcome=refused")
	assert.Contains(t, body, `"line":3`)
	_, body = c.get(fmt.Sprintf("/catalog/import/%d/refused", job.ID))
	assert.Contains(t, body, "Sun hat")
	assert.NotContains(t, body, "Drift hat")
	_, body = c.get(fmt.Sprintf("/catalog/import/%d", job.ID))
	assert.Contains(t, body, "hats.csv")
	_, body = c.get("/")
	assert.Contains(t, body, "Lists not read in")
	wait(false)
	assert.Equal(t, "refused", job.State, "one refused row keeps all out")
	_, body = c.get("/api/v1/products")
	assert.NotContains(t, body, "Drift hat")
	for _, kind := range []string{"catalog", "opening"} {
		for _, format := range []string{"csv", "xlsx"} {
			status, body := c.get("/catalog/import/template?kind=" + kind + "&format=" + format)
			assert.Equal(t, http.StatusOK, status)
			assert.NotEmpty(t, body)
		}
	}
	status, body = c.send("POST", "/api/v1/imports?kind=weather&name=x.csv", "text/csv", "a\n1\n")
	assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	status, body = c.send("POST", "/api/v1/imports?kind=catalog&name=x.pdf", "application/pdf", "%PDF-1.7")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "PDF")
}

// TestTheFirstStartPage sends everybody of an empty shop to its one page.
func TestTheFirstStartPage(t *testing.T) {
	s := testkit.Bare(t)
	c := newClient(t, s)
	for _, path := range []string{"/login", "/"} {
		status, _ := c.get(path)
		assert.Equal(t, http.StatusSeeOther, status, path)
	}
	status, body := c.get("/start")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "For good")
	form := `{"name":"Gull & Oar","currency":"EUR","branch":"Pier","register":"Till","shelf":"Floor","manager":"Maren Holt","login":"maren","password":"harbour-2026","zone":"Europe/Berlin","barcode_prefix":"21","without_tax":true,"taxes":[{"name":"Voll","percent":"19"}]}`
	c.refused("POST", "/start", strings.Replace(form, "EUR", "XXX", 1), "currency")
	status, body = c.json("POST", "/start", form)
	require.Less(t, status, 300, body)
	again := newClient(t, s)
	again.refused("POST", "/start", form, "name")
	again.signIn("maren")
	_, body = again.get("/settings")
	for _, want := range []string{"EUR", "without tax", "moving average", "Europe/Berlin", "21"} {
		assert.Contains(t, body, want)
	}
	status, _ = again.send("POST", "/logout", "application/x-www-form-urlencoded",
		url.Values{"_csrf": {again.csrf}}.Encode())
	assert.Equal(t, http.StatusSeeOther, status)
	status, _ = again.get("/settings")
	assert.Equal(t, http.StatusSeeOther, status, "signed out")
}

func TestTheRackOfANewProductIsDrawnInEveryView(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	c.signIn("maren")
	for _, view := range []string{"made", "price", "cost", "quantity", "worth", "lot", "expiry", "serials", "level",
		"barcode", "nonsense"} {
		for _, cost := range []string{"", "11.20", "99"} {
			status, body := c.json("POST", "/catalog/new/rack?view="+view,
				`{"name":"Ebb shorts","category":"Swim","tracking":"counted","unit":"piece",
				"price":"29.95","cost":"`+cost+`","axes":[{"name":"Size","text":"S-XL"}],
				"on_hand":{"each":"4","cells":[{"choice":["M"],"quantity":"7","worth":"22","lot":"K1","expiry":"2127-12-31","serials":"A, B"}]}}`)
			require.Equal(t, http.StatusOK, status, "%s at %s: %s", view, cost, body)
			want := map[string]string{"quantity": `value="7"`, "worth": `value="22"`, "lot": `value="K1"`,
				"serials": `value="A, B"`}[view]
			assert.Contains(t, body, want, view)
			if cost == "99" {
				assert.Contains(t, body, "under cost")
			}
		}
	}
}
