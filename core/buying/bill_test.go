package buying_test

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/ledger"
)

// TestADearerBill: 10 in at 20.00, tax 20 %, the bill says 210.00 net.
func TestADearerBill(t *testing.T) {
	b, err := buying.BillOf([]buying.BillLine{{Quantity: d("10"), Net: d("210"), Percent: d("20"), Unbilled: d("10"),
		UnbilledValue: d("200")}},
		decimal.Zero, decimal.Zero, nil, pennies)
	require.NoError(t, err)
	assert.Equal(t, []string{"200.00", "10.00", "42.00", "252.00"}, texts(b.Cleared, b.Differs, b.Tax, b.Payable))
	p := b.Postings()
	assert.Equal(t, "-252", p[ledger.Payable].String())
	assert.Equal(t, "-10", sum(p).String(), "what the goods take is posted with them")
}

func sum(p ledger.Postings) decimal.Decimal {
	all := decimal.Zero
	for _, posting := range p.List() {
		all = all.Add(posting.Amount)
	}
	return all
}

// TestABillThatIsNotAsItShouldBe: more than came, fewer, dearer; waited for, or a credit
// expected.
func TestABillThatIsNotAsItShouldBe(t *testing.T) {
	line := buying.BillLine{Quantity: d("6"), Net: d("353.28"), Percent: d("20"), Unbilled: d("4"),
		UnbilledValue: d("235.52")}
	b := line.Bill(pennies)
	assert.Equal(t, []string{"4.00", "2.00", "117.76", "0.00", "0.00"},
		texts(b.Came, b.AheadUnits, b.Ahead, b.Differs, b.Credit), "2 are waited for")
	line.Missing = buying.ExpectCredit
	b = line.Bill(pennies)
	assert.Equal(t, []string{"0.00", "0.00", "117.76"}, texts(b.AheadUnits, b.Ahead, b.Credit))
	few := buying.BillLine{Quantity: d("8"), Net: d("69.92"), Unbilled: d("9"), UnbilledValue: d("78.66")}
	b = few.Bill(pennies)
	assert.Equal(t, []string{"69.92", "1.00", "0.00"}, texts(b.Cleared, b.Left, b.Differs),
		"one stays under received, not billed")
	dear := buying.BillLine{Quantity: d("8"), Net: d("76"), Unbilled: d("8"), UnbilledValue: d("69.92")}
	assert.Equal(t, "6.08", dear.Bill(pennies).Differs.StringFixed(2))
	dear.Dearer = buying.ExpectCredit
	b = dear.Bill(pennies)
	assert.Equal(t, []string{"0.00", "6.08"}, texts(b.Differs, b.Credit))
	before := buying.BillLine{Quantity: d("5"), Net: d("50")}
	b = before.Bill(pennies)
	assert.Equal(t, []string{"5.00", "50.00", "0.00"}, texts(b.AheadUnits, b.Ahead, b.Differs),
		"the bill before the goods")
}

// TestTheirPaperCounts: up to five hundredths apart it is taken as it stands.
func TestTheirPaperCounts(t *testing.T) {
	lines := []buying.BillLine{{Quantity: d("3"), Net: d("9.99"), Percent: d("20"), Unbilled: d("3"),
		UnbilledValue: d("9.99")}}
	for paper, rounding := range map[string]string{"17.99": "0.00", "18.04": "0.05", "17.94": "-0.05"} {
		typed := d(paper)
		b, err := buying.BillOf(lines, d("5"), d("20"), &typed, pennies)
		require.NoError(t, err)
		assert.Equal(t, rounding, b.Rounding.StringFixed(2))
		assert.Equal(t, "-5", sum(b.Postings()).String(), "the freight goes to the goods")
	}
	typed := d("18.05")
	_, err := buying.BillOf(lines, d("5"), d("20"), &typed, pennies)
	assert.Equal(t, "total", fault.Of(err).Field)
}

