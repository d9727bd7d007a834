package register_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/price"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/device"
	"itemrack/shop/buying"
	"itemrack/shop/customers"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	shopprices "itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storecustomers "itemrack/store/customers"
	"itemrack/store/devices"
	"itemrack/store/goods"
	storeoffice "itemrack/store/office"
	"itemrack/store/till"
)

// goodsAt makes counted goods at these prices, nine of each in stock at a tenth of the price.
func goodsAt(t *testing.T, s *testkit.Shop, prices ...string) []uint64 {
	t.Helper()
	var list []uint64
	for i, p := range prices {
		id := s.Simple(t, fmt.Sprintf("Thing %d", i+1), "counted", p)
		s.Stock(t, id, "9", testkit.D(p).Div(testkit.D("10")).StringFixed(2))
		list = append(list, id)
	}
	return list
}

// posted is what a document posted, by account.
func posted(t *testing.T, s *testkit.Shop, number string) map[ledger.Account]string {
	t.Helper()
	d, err := book.Document(s.Store.Read(ctx), number)
	require.NoError(t, err)
	postings, err := book.Postings(s.Store.Read(ctx), d.ID)
	require.NoError(t, err)
	all := map[ledger.Account]string{}
	for _, p := range postings {
		all[p.Account] = p.Amount.StringFixed(2)
	}
	return all
}

func set(t *testing.T, s *testkit.Shop, change func(in *office.TillSettings)) {
	t.Helper()
	now, err := office.ReadSettings(s.By(s.Maren))
	require.NoError(t, err)
	in := office.TillSettingsInput{TillSettings: now.Till, Revision: now.TillIs}
	change(&in.TillSettings)
	_, err = office.SaveTill(s.By(s.Maren), in)
	require.NoError(t, err)
}

func way(kind sale.TenderKind, amount string) register.TenderInput {
	return register.TenderInput{Kind: kind, Amount: amount}
}

// TestAPINChangesThePerson holds that five wrong ones in a row lock it for five minutes.
func TestAPINChangesThePerson(t *testing.T) {
	s := testkit.New(t)
	who, err := deed.ByPIN(ctx, s.Shop, s.Tobi.ID, testkit.PIN)
	require.NoError(t, err)
	assert.Equal(t, "Tobi Ashdown", who.Name)
	assert.True(t, who.ByPIN)
	for left := 4; left >= 1; left-- {
		_, err = deed.ByPIN(ctx, s.Shop, s.Tobi.ID, "9999")
		assert.ErrorContains(t, err, fmt.Sprint(left, " tr"))
	}
	_, err = deed.ByPIN(ctx, s.Shop, s.Tobi.ID, "9999")
	assert.ErrorContains(t, err, "locked for 5 more minutes")
	_, err = deed.ByPIN(ctx, s.Shop, s.Tobi.ID, testkit.PIN)
	assert.ErrorContains(t, err, "locked", "the right one does not help now")
	later := s.At(s.Now().Add(5 * time.Minute))
	_, err = deed.ByPIN(ctx, later, s.Tobi.ID, "9999")
	assert.ErrorContains(t, err, "4 tries left", "it begins anew")
	_, err = deed.ByPIN(ctx, later, s.Tobi.ID, testkit.PIN)
	assert.NoError(t, err)
	for _, wrong := range []string{"", "123", "123456789", "12a4", "1111", "1234", "8765", "١٢٣٤"} {
		_, err := deed.HashPIN(wrong)
		assert.Error(t, err, wrong)
	}
	// guesses at the same moment are counted one by one
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() { _, _ = deed.ByPIN(ctx, s.Shop, s.Maren.ID, "9999") })
	}
	all.Wait()
	_, err = deed.ByPIN(ctx, s.Shop, s.Maren.ID, testkit.PIN)
	assert.ErrorContains(t, err, "locked")
}

