package deed_test

import (
	"bytes"
	"encoding/csv"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/price"
	sheetsheet "itemrack/sheet"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	shoplabels "itemrack/shop/labels"
	"itemrack/shop/lists"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/reports"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// rowsOf reads a CSV that the shop wrote.
func rowsOf(t *testing.T, text string) [][]string {
	t.Helper()
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff"))).ReadAll()
	require.NoError(t, err)
	return rows
}

func TestAThirdColourMakesOnlyItsOwn(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	for i, v := range made.Variants {
		s.Stock(t, v.ID, []string{"4", "5", "6", "7", "8", "9"}[i], "13.95")
	}
	before := view(t, s, made.ID)
	more, err := catalog.AddValues(ctx, s.Shop, s.Maren, "third", made.ID, catalog.Extension{Axes: []catalog.AxisInput{{Name: "Colour", Text: "Kelp"}}})
	require.NoError(t, err)
	assert.Len(t, more.Variants, 3)
	again, err := catalog.AddValues(ctx, s.Shop, s.Maren, "third", made.ID, catalog.Extension{Axes: []catalog.AxisInput{{Name: "Colour", Text: "Kelp"}}})
	require.NoError(t, err)
	assert.Equal(t, more, again, "the same request is answered again, not done again")
	after := view(t, s, made.ID)
	require.Len(t, after.Variants, 9)
	was := map[uint64]goods.VariantView{}
	for _, v := range before.Variants {
		was[v.ID] = v
	}
	fresh := 0
	for _, v := range after.Variants {
		old, ok := was[v.ID]
		if !ok {
			fresh++
			assert.True(t, v.ForSale.IsZero() && v.Value.IsZero(), "made at zero")
			continue
		}
		assert.Equal(t, []string{old.SKU, old.Barcode, old.ForSale.String(), old.Value.StringFixed(2)}, []string{v.SKU, v.Barcode, v.ForSale.String(), v.Value.StringFixed(2)}, "left as it was")
	}
	assert.Equal(t, 3, fresh)
	s.InStep(t)
}

func TestAPriceMovesWhatFollowsIt(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Cap", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "40.00", Axes: []catalog.AxisInput{{Name: "Size", Text: "S, M, L"}}, OwnPrices: []catalog.CellText{{Choice: []string{"L"}, Text: "45.00"}}})
	require.NoError(t, err)
	result, err := prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "42.00"})
	require.NoError(t, err)
	assert.Len(t, result.Follow, 2)
	require.Len(t, result.Own, 1)
	assert.Contains(t, result.Own[0], "45.00")
	p := view(t, s, made.ID)
	assert.Equal(t, []string{"42.00", "42.00", "45.00"}, []string{p.Variants[0].Price.StringFixed(2), p.Variants[1].Price.StringFixed(2), p.Variants[2].Price.StringFixed(2)})
	// a cell that is emptied follows again, one that is typed stands for itself
	_, err = prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Variants: []prices.VariantPricing{{Variant: made.Variants[2].ID}, {Variant: made.Variants[0].ID, Price: "41.00"}}})
	require.NoError(t, err)
	p = view(t, s, made.ID)
	assert.Equal(t, []string{"41.00", "42.00", "42.00"}, []string{p.Variants[0].Price.StringFixed(2), p.Variants[1].Price.StringFixed(2), p.Variants[2].Price.StringFixed(2)})
	for _, bad := range []prices.PriceChange{{Price: "-1"}, {Price: "4,2,0"}, {Price: "1", Quantity: "0.5"}, {Price: "1", From: "yesterday"}, {Price: "1", List: 99}, {Variants: []prices.VariantPricing{{Variant: 999, Price: "1"}}}} {
		_, err := prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, bad)
		assert.NotNil(t, fault.Of(err), "%+v", bad)
	}
	_, err = prices.SetPrices(ctx, s.Shop, s.Callum, "", made.ID, prices.PriceChange{Price: "1"})
	assert.True(t, fault.Is(err, fault.Forbidden), "prices are a manager's")
}

