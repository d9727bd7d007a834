package scan_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/office"
	"itemrack/shop/register"
	shopscan "itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
)

func TestALabelWithAPriceIsSoldAtIt(t *testing.T) {
	s := testkit.New(t)
	salt, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Sea salt",
		Category: "Shore",
		Supplier: "Oar & Thole",
		TaxClass: 1,
		Unit:     "kg",
		Tracking: "counted",
		Price:    "12.50",
		Barcode:  "2912345000004",
	},
	)
	require.NoError(t, err)
	s.Stock(t, salt.Variants[0].ID, "10", "2")
	for _, bad := range []office.SettingsInput{{Name: "S", ScalePrefix: "29", PricePrefix: "29"},
		{Name: "S", PricePrefix: "20"}, {Name: "S", PricePrefix: "19"}} {
		_, err := office.SaveSettings(s.By(s.Maren), bad)
		require.Error(t, err)
		assert.Equal(t, "scale_price_prefix", fault.Of(err).Field)
	}
	_, err = office.SaveSettings(s.By(s.Maren), office.SettingsInput{Name: "Saltmarsh", ScalePrefix: "28",
		PricePrefix: "29"})
	require.NoError(t, err)
	_, err = office.AddRange(s.By(s.Maren), office.RangeInput{Name: "Winter", Prefix: "29", First: 1, Last: 9})
	assert.Equal(t, "prefix", fault.Of(err).Field, "the scale has that prefix")
	s.Open(t, 1)
	label := "2912345004378" // 4.37: 0.350 kg at 12.50 would be 4.38
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: label})
	require.NoError(t, err)
	assert.Equal(t, "0.35 at 12.49: 4.37",
		basket.Lines[0].Quantity.String()+" at "+basket.Lines[0].Price.String()+": "+basket.Totals.Gross.StringFixed(2))
	basket, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: label})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 2, "each label is a line of its own")
	assert.Equal(t, "8.74", basket.Totals.Gross.StringFixed(2))
	_, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "3 x " + label})
	assert.ErrorContains(t, err, "by itself")
	_, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "2912345000004"})
	require.NoError(t, err, "the item's own number is one kilogram at the list's price")
	basket, err = register.ChangeBasketLine(s.By(s.Tobi), 1, basket.Lines[1].ID,
		register.BasketChange{Quantity: "0.5"})
	require.NoError(t, err)
	assert.Equal(t, "6.25", basket.Lines[1].Total.StringFixed(2), "a weight that is typed is paid at the list's price")
	done, err := register.Sell(s.By(s.Tobi, "k"), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "50"})
	require.NoError(t, err)
	assert.Equal(t, "23.12", done.Total.StringFixed(2))
	s.InStep(t)
}

// scanned are the lines of a delivery in words.
func scannedLines(t *testing.T, s *testkit.Shop, id uint64) []string {
	_, rows, err := storebuying.ReadDelivery(s.Store.Read(ctx), id)
	require.NoError(t, err)
	var lines []string
	for _, r := range rows {
		text := fmt.Sprintf("%d: %s", r.VariantID, r.Quantity)
		if r.LotNumber != "" {
			text += " lot " + r.LotNumber
		}
		if r.Expiry != nil {
			text += " until " + r.Expiry.Format("2006-01-02")
		}
		if r.Serials != "" {
			text += " No. " + r.Serials
		}
		lines = append(lines, text)
	}
	return lines
}

