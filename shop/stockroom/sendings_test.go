package stockroom_test

import (
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/shop/office"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storeoffice "itemrack/store/office"
	"itemrack/store/sendings"
)

// packed begins a sending from the first branch to the second with so many of a variant packed.
func packed(t *testing.T, s *testkit.Shop, variant uint64, q string) uint64 {
	ref, err := stockroom.BeginSending(s.By(s.Tobi), stockroom.SendingInput{From: 1, To: 2})
	require.NoError(t, err)
	_, err = stockroom.PutInSending(s.By(s.Tobi), ref.ID, stockroom.SendingPut{Variant: variant, Quantity: q})
	require.NoError(t, err)
	return ref.ID
}

func where(t *testing.T, s *testkit.Shop, variant uint64) string {
	h := s.Held(t, variant)
	return fmt.Sprint(h.OnHand(variant, 1, stock.ForSale), " ", h.OnHand(variant, 2, stock.OnTheWay), " ",
		h.OnHand(variant, 2, stock.ForSale))
}

// TestASendingFromWantedToSettled is the whole way of one, by scans: wanted, packed, sent, short, found.
func TestASendingFromWantedToSettled(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	soon := s.Now().AddDate(0, 0, 2).Format("02/01/2006")
	wanted, err := stockroom.BeginSending(s.By(s.Tobi, "w"), stockroom.SendingInput{From: 1, To: 2, Wanted: true,
		WantedOn: soon, Note: "for Saturday"})
	require.NoError(t, err)
	again, err := stockroom.BeginSending(s.By(s.Tobi, "w"), stockroom.SendingInput{From: 1, To: 2, Wanted: true,
		WantedOn: soon, Note: "for Saturday"})
	require.NoError(t, err)
	assert.Equal(t, wanted, again, "once")
	_, err = stockroom.PutInSending(s.By(s.Tobi), wanted.ID, stockroom.SendingPut{Variant: v, Quantity: "12"})
	require.NoError(t, err)
	_, err = stockroom.PackSending(s.By(s.Tobi), wanted.ID)
	require.NoError(t, err)
	view, err := stockroom.ReadSending(s.Shop, s.Store.Read(ctx), wanted.ID)
	require.NoError(t, err)
	assert.Equal(t, "12 10", view.Total.Wanted.String()+" "+view.Total.Packed.String(), "no more than is there")
	code := view.Lines[0].Item.SKU
	_, err = stockroom.PutInSending(s.By(s.Tobi), wanted.ID, stockroom.SendingPut{Code: code})
	assert.ErrorContains(t, err, "11 asked")
	_, err = stockroom.PutInSending(s.By(s.Tobi), wanted.ID,
		stockroom.SendingPut{Variant: v, Quantity: "3", Was: "10"})
	require.NoError(t, err)
	sent, err := stockroom.SendOff(s.By(s.Tobi, "s"), wanted.ID)
	require.NoError(t, err)
	assert.Equal(t, wanted.Number, sent.Number)
	assert.Equal(t, "7 3 0", where(t, s, v))
	_, err = stockroom.SendOff(s.By(s.Tobi), wanted.ID)
	assert.ErrorContains(t, err, "on the way", "it leaves once")
	_, err = stockroom.PutInSending(s.By(s.Tobi), wanted.ID, stockroom.SendingPut{Variant: v, Quantity: "9"})
	assert.True(t, fault.Is(err, fault.Refused))

	for range 2 {
		_, err = stockroom.CountHere(s.By(s.Tobi), wanted.ID, stockroom.HereInput{Code: code})
		require.NoError(t, err)
	}
	_, err = stockroom.CountHere(s.By(s.Tobi), wanted.ID, stockroom.HereInput{Code: "nobody knows"})
	assert.True(t, fault.Is(err, fault.NotFound))
	arrived, err := stockroom.ArriveSending(s.By(s.Tobi, "a"), wanted.ID, stockroom.ArriveInput{})
	require.NoError(t, err)
	assert.Equal(t, "7 1 2", where(t, s, v), "1 stays to be settled")
	_, err = stockroom.ArriveSending(s.By(s.Tobi), wanted.ID, stockroom.ArriveInput{})
	assert.ErrorContains(t, err, "Nothing is counted")
	_, err = stockroom.Reverse(s.By(s.Maren), arrived.Number, "")
	assert.ErrorContains(t, err, "can't be reversed", "it is settled instead")
	view, err = stockroom.ReadSending(s.Shop, s.Store.Read(ctx), wanted.ID)
	require.NoError(t, err)
	line := view.Lines[0].ID
	_, err = stockroom.SettleSending(s.By(s.Tobi), wanted.ID,
		stockroom.SettleInput{Line: line, How: "lost by the sender"})
	assert.True(t, fault.Is(err, fault.Forbidden), "a clerk does not write off")
	_, err = stockroom.SettleSending(s.By(s.Maren), wanted.ID,
		stockroom.SettleInput{Line: line, How: "lost by the sender"})
	assert.Equal(t, "reason_id", fault.Of(err).Field)
	reasons, err := storeoffice.Reasons(s.Store.Read(ctx))
	require.NoError(t, err)
	why := uint64(0)
	for _, r := range reasons {
		if r.Name == "Lost" {
			why = r.ID
		}
	}
	sender, receiver := s.Callum, s.Callum
	sender.Branch, sender.Branches, receiver.Branch, receiver.Branches = 1, nil, 2, nil
	_, err = stockroom.SettleSending(s.By(sender), wanted.ID,
		stockroom.SettleInput{Line: line, How: "lost by the receiver", Reason: why})
	assert.True(t, fault.Is(err, fault.Forbidden), "who works at the sender's alone writes nothing off at the receiver's")
	_, err = stockroom.SettleSending(s.By(receiver), wanted.ID,
		stockroom.SettleInput{Line: line, How: "lost by the sender", Reason: why})
	assert.True(t, fault.Is(err, fault.Forbidden), "nor the other way round")
	lost, err := stockroom.SettleSending(s.By(s.Maren, "l"), wanted.ID,
		stockroom.SettleInput{Line: line, How: "lost by the sender", Reason: why})
	require.NoError(t, err)
	doc, err := book.Document(s.Store.Read(ctx), lost.Number)
	require.NoError(t, err)
	assert.Equal(t, uint64(1), doc.BranchID, "as the sender's loss")
	assert.Equal(t, "7 0 2", where(t, s, v))
	view, err = stockroom.ReadSending(s.Shop, s.Store.Read(ctx), wanted.ID)
	require.NoError(t, err)
	assert.Equal(t, "Settled", view.State)
	var knots []string
	for _, e := range view.Events {
		knots = append(knots, e.What)
	}
	assert.Equal(t, []string{"Wanted", "Packing", "Left Quay Shop, 3 units", "2 arrived",
		"1 Dry bag: lost by the sender", "Settled"}, knots)
	s.InStep(t)
}

