package counts_test

import (
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/emersion/go-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storecounts "itemrack/store/counts"
	"itemrack/store/goods"
)

// vests makes a shop with a rack of vests, so many of each of the first ones on the floor.
func vests(t *testing.T, each ...string) (*testkit.Shop, []uint64) {
	s := testkit.New(t)
	var ids []uint64
	for i, v := range s.Vest(t).Variants {
		ids = append(ids, v.ID)
		if i < len(each) {
			s.Stock(t, v.ID, each[i], "10.00")
		}
	}
	return s, ids
}

// rashVests is the category of the vests.
func rashVests(t *testing.T, s *testkit.Shop) uint64 {
	all, err := goods.Categories(s.Store.Read(ctx))
	require.NoError(t, err)
	for _, c := range all {
		if c.Path == "Swim > Rash vests" {
			return c.ID
		}
	}
	return 0
}

func planned(t *testing.T, s *testkit.Shop, in counts.CountPlan) counts.CountRef {
	in.Branch = 1
	ref, err := counts.PlanCount(s.By(s.Callum), in)
	require.NoError(t, err)
	return ref
}

func row(t *testing.T, s *testkit.Shop, id, variant uint64) counts.CountFigure {
	figures, err := counts.CountStands(s.By(s.Maren), id)
	require.NoError(t, err)
	for _, f := range figures.Rows {
		if f.Key.Variant == variant && f.Key.Condition == stock.ForSale {
			return f
		}
	}
	require.Fail(t, "no such row")
	return counts.CountFigure{}
}

// TestTwoCountersOfOneShelf: each has a column; what they differ in is counted again or chosen before it is
// settled.
func TestTwoCountersOfOneShelf(t *testing.T) {
	s, v := vests(t, "10", "14", "6")
	plan := planned(t, s, counts.CountPlan{Category: rashVests(t, s), Counters: []uint64{s.Callum.ID, s.Tobi.ID}})
	note := func(who string, variant uint64, q string) error {
		actor := s.Callum
		if who == "tobi" {
			actor = s.Tobi
		}
		_, err := counts.Count(s.By(actor), plan.ID, counts.CountInput{Variant: variant, Quantity: q})
		return err
	}
	_, err := counts.Count(s.By(s.Maren), plan.ID, counts.CountInput{Variant: v[0], Quantity: "1"})
	assert.ErrorContains(t, err, s.Callum.Name, "it is counted by its counters")
	require.NoError(t, note("callum", v[0], "10"))
	require.NoError(t, note("tobi", v[0], "8"))
	require.NoError(t, note("callum", v[1], "14"))
	s.Open(t, 1)
	s.Sold(t, v[1], "1")
	require.NoError(t, note("tobi", v[1], "13"), "one was sold between")
	require.NoError(t, note("callum", v[2], "6"))

	assert.True(t, row(t, s, plan.ID, v[0]).Apart)
	assert.False(t, row(t, s, plan.ID, v[1]).Apart, "14, then 13 after a sale, is equal")
	assert.True(t, row(t, s, plan.ID, v[2]).Apart, "Tobi has not counted it")
	page, err := counts.ReadPage(s.By(s.Tobi), plan.ID, counts.CountPage{Page: 1, Size: 50})
	require.NoError(t, err)
	for _, f := range page.Rows {
		if f.Key.Variant == v[0] {
			assert.Equal(t, "8", f.Column(s.Tobi.ID).Quantity.String(), "one's own column")
		}
	}
	settle := func(in counts.SettleInput) error {
		in.Uncounted = "leave"
		_, err := counts.SettleCount(s.By(s.Maren), plan.ID, in)
		return err
	}
	assert.Equal(t, "choices", fault.Of(settle(counts.SettleInput{})).Field)
	_, err = counts.ChangeRow(s.By(s.Tobi), plan.ID, row(t, s, plan.ID, v[2]).RowID,
		counts.RowInput{What: "choose", Counter: s.Callum.ID})
	assert.True(t, fault.Is(err, fault.Forbidden), "a clerk does not choose")
	_, err = counts.ChangeRow(s.By(s.Maren), plan.ID, row(t, s, plan.ID, v[2]).RowID,
		counts.RowInput{What: "choose", Counter: s.Callum.ID})
	require.NoError(t, err)
	_, err = counts.ChangeRow(s.By(s.Tobi), plan.ID, row(t, s, plan.ID, v[0]).RowID,
		counts.RowInput{What: "recount"})
	require.NoError(t, err)
	assert.False(t, row(t, s, plan.ID, v[0]).Counted, "both count it again")
	require.NoError(t, note("callum", v[0], "9"))
	require.NoError(t, note("tobi", v[0], "9"))
	require.NoError(t, settle(counts.SettleInput{}))
	assert.Equal(t, "9 13 6", fmt.Sprint(s.Held(t, v[0]).ForSale()[v[0]], " ", s.Held(t, v[1]).ForSale()[v[1]], " ",
		s.Held(t, v[2]).ForSale()[v[2]]))
	s.InStep(t)
}

