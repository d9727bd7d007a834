package stockroom_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/customers"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storeoffice "itemrack/store/office"
)

// TestAConditionOfTheShopsOwn is made, used, held by somebody, and closed.
func TestAConditionOfTheShopsOwn(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	week := 7
	made, err := office.SaveCondition(s.By(s.Maren), 0,
		office.ConditionInput{ConditionFacts: stock.ConditionFacts{Name: "Für den Film", Holder: true, Days: &week}})
	require.NoError(t, err)
	_, err = office.SaveCondition(s.By(s.Maren), 0,
		office.ConditionInput{ConditionFacts: stock.ConditionFacts{Name: "FÜR DEN FILM"}})
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = office.SaveCondition(s.By(s.Tobi), 0,
		office.ConditionInput{ConditionFacts: stock.ConditionFacts{Name: "Mine"}})
	assert.True(t, fault.Is(err, fault.Forbidden))
	due := s.Now().AddDate(0, 0, 4).Format(time.DateOnly)
	in := stockroom.ChangeInput{Variant: v, Branch: 1, From: "For sale", To: string(made.Name), Quantity: "3", BackBy: due}
	_, err = stockroom.ChangeCondition(s.By(s.Tobi), in)
	assert.Equal(t, "with_whom", fault.Of(err).Field, "somebody has it: who?")
	in.WithWhom, in.BackBy = "Ada, 漢", s.Now().AddDate(0, 0, -2).Format(time.DateOnly)
	_, err = stockroom.ChangeCondition(s.By(s.Tobi), in)
	assert.Equal(t, "back_by", fault.Of(err).Field, "a day that is over")
	in.BackBy = due
	_, err = stockroom.ChangeCondition(s.By(s.Tobi), in)
	require.NoError(t, err)
	assert.Equal(t, "7 3", fmt.Sprint(s.Held(t, v).ForSale()[v], " ", s.Held(t, v).OnHand(v, 1, made.Name)))
	rows, err := book.NotForSale(s.Store.Read(ctx), 1, 50)
	require.NoError(t, err)
	require.Len(t, rows, 1)
	require.Len(t, rows[0].Holders, 1)
	assert.Equal(t, "Ada, 漢 "+due, rows[0].Holders[0].WithWhom+" "+rows[0].Holders[0].BackBy.Format(time.DateOnly))
	facts, err := storeoffice.Conditions(s.Store.Read(ctx))
	require.NoError(t, err)
	var own stock.ConditionFacts
	for _, f := range facts {
		if f.ID == made.ID {
			own = f
		}
	}
	assert.False(t, own.Overdue(*rows[0].Since, rows[0].Since.AddDate(0, 0, 6)))
	assert.True(t, own.Overdue(*rows[0].Since, rows[0].Since.AddDate(0, 0, 8)))

	made.Closed = true
	_, err = office.SaveCondition(s.By(s.Maren), made.ID,
		office.ConditionInput{ConditionFacts: made.ConditionFacts})
	assert.ErrorContains(t, err, "3 units are still", "not with goods in it")
	back := stockroom.ChangeInput{Variant: v, Branch: 1, From: string(made.Name), To: "For sale", Quantity: "3"}
	_, err = stockroom.ChangeCondition(s.By(s.Tobi), back)
	require.NoError(t, err)
	_, err = office.SaveCondition(s.By(s.Maren), made.ID,
		office.ConditionInput{ConditionFacts: made.ConditionFacts})
	require.NoError(t, err)
	_, err = stockroom.ChangeCondition(s.By(s.Tobi), in)
	assert.ErrorContains(t, err, "is closed")
	for field, f := range map[string]stock.ConditionFacts{"name": {Name: "On the way"},
		"position": {Name: "x", Position: -1}, "closed": {Name: "Lent", Closed: true}} {
		_, err := f.Check("")
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	_, err = stock.ConditionFacts{Name: "Other"}.Check("Lent")
	assert.Equal(t, "name", fault.Of(err).Field, "it keeps its name")
	s.InStep(t)
}

// TestManyAtOnce takes what is not for sale its next step: for sale, to repair, scrapped for a reason, at two
// branches in one deed, once.
func TestManyAtOnce(t *testing.T) {
	s := testkit.New(t)
	bag, board := s.Simple(t, "Dry bag", "counted", "24.00"), s.Simple(t, "Board", "serial", "549.00")
	s.Stock(t, bag, "10", "9.50")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310",
		Serials: "A1,A2"}}})
	s.Receive(t, buying.DeliveryInput{Branch: 2, Lines: []scan.GoodsLine{{Variant: bag, Quantity: "4", Cost: "9.50"}}})
	lines := []stockroom.ChangeInput{{Variant: bag, Branch: 1, From: "For sale", Quantity: "2"},
		{Variant: board, Branch: 1, From: "For sale", Quantity: "1", Serials: "a2"},
		{Variant: bag, Branch: 2, From: "For sale", Quantity: "1"}}
	done, err := stockroom.ChangeConditions(s.By(s.Maren, "k"), stockroom.ChangesInput{Lines: lines, To: "For scrap"})
	require.NoError(t, err)
	assert.Len(t, done.Documents, 2, "one for each branch")
	again, err := stockroom.ChangeConditions(s.By(s.Maren, "k"), stockroom.ChangesInput{Lines: lines, To: "For scrap"})
	require.NoError(t, err)
	assert.Equal(t, done, again)
	for i := range lines {
		lines[i].From = "For scrap"
	}
	bad := append([]stockroom.ChangeInput{}, lines...)
	bad[2].Quantity = "9"
	_, err = stockroom.ChangeConditions(s.By(s.Maren), stockroom.ChangesInput{Lines: bad, To: "In repair"})
	assert.Equal(t, "lines.2.quantity", fault.Of(err).Field)
	assert.Equal(t, "2", s.Held(t, bag).OnHand(bag, 1, stock.ForScrap).String(), "all of it or nothing")
	off := stockroom.ChangesInput{Lines: lines, WriteOff: true}
	_, err = stockroom.ChangeConditions(s.By(s.Maren), off)
	assert.Equal(t, "reason_id", fault.Of(err).Field)
	off.Reason = s.Why(t, reason.Stock, "Broken")
	_, err = stockroom.ChangeConditions(s.By(s.Tobi), off)
	assert.True(t, fault.Is(err, fault.Forbidden), "a clerk does not write off")
	_, err = stockroom.ChangeConditions(s.By(s.Callum), off)
	require.NoError(t, err)
	assert.Equal(t, "11 1", fmt.Sprint(s.Held(t, bag).Pools[bag].Quantity, " ", s.Held(t, board).Pools[board].Quantity))
	s.InStep(t)
}

