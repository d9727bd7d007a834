package catalog_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/shop/catalog"
	"itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
	"itemrack/store/lists"
	"itemrack/store/till"
)

func TestProductsTakeOverFromCategoryAndSupplier(t *testing.T) {
	s := testkit.New(t)
	swim, err := catalog.SaveCategory(s.By(s.Maren), 0,
		catalog.CategoryInput{Name: "Swim", TaxClass: 1, Restock: "4"})
	require.NoError(t, err)
	vests, err := catalog.SaveCategory(s.By(s.Maren), 0,
		catalog.CategoryInput{Parent: swim.ID, Name: "Rash vests", Markup: "110", Ending: "1/0.95/nearest"})
	require.NoError(t, err)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Tidewater rash vest",
		Category: "rash",
		Supplier: "Kelpline Textiles",
		Tracking: "counted",
		Cost:     "13.95",
	},
	)
	require.NoError(t, err)
	p := s.View(t, made.ID)
	assert.Equal(t, "Swim > Rash vests", p.Category.Path, "the first letters were enough")
	assert.Equal(t, []any{"34.95", price.ByRule, "Rash vests"},
		[]any{p.Variants[0].Price.StringFixed(2), p.Variants[0].PriceSource, p.Settled.MarkupFrom})
	assert.Equal(t, []any{"Standard", "Swim", "4"},
		[]any{p.TaxClass.Name, p.Settled.TaxFrom, p.Variants[0].RestockLevel.String()})

	// the category changes, and what follows it with it
	_, err = catalog.SaveCategory(s.By(s.Maren), vests.ID,
		catalog.CategoryInput{Parent: swim.ID, Name: "Rash vests", Markup: "50", TaxClass: 3, Restock: "2"})
	require.NoError(t, err)
	p = s.View(t, made.ID)
	assert.Equal(t, []any{"20.93", "Zero", "2"},
		[]any{p.Variants[0].Price.StringFixed(2), p.TaxClass.Name, p.Variants[0].RestockLevel.String()})
	rows, _, err := goods.Variants(s.Store.Read(ctx), goods.ListFilter{Words: "tidewater"}, 1)
	require.NoError(t, err)
	assert.Equal(t, "20.93", rows[0].Price.StringFixed(2), "lists see it, too")

	// moving takes what lies below along; a tree can't lie below itself
	shore, err := catalog.SaveCategory(s.By(s.Maren), 0, catalog.CategoryInput{Name: "Shore", TaxClass: 2})
	require.NoError(t, err)
	_, err = catalog.SaveCategory(s.By(s.Maren), swim.ID,
		catalog.CategoryInput{Parent: shore.ID, Name: "Swim"})
	require.NoError(t, err)
	assert.Equal(t, "Shore > Swim > Rash vests", s.View(t, made.ID).Category.Path)
	_, err = catalog.SaveCategory(s.By(s.Maren), shore.ID,
		catalog.CategoryInput{Parent: vests.ID, Name: "Shore"})
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = catalog.MergeCategory(s.By(s.Maren), swim.ID, shore.ID)
	assert.True(t, fault.Is(err, fault.Refused), "something lies below it")
	_, err = catalog.MergeCategory(s.By(s.Maren), vests.ID, swim.ID)
	require.NoError(t, err)
	assert.Equal(t, "Shore > Swim", s.View(t, made.ID).Category.Path)
	_, err = catalog.DropCategory(s.By(s.Maren), swim.ID)
	assert.True(t, fault.Is(err, fault.Refused))
	for _, bad := range []catalog.CategoryInput{{Name: " > "}, {Name: "x", Markup: "-1"}, {Name: "x", Ending: "1"},
		{Name: "x", TaxClass: 99}, {Name: "x", Parent: 99}, {Name: "Shore"}} {
		_, err = catalog.SaveCategory(s.By(s.Maren), 0, bad)
		assert.Error(t, err, "%+v", bad)
	}
}

