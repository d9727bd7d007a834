package buying_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
)

// TestScansOfADelivery: the first proposes what is outstanding, the second counts.
func TestScansOfADelivery(t *testing.T) {
	one, twelve, out := d("1"), d("12"), d("6")
	said := func(g buying.Got) string { return g.Quantity.String() + " " + string(g.How) }
	var g buying.Got
	g = g.Scan(one, out, false)
	assert.Equal(t, "6 proposed", said(g))
	assert.Equal(t, "6 as ordered", said(g.Take()), "other goods were scanned")
	assert.Equal(t, "7 ", said(g.Take().Scan(one, out, false)), "one over")
	assert.Equal(t, "4 ", said(g.Scan(d("4"), out, true)), "a number overrides")
	g = g.Scan(one, out, false)
	assert.Equal(t, "2 ", said(g), "counted one by one")
	g = g.Scan(one, out, false)
	assert.Equal(t, "3 ", said(g))
	assert.Equal(t, "3 ", said(g.Take()), "what is counted stays")
	assert.Equal(t, "24 ", said(buying.Got{}.Scan(twelve, d("48"), false).Scan(twelve, d("48"), false)), "boxes")
	assert.Equal(t, "1 ", said(buying.Got{}.Scan(one, decimal.Zero, false)), "not ordered")
	assert.Equal(t, "1 ", said(buying.Got{}.Scan(one, one, false)), "the last one")
	assert.Equal(t, "1 ", said(buying.Got{}.Scan(one, out, true)), "with its serial number")
	assert.Equal(t, "6 proposed", said(buying.Got{Quantity: out, How: buying.Proposed}.Type(out)))
	assert.Equal(t, "5 ", said(buying.Got{Quantity: out, How: buying.Proposed}.Type(d("5"))))
	p := buying.Progress{Outstanding: out, Got: d("7")}
	assert.Equal(t, "0 1", p.Short().String()+" "+p.Over().String())
	p.Got = d("4")
	assert.Equal(t, "2 0", p.Short().String()+" "+p.Over().String())
}

func TestWhatAnOrderIsProposedAt(t *testing.T) {
	terms := buying.SupplierTerms{Discount: d("8")}
	box := buying.Offer{Pack: "box", Factor: d("12")}
	price := func(o buying.Offer) string {
		if o.Price == nil {
			return "nobody knows, less " + o.Discount.String()
		}
		return o.Pack + " " + o.Price.String() + " less " + o.Discount.String()
	}
	paid, expected, last := d("18"), d("1.6"), d("1.38")
	before := buying.Offer{Pack: "box", Factor: d("12"), Price: &paid, Discount: d("5")}
	assert.Equal(t, "box 18 less 5", price(buying.Propose(&before, box, &expected, &last, terms, pennies)),
		"the last time")
	assert.Equal(t, "box 20.87 less 8", price(buying.Propose(nil, box, &expected, &last, terms, pennies)),
		"what it is expected to cost")
	assert.Equal(t, "box 18 less 8", price(buying.Propose(nil, box, nil, &last, terms, pennies)), "what it did cost")
	assert.Equal(t, "nobody knows, less 8", price(buying.Propose(nil, box, nil, &decimal.Zero, terms, pennies)))
	assert.Equal(t, " 1.5 less 5", price(before.Repack("", d("1"))), "singly at the same price")
	assert.Equal(t, "nobody knows, less 0", price(buying.Single().Repack("box", d("12"))))
}

func TestAChangeOfAnOrderIsSaid(t *testing.T) {
	whole := func(q decimal.Decimal) string { return q.String() }
	from := ordered("6", "1", "64", "8")
	to := from
	told := func() string {
		said, costs := buying.Change("Slate M", from, to, whole)
		return said + "|" + costs
	}
	assert.Equal(t, "|", told())
	to.Quantity = d("8")
	assert.Equal(t, "Slate M 6 → 8|", told())
	from.Quantity = d("0")
	to.Price = d("70")
	assert.Equal(t, "Slate M 8 new|", told(), "what is new changes no cost")
	from, to.Price = to, d("64")
	from.Price, to.Discount = d("64"), d("5")
	assert.Equal(t, "|Slate M 64 less 8 % → 64 less 5 %", told(), "costs are told apart")
	to.Quantity = d("9")
	assert.Equal(t, "Slate M 8 → 9|Slate M 64 less 8 % → 64 less 5 %", told(), "and both, where both change")
}

// TestALinesTotal: 8 boxes of 12 for 144.00 are 96 units at 1.50.
func TestALinesTotal(t *testing.T) {
	all := d("144")
	got, err := buying.Compute(buying.Bill{Spread: buying.ByValue},
		[]buying.Line{{Quantity: d("96"), Total: &all, Percent: d("20")}})
	require.NoError(t, err)
	assert.Equal(t, []string{"144.00", "28.80", "1.50"}, texts(got.Net, got.Tax, got.Lines[0].UnitCost))
	all = d("100")
	got, err = buying.Compute(buying.Bill{Spread: buying.ByValue, CostsIncludeTax: true},
		[]buying.Line{{Quantity: d("3"), Total: &all, Percent: d("0")}})
	require.NoError(t, err)
	assert.Equal(t, "100.00", got.Net.StringFixed(2), "to the penny, though a third has no end")
	_, err = buying.Compute(buying.Bill{Spread: "guess"}, nil)
	assert.Equal(t, "spread", fault.Of(err).Field)
}
