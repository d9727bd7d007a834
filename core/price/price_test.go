package price

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/tax"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func ending(step, end string, way Way) Ending { return Ending{Step: d(step), End: d(end), Way: way} }

func TestEndings(t *testing.T) {
	for _, c := range []struct {
		amount, step, end string
		way               Way
		want              string
		marked            bool
	}{
		{"41.37", "1", "0.95", Nearest, "40.95", false},
		{"41.37", "1", "0.95", Up, "41.95", false},
		{"41.37", "1", "0.95", Down, "40.95", false},
		{"823.40", "10", "9", Nearest, "819.00", false},
		{"824", "10", "9", Nearest, "829.00", false}, // a tie goes up
		{"12.32", "0.05", "0", Nearest, "12.30", false},
		{"12.325", "0.05", "0", Nearest, "12.35", false},
		{"0.44", "1", "0.95", Nearest, "0.95", true}, // never zero or less
		{"0.44", "1", "0.95", Down, "0.95", true},
		{"0.30", "1", "0", Down, "1.00", true},
		{"40.95", "1", "0.95", Up, "40.95", false},
		{"41.375", "0", "0", "", "41.38", false},
	} {
		got, marked := ending(c.step, c.end, c.way).Apply(d(c.amount), money.Hundredth)
		assert.Equal(t, c.want, got.StringFixed(2), "%+v", c)
		assert.Equal(t, c.marked, marked, "%+v", c)
	}
	assert.NoError(t, Ending{}.Check(money.Hundredth))
	for _, bad := range []Ending{ending("1", "1", Up), ending("0", "0.5", Up), ending("1", "0.95", "sideways"),
		ending("0.001", "0", Up), ending("-1", "0", Up)} {
		assert.Error(t, bad.Check(money.Hundredth), "%v", bad)
	}
}

func TestAnEndingIsNeverFarAndNeverNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		step := decimal.New(rapid.Int64Range(1, 2000).Draw(t, "step"), -2)
		end := decimal.New(rapid.Int64Range(0, step.Shift(2).IntPart()-1).Draw(t, "end"), -2)
		amount := decimal.New(rapid.Int64Range(0, 1_000_000).Draw(t, "amount"), -2)
		for _, way := range []Way{Nearest, Up, Down} {
			got, marked := Ending{step, end, way}.Apply(amount, money.Hundredth)
			require.True(t, got.IsPositive())
			require.True(t, got.Sub(end).Mod(step).IsZero(), "%s is no multiple of %s plus %s", got, step, end)
			if !marked {
				require.True(t, got.Sub(amount).Abs().LessThanOrEqual(step))
			}
			again, _ := Ending{step, end, way}.Apply(got, money.Hundredth)
			require.Equal(t, got.String(), again.String(), "an ending stays")
		}
	})
}

func TestRules(t *testing.T) {
	// 110 % on 13.95 net is 29.295, with 20 % tax 35.154, ending .95
	r := Rule{Kind: Markup, Percent: d("110"), Ending: ending("1", "0.95", Nearest)}
	amount, marked, ok := r.FromCost(d("13.95"), d("20"), tax.With, money.Hundredth)
	require.True(t, ok)
	assert.False(t, marked)
	assert.Equal(t, "34.95", amount.StringFixed(2))
	amount, _, _ = r.FromCost(d("13.95"), d("20"), tax.Without, money.Hundredth)
	assert.Equal(t, "28.95", amount.StringFixed(2))
	amount, _, _ = Rule{Kind: Margin, Percent: d("50")}.FromCost(d("10"), d("0"), tax.With, money.Hundredth)
	assert.Equal(t, "20.00", amount.StringFixed(2))
	_, _, ok = r.FromCost(decimal.Zero, d("20"), tax.With, money.Hundredth)
	assert.False(t, ok)
	_, _, ok = Rule{Kind: Fixed}.FromCost(d("1"), d("20"), tax.With, money.Hundredth)
	assert.False(t, ok)
	for _, bad := range []Rule{{Kind: "x"}, {Kind: Markup, Percent: d("-1")}, {Kind: Margin, Percent: d("100")},
		{Kind: OtherList}, {Kind: OtherList, List: 2, Percent: d("-101")},
		{Kind: Fixed, Amount: d("-1")}, {Kind: Markup, Percent: d("100000")}, {Kind: Markup,
			Ending: ending("1", "2", Up)}} {
		assert.Error(t, bad.Check(money.Hundredth), "%v", bad)
	}
	assert.NoError(t, Rule{}.Check(money.Hundredth))
	names := map[uint64]string{1: "Regular"}
	assert.Equal(t, "Regular − 10 %, nearest 0.95 at every 1",
		Rule{Kind: OtherList, List: 1, Percent: d("-10"), Ending: ending("1", "0.95", Nearest)}.String(names))
	assert.Equal(t, "Regular + 2.5", Rule{Kind: OtherList, List: 1, Amount: d("2.5")}.String(names))
}