func TestValuesAreSharedAndRenamedEverywhere(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "5", "10")
	s.Open(t, 1)
	sold := s.Sold(t, made.Variants[0].ID, "1")
	second, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Tide tee",
		Category: "Swim",
		TaxClass: 1,
		Tracking: "counted",
		Price:    "19.95",
		Axes:     []catalog.AxisInput{{Name: "Colour", Text: "co sl, Navy"}, {Name: "Size", Text: "xs-l"}},
	},
	)
	require.NoError(t, err)
	assert.Len(t, second.Variants, 12)
	p := s.View(t, second.ID)
	assert.Equal(t, "#D9604C", p.Axes[0].Values[0].Swatch, "the set knows it")
	assert.Equal(t, "#24364F", p.Axes[0].Values[2].Swatch, "the usual one of its name")
	_, values, err := goods.ValueSets(s.Store.Read(ctx))
	require.NoError(t, err)
	var coral goods.Value
	for _, list := range values {
		for _, v := range list {
			if v.Name == "Coral" {
				coral = v
			}
		}
	}
	shown := revision.Of(coral)
	saved, err := catalog.RenameValue(s.By(s.Maren), coral.ID,
		catalog.ValueInSet{Name: "Sunset", Swatch: "#D9604C #54646F stripes", Revision: shown})
	require.NoError(t, err)
	_, err = catalog.RenameValue(s.By(s.Maren), coral.ID,
		catalog.ValueInSet{Name: "Coral red", Revision: shown})
	require.True(t, fault.Is(err, fault.Conflict))
	assert.Equal(t, "revision", fault.Of(err).Field)
	_, err = catalog.RenameValue(s.By(s.Maren), coral.ID,
		catalog.ValueInSet{Name: "Sunset", Swatch: "#D9604C #54646F stripes", Revision: saved.Revision})
	require.NoError(t, err, "whoever saw the last one goes on")
	_, err = catalog.RenameValue(s.By(s.Maren), 9999, catalog.ValueInSet{Name: "Nothing"})
	assert.True(t, fault.Is(err, fault.NotFound))
	assert.Equal(t, "Sunset · S", s.View(t, made.ID).Variants[0].Label)
	assert.Equal(t, "Sunset · XS", s.View(t, second.ID).Variants[0].Label)
	found, err := goods.Find(s.Store.Read(ctx), made.Variants[0].Barcode, 5)
	require.NoError(t, err)
	require.Len(t, found, 1, "old labels scan")
	assert.Equal(t, "Sunset · S", found[0].Detail)
	receipt, err := till.SaleByNumber(s.Store.Read(ctx), sold.Number)
	require.NoError(t, err)
	assert.Equal(t, "Coral · S", receipt.Lines[0].Detail, "old receipts keep the old name")
	found, err = goods.Find(s.Store.Read(ctx), "sunset tee", 5)
	require.NoError(t, err)
	require.Len(t, found, 1)
	_, err = catalog.RenameValue(s.By(s.Maren), coral.ID, catalog.ValueInSet{Name: "Slate"})
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = catalog.DropValue(s.By(s.Maren), coral.ID)
	assert.True(t, fault.Is(err, fault.Refused))

	// one with stock or sales is retired, and not dropped
	_, err = catalog.ChangeValue(s.By(s.Maren), made.ID,
		catalog.ValueChange{Axis: "Colour", Value: "Sunset", Do: "drop"})
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = catalog.ChangeValue(s.By(s.Maren), made.ID,
		catalog.ValueChange{Axis: "Colour", Value: "Sunset", Do: "retire"})
	require.NoError(t, err)
	assert.True(t, s.View(t, made.ID).Variants[0].Retired)
	s.Sold(t, made.Variants[0].ID, "1")
	done, err := catalog.ChangeValue(s.By(s.Maren), made.ID,
		catalog.ValueChange{Axis: "Colour", Value: "Slate", Do: "drop"})
	require.NoError(t, err)
	assert.Contains(t, done.Says, "3 variants")
	assert.Len(t, s.View(t, made.ID).Variants, 3)
	_, err = catalog.ChangeValue(s.By(s.Maren), made.ID,
		catalog.ValueChange{Axis: "Colour", Value: "Sunset", Do: "drop"})
	assert.Error(t, err, "nothing would be left")
	s.InStep(t)
}

