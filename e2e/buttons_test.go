package e2e

import (
	"context"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/price"
	"itemrack/shop/catalog"
	"itemrack/shop/office"
	shopprices "itemrack/shop/prices"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// press clicks the button with a text, twice in one go: a deed happens once.
func (p *person) press(selector, text string) {
	p.t.Helper()
	p.MustElementR(selector, text)
	p.MustEval(
		`(s, text) => { const b = [...document.querySelectorAll(s)].find((e) => e.innerText.includes(text)); b.click(); b.click(); }`,
		selector, text)
}

// pressed presses a button that brings the page anew.
func (p *person) pressed(selector, text string) {
	p.t.Helper()
	p.leave(func() { p.press(selector, text) })
}

// follows opens the link with a text, which may be drawn anew at any moment.
func (p *person) follows(selector, text string) {
	p.t.Helper()
	p.MustElementR(selector, text)
	p.leave(func() {
		p.MustEval(`(s, text) => [...document.querySelectorAll(s)].find((e) => e.innerText.includes(text)).click()`,
			selector, text)
	})
}

// product reads the first product as it stands.
func product(t *testing.T, s *testkit.Shop) goods.ProductView {
	t.Helper()
	v, err := goods.ReadProduct(s.Store.Read(context.Background()), 1, 1, s.Now())
	require.NoError(t, err)
	return v
}

func picture(t *testing.T, name string, c color.Color) string {
	t.Helper()
	drawn := image.NewNRGBA(image.Rect(0, 0, 50, 40))
	for i := range 50 * 40 {
		drawn.Set(i%50, i/50, c)
	}
	path := filepath.Join(t.TempDir(), name)
	file, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, png.Encode(file, drawn))
	require.NoError(t, file.Close())
	return path
}

// TestFactsAreChanged changes each thing on the page of a product's facts.
func TestFactsAreChanged(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/1/edit")
	p.fill("#name", "")
	p.ctrlEnter()
	assert.True(t, p.MustEval("() => document.querySelector('#name').matches(':invalid') || "+
		"document.querySelector('#name').getAttribute('aria-invalid') === 'true'").Bool())
	assert.Equal(t, "Tidewater rash vest", product(t, s).Name)
	p.fill("#name", "Tidewater vest")
	p.fill("#markup", "lots")
	p.ctrlEnter()
	p.sees("#facts [data-error]", "no percentage")
	p.sees("#name", "Tidewater vest")
	assert.Equal(t, "true", *p.MustElement("#markup").MustAttribute("aria-invalid"), "the field is marked")
	p.fill("#markup", "110")
	p.fill("#suppliers-of .pair:nth-child(1) [data-part]", "KT-1180")
	p.fill("#suppliers-of .pair:nth-child(2) [data-supplier]", "Oar & Thole")
	p.fill("#suppliers-of .pair:nth-child(2) [data-part]", "OT-7")
	p.fill("#attributes .pair:nth-child(1) [data-attribute]", "Material")
	p.fill("#attributes .pair:nth-child(1) [data-value]", "Nylon")
	p.fill("#attributes .pair:nth-child(2) [data-attribute]", "Care")
	p.fill("#attributes .pair:nth-child(2) [data-value]", "cold wash")
	p.fill("#description", "Dries fast.")
	p.leave(p.ctrlEnter)
	p.sees("h1", "Tidewater vest")
	v := product(t, s)
	assert.Equal(t, []string{"Tidewater vest", "110", "Dries fast."},
		[]string{v.Name, v.Markup.String(), v.Description})
	p.open("/catalog/1/edit")
	p.sees("#suppliers-of [data-part]", "OT-7")
	p.sees("#attributes [data-value]", "cold wash")

	// pictures
	text := filepath.Join(t.TempDir(), "not.png")
	require.NoError(t, os.WriteFile(text, []byte("words"), 0o600))
	p.MustElement("#picture").MustSetFiles(text)
	p.sees("#picture-error", "not a picture")
	p.leave(func() {
		p.MustElement("#picture").
			MustSetFiles(picture(t, "a.png", color.NRGBA{R: 200, A: 255}),
				picture(t, "b.png", color.NRGBA{B: 200, A: 255}))
	})
	assert.Len(t, p.MustElements("#pictures figure"), 2)
	lead := *product(t, s).PictureID
	p.pressed("#pictures button", "put first")
	assert.NotEqual(t, lead, *product(t, s).PictureID)
	p.pressed("#pictures button", "drop")
	assert.Len(t, p.MustElements("#pictures figure"), 1)

	// packs
	p.fill("#pack [name=name]", "box of 12")
	p.fill("#pack [name=factor]", "1")
	p.press("#pack button", "Add a pack")
	p.sees("#pack-error", "more than one")
	p.fill("#pack [name=factor]", "12")
	p.fill("#pack [name=price]", "380")
	p.fill("#pack [name=barcode]", "96385070")
	p.press("#pack button", "Add a pack")
	p.sees("#pack-error", "is 4, not 0")
	p.sees("#pack [name=price]", "380")
	p.fill("#pack [name=barcode]", "96385074")
	p.pressed("#pack button", "Add a pack")
	p.sees("main", "96385074")
	assert.Len(t, product(t, s).Packs, 1, "twice pressed, once made")
	p.pressed("[data-drop-pack]", "drop")
	assert.Empty(t, product(t, s).Packs)

	// once stock has moved, tracking stays and another product can take over
	s.Stock(t, made.Variants[0].ID, "2", "13.95")
	p.open("/catalog/1/edit")
	assert.True(t, p.MustElement("#tracking").MustProperty("disabled").Bool())
	p.MustElement(".quiet-box summary").MustClick()
	p.choose("#next-tracking", "lot")
	p.pressed("#succeed button", "Take over")
	p.sees("h1", "Tidewater vest")
	p.sees(".head", "lot")
	p.open("/catalog/1")
	p.sees("h1", "before")
	s.InStep(t)
}