// TestWhatNeedsAYes goes through all that a clerk may not do alone: refused, let through by a manager,
// not by somebody who may not either, and kept with who asked and who approved.
func TestWhatNeedsAYes(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "20.00")[0]
	strange := s.Simple(t, "Strange thing", "counted", "8.00")
	s.Open(t, 1)
	off, price := s.Why(t, reason.GivenOff, "End of season"), s.Why(t, reason.Price, "Price agreed")
	sold := s.Sold(t, v, "1")
	for what, try := range map[string]func(yes *deed.Approval) error{
		"20 % off": func(yes *deed.Approval) error {
			line := s.Basket(t, 1, v).Line
			typed := "20 %"
			_, err := register.ChangeBasketLine(s.By(s.Tobi), 1, line,
				register.BasketChange{Off: &typed, OffFor: off, Approval: yes})
			return err
		},
		"25 % off the basket": func(yes *deed.Approval) error {
			s.Basket(t, 1, v)
			typed := "25 %"
			_, err := register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Off: &typed, OffFor: off, Approval: yes})
			return err
		},
		"at £15.00": func(yes *deed.Approval) error {
			line := s.Basket(t, 1, v).Line
			typed := "15.00"
			_, err := register.ChangeBasketLine(s.By(s.Tobi), 1, line,
				register.BasketChange{Price: &typed, Why: price, Approval: yes})
			return err
		},
		"Back without a receipt": func(yes *deed.Approval) error {
			_, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Approval: yes,
				Unsold: []register.UnsoldInput{{Variant: strange, Unsold: sale.Unsold{Quantity: "1", Cost: "3"}}}})
			return err
		},
		"without a sale": func(yes *deed.Approval) error {
			_, err := register.OpenBox(s.By(s.Tobi), 1, register.OpenInput{Approval: yes})
			return err
		},
		"void": func(yes *deed.Approval) error {
			_, err := register.Void(s.By(s.Tobi), sold.Number, register.VoidInput{Approval: yes})
			return err
		},
		"set to 3": func(yes *deed.Approval) error {
			_, err := stockroom.PutRight(s.By(s.Tobi), stockroom.PutInput{How: stock.SetTo, Variant: v, Branch: 1,
				Quantity: "3", Reason: s.Why(t, reason.Stock, "Lost"), Approval: yes})
			return err
		},
	} {
		err := try(nil)
		require.Error(t, err, what)
		assert.Equal(t, staff.ApprovalField, fault.Of(err).Field, "%s: %s", what, err)
		err = try(testkit.Yes(s.Tobi))
		assert.True(t, fault.Is(err, fault.Forbidden), "%s: a clerk can't say yes", what)
		err = try(&deed.Approval{Person: s.Maren.ID, PIN: "9998"})
		require.Error(t, err, what)
		assert.Equal(t, "pin", fault.Of(err).Field, what)
		require.NoError(t, try(testkit.Yes(s.Maren)), what)
		list, _, err := storeoffice.Approvals(s.Store.Read(ctx), 1)
		require.NoError(t, err)
		require.NotEmpty(t, list, what)
		assert.Contains(t, list[0].What, what)
		assert.Equal(t, "Tobi Ashdown Maren Holt", list[0].Asker+" "+list[0].Approver)
		_, err = register.DropBasket(s.By(s.Tobi), 1)
		require.NoError(t, err)
	}
	// within what everybody may give nobody is asked, and it ends with the document
	line := s.Basket(t, 1, v).Line
	typed := "10 %"
	_, err := register.ChangeBasketLine(s.By(s.Tobi), 1, line, register.BasketChange{Off: &typed, OffFor: off})
	require.NoError(t, err)
	typed = "50 %"
	_, err = register.ChangeBasketLine(s.By(s.Tobi), 1, line, register.BasketChange{Off: &typed, OffFor: off,
		Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	done, err := s.Pay(t, 1, "k1")
	require.NoError(t, err)
	kept, err := storeoffice.ApprovalsOf(s.Store.Read(ctx), done.Document)
	require.NoError(t, err)
	require.Len(t, kept, 1)
	assert.Contains(t, kept[0].What, "50 % off 1 × Thing 1")
	s.InStep(t)
}

// TestSellingBelowCostIsAskedFor where something was given off, or for every line if the shop says so.
func TestSellingBelowCostIsAskedFor(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dear thing", "counted", "10.00")
	s.Stock(t, v, "9", "12.00")
	s.Open(t, 1)
	s.Basket(t, 1, v)
	_, err := s.Pay(t, 1, "k1")
	require.NoError(t, err, "at the price of its list")
	set(t, s, func(in *office.TillSettings) { in.AskBelowCost = true })
	s.Basket(t, 1, v)
	_, err = s.Pay(t, 1, "k2")
	require.Error(t, err)
	assert.Equal(t, staff.ApprovalField, fault.Of(err).Field)
	view, err := register.Basket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	done, err := register.Sell(s.By(s.Tobi, "k3"), register.SaleInput{Register: 1, Basket: view.ID, Cash: "10",
		Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	kept, err := storeoffice.ApprovalsOf(s.Store.Read(ctx), done.Document)
	require.NoError(t, err)
	assert.Len(t, kept, 1)
	s.InStep(t)
}

// TestADiscountIsSharedAndComesBack holds 10.00 off 30.00 + 20.00 + 17.00 through the shop, and the
// refund of each line.
func TestADiscountIsSharedAndComesBack(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "30.00", "20.00", "17.00")
	s.Open(t, 1)
	s.Basket(t, 1, list...)
	typed := "10.00"
	view, err := register.Agree(s.By(s.Tobi), 1,
		register.BasketFacts{Off: &typed, OffFor: s.Why(t, reason.GivenOff,
			"Regular customer"), Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	assert.Equal(t, "57.00", view.Due.StringFixed(2))
	assert.Equal(t, "4.48 2.98 2.54", view.Lines[0].OffAmount.String()+" "+view.Lines[1].OffAmount.String()+" "+
		view.Lines[2].OffAmount.String())
	done, err := s.Pay(t, 1, "k1")
	require.NoError(t, err)
	assert.Equal(t, "8.34", posted(t, s, done.Number)[ledger.GivenOff], "10.00 less its tax, line by line")
	back := decimal.Zero
	for i, want := range []string{"25.52", "17.02", "14.46"} {
		r, err := s.TakeBack(1, done.Number, i+1, "1", "")
		require.NoError(t, err)
		assert.Equal(t, want, r.Amount.StringFixed(2))
		back = back.Add(r.Amount)
	}
	assert.Equal(t, "57.00", back.StringFixed(2))
	_, err = s.TakeBack(1, done.Number, 1, "1", "")
	assert.True(t, fault.Is(err, fault.Refused))
	s.InStep(t)
}

// TestBasketsOnHold are taken up at another register of the branch, made one, split, moved, and are
// there after a restart.
func TestBasketsOnHold(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "30.00", "20.00", "17.00")
	s.Open(t, 1)
	s.Open(t, 2)
	_, err := register.Hold(s.By(s.Tobi), 1, register.HoldInput{Name: "x"})
	assert.Error(t, err, "nothing to hold")
	view := s.Basket(t, 1, list...)
	view, err = register.Hold(s.By(s.Tobi), 1,
		register.HoldInput{Name: "Zoë 漢 🏄", Lines: []uint64{view.Lines[2].ID}})
	require.NoError(t, err)
	assert.Len(t, view.Lines, 2, "split")
	view, err = register.Hold(s.By(s.Tobi), 1, register.HoldInput{})
	require.NoError(t, err)
	assert.Empty(t, view.Lines)
	require.Len(t, view.Held, 2)
	assert.Equal(t, "Zoë 漢 🏄", view.Held[0].Name)

	again := s.Beside(t) // a server that was started after
	view, err = register.TakeUp(deed.By(ctx, again, s.Tobi, ""), 2, view.Held[1].ID, false)
	require.NoError(t, err)
	assert.Len(t, view.Lines, 2)
	assert.Equal(t, "50.00", view.Due.StringFixed(2))
	view, err = register.TakeUp(deed.By(ctx, again, s.Tobi, ""), 2, view.Held[0].ID, true)
	require.NoError(t, err)
	assert.Len(t, view.Lines, 3, "made one")
	assert.Empty(t, view.Held)
	s.Basket(t, 1, list[0])
	_, err = register.MoveTo(s.By(s.Tobi), 2, 1)
	assert.True(t, fault.Is(err, fault.Conflict), "register 1 has one of its own")
	_, err = register.DropBasket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	_, err = register.MoveTo(s.By(s.Tobi), 2, 1)
	require.NoError(t, err)
	view, err = register.Basket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	assert.Len(t, view.Lines, 3)

	// two registers reach for the same one
	view, err = register.Hold(s.By(s.Tobi), 1, register.HoldInput{Name: "one"})
	require.NoError(t, err)
	var all sync.WaitGroup
	errs := make([]error, 2)
	for i := range errs {
		all.Go(func() {
			_, errs[i] = register.TakeUp(s.By(s.Tobi), uint64(i+1), view.Held[0].ID, false)
		})
	}
	all.Wait()
	assert.True(t, (errs[0] == nil) != (errs[1] == nil), "%v %v", errs[0], errs[1])
	s.InStep(t)
}

// TestCashRoundingThroughTheShop holds 12.37 in cash → 12.35, and a card that pays 12.37.
func TestCashRoundingThroughTheShop(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "12.37")[0]
	s.Open(t, 1)
	set(t, s, func(in *office.TillSettings) { in.CashStep = "0.05" })
	view := s.Basket(t, 1, v)
	assert.Equal(t, "12.37 12.35", view.Due.String()+" "+view.DueCash.String())
	done, err := s.Pay(t, 1, "k1", way(sale.Cash, "20"))
	require.NoError(t, err)
	assert.Equal(t, "7.65", done.Change.StringFixed(2))
	books := posted(t, s, done.Number)
	assert.Equal(t, "12.35 0.02", books[ledger.Cash]+" "+books[ledger.CashRounding])
	back, err := s.TakeBack(1, done.Number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, "12.35", back.Cash.StringFixed(2))
	s.Basket(t, 1, v)
	done, err = s.Pay(t, 1, "k2", way(sale.Card, "12.37"))
	require.NoError(t, err)
	assert.Equal(t, "12.37", posted(t, s, done.Number)[ledger.Card])
	s.InStep(t)
}

// TestAVouchersLife: sold without income, used in parts beside cash, not twice at once, blocked.
func TestAVouchersLife(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "12.00")[0]
	s.Open(t, 1)
	s.Open(t, 2)
	_, err := register.AddVoucher(s.By(s.Tobi), 1, register.VoucherInput{Amount: "25.00"})
	require.NoError(t, err)
	sold, err := s.Pay(t, 1, "k1", way(sale.Card, "25.00"))
	require.NoError(t, err)
	require.Len(t, sold.Vouchers, 1)
	code := sold.Vouchers[0].Code
	assert.NotContains(t, posted(t, s, sold.Number), ledger.Income)

	s.Basket(t, 1, v)
	paid, err := s.Pay(t, 1, "k2", register.TenderInput{Kind: sale.ByVoucher, Code: code, Amount: "5.00"},
		way(sale.Cash, "10"))
	require.NoError(t, err)
	assert.Equal(t, "3.00", paid.Change.StringFixed(2), "change comes from cash")
	life, err := register.Voucher(s.By(s.Tobi), "vo"+code[3:])
	require.NoError(t, err)
	assert.Equal(t, "20.00 given", life.Balance.StringFixed(2)+" "+string(life.State))

	// 20.00 are left and two registers use 12.00 of it each
	s.Basket(t, 1, v)
	s.Basket(t, 2, v)
	var all sync.WaitGroup
	errs := make([]error, 2)
	for i := range errs {
		all.Go(func() {
			_, errs[i] = s.Pay(t, uint64(i+1), fmt.Sprint("both", i),
				register.TenderInput{Kind: sale.ByVoucher, Code: code, Amount: "12.00"})
		})
	}
	all.Wait()
	assert.True(t, (errs[0] == nil) != (errs[1] == nil), "%v %v", errs[0], errs[1])
	left, err := register.LeftToPay(s.By(s.Tobi), map[bool]uint64{true: 2, false: 1}[errs[0] == nil],
		[]register.TenderInput{{Kind: sale.ByVoucher, Code: code}})
	require.NoError(t, err)
	assert.Equal(t, "8.00 4.00", left.Ways[0].Amount.StringFixed(2)+" "+left.Left.StringFixed(2))
	_, err = register.BlockVoucher(s.By(s.Tobi), code, register.BlockInput{Blocked: true})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = register.BlockVoucher(s.By(s.Maren), code, register.BlockInput{Blocked: true})
	require.NoError(t, err)
	_, err = s.Pay(t, map[bool]uint64{true: 2, false: 1}[errs[0] == nil], "blocked",
		register.TenderInput{Kind: sale.ByVoucher, Code: code, Amount: "1.00"}, way(sale.Cash, "11"))
	assert.ErrorContains(t, err, "blocked")
	// what was paid with it goes back to it, while it is not blocked
	_, err = register.BlockVoucher(s.By(s.Maren), code, register.BlockInput{})
	require.NoError(t, err)
	back, err := s.TakeBack(1, paid.Number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, "7.00", back.Cash.StringFixed(2))
	life, err = register.Voucher(s.By(s.Tobi), code)
	require.NoError(t, err)
	assert.Equal(t, "13.00", life.Balance.StringFixed(2), "8.00 that were left and 5.00 back")
	assert.Len(t, life.Moves, 4)
	_, err = register.Void(s.By(s.Maren), sold.Number, register.VoidInput{})
	assert.Error(t, err, "it was used")
	s.InStep(t)
}

// TestHowMoneyGoesBack: card first and no more than it paid, then cash; to store credit when asked;
// in cash instead of the card by a yes; what the terminal refuses stands on Today.
func TestHowMoneyGoesBack(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	sell := func(key string) register.SaleResult {
		s.Basket(t, 1, v)
		done, err := s.Pay(t, 1, key, way(sale.Card, "20.00"), way(sale.Cash, "10.00"))
		require.NoError(t, err)
		return done
	}
	back := func(number string, how sale.RefundHow, yes *deed.Approval) (register.ReturnResult, error) {
		return register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: number, Refund: how, Approval: yes,
			Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	}
	r, err := back(sell("k1").Number, sale.AsPaid, nil)
	require.NoError(t, err)
	assert.Equal(t, "20.00 10.00", r.Card.StringFixed(2)+" "+r.Cash.StringFixed(2))
	second := sell("k2")
	_, err = back(second.Number, sale.InCash, nil)
	require.Error(t, err)
	assert.Equal(t, staff.ApprovalField, fault.Of(err).Field)
	r, err = back(second.Number, sale.InCash, testkit.Yes(s.Maren))
	require.NoError(t, err)
	assert.Equal(t, "30.00", r.Cash.StringFixed(2))
	r, err = back(sell("k3").Number, sale.ToCredit, nil)
	require.NoError(t, err)
	require.NotNil(t, r.Credit)
	assert.Equal(t, "30.00 -30.00", r.Credit.Balance.StringFixed(2)+" "+posted(t, s, r.Number)[ledger.StoreCredit])
	s.Basket(t, 1, v)
	used, err := s.Pay(t, 1, "k4", register.TenderInput{Kind: sale.ByCredit, Code: r.Credit.Code, Amount: "30.00"})
	require.NoError(t, err)
	assert.True(t, used.Change.IsZero())
	_, err = back(sell("k5").Number, "gold", nil)
	assert.Equal(t, "refund", fault.Of(err).Field)
	s.InStep(t)
}

// TestAnExchange sets what comes back off against what is sold on the same basket, either way.
func TestAnExchange(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "30.00", "42.00", "10.00")
	s.Open(t, 1)
	s.Basket(t, 1, list[0])
	first, err := s.Pay(t, 1, "k1", way(sale.Card, "30.00"))
	require.NoError(t, err)
	bring := func(quantity string) (register.BasketView, error) {
		return register.BringBack(s.By(s.Tobi), 1,
			[]register.BackInput{{Sale: first.Number, Line: 1, Quantity: quantity}})
	}
	view, err := bring("1")
	require.NoError(t, err)
	assert.Equal(t, "-30.00", view.Due.StringFixed(2))
	_, err = bring("1")
	assert.True(t, fault.Is(err, fault.Refused), "not twice on one basket")
	view = s.Basket(t, 1, list[1])
	assert.Equal(t, "12.00", view.Due.StringFixed(2))
	dearer, err := s.Pay(t, 1, "k2")
	require.NoError(t, err)
	require.Len(t, dearer.Returns, 1)
	assert.Equal(t, "30.00", dearer.Paid.Of(sale.Exchange).StringFixed(2))
	assert.Equal(t, "12.00", posted(t, s, dearer.Number)[ledger.Cash])
	_, err = bring("1")
	assert.True(t, fault.Is(err, fault.Refused), "nor on another")

	// the other way: something cheaper, and the rest goes back
	_, err = register.BringBack(s.By(s.Tobi), 1,
		[]register.BackInput{{Sale: dearer.Number, Line: 1, Quantity: "1"}})
	require.NoError(t, err)
	view = s.Basket(t, 1, list[2])
	assert.Equal(t, "-32.00", view.Due.StringFixed(2))
	cheaper, err := s.Pay(t, 1, "k3")
	require.NoError(t, err)
	assert.Equal(t, []string{"20.00", "12.00"}, []string{cheaper.Returns[0].Card.StringFixed(2),
		cheaper.Returns[0].Cash.StringFixed(2)}, "the card paid 30.00 of it, by what came back for it")
	assert.Equal(t, "10.00", cheaper.Paid.Of(sale.Exchange).StringFixed(2))
	again, err := s.Pay(t, 1, "k3")
	require.NoError(t, err)
	assert.Equal(t, cheaper.Number, again.Number, "the same request, once")
	s.InStep(t)
}

