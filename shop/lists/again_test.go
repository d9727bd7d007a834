package lists_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/price"
	"itemrack/sheet"
	"itemrack/shop/catalog"
	"itemrack/shop/lists"
	"itemrack/shop/prices"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// oddCatalog makes products with everything that a list finds hard to say.
func oddCatalog(t *testing.T, s *testkit.Shop) {
	t.Helper()
	axis := func(name string, values ...string) catalog.AxisInput {
		in := catalog.AxisInput{Name: name}
		for _, v := range values {
			in.Values = append(in.Values, catalog.ValueInput{Name: v})
		}
		return in
	}
	club, err := prices.SavePriceList(s.By(s.Maren), 0,
		prices.ListInput{Name: "Club; 会", Kind: "fixed", Amount: "25"})
	require.NoError(t, err)
	made := map[string]catalog.MadeProduct{}
	for _, in := range []catalog.NewProduct{
		{Name: "=Wow, \"board\" 9' 6\"", Category: "=Sea > -Cold", Brand: "+Kelp", Supplier: "@Oar", Price: "12.00",
			Cost:        "3.1234",
			Description: "Line one\r\nline two; \"three\"\n\n- four", Attributes: map[string]string{"=Cut": "-slim"},
			Axes: []catalog.AxisInput{axis("Size", "=M", "-L"), axis("Colour", "Rosé", "Rose")}},
		{Name: "Доска", Category: "Сёрф", Price: "99", Cost: "50",
			Axes: []catalog.AxisInput{axis("Толщина", "6 мм", "4 мм"), axis("ﬁt", "Loose"), axis("SIZE", "M", "S")}},
		{Name: "Rope 漢 🪢", Category: "Sea", Unit: "m", Tracking: "counted", Price: "1.80", Cost: "0.5",
			Content: "2 kg", Restock: "2.5"},
		{Name: "'s Vest", Category: "Sea", Cost: "7", Axes: []catalog.AxisInput{axis("Pattern, print", "a;b",
			"\"c\"")}},
		{Name: "Number plate", Category: "Sea", Tracking: "serial", Price: "5", Cost: "1"},
	} {
		if in.Tracking == "" {
			in.Tracking = "counted"
		}
		m, err := catalog.MakeProduct(s.By(s.Maren), in)
		require.NoError(t, err, in.Name)
		made[in.Name] = m
	}
	rope, board := made["Rope 漢 🪢"], made["Доска"]
	for _, code := range []string{"AB 12", "=A;1", "4006381333931"} {
		_, err := catalog.AddBarcode(s.By(s.Maren), rope.Variants[0].ID, catalog.BarcodeInput{Code: code})
		require.NoError(t, err, code)
	}
	for _, pack := range []catalog.PackInput{{Name: "coil per sea", Factor: "50", Barcode: "COIL 1",
		Variant: rope.Variants[0].ID, Price: "80"},
		{Name: "=drum", Factor: "200", Price: "300"}, {Name: "hank; short", Factor: "2.5"}} {
		_, err := catalog.SavePack(s.By(s.Maren), rope.ID, 0, pack)
		require.NoError(t, err, pack.Name)
	}
	_, err = catalog.SavePack(s.By(s.Maren), board.ID, 0,
		catalog.PackInput{Name: "pair", Factor: "2", Price: "190"})
	require.NoError(t, err)
	view, err := goods.ReadProduct(s.Store.Read(ctx), rope.ID, 0, s.Now())
	require.NoError(t, err)
	coil := view.Packs[1].ID
	require.Equal(t, "coil per sea", view.Packs[1].Name)
	for _, set := range []struct {
		product uint64
		change  prices.PriceChange
	}{
		{rope.ID, prices.PriceChange{Price: "1.50", Quantity: "10.5"}}, {rope.ID,
			prices.PriceChange{Price: "1.90", From: "2126-12-24T09:30"}},
		{rope.ID, prices.PriceChange{Price: "1.40", Quantity: "10.5", From: "2126-12-24T09:30"}},
		{rope.ID, prices.PriceChange{Price: "70", Pack: coil, Quantity: "3"}}, {rope.ID,
			prices.PriceChange{Price: "75", Pack: coil, List: club.ID}},
		{rope.ID, prices.PriceChange{Price: "85", Pack: coil, From: "2127-01-01"}}, {rope.ID,
			prices.PriceChange{Price: "1.70", List: club.ID}},
		{rope.ID, prices.PriceChange{Price: "1.60", List: club.ID, From: "2127-02-01"}},
		{board.ID, prices.PriceChange{Price: "90", Quantity: "5",
			Variants: []prices.VariantPricing{{Variant: board.Variants[1].ID, Price: "88"}}}},
		{board.ID, prices.PriceChange{Variants: []prices.VariantPricing{{Variant: board.Variants[2].ID, Price: "95"}}}},
		{board.ID, prices.PriceChange{Variants: []prices.VariantPricing{{Variant: board.Variants[2].ID, Price: "93"}},
			From: "2127-03-01"}},
	} {
		_, err := prices.SetPrices(s.By(s.Maren), set.product, set.change)
		require.NoError(t, err, "%+v", set.change)
	}
}

