package register_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/price"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/shop/customers"
	"itemrack/shop/deed"
	shopprices "itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

// wantsYes holds that a deed was refused for the want of somebody's yes.
func wantsYes(t *testing.T, err error, what string) {
	t.Helper()
	require.Error(t, err, what)
	require.NotNil(t, fault.Of(err), "%s: %v", what, err)
	assert.Equal(t, staff.ApprovalField, fault.Of(err).Field, "%s: %v", what, err)
}

// TestAYesIsForWhatWasShown takes the ways round a yes that was given for one thing: more of it, another price, fewer
// at the same amount, more goods under a percentage, two small ones together.
func TestAYesIsForWhatWasShown(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "100.00", "50.00")
	s.Open(t, 1)
	why, off := s.Why(t, reason.Price, "Price agreed"), s.Why(t, reason.GivenOff, "End of season")
	change := func(line uint64, in register.BasketChange) error {
		_, err := register.ChangeBasketLine(s.By(s.Tobi), 1, line, in)
		return err
	}
	text := func(text string) *string { return &text }
	drop := func() {
		_, err := register.DropBasket(s.By(s.Tobi), 1)
		require.NoError(t, err)
	}
	// one at 60.00 was agreed
	line := s.Basket(t, 1, list[0]).Line
	wantsYes(t, change(line, register.BasketChange{Price: text("60"), Why: why}), "a price")
	require.NoError(t, change(line, register.BasketChange{Price: text("60"), Why: why, Approval: testkit.Yes(s.Maren)}))
	wantsYes(t, change(line, register.BasketChange{Quantity: "5"}), "five at that price")
	require.NoError(t, change(line, register.BasketChange{Price: text("80"), Why: why, Approval: testkit.Yes(s.Maren)}))
	wantsYes(t, change(line, register.BasketChange{Off: text("30"), OffFor: off}), "more off it than was agreed")
	require.NoError(t, change(line, register.BasketChange{Price: text("")}), "back to the list's")
	_, err := s.Pay(t, 1, "p1")
	require.NoError(t, err)

	// five with 100.00 off were agreed, and not one with 100.00 off
	line = s.Basket(t, 1, list[0]).Line
	require.NoError(t, change(line, register.BasketChange{Quantity: "5"}))
	require.NoError(t, change(line, register.BasketChange{Off: text("100"), OffFor: off, Approval: testkit.Yes(s.Maren)}))
	wantsYes(t, change(line, register.BasketChange{Quantity: "2"}), "the same off fewer")
	require.NoError(t, change(line, register.BasketChange{Quantity: "6"}), "more for the same amount")
	drop()

	// half off the basket was agreed for what was on it
	s.Basket(t, 1, list[1])
	agree := register.BasketFacts{Off: text("50 %"), OffFor: off}
	_, err = register.Agree(s.By(s.Tobi), 1, agree)
	wantsYes(t, err, "half off")
	agree.Approval = testkit.Yes(s.Maren)
	_, err = register.Agree(s.By(s.Tobi), 1, agree)
	require.NoError(t, err)
	s.Basket(t, 1, list[0])
	_, err = s.Pay(t, 1, "p2")
	wantsYes(t, err, "half off what came onto it later")
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Off: text("25"), OffFor: off})
	require.NoError(t, err, "no more than a sixth")
	drop()

	// put by and taken up again, a yes is still one
	line = s.Basket(t, 1, list[0]).Line
	require.NoError(t, change(line, register.BasketChange{Price: text("60"), Why: why, Approval: testkit.Yes(s.Maren)}))
	held, err := register.Hold(s.By(s.Tobi), 1, register.HoldInput{Name: "Ada"})
	require.NoError(t, err)
	_, err = register.TakeUp(s.By(s.Tobi), 1, held.Held[0].ID, false)
	require.NoError(t, err)
	_, err = s.Pay(t, 1, "p3")
	require.NoError(t, err)
	s.InStep(t)
}