func TestAPriceExplainsItself(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	_, err := prices.SavePriceList(ctx, s.Shop, s.Maren, "", 0, prices.ListInput{Name: "Club", Kind: "other list", Base: price.Regular, Percent: "-10"})
	require.NoError(t, err)
	_, err = prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "38.00", From: "2026-12-24T09:00"})
	require.NoError(t, err)
	s.Stock(t, made.Variants[0].ID, "2", "13.95")
	e, err := reports.Explain(ctx, s.Shop, s.Tobi, made.Variants[0].ID, reports.FigurePrice)
	require.NoError(t, err)
	assert.Equal(t, "£34.95", e.Amount)
	var said []string
	for _, p := range e.Parts {
		said = append(said, p.Label+" "+p.Amount)
	}
	all := strings.Join(said, "\n")
	for _, want := range []string{"34.95", "31.46", "from 24 Dec 2026 09:00", "margin 52.1"} {
		assert.Contains(t, all, want)
	}
	_, err = reports.Explain(ctx, s.Shop, s.Tobi, 999, reports.FigurePrice)
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = reports.Explain(ctx, s.Shop, s.Tobi, made.Variants[0].ID, "weather")
	assert.Error(t, err)
}

func TestAListIsDroppedWithItsPrices(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	staff, err := prices.SavePriceList(ctx, s.Shop, s.Maren, "", 0, prices.ListInput{Name: "Staff", Kind: "markup", Percent: "20"})
	require.NoError(t, err)
	club, err := prices.SavePriceList(ctx, s.Shop, s.Maren, "", 0, prices.ListInput{Name: "Club", Kind: "other list", Base: staff.ID, Percent: "10"})
	require.NoError(t, err)
	_, err = prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{List: staff.ID, Price: "20"})
	require.NoError(t, err)
	_, err = prices.DropPriceList(ctx, s.Shop, s.Maren, staff.ID)
	assert.True(t, fault.Is(err, fault.Refused), "another starts from it")
	_, err = prices.DropPriceList(ctx, s.Shop, s.Maren, club.ID)
	require.NoError(t, err)
	_, err = prices.DropPriceList(ctx, s.Shop, s.Maren, staff.ID)
	require.NoError(t, err)
	why, err := prices.ExplainPrice(ctx, s.Shop, s.Tobi, made.Variants[0].ID, "", "")
	require.NoError(t, err)
	assert.Len(t, why, 1)
	for _, bad := range []prices.ListInput{{}, {Name: "Regular"}, {Name: "X", Kind: "guess"}, {Name: "X", Kind: "margin", Percent: "100"}, {Name: "X", Kind: "fixed", Amount: "-1"}, {Name: "X", Kind: "markup", Percent: "10", Ending: "1/2/up"}, {Name: "X", Kind: "other list", Base: 99}} {
		_, err := prices.SavePriceList(ctx, s.Shop, s.Maren, "", 0, bad)
		assert.NotNil(t, fault.Of(err), "%+v", bad)
	}
}

func TestABarcodeNamesItsOwner(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	whistle := s.Simple(t, "Whistle", "counted", "4.00")
	_, err := catalog.AddBarcode(ctx, s.Shop, s.Maren, "", whistle, catalog.BarcodeInput{Code: "012345678905"})
	require.NoError(t, err)
	for _, same := range []string{"012345678905", "0012345678905", "00012345678905"} {
		_, err = catalog.AddBarcode(ctx, s.Shop, s.Maren, "", made.Variants[0].ID, catalog.BarcodeInput{Code: same})
		assert.ErrorContains(t, err, "Whistle", same)
		found, err := goods.Find(s.Store.Read(ctx), same, 3)
		require.NoError(t, err)
		require.Len(t, found, 1, same)
		assert.Equal(t, whistle, found[0].ID, "%s is one number however it is written", same)
	}
	_, err = catalog.AddBarcode(ctx, s.Shop, s.Maren, "", whistle, catalog.BarcodeInput{Code: "2000000000011"})
	assert.ErrorContains(t, err, "5", "the right digit is named")
	own, err := catalog.AddBarcode(ctx, s.Shop, s.Maren, "", whistle, catalog.BarcodeInput{})
	require.NoError(t, err)
	assert.Regexp(t, `^20\d{11}$`, own.Barcode)
	_, err = catalog.DropBarcode(ctx, s.Shop, s.Maren, whistle, "012345678905")
	require.NoError(t, err)
	found, err := goods.Find(s.Store.Read(ctx), "012345678905", 3)
	require.NoError(t, err)
	assert.Empty(t, found)
	_, err = catalog.DropBarcode(ctx, s.Shop, s.Maren, whistle, "012345678905")
	assert.True(t, fault.Is(err, fault.NotFound))
}