// TestAProductIsDropped drops what never had stock, and can't what had.
func TestAProductIsDropped(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/1/edit")
	s.Stock(t, 1, "2", "13.95") // meanwhile
	p.press("#drop-product", "Drop")
	p.sees("#drop-error", "and not dropped")
	v := s.Simple(t, "Mistake", "counted", "1")
	require.NotZero(t, v)
	p.open("/catalog/2/edit")
	p.pressed("#drop-product", "Drop")
	p.sees("h1", "Catalog")
	p.sees("#rows", "Tidewater")
	assert.NotContains(t, p.text("#rows"), "Mistake")
}

// TestThePartsOfABundle scans a part in, changes how many and takes one out.
func TestThePartsOfABundle(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	board, leash := s.Simple(t, "Board", "counted", "549"), s.Simple(t, "Leash", "counted", "29")
	_, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Kit",
		Category: "Paddle",
		TaxClass: 1,
		Price:    "560",
		Parts:    []catalog.PartInput{{Variant: board, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	found, err := goods.ReadProduct(s.Store.Read(context.Background()), 2, 1, s.Now())
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/3/edit")
	p.scan(found.Variants[0].Barcode)
	p.sees("#part-rows", "Leash")
	p.fill("#part-rows tr:nth-child(2) input", "1.5")
	p.press("#parts button", "Save the parts")
	p.sees("#parts [data-error]", "whole number")
	p.fill("#part-rows tr:nth-child(2) input", "2")
	p.pressed("#parts button", "Save the parts")
	parts := func() map[uint64]string {
		kit, err := goods.ReadProduct(s.Store.Read(context.Background()), 3, 1, s.Now())
		require.NoError(t, err)
		all, err := goods.BundleParts(s.Store.Read(context.Background()), []uint64{kit.Variants[0].ID}, 1)
		require.NoError(t, err)
		list := map[uint64]string{}
		for _, part := range all[kit.Variants[0].ID] {
			list[part.Variant] = part.Quantity.String()
		}
		return list
	}
	assert.Equal(t, map[uint64]string{board: "1", leash: "2"}, parts())
	p.fill("#part-rows tr:nth-child(1) input", "0")
	p.pressed("#parts button", "Save the parts")
	assert.Equal(t, map[uint64]string{leash: "2"}, parts())
}

// TestTheRackIsChanged types SKUs, costs and levels into cells, gives and takes
// barcodes, and retires and drops values.
func TestTheRackIsChanged(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	set := func(figure, label, text string) {
		p.open("/catalog/1/rack?set=" + figure)
		p.fill(cell(label), text) // by a person: keys in a burst are a scanner's
		p.keys(input.Enter)
	}
	set("sku", "Coral · S", "TWV-COR-M")
	p.sees("#cells-error", "in use")
	set("sku", "Coral · S", "RASH-1")
	p.sees("#cells-done", "✓")
	set("cost", "Coral · S", "14.5.0")
	p.sees("#cells-error", "not an amount")
	set("cost", "Coral · S", "14.50")
	p.sees("#cells-done", "✓")
	set("restock_level", "Coral · S", "1.5")
	p.sees("#cells-error", "whole number")
	set("restock_level", "Coral · S", "7")
	p.sees("#cells-done", "✓")
	v := product(t, s).Variants[0]
	assert.Equal(t, []string{"RASH-1", "14.5", "7"}, []string{v.SKU, v.OwnCost.String(), v.RestockLevel.String()})

	p.open("/catalog/1/rack?set=barcode")
	p.focus(cell("Coral · S"))
	p.scan("4006381333931")
	p.sees("#cells-done", "has 4006381333931")
	p.scan("4006381333931") // the next cell is in focus now
	p.sees("#cells-error", "Coral · S")
	p.pressed("[data-own-code]", "another of our own")
	p.sees("main", "4006381333931")
	p.leave(func() { p.MustElement(`[data-drop-code="4006381333931"]`).MustClick() })
	found, err := goods.Find(s.Store.Read(context.Background()), "4006381333931", 2)
	require.NoError(t, err)
	assert.Empty(t, found)

	s.Stock(t, made.Variants[0].ID, "1", "14")
	p.open("/catalog/1/rack")
	p.MustElement(`[data-value="Coral"][data-do="drop"]`).MustClick()
	p.sees("#value-error", "retire")
	p.leave(func() { p.MustElement(`[data-value="Coral"][data-do="retire"]`).MustClick() })
	p.leave(func() { p.MustElement(`[data-value="Coral"][data-do="restore"]`).MustClick() })
	p.leave(func() { p.MustElement(`[data-value="Slate"][data-do="drop"]`).MustClick() })
	assert.Len(t, product(t, s).Variants, 3)

	p.fill("#price", "40")
	p.MustEval(`() => { document.querySelector('[name="from"]').value = "2031-01-01T09:00" }`)
	p.press("#prices button", "Set prices")
	p.sees("[data-done]", "✓")
	p.open("/catalog/1/rack?set=price")
	p.sees("main", "to come")
	p.pressed("#drop-later", "Take back")
	assert.Empty(t, p.MustElements("#drop-later"))
}

// TestCategoriesAreKept makes, moves, pictures, merges and drops categories.
func TestCategoriesAreKept(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/categories?new=1")
	p.fill("#name", "Shore")
	p.fill("#markup", "many")
	p.press("#category button", "Save")
	p.sees("#name", "Shore")
	p.sees("#category [data-error]", "no percentage")
	p.fill("#markup", "110")
	p.choose("#ending", "nearest")
	p.sees("#ending-end", "0.95")
	p.pressed("#category button", "Save")
	p.sees("table", "Shore")
	p.open("/catalog/categories?new=1")
	p.fill("#name", "shore")
	p.press("#category button", "Save")
	p.sees("#category [data-error]", "already")
	p.fill("#name", "Hats")
	p.choose("#parent_id", "Shore")
	p.pressed("#category button", "Save")
	p.sees("table", "from Shore")
	p.MustElement("#picture").MustSetFiles(filepath.Join("..", "README.md"))
	p.sees("#picture-error", "not a picture")
	p.leave(func() { p.MustElement("#picture").MustSetFiles(picture(t, "tile.png", color.NRGBA{G: 180, A: 255})) })
	assert.Len(t, p.MustElements("#category-picture img"), 1)
	p.leave(func() { p.MustElementR("table a", "Shore").MustClick() })
	p.choose("#parent_id", "Shore > Hats")
	p.press("#category button", "Save")
	p.sees("#category [data-error]", "below itself")
	p.leave(func() { p.MustElementR("table a", "Hats").MustClick() })
	p.choose("#into", "Swim > Rash vests")
	p.pressed("#merge button", "Merge into it")
	p.sees("h2", "Rash vests")
	p.leave(func() { p.MustElementR("table a", "Shore").MustClick() })
	p.pressed("#drop-category", "Drop")
	assert.NotContains(t, p.text("table"), "Shore")
}

// TestValuesAreKept adds, renames, recolours and drops values of a set.
func TestValuesAreKept(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/values")
	colours := `[data-set="Colour"] `
	p.fill(colours+"[data-add] input:nth-child(1)", "Tide")
	p.fill(colours+"[data-add] input:nth-child(2)", "blue")
	p.press(colours+"[data-add] button", "Add")
	p.sees("#form-error", "not a colour")
	p.sees(colours+"[data-add] input", "Tide")
	p.fill(colours+"[data-add] input:nth-child(2)", "#2F6F8F #F6F5F0 stripes")
	p.pressed(colours+"[data-add] button", "Add")
	p.sees(colours+"[data-name]", "Tide")
	first := colours + ".set-values li:nth-child(1) [data-name]"
	p.leave(func() { p.fill(first, "Reef"); p.keys(input.Tab) })
	assert.Equal(t, "Reef · S", product(t, s).Variants[0].Label)
	p.fill(first, "Slate")
	p.keys(input.Tab)
	p.sees("#form-error", "Slate")
	p.open("/catalog/values")
	p.MustElement(`[aria-label="drop Reef"]`).MustClick()
	p.sees("#form-error", "Products have this value")
	p.MustElement(`[aria-label="drop Tide"]`).MustClick()
	p.sees("#form-error", "")
	p.open("/catalog/values")
	assert.Empty(t, p.MustElements(`[aria-label="drop Tide"]`))
}

// TestPricesPage makes, changes and drops a list, sets a rate and takes it back,
// and gives a supplier its markup.
func TestPricesPage(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	lists := func() []price.List {
		all, err := prices.PriceLists(s.Store.Read(context.Background()))
		require.NoError(t, err)
		return all
	}
	p.open("/prices")
	p.fill("#list-name", "Club")
	p.choose("#list-kind", "another list ±")
	p.fill("#list-percent", "ten")
	p.press("#list button", "Save the list")
	p.sees("#form-error", "no percentage")
	p.fill("#list-percent", "−10")
	p.choose("#list-ending", "down to")
	p.fill("#list-ending-end", ".05")
	p.fill("#list-ending-step", "0")
	p.press("#list button", "Save the list")
	p.sees("#form-error", "step")
	p.fill("#list-ending-step", "1")
	p.pressed("#list button", "Save the list")
	p.sees("main", "Regular − 10 %")
	require.Len(t, lists(), 2)
	p.press("[data-edit-list]", "change")
	p.sees("#list-name", "Club")
	p.sees("#list-percent", "-10")
	p.sees("#list-ending-end", "0.05")
	p.fill("#list-percent", "-20")
	p.pressed("#list button", "Save the list")
	p.sees("main", "Regular − 20 %")
	require.Len(t, lists(), 2, "changed, not made again")
	p.pressed("[data-drop-list]", "drop")
	require.Len(t, lists(), 1)

	p.fill(`[data-rate="1"] [name=percent]`, "22")
	p.MustEval(`() => { document.querySelector('[data-rate="1"] [name=from]').value = "2020-01-01" }`)
	p.press(`[data-rate="1"] button`, "Set")
	p.sees("#form-error", "past")
	p.MustEval(`() => { document.querySelector('[data-rate="1"] [name=from]').value = "2031-01-01" }`)
	p.pressed(`[data-rate="1"] button`, "Set")
	p.sees(".tax-class", "22 %")
	p.pressed("[data-drop-rates]", "take back")
	assert.NotContains(t, p.text("main"), "22 %")
}

// TestSettingsPage changes the shop's name and its ranges of numbers.
func TestSettingsPage(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/settings")
	p.fill("#scale_prefix", "20")
	p.press("#settings button", "Save")
	p.sees("#form-error", "scale")
	p.fill("#scale_prefix", "28")
	p.fill("#name", "Saltmarsh & Sons")
	p.press("#settings button", "Save")
	p.sees("#said", "Saved")
	p.fill("#range [name=name]", "Winter")
	p.fill("#range [name=prefix]", "50")
	p.press("#range button", "Open this range")
	p.sees("#form-error", "somebody else")
	p.fill("#range [name=prefix]", "21")
	p.pressed("#range button", "Open this range")
	p.sees("table", "Winter")
	p.pressed("[data-range]", "close")
	p.sees(".gone", "Own numbers")
	made := s.Simple(t, "Whistle", "counted", "4")
	found, err := goods.Sellables(s.Store.Read(context.Background()), []uint64{made}, s.Now())
	require.NoError(t, err)
	assert.Regexp(t, "^21", found[made].Barcode, "the open one gives numbers out")
	p.open("/settings")
	p.sees("#name", "Saltmarsh & Sons")
	p.as("tobi")
	p.open("/settings")
	assert.True(t, p.MustElement("#settings button").MustProperty("disabled").Bool())
}

// TestTheListsTools chooses columns, ticks everything, filters under More and
// sorts by a head with the filter kept.
func TestTheListsTools(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	_, err := catalog.SaveCategory(s.By(s.Maren), 0,
		catalog.CategoryInput{Name: "Care", Markup: "100"})
	require.NoError(t, err)
	for _, name := range []string{"Wax", "Soap"} {
		_, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: name, Category: "Care", Tracking: "counted",
			TaxClass: 1, Cost: "2"})
		require.NoError(t, err)
	}
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog")
	p.MustElementR("summary", "Columns").MustClick()
	p.MustElement(`#columns [value="brand"]`).MustClick()
	p.leave(func() { p.MustElement("#set-columns").MustClick() })
	p.sees("thead", "Brand")
	p.choose("[name=category]", "Care")
	p.misses("#rows", "Tidewater")
	p.sees("#rows", "Wax")
	p.follows("thead a", "Price")
	p.sees("thead", "Brand")
	assert.NotContains(t, p.text("#rows"), "Tidewater", "sorted, and filtered still")
	p.MustElement("#tick-all").MustClick()
	p.sees("#ticked", "2")
	p.choose("#bulk-what", "Price ± %")
	p.fill("#bulk-to", "10")
	p.press("#bulk-preview", "Preview")
	p.sees("#bulk-result", "priced by a rule")
	p.choose("#bulk-what", "Markup %")
	p.fill("#bulk-to", "many")
	p.press("#bulk-preview", "Preview")
	p.sees("#bulk [data-error]", "no percentage")
	p.fill("#bulk-to", "150")
	p.press("#bulk-preview", "Preview")
	p.sees("#bulk-result", "150")
	p.press("#bulk-result button", "Change them")
	p.sees("#said", "2 products")
	p.open("/catalog")
	p.press("[data-undo]", "Undo it")
	p.sees("#bulk-result", "2 of 2")
	p.MustElementR("summary", "More").MustClick()
	p.fill("[name=value]", "Slate")
	p.sees("#rows", "Tidewater")
	p.fill("[name=price_from]", "1.2.3")
	p.sees("#said", "not a number")
}