// TestOneScanYieldsItemLotExpiryAndNumber scans element strings, packs and plain
// numbers into a delivery.
func TestOneScanYieldsItemLotExpiryAndNumber(t *testing.T) {
	s := testkit.New(t)
	make := func(name, tracking, barcode string) uint64 {
		made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
			Name:     name,
			Category: "Shore",
			Supplier: "Pale Dune Supplies",
			TaxClass: 1,
			Tracking: tracking,
			Price:    "9.00",
			Barcode:  barcode,
		},
		)
		require.NoError(t, err)
		return made.Variants[0].ID
	}
	cream, watch, bar := make("Sun cream", "lot", "2000000000107"), make("Paddle watch", "serial",
		"2000000000206"), make("Energy bar", "counted", "2000000000305")
	_, err := catalog.SavePack(s.By(s.Maren), 3, 0,
		catalog.PackInput{Name: "box of 12", Factor: "12", Barcode: "2000000000404"})
	require.NoError(t, err)
	id := s.DraftFor(t)
	scan := func(code string) (shopscan.DeliveryScanned, error) {
		return buying.ScanDelivery(s.By(s.Callum), id, buying.DeliveryScan{Code: code})
	}
	for _, code := range []string{
		"2000000000107", "(01)02000000000107(10)K614(17)270430", // the line without a lot takes this one
		"(01)02000000000107(17)270430(10)K614", "6 x (01)02000000000107(10)K615(17)270531",
		"(01)02000000000206(21)ab12", "(01)02000000000206(21)AB13",
		"3 x 2000000000404", "4 x 2000000000305",
	} {
		_, err := scan(code)
		require.NoError(t, err, code)
	}
	assert.Equal(t, []string{
		fmt.Sprintf("%d: 3 lot K614 until 2027-04-30", cream), fmt.Sprintf("%d: 6 lot K615 until 2027-05-31", cream),
		fmt.Sprintf("%d: 2 No. AB12,AB13", watch), fmt.Sprintf("%d: 40", bar)}, scannedLines(t, s, id), "3 boxes of "+
		"12 and 4 loose are 40")
	_, err = scan("(01)02000000000206(21)AB12")
	assert.ErrorContains(t, err, "is there already")
	_, err = scan("2000000000992")
	assert.ErrorContains(t, err, "Set it aside")
	said, err := scan("2000000000305")
	require.NoError(t, err)
	assert.Equal(t, "Energy bar: 41 in this delivery.", said.Said)
	said, err = scan("energy")
	require.NoError(t, err)
	require.NotNil(t, said.Pick)
	assert.Equal(t, "Energy bar", said.Pick.Name)
	_, err = buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{})
	require.NotNil(t, fault.Of(err), "%v", err)
	assert.Equal(t, "lines.0.cost", fault.Of(err).Field, "what was scanned asks what it cost")
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), id)
	require.NoError(t, err)
	priced := buying.DeliveryInput{Supplier: 1, Branch: 1}
	for _, l := range lines {
		line := shopscan.GoodsLine{Variant: l.VariantID, Quantity: l.Quantity.String(), Cost: "1", Lot: l.LotNumber,
			Serials: l.Serials}
		if l.Expiry != nil {
			line.Expiry = l.Expiry.Format("02.01.2006")
		}
		priced.Lines = append(priced.Lines, line)
	}
	_, err = buying.SaveDelivery(s.By(s.Maren), id, priced)
	require.NoError(t, err)
	posted, err := buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{})
	require.NoError(t, err)
	_, err = scan("2000000000305")
	assert.ErrorContains(t, err, "posted already")
	_, err = buying.ScanDelivery(s.By(s.Callum), s.DraftFor(t), buying.DeliveryScan{Code: posted.Number})
	assert.ErrorContains(t, err, "is a document")

	// the same codes count a shelf
	list, err := catalog.Categories(s.By(s.Callum))
	require.NoError(t, err)
	c, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: list[0].ID})
	require.NoError(t, err)
	for code, want := range map[string]string{"(01)02000000000107(10)K615(17)270531": "1", "2 x 2000000000404": "24"} {
		counted, err := counts.Count(s.By(s.Callum), c.ID, counts.CountInput{Code: code})
		require.NoError(t, err, code)
		assert.Equal(t, want, counted.Counted.String(), code)
	}
	found, err := counts.Count(s.By(s.Callum), c.ID, counts.CountInput{Code: "(01)02000000000107(10)K999"})
	require.NoError(t, err, "a lot that the book does not know is found")
	assert.False(t, found.Planned)
	assert.Equal(t, "K999", found.Lot)
	s.InStep(t)
}

// TestALotStandsOnOneLine: a scan goes to the line of its lot though a line without
// one follows, and the same lot typed on two lines is refused by line.
func TestALotStandsOnOneLine(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Sun cream",
		Category: "Shore",
		Supplier: "Pale Dune Supplies",
		TaxClass: 1,
		Tracking: "lot",
		Price:    "9.00",
		Barcode:  "2000000000107",
	},
	)
	require.NoError(t, err)
	cream := made.Variants[0].ID
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{
			Supplier: 1,
			Branch:   1,
			Lines: []shopscan.GoodsLine{{Variant: cream, Quantity: "1", Lot: "K614", Expiry: "2027-04-30"},
				{Variant: cream, Quantity: "5"}},
		},
	)
	require.NoError(t, err)
	_, err = buying.ScanDelivery(s.By(s.Callum), draft.ID,
		buying.DeliveryScan{Code: "(01)02000000000107(10)K614(17)270430"})
	require.NoError(t, err)
	assert.Equal(t, []string{fmt.Sprintf("%d: 2 lot K614 until 2027-04-30", cream), fmt.Sprintf("%d: 5", cream)},
		scannedLines(t, s, draft.ID))
	_, err = buying.SaveDelivery(s.By(s.Maren), draft.ID,
		buying.DeliveryInput{
			Supplier: 1,
			Branch:   1,
			Lines: []shopscan.GoodsLine{{Variant: cream, Quantity: "1", Lot: "K614", Expiry: "2027-04-30"},
				{Variant: cream, Quantity: "5", Lot: "k614", Expiry: "2027-04-30"}},
		},
	)
	require.NoError(t, err, "one lot may stand on two lines")
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	assert.ErrorContains(t, err, "what did one cost")
}

// TestPacksAreTyped has a quantity typed as packs and loose units.
func TestPacksAreTyped(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Energy bar", "counted", "2.00")
	s.Stock(t, v, "3 x 12 + 4", "1.00")
	held, err := book.Look(s.Store.Read(ctx), []uint64{v})
	require.NoError(t, err)
	assert.Equal(t, "40", held.Pools[v].Quantity.String())
}
