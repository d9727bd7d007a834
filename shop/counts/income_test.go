package counts_test

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/ledger"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/counts"
)

// TestIncomeIsThatOfTheBooks, whether prices are kept with tax or without: classes of goods follow from it.
func TestIncomeIsThatOfTheBooks(t *testing.T) {
	for _, without := range []bool{false, true} {
		plan := testkit.Plan
		plan.WithoutTax = without
		s := testkit.Planned(t, plan)
		v := s.Simple(t, "Whistle", "counted", "12.00")
		s.Stock(t, v, "9", "4.00")
		s.Open(t, 1)
		sold := s.Sold(t, v, "3")
		_, err := s.TakeBack(1, sold.Number, 1, "1", "For sale")
		require.NoError(t, err)
		q := s.Store.Read(ctx)
		income, err := counts.Income(q, s.Now().Add(-time.Hour))
		require.NoError(t, err)
		accounts, err := book.Accounts(q)
		require.NoError(t, err)
		want := decimal.Zero
		for _, a := range accounts {
			if a.Account == ledger.Income {
				want = a.Amount.Neg()
			}
		}
		assert.Equal(t, want.StringFixed(2), income[v].StringFixed(2), "kept without tax: %v", without)
		if without {
			assert.Equal(t, "24.00", income[v].StringFixed(2), "2 × 12.00; 2 × 14.40 were paid")
		}
	}
}
