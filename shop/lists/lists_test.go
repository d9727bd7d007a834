package lists_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/lists"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
)

const stockList = `product,style,colour,swatch,size,category,supplier,tax class,sku,barcode,price,cost,opening quantity,restock level
Tidewater rash vest,TWV,Coral,#D9604C,S,Swim > Rash vests,Kelpline Textiles,Standard,,00123,34.95,13.95,6,4
Tidewater rash vest,TWV,Coral,#D9604C,M,Swim > Rash vests,Kelpline Textiles,Standard,,,34.95,13.95,0,4
Tidewater rash vest,TWV,Kelp,,M,Swim > Rash vests,Kelpline Textiles,Standard,,,36.95,13.95,2,4
Whistle,,,,,Boathouse,,Standard,LESSON,,35.00,,,
`

func TestImport(t *testing.T) {
	s := testkit.New(t)
	load := func(text string, dry bool) lists.ListReport {
		t.Helper()
		report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(text), 1, dry)
		require.NoError(t, err)
		return report
	}
	dry := load(stockList, true)
	assert.Equal(t, 4, dry.Made)
	rows, _, err := book.StockList(s.Store.Read(ctx), book.StockQuery{}, 1)
	require.NoError(t, err)
	assert.Empty(t, rows, "a dry run keeps nothing")

	report := load(stockList, false)
	assert.Equal(t, []int{4, 0, 0, 0}, []int{report.Made, report.Changed, report.Same, report.Refused})
	assert.Equal(t, "OS-0001", report.Opening)
	rows, _, err = book.StockList(s.Store.Read(ctx), book.StockQuery{ListFilter: goods.ListFilter{Words: "tidewater"}}, 1)
	require.NoError(t, err)
	require.Len(t, rows, 3)
	assert.Equal(t, "83.70", rows[0].Value.StringFixed(2))
	assert.True(t, rows[1].Low, "none of a restock level of 4")
	found, err := goods.Find(s.Store.Read(ctx), "00123", 5)
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, "TWV-COR-S", found[0].Code)
	s.InStep(t)

	again := load(stockList, false)
	assert.Equal(t, []int{0, 0, 4, 0}, []int{again.Made, again.Changed, again.Same, again.Refused},
		"the same file twice changes nothing")
	assert.Empty(t, again.Opening)

	changed := strings.Replace(stockList, "S,Swim > Rash vests,Kelpline Textiles,Standard,,00123,34.95",
		"S,Swim > Rash vests,Kelpline Textiles,Standard,,00123,33.95", 1) +
		"Tidewater rash vest,TWV,Sand,#D8C29A,M,Swim > Rash vests,Kelpline Textiles,Standard,,,34.95,13.95,3,4\n"
	report = load(changed, false)
	assert.Equal(t, []int{1, 1, 3, 0}, []int{report.Made, report.Changed, report.Same, report.Refused})
	assert.Equal(t, "price 34.95 → 33.95", report.Rows[0].Detail)

	head, _, _ := strings.Cut(stockList, "\n")
	bad := load(
		head+"\nOther,,,,,Swim,,Standard,,00123,1.00,,,\nThird,,,,,Swim,,Nonesuch,,,1.00,,,\nTidewater rash "+
			"vest,,,,,Swim > Rash vests,,Standard,,,1.00,,,\n",
		false)
	assert.Equal(t, 3, bad.Refused)
	assert.Contains(t, bad.Rows[0].Detail, "belongs to Tidewater rash vest, Coral · S")
	assert.Contains(t, bad.Rows[1].Detail, "no tax class")
	assert.NotEmpty(t, bad.Rows[2].Detail)
	id, err := goods.ProductByName(s.Store.Read(ctx), "Other")
	require.NoError(t, err)
	assert.Zero(t, id, "one refused row keeps all from being imported")
	s.InStep(t)
}