func TestFactsOfAProduct(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "2", "13.95")
	facts := catalog.ProductFacts{
		NewProduct: catalog.NewProduct{
			Name:        "Tidewater vest",
			ShortName:   "Vest",
			Category:    "Swim > Rash vests",
			Brand:       "Kelpline",
			Tracking:    "counted",
			Content:     "200 ml",
			Description: "Dries fast.",
			Restock:     "3",
			Attributes:  map[string]string{"Material": "Nylon", "Care": ""},
		},
		Discontinued: true,
		Suppliers: []catalog.SupplierInput{{Supplier: "Oar & Thole", Part: "OT-7"},
			{Supplier: "Kelpline Textiles", Part: "KT-1180"}, {}},
	}
	_, err := catalog.SaveProduct(s.By(s.Maren), made.ID, facts)
	require.NoError(t, err)
	p := s.View(t, made.ID)
	assert.Equal(t, []any{"Tidewater vest", "Oar & Thole", true, "ml", "3"},
		[]any{p.Name, p.Supplier, p.Discontinued, p.Measure, p.Variants[0].RestockLevel.String()})
	for words, want := range map[string]int{"kt-1180": 1, "nylon": 1, "kelpline vest": 1, "tidewatre": 1, "velvet": 0} {
		found, err := goods.Find(s.Store.Read(ctx), words, 5)
		require.NoError(t, err)
		assert.Len(t, found, want, words)
	}
	facts.Tracking = "lot"
	_, err = catalog.SaveProduct(s.By(s.Maren), made.ID, facts)
	assert.Equal(t, "tracking", fault.Of(err).Field)
	assert.Contains(t, err.Error(), "take over its name")
	next, err := catalog.Succeed(s.By(s.Maren), made.ID, catalog.Successor{Tracking: "lot"})
	require.NoError(t, err)
	assert.Equal(t, "Tidewater vest", next.Name)
	found, err := goods.Find(s.Store.Read(ctx), made.Variants[0].Barcode, 5)
	require.NoError(t, err)
	assert.Equal(t, next.Variants[0].ID, found[0].ID, "the barcodes went along")
	assert.Equal(t, "34.95", s.View(t, next.ID).Variants[0].Price.StringFixed(2))
	assert.Contains(t, s.View(t, made.ID).Name, "before")
	for _, bad := range []catalog.ProductFacts{{NewProduct: catalog.NewProduct{Name: "", Category: "x",
		Tracking: "counted"}}, {NewProduct: catalog.NewProduct{Name: "x", Category: "", Tracking: "counted"}},
		{NewProduct: catalog.NewProduct{Name: "x", Category: "x", Tracking: "counted",
			Content: "2 miles"}}, {NewProduct: catalog.NewProduct{Name: "x", Category: "x", Tracking: "counted"},
			Suppliers: []catalog.SupplierInput{{Supplier: "A"}, {Supplier: "a"}}}} {
		_, err := catalog.SaveProduct(s.By(s.Maren), next.ID, bad)
		assert.Error(t, err, "%+v", bad)
	}
	_, err = catalog.DropProduct(s.By(s.Maren), made.ID)
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = catalog.DropProduct(s.By(s.Maren), next.ID)
	require.NoError(t, err)
	s.InStep(t)
}

