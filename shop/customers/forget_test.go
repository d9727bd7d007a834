package customers_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/shop/customers"
	"itemrack/shop/register"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
)

// planted are texts of a person, as they are typed: names with signs that JSON and LIKE write otherwise, too.
var planted = []string{`Ada "O'Penrose" <é_%>`, "ada.penrose@example.com", "07700 900123", "4 Tern Lane", "likes coral",
	"Ada Before", "before@example.com"}

// TestNothingOfAForgottenCustomerIsLeft plants what is known of a person in each table that takes it, and looks into
// every text of every table afterwards.
func TestNothingOfAForgottenCustomerIsLeft(t *testing.T) {
	s := testkit.New(t)
	require.NoError(t, s.Spoil("REPLACE INTO setting (name, value) VALUES ('name_on_receipts', 'on')"))
	m := s.Vest(t).Variants[1]
	s.Stock(t, m.ID, "50", "13.95")
	s.Open(t, 1)
	days := 14
	ada, err := customers.Make(s.By(s.Maren, "make"), customers.Input{Facts: customer.Facts{Name: planted[0],
		Mail: planted[1], Phone: planted[2], Address: planted[3] + "\nQuay", Note: planted[4], DaysToPay: &days}})
	require.NoError(t, err)
	older, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: planted[5], Mail: planted[6]}})
	require.NoError(t, err)
	oldest, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: planted[5] + " that"}})
	require.NoError(t, err)
	_, err = customers.Merge(s.By(s.Maren), older.ID, customers.MergeInput{Other: oldest.ID})
	require.NoError(t, err)
	_, err = customers.Merge(s.By(s.Maren, "merge"), ada.ID, customers.MergeInput{Other: older.ID})
	require.NoError(t, err)

	s.Basket(t, 1, m.ID)
	_, err = register.Agree(s.By(s.Tobi, "agree"), 1, register.BasketFacts{Customer: &ada.ID})
	require.NoError(t, err)
	basket, err := register.Basket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	pay := register.SaleInput{Register: 1, Basket: basket.ID, Approval: testkit.Yes(s.Maren),
		Tenders: []register.TenderInput{{Kind: sale.OnAccount, Amount: basket.Due.String()}}}
	sold, err := register.Sell(s.By(s.Tobi, "pay"), pay)
	require.NoError(t, err)
	require.NoError(t, register.PrintGift(s.By(s.Tobi), sold.Number))
	require.NoError(t, register.Reprint(s.By(s.Tobi), sold.Number))
	for _, to := range []string{"", "friend@example.com"} {
		_, err = register.MailReceipt(s.By(s.Tobi), sold.Number, register.MailInput{To: to})
		require.NoError(t, err)
	}
	_, err = register.TakeBack(s.By(s.Tobi, "back"), register.ReturnInput{Register: 1, Sale: sold.Number,
		Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	require.NoError(t, err)
	s.Basket(t, 1, m.ID)
	note := "for " + planted[0]
	_, err = register.Agree(s.By(s.Tobi, "again"), 1, register.BasketFacts{Customer: &ada.ID, Note: &note})
	require.NoError(t, err)
	_, err = register.Hold(s.By(s.Tobi, "hold"), 1, register.HoldInput{})
	require.NoError(t, err)
	s.Basket(t, 1, m.ID)
	_, err = register.Hold(s.By(s.Tobi, "hold 2"), 1, register.HoldInput{Name: planted[0]})
	require.NoError(t, err)
	_, err = stockroom.ChangeCondition(s.By(s.Maren), stockroom.ChangeInput{Variant: m.ID, Branch: 1, From: "For sale",
		To: "Lent", Quantity: "1", WithWhom: planted[0]})
	require.NoError(t, err)

	require.NoError(t, s.Spoil(`INSERT INTO approval (at, deed, what, asked_by, approved_by) VALUES (NOW(), 'account',
		'On account for Ada Before', 1, 2)`)) // as a role may have to ask

	before := traces(t, s)
	for _, table := range []string{"customer", "basket", "approval", "request_key", "print_job", "mail", "held_by"} {
		assert.Contains(t, fmt.Sprint(before), table+".", "it was planted there")
	}
	_, err = customers.Forget(s.By(s.Maren), ada.ID)
	require.NoError(t, err)
	assert.Empty(t, traces(t, s))

	again, err := register.Sell(s.By(s.Tobi, "pay"), pay)
	require.NoError(t, err, "what does not tell of the person is kept")
	assert.Equal(t, sold.Number, again.Number)
	_, err = register.Agree(s.By(s.Tobi, "agree"), 1, register.BasketFacts{Customer: &ada.ID})
	assert.True(t, fault.Is(err, fault.Conflict), "still done only once: %v", err)
	owes, _, err := customers.Read(s.By(s.Maren), ada.ID, 1)
	require.NoError(t, err)
	assert.NotEmpty(t, owes.Events, "what was bought stays")
	s.InStep(t)
}

// TestOthersWithALikeNameStay: Ann is forgotten, Joanna is not.
func TestOthersWithALikeNameStay(t *testing.T) {
	s := testkit.New(t)
	ann, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: "Ann"}})
	require.NoError(t, err)
	require.NoError(t, s.Spoil(`INSERT INTO approval (at, deed, what, asked_by, approved_by) VALUES
		(NOW(), 'account', 'On account for Joanna', 1, 2), (NOW(), 'account', 'On account for Ann', 1, 2)`))
	s.Open(t, 1)
	s.Basket(t, 1, s.Vest(t).Variants[0].ID)
	_, err = register.Hold(s.By(s.Tobi), 1, register.HoldInput{Name: "Joanna, shoes"})
	require.NoError(t, err)
	_, err = customers.Forget(s.By(s.Maren), ann.ID)
	require.NoError(t, err)
	said, err := s.AskedAll("SELECT what FROM approval ORDER BY id")
	require.NoError(t, err)
	assert.Equal(t, []string{"On account for Joanna", "On account for " + customer.Forgotten(ann.ID).Name}, said)
	held, err := s.AskedAll("SELECT name FROM basket WHERE name <> ''")
	require.NoError(t, err)
	assert.Equal(t, []string{"Joanna, shoes"}, held)
}

// traces lists the columns of all tables in which there is something planted, as it is or as JSON writes it.
func traces(t *testing.T, s *testkit.Shop) []string {
	t.Helper()
	columns, err := s.AskedAll(`SELECT CONCAT(table_name, '.', column_name) FROM information_schema.columns WHERE
		table_schema = DATABASE() AND data_type IN ('varchar', 'char', 'text', 'mediumtext', 'longtext', 'blob',
		'mediumblob', 'longblob') ORDER BY 1`)
	require.NoError(t, err)
	require.Greater(t, len(columns), 100)
	var looks []string
	var args []any
	for _, column := range columns {
		table, name, _ := strings.Cut(column, ".")
		for _, text := range planted {
			data, err := json.Marshal(text)
			require.NoError(t, err)
			looks = append(looks, fmt.Sprintf("SELECT '%s' WHERE EXISTS (SELECT 1 FROM `%s` WHERE INSTR(CONVERT(`%s` USING "+
				"utf8mb4), ?) > 0 OR INSTR(CONVERT(`%s` USING utf8mb4), ?) > 0)", column, table, name, name))
			args = append(args, text, strings.Trim(string(data), `"`))
		}
	}
	found, err := s.AskedAll(strings.Join(looks, " UNION "), args...)
	require.NoError(t, err)
	return found
}
