package sale

import (
	"fmt"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/text"
)

// Takings are what the sales of a day came to up to a moment: how many, and what was paid.
type Takings struct {
	Sales int
	Gross decimal.Decimal
}

// Says tells takings in a sentence, beside those of the same day a week before up to the same
// time: "£884.40 taken from 6 sales, twice last Thursday's by now." Day is its name.
func (t Takings) Says(before Takings, day string, c money.Currency) string {
	if t.Sales == 0 {
		switch {
		case before.Sales == 0:
			return "Nothing sold yet today."
		default:
			return fmt.Sprintf("Nothing sold yet today; last %s it was %s by now.", day, c.Format(before.Gross))
		}
	}
	said := fmt.Sprintf("%s taken from %s", c.Format(t.Gross), text.Plural(t.Sales, "sale", "sales"))
	if !before.Gross.IsPositive() {
		return fmt.Sprintf("%s; last %s there was nothing by now.", said, day)
	}
	return fmt.Sprintf("%s, %s last %s's by now.", said, beside(t.Gross, before.Gross), day)
}

// beside says how an amount stands to another: as much as, so many percent more or less than,
// so many times.
func beside(now, then decimal.Decimal) string {
	percent := now.Mul(decimal.New(100, 0)).DivRound(then, 0).IntPart()
	switch {
	case percent >= 97 && percent <= 103:
		return "about as much as"
	case percent >= 190 && percent <= 210:
		return "twice"
	case percent > 210:
		return now.DivRound(then, 1).String() + " times"
	case percent > 100:
		return fmt.Sprintf("%d %% more than", percent-100)
	case percent >= 48 && percent <= 52:
		return "half of"
	}
	return fmt.Sprintf("%d %% less than", 100-percent)
}