func day(n int) time.Time { return time.Date(2026, 11, n, 9, 0, 0, 0, time.UTC) }

func book() Book {
	return Book{
		Basis: tax.With,
		Zone:  time.UTC,
		Lists: []List{
			{ID: 1, Name: "Regular"},
			{
				ID:   2,
				Name: "Club",
				Rule: Rule{Kind: OtherList, List: 1, Percent: d("-10"), Ending: ending("1", "0.95", Nearest)},
			},
			{ID: 3, Name: "Staff", Rule: Rule{Kind: Markup, Percent: d("20")}},
		},
	}
}

func TestWhatACustomerPays(t *testing.T) {
	one := d("1")
	g := Goods{
		Own: Rows{1: {{Since: day(1), Amount: d("45")}}},
		Product: Rows{
			1: {{Since: day(1), Amount: d("40")}, {Since: day(9), Amount: d("42")}, {Since: day(30), Amount: d("44")}},
		},
		Percent: d("20"),
		Cost:    d("14"),
	}
	a := book().Find(g, Regular, one, day(10))
	assert.Equal(t, []any{"45", OwnPrice}, []any{a.Amount.String(), a.Source})
	g.Own = nil
	a = book().Find(g, Regular, one, day(8))
	assert.Equal(t, "40", a.Amount.String())
	a = book().Find(g, Regular, one, day(10))
	assert.Equal(t, []any{"42", ProductPrice}, []any{a.Amount.String(), a.Source})
	assert.Equal(t, []Step{{"Regular: product's price, since 9 Nov 2026 09:00", d("42")}}, a.Why)
	a = book().Find(g, Regular, one, day(0))
	assert.Equal(t, NoPrice, a.Source)

	a = book().Find(g, 2, one, day(10)) // 42 − 10 % = 37.80 → 37.95
	assert.Equal(t, []any{"37.95", ByRule, 2}, []any{a.Amount.String(), a.Source, len(a.Why)})
	a = book().Find(g, 3, one, day(10)) // 14 + 20 % = 16.80 net
	assert.Equal(t, "20.16", a.Amount.StringFixed(2))
	assert.False(t, a.Under)
	g.Own = Rows{3: {{Since: day(1), Amount: d("16.50")}}} // 13.75 net
	a = book().Find(g, 3, one, day(10))
	assert.True(t, a.Under)
	assert.Equal(t, "13.75", a.Why[len(a.Why)-1].Amount.String())
}

func TestQuantityBreaks(t *testing.T) {
	g := Goods{
		Product: Rows{
			1: {{Since: day(1), Amount: d("9.49")}, {Since: day(2), From: d("10"), Amount: d("8.50")},
				{Since: day(3), From: d("50"), Amount: d("8")}, {Since: day(20), From: d("10"), Amount: d("8.25")}},
		},
	}
	for q, want := range map[string]string{"1": "9.49", "9.99": "9.49", "10": "8.5", "49": "8.5", "50": "8"} {
		a := book().Find(g, Regular, d(q), day(5))
		assert.Equal(t, want, a.Amount.String(), q)
	}
	assert.Equal(t, "8.25", book().Find(g, Regular, d("12"), day(21)).Amount.String())
	assert.Equal(t, "8.95", book().Find(g, 2, d("1"), day(5)).Amount.String(),
		"9.49 − 10 % = 8.541, nearest ending .95 is 8.95")
}

