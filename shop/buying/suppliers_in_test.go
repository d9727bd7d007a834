package buying_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// TestAListOfSuppliersIsReadIn: tried, refused row by row, all or nothing; the same again
// changes nothing.
func TestAListOfSuppliersIsReadIn(t *testing.T) {
	s := testkit.New(t)
	supplier := neoprene(t, s)
	said := func(read buying.SuppliersRead) string {
		var all []string
		for _, r := range read.Rows {
			all = append(all, r.Name+" "+r.Outcome)
		}
		return strings.Join(all, ", ")
	}
	list := "Supplier;Discount %;Lead days;Mail\nNORTHFOLD Neoprene;7,5;21;\nПоставщик 漢;;3;a@b.example\n"
	read := func(text string, dry bool) (buying.SuppliersRead, error) {
		return buying.ReadSuppliersIn(s.By(s.Maren), []byte(text), dry)
	}
	tried, err := read(list, true)
	require.NoError(t, err)
	assert.Equal(t, "NORTHFOLD Neoprene changed, Поставщик 漢 made", said(tried))
	assert.False(t, tried.Done)
	row, contacts, err := goods.ReadSupplier(s.Store.Read(ctx), supplier)
	require.NoError(t, err)
	assert.Equal(t, "8", row.Discount.String(), "only tried")
	assert.Len(t, contacts, 1)
	bad, err := read(list+"Odd;101;;\nNorthfold Neoprene;;;\n;;;x\n", false)
	require.NoError(t, err)
	assert.Equal(t, 3, bad.Refused)
	assert.Contains(t, bad.Rows[2].Says, "101 %")
	assert.Contains(t, bad.Rows[3].Says, "line 2")
	row, _, err = goods.ReadSupplier(s.Store.Read(ctx), supplier)
	require.NoError(t, err)
	assert.Equal(t, "8", row.Discount.String(), "all or nothing")
	done, err := read(list, false)
	require.NoError(t, err)
	assert.True(t, done.Done)
	row, contacts, err = goods.ReadSupplier(s.Store.Read(ctx), supplier)
	require.NoError(t, err)
	assert.Equal(t, "Northfold Neoprene 7.5 21 4 orders@northfold.example",
		strings.Join([]string{row.Name, row.Discount.String(), "21", row.Freight.String(), contacts[0].Mail}, " "))
	again, err := read(list, false)
	require.NoError(t, err)
	assert.Equal(t, "NORTHFOLD Neoprene the same, Поставщик 漢 the same", said(again))
	for _, odd := range []string{"", "name\nA\n", "supplier\n"} {
		_, err := read(odd, false)
		require.Error(t, err, odd)
		assert.Equal(t, "file", fault.Of(err).Field)
	}
}
