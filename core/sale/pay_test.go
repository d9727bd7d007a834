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
		due, step := cents("due", 20000), d("0"+rapid.SampledFrom(sale.Steps(money.Hundredth)).Draw(t, "step"))
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
		paid, err := sale.Pay(due, left.Ways, step, money.Hundredth)
		if !left.Done { // nothing in cash, and too little otherwise
			require.Error(t, err)
			require.True(t, left.Left.LessThan(step) && left.InCash.Equal(left.Left))
			return
		}
		require.NoError(t, err)
		require.True(t, paid.Sum().Equal(due), "%s of %s", paid.Sum(), due)
		require.True(t, paid.Change().Equal(left.Change), "%s and %s", paid.Change(), left.Change)
		require.False(t, paid.Change().IsNegative())
	})
}

// TestOnlyCashIsRounded: what a card leaves is not lost to a rounding.
func TestOnlyCashIsRounded(t *testing.T) {
	for _, c := range []struct{ due, step, card, left string }{{"12.37", "0.05", "12.35", "0.02"},
		{"12.49", "1", "12", "0.49"},
		{"10", "0.05", "9.98", "0.02"}} {
		for _, cash := range [][]sale.Tender{nil, {{Kind: sale.Cash}}} {
			_, err := sale.Pay(d(c.due), append([]sale.Tender{{Kind: sale.Card, Amount: d(c.card)}}, cash...), d(c.step),
				money.Hundredth)
			assert.Equal(t, "card", fault.Of(err).Field, "%s of %s", c.card, c.due)
			assert.Contains(t, err.Error(), c.left)
		}
		left, err := sale.Try(d(c.due), []sale.Way{{Tender: sale.Tender{Kind: sale.Card, Amount: d(c.card)}},
			{Tender: sale.Tender{Kind: sale.Cash}, All: true}}, d(c.step), money.Hundredth)
		require.NoError(t, err)
		assert.False(t, left.Done)
		assert.Equal(t, c.left, left.InCash.String())
	}
	paid, err := sale.Pay(d("0.02"), nil, d("0.05"), money.Hundredth)
	require.NoError(t, err, "all of it in cash is nothing")
	assert.Equal(t, "0.02", paid.Of(sale.CashRounded).String())
}

// TestCashBackIsRoundedInAll: what comes back one by one gives what was paid for all, and two returns of one basket are
// rounded once.
func TestCashBackIsRoundedInAll(t *testing.T) {
	r := sale.Refunding{Step: d("0.05")}
	var given []string
	for range 3 {
		given = append(given, r.Of(d("4.13"), nil, sale.AsPaid).Of(sale.Cash).Neg().String())
	}
	assert.Equal(t, []string{"4.15", "4.1", "4.15"}, given, "12.40 in all, as it was paid")
	later := sale.Refunding{Step: d("0.05")}
	later.After(d("8.26"), d("8.25"))
	assert.Equal(t, "4.15", later.Of(d("4.13"), nil, sale.AsPaid).Of(sale.Cash).Neg().String(), "on another day")
	two := sale.Refunding{Step: d("0.05")}
	sum := two.Of(d("1.03"), nil, sale.AsPaid).Of(sale.Cash).Add(two.Of(d("1.03"), nil, sale.AsPaid).Of(sale.Cash))
	assert.Equal(t, "-2.05", sum.String(), "as it was shown")
}

// TestWhatIsOwedComesOffTheAccount first, whoever brings it and whatever is bought for it: an exchange makes no money
// of an unpaid sale, nor does store credit.
func TestWhatIsOwedComesOffTheAccount(t *testing.T) {
	paid := []sale.Tender{{Kind: sale.OnAccount, Amount: d("30")}, {Kind: sale.Card, Amount: d("20"), Reference: "c"}}
	for _, c := range []struct {
		how  sale.RefundHow
		due  string
		want string
	}{
		{sale.AsPaid, "0", "on account -30; card -20; "},
		{sale.ToCredit, "0", "on account -30; store credit -20; "},
		{sale.InCash, "0", "on account -30; cash -20; "},
		{sale.AsPaid, "45", "on account -30; exchange -20; "},
		{sale.AsPaid, "15", "on account -30; exchange -15; card -5; "},
	} {
		r, said := sale.Refunding{Due: d(c.due)}, ""
		for _, t := range r.Of(d("50"), paid, c.how) {
			said += string(t.Kind) + " " + t.Amount.String() + "; "
		}
		assert.Equal(t, c.want, said, "%s, %s due", c.how, c.due)
	}
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