// TestAnotherListWantsAYes in a basket, for a sale without one, and for a customer; taking a list away wants none.
func TestAnotherListWantsAYes(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "100.00", "40.00")
	s.Open(t, 1)
	trade, err := shopprices.SavePriceList(s.By(s.Maren), 0, shopprices.ListInput{Name: "Trade", Kind: "other list",
		Base: price.Regular, Percent: "-30"})
	require.NoError(t, err)
	s.Basket(t, 1, list[0])
	_, err = register.PutOnList(s.By(s.Tobi), 1, trade.ID, nil)
	wantsYes(t, err, "a list")
	view, err := register.PutOnList(s.By(s.Tobi), 1, trade.ID, testkit.Yes(s.Maren))
	require.NoError(t, err)
	assert.Equal(t, "70.00", view.Due.StringFixed(2))
	s.Basket(t, 1, list[1])
	_, err = s.Pay(t, 1, "k1")
	wantsYes(t, err, "what came onto it later")
	require.NoError(t, dropLine(s, 1, list[1]))
	_, err = s.Pay(t, 1, "k2")
	require.NoError(t, err)

	_, err = register.Sell(s.By(s.Tobi, "k3"), register.SaleInput{Register: 1, List: trade.ID,
		Lines: []register.SaleLineInput{{Variant: list[0], Quantity: "1"}}, Cash: "70.00"})
	wantsYes(t, err, "without a basket")

	facts := customer.Facts{Name: "Swim School", List: trade.ID}
	_, err = customers.Make(s.By(s.Tobi), customers.Input{Facts: facts})
	wantsYes(t, err, "a customer's list")
	who, err := customers.Make(s.By(s.Tobi), customers.Input{Facts: facts, Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	days := 30
	facts.DaysToPay = &days
	_, err = customers.Change(s.By(s.Tobi), who.ID, customers.Input{Facts: facts, Revision: who.Revision})
	wantsYes(t, err, "a customer's terms")
	facts.DaysToPay, facts.Phone = nil, "01632 960 123"
	who, err = customers.Change(s.By(s.Tobi), who.ID, customers.Input{Facts: facts, Revision: who.Revision})
	require.NoError(t, err, "what is no favour")
	s.Basket(t, 1, list[0])
	view, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &who.ID})
	require.NoError(t, err)
	assert.Contains(t, view.Said, "Trade", "other prices are said")
	assert.Equal(t, "70.00", view.Due.StringFixed(2))
	other, err := customers.Make(s.By(s.Tobi), customers.Input{Facts: customer.Facts{Name: "Ben"}})
	require.NoError(t, err)
	view, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &other.ID})
	require.NoError(t, err)
	assert.Equal(t, "100.00", view.Due.StringFixed(2), "the next customer has the next customer's prices")
	// put by for the school, which loses its list before it is taken up
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &who.ID})
	require.NoError(t, err)
	view, err = register.Hold(s.By(s.Tobi), 1, register.HoldInput{})
	require.NoError(t, err)
	facts.List = 0
	_, err = customers.Change(s.By(s.Tobi), who.ID, customers.Input{Facts: facts, Revision: who.Revision})
	require.NoError(t, err, "taking a list away")
	view, err = register.TakeUp(s.By(s.Tobi), 1, view.Held[0].ID, false)
	require.NoError(t, err)
	assert.Equal(t, "100.00", view.Due.StringFixed(2), "at the list of today")
	assert.Contains(t, view.Said, "Regular")
}

// dropLine takes the line of a variant off the basket of a register.
func dropLine(s *testkit.Shop, at, variant uint64) error {
	view, err := register.Basket(s.By(s.Tobi), at)
	if err != nil {
		return err
	}
	for _, l := range view.Lines {
		if l.Variant == variant {
			_, err = register.ChangeBasketLine(s.By(s.Tobi), at, l.ID, register.BasketChange{Quantity: "0"})
		}
	}
	return err
}

// TestWhatWasAgreedGoesAlong when a basket is split and made one again: 10.00 off 30.00 + 20.00 + 17.00 stay 4.48, 2.98
// and 2.54, in whichever basket the lines are, with notes, reasons and yeses.
func TestWhatWasAgreedGoesAlong(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "30.00", "20.00", "17.00", "50.00")
	s.Open(t, 1)
	off := s.Why(t, reason.GivenOff, "End of season")
	text := func(text string) *string { return &text }
	view := s.Basket(t, 1, list[:3]...)
	view, err := register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Off: text("10"), OffFor: off,
		Note:     text("for the regatta"),
		Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	assert.Equal(t, "57.00", view.Due.StringFixed(2))
	view, err = register.Hold(s.By(s.Tobi), 1, register.HoldInput{Name: "Later", Lines: []uint64{view.Lines[1].ID}})
	require.NoError(t, err)
	assert.Equal(t, "39.98", view.Due.StringFixed(2), "47.00 less 4.48 and 2.54")
	assert.Equal(t, "for the regatta", view.Note)
	done, err := s.Pay(t, 1, "k1")
	require.NoError(t, err, "nobody is asked again")
	_, discounts := posted(t, s, done.Number)[ledger.Income], posted(t, s, done.Number)
	assert.NotEmpty(t, discounts)

	s.Basket(t, 1, list[3])
	view, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Off: text("10 %"), OffFor: off,
		Note: text("by noon")})
	require.NoError(t, err)
	view, err = register.TakeUp(s.By(s.Tobi), 1, view.Held[0].ID, true)
	require.NoError(t, err)
	assert.Equal(t, "62.02", view.Due.StringFixed(2), "50.00 less 5.00, and 20.00 less 2.98")
	carried := map[uint64]string{}
	for _, l := range view.Lines {
		carried[l.Variant] = l.Carried.StringFixed(2)
	}
	assert.Equal(t, map[uint64]string{list[3]: "5.00", list[1]: "2.98"}, carried)
	assert.Equal(t, "by noon; for the regatta", view.Note)
	done, err = s.Pay(t, 1, "k2")
	require.NoError(t, err)
	assert.Equal(t, "62.02", done.Total.StringFixed(2))
	s.InStep(t)
}