func TestARenamedColourScansAndReadsAsBefore(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "3", "13.95")
	s.Open(t, 1)
	sold := s.Sold(t, made.Variants[0].ID, "1")
	before, err := register.Receipt(ctx, s.Shop, sold.Number)
	require.NoError(t, err)
	_, sets, err := goods.ValueSets(s.Store.Read(ctx))
	require.NoError(t, err)
	var coral uint64
	for _, values := range sets {
		for _, v := range values {
			if v.Name == "Coral" {
				coral = v.ID
			}
		}
	}
	require.NotZero(t, coral)
	_, err = catalog.RenameValue(ctx, s.Shop, s.Maren, "", coral, catalog.ValueInSet{Name: "Reef", Swatch: "#D9604C"})
	require.NoError(t, err)
	p := view(t, s, made.ID)
	assert.Equal(t, "Reef · S", p.Variants[0].Label)
	assert.Equal(t, "TWV-COR-S", p.Variants[0].SKU, "a SKU stays, for it is on labels")
	found, err := goods.Find(s.Store.Read(ctx), made.Variants[0].Barcode, 3)
	require.NoError(t, err)
	assert.Equal(t, made.Variants[0].ID, found[0].ID)
	after, err := register.Receipt(ctx, s.Shop, sold.Number)
	require.NoError(t, err)
	assert.Equal(t, before.SVG("r"), after.SVG("r"), "an old receipt keeps the old name")
	_, err = catalog.RenameValue(ctx, s.Shop, s.Maren, "", coral, catalog.ValueInSet{Name: "Slate"})
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = catalog.DropValue(ctx, s.Shop, s.Maren, coral)
	assert.True(t, fault.Is(err, fault.Refused), "a product has it")
	added, err := catalog.AddToSet(ctx, s.Shop, s.Maren, "", "Colour", []catalog.ValueInput{{Name: "Tide", Swatch: "#2F6F8F"}, {Name: "Foam"}})
	require.NoError(t, err)
	assert.Equal(t, "Colour is saved.", added.Says)
	_, err = catalog.AddToSet(ctx, s.Shop, s.Maren, "", "Colour", []catalog.ValueInput{{Name: "tide", Swatch: "#2F6F8E"}})
	require.NoError(t, err)
	_, sets, err = goods.ValueSets(s.Store.Read(ctx))
	require.NoError(t, err)
	tides := 0
	for _, values := range sets {
		for _, v := range values {
			if strings.EqualFold(v.Name, "tide") {
				tides++
			}
		}
	}
	assert.Equal(t, 1, tides, "one name, one value")
	_, err = catalog.AddToSet(ctx, s.Shop, s.Maren, "", "Colour", []catalog.ValueInput{{Name: "Fog", Swatch: "grey"}})
	assert.Error(t, err)
}

func TestDiscontinuedSellsUntilItIsGone(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	v := made.Variants[0].ID
	s.Stock(t, v, "2", "13.95")
	_, err := catalog.ChangeBulk(ctx, s.Shop, s.Maren, "", catalog.BulkChange{Products: []uint64{made.ID}, What: "discontinued", To: "yes"})
	require.NoError(t, err)
	s.Open(t, 1)
	sold := s.Sold(t, v, "2")
	_, err = register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: sold.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	require.NoError(t, err)
	count, err := counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", count.ID, counts.CountInput{Variant: v, Quantity: "1"})
	require.NoError(t, err)
	for answer, want := range map[string]int{"yes": 1, "no": 0, "": 1} {
		rows, _, err := goods.Products(s.Store.Read(ctx), goods.ListFilter{Discontinued: answer}, 1)
		require.NoError(t, err)
		assert.Len(t, rows, want, "discontinued %q", answer)
	}
	_, err = catalog.DropProduct(ctx, s.Shop, s.Maren, made.ID)
	assert.True(t, fault.Is(err, fault.Refused), "it has entries")
	empty, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Mistake", Category: "Swim", Tracking: "counted", TaxClass: 1})
	require.NoError(t, err)
	_, err = catalog.DropProduct(ctx, s.Shop, s.Maren, empty.ID)
	require.NoError(t, err)
	_, err = goods.ReadProduct(s.Store.Read(ctx), empty.ID, 1, s.Now())
	assert.True(t, fault.Is(err, fault.NotFound))
	s.InStep(t)
}