// TestTheLabelsPage chooses labels by scan, by what is here and by hand, on part
// of a sheet and at another list's prices, and drops a kind of label.
func TestTheLabelsPage(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "3", "13.95")
	_, err := shopprices.SavePriceList(s.By(s.Maren), 0,
		shopprices.ListInput{Name: "Club", Kind: "fixed", Amount: "25"})
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("callum")
	p.open("/catalog/1/labels")
	p.press("#print", "Print")
	p.sees("#form-error", "label")
	p.MustElement("#pdf").MustClick()
	p.sees("#form-error", "No label is chosen")
	p.press("#as-here", "As many as are here")
	p.sees("#preview", "3 labels")
	p.fill("#skip", "54")
	p.keys(input.Tab)
	p.sees("#preview", "3 labels on 2 pages")
	p.fill("#skip", "55")
	p.keys(input.Tab)
	p.sees("#form-error", "55")
	p.fill("#skip", "0")
	p.keys(input.Tab)
	p.choose("#list", "Club")
	p.sees("#preview", "£25.00")
	p.press("#print", "Print")
	p.sees("#said", "3 labels printed")
	printed, err := office.Papers(context.Background(), s.Shop, 10)
	require.NoError(t, err)
	assert.Len(t, printed, 1, "twice pressed, once printed")

	p.open("/labels")
	p.sees("main", "scan here")
	p.scan(made.Variants[4].Barcode)
	p.sees("#preview", "1 label on 1 page")
	p.scan(made.Variants[4].Barcode)
	p.sees("#preview", "2 labels")
	p.scan("4006381333931")
	p.sees("#said", "not here")

	maren := sit(t, p.base, 1280, 800).as("maren")
	maren.open("/labels/kinds/roll-40x25")
	maren.choose("#add-kind", "text")
	maren.press("#add", "Add")
	maren.sees("#fields", "Words")
	maren.MustElement("#take-off").MustClick()
	maren.sees("#said", "taken off")
	maren.fill("#size [name=width]", "5")
	maren.sees("#form-error", "mm")
	maren.ctrlEnter()
	maren.sees("#form-error", "mm")
	maren.fill("#size [name=width]", "42")
	maren.fill("#size [name=name]", "Ours")
	maren.leave(maren.ctrlEnter)
	maren.open("/labels/kinds")
	maren.pressed("[data-drop-label]", "drop")
	assert.NotContains(t, maren.text("main"), "Ours")
}