// TestOneSendingIsTakenInOnce: many take the same sending in, or send it off, at once.
func TestOneSendingIsTakenInOnce(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	id := packed(t, s, v, "6")
	for name, deed := range map[string]func() error{
		"1 send": func() error { _, err := stockroom.SendOff(s.By(s.Maren), id); return err },
		"2 arrive": func() error {
			_, err := stockroom.ArriveSending(s.By(s.Maren), id, stockroom.ArriveInput{All: true})
			return err
		},
	} {
		if name[0] == '2' {
			_, _ = stockroom.SendOff(s.By(s.Maren), id) // whichever comes first
		}
		var done atomic.Int32
		var wait sync.WaitGroup
		for range 6 {
			wait.Go(func() {
				if deed() == nil {
					done.Add(1)
				}
			})
		}
		wait.Wait()
		assert.LessOrEqual(t, done.Load(), int32(1), name)
	}
	assert.Equal(t, "4 0 6", where(t, s, v))
	s.InStep(t)
}

func TestTwoSendingsOfTheLastTen(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	var ids []uint64
	for range 4 {
		ids = append(ids, packed(t, s, v, "4"))
	}
	var done atomic.Int32
	var wait sync.WaitGroup
	for _, id := range ids {
		wait.Go(func() {
			_, err := stockroom.SendOff(s.By(s.Maren), id)
			if err == nil {
				done.Add(1)
			} else {
				assert.True(t, fault.Is(err, fault.Refused), "%v", err)
			}
		})
	}
	wait.Wait()
	assert.Equal(t, int32(2), done.Load())
	assert.Equal(t, "2 8 0", where(t, s, v))
	s.InStep(t)
}

