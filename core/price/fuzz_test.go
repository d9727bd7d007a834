package price

import (
	"testing"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
)

func FuzzEnding(f *testing.F) {
	for _, text := range []string{"1/0.95/nearest", "10/9/down", "0.5/0", "/", "1/2/up", "1/0.95/sideways",
		"1e9/1/up"} {
		f.Add(text, "12.34")
	}
	f.Fuzz(func(t *testing.T, text, amount string) {
		e, err := ParseEnding(text, money.Hundredth)
		if err != nil {
			return
		}
		again, err := ParseEnding(e.Text(), money.Hundredth)
		if err != nil || again.Text() != e.Text() {
			t.Fatalf("%q is %q and %q (%v)", text, e.Text(), again.Text(), err)
		}
		price, err := money.Hundredth.Parse("price", amount)
		if err != nil || !price.IsPositive() {
			return
		}
		if ended, _ := e.Apply(price, money.Hundredth); !ended.IsPositive() || !ended.Equal(ended.Round(2)) {
			t.Fatalf("%s ends %q as %s", price, text, ended)
		}
	})
}

func FuzzChange(f *testing.F) {
	for _, text := range []string{"-10", "+5 %", "−2.50", "1/0.95/up", "", "--1", "100000"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, kind := range []ChangeKind{ByPercent, ByAmount, ToEnding, "by magic"} {
			c, err := ParseChange(kind, text, money.Hundredth)
			if err != nil {
				continue
			}
			if changed, _ := c.Apply(decimal.New(1234, -2)); !changed.Equal(changed.Round(2)) {
				t.Fatalf("12.34 changed by %q is %s", text, changed)
			}
		}
	})
}