func TestCellsAndBarcodes(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	first, second := made.Variants[0], made.Variants[1]
	_, err := catalog.ChangeCells(s.By(s.Maren), made.ID,
		catalog.CellChange{
			Figure: "restock_level",
			Cells:  []catalog.CellTyped{{Variant: first.ID, Text: "4"}, {Variant: second.ID, Text: "x"}},
		},
	)
	assert.Error(t, err)
	assert.Nil(t, s.View(t, made.ID).Variants[0].RestockLevel, "all or none")
	for figure, text := range map[string]string{"restock_level": "4", "cost": "13.95", "sku": "tw-1",
		"retired": "yes"} {
		_, err := catalog.ChangeCells(s.By(s.Maren), made.ID,
			catalog.CellChange{Figure: figure, Cells: []catalog.CellTyped{{Variant: first.ID, Text: text}}})
		require.NoError(t, err, figure)
	}
	v := s.View(t, made.ID).Variants[0]
	assert.Equal(t, []any{"4", "13.95", "TW-1", true},
		[]any{v.RestockLevel.String(), v.OwnCost.String(), v.SKU, v.Retired})
	_, err = catalog.ChangeCells(s.By(s.Maren), made.ID,
		catalog.CellChange{Figure: "sku", Cells: []catalog.CellTyped{{Variant: second.ID, Text: "TW-1"}}})
	assert.True(t, fault.Is(err, fault.Conflict))
	got, err := catalog.AddBarcode(s.By(s.Maren), first.ID, catalog.BarcodeInput{Code: "012345678905"})
	require.NoError(t, err)
	assert.Equal(t, "012345678905", got.Barcode)
	_, err = catalog.AddBarcode(s.By(s.Maren), second.ID, catalog.BarcodeInput{Code: "0012345678905"})
	assert.ErrorContains(t, err, "belongs to Tidewater rash vest, Coral · S")
	_, err = catalog.AddBarcode(s.By(s.Maren), second.ID, catalog.BarcodeInput{Code: "200000000001"})
	assert.ErrorContains(t, err, "check digit")
	own, err := catalog.AddBarcode(s.By(s.Maren), second.ID, catalog.BarcodeInput{})
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(own.Barcode, "20"))
	_, err = catalog.DropBarcode(s.By(s.Maren), first.ID, "012345678905")
	require.NoError(t, err)
	_, err = catalog.DropBarcode(s.By(s.Maren), first.ID, own.Barcode)
	assert.True(t, fault.Is(err, fault.NotFound))
	made2, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Tee",
		Category: "Swim",
		TaxClass: 1,
		Tracking: "counted",
		Price:    "1",
		Axes:     []catalog.AxisInput{{Name: "Size", Text: "s,m"}},
		Barcodes: []catalog.CellText{{Choice: []string{"S"}, Text: "96385074"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, []string{"96385074", "20"}, []string{made2.Variants[0].Barcode, made2.Variants[1].Barcode[:2]})
}

