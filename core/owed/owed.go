// Package owed says what is open of what was put on account, and what paid the rest. Its main rule: what is paid
// settles the oldest first.
package owed

import "github.com/shopspring/decimal"

// Debt is what a document put on account, less what came off it since; debts stand in the order in which they were
// made.
type Debt struct {
	Document uint64
	Amount   decimal.Decimal
}

// Payment is what was paid of all debts together: in which way, and under which reference where there is one. Payments
// stand in the order in which they were made.
type Payment struct {
	Kind      string
	Reference string
	Amount    decimal.Decimal
}

// Settled is what is open of the debt of a document, and what paid the rest of it. What came off a debt beyond what it
// was pays for others, and is told as a payment of no kind.
func Settled(document uint64, debts []Debt, payments []Payment) (open decimal.Decimal, by []Payment) {
	pool := make([]Payment, 0, len(payments))
	for _, d := range debts {
		if d.Amount.IsNegative() {
			pool = append(pool, Payment{Amount: d.Amount.Neg()})
		}
	}
	pool = append(pool, payments...)
	for _, d := range debts {
		left := decimal.Max(d.Amount, decimal.Zero)
		for left.IsPositive() && len(pool) > 0 {
			part := pool[0]
			part.Amount = decimal.Min(left, part.Amount)
			left = left.Sub(part.Amount)
			if pool[0].Amount = pool[0].Amount.Sub(part.Amount); !pool[0].Amount.IsPositive() {
				pool = pool[1:]
			}
			if d.Document == document && part.Amount.IsPositive() {
				by = append(by, part)
			}
		}
		if d.Document == document {
			return left, by
		}
	}
	return decimal.Zero, nil
}