// TestMergedBasketsKeepTheirLists where each is of another customer; one of nobody's becomes the other's.
func TestMergedBasketsKeepTheirLists(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "100.00", "50.00")
	s.Open(t, 1)
	trade, err := shopprices.SavePriceList(s.By(s.Maren), 0, shopprices.ListInput{Name: "Trade", Kind: "other list",
		Base: price.Regular, Percent: "-30"})
	require.NoError(t, err)
	school, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: "School", List: trade.ID}})
	require.NoError(t, err)
	ben, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: "Ben"}})
	require.NoError(t, err)
	hold := func() register.BasketView {
		s.Basket(t, 1, list[0])
		_, err := register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &school.ID})
		require.NoError(t, err)
		view, err := register.Hold(s.By(s.Tobi), 1, register.HoldInput{})
		require.NoError(t, err)
		return view
	}
	held := hold()
	s.Basket(t, 1, list[1])
	view, err := register.TakeUp(s.By(s.Tobi), 1, held.Held[0].ID, true)
	require.NoError(t, err)
	assert.Equal(t, "105.00", view.Due.StringFixed(2), "both at the school's prices")
	assert.Equal(t, "School", view.Customer.Name)
	_, err = s.Pay(t, 1, "k1")
	require.NoError(t, err)

	held = hold()
	s.Basket(t, 1, list[1])
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &ben.ID})
	require.NoError(t, err)
	view, err = register.TakeUp(s.By(s.Tobi), 1, held.Held[0].ID, true)
	require.NoError(t, err)
	assert.Equal(t, "120.00", view.Due.StringFixed(2), "each line at the price that it had")
	assert.Equal(t, []string{"", "Trade", ""}, []string{view.Lines[1].PriceList, view.Lines[0].PriceList, view.ListName},
		"and says so")
	assert.Contains(t, view.Said, "keeps the prices")
	_, err = s.Pay(t, 1, "k2")
	wantsYes(t, err, "Ben pays the school's price")
	s.InStep(t)
}

// TestMoneyFollowsWhatWasPaid through an exchange of an exchange: what a card paid goes back to that card, what a
// voucher did to the voucher, and only the rest is cash.
func TestMoneyFollowsWhatWasPaid(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "30.00", "30.00", "50.00")
	s.Open(t, 1)
	exchange := func(number, key string, v uint64, ways ...register.TenderInput) register.SaleResult {
		_, err := register.BringBack(s.By(s.Tobi), 1, []register.BackInput{{Sale: number, Line: 1, Quantity: "1"}})
		require.NoError(t, err)
		s.Basket(t, 1, v)
		done, err := s.Pay(t, 1, key, ways...)
		require.NoError(t, err)
		return done
	}
	s.Basket(t, 1, list[0])
	first, err := s.Pay(t, 1, "k1", way(sale.Card, "30.00"))
	require.NoError(t, err)
	second := exchange(first.Number, "k2", list[1])
	third := exchange(second.Number, "k3", list[2], way(sale.Cash, "20.00"))
	back, err := s.TakeBack(1, third.Number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, []string{"30.00", "20.00"}, []string{back.Card.StringFixed(2), back.Cash.StringFixed(2)})
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: third.Number,
		Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}, Refund: sale.InCash})
	assert.True(t, fault.Is(err, fault.Refused), "all of it is back")
	s.InStep(t)
}

