// Package ledger is the double entry behind each document. Its main rule: the
// postings of a document add up to zero; a debit is positive, a credit negative.
package ledger

import (
	"fmt"
	"sort"

	"github.com/shopspring/decimal"
)

// Account is one account of the books.
type Account string

// The accounts of the books.
const (
	Stock       Account = "stock"
	Cash        Account = "cash"
	Card        Account = "card"
	Payable     Account = "payable"
	TaxIn       Account = "tax in"
	TaxOut      Account = "tax out"
	Income      Account = "income"
	CostOfSales Account = "cost of sales"
	StockLoss   Account = "stock loss"
	StockGain   Account = "stock gain"
	Opening     Account = "opening balance"
	CashOver    Account = "cash over and short"
	Bank        Account = "bank"
	// ReceivedNotBilled is a credit for goods whose bill has not come, and a debit for what
	// is billed and has not come.
	ReceivedNotBilled Account = "received, not billed"
	CreditExpected    Account = "credit expected"
	PriceVariance     Account = "price variance"
	Vouchers          Account = "vouchers"
	StoreCredit       Account = "store credit"
	Receivable        Account = "receivable"
	CashRounding      Account = "cash rounding"
	// Exchange holds what came back on a basket until the sale of that basket takes it: it is
	// empty between baskets.
	Exchange Account = "exchange"
	GivenOff Account = "given off"
	Expenses Account = "expenses"
	Owner    Account = "owner"
)

// Posting is an amount on an account: a debit when positive, a credit when not.
type Posting struct {
	Account Account         `json:"account"`
	Amount  decimal.Decimal `json:"amount"`
}

// Postings collects what a document posts, one sum for each account.
type Postings map[Account]decimal.Decimal

// Add puts an amount on an account.
func (p Postings) Add(account Account, amount decimal.Decimal) {
	p[account] = p[account].Add(amount)
}

// List returns the postings that are not zero, in the order of their names.
func (p Postings) List() []Posting {
	list := make([]Posting, 0, len(p))
	for account, amount := range p {
		if !amount.IsZero() {
			list = append(list, Posting{account, amount})
		}
	}
	sort.Slice(list, func(a, b int) bool { return list[a].Account < list[b].Account })
	return list
}

// Balanced returns an error when the postings do not add up to zero.
func Balanced(list []Posting) error {
	sum := decimal.Zero
	for _, posting := range list {
		sum = sum.Add(posting.Amount)
	}
	if !sum.IsZero() {
		return fmt.Errorf("the postings are out of balance by %s", sum)
	}
	return nil
}