// again writes the catalog and reads it in, and returns both.
func again(t *testing.T, from, to *testkit.Shop, format sheet.Format) (string, lists.ListReport) {
	t.Helper()
	var file bytes.Buffer
	require.NoError(t, lists.ExportCatalog(from.By(from.Maren), goods.ListFilter{}, format, &file))
	report, err := lists.ImportList(to.By(to.Maren), bytes.NewReader(file.Bytes()), 1, false)
	require.NoError(t, err)
	return file.String(), report
}

func TestAnExportReadInAgainChangesNothing(t *testing.T) {
	s, other := testkit.New(t), testkit.New(t)
	s.Shop, other.Shop = s.At(testkit.Moment), other.At(testkit.Moment)
	oddCatalog(t, s)
	_, err := prices.SavePriceList(other.By(other.Maren), 0,
		prices.ListInput{Name: "Club; 会", Kind: "fixed", Amount: "25"})
	require.NoError(t, err)
	for _, format := range []sheet.Format{sheet.CSV, sheet.XLSX} {
		_, report := again(t, s, s, format)
		assert.Equal(t, []int{0, 0, 12, 0}, []int{report.Made, report.Changed, report.Same, report.Refused}, "%s: %+v",
			format, report.Rows)
		assert.Empty(t, report.Left)
		if format == sheet.CSV {
			_, report := again(t, s, other, format)
			require.Equal(t, []int{12, 0}, []int{report.Made, report.Refused}, "%+v", report.Rows)
		}
	}
	first, _ := again(t, s, s, sheet.CSV)
	second, report := again(t, other, s, sheet.CSV)
	assert.Equal(t, first, second, "another shop has it whole")
	assert.Equal(t, 12, report.Same, "%+v", report.Rows)
	_, err = prices.SetPrices(other.By(other.Maren), 1, prices.PriceChange{Price: "1.00", Quantity: "2"})
	require.NoError(t, err)
	moved, report := again(t, other, s, sheet.CSV)
	assert.NotEqual(t, first, moved)
	assert.Equal(t, 2, report.Changed, "a price from two on, of each of two variants: %+v", report.Rows)
	assert.Contains(t, report.Rows[0].Detail, "1 from 2")
	s.InStep(t)
	other.InStep(t)
}

func TestNamesOfEveryScriptAreFound(t *testing.T) {
	s := testkit.New(t)
	s.Shop = s.At(testkit.Moment)
	oddCatalog(t, s)
	for words, want := range map[string]int{"漢": 1, "rope 漢": 1, "доск": 1, "doska": 1, "board": 1, "rosé": 1, "字": 0,
		"سترة": 0, "4 мм": 1} {
		found, err := goods.ProductIDs(s.Store.Read(ctx), goods.ListFilter{Words: words}, 0, 9)
		require.NoError(t, err)
		assert.Len(t, found, want, words)
	}
}

