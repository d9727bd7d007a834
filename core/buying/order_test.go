package buying_test

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/tax"
)

const pennies = money.Hundredth

func ordered(quantity, factor, price, discount string) buying.Ordered {
	return buying.Ordered{Quantity: d(quantity), Factor: d(factor), Price: d(price), Discount: d(discount),
		Percent: d("20")}
}

// TestALineOfAnOrder: 4 boxes of 12 at 18.00 less 8 % are 66.24, 1.38 each.
func TestALineOfAnOrder(t *testing.T) {
	line := ordered("48", "12", "18", "8")
	assert.Equal(t, "66.24", line.Net(pennies).String())
	assert.Equal(t, "1.38", line.UnitCost(pennies).String())
	packs, loose := line.Packs()
	assert.Equal(t, "4 and 0", packs.String()+" and "+loose.String())
	loosely := ordered("40", "12", "18", "0") // 3 boxes and 4 loose
	packs, loose = loosely.Packs()
	assert.Equal(t, "3 and 4", packs.String()+" and "+loose.String())
	assert.Equal(t, "60", loosely.Net(pennies).String())
	assert.Equal(t, "1.5", loosely.UnitCost(pennies).String())
	one := ordered("6", "1", "64", "8")
	assert.Equal(t, "58.88", one.UnitCost(pennies).String())
	assert.Equal(t, "61.2352", one.ExpectedLanded(buying.SupplierTerms{Freight: d("4")}, pennies).String())
	none := ordered("0", "12", "18", "8")
	assert.Equal(t, "1.38", none.UnitCost(pennies).String(), "before anything is ordered")
	assert.Equal(t, "0", buying.Ordered{Quantity: d("3"), Price: d("3")}.Net(pennies).String(), "no pack at all")
	assert.Equal(t, "100", ordered("3", "1", "33.4", "0").Net(money.Whole).String(), "in yen")
}

// TestWhatANewProductIsExpectedToCost: 400.00 less 8 %, plus 4 % freight, is 382.72; plus
// 110 % is 803.71; plus 20 % tax 964.45; nearest .95 is 964.95.
func TestWhatANewProductIsExpectedToCost(t *testing.T) {
	landed := buying.SupplierTerms{Discount: d("8"), Freight: d("4")}.ExpectedLanded(d("400"), pennies)
	assert.Equal(t, "382.72", landed.StringFixed(2))
	back := buying.SupplierTerms{Discount: d("8"), Freight: d("4")}.Listed(landed)
	assert.Equal(t, "400.00", back.StringFixed(2), "and the other way round")
	assert.True(t, buying.SupplierTerms{LeadDays: 3}.Plain())
	assert.Equal(t, "5", buying.SupplierTerms{Discount: d("100")}.Listed(d("5")).String())
	rule := price.Rule{Kind: price.Markup, Percent: d("110"), Ending: price.Ending{Step: d("1"), End: d("0.95")}}
	got, marked, ok := rule.FromCost(landed, d("20"), tax.With, pennies)
	require.True(t, ok && !marked)
	assert.Equal(t, "964.95", got.StringFixed(2))
}

func TestAnOrderComesInParts(t *testing.T) {
	a, b := ordered("6", "1", "64", "8"), ordered("8", "1", "9.50", "8")
	state := func(lines ...buying.Ordered) buying.State { return buying.StateOf(lines) }
	assert.Equal(t, buying.Placed, state(a, b))
	a.Arrived = d("4")
	assert.Equal(t, buying.PartIn, state(a, b))
	assert.Equal(t, "2", a.Outstanding().String())
	b.Arrived = d("9")
	assert.Equal(t, []string{"0", "1"}, []string{b.Outstanding().String(), b.Over().String()},
		"one over is not outstanding")
	assert.Equal(t, buying.PartIn, state(a, b))
	a = a.CallOff()
	assert.Equal(t, []string{"2", "0"}, []string{a.CalledOff.String(), a.Outstanding().String()})
	assert.Equal(t, buying.AllIn, state(a, b), "the rest is called off")
	assert.Equal(t, buying.CalledOff, state(ordered("3", "1", "1", "0").CallOff()), "nothing ever came")
	assert.Equal(t, "3", a.Resettle(d("7")).Outstanding().String(), "ordered anew")
	assert.True(t, fault.Is(a.CheckChange(d("3"), "Wetsuit"), fault.Refused), "4 are here")
	assert.NoError(t, a.CheckChange(d("4"), "Wetsuit"))
	for _, known := range append([]buying.State{""}, buying.States...) {
		_, err := buying.ParseState(string(known))
		assert.NoError(t, err)
	}
	_, err := buying.ParseState("lost")
	assert.Equal(t, "state", fault.Of(err).Field)
}

