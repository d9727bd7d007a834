package counts_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	storecounts "itemrack/store/counts"
	"itemrack/store/goods"
)

// available is what is told of a variant: on its product, in lists, in all and at the Quay Shop.
func available(t *testing.T, s *testkit.Shop, variant uint64) [2]string {
	t.Helper()
	found, err := goods.Sellables(s.Store.Read(ctx), []uint64{variant}, s.Now())
	require.NoError(t, err)
	p, err := goods.ReadProduct(s.Store.Read(ctx), found[variant].ProductID, 1, s.Now())
	require.NoError(t, err)
	for _, v := range p.Variants {
		if v.ID == variant {
			s.InStep(t)
			return [2]string{v.ForSale.String(), v.Here.String()}
		}
	}
	t.Fatal("no such variant")
	return [2]string{}
}

// TestWhatIsLockedIsNotAvailable from the moment at which a count locks it until it lets go: by releasing, settling,
// giving up, or as its time is over; in columns, pages and rules alike.
func TestWhatIsLockedIsNotAvailable(t *testing.T) {
	s := testkit.New(t)
	v, other := s.Simple(t, "Whistle", "counted", "4.00"), s.Simple(t, "Conch", "counted", "9.00")
	s.Stock(t, v, "8", "1.00")
	s.Stock(t, other, "2", "1.00")
	s.Open(t, 1)
	lock := func(until string) counts.CountRef {
		plan, err := counts.PlanCount(s.By(s.Maren), counts.CountPlan{Branch: 1, Whole: true, HeldStill: true,
			HeldUntil: until})
		require.NoError(t, err)
		assert.Equal(t, [2]string{"0", "0"}, available(t, s, v))
		assert.True(t, s.Held(t, v).Available(v, 1, s.Terms(t).Day(s.Now())).IsZero(), "by the rule, too")
		return plan
	}
	free := func(how string) { assert.Equal(t, [2]string{"8", "8"}, available(t, s, v), how) }

	plan := lock("")
	_, err := register.Sell(s.By(s.Tobi, "k1"), register.SaleInput{Register: 1, Cash: "4.00",
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
	assert.True(t, fault.Is(err, fault.Refused), "nor can it be sold")
	_, err = counts.ReleaseCount(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	free("released")
	third := s.Simple(t, "Bell", "counted", "2.00")
	s.Stock(t, third, "3", "1.00")
	_, err = counts.Count(s.By(s.Maren), plan.ID, counts.CountInput{Variant: third, Quantity: "3"})
	require.NoError(t, err)
	assert.Equal(t, [2]string{"3", "3"}, available(t, s, third), "what comes onto it later is not locked either")
	_, err = counts.GiveUp(s.By(s.Maren), plan.ID)
	require.NoError(t, err)

	plan = lock("")
	_, err = counts.GiveUp(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	free("given up")

	plan = lock("")
	_, err = counts.Count(s.By(s.Maren), plan.ID, counts.CountInput{Variant: v, Quantity: "8"})
	require.NoError(t, err)
	_, err = counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	free("settled")
	assert.Equal(t, [2]string{"2", "2"}, available(t, s, other), "and what was not counted")

	lock(s.Now().In(s.Terms(t).Zone).Add(time.Hour).Format("2006-01-02 15:04"))
	_, err = s.AskedAll("SELECT id FROM shelf_count")
	require.NoError(t, err)
	require.NoError(t, s.Spoil("UPDATE shelf_count SET held_until = '2020-01-01 00:00:00' WHERE state <> 'Closed'"))
	assert.Equal(t, "8", s.Held(t, v).Available(v, 1, s.Terms(t).Day(s.Now())).String(), "as its time is over")
	_, err = register.Sell(s.By(s.Tobi, "k2"), register.SaleInput{Register: 1, Cash: "4.00",
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
	require.NoError(t, err, "it can be sold at once")
	s.InStep(t)
	require.NoError(t, counts.Unlock(ctx, s.Shop))
	assert.Equal(t, [2]string{"7", "7"}, available(t, s, v))
}

// TestALotThatIsNotLockedIsSold while another of the same goods is, and one that came in expired is no more available
// than it would be tomorrow.
func TestALotThatIsNotLockedIsSold(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Sun cream", "lot", "9.00")
	day := func(days int) string { return s.Now().AddDate(0, 0, days).Format(time.DateOnly) }
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "4", Cost: "3", Lot: "K1",
		Expiry: day(30)}}})
	plan, err := counts.PlanCount(s.By(s.Maren), counts.CountPlan{Branch: 1, Whole: true, HeldStill: true})
	require.NoError(t, err)
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{
		{Variant: v, Quantity: "5", Cost: "3", Lot: "K2", Expiry: day(60)},
		{Variant: v, Quantity: "6", Cost: "3", Lot: "K0", Expiry: day(-2)}}})
	assert.Equal(t, [2]string{"5", "5"}, available(t, s, v), "K1 is locked, K0 has expired")
	s.Open(t, 1)
	sell := func(key, q string) error {
		_, err := register.Sell(deed.By(ctx, s.Shop, s.Tobi, key), register.SaleInput{Register: 1, Cash: "100",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: q}}})
		return err
	}
	require.NoError(t, sell("k1", "3"))
	err = sell("k2", "3")
	assert.ErrorContains(t, err, plan.Number, "more than is free is refused by what locks the rest")
	_, err = stockroom.PutRight(s.By(s.Maren), stockroom.PutInput{How: stock.WriteOff, Variant: v, Branch: 1,
		Quantity: "1",
		Lot:      lotOf(t, s, v, "K1"), Reason: s.Why(t, reason.Stock, "Lost")})
	assert.ErrorContains(t, err, plan.Number)
	_, err = stockroom.PutRight(s.By(s.Maren), stockroom.PutInput{How: stock.WriteOff, Variant: v, Branch: 1,
		Quantity: "1",
		Lot:      lotOf(t, s, v, "K2"), Reason: s.Why(t, reason.Stock, "Lost")})
	require.NoError(t, err, "a lot that is no row of the count")
	assert.Equal(t, [2]string{"1", "1"}, available(t, s, v))
}

