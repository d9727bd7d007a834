package catalog_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
)

// TestWhatASupplierListsIsLanded: 400.00 less 8 %, plus 4 % freight is 382.72, sold at 964.95;
// an order proposes what is listed.
func TestWhatASupplierListsIsLanded(t *testing.T) {
	s := testkit.New(t)
	from, err := buying.SaveSupplier(s.By(s.Maren), 0,
		buying.SupplierInput{Name: "Northfold Neoprene", Discount: "8", Freight: "4", Markup: "110",
			Ending: "1/0.95/nearest"})
	require.NoError(t, err)
	said, err := catalog.Suggest(s.By(s.Maren), catalog.PriceQuestion{Category: "Swim",
		Supplier: "northfold neoprene", TaxClass: 1, Cost: "400.00"})
	require.NoError(t, err)
	assert.Equal(t, "382.72 964.95", said.Landed.StringFixed(2)+" "+said.Price.StringFixed(2))
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Headland wetsuit 4/3", Category: "Swim",
		Supplier: "Northfold Neoprene",
		Part:     "NF-4312",
		TaxClass: 1, Tracking: "counted", Cost: "400", OnHand: catalog.OnHand{Each: "2"}})
	require.NoError(t, err)
	v := made.Variants[0].ID
	view := s.View(t, made.ID)
	assert.Equal(t, "382.72 964.95", view.Cost.StringFixed(2)+" "+view.Variants[0].Price.StringFixed(2))
	assert.Equal(t, "765.44", s.Held(t, v).Pools[v].Value.StringFixed(2),
		"what is there is worth what it is expected to cost")
	draft, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: from.ID, Branch: 1,
		Lines: []buying.OrderLineInput{{Variant: v, Quantity: "1"}}})
	require.NoError(t, err)
	_, lines, err := storebuying.ReadOrder(s.Store.Read(ctx), draft.ID)
	require.NoError(t, err)
	assert.Equal(t, "400 8 NF-4312", lines[0].Price.String()+" "+lines[0].Discount.String()+" "+lines[0].PartNumber)
	plain, err := catalog.Suggest(s.By(s.Maren), catalog.PriceQuestion{Category: "Swim",
		Supplier: "Oar & Thole", TaxClass: 1, Cost: "400.00"})
	require.NoError(t, err)
	assert.Nil(t, plain.Landed)
	s.InStep(t)
}