// TestBackWithoutAReceipt: at the lowest price of the last 90 days; what never was sold here has its
// price asked, and its unknown number becomes a unit.
func TestBackWithoutAReceipt(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	board := s.Simple(t, "Board", "serial", "549.00")
	s.Open(t, 1)
	line := s.Basket(t, 1, v).Line
	typed := "24.00"
	_, err := register.ChangeBasketLine(s.By(s.Maren), 1, line, register.BasketChange{Price: &typed,
		Why: s.Why(t, reason.Price, "Price agreed")})
	require.NoError(t, err)
	_, err = s.Pay(t, 1, "k1")
	require.NoError(t, err)
	unsold := func(in register.UnsoldInput) (register.ReturnResult, error) {
		return register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Unsold: []register.UnsoldInput{in},
			Approval: testkit.Yes(s.Maren)})
	}
	r, err := unsold(register.UnsoldInput{Variant: v, Unsold: sale.Unsold{Quantity: "1"}})
	require.NoError(t, err)
	assert.Equal(t, "24.00", r.Amount.StringFixed(2), "what it was sold for, not what the list says")
	far := s.At(s.Now().AddDate(0, 0, 91))
	r, err = register.TakeBack(deed.By(ctx, far, s.Tobi, ""), register.ReturnInput{Register: 1,
		Approval: testkit.Yes(s.Maren),
		Unsold:   []register.UnsoldInput{{Variant: v, Unsold: sale.Unsold{Quantity: "1"}}}})
	require.NoError(t, err)
	assert.Equal(t, "30.00", r.Amount.StringFixed(2), "after 90 days the list's")

	strange := register.UnsoldInput{Variant: board,
		Unsold: sale.Unsold{Quantity: "1", Serial: "STRANGE1", Price: "200", Cost: "150"}}
	_, err = unsold(strange)
	require.True(t, fault.Is(err, fault.Refused), "no more leaves a drawer than is in it: %v", err)
	assert.NotContains(t, err.Error(), "70", "how much that is, is not told")
	_, err = register.MoveCash(s.By(s.Maren), 1, register.MoveInput{Kind: sale.PutIn, Amount: "200",
		Reason: s.Why(t, reason.PutIn, "Change from the bank")})
	require.NoError(t, err)
	_, err = unsold(strange)
	require.NoError(t, err)
	units, err := book.Units(s.Store.Read(ctx), board, 10)
	require.NoError(t, err)
	require.Len(t, units, 1)
	assert.Equal(t, "STRANGE1 150", units[0].Number+" "+units[0].Cost.String())
	_, err = unsold(register.UnsoldInput{Variant: board,
		Unsold: sale.Unsold{Quantity: "1", Serial: "STRANGE1", Price: "200"}})
	assert.Error(t, err, "it is in stock already")
	_, err = unsold(register.UnsoldInput{Variant: board, Unsold: sale.Unsold{Quantity: "1", Price: "200"}})
	assert.Error(t, err, "a number is needed")
	// onto the basket it is asked for once
	_, err = register.BringBack(s.By(s.Tobi), 1,
		[]register.BackInput{{Variant: v, Quantity: "1", Approval: testkit.Yes(s.Maren)}})
	require.NoError(t, err)
	done, err := s.Pay(t, 1, "k9")
	require.NoError(t, err)
	kept, err := storeoffice.ApprovalsOf(s.Store.Read(ctx), done.Returns[0].Document)
	require.NoError(t, err)
	assert.Len(t, kept, 1)
	s.InStep(t)
}