// TestRowsHeldStill: nothing sells or moves them until they are released, by settling, by hand, or by giving
// the count up.
func TestRowsHeldStill(t *testing.T) {
	s, v := vests(t, "10", "10")
	s.Open(t, 1)
	sell := func() error {
		_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "500",
			Lines: []register.SaleLineInput{{Variant: v[0], Quantity: "1"}}})
		return err
	}
	plan := planned(t, s, counts.CountPlan{Category: rashVests(t, s), HeldStill: true})
	err := sell()
	require.Error(t, err)
	assert.ErrorContains(t, err, plan.Number)
	assert.ErrorContains(t, err, "until it is settled")
	_, err = stockroom.ChangeCondition(s.By(s.Maren), stockroom.ChangeInput{Variant: v[0], Branch: 1, From: "For sale",
		To: "For scrap", Quantity: "1"})
	assert.ErrorContains(t, err, plan.Number)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: v[0]})
	require.NoError(t, err)
	assert.Contains(t, basket.Lines[0].Short, plan.Number, "the line says so before anybody pays")
	_, err = counts.ChangeRow(s.By(s.Maren), plan.ID, row(t, s, plan.ID, v[0]).RowID,
		counts.RowInput{What: "release"})
	require.NoError(t, err)
	require.NoError(t, sell(), "released by hand")
	_, err = counts.GiveUp(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	_, err = counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
	assert.ErrorContains(t, err, "was given up")

	plan = planned(t, s, counts.CountPlan{Category: rashVests(t, s), HeldStill: true,
		HeldUntil: time.Now().Add(2 * time.Hour).Format("2006-01-02 15:04")})
	assert.Error(t, sell())
	for _, id := range v[:2] {
		_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: id, Quantity: "9"})
		require.NoError(t, err)
	}
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	require.NoError(t, sell(), "settled")
	for field, in := range map[string]counts.CountPlan{"held_until": {Category: rashVests(t, s), HeldStill: true,
		HeldUntil: "2020-01-01"},
		"shelf_ids": {Whole: true, Shelves: []uint64{99}}, "counter_ids": {Whole: true, Counters: []uint64{99}},
		"class": {Class: "D"}, "category_id": {},
		"not_counted": {NotSince: "once"}} {
		in.Branch = 1
		_, err := counts.PlanCount(s.By(s.Callum), in)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	s.InStep(t)
}

// TestASaleAndAHeldCountAtOnce: whichever comes first, no held row is sold.
func TestASaleAndAHeldCountAtOnce(t *testing.T) {
	s, v := vests(t, "40")
	s.Open(t, 1)
	var wait sync.WaitGroup
	var planned, after atomic.Int32
	for range 12 {
		wait.Go(func() {
			before := planned.Load() == 1
			_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "500",
				Lines: []register.SaleLineInput{{Variant: v[0], Quantity: "1"}}})
			if err == nil && before {
				after.Add(1)
			}
		})
	}
	wait.Go(func() {
		_, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: rashVests(t, s), HeldStill: true})
		assert.NoError(t, err)
		planned.Store(1)
	})
	wait.Wait()
	assert.Zero(t, after.Load())
	s.InStep(t)
}