func TestPacksBundlesAndListPricesComeWithAList(t *testing.T) {
	s := testkit.New(t)
	_, err := prices.SavePriceList(ctx, s.Shop, s.Maren, "", 0, prices.ListInput{Name: "Club", Kind: "other list", Base: price.Regular, Percent: "-10"})
	require.NoError(t, err)
	list := "product,category,supplier,sku,price,cost,price: Club,pack,pack factor,pack barcode,pack price,parts,attribute: Flavour,size\n" +
		"Energy bar,Food,Pale Dune Supplies,BAR,1.60,0.98,1.40,box of 12,12,96385074,17.40,,Oat,\n" +
		"Leash,Paddle,Oar & Thole,LEASH,29.00,11.30,,,,,,,,\n" +
		"Cap,Swim,Oar & Thole,CAP-S,12.00,5,10.00,,,,,,,S\n" +
		"Cap,Swim,Oar & Thole,CAP-M,12.00,5,10.50,,,,,,,M\n" +
		"Trip kit,Paddle,,KIT,30.00,,,,,,,2 x BAR; LEASH,,\n"
	report, err := lists.ImportList(ctx, s.Shop, s.Maren, "", strings.NewReader(list), 1, false)
	require.NoError(t, err)
	require.Equal(t, []int{5, 0}, []int{report.Made, report.Refused}, "%+v", report.Rows)
	find := func(code string) uint64 {
		found, err := goods.Find(s.Store.Read(ctx), code, 2)
		require.NoError(t, err)
		require.Len(t, found, 1, code)
		return found[0].ID
	}
	clubOf := func(code string) string {
		why, err := prices.ExplainPrice(ctx, s.Shop, s.Tobi, find(code), "", "")
		require.NoError(t, err)
		return why[1].Answer.Amount.StringFixed(2)
	}
	assert.Equal(t, []string{"1.40", "10.00", "10.50", "26.10"}, []string{clubOf("BAR"), clubOf("CAP-S"), clubOf("CAP-M"), clubOf("LEASH")}, "their own, each their own, and the rule's")
	s.Stock(t, find("BAR"), "24", "0.98")
	s.Stock(t, find("LEASH"), "5", "11.30")
	s.Open(t, 1)
	basket, err := register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: "96385074"})
	require.NoError(t, err)
	assert.Equal(t, "17.40", basket.Totals.Gross.StringFixed(2))
	var out bytes.Buffer
	require.NoError(t, lists.ExportCatalog(ctx, s.Shop, s.Tobi, goods.ListFilter{}, sheetsheet.CSV, &out))
	text := out.String()
	report, err = lists.ImportList(ctx, s.Shop, s.Maren, "", strings.NewReader(text), 1, false)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 0, 5, 0}, []int{report.Made, report.Changed, report.Same, report.Refused}, "%+v", report.Rows)

	// what is changed in the file is changed in the shop, and said
	changed := strings.NewReplacer("box of 12,12", "box of 12,10", "17.4", "14.95").Replace(text)
	require.NotEqual(t, text, changed)
	report, err = lists.ImportList(ctx, s.Shop, s.Maren, "", strings.NewReader(changed), 1, false)
	require.NoError(t, err)
	require.Equal(t, 1, report.Changed, "%+v", report.Rows)
	said := ""
	for _, r := range report.Rows {
		said += r.Detail
	}
	assert.Contains(t, said, "12 → 10")
	for _, bad := range []string{"product,parts\nKit,NOTHING\n", "product,pack\nRope,coil\n", "product,pack,pack factor\nRope,coil,1\n", "product,price: Nobody\nRope,3\n", "product,pack,pack factor,pack barcode\nRope,coil,3,96385074\n"} {
		report, err := lists.ImportList(ctx, s.Shop, s.Maren, "", strings.NewReader(bad), 1, false)
		if err == nil {
			assert.Positive(t, report.Refused, bad)
		} else {
			assert.NotNil(t, fault.Of(err), bad)
		}
	}
	s.InStep(t)
}