func TestPricesToComeThatHaveBegunStay(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Shop = s.At(testkit.Moment)
	soon := testkit.Moment.Add(2 * time.Hour)
	_, err := prices.SetPrices(s.By(s.Maren), made.ID,
		prices.PriceChange{Price: "40", From: soon.In(time.UTC).Format("2006-01-02T15:04")})
	require.NoError(t, err)
	var file bytes.Buffer
	require.NoError(t, lists.ExportCatalog(s.By(s.Maren), goods.ListFilter{}, sheet.CSV, &file))
	s.Shop = s.At(testkit.Moment.Add(3 * time.Hour))
	report, err := lists.ImportList(s.By(s.Maren), bytes.NewReader(file.Bytes()), 1, true)
	require.NoError(t, err)
	assert.Zero(t, report.Refused, "%+v", report.Rows)
	assert.Equal(t, len(report.Rows), report.Changed, "the plain price of then goes before that of now")
	past := strings.NewReader("product,size,colour,more prices\n" + "Tidewater rash vest,S,Coral,41 from 2020-01-01\n")
	report, err = lists.ImportList(s.By(s.Maren), past, 1, false)
	require.NoError(t, err)
	assert.Equal(t, 1, report.Refused, "%+v", report.Rows)
	assert.Equal(t, "more prices", report.Rows[0].Field)
}

func TestTwoPricesForOneMomentAreTheLaterOne(t *testing.T) {
	s := testkit.New(t)
	s.Shop = s.At(testkit.Moment)
	made := s.Vest(t)
	for _, amount := range []string{"38", "39", "37"} {
		_, err := prices.SetPrices(s.By(s.Maren), made.ID,
			prices.PriceChange{Price: amount, From: "2126-12-24"})
		require.NoError(t, err)
	}
	why, err := prices.ExplainPrice(s.By(s.Maren), made.Variants[0].ID, "", "2126-12-25")
	require.NoError(t, err)
	assert.Equal(t, "37", why[0].Answer.Amount.String())
}

func TestAPackIsOfItsVariantAndUnit(t *testing.T) {
	s := testkit.New(t)
	read := func(text string) lists.ListReport {
		report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(text), 1, false)
		require.NoError(t, err)
		return report
	}
	heads := "product,category,size,barcode,pack,pack factor,pack barcode,pack price,pack 2,pack 2 factor,pack " +
		"2 barcode,pack 2 price\n"
	report := read(heads + "Bar,Food,S,96385074,box,12,4006381333931,17.40,tray,6,TRAY " +
		"S,9\nBar,Food,M,,box,12,BOX M; BOX N,18,tray,6,,9\n")
	require.Equal(t, []int{2, 0}, []int{report.Made, report.Refused}, "%+v", report.Rows)
	text, report := again(t, s, s, sheet.CSV)
	assert.Equal(t, 2, report.Same, "%+v", report.Rows)
	for _, want := range []string{"BOX M; BOX N", "TRAY S", "17.4", ",18\r"} {
		assert.Contains(t, text, want)
	}
	for row, field := range map[string]string{"Bar,Food,S,4006381333931,,,,,,,,": "barcode",
		"Bar,Food,S,,box,12,96385074,,,,,": "pack barcode",
		"Bar,Food,S,,box,12,,,BOX,12,,":    "pack 2", "Bar,Food,S,,,,,,,6,,": "pack 2",
		"Bar,Food,S,,crate,,,,,,,":       "pack factor",
		"Bar,Food,M,,box,12,TRAY S,,,,,": "barcode"} {
		report := read(heads + row + "\n")
		require.Equal(t, 1, report.Refused, "%s: %+v", row, report.Rows)
		assert.Equal(t, field, report.Rows[0].Field, row)
	}
	assert.Equal(t, price.Regular, uint64(1))
}