func TestLateIsPastTheWantedDay(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 11, n, 0, 0, 0, 0, time.UTC) }
	terms := buying.SupplierTerms{LeadDays: 14, DaysToPay: 30}
	wanted := terms.Wanted(day(1))
	assert.Equal(t, day(15), wanted)
	assert.Equal(t, time.Date(2026, 12, 12, 0, 0, 0, 0, time.UTC), terms.Due(day(12)))
	assert.Zero(t, buying.DaysLate(buying.Placed, &wanted, day(15)), "not on the day itself")
	assert.Equal(t, 13, buying.DaysLate(buying.PartIn, &wanted, day(28)))
	assert.Zero(t, buying.DaysLate(buying.AllIn, &wanted, day(28)), "nothing is outstanding")
	assert.Zero(t, buying.DaysLate(buying.Placed, nil, day(28)), "no day was named")
}

func TestWhatAnOrderComesTo(t *testing.T) {
	a, b := ordered("42", "1", "64", "8"), ordered("26", "1", "9.50", "8")
	a.Arrived = d("28")
	b.Arrived = d("26")
	terms := buying.SupplierTerms{Freight: d("4"), MinimumOrder: d("2500")}
	got := buying.OrderOf(terms, []buying.Ordered{a, b}, pennies)
	assert.Equal(t, []string{"2700.20", "540.04", "3240.24", "108.01", "2808.21", "0.00"},
		texts(got.Net, got.Tax, got.Gross, got.Freight, got.Landed, got.Lacking))
	assert.Equal(t, []string{"68.00", "54.00", "14.00", "1875.88", "824.32"},
		texts(got.Units, got.Here, got.ToCome, got.NetHere, got.NetOpen))
	got = buying.OrderOf(terms, []buying.Ordered{b}, pennies)
	assert.Equal(t, "2272.76", got.Lacking.StringFixed(2))
}

func texts(list ...decimal.Decimal) []string {
	said := make([]string, len(list))
	for i, x := range list {
		said[i] = x.StringFixed(2)
	}
	return said
}

func TestTermsHaveBounds(t *testing.T) {
	for field, bad := range map[string]buying.SupplierTerms{"discount": {Discount: d("101")},
		"freight":     {Freight: d("-1")},
		"days_to_pay": {DaysToPay: 731}, "lead_days": {LeadDays: -1}} {
		err := bad.Check()
		require.Error(t, err)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	assert.NoError(t, buying.SupplierTerms{Discount: d("100"), Freight: d("1000"), DaysToPay: 730}.Check())
}

// TestWhatCameIsSharedOverTheOrders: nothing is lost, nothing is given twice, and no line but
// the last gets more than it awaits.
func TestWhatCameIsSharedOverTheOrders(t *testing.T) {
	r := chance(9)
	for range 2000 {
		lines := make([]buying.Ordered, r.IntN(4))
		for i := range lines {
			lines[i] = ordered(decimal.New(r.Int64N(20), 0).String(), "1", "1", "0")
			lines[i].Arrived = decimal.New(r.Int64N(25), 0)
		}
		q := decimal.New(r.Int64N(60), 0)
		shares := buying.Allot(q, lines)
		sum := decimal.Zero
		for i, share := range shares {
			require.False(t, share.IsNegative())
			if i < len(shares)-1 {
				require.False(t, share.GreaterThan(lines[i].Outstanding()))
			}
			sum = sum.Add(share)
		}
		if len(lines) > 0 {
			require.True(t, sum.Equal(q))
		}
	}
	shares := buying.Allot(d("9"), []buying.Ordered{ordered("6", "1", "1", "0"), ordered("8", "1", "1", "0")})
	assert.Equal(t, []string{"6.00", "3.00"}, texts(shares...))
}