// TestNothingIsLostInABill: whatever it says, what is posted and what the goods take add up.
func TestNothingIsLostInABill(t *testing.T) {
	r := chance(12)
	for range 3000 {
		lines := make([]buying.BillLine, 1+r.IntN(5))
		goods := decimal.Zero
		for i := range lines {
			lines[i] = buying.BillLine{Quantity: decimal.New(1+r.Int64N(20), 0), Net: pence(r, 50000),
				Percent: d("20"), Unbilled: decimal.New(r.Int64N(20), 0),
				Dearer: []buying.Then{"", buying.ExpectCredit}[r.IntN(2)], Missing: []buying.Then{"",
					buying.ExpectCredit}[r.IntN(2)]}
			if lines[i].Unbilled.IsPositive() {
				lines[i].UnbilledValue = pence(r, 50000)
			}
			b := lines[i].Bill(pennies)
			goods = goods.Add(b.Differs)
			require.True(t, b.Cleared.Add(b.Ahead).Add(b.Differs).Add(b.Credit).Equal(lines[i].Net), "line by line")
			require.False(t, b.Cleared.GreaterThan(lines[i].UnbilledValue))
			require.True(t, b.Came.Add(b.Left).Equal(lines[i].Unbilled))
		}
		freight := pence(r, 3000)
		b, err := buying.BillOf(lines, freight, d("20"), nil, pennies)
		require.NoError(t, err)
		require.True(t, sum(b.Postings()).Add(goods).Add(freight).IsZero())
	}
}

// TestGoodsSentBack: 3 bought at 20.00 go back at an average of 21.00, credited 60.00.
func TestGoodsSentBack(t *testing.T) {
	p := buying.SentBack(d("63"), d("60"))
	assert.Equal(t, []string{"-63.00", "60.00", "3.00"}, texts(p[ledger.Stock], p[ledger.CreditExpected],
		p[ledger.PriceVariance]))
	assert.True(t, sum(p).IsZero())
	c := buying.Credit(d("58"), d("20"), d("60"), pennies)
	assert.Equal(t, []string{"11.60", "69.60", "2.00"}, texts(c.Tax, c.Gross, c.Variance))
	p = c.Postings()
	assert.Equal(t, []string{"-60.00", "69.60", "2.00"}, texts(p[ledger.CreditExpected], p[ledger.Payable],
		p[ledger.PriceVariance]))
	assert.True(t, sum(p).IsZero())
}

func TestPaying(t *testing.T) {
	parts := []buying.Part{{"B-1", d("252"), d("252")}, {"B-2", d("100"), d("40")}, {"CN-1", d("-60"), d("-60")}}
	paid, p, err := buying.Pay(parts, buying.Outside)
	require.NoError(t, err)
	assert.Equal(t, "232", paid.String())
	assert.Equal(t, "-232", p[ledger.Bank].String())
	_, p, err = buying.Pay(parts[:1], buying.Drawer)
	require.NoError(t, err)
	assert.Equal(t, "-252", p[ledger.Cash].String())
	for field, bad := range map[string][]buying.Part{"amount": {{"B-1", d("10"), d("10.01")}},
		"parts": {{"CN-1", d("-60"), d("-60")}}} {
		_, _, err := buying.Pay(bad, buying.Outside)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	_, _, err = buying.Pay(nil, buying.Outside)
	assert.Equal(t, "parts", fault.Of(err).Field)
	_, _, err = buying.Pay(parts, "pocket")
	assert.Equal(t, "from", fault.Of(err).Field)
}

func TestWhatIsOwedHasAnAge(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n) }
	for over, want := range map[int]buying.Age{-8: buying.NotDue, -7: buying.DueSoon, 0: buying.DueSoon,
		1: buying.Over30, 30: buying.Over30,
		31: buying.Over60, 60: buying.Over60, 61: buying.OverLong} {
		assert.Equal(t, want, buying.AgeOf(day(-over), day(0)), over)
	}
}

