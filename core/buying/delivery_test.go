package buying_test

import (
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/tax"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestLandedCost(t *testing.T) {
	one := func(bill buying.Bill, lines ...buying.Line) buying.Totals {
		totals, err := buying.Compute(bill, lines)
		require.NoError(t, err)
		sum := decimal.Zero
		for _, p := range totals.Postings().List() {
			sum = sum.Add(p.Amount)
		}
		assert.True(t, sum.IsZero())
		return totals
	}
	// 12 bought for 302.40 including 20 % tax → net 252.00 → 21.00 each
	tot := one(buying.Bill{CostsIncludeTax: true}, buying.Line{Quantity: d("12"), Cost: d("25.20"), Percent: d("20")})
	assert.Equal(t, "252.00", tot.Net.StringFixed(2))
	assert.Equal(t, "50.40", tot.Tax.StringFixed(2))
	assert.Equal(t, "21.00", tot.Lines[0].UnitCost.StringFixed(2))
	// freight 30.00 over 10 at 20.00 and 5 at 40.00
	lines := []buying.Line{{Quantity: d("10"), Cost: d("20")}, {Quantity: d("5"), Cost: d("40")}}
	tot = one(buying.Bill{Extra: d("30"), Spread: buying.ByValue}, lines...)
	assert.Equal(t, []string{"21.50", "43.00"},
		[]string{tot.Lines[0].UnitCost.StringFixed(2), tot.Lines[1].UnitCost.StringFixed(2)})
	tot = one(buying.Bill{Extra: d("30"), Spread: buying.ByQuantity}, lines...)
	assert.Equal(t, []string{"22.00", "42.00"},
		[]string{tot.Lines[0].UnitCost.StringFixed(2), tot.Lines[1].UnitCost.StringFixed(2)})
	assert.Equal(t, "430.00", tot.Net.StringFixed(2))
	// freight of 36.00 including 20 % is 30.00, whatever the goods are taxed by
	tot = one(buying.Bill{Extra: d("36"), ExtraPercent: d("20"), CostsIncludeTax: true, Spread: buying.ByValue},
		lines...)
	assert.Equal(t, []string{"21.50", "43.00", "6.00"}, []string{tot.Lines[0].UnitCost.StringFixed(2),
		tot.Lines[1].UnitCost.StringFixed(2), tot.Tax.StringFixed(2)})
	// by weight: 10 of 1.5 kg and 5 of 9 kg; one that nobody weighed takes no share, and is told
	light, heavy := d("1.5"), d("9")
	lines[0].Kilos, lines[1].Kilos = &light, &heavy
	tot = one(buying.Bill{Extra: d("30"), Spread: buying.ByWeight}, lines...)
	assert.Equal(t, []string{"7.50", "22.50"}, texts(tot.Lines[0].Extra, tot.Lines[1].Extra))
	assert.Empty(t, tot.NotWeighed)
	lines[0].Kilos = nil
	tot = one(buying.Bill{Extra: d("30"), Spread: buying.ByWeight}, lines...)
	assert.Equal(t, []int{0}, tot.NotWeighed)
	tot = one(buying.Bill{Spread: buying.ByWeight}, lines...)
	assert.Empty(t, tot.NotWeighed, "without freight nothing need be weighed")
}

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

// pence is an amount below most, in pence.
func pence(r *rand.Rand, most int64) decimal.Decimal { return decimal.New(r.Int64N(most), -2) }

func TestADeliveryAlwaysBalances(t *testing.T) {
	r := chance(3)
	for range 1500 {
		bill := buying.Bill{
			CostsIncludeTax: r.IntN(2) == 0,
			Extra:           pence(r, 5000),
			ExtraPercent:    d("20"),
			Spread:          []buying.Spread{"", buying.ByValue, buying.ByQuantity, buying.ByWeight}[r.IntN(4)],
		}
		lines := make([]buying.Line, 1+r.IntN(8))
		for i := range lines {
			lines[i] = buying.Line{
				Quantity: decimal.New(1+r.Int64N(40), 0),
				Cost:     decimal.New(r.Int64N(90_000_000), -6),
				Percent:  []decimal.Decimal{d("0"), d("5"), d("20")}[r.IntN(3)],
			}
			if kilos := decimal.New(r.Int64N(20_000), -3); r.IntN(4) > 0 {
				lines[i].Kilos = &kilos
			}
		}
		totals, err := buying.Compute(bill, lines)
		require.NoError(t, err)
		require.NoError(t, ledger.Balanced(totals.Postings().List()))
		extra, value := decimal.Zero, decimal.Zero
		for _, l := range totals.Lines {
			require.True(t, l.Value.Equal(money.Hundredth.Round(l.Value)), "stock is kept in pence")
			extra, value = extra.Add(l.Extra), value.Add(l.Value)
		}
		freight := bill.Extra
		if bill.CostsIncludeTax {
			freight = freight.Sub(tax.Included(freight, bill.ExtraPercent, bill.Minor))
		}
		require.True(t, extra.Equal(freight), "freight is spread to the last penny")
		require.True(t, value.Equal(totals.Net))
	}
	_, err := buying.Compute(buying.Bill{Spread: "weather"}, nil)
	assert.Equal(t, "spread", fault.Of(err).Field)
}
