package e2e

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// counter counts what a person presses; a chord is as many presses as it has keys.
type counter struct {
	*person
	presses int
}

func (c *counter) types(text string) {
	c.presses += len(text)
	c.person.types(text)
}

func (c *counter) keys(keys ...input.Key) {
	c.presses += len(keys)
	c.person.keys(keys...)
}

// presses45 is the most that a season's style may take; README states it.
const presses45 = 45

// TestASeasonsStyleByKeyboard makes 4 colours × 6 sizes without the mouse, from
// the empty form to the labels on screen, and counts the keys.
func TestASeasonsStyleByKeyboard(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	_, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Last season's vest",
		Category: "Swim > Rash vests",
		Supplier: "Kelpline Textiles",
		TaxClass: 1,
		Tracking: "counted",
		Price:    "20",
		Axes: []catalog.AxisInput{{Name: "Colour", Text: "Coral, Slate, Kelp, Sand"},
			{Name: "Size", Text: "XS-XXL"}},
	},
	)
	require.NoError(t, err)
	p := &counter{person: sit(t, serve(t, s), 1280, 800).as("maren")}
	p.open("/catalog")
	// the last product's category and supplier are offered again
	p.MustEval(
		`() => localStorage.setItem("last-product", JSON.stringify({ category: "Swim > Rash vests", supplier: "Kelpline Textiles" }))`)
	p.leave(func() { p.person.keys('n') })
	p.types("Breeze vest")
	p.keys(input.Tab)
	p.types("34.95")
	p.keys(input.Tab, input.Tab, input.Tab, input.Tab, input.Tab) // category, supplier, cost and more facts stay
	p.types("co,sl,ke,sa")
	p.keys(input.Tab)
	p.types("xs-xxl")
	p.sees("#rack", "24 variants")
	p.presses += 2
	p.leave(func() { p.KeyActions().Press(input.ControlLeft).Type(input.ArrowDown).MustDo() })
	p.sees("h1", "Labels")
	p.sees("#preview", "24 labels")
	assert.LessOrEqual(t, p.presses, presses45)
	t.Logf("%d presses", p.presses)
	found, err := goods.ReadProduct(s.Store.Read(context.Background()), 2, 1, s.Now())
	require.NoError(t, err)
	require.Len(t, found.Variants, 24)
	assert.Equal(t, []string{"Coral · XS", "Sand · XXL"}, []string{found.Variants[0].Label, found.Variants[23].Label})
	assert.Equal(t, "Kelpline Textiles", found.Supplier)
	p.accessible()
	shown, err := os.ReadFile("../README.md")
	require.NoError(t, err)
	assert.Contains(t, string(shown), fmt.Sprintf("%d key presses", p.presses), "README states the figure")
}