// TestASaleIsMadeVoid while its drawer is open and none of it is back.
func TestASaleIsMadeVoid(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	before := s.Held(t, v).ForSale()[v]
	s.Basket(t, 1, v)
	sold, err := s.Pay(t, 1, "k1", way(sale.Card, "30.00"))
	require.NoError(t, err)
	_, err = register.Void(s.By(s.Maren, "v1"), sold.Number, register.VoidInput{Note: "wrong basket"})
	require.NoError(t, err)
	assert.Equal(t, before.String(), s.Held(t, v).ForSale()[v].String())
	_, err = register.Void(s.By(s.Maren, "v2"), sold.Number, register.VoidInput{})
	assert.Error(t, err, "once")
	_, err = s.TakeBack(1, sold.Number, 1, "1", "")
	assert.ErrorContains(t, err, "void")
	back := s.Sold(t, v, "2")
	_, err = s.TakeBack(1, back.Number, 1, "1", "")
	require.NoError(t, err)
	_, err = register.Void(s.By(s.Maren), back.Number, register.VoidInput{})
	assert.Error(t, err, "some of it is back")
	last := s.Sold(t, v, "1")
	figures, err := till.ReadDrawerFigures(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	_, err = register.CashUpDrawer(s.By(s.Tobi), 1, []sale.Denomination{{Value: testkit.D("0.01"),
		Count: figures.Core().ShouldBe().Shift(2).IntPart()}})
	require.NoError(t, err)
	_, err = register.Void(s.By(s.Maren), last.Number, register.VoidInput{})
	assert.Error(t, err, "its drawer was cashed up")
	s.InStep(t)
}

// TestANumberIsOwed: one less on hand, owed until it is given, given once, at the value of the right one.
func TestANumberIsOwed(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Board", "serial", "549.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "310", Serials: "B1"},
		{Variant: board, Quantity: "1", Cost: "325", Serials: "B2"}}})
	s.Open(t, 1)
	view := s.Basket(t, 1, board)
	assert.NotEmpty(t, view.Lines[0].Short)
	owed := true
	view, err := register.ChangeBasketLine(s.By(s.Tobi), 1, view.Lines[0].ID,
		register.BasketChange{Owed: &owed})
	require.NoError(t, err)
	assert.Empty(t, view.Lines[0].Short)
	done, err := s.Pay(t, 1, "k1")
	require.NoError(t, err)
	assert.Equal(t, "1", s.Held(t, board).ForSale()[board].String(), "one less on hand")
	list, err := till.Owing(s.Store.Read(ctx), 9)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, done.Number, list[0].Sale)
	s.InStep(t)
	_, err = register.GiveNumber(s.By(s.Tobi), list[0].SaleLineID, register.NumberInput{Number: "B9"})
	assert.ErrorContains(t, err, "The book has no")
	_, err = register.GiveNumber(s.By(s.Tobi), list[0].SaleLineID, register.NumberInput{Number: "b2"})
	require.NoError(t, err)
	_, err = register.GiveNumber(s.By(s.Tobi), list[0].SaleLineID, register.NumberInput{Number: "B1"})
	assert.Error(t, err, "once")
	sold, err := till.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, "B2 325", sold.Lines[0].Serials+" "+sold.Lines[0].Cost.String(), "its own cost")
	s.InStep(t)
}

// TestADrawerShortByCoins puts cash in and takes some out, and is 1.50 short when it is counted.
func TestADrawerShortByCoins(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	s.Sold(t, v, "1")
	move := func(kind sale.MoveKind, amount, why string) error {
		_, err := register.MoveCash(s.By(s.Tobi), 1, register.MoveInput{Kind: kind, Amount: amount,
			Reason: s.Why(t, reason.Kind(kind), why), Note: "milk"})
		return err
	}
	require.NoError(t, move(sale.PutIn, "50.00", "Change from the bank"))
	require.NoError(t, move(sale.TakenOut, "6.40", "Small expense"))
	assert.Error(t, move(sale.TakenOut, "1000", "To the bank"), "more than is there")
	_, err := register.MoveCash(s.By(s.Tobi), 1, register.MoveInput{Kind: sale.TakenOut, Amount: "1"})
	assert.Equal(t, "reason_id", fault.Of(err).Field)
	figures, err := till.ReadDrawerFigures(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	should := figures.Core().ShouldBe()
	assert.Equal(t, "173.60", should.StringFixed(2), "100.00 + 30.00 + 50.00 − 6.40")
	short := should.Sub(testkit.D("1.50"))
	done, err := register.CashUpDrawer(s.By(s.Tobi), 1,
		[]sale.Denomination{{Value: testkit.D("0.01"), Count: short.Shift(2).IntPart()}})
	require.NoError(t, err)
	assert.Equal(t, "-1.50", done.Difference.StringFixed(2))
	assert.Equal(t, "1.50", posted(t, s, done.Number)[ledger.CashOver])
	s.InStep(t)
}

// TestATerminalThatAnswersLate charged the card: the same request settles the sale, once.
func TestATerminalThatAnswersLate(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	s.Basket(t, 1, v)
	_, err := office.SetDevice(s.By(s.Maren), device.CardTerminal, device.AnswersLate)
	require.NoError(t, err)
	_, err = s.Pay(t, 1, "k1", way(sale.Card, "30.00"))
	require.Error(t, err)
	assert.Equal(t, device.NoAnswerField, fault.Of(err).Field)
	later := testkit.Shop{Shop: s.At(time.Now().Add(3 * time.Minute)), Maren: s.Maren, Tobi: s.Tobi}
	loose, err := register.Loose(later.By(s.Tobi))
	require.NoError(t, err)
	require.Len(t, loose, 1, "charged, not sold")
	_, err = office.SetDevice(s.By(s.Maren), device.CardTerminal, device.Ready)
	require.NoError(t, err)
	done, err := s.Pay(t, 1, "k1", way(sale.Card, "30.00"))
	require.NoError(t, err)
	loose, err = register.Loose(later.By(s.Tobi))
	require.NoError(t, err)
	assert.Empty(t, loose, "settled by itself")
	sold, err := till.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, "30.00", sold.Paid.Of(sale.Card).StringFixed(2))
	s.InStep(t)
}