func TestRangesOfOwnNumbers(t *testing.T) {
	s := testkit.New(t)
	ranges, err := goods.BarcodeRanges(s.Store.Read(ctx))
	require.NoError(t, err)
	small, err := office.AddRange(s.By(s.Maren), office.RangeInput{Name: "Winter", Prefix: "21", First: 5, Last: 7})
	require.NoError(t, err)
	_, err = office.SwitchRange(s.By(s.Maren), ranges[0].ID, false)
	require.NoError(t, err)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Cap",
		Category: "Swim",
		TaxClass: 1,
		Tracking: "counted",
		Price:    "5",
		Axes:     []catalog.AxisInput{{Name: "Colour", Text: "Red, Blue"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, []string{"2100000000050", "2100000000067"},
		[]string{made.Variants[0].Barcode, made.Variants[1].Barcode})
	_, err = catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Hat",
		Category: "Swim",
		TaxClass: 1,
		Tracking: "counted",
		Price:    "5",
		Axes:     []catalog.AxisInput{{Name: "Colour", Text: "Red, Blue"}},
	},
	)
	assert.ErrorContains(t, err, "given out")
	_, err = office.SwitchRange(s.By(s.Maren), ranges[0].ID, true)
	require.NoError(t, err)
	for _, bad := range []office.RangeInput{{Name: "x", Prefix: "50", First: 1, Last: 2},
		{Name: "Winter", Prefix: "22", First: 1, Last: 2}, {Name: "x", Prefix: "21", First: 7, Last: 9},
		{Name: "x", Prefix: "22", First: 9, Last: 2}, {Prefix: "22", First: 1, Last: 2}} {
		_, err := office.AddRange(s.By(s.Maren), bad)
		assert.Error(t, err, "%+v", bad)
	}
	assert.Equal(t, uint64(5), small.Next)
	_, err = office.SaveSettings(s.By(s.Maren), office.SettingsInput{Name: "Saltmarsh", ScalePrefix: "21"})
	assert.Error(t, err, "that prefix is a range's")
	_, err = office.SaveSettings(s.By(s.Maren), office.SettingsInput{Name: "Saltmarsh", ScalePrefix: "28"})
	require.NoError(t, err)
}

func TestManyProductsChangeAtOnceAndBack(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	other := s.Simple(t, "Whistle", "counted", "4.00")
	ids := []uint64{made.ID, made.ID + 1}
	preview, err := catalog.PreviewBulk(s.By(s.Maren), catalog.BulkChange{Products: ids, What: "price_percent",
		To: "+10 %"})
	require.NoError(t, err)
	require.Len(t, preview.Rows, 4, "the product's price, two of their own, and the whistle's")
	assert.Equal(t, "34.95", s.View(t, made.ID).Variants[0].Price.StringFixed(2), "a preview changes nothing")
	done, err := catalog.ChangeBulk(s.By(s.Maren, "b1"), catalog.BulkChange{Products: ids, What: "price_percent",
		To: "10"})
	require.NoError(t, err)
	assert.Equal(t, preview.Rows, done.Rows, "a preview can't differ from the result")
	again, err := catalog.ChangeBulk(s.By(s.Maren, "b1"), catalog.BulkChange{Products: ids, What: "price_percent",
		To: "10"})
	require.NoError(t, err)
	assert.Equal(t, done.ID, again.ID, "once")
	assert.Equal(t, "38.45", s.View(t, made.ID).Variants[0].Price.StringFixed(2))
	_, err = prices.SetPrices(s.By(s.Maren), made.ID+1, prices.PriceChange{Price: "5.00"})
	require.NoError(t, err)
	undone, err := catalog.UndoBulk(s.By(s.Maren), done.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"Whistle was changed since, and stays."}, undone.Left, "what was changed since stays")
	assert.Equal(
		t,
		[]string{"34.95", "36.95"},
		[]string{s.View(t, made.ID).Variants[0].Price.StringFixed(2),
			s.View(t, made.ID).Variants[2].Price.StringFixed(2)},
	)
	_, err = catalog.UndoBulk(s.By(s.Maren), done.ID)
	assert.True(t, fault.Is(err, fault.Conflict))

	for what, to := range map[string]string{"category": "Shore > Odds", "supplier": "Pale Dune Supplies",
		"brand": "Kelpline", "tax_class": "Zero", "restock_level": "7", "markup": "80", "ending": "1/0.95/up",
		"discontinued": "yes"} {
		changed, err := catalog.ChangeBulk(s.By(s.Maren), catalog.BulkChange{Products: ids, What: what, To: to})
		require.NoError(t, err, what)
		assert.Len(t, changed.Rows, 2, what)
		back, err := catalog.UndoBulk(s.By(s.Maren), changed.ID)
		require.NoError(t, err, what)
		assert.Len(t, back.Rows, 2, what)
	}
	p := s.View(t, made.ID)
	assert.Equal(t, []any{"Swim > Rash vests", "Kelpline Textiles", false, "Standard"},
		[]any{p.Category.Path, p.Supplier, p.Discontinued, p.TaxClass.Name})
	for _, bad := range []catalog.BulkChange{{What: "brand", To: "x"}, {Products: ids, What: "mood"},
		{Products: ids, What: "tax_class", To: "Luxury"}, {Products: ids, What: "price_percent", To: "-100"},
		{Products: ids, What: "price_amount", To: "-1000"}, {Products: ids, What: "discontinued", To: "maybe"},
		{Products: ids, What: "brand", To: ""}} {
		_, err := catalog.ChangeBulk(s.By(s.Maren), bad)
		assert.Error(t, err, "%+v", bad)
	}
	_ = other
}

