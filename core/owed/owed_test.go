package owed

import (
	"fmt"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
)

func TestSettled(t *testing.T) {
	d := decimal.RequireFromString
	for _, c := range []struct {
		name     string
		debts    []Debt
		payments []Payment
		of       uint64
		open, by string
	}{
		{"nothing was paid", []Debt{{1, d("50")}}, nil, 1, "50", "[]"},
		{"all was paid", []Debt{{1, d("50")}}, []Payment{{"cash", "", d("50")}}, 1, "0", "[{cash  50}]"},
		{"the oldest first", []Debt{{1, d("50")}, {2, d("30")}}, []Payment{{"card", "a", d("60")}}, 1, "0", "[{card a 50}]"},
		{"then the next", []Debt{{1, d("50")}, {2, d("30")}}, []Payment{{"card", "a", d("60")}}, 2, "20", "[{card a 10}]"},
		{"by two payments", []Debt{{1, d("50")}}, []Payment{{"cash", "", d("20")}, {"card", "a", d("25")}}, 1, "5",
			"[{cash  20} {card a 25}]"},
		{"more came off one than it was", []Debt{{1, d("-10")}, {2, d("30")}}, []Payment{{"cash", "", d("5")}}, 2, "15",
			"[{  10} {cash  5}]"},
		{"of no debt", []Debt{{1, d("50")}}, []Payment{{"cash", "", d("50")}}, 3, "0", "[]"},
		{"more was paid than is owed", []Debt{{1, d("50")}}, []Payment{{"cash", "", d("80")}}, 1, "0", "[{cash  50}]"},
	} {
		open, by := Settled(c.of, c.debts, c.payments)
		assert.Equal(t, []string{c.open, c.by}, []string{open.String(), fmt.Sprint(by)}, c.name)
	}
}
