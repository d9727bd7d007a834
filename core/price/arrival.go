package price

import "github.com/shopspring/decimal"

// Arrival is what the price of goods that came in could become: beside what they sell for,
// what their rule makes of what one cost, and the margin that each leaves.
type Arrival struct {
	Now   Answer `json:"now"`
	Ruled Answer `json:"ruled"`
}

// Arrived offers a new price for goods that cost so much when they came; it reports false
// where there is no rule, or it makes the price that they have.
func (b Book) Arrived(g Goods, now Answer, cost decimal.Decimal) (Arrival, bool) {
	ruled, ok := b.Ruled(g, cost)
	if !ok || now.Source != NoPrice && ruled.Amount.Equal(now.Amount) {
		return Arrival{}, false
	}
	if now.Source != NoPrice {
		now.Standing = b.Stand(now.Amount, g.Percent, Cost{Amount: cost})
	}
	return Arrival{now, ruled}, true
}

// MarginUnder reports whether the price that the goods have leaves less than so many percent,
// or there is none.
func (a Arrival) MarginUnder(percent decimal.Decimal) bool {
	return a.Now.Margin == nil || a.Now.Margin.LessThan(percent)
}