// TestTheTabsOfANewProduct hangs prices, costs, levels and makers' barcodes on
// the rack of a product before it is made.
func TestTheTabsOfANewProduct(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/new")
	p.press("[form=new-product]", "Make it")
	assert.Contains(t, p.MustInfo().URL, "/catalog/new", "it has no name")
	p.fill("#name", "Drift hat")
	p.fill("#price", "12.95")
	p.fill("#category", "Swim > Hats")
	p.fill(`[data-values="0"]`, "Coral, Slate")
	p.sees("#rack", "2 variants")
	for tab, text := range map[string]string{"Cost": "5.10", "Restock level": "4"} {
		p.press(".maker [role=tab]", tab)
		p.sees(`.maker [aria-selected="true"]`, tab)
		p.fill(cell("Coral"), text)
		p.keys(input.Enter)
	}
	p.press(".maker [role=tab]", "Maker's barcodes")
	p.sees(`.maker [aria-selected="true"]`, "Maker's")
	p.focus(cell("Slate"))
	p.scan("4006381333932")
	p.sees("#form-error", "is 1, not 2")
	p.MustElement("#said .link").MustClick() // takes the scan back
	p.focus(cell("Slate"))
	p.scan("4006381333931")
	p.sees("#said", "has 4006381333931")
	p.leave(func() { p.press("[form=new-product]", "Make it") })
	p.sees("h1", "Drift hat")
	v := product(t, s)
	require.Len(t, v.Variants, 2)
	assert.Equal(t, []string{"5.1", "4", "4006381333931"},
		[]string{v.Variants[0].OwnCost.String(), v.Variants[0].RestockLevel.String(), v.Variants[1].Barcode})
	rows, _, err := goods.Products(s.Store.Read(context.Background()), goods.ListFilter{}, 1)
	require.NoError(t, err)
	assert.Len(t, rows, 1, "twice pressed, once made")
}