// TestTheLifeOfALot: who brought it, whom it was sold to, where the rest lies; all of it out of sale in one
// deed.
func TestTheLifeOfALot(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "14.50")
	for branch, q := range map[uint64]string{1: "10", 2: "4"} {
		s.Receive(t, buying.DeliveryInput{Branch: branch,
			Lines: []scan.GoodsLine{{Variant: cream, Quantity: q, Cost: "6", Lot: "K1", Expiry: "2127-04-30"}}})
	}
	who, err := customers.Make(s.By(s.Tobi),
		customers.Input{Facts: customer.Facts{Name: "Ada Penrose", Mail: "ada@example.com"}})
	require.NoError(t, err)
	s.Open(t, 1)
	s.Basket(t, 1, cream)
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &who.ID})
	require.NoError(t, err)
	_, err = s.Pay(t, 1, "sold")
	require.NoError(t, err)
	s.Sold(t, cream, "2")
	life, err := book.ReadLot(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Equal(t, "11", life.ForSale.String())
	assert.Len(t, life.Places, 2)
	var told []string
	for _, e := range life.Events {
		told = append(told, e.Kind+" "+e.Quantity.String()+" "+e.Customer+e.Supplier)
	}
	assert.Contains(t, told, "Sale -1 Ada Penrose")
	assert.Contains(t, told, "Sale -2 ")
	_, err = stockroom.Recall(s.By(s.Maren), 1, stockroom.RecallInput{To: "Seconds"})
	assert.Equal(t, "to", fault.Of(err).Field, "it would still be sold")
	done, err := stockroom.Recall(s.By(s.Maren, "r"), 1,
		stockroom.RecallInput{To: "For scrap", Note: "the maker calls it back"})
	require.NoError(t, err)
	assert.Equal(t, "11 2", fmt.Sprint(done.Units, " ", len(done.Documents)))
	assert.Equal(t, "0 11", fmt.Sprint(s.Held(t, cream).ForSale()[cream], " ", s.Held(t, cream).Pools[cream].Quantity))
	_, err = stockroom.Recall(s.By(s.Maren), 1, stockroom.RecallInput{To: "For scrap"})
	assert.ErrorContains(t, err, "any more")
	rows, _, err := book.Lots(s.Store.Read(ctx), "", s.Now(), 1)
	require.NoError(t, err)
	assert.Equal(t, "0 11", fmt.Sprint(rows[0].ForSale, " ", rows[0].Other))
	s.InStep(t)
}