// TestAPaidAccountSaleComesBack as its debt was paid, the oldest first; what is not paid comes off what is owed.
func TestAPaidAccountSaleComesBack(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "50.00", "30.00")
	s.Open(t, 1)
	days := 30
	who, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: "School", DaysToPay: &days}})
	require.NoError(t, err)
	sell := func(key string, v uint64, amount string) register.SaleResult {
		s.Basket(t, 1, v)
		_, err := register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &who.ID})
		require.NoError(t, err)
		done, err := s.Pay(t, 1, key, way(sale.OnAccount, amount))
		require.NoError(t, err)
		return done
	}
	first, second := sell("k1", list[0], "50.00"), sell("k2", list[1], "30.00")
	for i, kind := range []sale.TenderKind{sale.Card, sale.Cash} {
		_, err := register.PayAccount(s.By(s.Tobi, "p"+string(kind)), 1, register.AccountInput{Customer: who.ID, Kind: kind,
			Amount: []string{"40.00", "25.00"}[i]})
		require.NoError(t, err)
	}
	back, err := s.TakeBack(1, second.Number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, []string{"-15.00", "15.00", "0.00"}, []string{back.Paid.Of(sale.OnAccount).StringFixed(2),
		back.Cash.StringFixed(2), back.Card.StringFixed(2)}, "15.00 of it were paid, in cash")
	back, err = s.TakeBack(1, first.Number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, []string{"0.00", "10.00", "40.00"}, []string{back.Paid.Of(sale.OnAccount).StringFixed(2),
		back.Cash.StringFixed(2), back.Card.StringFixed(2)})
	record, _, err := customers.Read(s.By(s.Maren), who.ID, 1)
	require.NoError(t, err)
	assert.True(t, record.Owes.IsZero(), "nothing is open: %s", record.Owes)
	s.InStep(t)
}

// TestADeedSaysWhichBasketItIsAbout: from a window that shows another one, nothing is done to the basket that somebody
// is at by now; what the window asks for again, having looked, is done.
func TestADeedSaysWhichBasketItIsAbout(t *testing.T) {
	s := testkit.New(t)
	list := goodsAt(t, s, "30.00", "20.00")
	s.Open(t, 1)
	s.Open(t, 2)
	stale := s.Basket(t, 1, list[0]).ID
	_, err := s.Pay(t, 1, "k1")
	require.NoError(t, err)
	view, err := register.AddToBasket(s.By(s.Maren), 1, register.BasketAdd{Variant: list[1]})
	require.NoError(t, err)
	line := view.Lines[0].ID
	shown := func(basket uint64) deed.Deed {
		do := s.By(s.Tobi)
		do.Shown = &basket
		return do
	}
	note := "for Ada"
	deeds := map[string]func(do deed.Deed) error{
		"add": func(do deed.Deed) error {
			_, err := register.AddToBasket(do, 1, register.BasketAdd{Variant: list[0]})
			return err
		},
		"change a line": func(do deed.Deed) error {
			_, err := register.ChangeBasketLine(do, 1, line, register.BasketChange{Quantity: "2"})
			return err
		},
		"agree": func(do deed.Deed) error {
			_, err := register.Agree(do, 1, register.BasketFacts{Note: &note})
			return err
		},
		"put on a list": func(do deed.Deed) error { _, err := register.PutOnList(do, 1, price.Regular, nil); return err },
		"add a voucher": func(do deed.Deed) error {
			_, err := register.AddVoucher(do, 1, register.VoucherInput{Amount: "5"})
			return err
		},
		"hold": func(do deed.Deed) error { _, err := register.Hold(do, 1, register.HoldInput{}); return err },
		"move": func(do deed.Deed) error { _, err := register.MoveTo(do, 1, 2); return err },
		"drop": func(do deed.Deed) error { _, err := register.DropBasket(do, 1); return err },
	}
	for _, basket := range []uint64{stale, 0} {
		for name, do := range deeds {
			err := do(shown(basket))
			require.Error(t, err, "%s, shown %d", name, basket)
			assert.Equal(t, "basket_id", fault.Of(err).Field, name)
		}
	}
	after, err := register.Basket(s.By(s.Maren), 1)
	require.NoError(t, err)
	assert.Equal(t, []any{1, "20.00", ""}, []any{len(after.Lines), after.Due.StringFixed(2), after.Note})
	require.NoError(t, deeds["agree"](shownTo(s.By(s.Maren), after.ID)))
	require.NoError(t, deeds["move"](shownTo(s.By(s.Maren), after.ID)), "to a register that is at none")
	_, err = register.DropBasket(shownTo(s.By(s.Maren), after.ID), 1)
	require.NoError(t, err, "one that is gone is given up")
	// what a window without a basket begins is its own, also where the answer was late
	view, err = register.AddToBasket(shown(0), 1, register.BasketAdd{Variant: list[0]})
	require.NoError(t, err)
	_, err = register.AddToBasket(shown(0), 1, register.BasketAdd{Variant: list[0]})
	require.NoError(t, err)
	assert.NotZero(t, view.ID)
}

func shownTo(do deed.Deed, basket uint64) deed.Deed {
	do.Shown = &basket
	return do
}