// TestAListIsReadInOnThePage drops a stock list with a mistake, mends it, adds
// pictures and reads it in.
func TestAListIsReadInOnThePage(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	folder := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(folder, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	p.open("/catalog/import")
	p.MustElement("#file").MustSetFiles(file("broken.csv", "product,price\n\"never closed,1\n"))
	p.sees("#form-error", "quote")
	list := "Artikel;product;Farbe;size;category;supplier;price;cost;opening quantity;picture\n"
	good := list + "1;Drift hat;Coral;S;Swim > Hats;Oar & Thole;12,95;5,10;4;hat.png\n2;Drift hat;Coral;M;Swim > " +
		"Hats;Oar & Thole;12,95;5,10;2;hat.png\n"
	bad := strings.Replace(good, "Coral;M;Swim > Hats;Oar & Thole;12,95", "Coral;M;Swim > Hats;Oar & Thole;1e9", 1)
	p.leave(func() { p.MustElement("#file").MustSetFiles(file("hats.csv", bad)) })
	p.sees("h1", "hats.csv")
	p.accessible()
	match := p.MustElement(`[aria-label="Column Farbe is"]`)
	match.MustSelect("colour")
	p.MustElement("#try").MustClick()
	p.sees("#state", "tried")
	p.sees("#result", "line 3")
	p.sees("#result", "price:")
	assert.True(t, p.MustElement("#run").MustProperty("disabled").Bool(), "a refused row stops the whole")
	p.accessible()
	// again, as a mended file: the matching is remembered
	p.open("/catalog/import")
	p.leave(func() { p.MustElement("#file").MustSetFiles(file("hats2.csv", good)) })
	assert.Equal(t, "colour", p.MustElement(`[aria-label="Column Farbe is"]`).MustProperty("value").Str())
	var pack bytes.Buffer
	z := zip.NewWriter(&pack)
	w, err := z.Create("pictures/hat.png")
	require.NoError(t, err)
	require.NoError(t, png.Encode(w, image.NewNRGBA(image.Rect(0, 0, 40, 40))))
	require.NoError(t, z.Close())
	p.MustElement("#pictures").MustSetFiles(file("pictures.zip", pack.String()))
	p.sees("#picture-count", "1 picture")
	p.MustElement("#run").MustClick()
	p.sees("#state", "read in, opening stock as OS-0001")
	p.sees("#outcomes", "Made 2")
	p.leave(func() { p.MustElement("#import-labels").MustClick() })
	p.sees("#preview", "2 labels")
	p.open("/catalog?q=drift")
	p.leave(func() { p.MustElementR("#rows a", "Drift hat").MustClick() })
	assert.Len(t, p.MustElements("img.head-picture"), 1)
	_, number, _ := strings.Cut(strings.Split(p.MustInfo().URL, "?")[0], "/catalog/")
	id, err := strconv.ParseUint(number, 10, 64)
	require.NoError(t, err)
	found, err := goods.ReadProduct(s.Store.Read(context.Background()), id, 1, s.Now())
	require.NoError(t, err)
	require.Len(t, found.Variants, 2)
	assert.Equal(t, []string{"12.95", "4"},
		[]string{found.Variants[0].Price.StringFixed(2), found.Variants[0].ForSale.String()})
	p.open("/catalog/import")
	p.sees("table", "hats2.csv")
	p.open("/")
	p.sees("main", "hats.csv tried 1 refused")
	s.InStep(t)
}

// TestQuickEntry adds two things by keyboard, the price made by the rule.
func TestQuickEntry(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	_, err := catalog.SaveCategory(s.By(s.Maren), 0,
		catalog.CategoryInput{Name: "Care", Markup: "110"})
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog")
	p.leave(func() { p.keys('q') })
	for i, name := range []string{"Wax block", "Repair patch"} {
		p.types(name)
		p.keys(input.Tab)
		p.types("P" + itoa(uint64(i)))
		p.keys(input.Tab)
		p.types("6.00")
		p.keys(input.Tab, input.Tab, input.Tab)
		if i == 0 {
			p.types("Care")
		}
		p.sees("#quick-price", "15.12 by")
		p.sees("#quick-price", "markup 110")
		p.sees("#quick-price", "margin 52.4")
		p.keys(input.Enter)
		p.sees("#added", name)
		assert.Equal(t, "name", p.MustEval("() => document.activeElement.name").Str())
	}
	p.accessible()
	p.types("Wax block")
	p.keys(input.Tab, input.Tab)
	p.types("6..1")
	p.sees("#quick-price", "not an amount")
	p.keys(input.Enter)
	p.sees("#form-error", "not an amount")
	assert.Equal(t, "Wax block", p.MustElement("[name=name]").MustProperty("value").Str(), "nothing typed is lost")
	p.leave(func() { p.MustElement("#quick-labels").MustClick() })
	p.sees("#wanted", "Repair patch")
	p.accessible()
}

// TestBulkEditOnTheList ticks by key, previews, changes and takes it back.
func TestBulkEditOnTheList(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	s.Simple(t, "Whistle", "counted", "4.00")
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog")
	p.keys('j', input.Space, 'j', input.Space)
	p.sees("#ticked", "2")
	p.choose("#bulk-what", "Brand")
	p.fill("#bulk-to", "Breakwater Own")
	p.MustElement("#bulk-preview").MustClick()
	p.sees("#bulk-result", "Breakwater Own")
	p.accessible()
	p.MustElementR("#bulk-result button", "Change them").MustClick()
	p.sees("#said", "2")
	brand := func() string {
		v, err := goods.ReadProduct(s.Store.Read(context.Background()), 1, 1, s.Now())
		require.NoError(t, err)
		return v.Brand
	}
	assert.Equal(t, "Breakwater Own", brand())
	p.MustElement("#said .link").MustClick()
	p.sees("#bulk-result h2", "2 of 2 changes are undone")
	assert.Equal(t, "", brand())
	// found with a slip of the fingers, saved as a view
	p.open("/catalog")
	p.keys('w')
	p.types("tidewatr")
	p.sees("#rows", "These have “tidewater”")
	p.keys(input.ArrowDown)
	p.sees("#tag-body", "Tidewater rash vest")
	p.MustElementR("summary", "Views").MustClick()
	p.fill("#view-name", "Vests")
	p.leave(func() { p.MustElement("#save-view").MustClick() })
	p.MustElementR("summary", "Views").MustClick()
	p.leave(func() { p.MustElementR("#views a", "Vests").MustClick() })
	p.sees("#rows", "Tidewater rash vest")
}

// TestTheDesigner moves a field by key and by mouse, is told what is wrong, and
// keeps the label as one of the shop's own.
func TestTheDesigner(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/labels/kinds/roll-57x32")
	p.sees("#fields", "barcode")
	at := func() string { return p.MustElement(`#boxes [data-field="0"]`).MustProperty("ariaLabel").Str() }
	before := at()
	p.focus(`#boxes [data-field="0"]`)
	p.keys(input.ArrowDown, input.ArrowRight)
	assert.NotEqual(t, before, at())
	p.MustElementR("#fields button", "barcode").MustClick()
	p.fill(`#field [name="w"]`, "12")
	p.sees("#remarks", "barcode")
	p.sees("#remarks", "▾")
	p.accessible()
	p.fill(`#field [name="w"]`, "40")
	p.fill(`#size [name="name"]`, "Our rail label")
	p.leave(p.ctrlEnter)
	assert.Equal(t, "Our rail label",
		p.MustEval("() => document.querySelector('#template').selectedOptions[0].text").Str())
	p.open("/labels/kinds")
	p.sees("main", "Our rail label")
	p.open("/catalog/1/labels")
	p.choose("#template", "Our rail label")
	p.focus(cell("Coral · M"))
	p.types("2")
	p.keys(input.Enter)
	p.sees("#preview", "2 labels")
	readLabels(t, p, []string{made.Variants[1].Barcode, made.Variants[1].Barcode})
}

// TestTheFirstStart opens an empty shop on its one page and sells in it.
func TestTheFirstStart(t *testing.T) {
	t.Parallel()
	s := testkit.Bare(t)
	p := sit(t, serve(t, s), 1280, 800)
	p.open("/")
	p.sees("h1", "Open the shop")
	p.accessible()
	p.fits()
	p.types("Gull & Oar")
	p.fill("#branch", "Pier")
	p.fill("#manager", "Maren Holt")
	p.fill("#login", "maren")
	p.fill("#password", "short")
	p.MustElement("form .big-act").MustClick()
	p.fill("#password", testkit.Password)
	p.fill("#zone", "Nowhere/Land")
	p.MustElement("form .big-act").MustClick()
	p.sees("#form-error", "time zone")
	p.sees("#branch", "Pier")
	p.fill("#zone", "Europe/London")
	p.leave(func() { p.MustElement("form .big-act").MustClick() })
	p.sees("h1", "Today") // signed in already
	p.open("/settings")
	p.sees("main", "GBP")
	p.sees("main", "moving average")
	p.accessible()
	p.open("/start")
	p.sees("main", "Sign in to your shop")
	p.open("/register")
	p.sees("main", "Register 1")
}

// TestCatalogPagesAreAccessible opens each page of the catalog, in both themes.
func TestCatalogPagesAreAccessible(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	ctx := context.Background()
	_, err := catalog.SavePack(deed.By(ctx, s.Shop, s.Maren, ""), 1, 0,
		catalog.PackInput{Name: "box of 12", Factor: "12", Variant: made.Variants[0].ID, Price: "300"})
	require.NoError(t, err)
	list, err := lists.BeginImport(deed.By(ctx, s.Shop, s.Maren, ""), lists.ImportCatalog, "list.csv",
		strings.NewReader("product,price\nRope,4\nRope,x\n"))
	require.NoError(t, err)
	pages := []string{"/catalog", "/catalog?q=none", "/catalog?by=variant&columns=sku,barcode,price,margin,available",
		"/catalog?q=tidewatr", "/catalog/new", "/catalog/quick", "/catalog/categories", "/catalog/categories?at=1",
		"/catalog/values", "/catalog/import", "/catalog/import?kind=opening", "/catalog/import/" + itoa(list.ID),
		"/catalog/1?variant=2", "/catalog/1?hang=price", "/catalog/1/edit", "/catalog/1/labels", "/labels?variants=1,2",
		"/labels/kinds", "/labels/kinds/tag-a4", "/prices", "/settings"}
	for _, figure := range []string{"price", "cost", "restock_level", "sku", "barcode"} {
		pages = append(pages, "/catalog/1/rack?set="+figure)
	}
	everyPage(t, serve(t, s), pages)
}
