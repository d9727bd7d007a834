package lists_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/lists"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// load imports a list and returns what became of it.
func load(t *testing.T, s *testkit.Shop, text string) lists.ListReport {
	t.Helper()
	report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(text), 1, false)
	require.NoError(t, err)
	return report
}

func TestImportChangesWhatIsThere(t *testing.T) {
	s := testkit.New(t)
	const head = "product,size,category,supplier,sku,barcode,price,restock level\n"
	load(t, s, head+"Vest,S,Swim,Kelpline,V-S,2000000000015,30.00,2\nVest,M,Swim,Kelpline,V-M,,30.00,\n")
	report := load(t, s,
		head+"vest,S,Swim > Tops,Oar & Thole,V-SMALL,012345678905,31.00,5\nVest,M,,,,,30.00,\nVest,XS,Swim > "+
			"Tops,Oar & Thole,,,30.00,\n")
	assert.Equal(t, []int{1, 2, 0, 0}, []int{report.Made, report.Changed, report.Same, report.Refused})
	for _, change := range []string{"category Swim → Swim > Tops", "supplier Kelpline → Oar & Thole", "price 30.00 " +
		"→ 31.00", "SKU V-S → V-SMALL", "barcode 012345678905 added", "restock level 5"} {
		assert.Contains(t, report.Rows[0].Detail, change)
	}
	view, err := goods.ReadProduct(s.Store.Read(ctx), 1, 1, s.Now())
	require.NoError(t, err)
	require.Len(t, view.Variants, 3)
	assert.Equal(t, "Swim > Tops", view.Category.Path)
	assert.True(t, view.Variants[0].Low)
	for _, code := range []string{"2000000000015", "012345678905", "v-small"} {
		found, err := goods.Find(s.Store.Read(ctx), code, 2)
		require.NoError(t, err)
		require.Len(t, found, 1, "%s: the old barcode still finds it, and so does the new", code)
		assert.Equal(t, "V-SMALL", found[0].Code)
	}
	s.InStep(t)
}

func TestImportRefusesWhatItMayNotChange(t *testing.T) {
	s := testkit.New(t)
	load(t, s, "product,size,category,price\nVest,S,Swim,30.00\n")
	load(t, s, "product,category,price,sku,barcode\nWhistle,Swim,4.00,W-1,2000000000107\n")
	for row, says := range map[string]string{
		"Vest,S,Swim,30.00,serial,,,":                          "tracking can't be changed",
		"Vest,S,Swim,30.00,,kilogram,,":                        "unit can't be changed",
		"Vest,,Swim,30.00,,,,":                                 `varies by "Size"`,
		"Other,S,Swim,30.00,,,W-1,":                            "W-1 belongs to Whistle",
		"Other,S,Swim,30.00,,,,02000000000107":                 "belongs to Whistle",
		"Vest,M,Swim,30.00,,,,2000000000107":                   "belongs to Whistle",
		"Other,S,,30.00,,,,":                                   "has no category",
		"Other," + strings.Repeat("x", 61) + ",Swim,30.00,,,,": "",
	} {
		report, err := lists.ImportList(s.By(s.Maren),
			strings.NewReader("product,size,category,price,tracking,unit,sku,barcode\n"+row+"\n"), 1, false)
		if says == "" {
			assert.True(t, err != nil || report.Refused == 1 || report.Made == 1, row)
			continue
		}
		require.NoError(t, err, row)
		require.Equal(t, 1, report.Refused, row)
		assert.Contains(t, report.Rows[0].Detail, says)
		assert.NotEmpty(t, report.Rows[0].Field)
	}
	_, err := lists.ImportList(s.By(s.Tobi), strings.NewReader("product,price\nA,1\n"), 1, false)
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = lists.ImportList(s.By(s.Maren), strings.NewReader("product;price\n\"A;1\n"), 1, false)
	assert.Equal(t, "file", fault.Of(err).Field)
	s.InStep(t)
}

// TestImportOfManyAtOnce reads a larger list in, twice under the same key, and
// gives every variant a SKU and barcode of its own.
func TestImportOfManyAtOnce(t *testing.T) {
	s := testkit.New(t)
	var list strings.Builder
	list.WriteString("product,colour,size,category,price,cost,opening quantity\n")
	for n := range 1200 {
		fmt.Fprintf(&list, "Same name style %d,Coral,%d,Swim,9.95,4.00,2\n", n/6, n%6)
	}
	report, err := lists.ImportList(s.By(s.Maren, "big"), strings.NewReader(list.String()), 1, false)
	require.NoError(t, err)
	assert.Equal(t, 1200, report.Made)
	again, err := lists.ImportList(s.By(s.Maren, "big"), strings.NewReader(list.String()), 1, false)
	require.NoError(t, err)
	assert.Equal(t, report.Opening, again.Opening, "a repeated request gets the first answer")
	document, err := book.Document(s.Store.Read(ctx), report.Opening)
	require.NoError(t, err)
	entries, err := book.Entries(s.Store.Read(ctx), document.ID)
	require.NoError(t, err)
	assert.Len(t, entries, 1200, "one document for all of it")
	s.InStep(t)
	_, err = stockroom.Reverse(s.By(s.Maren), report.Opening, "practice")
	require.NoError(t, err, "opening stock can be reversed whole while nothing has moved since")
	s.InStep(t)
}
