package sale_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/sale"
)

func try(t *testing.T, due string, step string, ways ...sale.Way) sale.Left {
	t.Helper()
	left, err := sale.Try(d(due), ways, d(step), money.Hundredth)
	require.NoError(t, err)
	return left
}

func way(kind sale.TenderKind, amount string) sale.Way {
	return sale.Way{Tender: sale.Tender{Kind: kind, Amount: d(amount)}}
}

func TestWhatIsLeftToPay(t *testing.T) {
	left := try(t, "19.98", "0", way(sale.Cash, "20"))
	assert.True(t, left.Done)
	assert.Equal(t, "0.02", left.Change.String())
	left = try(t, "19.98", "0", way(sale.Cash, "10.005"))
	assert.False(t, left.Done)
	assert.Equal(t, "9.975", left.InCash.String(), "in dinar too")
	assert.True(t, try(t, "5", "0", way(sale.Cash, "5.00")).Change.IsZero())
	left = try(t, "12.37", "0.05")
	assert.Equal(t, "12.37 12.35", left.Left.String()+" "+left.InCash.String())

	all := func(kind sale.TenderKind) sale.Way { return sale.Way{Tender: sale.Tender{Kind: kind}, All: true} }
	left = try(t, "50", "0", way(sale.ByVoucher, "20"), way(sale.Cash, "10"), all(sale.Card))
	assert.True(t, left.Done)
	assert.Equal(t, "20", left.Ways[2].Amount.String(), "a card takes what is left after voucher and cash")
	onIt := d("7.50")
	voucher := all(sale.ByVoucher)
	voucher.OnIt = &onIt
	left = try(t, "50", "0", voucher)
	assert.Equal(t, "7.5 42.5", left.Ways[0].Amount.String()+" "+left.Left.String(), "no more than is on it")
	_, err := sale.Try(d("50"), []sale.Way{way(sale.Card, "50.01")}, d("0"), money.Hundredth)
	assert.Equal(t, "card", fault.Of(err).Field, "change comes from cash only")
}

// TestWhatIsTriedIsWhatIsPaid holds that paying takes what trying said.
func TestWhatIsTriedIsWhatIsPaid(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cents := func(name string, most int) decimal.Decimal {
			return decimal.New(int64(rapid.IntRange(0, most).Draw(t, name)), -2)
		}
		due, step := cents("due", 20000), d("0"+rapid.SampledFrom(sale.Steps).Draw(t, "step"))
		var ways []sale.Way
		for range rapid.IntRange(0, 3).Draw(t, "ways") {
			kind := rapid.SampledFrom([]sale.TenderKind{sale.Cash, sale.Card, sale.ByVoucher}).Draw(t, "kind")
			ways = append(ways, sale.Way{Tender: sale.Tender{Kind: kind, Amount: cents("amount", 9000)}})
		}
		ways = append(ways, sale.Way{Tender: sale.Tender{Kind: sale.Cash}, All: true})
		left, err := sale.Try(due, ways, step, money.Hundredth)
		if err != nil {
			_, paying := sale.Pay(due, left.Ways, step, money.Hundredth)
			require.True(t, len(left.Ways) < len(ways) || paying != nil)
			return
		}
		require.True(t, left.Done)
		paid, err := sale.Pay(due, left.Ways, step, money.Hundredth)
		require.NoError(t, err)
		require.True(t, paid.Sum().Equal(due), "%s of %s", paid.Sum(), due)
		require.True(t, paid.Change().Equal(left.Change), "%s and %s", paid.Change(), left.Change)
		require.False(t, paid.Change().IsNegative())
	})
}

func TestOnlyTheTotalThatWasShownIsPaid(t *testing.T) {
	total := d("19.98")
	require.NoError(t, sale.CheckShown("", total, money.Hundredth), "a program that never showed one")
	require.NoError(t, sale.CheckShown(" 19.98 ", total, money.Hundredth))
	require.NoError(t, sale.CheckShown("19.980", total, money.Hundredth))
	require.NoError(t, sale.CheckShown("-32.00", d("-32"), money.Hundredth), "what goes back")
	require.Error(t, sale.CheckShown("32.00", d("-32"), money.Hundredth))
	said := fault.Of(sale.CheckShown("10.00", total, money.Hundredth))
	require.NotNil(t, said)
	assert.Equal(t, "total", said.Field)
	assert.Equal(t, fault.Conflict, said.Kind)
	require.Error(t, sale.CheckShown("ten", total, money.Hundredth))
}