func TestWhoMaySend(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	id := packed(t, s, v, "2")
	_, err := stockroom.DropSending(s.By(s.Tobi), id)
	require.NoError(t, err)
	_, err = stockroom.SendOff(s.By(s.Tobi), id)
	assert.ErrorContains(t, err, "given up")
	for field, in := range map[string]stockroom.SendingInput{"from_branch_id": {From: 9, To: 2},
		"to_branch_id": {From: 1, To: 1},
		"wanted_on":    {From: 1, To: 2, WantedOn: "soon"},
		"wanted_on ":   {From: 1, To: 2, WantedOn: "2020-02-29"}} {
		_, err := stockroom.BeginSending(s.By(s.Tobi), in)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, strings.TrimSpace(field), fault.Of(err).Field)
	}
	rows, _, err := sendings.Sendings(s.Store.Read(ctx), "", 1)
	require.NoError(t, err)
	assert.Len(t, rows, 1)
}

func TestMovingGoods(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	shelf, err := office.SaveShelf(s.By(s.Maren), 0, office.ShelfInput{Branch: 1, Name: "Wall 漢"})
	require.NoError(t, err)
	_, err = office.SaveShelf(s.By(s.Maren), 0, office.ShelfInput{Branch: 1, Name: "wall 漢"})
	assert.True(t, fault.Is(err, fault.Conflict), "each name once")
	scanned, err := stockroom.ScanMove(s.By(s.Tobi), stockroom.MoveScan{Code: book.ShelfCode(shelf.ID)})
	require.NoError(t, err)
	assert.Equal(t, shelf.ID, scanned.Shelf)
	rows, _, err := book.StockList(s.Store.Read(ctx), book.StockQuery{}, 1)
	require.NoError(t, err)
	scanned, err = stockroom.ScanMove(s.By(s.Tobi), stockroom.MoveScan{Code: "3 x " + rows[0].SKU})
	require.NoError(t, err)
	require.Len(t, scanned.Lines, 1)
	assert.Equal(t, "3", scanned.Lines[0].Quantity)
	done, err := stockroom.MoveGoods(s.By(s.Tobi, "m"), stockroom.MoveInput{To: shelf.ID, Lines: scanned.Lines})
	require.NoError(t, err)
	assert.Equal(t, "3", s.Held(t, v).OnShelf(v, shelf.ID, 1, stock.ForSale).String())
	_, err = stockroom.MoveGoods(s.By(s.Tobi), stockroom.MoveInput{To: shelf.ID, From: shelf.ID, Lines: scanned.Lines})
	assert.Equal(t, "lines.0.to_shelf_id", fault.Of(err).Field)
	_, err = office.SaveShelf(s.By(s.Maren), shelf.ID, office.ShelfInput{Branch: 1, Name: "Wall", Closed: true})
	assert.ErrorContains(t, err, "3 units are at")
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	require.NoError(t, err)
	_, err = office.SaveShelf(s.By(s.Maren), shelf.ID, office.ShelfInput{Branch: 1, Name: "Wall", Closed: true})
	require.NoError(t, err)
	_, err = stockroom.MoveGoods(s.By(s.Tobi), stockroom.MoveInput{To: shelf.ID, Lines: scanned.Lines})
	assert.Error(t, err, "it is closed")
	s.InStep(t)
}