// TestWhatABillMakesDearer: what it asks beyond what was agreed goes to the goods that are
// dearer, its freight to all that it bills, by value, quantity or weight.
func TestWhatABillMakesDearer(t *testing.T) {
	light, heavy := d("1"), d("4")
	goods := []buying.Goods{{Line: 7, Name: "Cap", Units: d("10"), Net: d("200"), Differs: d("10"), Kilos: &light},
		{Line: 8, Name: "Bag", Units: d("5"), Net: d("200"), Kilos: &heavy}, {Line: 9, Name: "Rope", Differs: d("-1")}}
	for spread, want := range map[buying.Spread][]string{buying.ByValue: {"25.00", "15.00", "-1.00"},
		buying.ByQuantity: {"30.00", "10.00", "-1.00"},
		buying.ByWeight:   {"20.00", "20.00", "-1.00"}} {
		by, err := buying.Dearer(goods, d("30"), spread, pennies)
		require.NoError(t, err)
		assert.Equal(t, want, texts(by[7], by[8], by[9]), spread)
	}
	goods[1].Kilos = nil
	_, err := buying.Dearer(goods, d("30"), buying.ByWeight, pennies)
	assert.ErrorContains(t, err, "What one Bag weighs is not known.")
	by, err := buying.Dearer(goods, decimal.Zero, buying.ByWeight, pennies)
	require.NoError(t, err, "nothing is spread")
	assert.Equal(t, []string{"10.00", "0.00"}, texts(by[7], by[8]))
	_, err = buying.Dearer(goods[2:], d("30"), buying.ByValue, pennies)
	assert.Equal(t, "delivery_ids", fault.Of(err).Field, "freight of nothing")
}

// TestACreditIsExpectedByTax: the supplier's credit notes will say the tax of each.
func TestACreditIsExpectedByTax(t *testing.T) {
	lines := []buying.BillLine{{Quantity: d("4"), Net: d("80"), Percent: d("20"), Missing: buying.ExpectCredit},
		{Quantity: d("2"), Net: d("10"), Percent: d("0"), Missing: buying.ExpectCredit},
		{Quantity: d("1"), Net: d("5"), Percent: d("20"), Missing: buying.ExpectCredit}, {Quantity: d("1"),
			Net: d("9"), Percent: d("5")}}
	b, err := buying.BillOf(lines, decimal.Zero, decimal.Zero, nil, pennies)
	require.NoError(t, err)
	var said []string
	sum := decimal.Zero
	for _, c := range b.CreditsByTax(lines) {
		said = append(said, c.Percent.String()+" %: "+c.Net.StringFixed(2))
		sum = sum.Add(c.Net)
	}
	assert.Equal(t, []string{"20 %: 85.00", "0 %: 10.00"}, said)
	assert.True(t, sum.Equal(b.Credit))
}

// TestGoodsMeetWhatWasBilledBefore: 5 billed for 60.00 before they came, agreed at 10.00 each.
func TestGoodsMeetWhatWasBilledBefore(t *testing.T) {
	lines := []buying.Line{{Quantity: d("3"), Cost: d("10")}, {Quantity: d("4"), Cost: d("10")}}
	totals, err := buying.Compute(buying.Bill{}, lines)
	require.NoError(t, err)
	waiting := []buying.Ahead{{OrderLine: 1, Units: d("5"), Worth: d("60")},
		{OrderLine: 2, Units: d("9"), Worth: d("9")}}
	coming := []buying.Coming{{Line: 0, OrderLine: 1, Units: d("3")}, {Line: 1, OrderLine: 1, Units: d("4")}}
	_, err = totals.Meet(waiting, coming, lines, false, pennies)
	assert.Equal(t, "bill_later", fault.Of(err).Field, "they can't be billed again")
	met, err := totals.Meet(waiting, coming, lines, true, pennies)
	require.NoError(t, err)
	assert.Equal(t, []string{"3.00", "2.00"}, texts(met...))
	assert.Equal(t, []string{"36.00", "44.00", "80.00"}, texts(totals.Lines[0].Value, totals.Lines[1].Value,
		totals.Net), "12.00 each of what was billed")
	assert.Equal(t, []string{"0.00", "20.00"}, texts(totals.Lines[0].Open(), totals.Lines[1].Open()),
		"two are not billed yet")
	assert.Equal(t, []string{"0.00", "0.00", "9.00"}, texts(waiting[0].Units, waiting[0].Worth, waiting[1].Units))
}