// TestAMixUpIsSettledAsOne: M −1 and L +1 of one product stand together.
func TestAMixUpIsSettledAsOne(t *testing.T) {
	s, v := vests(t, "5", "9")
	plan := planned(t, s, counts.CountPlan{Category: rashVests(t, s)})
	for i, q := range []string{"4", "10"} {
		_, err := counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: v[i], Quantity: q})
		require.NoError(t, err)
	}
	figures, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	swaps, err := counts.Swaps(s.Shop, s.Store.Read(ctx), figures)
	require.NoError(t, err)
	require.Len(t, swaps, 1)
	assert.Equal(t, v[0], swaps[0].Short)
	assert.True(t, swaps[0].Net.IsZero() && swaps[0].Value.IsZero())
	done, err := counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{Uncounted: "leave",
		MixUps: []counts.MixUpInput{{Short: swaps[0].ShortRow, Over: swaps[0].OverRow}}})
	require.NoError(t, err)
	postings, err := book.Postings(s.Store.Read(ctx), done.Document)
	require.NoError(t, err)
	assert.Empty(t, postings, "no loss in value, the costs being equal")
	reasons, err := storecounts.Reasons(s.Store.Read(ctx), s.Now().Add(-time.Hour))
	require.NoError(t, err)
	require.Len(t, reasons, 1)
	assert.Equal(t, "mix-up 1 1", fmt.Sprint(reasons[0].Reason, " ", reasons[0].Short, " ", reasons[0].Over))
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "5", s.Held(t, v[0]).ForSale()[v[0]].String())
	s.InStep(t)
}

// TestDeliveredButNotEntered: a surplus shows the order, or the sending, that may explain it.
func TestDeliveredButNotEntered(t *testing.T) {
	s, v := vests(t, "4", "4")
	order, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{{Variant: v[0], Quantity: "12", Price: "10"}}})
	require.NoError(t, err)
	_, err = buying.PlaceOrder(s.By(s.Maren), order.ID)
	require.NoError(t, err)
	plan := planned(t, s, counts.CountPlan{Category: rashVests(t, s)})
	for _, id := range v[:2] {
		_, err := counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: id, Quantity: "10"})
		require.NoError(t, err)
	}
	figures, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	coming, err := counts.Explains(s.Store.Read(ctx), figures)
	require.NoError(t, err)
	require.Len(t, coming[v[0]], 1)
	assert.Equal(t, "12", coming[v[0]][0].Units.String())
	assert.Empty(t, coming[v[1]])
}

// TestATolerance: above it a manager confirms, by a yes on the spot or by settling.
func TestATolerance(t *testing.T) {
	s, v := vests(t, "40")
	plan := planned(t, s, counts.CountPlan{Category: rashVests(t, s)})
	_, err := counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: v[0], Quantity: "29"})
	require.NoError(t, err)
	in := counts.SettleInput{Uncounted: "leave"}
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, in)
	assert.ErrorContains(t, err, "110.00")
	in.Approval = &deed.Approval{Person: s.Maren.ID, PIN: testkit.PIN}
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, in)
	require.NoError(t, err)
	s.InStep(t)
}

// TestChosenInEveryWay plans counts of what is chosen by shelf, class, time and scans.
func TestChosenInEveryWay(t *testing.T) {
	s, v := vests(t, "10", "5", "3")
	whistle := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, whistle, "7", "1")
	_, err := stockroom.MoveGoods(s.By(s.Callum), stockroom.MoveInput{To: 2,
		Lines: []stockroom.MoveLine{{Variant: v[0], Quantity: "4"}}})
	require.NoError(t, err)
	s.Open(t, 1)
	s.Sold(t, v[1], "2")
	rows, _, err := book.StockList(s.Store.Read(ctx), book.StockQuery{}, 1)
	require.NoError(t, err)
	sku := map[uint64]string{}
	for _, r := range rows {
		sku[r.ID] = r.SKU
	}
	for name, c := range map[string]struct {
		in   counts.CountPlan
		want int
	}{
		"all that lies there":   {counts.CountPlan{Whole: true}, 4},
		"one shelf":             {counts.CountPlan{Shelves: []uint64{2}}, 1},
		"a category":            {counts.CountPlan{Category: rashVests(t, s)}, 6},
		"class A sold":          {counts.CountPlan{Class: "A"}, 1},
		"class C of a category": {counts.CountPlan{Class: "C", Category: rashVests(t, s)}, 5},
		"words":                 {counts.CountPlan{Filter: goods.ListFilter{Words: "whistle"}}, 1},
		"a list of scans":       {counts.CountPlan{Codes: []string{sku[v[2]], "", sku[whistle], sku[v[2]]}}, 2},
		"not counted":           {counts.CountPlan{NotSince: "2030-01-01"}, 4},
		"moved since":           {counts.CountPlan{MovedSince: "2020-01-01", Filter: goods.ListFilter{Words: "whistle"}}, 1},
	} {
		c.in.Branch = 1
		ref, err := counts.PlanCount(s.By(s.Callum), c.in)
		require.NoError(t, err, name)
		assert.Equal(t, c.want, ref.Rows, name)
		_, err = counts.GiveUp(s.By(s.Maren), ref.ID)
		require.NoError(t, err)
	}
	_, err = counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Codes: []string{"nobody knows"}})
	assert.Equal(t, "codes", fault.Of(err).Field)
	// a shelf by itself: 4 of the 10 are expected there
	plan := planned(t, s, counts.CountPlan{Shelves: []uint64{2}})
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: v[0], Quantity: "3"})
	require.NoError(t, err)
	assert.Equal(t, "4 -1", fmt.Sprint(row(t, s, plan.ID, v[0]).Expected, " ", row(t, s, plan.ID, v[0]).Differs))
	// a variant in two open counts of one branch is refused
	_, err = counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: rashVests(t, s)})
	assert.True(t, fault.Is(err, fault.Conflict))
	assert.ErrorContains(t, err, plan.Number)
}

