package buying_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
)

const kelpline = `Art.Nr;EAN;Description;Maker;Trade price;Packing;Pack size;RRP;Valid from
KT-1;2099000000019;Sea towel 70 × 140;Kelpline;8,40;;;19,95;
KT-2;2099000000026;Sea towel 漢字 ß;Kelpline;50,40;box;6;;
KT-3;;Tide robe;Kelpline;31,00;;;79,00;2099-01-01
`

func readCatalog(t *testing.T, s *testkit.Shop, text string, in buying.CatalogInput) buying.CatalogRead {
	t.Helper()
	read, err := buying.ReadCatalogIn(s.By(s.Maren), 1, []byte(text), in)
	require.NoError(t, err)
	return read
}

// TestASuppliersCatalog is read in with what changes said first, again without a change, and
// its goods are made whole by one press.
func TestASuppliersCatalog(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t) // of Kelpline Textiles
	own := vest.Variants[0]
	_, err := buying.SaveSupplier(s.By(s.Maren), 1,
		buying.SupplierInput{Name: "Kelpline Textiles", Discount: "8", Freight: "4", Markup: "110",
			Ending: "1/0.95/nearest", Revision: 1})
	require.NoError(t, err)

	tried := readCatalog(t, s, kelpline, buying.CatalogInput{Dry: true})
	assert.Equal(t, "3 0 0 0 false", fmt.Sprint(tried.Made, " ", tried.Changed, " ", tried.Same, " ", tried.Refused,
		" ", tried.Done))
	n, err := storebuying.CatalogCount(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Zero(t, n, "nothing is kept that was only tried")
	require.True(t, readCatalog(t, s, kelpline, buying.CatalogInput{}).Done)
	again := readCatalog(t, s, kelpline, buying.CatalogInput{})
	assert.Equal(t, 3, again.Same)

	q := s.Store.Read(ctx)
	offered, err := buying.OfferedAs(s.Shop, q, s.Callum, "12 x (01)02099000000019(10)L1")
	require.NoError(t, err)
	require.Len(t, offered, 1)
	o := offered[0]
	assert.Equal(t, "Sea towel 70 × 140, Kelpline Textiles", o.Item.Name+", "+o.Item.Supplier)
	assert.Equal(t, "Swim > Rash vests", o.Category, "where that supplier's goods are")
	assert.Equal(t, "8.04", o.Landed.StringFixed(2), "8.40 less 8 %, plus 4 % freight")
	assert.True(t, o.ByRule)
	assert.Equal(t, "19.95", o.Price.StringFixed(2), "8.04 plus 110 % is 16.88, with tax 20.26")
	clerks, err := buying.OfferedAs(s.Shop, q, s.Tobi, "2099000000019")
	require.NoError(t, err)
	assert.False(t, clerks[0].CanMake)
	_, err = buying.MakeOffered(s.By(s.Tobi), buying.MakeOfferedInput{Item: o.Item.ID})
	assert.True(t, fault.Is(err, fault.Forbidden))

	made, err := buying.MakeOffered(s.By(s.Callum, "press"), buying.MakeOfferedInput{Item: o.Item.ID})
	require.NoError(t, err)
	same, err := buying.MakeOffered(s.By(s.Callum, "press"), buying.MakeOfferedInput{Item: o.Item.ID})
	require.NoError(t, err)
	assert.Equal(t, made, same, "pressed twice")
	_, err = buying.MakeOffered(s.By(s.Maren, "other"), buying.MakeOfferedInput{Item: o.Item.ID})
	assert.ErrorContains(t, err, "is here already")
	p := s.View(t, made.ID)
	assert.Equal(t, "Kelpline 19.95 2099000000019", fmt.Sprint(p.Brand, " ", p.Variants[0].Price.StringFixed(2), " ",
		p.Variants[0].Barcode))
	offered, err = buying.OfferedAs(s.Shop, s.Store.Read(ctx), s.Callum, "2099000000026")
	require.NoError(t, err)
	boxed, err := buying.MakeOffered(s.By(s.Callum), buying.MakeOfferedInput{Item: offered[0].Item.ID, Price: "22",
		Category: "Towels"})
	require.NoError(t, err)
	p = s.View(t, boxed.ID)
	assert.Equal(t, "Towels 22.00 box 6", fmt.Sprint(p.Category.Path, " ", p.Variants[0].Price.StringFixed(2), " ",
		p.Packs[0].Name, " ", p.Packs[0].Factor))

	// what is ordered next is proposed as the catalog says it, with pack and number
	order, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{
			{Variant: boxed.Variants[0].ID, Quantity: "12"}, {Variant: made.Variants[0].ID, Quantity: "1"}}})
	require.NoError(t, err)
	_, lines, err := storebuying.ReadOrder(s.Store.Read(ctx), order.ID)
	require.NoError(t, err)
	assert.Equal(t, "box of 6 at 50.4 less 8, KT-2", fmt.Sprintf("%s of %s at %s less %s, %s", lines[0].Pack,
		lines[0].Factor, lines[0].Price, lines[0].Discount, lines[0].PartNumber))

	// the next catalog is dearer for what we have; it says so first
	dearer := strings.Replace(strings.Replace(kelpline, "8,40", "9,24", 1), "KT-3;;", "KT-4;"+own.Barcode+";", 1)
	tried = readCatalog(t, s, dearer, buying.CatalogInput{Dry: true})
	assert.Equal(t, "1 1 1 left 1 ours 3", fmt.Sprint(tried.Made, " ", tried.Changed, " ", tried.Same, " left ",
		tried.Left, " ours ", tried.Ours))
	require.Len(t, tried.Changes, 2)
	assert.Equal(t, "Sea towel 70 × 140 8.4 9.24 10 %", fmt.Sprint(tried.Changes[0].Name, " ", tried.Changes[0].Was,
		" ", tried.Changes[0].Now, " ", tried.Changes[0].Percent, " %"))
	assert.Nil(t, tried.Changes[1].Was, "what nobody knew")
	assert.Equal(t, "2099-01-01", tried.Changes[1].From.Format(time.DateOnly))
	require.True(t, readCatalog(t, s, dearer, buying.CatalogInput{Whole: true}).Done)
	_, err = buying.PutOrderLines(s.By(s.Maren), order.ID,
		[]buying.OrderLineInput{{Variant: own.ID, Quantity: "2", Price: "1"}})
	require.NoError(t, err)
	fresh, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{{Variant: made.Variants[0].ID, Quantity: "1"}}})
	require.NoError(t, err)
	_, lines, err = storebuying.ReadOrder(s.Store.Read(ctx), fresh.ID)
	require.NoError(t, err)
	assert.Equal(t, "9.24", lines[0].Price.String(), "newer than what was asked the last time")
	rows, _, err := storebuying.CatalogOf(s.Store.Read(ctx), 1, "", 1)
	require.NoError(t, err)
	assert.Len(t, rows, 3, "what the whole catalog does not name is gone")
	s.InStep(t)
}

