package reports_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/catalog"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

func TestMovementsPageByPage(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "100", "1")
	s.Open(t, 1)
	for range 7 {
		s.Sold(t, v, "1")
	}
	q := s.Store.Read(ctx)
	seen := []string{}
	filter := book.MovementFilter{Limit: 3}
	for more := true; more; {
		var rows []book.Movement
		var err error
		rows, more, err = book.Movements(q, v, filter)
		require.NoError(t, err)
		for _, r := range rows {
			seen = append(seen, r.QuantityAfter.String())
		}
		filter.Before = rows[len(rows)-1].ID
	}
	assert.Equal(t, []string{"93", "94", "95", "96", "97", "98", "99", "100"}, seen)
	rows, _, err := book.Movements(q, v, book.MovementFilter{Kind: "Delivery"})
	require.NoError(t, err)
	assert.Len(t, rows, 1)
	rows, _, err = book.Movements(q, v, book.MovementFilter{Branch: 2})
	require.NoError(t, err)
	assert.Empty(t, rows)
	levels, err := book.Levels(q, v, s.Now().AddDate(0, 0, -1))
	require.NoError(t, err)
	assert.Len(t, levels, 9)
	assert.True(t, levels[0].Quantity.IsZero())
	assert.Equal(t, "93", levels[8].Quantity.String())
	by, err := book.LevelsByBranch(q, v, s.Now().AddDate(0, 0, -1))
	require.NoError(t, err)
	require.Len(t, by, 1, "the other branch never had any")
	assert.Equal(t, "93", by[0].Levels[len(by[0].Levels)-1].Quantity.String())
	by, err = book.LevelsByBranch(q, v, s.Now().AddDate(0, 0, 1))
	require.NoError(t, err)
	require.Len(t, by, 1)
	require.Len(t, by[0].Levels, 1, "what was before stands as one level")
	assert.Equal(t, "93", by[0].Levels[0].Quantity.String())
}

// TestRestockLevel: at the level it is not low, below it is.
func TestRestockLevel(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Whistle",
		Category: "Swim",
		TaxClass: 1,
		Tracking: "counted",
		Price:    "4.00",
		Restock:  "3",
		Supplier: "Oar & Thole",
	},
	)
	require.NoError(t, err)
	v := made.Variants[0].ID
	low := func() int {
		_, n, err := book.Low(s.Store.Read(ctx), 10)
		require.NoError(t, err)
		return n
	}
	assert.Equal(t, 1, low(), "none of 3")
	s.Stock(t, v, "4", "1")
	assert.Zero(t, low())
	s.Open(t, 1)
	s.Sold(t, v, "1")
	assert.Zero(t, low(), "at the level")
	s.Sold(t, v, "1")
	assert.Equal(t, 1, low())
	s.InStep(t)
}