// TestALotAndNumbersThatTheBookDoesNotKnow are noted, and stand apart.
func TestALotAndNumbersThatTheBookDoesNotKnow(t *testing.T) {
	s := testkit.New(t)
	board, cream := s.Simple(t, "Board", "serial", "549.00"), s.Simple(t, "Sun cream", "lot", "14.50")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310",
		Serials: "A1,A2"},
		{Variant: cream, Quantity: "5", Cost: "6", Lot: "K1", Expiry: "2127-04-30"}}})
	plan := planned(t, s, counts.CountPlan{Whole: true})
	note := func(in counts.CountInput) counts.Counted {
		got, err := counts.Count(s.By(s.Callum), plan.ID, in)
		require.NoError(t, err)
		return got
	}
	assert.False(t, note(counts.CountInput{Variant: board, Serial: "A1"}).Unexpected)
	assert.True(t, note(counts.CountInput{Variant: board, Serial: "Z9"}).Unexpected)
	scanned := note(counts.CountInput{Code: "y 8", After: board})
	assert.True(t, scanned.Unexpected, "an unknown code after a numbered thing is its number")
	f := row(t, s, plan.ID, board)
	assert.Equal(t, map[string]string{"Z9": "not known", "Y8": "not known"}, f.Unexpected)
	assert.Equal(t, "1", f.Quantity.String())
	assert.Equal(t, []string{"A2"}, f.Missing)
	found, err := goods.Sellables(s.Store.Read(ctx), []uint64{cream}, s.Now())
	require.NoError(t, err)
	gtin := found[cream].Barcode
	lot := note(counts.CountInput{Code: "(01)" + strings.Repeat("0", 14-len(gtin)) + gtin + "(17)281231(10)K9"})
	assert.Equal(t, "K9", lot.Lot)
	assert.False(t, lot.Planned)
	_, err = counts.ChangeRow(s.By(s.Callum), plan.ID, lot.Row, counts.RowInput{What: "keep"})
	require.NoError(t, err)
	note(counts.CountInput{Variant: cream, Lot: 1, Quantity: "5"})
	_, err = counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	assert.Equal(t, "6", s.Held(t, cream).Pools[cream].Quantity.String())
	s.InStep(t)
}

