package register_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

func TestDiscontinuedSellsUntilItIsGone(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	v := made.Variants[0].ID
	s.Stock(t, v, "2", "13.95")
	_, err := catalog.ChangeBulk(s.By(s.Maren), catalog.BulkChange{Products: []uint64{made.ID}, What: "discontinued",
		To: "yes"})
	require.NoError(t, err)
	s.Open(t, 1)
	sold := s.Sold(t, v, "2")
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     sold.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	count, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), count.ID, counts.CountInput{Variant: v, Quantity: "1"})
	require.NoError(t, err)
	for answer, want := range map[string]int{"yes": 1, "no": 0, "": 1} {
		rows, _, err := goods.Products(s.Store.Read(ctx), goods.ListFilter{Discontinued: answer}, 1)
		require.NoError(t, err)
		assert.Len(t, rows, want, "discontinued %q", answer)
	}
	_, err = catalog.DropProduct(s.By(s.Maren), made.ID)
	assert.True(t, fault.Is(err, fault.Refused), "it has entries")
	empty, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Mistake", Category: "Swim",
		Tracking: "counted", TaxClass: 1})
	require.NoError(t, err)
	_, err = catalog.DropProduct(s.By(s.Maren), empty.ID)
	require.NoError(t, err)
	_, err = goods.ReadProduct(s.Store.Read(ctx), empty.ID, 1, s.Now())
	assert.True(t, fault.Is(err, fault.NotFound))
	s.InStep(t)
}