// TestMoneyAloneThroughTheShop refunds a part while the customer keeps it, then takes it back.
func TestMoneyAloneThroughTheShop(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	sold := s.Sold(t, v, "1")
	alone := register.ReturnInput{Register: 1, Sale: sold.Number,
		Lines: []register.ReturnLineInput{{Line: 1, Amount: "5.00"}}}
	_, err := register.TakeBack(s.By(s.Tobi), alone)
	require.Equal(t, staff.ApprovalField, fault.Of(err).Field)
	alone.Approval = testkit.Yes(s.Maren)
	r, err := register.TakeBack(s.By(s.Tobi), alone)
	require.NoError(t, err)
	assert.Equal(t, "5.00 5.00", r.Amount.StringFixed(2)+" "+r.Cash.StringFixed(2))
	assert.Equal(t, "8", s.Held(t, v).ForSale()[v].String(), "nothing comes back into stock")
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: sold.Number,
		Lines: []register.ReturnLineInput{{Line: 1, Amount: "25.01"}}})
	assert.True(t, fault.Is(err, fault.Refused))
	r, err = s.TakeBack(1, sold.Number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, "25.00", r.Amount.StringFixed(2))
	s.InStep(t)
}

// TestANamedLotComesBack, where the one sold last would come first.
func TestANamedLotComesBack(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "14.50")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{
		{Variant: cream, Quantity: "2", Cost: "5", Lot: "K1", Expiry: "2027-01-01"},
		{Variant: cream, Quantity: "5", Cost: "6", Lot: "K2", Expiry: "2027-06-01"}}})
	s.Open(t, 1)
	sold := s.Sold(t, cream, "4")
	v, err := till.SaleByNumber(s.Store.Read(ctx), sold.Number)
	require.NoError(t, err)
	lots, err := register.LotsBack(s.By(s.Tobi), v)
	require.NoError(t, err)
	require.Len(t, lots[1], 2)
	back := func(lot uint64, q string) error {
		_, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: sold.Number,
			Lines: []register.ReturnLineInput{{Line: 1, Quantity: q, Lot: lot, Condition: "For sale"}}})
		return err
	}
	assert.ErrorContains(t, back(lots[1][0].ID, "3"), "Only 2")
	require.NoError(t, back(lots[1][0].ID, "1"))
	require.NoError(t, back(0, "1"))
	sums := map[string]string{}
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	for _, p := range places {
		sums[p.Lot] = p.Quantity.String()
	}
	assert.Equal(t, map[string]string{"K1": "1", "K2": "4"}, sums)
	s.InStep(t)
}

// TestOneThingComesBackOnce however many registers try at once.
func TestOneThingComesBackOnce(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	s.Open(t, 2)
	sold := s.Sold(t, v, "1")
	var all sync.WaitGroup
	errs := make([]error, 6)
	for i := range errs {
		all.Go(func() { _, errs[i] = s.TakeBack(uint64(1+i%2), sold.Number, 1, "1", "") })
	}
	all.Wait()
	done := 0
	for _, err := range errs {
		if err == nil {
			done++
		} else {
			assert.True(t, fault.Is(err, fault.Refused) || fault.Is(err, fault.Conflict), "%v", err)
		}
	}
	assert.Equal(t, 1, done)
	s.InStep(t)
}

// TestACustomerOnTheBasket by card: the prices of their list, on account with terms, history; two are
// made one, and one is forgotten while figures stay.
func TestACustomerOnTheBasket(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	make := func(f customer.Facts) customers.Ref {
		ref, err := customers.Make(s.By(s.Maren), customers.Input{Facts: f})
		require.NoError(t, err)
		return ref
	}
	days := 14
	school := make(customer.Facts{Name: "Swim School", Mail: "office@example.com", DaysToPay: &days})
	ada := make(customer.Facts{Name: "Ada Penrose", Phone: "+44 1632 960101"})
	for words, want := range map[string]string{"swim sch": "Swim School", "OFFICE@example": "Swim School",
		"01632 960101": "Ada Penrose",
		"960101":       "Ada Penrose", ada.Code: "Ada Penrose", "penrose ada": "Ada Penrose"} {
		rows, _, err := storecustomers.Find(s.Store.Read(ctx), words, 1)
		require.NoError(t, err)
		require.Len(t, rows, 1, words)
		assert.Equal(t, want, rows[0].Name, words)
	}
	view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: ada.Code})
	require.NoError(t, err)
	assert.Equal(t, "Ada Penrose", view.Customer.Name)
	s.Basket(t, 1, v)
	_, err = s.Pay(t, 1, "k1", way(sale.OnAccount, "30.00"))
	assert.ErrorContains(t, err, "has no terms")
	done, err := s.Pay(t, 1, "k2")
	require.NoError(t, err)
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &school.ID})
	require.NoError(t, err)
	s.Basket(t, 1, v)
	later, err := s.Pay(t, 1, "k3", way(sale.OnAccount, "30.00"))
	require.NoError(t, err)
	assert.Equal(t, "30.00", posted(t, s, later.Number)[ledger.Receivable])
	_, err = s.TakeBack(1, later.Number, 1, "1", "")
	require.NoError(t, err)
	record, _, err := customers.Read(s.By(s.Tobi), school.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, "0.00", record.Owes.StringFixed(2), "the return took it off the account")
	assert.Len(t, record.Events, 2)

	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &school.ID})
	require.NoError(t, err)
	s.Basket(t, 1, v)
	_, err = s.Pay(t, 1, "k4", way(sale.OnAccount, "30.00"))
	require.NoError(t, err)
	pay := func(key string, kind sale.TenderKind, amount string) error {
		_, err := register.PayAccount(s.By(s.Tobi, key), 1,
			register.AccountInput{Customer: school.ID, Kind: kind, Amount: amount})
		return err
	}
	assert.Equal(t, "amount", fault.Of(pay("p1", sale.Cash, "30.01")).Field, "no more than is owed")
	assert.Equal(t, "kind", fault.Of(pay("p2", sale.ByVoucher, "1")).Field)
	require.NoError(t, pay("p3", sale.Card, "10.00"))
	require.NoError(t, pay("p3", sale.Card, "10.00"), "the same request, once")
	require.NoError(t, pay("p4", sale.Cash, "20.00"))
	assert.Error(t, pay("p5", sale.Cash, "20.00"), "nothing is owed any more")
	assert.Error(t, pay("p6", sale.Card, "20.00"))
	cards, err := register.Loose(deed.By(ctx, s.Shop.At(time.Now().Add(3*time.Minute)), s.Tobi, ""))
	require.NoError(t, err)
	assert.Empty(t, cards, "the card that was refused has its money back")
	owes, err := storecustomers.Owes(s.Store.Read(ctx), school.ID)
	require.NoError(t, err)
	assert.True(t, owes.IsZero(), owes)
	s.InStep(t)

	twin := make(customer.Facts{Name: "A. Penrose", Mail: "ada@example.com"})
	_, err = customers.Merge(s.By(s.Tobi), ada.ID, customers.MergeInput{Other: twin.ID})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = customers.Merge(s.By(s.Maren), twin.ID, customers.MergeInput{Other: ada.ID})
	require.NoError(t, err)
	record, _, err = customers.Read(s.By(s.Tobi), ada.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, "A. Penrose ada@example.com +44 1632 960101", record.Name+" "+record.Mail+" "+record.Phone)
	require.Len(t, record.Events, 1)
	assert.Equal(t, done.Number, record.Events[0].Number)
	rows, _, err := storecustomers.Find(s.Store.Read(ctx), ada.Code, 1)
	require.NoError(t, err)
	require.Len(t, rows, 1, "the old card still says who it is")
	_, err = customers.Merge(s.By(s.Maren), twin.ID, customers.MergeInput{Other: twin.ID})
	assert.Error(t, err)

	all, err := customers.Export(s.By(s.Maren), twin.ID)
	require.NoError(t, err)
	assert.Len(t, all.Bought, 1)
	_, err = customers.Forget(s.By(s.Maren), twin.ID)
	require.NoError(t, err)
	for _, words := range []string{"penrose", "ada@example.com", "960101"} {
		rows, _, err := storecustomers.Find(s.Store.Read(ctx), words, 1)
		require.NoError(t, err)
		assert.Empty(t, rows, words)
	}
	sold, err := till.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.NotContains(t, sold.Customer, "Penrose")
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &twin.ID})
	assert.Error(t, err, "a forgotten one is nobody's customer")
	s.InStep(t)
}

