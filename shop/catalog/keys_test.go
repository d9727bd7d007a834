package catalog_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
	"itemrack/store"
	"itemrack/store/goods"
)

// alike are texts that a database may take for one and a person does not, and the other
// way round in same.
var alike = [][2]string{{"Rose", "Rosé"}, {"cafe", "café"}, {"E1", "Ｅ１"}, {"🛶", "🏄"}, {"a", "ª"}, {"и", "й"},
	{"红", "紅"}}

var same = [][2]string{{"Deep sea", "deep  SEA"}, {"Café", "Cafe\u0301"}, {"Kelp", "Ke\u200blp"}, {"Straße", "STRASSE"}}

// TestNamesAreComparedInOneWay makes two of each kind of thing whose names are alike, and
// one where they are the same.
func TestNamesAreComparedInOneWay(t *testing.T) {
	s := testkit.New(t)
	product := func(name, category, supplier string, values ...string) (catalog.MadeProduct, error) {
		in := catalog.NewProduct{Name: name, Category: category, Supplier: supplier, TaxClass: 1, Tracking: "counted",
			Price: "5.00"}
		if len(values) > 0 {
			axis := catalog.AxisInput{Name: "Colour"}
			for _, v := range values {
				axis.Values = append(axis.Values, catalog.ValueInput{Name: v})
			}
			in.Axes = []catalog.AxisInput{axis}
		}
		return catalog.MakeProduct(s.By(s.Maren), in)
	}
	for i, pair := range alike {
		for n, name := range pair {
			made, err := product("Thing "+name, "Shore > "+name, "Made by "+name, pair[0], pair[1])
			require.NoError(t, err, "%d: %s", i, name)
			assert.Len(t, made.Variants, 2)
			p := s.View(t, made.ID)
			assert.Equal(t, []string{"Shore > " + name, "Made by " + name}, []string{p.Category.Path, p.Supplier})
			assert.Equal(t, name, p.Variants[n].Label, "each variant has its own value")
			_, err = catalog.SavePack(s.By(s.Maren), made.ID, 0,
				catalog.PackInput{Name: pair[0], Factor: "2"})
			require.NoError(t, err)
			_, err = catalog.SavePack(s.By(s.Maren), made.ID, 0,
				catalog.PackInput{Name: pair[1], Factor: "3"})
			require.NoError(t, err)
		}
	}
	for _, pair := range same {
		first, err := product("Item "+pair[0], "Sea > "+pair[0], "Made by "+pair[0])
		require.NoError(t, err)
		_, err = product("Item "+pair[1], "Sea", "")
		assert.True(t, fault.Is(err, fault.Conflict), "%s: %v", pair[1], err)
		_, err = product("Two of "+pair[0], "Sea > "+pair[0], "", pair[0], pair[1])
		assert.True(t, fault.Is(err, fault.Invalid), "one value twice: %v", err)
		other, err := product("Other "+pair[0], "Sea > "+pair[1], "Made by "+pair[1])
		require.NoError(t, err)
		a, b := s.View(t, first.ID), s.View(t, other.ID)
		assert.Equal(t, []any{a.CategoryID, a.SupplierID}, []any{b.CategoryID, b.SupplierID})
	}
	for _, code := range []string{"🛶", "é", "\u200b", strings.Repeat("漢", 120), "É1", "Ａ"} {
		_, err := goods.Find(s.Store.Read(ctx), code, 5)
		assert.NoError(t, err, "%q in the scan line", code)
	}
	s.InStep(t)
}

// TestAnyoneCanSignIn with a login in any script, however it is spelled.
func TestAnyoneCanSignIn(t *testing.T) {
	s := testkit.New(t)
	for _, login := range []string{"tü", "мария", "李", "🛶"} {
		_, err := office.MakePerson(ctx, s.Shop, office.NewPerson{Login: login, Name: "A person",
			Password: "low water 26",
			Role:     "stock", Branch: 1})
		require.NoError(t, err, login)
		who, err := office.SignIn(ctx, s.Shop, "127.0.0.1", " "+strings.ToUpper(login)+"\u200b", "low water 26")
		require.NoError(t, err, login)
		assert.Equal(t, "A person", who.Name)
	}
}

