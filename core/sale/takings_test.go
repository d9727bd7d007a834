package sale

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"

	"itemrack/core/money"
)

func TestTakingsAreTold(t *testing.T) {
	pounds := money.CurrencyByCode("GBP")
	of := func(n int, gross string) Takings { return Takings{n, decimal.RequireFromString(gross)} }
	for _, c := range []struct {
		now, then Takings
		says      string
	}{
		{of(6, "884.40"), of(4, "442.20"), "£884.40 taken from 6 sales, twice last Thursday's by now."},
		{of(1, "100"), of(4, "98.00"), "£100.00 taken from 1 sale, about as much as last Thursday's by now."},
		{of(2, "112"), of(4, "100"), "£112.00 taken from 2 sales, 12 % more than last Thursday's by now."},
		{of(2, "50"), of(4, "100"), "£50.00 taken from 2 sales, half of last Thursday's by now."},
		{of(2, "1"), of(4, "100"), "£1.00 taken from 2 sales, 99 % less than last Thursday's by now."},
		{of(2, "1234.50"), of(4, "100"), "£1,234.50 taken from 2 sales, 12.3 times last Thursday's by now."},
		{of(2, "9"), of(0, "0"), "£9.00 taken from 2 sales; last Thursday there was nothing by now."},
		{of(0, "0"), of(3, "40"), "Nothing sold yet today; last Thursday it was £40.00 by now."},
		{of(0, "0"), of(0, "0"), "Nothing sold yet today."},
	} {
		assert.Equal(t, c.says, c.now.Says(c.then, "Thursday", pounds))
	}
}