// TestAProductIsMadeAtTheRegister with what is there of it, and stands on Today until it is complete.
func TestAProductIsMadeAtTheRegister(t *testing.T) {
	s := testkit.New(t)
	s.Open(t, 1)
	made, err := register.MakeHere(s.By(s.Tobi, "m1"), 1,
		register.HurriedInput{Code: "4006381333931", Name: "Ärmel 漢 🏄",
			Price: "12.50", Stock: "3", Cost: "4.00"})
	require.Equal(t, staff.ApprovalField, fault.Of(err).Field, "three are written on")
	made, err = register.MakeHere(s.By(s.Tobi, "m1"), 1,
		register.HurriedInput{Code: "4006381333931", Name: "Ärmel 漢 🏄",
			Price: "12.50", Stock: "3", Cost: "4.00", Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	again, err := register.MakeHere(s.By(s.Tobi, "m1"), 1,
		register.HurriedInput{Code: "4006381333931", Name: "Ärmel 漢 🏄",
			Price: "12.50", Stock: "3", Cost: "4.00"})
	require.NoError(t, err)
	assert.Equal(t, made.Product.ID, again.Product.ID, "once")
	require.Len(t, made.Basket.Lines, 1)
	assert.Empty(t, made.Basket.Lines[0].Short)
	_, err = s.Pay(t, 1, "k1")
	require.NoError(t, err)
	view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "4006381333931"})
	require.NoError(t, err)
	assert.Len(t, view.Lines, 1, "its code is known from now on")
	_, err = register.DropBasket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	uncounted, err := register.MakeHere(s.By(s.Tobi, "m2"), 1,
		register.HurriedInput{Name: "Thing in the hand", Price: "3", Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	assert.Empty(t, uncounted.Basket.Lines[0].Short, "there is one: the customer holds it")
	_, err = s.Pay(t, 1, "k2")
	require.NoError(t, err)
	require.NoError(t, register.Complete(s.By(s.Maren), uncounted.Product.ID))
	waiting, err := goods.Hurried(s.Store.Read(ctx), 9)
	require.NoError(t, err)
	require.Len(t, waiting, 1)
	assert.Error(t, register.Complete(s.By(s.Tobi), waiting[0].ID), "a clerk can't say so")
	require.NoError(t, register.Complete(s.By(s.Maren), waiting[0].ID))
	waiting, err = goods.Hurried(s.Store.Read(ctx), 9)
	require.NoError(t, err)
	assert.Empty(t, waiting)
	for field, in := range map[string]register.HurriedInput{"name": {Price: "1"}, "price": {Name: "Thing"},
		"cost": {Name: "Thing", Price: "1", Cost: "x", Stock: "1"}} {
		_, err := register.MakeHere(s.By(s.Tobi), 1, in)
		require.Error(t, err)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	s.InStep(t)
}

// TestStockIsPutRight: set to what is there, written off and on, under the account of the reason.
func TestStockIsPutRight(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	put := func(how, q, why string) (stockroom.PutResult, error) {
		return stockroom.PutRight(s.By(s.Callum), stockroom.PutInput{How: how, Variant: v, Branch: 1, Quantity: q,
			Reason: s.Why(t, reason.Stock, why)})
	}
	r, err := put(stock.SetTo, "7", "Lost")
	require.NoError(t, err)
	assert.Equal(t, "9 -2", r.Expected.String()+" "+r.Change.String())
	assert.Equal(t, "6.00", posted(t, s, r.Number)[ledger.StockLoss])
	r, err = put(stock.WriteOff, "1", "Used in the shop")
	require.NoError(t, err)
	assert.Equal(t, "3.00", posted(t, s, r.Number)[ledger.Expenses])
	r, err = put(stock.WriteOn, "2", "Found")
	require.NoError(t, err)
	assert.Equal(t, "-6.00", posted(t, s, r.Number)[ledger.StockGain])
	_, err = put(stock.SetTo, "8", "Found")
	assert.ErrorContains(t, err, "already")
	for _, wrong := range []string{"-1", "1.5", "x", ""} {
		_, err = put(stock.WriteOn, wrong, "Found")
		assert.Error(t, err, wrong)
	}
	_, err = put(stock.WriteOff, "99", "Lost")
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = stockroom.PutRight(s.By(s.Callum), stockroom.PutInput{How: stock.SetTo, Variant: v, Branch: 1, Quantity: "1"})
	assert.Equal(t, "reason_id", fault.Of(err).Field)
	s.InStep(t)
}

// TestTillSettings refuses what can't be and a save on top of a newer one.
func TestTillSettings(t *testing.T) {
	s := testkit.New(t)
	now, err := office.ReadSettings(s.By(s.Maren))
	require.NoError(t, err)
	assert.Equal(t, terms.UsualOff, now.Till.OffLimit)
	for field, change := range map[string]func(in *office.TillSettings){
		terms.CashStep:  func(in *office.TillSettings) { in.CashStep = "0.03" },
		terms.OffLimit:  func(in *office.TillSettings) { in.OffLimit = "101" },
		terms.LockAfter: func(in *office.TillSettings) { in.LockAfter = "soon" },
	} {
		in := office.TillSettingsInput{TillSettings: now.Till, Revision: now.TillIs}
		change(&in.TillSettings)
		_, err := office.SaveTill(s.By(s.Maren), in)
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	set(t, s, func(in *office.TillSettings) { in.OffLimit = "15 %"; in.LockAfter = "5" })
	_, err = office.SaveTill(s.By(s.Maren), office.TillSettingsInput{TillSettings: now.Till, Revision: now.TillIs})
	assert.True(t, fault.Is(err, fault.Conflict))
}

// TestAnyMixOfDeedsStaysInStep plays baskets with discounts, lists, customers and vouchers, several ways
// to pay, returns, exchanges, voids and cash moved, and holds that all records agree at the end.
func TestAnyMixOfDeedsStaysInStep(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "7.99", "12.37", "34.95", "0.99")
	for _, v := range list {
		s.Stock(t, v, "200", "1.23")
	}
	s.Open(t, 1)
	s.Open(t, 2)
	set(t, s, func(in *office.TillSettings) { in.CashStep = "0.05" })
	days := 30
	who, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: "Ada", DaysToPay: &days}})
	require.NoError(t, err)
	why := s.Why(t, reason.GivenOff, "Regular customer")
	dice := rand.New(rand.NewPCG(10, 26))
	var sold []string
	var codes []string
	refused := 0
	for n := range 90 {
		at := uint64(1 + dice.IntN(2))
		key := fmt.Sprint("mix-", n)
		for range dice.IntN(4) {
			line := s.Basket(t, at, list[dice.IntN(len(list))]).Line
			if dice.IntN(3) == 0 {
				typed := []string{"10 %", "0.50", "33.3 %"}[dice.IntN(3)]
				_, err := register.ChangeBasketLine(s.By(s.Maren), at, line,
					register.BasketChange{Off: &typed, OffFor: why})
				require.NoError(t, err)
			}
		}
		if dice.IntN(4) == 0 {
			typed := []string{"5 %", "0.37"}[dice.IntN(2)]
			if _, err := register.Agree(s.By(s.Maren), at,
				register.BasketFacts{Off: &typed, OffFor: why, Customer: &who.ID}); err != nil {
				require.NotNil(t, fault.Of(err), "%v", err)
			}
		}
		if dice.IntN(5) == 0 {
			_, err := register.AddVoucher(s.By(s.Tobi), at, register.VoucherInput{Amount: "5.55"})
			require.NoError(t, err)
		}
		if len(sold) > 0 && dice.IntN(3) == 0 {
			back := register.BackInput{Sale: sold[dice.IntN(len(sold))], Line: 1, Quantity: "1"}
			if dice.IntN(4) == 0 {
				back.Quantity, back.Amount = "", "0.21"
			}
			if _, err := register.BringBack(s.By(s.Tobi), at, []register.BackInput{back}); err != nil {
				require.NotNil(t, fault.Of(err), "%v", err)
			}
		}
		view, err := register.Basket(s.By(s.Tobi), at)
		require.NoError(t, err)
		lines := decimal.Zero
		for _, l := range view.Lines {
			lines = lines.Add(l.Total)
		}
		require.True(t, lines.Equal(view.Totals.Gross), "the basket is its lines")
		var ways []register.TenderInput
		switch dice.IntN(4) {
		case 0:
			ways = append(ways, register.TenderInput{Kind: sale.Card,
				Amount: view.Due.Div(testkit.D("3")).Round(2).Abs().String()})
		case 1:
			if len(codes) > 0 {
				ways = append(ways, register.TenderInput{Kind: sale.ByVoucher, Code: codes[dice.IntN(len(codes))]})
			}
		case 2:
			if view.Customer != nil {
				ways = append(ways, register.TenderInput{Kind: sale.OnAccount})
			}
		}
		if view.Due.IsPositive() {
			left, err := register.LeftToPay(s.By(s.Tobi), at, append(ways, register.TenderInput{Kind: sale.Cash}))
			require.NoError(t, err)
			ways = nil
			for _, w := range left.Ways {
				ways = append(ways, register.TenderInput{Kind: w.Kind, Amount: w.Amount.String(), Code: w.Code})
			}
		} else {
			ways = nil
		}
		how := []sale.RefundHow{sale.AsPaid, sale.ToCredit, sale.InCash}[dice.IntN(3)]
		done, err := register.Sell(s.By(s.Maren, key), register.SaleInput{Register: at, Basket: view.ID,
			Total:   view.Due.String(),
			Tenders: ways, Refund: how})
		if err != nil {
			require.NotNil(t, fault.Of(err), "%v", err)
			refused++
			_, err = register.DropBasket(s.By(s.Tobi), at)
			require.NoError(t, err)
			continue
		}
		if done.Document != 0 && len(view.Lines) > 0 {
			sold = append(sold, done.Number)
		}
		for _, v := range done.Vouchers {
			codes = append(codes, v.Code)
		}
		for _, r := range done.Returns {
			if r.Credit != nil {
				codes = append(codes, r.Credit.Code)
			}
		}
		if len(sold) > 0 && dice.IntN(8) == 0 {
			number := sold[len(sold)-1]
			if _, err := register.Void(s.By(s.Maren), number, register.VoidInput{}); err == nil {
				sold = sold[:len(sold)-1]
			}
		}
		if n%30 == 29 {
			s.InStep(t)
		}
	}
	assert.Greater(t, len(sold), 30)
	assert.Less(t, refused, 45)
	q := s.Store.Read(ctx)
	for _, number := range sold {
		v, err := till.SaleByNumber(q, number)
		require.NoError(t, err)
		for _, l := range v.Lines {
			assert.False(t, l.Refunded.GreaterThan(l.Paid), "%s line %d", number, l.Line)
		}
	}
}