// TestABasketOnAnotherList puts a basket on a list and scans a pack.
func TestABasketOnAnotherList(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Energy bar", "counted", "1.60")
	s.Stock(t, v, "30", "0.98")
	_, err := catalog.SavePack(s.By(s.Maren), 1, 0,
		catalog.PackInput{Name: "box of 12", Factor: "12", Barcode: "96385074", Price: "17.40"})
	require.NoError(t, err)
	_, err = shopprices.SavePriceList(s.By(s.Maren), 0,
		shopprices.ListInput{Name: "Club", Kind: "other list", Base: price.Regular, Percent: "-50"})
	require.NoError(t, err)
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/register/1")
	p.scan("96385074")
	p.sees("#total", "£17.40")
	p.sees(".line", "box of 12")
	p.press("[data-show=basket]", "More")
	p.choose("#price-list", "Club")
	p.sees(".pin-dialog", "needs a yes")
	p.fill(".pin-dialog [name=pin]", testkit.PIN)
	p.press(".pin-dialog button", "Say yes")
	p.sees("#total", "£8.70")
	p.press("[data-show=basket]", "More")
	p.choose("#price-list", "Regular")
	p.sees("#total", "£17.40")
	p.keys(input.F8)
	p.types("20")
	p.leave(func() { p.keys(input.Enter) })
	p.sees(".change", "£2.60")
	held, err := goods.ReadProduct(s.Store.Read(context.Background()), 1, 1, s.Now())
	require.NoError(t, err)
	assert.Equal(t, "18", held.Variants[0].ForSale.String())
	s.InStep(t)
}