// TestMovementsOfEverything are narrowed by kind, branch, person, reason and period.
func TestMovementsOfEverything(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	s.Open(t, 1)
	s.Sold(t, v, "2")
	_, err := stockroom.PutRight(s.By(s.Maren), stockroom.PutInput{How: "write off", Variant: v, Branch: 1, Quantity: "1",
		Reason: s.Why(t, reason.Stock, "Broken")})
	require.NoError(t, err)
	for name, c := range map[string]struct {
		in   book.MoveQuery
		want int
	}{"all": {book.MoveQuery{}, 3}, "sales": {book.MoveQuery{Kind: "Sale"}, 1},
		"elsewhere": {book.MoveQuery{Branch: 2}, 0}, "a reason": {book.MoveQuery{Reason: "Broken"}, 1},
		"a person": {book.MoveQuery{User: s.Tobi.ID}, 1},
		"to come":  {book.MoveQuery{From: s.Now().AddDate(1, 0, 0)}, 0},
		"seconds":  {book.MoveQuery{Condition: "Seconds"}, 0}} {
		rows, more, err := book.Moves(s.Store.Read(ctx), c.in)
		require.NoError(t, err, name)
		assert.False(t, more)
		assert.Len(t, rows, c.want, name)
	}
	rows, _, err := book.StockList(s.Store.Read(ctx), book.StockQuery{}, 1)
	require.NoError(t, err)
	assert.Equal(t, "7 7 66.50", fmt.Sprint(rows[0].Quantity, " ", rows[0].ForSale, " ", rows[0].Value.StringFixed(2)))
	elsewhere := book.StockQuery{}
	elsewhere.Branch = 2
	rows, _, err = book.StockList(s.Store.Read(ctx), elsewhere, 1)
	require.NoError(t, err)
	assert.Empty(t, rows, "nothing ever lay there")
}

// TestWhatIsNotForSaleIsWatched: what waits longest first, what wants attention before the rest on Today, and the sums
// by condition are of all.
func TestWhatIsNotForSaleIsWatched(t *testing.T) {
	s := testkit.New(t)
	bag, hat := s.Simple(t, "Dry bag", "counted", "24.00"), s.Simple(t, "Swim cap", "counted", "8.00")
	s.Stock(t, bag, "10", "9.50")
	s.Stock(t, hat, "10", "2.00")
	put := func(ago int, variant uint64, to, many, with string, back int) {
		then := s.Shop.At(s.Now().AddDate(0, 0, -ago))
		in := stockroom.ChangeInput{Variant: variant, Branch: 1, From: "For sale", To: to, Quantity: many, WithWhom: with}
		if with != "" {
			in.BackBy = then.Now().AddDate(0, 0, back).Format(time.DateOnly)
		}
		_, err := stockroom.ChangeCondition(deed.By(ctx, then, s.Maren, ""), in)
		require.NoError(t, err)
	}
	put(0, bag, "To look over", "1", "", 0)
	put(9, hat, "Lent", "2", "Ada", 5)   // was to come back four days ago
	put(2, hat, "In repair", "1", "", 0) // for 21 days
	put(5, bag, "In repair", "1", "", 0)
	list, err := stockroom.NotForSale(s.By(s.Tobi), 0, "", 0)
	require.NoError(t, err)
	said := func(rows []stockroom.Off) (all []string) {
		for _, r := range rows {
			all = append(all, fmt.Sprint(r.Name, " ", r.Condition, " ", r.Quantity, " ", r.Late))
		}
		return all
	}
	assert.Equal(t, []string{"Swim cap Lent 2 true", "Dry bag In repair 1 false", "Swim cap In repair 1 false",
		"Dry bag To look over 1 false"},
		said(list.Rows))
	assert.Equal(t, 1, list.Late)
	require.Len(t, list.Sums, 3)
	assert.Equal(t, "Lent 2 4 1", fmt.Sprint(list.Sums[1].Name, " ", list.Sums[1].Units, " ", list.Sums[1].Worth, " ",
		list.Sums[1].Late))

	later := s.Shop.At(s.Now().AddDate(0, 0, 4)) // what is to be looked over wants attention after three days
	list, err = stockroom.NotForSale(deed.By(ctx, later, s.Tobi, ""), 1, "To look over", 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"Dry bag To look over 1 true"}, said(list.Rows))
	assert.Equal(t, 2, list.Late)
	assert.Len(t, list.Sums, 3, "the sums are of all")
	all, err := stockroom.NotForSale(deed.By(ctx, later, s.Tobi, ""), 0, "", 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"Swim cap Lent 2 true", "Dry bag To look over 1 true", "Dry bag In repair 1 false"},
		said(all.First(3)))
	assert.Len(t, all.First(99), 4)
	few, err := stockroom.NotForSale(s.By(s.Tobi), 0, "", 3)
	require.NoError(t, err)
	assert.Equal(t, "3 1", fmt.Sprint(len(few.Rows), " ", few.Left))
	assert.Equal(t, all.Sums[0].Units, few.Sums[0].Units, "the sums are of all")
	empty, err := stockroom.NotForSale(s.By(s.Tobi), 2, "", 0)
	require.NoError(t, err)
	assert.Empty(t, empty.Rows)
}