func TestPacksAndRulesOfTheProduct(t *testing.T) {
	unit := Goods{
		Product: Rows{1: {{Since: day(1), Amount: d("1.60")}, {Since: day(1), From: d("12"), Amount: d("1.50")}}},
	}
	pack := Goods{Factor: d("12"), Unit: &unit}
	a := book().Find(pack, Regular, d("1"), day(5))
	assert.Equal(t, "18", a.Amount.String(), "twelve reach the break")
	pack.Product = Rows{1: {{Since: day(1), Amount: d("17.40")}}}
	assert.Equal(t, "17.4", book().Find(pack, Regular, d("1"), day(5)).Amount.String())
	club := Book{
		Lists: []List{{ID: 1, Name: "Regular"},
			{ID: 2, Name: "Club", Rule: Rule{Kind: OtherList, List: 1, Percent: d("-5")}},
			{ID: 3, Name: "Friends", Rule: Rule{Kind: OtherList, List: 2, Percent: d("-50")}}},
	}
	assert.Equal(
		t,
		[]string{"16.53", "8.27"},
		[]string{club.Find(pack, 2, d("1"), day(5)).Amount.StringFixed(2),
			club.Find(pack, 3, d("1"), day(5)).Amount.StringFixed(2)},
		"off the pack's price: never more than it is for everybody",
	)
	loose := Goods{Factor: d("12"), Unit: &unit}
	assert.Equal(t, "17.16", club.Find(loose, 2, d("1"), day(5)).Amount.StringFixed(2),
		"12 × 1.43 where the pack has no price")
	pack.Cost = d("1.50")
	assert.True(t, book().Find(pack, Regular, d("1"), day(5)).Under, "12 × 1.50 is more than 17.40")

	g := Goods{
		Rule:     Rule{Kind: Markup, Percent: d("110"), Ending: ending("1", "0.95", Nearest)},
		RuleFrom: "Rash vests",
		Cost:     d("13.95"),
		Percent:  d("20"),
	}
	a = book().Find(g, Regular, d("1"), day(5))
	assert.Equal(t, []any{"34.95", ByRule}, []any{a.Amount.StringFixed(2), a.Source})
	assert.Contains(t, a.Why[1].Says, "Rule from Rash vests: cost + 110 %")
	g.Cost = decimal.Zero
	assert.Equal(t, NoPrice, book().Find(g, Regular, d("1"), day(5)).Source)
	assert.Equal(t, NoPrice, book().Find(g, 2, d("1"), day(5)).Source)
}

func TestListsDoNotLeadBackToThemselves(t *testing.T) {
	assert.NoError(t, CheckLists(book().Lists))
	round := []List{{ID: 1, Name: "A", Rule: Rule{Kind: OtherList, List: 2}},
		{ID: 2, Name: "B", Rule: Rule{Kind: OtherList, List: 1}}}
	assert.True(t, fault.Is(CheckLists(round), fault.Refused))
	assert.Error(t, CheckLists([]List{{ID: 1, Rule: Rule{Kind: OtherList, List: 9}}}))
	assert.Equal(t, NoPrice, Book{Lists: round}.Find(Goods{}, 1, d("1"), day(1)).Source, "it ends all the same")
}

func TestMarginsAndPerUnit(t *testing.T) {
	m, ok := MarginOf(d("29.12"), d("13.95"))
	assert.True(t, ok)
	assert.Equal(t, "52.1 %", Describe(m))
	m, _ = MarkupOf(d("29.12"), d("13.95"))
	assert.Equal(t, "108.7 %", Describe(m))
	assert.Equal(t, "−3.0 %", Describe(d("-3")))
	_, ok = MarginOf(decimal.Zero, d("1"))
	assert.False(t, ok)
	for _, c := range []struct{ amount, content, measure, want, of string }{{"14.50", "200", "ml", "7.25", "100 ml"},
		{"9", "750", "ml", "12.00", "l"}, {"3", "0.5", "kg", "6.00", "kg"}, {"1.80", "1", "m", "1.80", "m"}} {
		got, of, ok := PerUnit(d(c.amount), d(c.content), c.measure, money.Hundredth)
		require.True(t, ok)
		assert.Equal(t, []string{c.want, c.of}, []string{got.StringFixed(2), of})
	}
	_, _, ok = PerUnit(d("1"), d("1"), "bushel", money.Hundredth)
	assert.False(t, ok)
}
