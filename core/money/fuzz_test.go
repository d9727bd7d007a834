package money

import (
	"testing"

	"itemrack/core/fault"
)

func FuzzAmount(f *testing.F) {
	for _, text := range []string{"34.95", "1,234.50", "-1", "1e5", "", " 5 ", ".5", "0.001", "99999999999999999999"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, minor := range []Minor{Whole, Hundredth, Thousandth} {
			amount, err := minor.Parse("price", text)
			if err != nil {
				if fault.Of(err) == nil {
					t.Fatalf("%q: %v is no sentence for people", text, err)
				}
				continue
			}
			again, err := minor.Parse("price", amount.String())
			if err != nil || !again.Equal(amount) || amount.IsNegative() || !amount.Equal(minor.Round(amount)) {
				t.Fatalf("%q is %s and %s (%v)", text, amount, again, err)
			}
		}
		if cost, err := ParseCost("cost", text); err == nil &&
			(cost.IsNegative() || !cost.Equal(cost.Round(CostPlaces))) {
			t.Fatalf("%q is a cost of %s", text, cost)
		}
	})
}