// TestCodesAreOneNameSpace: what a scan finds is of one thing, whether it is its SKU or one
// of its barcodes.
func TestCodesAreOneNameSpace(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	cap := s.Simple(t, "Cap", "counted", "12.00")
	add := func(variant uint64, code string) error {
		_, err := catalog.AddBarcode(s.By(s.Maren), variant, catalog.BarcodeInput{Code: code})
		return err
	}
	sku := func(variant uint64, product uint64, text string) error {
		_, err := catalog.ChangeCells(s.By(s.Maren), product,
			catalog.CellChange{Figure: "sku", Cells: []catalog.CellTyped{{Variant: variant, Text: text}}})
		return err
	}
	coral, slate := vest.Variants[0], vest.Variants[3]
	for _, code := range []string{coral.SKU, strings.ToLower(coral.SKU), coral.Barcode, "0" + coral.Barcode,
		"(01)0" + coral.Barcode, "(01)0" + coral.Barcode + "(10)L1"} {
		err := add(cap, code)
		require.NotNil(t, fault.Of(err), "%s: %v", code, err)
		assert.Equal(t, "barcode", fault.Of(err).Field)
	}
	assert.ErrorContains(t, add(cap, coral.SKU), "Tidewater rash vest, Coral · S")
	assert.NoError(t, add(coral.ID, coral.SKU), "its own SKU as a barcode is one thing")
	_, err := catalog.SavePack(s.By(s.Maren), vest.ID, 0, catalog.PackInput{Name: "pair", Factor: "2"})
	require.NoError(t, err)
	_, err = catalog.AddBarcode(s.By(s.Maren), slate.ID, catalog.BarcodeInput{Code: slate.SKU,
		Pack: s.View(t, vest.ID).Packs[0].ID})
	assert.True(t, fault.Is(err, fault.Conflict), "a pack of it is another thing: %v", err)
	require.NoError(t, add(cap, "A 1"))
	assert.True(t, fault.Is(sku(coral.ID, vest.ID, slate.Barcode), fault.Conflict))
	assert.True(t, fault.Is(sku(coral.ID, vest.ID, slate.SKU), fault.Conflict))
	require.NoError(t, sku(coral.ID, vest.ID, "NEW-1"))
	find := func(code string) string {
		found, err := goods.Find(s.Store.Read(ctx), code, 5)
		require.NoError(t, err)
		if len(found) != 1 || found[0].Kind != "variant" {
			return ""
		}
		return found[0].Name + " " + found[0].Detail
	}
	for _, code := range []string{"new-1", coral.SKU, coral.Barcode, "(01)0" + coral.Barcode + "(10)L1"} {
		assert.Equal(t, "Tidewater rash vest Coral · S", find(code), "%s: the former SKU is its barcode", code)
	}
	_, err = catalog.DropBarcode(s.By(s.Maren), coral.ID, coral.SKU)
	require.NoError(t, err)
	require.NoError(t, add(cap, coral.SKU), "it is free")
	assert.Equal(t, "Cap ", find(coral.SKU))
	for code, says := range map[string]string{"20000000001": "11 digits", "340123450000000018": "18 digits"} {
		assert.ErrorContains(t, add(cap, code), says)
	}
	// many at once, and clashes among them, take few queries
	counted, n := store.Counting(ctx)
	wide := catalog.NewProduct{Name: "Wide", Category: "Shore", TaxClass: 1, Tracking: "counted", Price: "1.00",
		SKUPattern: "W",
		Axes:       []catalog.AxisInput{{Name: "Length", Text: "1-60"}, {Name: "Size", Text: "xs-xl"}}}
	made, err := catalog.MakeProduct(deed.By(counted, s.Shop, s.Maren, ""), wide)
	require.NoError(t, err)
	require.Len(t, made.Variants, 300)
	few := n.Load()
	wide.Name = "Wide again"
	again, err := catalog.MakeProduct(deed.By(counted, s.Shop, s.Maren, ""), wide)
	require.NoError(t, err)
	assert.Equal(t, "W-301", again.Variants[0].SKU)
	assert.Less(t, n.Load()-few, few+10, "no query for each SKU that is tried")
}

// TestNamesWithoutLatinLetters make SKUs that can be scanned.
func TestNamesWithoutLatinLetters(t *testing.T) {
	s := testkit.New(t)
	for i, name := range []string{"Весло", "Κουπί", "مجداف", "桨", "🛶🛶", "Весло", "ÄÖÜ", strings.Repeat("long ", 21)} {
		made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: name + strings.Repeat("!", i),
			Category: "Весла", TaxClass: 1, Tracking: "counted", Price: "5", Axes: []catalog.AxisInput{{Name: "Цвет",
				Values: []catalog.ValueInput{{Name: "Красный"}, {Name: "Синий"}, {Name: "红"}}}}})
		require.NoError(t, err, name)
		seen := map[string]bool{}
		for _, v := range made.Variants {
			require.Regexp(t, `^[A-Z0-9][!-~]{1,39}$`, v.SKU)
			seen[v.SKU] = true
		}
		assert.Len(t, seen, 3)
	}
	for n := range 45 { // a style of any length is kept or refused in words
		_, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Style " + strings.Repeat("x", n),
			Category: "Shore", TaxClass: 1, Tracking: "counted", Price: "5", Style: strings.Repeat("S", n)})
		if n > 20 {
			require.Equal(t, "style", fault.Of(err).Field, "%d letters", n)
		} else {
			require.NoError(t, err, "%d letters", n)
		}
	}
}