// TestACatalogThatCantBeRead says which row and what would be right, and keeps nothing.
func TestACatalogThatCantBeRead(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	bad := readCatalog(t, s, "name,part number,gtin,cost,pack "+
		"of\nTowel,A1,200000000001,1,\nRobe,A2,,x,\nCap,,,1,\n,A4,,1,\nBag,A5,,1,0\nBag,a5,,1,\nHat,A5 "+
		",,1,1\nFin,A9,1234,1,\n", buying.CatalogInput{})
	assert.False(t, bad.Done)
	assert.Equal(t, 8, bad.Refused+bad.Made)
	var said []string
	for _, r := range bad.Rows {
		if r.Outcome == "refused" {
			said = append(said, fmt.Sprint(r.Line, " ", r.Says))
		}
	}
	all := strings.Join(said, "\n")
	for _, want := range []string{"2 ", "3 \"x\" is not an amount", "4 Cap has neither a part number nor a GTIN",
		"5 It has no name", "6 A pack of 0", "8 A5 stands in line 7 already", "9 "} {
		assert.Contains(t, all, want)
	}
	_, err := buying.ReadCatalogIn(s.By(s.Maren), 1, []byte("part,price\nA1,2\n"), buying.CatalogInput{})
	assert.Equal(t, "columns", fault.Of(err).Field)
	_, err = buying.ReadCatalogIn(s.By(s.Maren), 1, []byte("name\n"), buying.CatalogInput{})
	assert.Equal(t, "file", fault.Of(err).Field)
	_, err = buying.ReadCatalogIn(s.By(s.Callum), 1, []byte("name\n"), buying.CatalogInput{})
	assert.True(t, fault.Is(err, fault.Forbidden))
	n, err := storebuying.CatalogCount(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Zero(t, n)
}

// TestAnUnknownGTINIsMadeWhereItIsScanned: into a delivery, from the catalog, and taken.
func TestAnUnknownGTINIsMadeWhereItIsScanned(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	require.True(t, readCatalog(t, s, kelpline, buying.CatalogInput{}).Done)
	_, err := buying.ScanDelivery(s.By(s.Callum), s.DraftFor(t), buying.DeliveryScan{Code: "2099000000019"})
	require.True(t, fault.Is(err, fault.NotFound), "%v", err)
	offered, err := buying.OfferedAs(s.Shop, s.Store.Read(ctx), s.Callum, "2099000000019")
	require.NoError(t, err)
	assert.Equal(t, "19.95 false", fmt.Sprint(offered[0].Price, " ", offered[0].ByRule), "no rule, so as suggested")
	made, err := buying.MakeOffered(s.By(s.Callum), buying.MakeOfferedInput{Item: offered[0].Item.ID})
	require.NoError(t, err)
	id := s.DraftFor(t)
	_, err = buying.ScanDelivery(s.By(s.Callum), id, buying.DeliveryScan{Code: "3 x 2099000000019"})
	require.NoError(t, err)
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), id)
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprint(made.Variants[0].ID, " 3 8.4"),
		fmt.Sprint(lines[0].VariantID, " ", lines[0].Quantity, " ", lines[0].Cost))
}