// TestADiscountDoesNotGrowUnseen: an amount within the limit on ten is far beyond it on one, and two
// small ones are a large one together; paying asks for the yes that was never said.
func TestADiscountDoesNotGrowUnseen(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "4.00")[0]
	s.Open(t, 1)
	why := s.Why(t, reason.GivenOff, "End of season")
	off := "3.00"
	change := func(who staff.Actor, line uint64, in register.BasketChange) error {
		_, err := register.ChangeBasketLine(s.By(who), 1, line, in)
		return err
	}
	line := s.Basket(t, 1, v).Line
	require.NoError(t, change(s.Tobi, line, register.BasketChange{Quantity: "9"}))
	require.NoError(t, change(s.Tobi, line, register.BasketChange{Off: &off, OffFor: why}), "3.00 of 36.00")
	err := change(s.Tobi, line, register.BasketChange{Quantity: "1"})
	require.Error(t, err, "3.00 of 4.00")
	assert.Equal(t, staff.ApprovalField, fault.Of(err).Field)
	require.NoError(t, change(s.Tobi, line, register.BasketChange{Quantity: "1", Approval: testkit.Yes(s.Maren)}))
	_, err = s.Pay(t, 1, "k2")
	require.NoError(t, err)

	ten := "10 %"
	line = s.Basket(t, 1, v).Line
	require.NoError(t, change(s.Tobi, line, register.BasketChange{Off: &ten, OffFor: why}))
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Off: &ten, OffFor: why})
	require.NoError(t, err)
	_, err = s.Pay(t, 1, "k3")
	require.Error(t, err, "19 % together")
	_, err = register.DropBasket(s.By(s.Tobi), 1)
	require.NoError(t, err)

	// what a manager gave off, and left a clerk to finish, was said yes to
	half := "50 %"
	line = s.Basket(t, 1, v).Line
	require.NoError(t, change(s.Maren, line, register.BasketChange{Off: &half, OffFor: why}))
	_, err = s.Pay(t, 1, "k4")
	require.NoError(t, err)
	s.InStep(t)
}

// TestAPINIsNoPassword: who came with one changes nothing of how anybody signs in.
func TestAPINIsNoPassword(t *testing.T) {
	s := testkit.New(t)
	who, err := deed.ByPIN(ctx, s.Shop, s.Maren.ID, testkit.PIN)
	require.NoError(t, err)
	_, err = office.MakeToken(s.By(who), office.TokenInput{})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = office.ChangePIN(s.By(who), office.PINChange{Password: testkit.Password, PIN: "8052"})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = office.ChangePassword(s.By(who), office.PasswordChange{Old: testkit.Password, New: "a long new one"})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = office.ChangePIN(s.By(s.Maren), office.PINChange{Password: "wrong", PIN: "8052"})
	assert.Equal(t, "old_password", fault.Of(err).Field)
	_, err = office.ChangePIN(s.By(s.Maren), office.PINChange{Password: testkit.Password, PIN: "8052"})
	require.NoError(t, err)
	_, err = deed.ByPIN(ctx, s.Shop, s.Maren.ID, "8052")
	assert.NoError(t, err)
}

// TestTheLastTenOnSixteenRegisters: ten are sold, the others are told; and one request that comes two
// hundred times is one sale.
func TestTheLastTenOnSixteenRegisters(t *testing.T) {
	plan := testkit.Plan
	plan.Branches = slices.Clone(plan.Branches)
	plan.Branches[0].Registers = nil
	for n := range 16 {
		plan.Branches[0].Registers = append(plan.Branches[0].Registers, office.RegisterPlan{Code: fmt.Sprintf("Q%02d", n+1),
			Name: fmt.Sprint("Register ", n+1)})
	}
	s := testkit.Planned(t, plan)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "10", "1.50")
	for n := range 16 {
		s.Open(t, uint64(n+1))
		s.Basket(t, uint64(n+1), v)
	}
	var all sync.WaitGroup
	errs := make([]error, 16)
	for n := range errs {
		all.Go(func() { _, errs[n] = s.Pay(t, uint64(n+1), fmt.Sprint("last-", n)) })
	}
	all.Wait()
	sold := 0
	for _, err := range errs {
		if err == nil {
			sold++
			continue
		}
		assert.True(t, fault.Is(err, fault.Refused), "%v", err)
	}
	assert.Equal(t, 10, sold)
	assert.True(t, s.Held(t, v).ForSale()[v].IsZero())
	s.Stock(t, v, "10", "1.50")
	at := uint64(slices.IndexFunc(errs, func(err error) bool { return err != nil }) + 1)
	view, err := register.Basket(s.By(s.Tobi), at)
	require.NoError(t, err)
	numbers := make([]string, 200)
	for n := range numbers {
		all.Go(func() {
			done, err := register.Sell(s.By(s.Tobi, "same"), register.SaleInput{Register: at, Basket: view.ID, Card: "4.00"})
			if assert.NoError(t, err) {
				numbers[n] = done.Number
			}
		})
	}
	all.Wait()
	assert.Len(t, slices.Compact(slices.Sorted(slices.Values(numbers))), 1)
	assert.Equal(t, "9", s.Held(t, v).ForSale()[v].String(), "one sale")
	s.InStep(t)
}

