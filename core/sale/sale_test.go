package sale_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/core/tax"
)

func line(quantity, amount, percent string) sale.Line {
	return sale.Line{Quantity: d(quantity), Price: d(amount), Percent: d(percent)}
}

func TestTotalsByRate(t *testing.T) {
	tot := sale.Sum([]sale.Line{line("1", "12.00", "20"), line("2", "5.00", "0"), line("1", "6.00", "20")})
	assert.Equal(t, "28.00", tot.Gross.StringFixed(2))
	assert.Equal(t, "3.00", tot.Tax.StringFixed(2))
	assert.Equal(t, "4", tot.Units.String())
	require.Len(t, tot.Rates, 2)
	assert.Equal(t, "18.00", tot.Rates[0].Gross.StringFixed(2))
}

func TestTakeBack(t *testing.T) {
	sold := sale.Sold{Quantity: d("3"), Paid: d("19.97"), Tax: d("3.33"), Cost: d("10.00")}
	sum := decimal.Zero
	for i, want := range []string{"6.66", "6.65", "6.66"} {
		r, err := sold.TakeBack(d("1"))
		require.NoError(t, err)
		assert.Equal(t, want, r.Amount.StringFixed(2), i)
		sold.Back, sold.Refunded = sold.Back.Add(r.Quantity), sold.Refunded.Add(r.Amount)
		sold.TaxBack, sold.CostReturned = sold.TaxBack.Add(r.Tax), sold.CostReturned.Add(r.Cost)
		sum = sum.Add(r.Amount)
	}
	assert.Equal(t, "19.97", sum.StringFixed(2))
	assert.True(t, sold.TaxBack.Equal(sold.Tax) && sold.CostReturned.Equal(sold.Cost))
	_, err := sold.TakeBack(d("1"))
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = sale.Sold{Quantity: d("3")}.TakeBack(d("4"))
	assert.Contains(t, err.Error(), "3 sold")
	_, err = sale.Sold{Quantity: d("3")}.TakeBack(d("0"))
	assert.Error(t, err)
	// 2 × 25.00 + 50.00 less 10.00: the first line was paid 45.00
	first := sale.Sold{Quantity: d("2"), Paid: d("45.00")}
	r, err := first.TakeBack(d("1"))
	require.NoError(t, err)
	assert.Equal(t, "22.50", r.Amount.StringFixed(2))
}

func TestDrawer(t *testing.T) {
	amount, err := sale.CountCash([]sale.Denomination{{Value: d("20"), Count: 5}, {Value: d("0.50"), Count: 3}},
		money.Currencies[0])
	require.NoError(t, err)
	assert.Equal(t, "101.50", amount.StringFixed(2))
	drawer := sale.Drawer{Float: d("100"), Cash: d("24.95")}
	assert.Equal(t, "124.95", drawer.ShouldBe().StringFixed(2))
	assert.Equal(t, "-23.45", drawer.Difference(amount).StringFixed(2))
	for _, bad := range []sale.Denomination{{Value: d("3"), Count: 1}, {Value: d("5"), Count: -1}} {
		_, err := sale.CountCash([]sale.Denomination{bad}, money.Currencies[0])
		assert.Error(t, err)
	}
}

// wide measures each letter as half the size.
func wide(text string, _ paper.Face, size float64) float64 {
	return float64(len([]rune(text))) * size / 2
}

// TestReceiptHoldsEverythingInside draws a long receipt and holds every shape
// on the roll.
func TestReceiptHoldsEverythingInside(t *testing.T) {
	r := sale.Receipt{
		Shop:   "Saltmarsh Paddle & Swim",
		Branch: "Quay Shop",
		Title:  "Sale Q1-00318",
		Number: "Q1-00318",
		Under:  []string{"20 Nov 2026"},
		Foot:   "Keep this.",
	}
	for range 30 {
		r.Lines = append(r.Lines,
			sale.ReceiptLine{Name: strings.Repeat("Long name ", 6), Detail: "Coral · M", Amount: "1,234.95"})
	}
	r.Sums = []sale.ReceiptSum{{Label: "Total", Amount: "£37,048.50", Large: true},
		{Label: "Cash", Amount: "40,000.00"}}
	page := r.Page(wide)
	assert.Equal(t, 80.0, page.Width)
	amounts := 0
	for _, s := range page.Shapes {
		if s.Text == "1,234.95" {
			amounts++
		}
		assert.LessOrEqual(t, s.Y+s.H, page.Height)
		if s.Text == "" {
			assert.LessOrEqual(t, s.X+s.W, 80.0)
		}
	}
	assert.Equal(t, 30, amounts)
}

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

// pence is an amount below most, in pence.
func pence(r *rand.Rand, most int64) decimal.Decimal { return decimal.New(r.Int64N(most), -2) }

func TestRefundsComeToWhatWasPaid(t *testing.T) {
	r := chance(2)
	for range 2000 {
		sold := sale.Sold{Quantity: decimal.New(1+r.Int64N(12), 0), Paid: pence(r, 90_000), Cost: pence(r, 50_000)}
		sold.Tax = tax.Included(sold.Paid, d("20"), money.Hundredth)
		paid, taxed, valued := decimal.Zero, decimal.Zero, decimal.Zero
		for sold.Back.LessThan(sold.Quantity) {
			q := decimal.New(1+r.Int64N(sold.Quantity.Sub(sold.Back).IntPart()), 0)
			back, err := sold.TakeBack(q)
			require.NoError(t, err)
			require.False(t, back.Amount.IsNegative())
			sold.Back, sold.Refunded, sold.TaxBack, sold.CostReturned = sold.Back.Add(q), sold.Refunded.Add(
				back.Amount), sold.TaxBack.Add(back.Tax), sold.CostReturned.Add(
				back.Cost,
			)
			paid, taxed, valued = paid.Add(back.Amount), taxed.Add(back.Tax), valued.Add(back.Cost)
		}
		require.Equal(t, []string{sold.Paid.StringFixed(2), sold.Tax.StringFixed(2), sold.Cost.StringFixed(2)},
			[]string{paid.StringFixed(2), taxed.StringFixed(2), valued.StringFixed(2)})
		_, err := sold.TakeBack(d("1"))
		require.True(t, fault.Is(err, fault.Refused), "nothing is left to take back")
	}
}
