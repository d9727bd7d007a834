package reports_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/ledger"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// TestTheBooks: buy 150 at 32.00, sell all at 55.00 with no tax.
func TestTheBooks(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Child's vest",
		Category: "Swim",
		TaxClass: 3,
		Supplier: "Kelpline Textiles",
		Tracking: "counted",
		Price:    "55.00",
	},
	)
	require.NoError(t, err)
	v := made.Variants[0].ID
	s.Stock(t, v, "150", "32")
	s.Open(t, 1)
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "150"}}, Cash: "8250"})
	require.NoError(t, err)
	accounts, err := book.Accounts(s.Store.Read(ctx))
	require.NoError(t, err)
	books := map[ledger.Account]string{}
	for _, a := range accounts {
		books[a.Account] = a.Amount.StringFixed(2)
	}
	assert.Equal(
		t,
		map[ledger.Account]string{
			ledger.Cash:        "8250.00",
			ledger.Payable:     "-4800.00",
			ledger.Stock:       "0.00",
			ledger.Income:      "-8250.00",
			ledger.CostOfSales: "4800.00",
		},
		books,
	)
}

// TestVerifyNamesWhatIsWrong spoils one record after another behind the door's
// back, and holds that the check that should see it does.
func TestVerifyNamesWhatIsWrong(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	board := s.Simple(t, "Board", "serial", "400.00")
	s.Stock(t, v, "5", "1")
	s.Receive(t,
		buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "310", Serials: "A1"}}})
	s.Open(t, 1)
	s.Sold(t, v, "2")
	s.InStep(t)
	for check, spoil := range map[string][2]string{
		"every balance is the sum of its entries": {"UPDATE balance SET quantity = quantity + 1 " +
			"WHERE variant_id = 1", "UPDATE balance SET quantity = quantity - 1 WHERE variant_id = 1"},
		"every cost pool is the sum of its entries": {"UPDATE cost_pool SET value = value + 0.01 " +
			"WHERE variant_id = 1", "UPDATE cost_pool SET value = value - 0.01 WHERE variant_id = 1"},
		"what is for sale, and what runs low, follows the balances": {"UPDATE cost_pool SET low = 1 WHERE " +
			"variant_id = 1", "UPDATE cost_pool SET low = 0 WHERE variant_id = 1"},
		"the figures after each entry run on from the one before": {"UPDATE entry SET quantity_after = " +
			"quantity_after + 1 WHERE id = 1", "UPDATE entry SET quantity_after = quantity_after - 1 WHERE id = 1"},
		"every unit in stock lies where the balances say": {"UPDATE unit SET shelf_id = 2", "UPDATE unit " +
			"SET shelf_id = 1"},
		"serial-numbered stock is worth its units' own costs": {"UPDATE unit SET cost = cost + 1", "UPDATE unit SET " +
			"cost = cost - 1"},
		"every document's postings add up to zero": {"UPDATE ledger_posting SET amount = amount + " +
			"1 WHERE id = 1", "UPDATE ledger_posting SET amount = amount - 1 WHERE id = 1"},
		"every sale is the sum of its lines and of what was paid": {"UPDATE sale SET gross = gross + 1",
			"UPDATE sale SET gross = gross - 1"},
		"every sale's cost is what its entries took out": {"UPDATE sale_line SET cost = cost + 1",
			"UPDATE sale_line SET cost = cost - 1"},
		"what each variant costs and asks, and what is left of that, is in the lists": {
			"UPDATE cost_pool SET cost = cost + 1", "UPDATE cost_pool SET cost = cost - 1"},
		"every drawer's cash is in the books": {"UPDATE tender SET amount = amount + 1",
			"UPDATE tender SET amount = amount - 1"},
		"what stands under receivable, card, rounding and exchange is what the documents say": {"UPDATE tender SET kind = 'card'",
			"UPDATE tender SET kind = 'cash'"},
		"what is left on each voucher is what was put on it and taken off": {"INSERT INTO credit (kind, code, " +
			"balance, given_at) " +
			"VALUES ('voucher', 'VO-1', 1, NOW())", "DELETE FROM credit"},
		"what stands under vouchers and store credit is what is left on them": {"INSERT INTO credit (kind, " +
			"code, balance, given_at) " +
			"VALUES ('voucher', 'VO-1', 1, NOW())", "DELETE FROM credit"},
	} {
		require.NoError(t, s.Spoil(spoil[0]))
		checks, err := book.Verify(ctx, s.Store, s.Now(), func(book.Check) {})
		require.NoError(t, err)
		named := ""
		for _, c := range checks {
			if c.Name == check {
				named = c.Wrong
			}
		}
		assert.NotEmpty(t, named, check)
		require.NoError(t, s.Spoil(spoil[1]))
		s.InStep(t)
	}
}