func TestAListAsItIsShown(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[1].ID, "3", "13.95")
	s.Simple(t, "@Whistle", "counted", "4.00")
	for _, variants := range []bool{false, true} {
		var shown []lists.ListColumn
		for _, c := range lists.CatalogColumns {
			if c.Of(variants) {
				shown = append(shown, c)
			}
		}
		for _, format := range []sheetsheet.Format{sheetsheet.CSV, sheetsheet.XLSX} {
			var out bytes.Buffer
			require.NoError(t, lists.ExportList(ctx, s.Shop, s.Tobi, goods.ListFilter{Sort: "-price"}, variants, shown, format, &out))
			if format == sheetsheet.XLSX {
				r, err := sheetsheet.Open(bytes.NewReader(out.Bytes()))
				require.NoError(t, err)
				_, heads, err := r.Next()
				require.NoError(t, err)
				assert.Len(t, heads, len(shown)+map[bool]int{false: 1, true: 2}[variants])
				require.NoError(t, r.Close())
				continue
			}
			rows := rowsOf(t, out.String())
			require.Len(t, rows, map[bool]int{false: 3, true: 8}[variants])
			assert.Equal(t, "Tidewater rash vest", rows[1][0], "the dearest first")
			assert.Equal(t, "'@Whistle", rows[len(rows)-1][0], "a name is no formula")
		}
	}
	var out bytes.Buffer
	require.NoError(t, lists.ExportList(ctx, s.Shop, s.Tobi, goods.ListFilter{Words: "nothing such"}, true, nil, sheetsheet.CSV, &out))
	assert.Len(t, rowsOf(t, out.String()), 1, "only the heads")
}

func TestAPictureOnTileTagAndLabel(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	drawn := image.NewNRGBA(image.Rect(0, 0, 60, 90))
	for y := range 90 {
		for x := range 60 {
			drawn.Set(x, y, color.NRGBA{R: uint8(4 * x), G: uint8(2 * y), B: 90, A: 255})
		}
	}
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, drawn))
	_, err := catalog.AddPicture(ctx, s.Shop, s.Maren, "", made.ID, "vest.png", file.Bytes())
	require.NoError(t, err)
	_, err = catalog.CategoryPicture(ctx, s.Shop, s.Maren, 1, "tile.png", file.Bytes())
	require.NoError(t, err)
	_, err = catalog.CategoryPicture(ctx, s.Shop, s.Maren, 99, "tile.png", file.Bytes())
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = catalog.CategoryPicture(ctx, s.Shop, s.Maren, 1, "tile.png", []byte("GIF89a"))
	assert.NotNil(t, fault.Of(err))
	labels := func(template string) int {
		sheet, err := shoplabels.Labels(ctx, s.Shop, s.Tobi, shoplabels.LabelRequest{Template: template, Labels: []shoplabels.LabelWish{{Variant: made.Variants[0].ID, Copies: 2}}})
		require.NoError(t, err)
		pictures := 0
		for _, shape := range sheet.Pages[0].Shapes {
			if shape.Picture != nil {
				pictures++
			}
		}
		return pictures
	}
	assert.Equal(t, 2, labels("tag-a4"), "a swing tag has it, once a label")
	assert.Zero(t, labels("a4-40x25"))
	p := view(t, s, made.ID)
	require.NotNil(t, p.PictureID)
	_, err = catalog.ChangePicture(ctx, s.Shop, s.Maren, made.ID, *p.PictureID, catalog.PictureChange{Do: "drop"})
	require.NoError(t, err)
	assert.Nil(t, view(t, s, made.ID).PictureID)
	assert.Zero(t, labels("tag-a4"))
}
