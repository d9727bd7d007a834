package prices_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/price"
	"itemrack/shop/catalog"
	"itemrack/shop/prices"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// agree holds that the list, the swing tag and the price that explains itself say the
// same of a variant, and that lists filter by it.
func agree(t *testing.T, s *testkit.Shop, v uint64, step string) (asked, margin string, under bool) {
	t.Helper()
	q := s.Store.Read(ctx)
	rows, _, err := goods.Variants(q, goods.ListFilter{}, 1)
	require.NoError(t, err)
	var row goods.VariantRow
	for _, r := range rows {
		if r.ID == v {
			row = r
		}
	}
	require.Equal(t, v, row.ID, step)
	why, err := prices.ExplainPrice(s.By(s.Maren), v, "", "")
	require.NoError(t, err)
	regular := why[0].Answer
	require.NotNil(t, row.Price, step)
	assert.True(t, row.Price.Equal(regular.Amount), "%s: the list says %s, explained %s", step, row.Price,
		regular.Amount)
	require.NotNil(t, row.Margin, step)
	require.NotNil(t, regular.Margin, step)
	assert.True(t, row.Margin.Equal(*regular.Margin), "%s: the list says margin %s, explained %s", step, row.Margin,
		regular.Margin)
	assert.Equal(t, regular.Under, row.Under, step)
	view := s.View(t, row.ProductID)
	tag := view.Variants[0]
	assert.True(t, tag.Price.Equal(regular.Amount), "%s: the tag says %s", step, tag.Price)
	require.NotNil(t, tag.Answer.Margin, step)
	assert.True(t, tag.Answer.Margin.Equal(*regular.Margin), "%s: the tag says margin %s", step, tag.Answer.Margin)
	assert.Equal(t, regular.Under, tag.Under, step)
	found, _, err := goods.Variants(q, goods.ListFilter{UnderCost: true}, 1)
	require.NoError(t, err)
	assert.Equal(t, regular.Under, len(found) == 1, "%s: the filter", step)
	return regular.Amount.StringFixed(2), regular.Margin.String(), regular.Under
}

// TestEverythingSaysTheSameOfAPrice follows a price through all that may change what it
// is, what the goods cost or what is left of it.
func TestEverythingSaysTheSameOfAPrice(t *testing.T) {
	s := testkit.New(t)
	list, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Paddle float",
		Category: "Swim",
		Supplier: "Oar & Thole",
		TaxClass: 1,
		Tracking: "counted",
		Cost:     "10",
		Markup:   "100",
	},
	)
	require.NoError(t, err)
	v := list.Variants[0].ID
	asked, margin, _ := agree(t, s, v, "expected cost")
	assert.Equal(t, []string{"24.00", "50"}, []string{asked, margin})

	s.Stock(t, v, "10", "20")
	asked, _, _ = agree(t, s, v, "a delivery")
	assert.Equal(t, "48.00", asked, "the list asks what the register asks")
	s.Open(t, 1)
	s.Sold(t, v, "3")
	agree(t, s, v, "a sale")
	s.Stock(t, v, "1", "3.33")
	agree(t, s, v, "a cheap delivery")

	_, err = prices.SetPrices(s.By(s.Maren), list.ID, prices.PriceChange{Price: "12.00"})
	require.NoError(t, err)
	_, _, under := agree(t, s, v, "a price under cost")
	assert.True(t, under)
	_, err = prices.SavePriceList(s.By(s.Maren), price.Regular, prices.ListInput{Name: "Regular"})
	require.NoError(t, err)
	agree(t, s, v, "the Regular list saved anew")
	_, err = stockroom.ChangeCondition(s.By(s.Callum), stockroom.ChangeInput{Variant: v, Branch: 1, Quantity: "2",
		From: "For sale", To: "Seconds"})
	require.NoError(t, err)
	agree(t, s, v, "some are seconds")

	_, err = prices.SetPrices(s.By(s.Maren), list.ID,
		prices.PriceChange{Price: "60.00", From: s.Now().Add(time.Hour).Format("2006-01-02T15:04")})
	require.NoError(t, err)
	agree(t, s, v, "a price to come")
	more := s.Stock(t, v, "5", "50")
	agree(t, s, v, "a dear delivery")
	_, err = stockroom.Reverse(s.By(s.Maren), more.Number, "wrong shop")
	require.NoError(t, err)
	agree(t, s, v, "which is undone")
	s.InStep(t)
}