func TestBranchesOpenAndClose(t *testing.T) {
	s := testkit.New(t)
	b, err := office.SaveBranch(s.By(s.Maren), 0,
		office.BranchInput{Name: "Pier kiosk", Shelf: "Counter", Register: "p1"})
	require.NoError(t, err)
	_, err = office.SaveBranch(s.By(s.Maren), 0, office.BranchInput{Name: "PIER  kiosk"})
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = office.SaveBranch(s.By(s.Tobi), 0, office.BranchInput{Name: "Mine"})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = office.AddRegister(s.By(s.Maren), office.RegisterInput{Branch: b.ID, Code: "P1"})
	assert.True(t, fault.Is(err, fault.Conflict), "each code once")
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "10", "9.50")
	ref, err := stockroom.BeginSending(s.By(s.Maren), stockroom.SendingInput{From: 1, To: b.ID})
	require.NoError(t, err)
	closing := office.BranchInput{Name: "Pier kiosk", Closed: true}
	_, err = office.SaveBranch(s.By(s.Maren), b.ID, closing)
	assert.ErrorContains(t, err, "sendings go on")
	_, err = stockroom.PutInSending(s.By(s.Maren), ref.ID, stockroom.SendingPut{Variant: v, Quantity: "2"})
	require.NoError(t, err)
	_, err = stockroom.SendOff(s.By(s.Maren), ref.ID)
	require.NoError(t, err)
	_, err = office.SaveBranch(s.By(s.Maren), b.ID, closing)
	assert.ErrorContains(t, err, "2 units are at")
	view, err := stockroom.ReadSending(s.Shop, s.Store.Read(ctx), ref.ID)
	require.NoError(t, err)
	_, err = stockroom.SettleSending(s.By(s.Maren), ref.ID,
		stockroom.SettleInput{Line: view.Lines[0].ID, How: "went back"})
	require.NoError(t, err)
	closed, err := office.SaveBranch(s.By(s.Maren), b.ID, closing)
	require.NoError(t, err)
	assert.True(t, closed.Closed)
	_, err = stockroom.BeginSending(s.By(s.Maren), stockroom.SendingInput{From: 1, To: b.ID})
	assert.Equal(t, "to_branch_id", fault.Of(err).Field)
	places, err := office.Places(s.Store.Read(ctx))
	require.NoError(t, err)
	last := places[len(places)-1]
	assert.True(t, last.Closed && last.Shelves[0].Closed, "closed ones last")
	_, err = office.SaveBranch(s.By(s.Maren), b.ID, office.BranchInput{Name: "Pier", Revision: "old"})
	assert.Equal(t, "revision", fault.Of(err).Field)
	open, err := office.SaveBranch(s.By(s.Maren), b.ID,
		office.BranchInput{Name: "Pier", Revision: last.Revision})
	require.NoError(t, err)
	assert.False(t, open.Closed)
	s.InStep(t)
}

// TestTwoPeopleChangeTheHeadOfASending: the second, who did not see what the first wrote, is told.
func TestTwoPeopleChangeTheHeadOfASending(t *testing.T) {
	s := testkit.New(t)
	ref, err := stockroom.BeginSending(s.By(s.Tobi), stockroom.SendingInput{From: 1, To: 2})
	require.NoError(t, err)
	read := func() stockroom.SendingView {
		view, err := stockroom.ReadSending(s.Shop, s.Store.Read(ctx), ref.ID)
		require.NoError(t, err)
		return view
	}
	shown := read().Revision
	change := func(note, shown string) error {
		_, err := stockroom.ChangeSending(s.By(s.Tobi), ref.ID,
			stockroom.SendingChange{Note: note, Revision: shown})
		return err
	}
	require.NoError(t, change("für Samstag ß 漢", shown))
	err = change("for Sunday", shown)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "für Samstag ß 漢", read().Note)
	require.NoError(t, change("for Sunday", read().Revision))
	require.NoError(t, change("by a program", ""))
	assert.Equal(t, "by a program", read().Note)
}