// TestWhatADeviceSendsLate is counted at the moment at which it was counted.
func TestWhatADeviceSendsLate(t *testing.T) {
	s, v := vests(t, "20")
	plan := planned(t, s, counts.CountPlan{Category: rashVests(t, s)})
	began := time.Now()
	time.Sleep(1300 * time.Millisecond) // what is sent late is told from what is not by more than a second
	s.Open(t, 1)
	s.Sold(t, v[0], "3")
	shop := deed.New(ctx, s.Store) // by the real clock, as the sale was
	ago := time.Since(began).Milliseconds() - 100
	_, err := counts.Count(deed.By(ctx, shop, s.Callum, "late"), plan.ID,
		counts.CountInput{Variant: v[0], Quantity: "18", AgoMS: ago})
	require.NoError(t, err)
	_, err = counts.Count(deed.By(ctx, shop, s.Callum, "late"), plan.ID,
		counts.CountInput{Variant: v[0], Quantity: "18", AgoMS: ago + 5000})
	require.NoError(t, err, "sent again, later")
	f := row(t, s, plan.ID, v[0])
	assert.Equal(t, "18 20 -2", fmt.Sprint(f.Quantity, " ", f.Expected, " ", f.Differs))
	_, err = counts.SettleCount(deed.By(ctx, shop, s.Callum, ""), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	assert.Equal(t, "15", s.Held(t, v[0]).ForSale()[v[0]].String())
	_, err = counts.Count(deed.By(ctx, shop, s.Callum, ""), plan.ID, counts.CountInput{Variant: v[0], Quantity: "1",
		AgoMS: -5})
	assert.Error(t, err)
	s.InStep(t)
}

// TestManyScanAtOnce: no scan is lost or doubled, whoever scans.
func TestManyScanAtOnce(t *testing.T) {
	s, v := vests(t, "10", "10", "10")
	plan := planned(t, s, counts.CountPlan{Category: rashVests(t, s)})
	var wait sync.WaitGroup
	for n := range 8 {
		wait.Go(func() {
			actor := s.Callum
			if n%2 > 0 {
				actor = s.Tobi
			}
			for i := range 12 {
				for range 2 { // each is sent twice
					_, err := counts.Count(s.By(actor, fmt.Sprint("scan-", n, "-", i)), plan.ID,
						counts.CountInput{Variant: v[i%3], Quantity: "1"})
					assert.NoError(t, err)
				}
			}
		})
	}
	wait.Wait()
	for _, id := range v[:3] {
		assert.Equal(t, "32", row(t, s, plan.ID, id).Quantity.String())
	}
	news, err := counts.ReadNews(s.By(s.Tobi), plan.ID, 0, s.Now())
	require.NoError(t, err)
	assert.Len(t, news.Events, 96)
	var settled atomic.Int32
	for range 4 {
		wait.Go(func() {
			_, err := counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
			if err == nil {
				settled.Add(1)
			} else {
				assert.True(t, fault.Is(err, fault.Conflict), "%v", err)
			}
		})
	}
	wait.Wait()
	assert.Equal(t, int32(1), settled.Load(), "settled once, however it comes")
	s.InStep(t)
}

// TestASchedule comes round, is taken in parts, and stands in the calendar.
func TestASchedule(t *testing.T) {
	s, v := vests(t, "3", "3", "3")
	in := counts.ScheduleInput{Name: "Vests, 漢", Branch: 1, Category: rashVests(t, s), Every: "months", N: 1,
		Person: s.Callum.ID, NextOn: "2026-11-20"}
	made, err := counts.SaveSchedule(s.By(s.Callum), 0, in)
	require.NoError(t, err)
	_, err = counts.SaveSchedule(s.By(s.Tobi), 0, in)
	assert.True(t, fault.Is(err, fault.Forbidden))
	shop := s.Shop.At(testkit.Moment)
	due, err := counts.DueOf(ctx, shop, s.Callum.ID)
	require.NoError(t, err)
	require.Len(t, due, 1)
	assert.Equal(t, "6 0", fmt.Sprint(due[0].Left, " ", due[0].Late))
	part, err := counts.Prepare(deed.By(ctx, shop, s.Callum, "p"), made.ID, counts.PrepareInput{Most: 4})
	require.NoError(t, err)
	assert.Equal(t, 4, part.Rows)
	due, err = counts.DueOf(ctx, shop, s.Callum.ID)
	require.NoError(t, err)
	require.Len(t, due, 1, "the rest stays due")
	assert.Equal(t, "2 4", fmt.Sprint(due[0].Left, " ", due[0].Taken))
	rest, err := counts.Prepare(deed.By(ctx, shop, s.Callum, "q"), made.ID, counts.PrepareInput{})
	require.NoError(t, err)
	assert.Equal(t, 2, rest.Rows)
	due, err = counts.DueOf(ctx, shop, s.Callum.ID)
	require.NoError(t, err)
	assert.Empty(t, due)
	list, err := storecounts.Schedules(s.Store.Read(ctx))
	require.NoError(t, err)
	assert.Equal(t, "2026-12-20", list[0].NextOn.Format(time.DateOnly), "the next date follows")

	key, err := counts.NewCalendar(deed.By(ctx, shop, s.Callum, ""))
	require.NoError(t, err)
	feed, err := counts.Calendar(ctx, shop, strings.TrimPrefix(key.Path, "/calendar/"))
	require.NoError(t, err)
	assert.Equal(t, strings.Count(feed, "\n"), strings.Count(feed, "\r\n"), "every line ends as RFC 5545 asks")
	cal, err := ical.NewDecoder(strings.NewReader(feed)).Decode()
	require.NoError(t, err)
	events := cal.Events()
	require.Len(t, events, 1)
	summary, err := events[0].Props.Text(ical.PropSummary)
	require.NoError(t, err)
	assert.Equal(t, "Count: Vests, 漢", summary)
	start, err := events[0].DateTimeStart(time.UTC)
	require.NoError(t, err)
	assert.Equal(t, "2026-12-20", start.Format(time.DateOnly))
	rule, err := events[0].RecurrenceSet(time.UTC)
	require.NoError(t, err)
	assert.Equal(t, "2027-02-20", rule.After(start.AddDate(0, 1, 5), false).Format(time.DateOnly))
	again, err := counts.NewCalendar(deed.By(ctx, shop, s.Callum, ""))
	require.NoError(t, err)
	_, err = counts.Calendar(ctx, shop, strings.TrimPrefix(key.Path, "/calendar/"))
	assert.True(t, fault.Is(err, fault.NotFound), "a new address ends the one before")
	_, err = counts.Calendar(ctx, shop, strings.TrimPrefix(again.Path, "/calendar/"))
	require.NoError(t, err)
	_ = v
}

// TestARollingCount picks what has waited longest, so many a day.
func TestARollingCount(t *testing.T) {
	s, v := vests(t, "3", "3", "3")
	s.Open(t, 1)
	s.Sold(t, v[2], "1")
	first := planned(t, s, counts.CountPlan{Category: rashVests(t, s)})
	_, err := counts.Count(s.By(s.Callum), first.ID, counts.CountInput{Variant: v[0], Quantity: "3"})
	require.NoError(t, err)
	_, err = counts.SettleCount(s.By(s.Callum), first.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	made, err := counts.SaveSchedule(s.By(s.Callum), 0,
		counts.ScheduleInput{Name: "A few a day", Branch: 1, Every: "days", N: 1, PerDay: 2,
			Person: s.Callum.ID, NextOn: "2026-11-20"})
	require.NoError(t, err)
	shop := s.Shop.At(testkit.Moment)
	due, err := counts.DueOf(ctx, shop, s.Callum.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, due[0].Left)
	ref, err := counts.Prepare(deed.By(ctx, shop, s.Callum, ""), made.ID, counts.PrepareInput{})
	require.NoError(t, err)
	figures, err := counts.CountStands(s.By(s.Maren), ref.ID)
	require.NoError(t, err)
	var got []uint64
	for _, f := range figures.Rows {
		got = append(got, f.Key.Variant)
	}
	assert.ElementsMatch(t, []uint64{v[1], v[2]}, got, "not the one that was counted just now")
	due, err = counts.DueOf(ctx, shop, s.Callum.ID)
	require.NoError(t, err)
	assert.Empty(t, due, "so many a day")
}

// TestTwoPeopleSayWhoCounts: the second, who saw the counters of before, is refused.
func TestTwoPeopleSayWhoCounts(t *testing.T) {
	s, _ := vests(t, "3")
	ref := planned(t, s, counts.CountPlan{Whole: true})
	seen := func() string {
		c, err := storecounts.Count(s.Store.Read(ctx), ref.ID)
		require.NoError(t, err)
		return revision.Of(c.Counters)
	}
	first := seen()
	_, err := counts.ChangeCounters(s.By(s.Callum), ref.ID,
		counts.CountersInput{Counters: []uint64{s.Callum.ID}, Revision: first})
	require.NoError(t, err)
	_, err = counts.ChangeCounters(s.By(s.Maren), ref.ID,
		counts.CountersInput{Counters: []uint64{s.Tobi.ID}, Revision: first})
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = counts.ChangeCounters(s.By(s.Maren), ref.ID,
		counts.CountersInput{Counters: []uint64{s.Tobi.ID}, Revision: seen()})
	assert.NoError(t, err)
}