// TestACustomersListIsAsked when the customer is put on the basket, and left when taken off.
func TestACustomersListIsAsked(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	list, err := shopprices.SavePriceList(s.By(s.Maren), 0,
		shopprices.ListInput{Name: "Club", Kind: "other list",
			Base: price.Regular, Percent: "-10"})
	require.NoError(t, err)
	who, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: "Ada", List: list.ID}})
	require.NoError(t, err)
	s.Basket(t, 1, v)
	view, err := register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &who.ID})
	require.NoError(t, err)
	assert.Equal(t, "27.00", view.Due.StringFixed(2))
	nobody := uint64(0)
	view, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &nobody})
	require.NoError(t, err)
	assert.Equal(t, "30.00", view.Due.StringFixed(2))
}

// TestASaleWithoutABasketLeavesTheBasketAlone that somebody is at, at the same register.
func TestASaleWithoutABasketLeavesTheBasketAlone(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "30.00", "20.00")
	s.Open(t, 1)
	view := s.Basket(t, 1, list[0])
	s.Sold(t, list[1], "1")
	after, err := register.Basket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	assert.Equal(t, view.ID, after.ID)
	assert.Len(t, after.Lines, 1)
}

// TestWhatACardIsNotGivenGoesBackOtherwise: the terminal puts nothing on the card, so it is cash by a yes,
// or store credit; once, and never to the card besides.
func TestWhatACardIsNotGivenGoesBackOtherwise(t *testing.T) {
	s := testkit.New(t)
	v := goodsAt(t, s, "30.00")[0]
	s.Open(t, 1)
	set := func(state string) {
		_, err := office.SetDevice(s.By(s.Maren), device.CardTerminal, state)
		require.NoError(t, err)
	}
	back := func(key string) register.ReturnResult {
		s.Basket(t, 1, v)
		sold, err := s.Pay(t, 1, key, way(sale.Card, "30.00"))
		require.NoError(t, err)
		set(device.Declines)
		r, err := s.TakeBack(1, sold.Number, 1, "1", "")
		require.NoError(t, err)
		assert.Contains(t, r.Owed, "puts nothing on that card")
		set(device.Ready)
		return r
	}
	first, second := back("k1"), back("k2")
	assert.Equal(t, []string{"return/" + first.Number}, first.OwedFor)
	instead := func(key string, r register.ReturnResult, how sale.RefundHow, yes *deed.Approval) (register.Given, error) {
		return register.GiveInstead(s.By(s.Tobi, key), register.InsteadInput{Register: 1, Reference: "return/" + r.Number,
			Refund: how, Approval: yes})
	}
	_, err := instead("i1", first, sale.InCash, nil)
	require.Error(t, err)
	assert.Equal(t, staff.ApprovalField, fault.Of(err).Field)
	_, err = instead("i2", first, sale.AsPaid, testkit.Yes(s.Maren))
	assert.Equal(t, "refund", fault.Of(err).Field)
	given, err := instead("i3", first, sale.InCash, testkit.Yes(s.Maren))
	require.NoError(t, err)
	assert.Equal(t, "30.00 -30.00", given.Cash.StringFixed(2)+" "+posted(t, s, given.Number)[ledger.Cash])
	_, err = instead("i4", first, sale.InCash, testkit.Yes(s.Maren))
	assert.True(t, fault.Is(err, fault.Conflict), "once")
	_, err = register.GiveBack(deed.By(ctx, s.At(time.Now().Add(2*time.Minute)), s.Tobi, ""), "return/"+first.Number)
	assert.True(t, fault.Is(err, fault.Conflict), "nor to the card")
	terminal := devices.Of(s.Store)
	err = device.Refund(ctx, terminal, "return/"+first.Number, decimal.NewFromInt(30), s.Now())
	assert.True(t, fault.Is(err, fault.Conflict), "nor by one who saw it loose before: %v", err)

	// a card that was charged, and nothing sold
	require.NoError(t, device.Charge(ctx, terminal, "sale/2/lost", decimal.NewFromInt(30), time.Now().Add(-2*time.Minute)))
	_, err = register.GiveInstead(s.By(s.Tobi, "i6"), register.InsteadInput{Register: 1, Reference: "sale/2/lost",
		Refund: sale.InCash, Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	err = device.Return(ctx, terminal, "sale/2/lost")
	assert.True(t, fault.Is(err, fault.Conflict), "nor is that given back: %v", err)
	err = device.Charge(ctx, terminal, "sale/2/lost", decimal.NewFromInt(30), s.Now())
	assert.True(t, fault.Is(err, fault.Conflict), "nor does it pay for anything: %v", err)

	// both ways at the same moment: one of them
	var all sync.WaitGroup
	errs := make([]error, 2)
	all.Go(func() { _, errs[0] = instead("i5", second, sale.ToCredit, testkit.Yes(s.Maren)) })
	later := s.At(time.Now().Add(2 * time.Minute))
	all.Go(func() { _, errs[1] = register.GiveBack(deed.By(ctx, later, s.Tobi, ""), "return/"+second.Number) })
	all.Wait()
	assert.True(t, (errs[0] == nil) != (errs[1] == nil), "%v %v", errs[0], errs[1])
	list, err := register.Loose(s.By(s.Tobi))
	require.NoError(t, err)
	assert.Empty(t, list)
	s.InStep(t)

	// a card that was charged this moment may yet be sold: nobody gives its money away meanwhile
	require.NoError(t, device.Charge(ctx, devices.Of(s.Store), "sale/1/now", testkit.D("12"), s.Now()))
	_, err = register.GiveInstead(s.By(s.Maren), register.InsteadInput{Register: 1, Reference: "sale/1/now",
		Refund: sale.InCash})
	assert.True(t, fault.Is(err, fault.Conflict))
}

// TestACardIsOnlyChargedForWhatCanBeSold: a sale that needs a yes, or whose goods are gone, charges nothing;
// one that was charged before its goods were gone gives the money back when it is asked again.
func TestACardIsOnlyChargedForWhatCanBeSold(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dear thing", "counted", "10.00")
	s.Stock(t, v, "1", "12.00")
	s.Open(t, 1)
	set(t, s, func(in *office.TillSettings) { in.AskBelowCost = true })
	charged := func(key string) bool {
		there, err := devices.Of(s.Store).Charged(ctx, fmt.Sprintf("sale/%d/%s", s.Tobi.ID, key))
		require.NoError(t, err)
		return there
	}
	view := s.Basket(t, 1, v)
	_, err := s.Pay(t, 1, "k1", way(sale.Card, "10.00"))
	require.Error(t, err)
	assert.Equal(t, staff.ApprovalField, fault.Of(err).Field)
	assert.False(t, charged("k1"))
	_, err = s.Pay(t, 1, "k2", way(sale.Card, "10.01"))
	require.Error(t, err)
	assert.False(t, charged("k2"), "more than is due")

	terminal := func(state string) {
		_, err := office.SetDevice(s.By(s.Maren), device.CardTerminal, state)
		require.NoError(t, err)
	}
	in := register.SaleInput{Register: 1, Basket: view.ID, Card: "10.00", Approval: testkit.Yes(s.Maren)}
	terminal(device.AnswersLate)
	_, err = register.Sell(s.By(s.Tobi, "k3"), in)
	require.Error(t, err)
	assert.True(t, charged("k3"), "its answer was lost")
	terminal(device.Ready)
	_, err = stockroom.PutRight(s.By(s.Callum), stockroom.PutInput{How: stock.SetTo, Variant: v, Branch: 1, Quantity: "0",
		Reason: s.Why(t, reason.Stock, "Lost")})
	require.NoError(t, err)
	_, err = register.Sell(s.By(s.Tobi, "k3"), in)
	assert.True(t, fault.Is(err, fault.Refused), "%v", err)
	loose, err := register.Loose(deed.By(ctx, s.At(time.Now().Add(3*time.Minute)), s.Tobi, ""))
	require.NoError(t, err)
	assert.Empty(t, loose, "the card has its money back")
	s.InStep(t)
}