// lotOf finds a lot by its number.
func lotOf(t *testing.T, s *testkit.Shop, variant uint64, number string) uint64 {
	t.Helper()
	for id, lot := range s.Held(t, variant).Lots {
		if lot.Number == number {
			return id
		}
	}
	t.Fatalf("no lot %s", number)
	return 0
}

// TestAnUndoneCountIsNoHistory: nor is it when goods were counted last; and months are those of the shop's zone.
func TestAnUndoneCountIsNoHistory(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "8", "1.00")
	settle := func(q string) deed.Posted {
		plan, err := counts.PlanCount(s.By(s.Maren), counts.CountPlan{Branch: 1, Whole: true})
		require.NoError(t, err)
		_, err = counts.Count(s.By(s.Maren), plan.ID, counts.CountInput{Variant: v, Quantity: q})
		require.NoError(t, err)
		done, err := counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave",
			Reasons: map[uint64]string{row(t, s, plan.ID, v).RowID: "error"}})
		require.NoError(t, err)
		return done
	}
	settle("8")
	require.NoError(t, s.Spoil("UPDATE shelf_count SET closed_at = '2026-07-31 23:30:00'")) // half past midnight in the shop
	undone := settle("7")
	q := s.Store.Read(ctx)
	rows, _, err := storecounts.Histories(q, 1)
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Equal(t, "2026-08", rows[1].Month)
	_, err = stockroom.Reverse(s.By(s.Maren), undone.Number, "")
	require.NoError(t, err)
	rows, _, err = storecounts.Histories(q, 1)
	require.NoError(t, err)
	require.Len(t, rows, 1)
	assert.Equal(t, []any{1, 1}, []any{rows[0].Rows, rows[0].Right})
	last, err := storecounts.LastOf(q, v)
	require.NoError(t, err)
	require.Len(t, last, 1)
	assert.Equal(t, "8", last[0].Counted.String(), "the one before")
	at, err := storecounts.LastCounted(q, 1)
	require.NoError(t, err)
	assert.Equal(t, time.July, at[v].Month())
	lost, err := storecounts.Reasons(q, s.Now().AddDate(-1, 0, 0))
	require.NoError(t, err)
	assert.Empty(t, lost)
}