func TestFiltersCombine(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "5", "40") // under cost
	s.Simple(t, "Whistle", "counted", "4.00")
	_, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Lesson", Category: "Services", TaxClass: 1,
		Tracking: "not stocked"})
	require.NoError(t, err)
	q := s.Store.Read(ctx)
	d := func(text string) *decimal.Decimal { v := decimal.RequireFromString(text); return &v }
	for name, c := range map[string]struct {
		filter   goods.ListFilter
		products int
		variants int
	}{
		"all": {goods.ListFilter{}, 3, 8}, "words": {goods.ListFilter{Words: "rash coral m"}, 1,
			1}, "words of two": {goods.ListFilter{Words: "tide sla"}, 1, 3},
		"value": {goods.ListFilter{Value: "Coral"}, 1, 3},
		"price": {goods.ListFilter{PriceFrom: d("36"), PriceTo: d("37")}, 1, 2},
		"stock": {goods.ListFilter{StockFrom: d("1")}, 1, 1}, "under cost": {goods.ListFilter{UnderCost: true}, 1,
			1}, "margin": {goods.ListFilter{MarginTo: d("-1")}, 1, 1},
		"no price":   {goods.ListFilter{NoPrice: true}, 1, 1},
		"no barcode": {goods.ListFilter{NoBarcode: true}, 0, 0},
		"no picture": {goods.ListFilter{NoPicture: true}, 3,
			8}, "tracking": {goods.ListFilter{Tracking: "not stocked"}, 1, 1},
		"barcode":      {goods.ListFilter{Words: made.Variants[1].Barcode}, 1, 1},
		"category":     {goods.ListFilter{Category: 1}, 2, 7},
		"none of both": {goods.ListFilter{Words: "whistle", Value: "Coral"}, 0, 0},
	} {
		for _, sort := range []string{"", "-price", "margin", "-on_hand", "value", "category", "supplier", "created",
			"sku", "brand", "for_sale"} {
			c.filter.Sort = sort
			products, err := goods.ProductIDs(q, c.filter, 0, 100)
			require.NoError(t, err, "%s by %s", name, sort)
			assert.Len(t, products, c.products, "%s by %s", name, sort)
			variants, err := goods.VariantIDs(q, c.filter, 0, 100)
			require.NoError(t, err, "%s by %s", name, sort)
			assert.Len(t, variants, c.variants, "%s by %s", name, sort)
		}
	}
	_, err = goods.ProductIDs(q, goods.ListFilter{Sort: "mood"}, 0, 1)
	assert.Error(t, err)
	_, err = catalog.SaveView(s.By(s.Tobi), catalog.ViewInput{Name: "Vests", Query: "?q=vest"})
	require.NoError(t, err)
	views, err := lists.SavedViews(q, s.Tobi.ID)
	require.NoError(t, err)
	require.Len(t, views, 1)
	_, err = catalog.DropView(s.By(s.Maren), views[0].ID)
	require.NoError(t, err)
	views, _ = lists.SavedViews(q, s.Tobi.ID)
	assert.Len(t, views, 1, "a view is its owner's")
}

