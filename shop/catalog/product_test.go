package catalog_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	sheetsheet "itemrack/sheet"
	"itemrack/shop/catalog"
	"itemrack/shop/lists"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

var ctx = context.Background()

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
	before := s.View(t, made.ID)
	more, err := catalog.AddValues(s.By(s.Maren, "third"), made.ID,
		catalog.Extension{Axes: []catalog.AxisInput{{Name: "Colour", Text: "Kelp"}}})
	require.NoError(t, err)
	assert.Len(t, more.Variants, 3)
	again, err := catalog.AddValues(s.By(s.Maren, "third"), made.ID,
		catalog.Extension{Axes: []catalog.AxisInput{{Name: "Colour", Text: "Kelp"}}})
	require.NoError(t, err)
	assert.Equal(t, more, again, "the same request is answered again, not done again")
	after := s.View(t, made.ID)
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
		assert.Equal(t, []string{old.SKU, old.Barcode, old.ForSale.String(), old.Value.StringFixed(2)},
			[]string{v.SKU, v.Barcode, v.ForSale.String(), v.Value.StringFixed(2)}, "left as it was")
	}
	assert.Equal(t, 3, fresh)
	s.InStep(t)
}

func TestABarcodeNamesItsOwner(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	whistle := s.Simple(t, "Whistle", "counted", "4.00")
	_, err := catalog.AddBarcode(s.By(s.Maren), whistle, catalog.BarcodeInput{Code: "012345678905"})
	require.NoError(t, err)
	for _, same := range []string{"012345678905", "0012345678905", "00012345678905"} {
		_, err = catalog.AddBarcode(s.By(s.Maren), made.Variants[0].ID, catalog.BarcodeInput{Code: same})
		assert.ErrorContains(t, err, "Whistle", same)
		found, err := goods.Find(s.Store.Read(ctx), same, 3)
		require.NoError(t, err)
		require.Len(t, found, 1, same)
		assert.Equal(t, whistle, found[0].ID, "%s is one number however it is written", same)
	}
	_, err = catalog.AddBarcode(s.By(s.Maren), whistle, catalog.BarcodeInput{Code: "2000000000011"})
	assert.ErrorContains(t, err, "5", "the right digit is named")
	own, err := catalog.AddBarcode(s.By(s.Maren), whistle, catalog.BarcodeInput{})
	require.NoError(t, err)
	assert.Regexp(t, `^20\d{11}$`, own.Barcode)
	_, err = catalog.DropBarcode(s.By(s.Maren), whistle, "012345678905")
	require.NoError(t, err)
	found, err := goods.Find(s.Store.Read(ctx), "012345678905", 3)
	require.NoError(t, err)
	assert.Empty(t, found)
	_, err = catalog.DropBarcode(s.By(s.Maren), whistle, "012345678905")
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
	_, err = catalog.RenameValue(s.By(s.Maren), coral, catalog.ValueInSet{Name: "Reef", Swatch: "#D9604C"})
	require.NoError(t, err)
	p := s.View(t, made.ID)
	assert.Equal(t, "Reef · S", p.Variants[0].Label)
	assert.Equal(t, "TWV-COR-S", p.Variants[0].SKU, "a SKU stays, for it is on labels")
	found, err := goods.Find(s.Store.Read(ctx), made.Variants[0].Barcode, 3)
	require.NoError(t, err)
	assert.Equal(t, made.Variants[0].ID, found[0].ID)
	after, err := register.Receipt(ctx, s.Shop, sold.Number)
	require.NoError(t, err)
	assert.Equal(t, before.SVG("r"), after.SVG("r"), "an old receipt keeps the old name")
	_, err = catalog.RenameValue(s.By(s.Maren), coral, catalog.ValueInSet{Name: "Slate"})
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = catalog.DropValue(s.By(s.Maren), coral)
	assert.True(t, fault.Is(err, fault.Refused), "a product has it")
	added, err := catalog.AddToSet(s.By(s.Maren), "Colour",
		[]catalog.ValueInput{{Name: "Tide", Swatch: "#2F6F8F"}, {Name: "Foam"}})
	require.NoError(t, err)
	assert.Equal(t, "Colour is saved.", added.Says)
	_, err = catalog.AddToSet(s.By(s.Maren), "Colour",
		[]catalog.ValueInput{{Name: "tide", Swatch: "#2F6F8E"}})
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
	_, err = catalog.AddToSet(s.By(s.Maren), "Colour", []catalog.ValueInput{{Name: "Fog", Swatch: "grey"}})
	assert.Error(t, err)
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
			require.NoError(t,
				lists.ExportList(s.By(s.Tobi), goods.ListFilter{Sort: "-price"}, variants, shown, format, &out))
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
	require.NoError(t,
		lists.ExportList(s.By(s.Tobi), goods.ListFilter{Words: "nothing such"}, true, nil, sheetsheet.CSV, &out))
	assert.Len(t, rowsOf(t, out.String()), 1, "only the heads")
}

// TestTwoWindowsOnOneProduct saves facts on top of what another window saved.
func TestTwoWindowsOnOneProduct(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	shown := s.View(t, made.ID).Revision
	require.NotZero(t, shown)
	facts := catalog.ProductFacts{Revision: shown}
	facts.NewProduct = catalog.NewProduct{Name: "Tidewater rash vest", Category: "Swim > Rash vests", TaxClass: 1,
		Tracking: "counted", Unit: "pc"}
	first, second := facts, facts
	first.Name, second.Brand = "Tidewater vest", "Kelpline"
	_, err := catalog.SaveProduct(s.By(s.Maren), made.ID, first)
	require.NoError(t, err)
	_, err = catalog.SaveProduct(s.By(s.Maren), made.ID, second)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "revision", fault.Of(err).Field)
	assert.Equal(t, "Tidewater vest", s.View(t, made.ID).Name, "what the first saved stays")
	second.Name, second.Revision = "Tidewater vest", s.View(t, made.ID).Revision
	_, err = catalog.SaveProduct(s.By(s.Maren), made.ID, second)
	require.NoError(t, err)
}