func TestPicturesAreCheckedAndCleaned(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, testkit.Shot(80, 40, 255), nil))
	// the same with a place in it, turned a quarter
	exif := []byte(
		"\xff\xe1\x00\x40Exif\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x00\x00\x00\x00GPS 54.1 N 2.9 W, quay, by the second bollard")
	exif[3] = byte(len(exif) - 2)
	placed := append(append(append([]byte{}, plain.Bytes()[:2]...), exif...), plain.Bytes()[2:]...)
	done, err := catalog.AddPicture(s.By(s.Maren), made.ID, "vest.jpg", placed)
	require.NoError(t, err)
	p, err := goods.ReadPicture(s.Store.Read(ctx), done.ID, false)
	require.NoError(t, err)
	assert.Equal(t, []any{"jpeg", 40, 80}, []any{p.Type, p.Width, p.Height}, "it stands upright")
	assert.NotContains(t, string(p.Data), "bollard", "where it was taken is gone")
	var holes bytes.Buffer
	require.NoError(t, png.Encode(&holes, testkit.Shot(2000, 900, 90)))
	second, err := catalog.AddPicture(s.By(s.Maren), made.ID, "vest.png", holes.Bytes())
	require.NoError(t, err)
	p, err = goods.ReadPicture(s.Store.Read(ctx), second.ID, false)
	require.NoError(t, err)
	assert.Equal(t, []any{"png", 1600, 720}, []any{p.Type, p.Width, p.Height})
	small, err := goods.ReadPicture(s.Store.Read(ctx), second.ID, true)
	require.NoError(t, err)
	assert.Equal(t, []any{320, 144}, []any{small.SmallWidth, small.SmallHeight})
	again, err := catalog.AddPicture(s.By(s.Maren), made.ID, "again.jpg", placed)
	require.NoError(t, err)
	assert.Equal(t, done.ID, again.ID, "the same picture is kept once")
	_, err = catalog.ChangePicture(s.By(s.Maren), made.ID, second.ID, catalog.PictureChange{Do: "lead"})
	require.NoError(t, err)
	assert.Equal(t, second.ID, *s.View(t, made.ID).PictureID)
	_, err = catalog.ChangePicture(s.By(s.Maren), made.ID, second.ID, catalog.PictureChange{Do: "drop"})
	require.NoError(t, err)
	assert.Equal(t, done.ID, *s.View(t, made.ID).PictureID)
	_, err = catalog.ChangePicture(s.By(s.Maren), made.ID, done.ID,
		catalog.PictureChange{Do: "variant", Variant: made.Variants[1].ID})
	require.NoError(t, err)

	// 225 megapixels in a few bytes: the head of a PNG says so, and it is not drawn
	huge := append([]byte{}, holes.Bytes()...)
	copy(huge[16:24], []byte{0, 0, 0x3a, 0x98, 0, 0, 0x3a, 0x98}) // 15,000 × 15,000
	fixCRC(huge)
	thin := append([]byte{}, huge...)
	copy(thin[16:24], []byte{0, 0, 0, 1, 0x03, 0x93, 0x87, 0}) // 1 × 60 million
	fixCRC(thin)
	for name, c := range map[string]struct {
		data []byte
		says string
	}{"huge.png": {huge, "225 megapixels"}, "thin.png": {thin,
		"1 × 60000000 pixels"}, "text.jpg": {[]byte("not a picture"), "not a picture"},
		"half.jpg": {plain.Bytes()[:len(plain.Bytes())-40], "broken"},
		"big.jpg":  {make([]byte, catalog.MostPicture+1), "20 MB"}} {
		_, err := catalog.AddPicture(s.By(s.Maren), made.ID, name, c.data)
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), c.says, name)
	}
}

// fixCRC mends the checksum of the head of a PNG.
func fixCRC(data []byte) {
	binary.BigEndian.PutUint32(data[29:33], crc32.ChecksumIEEE(data[12:29]))
}
