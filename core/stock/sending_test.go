package stock

import (
	"slices"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
	"itemrack/core/ledger"
)

// stockedUp has 10 vests on the floor and 5 on the wall at the quay, 32 and 50 of a cream in two lots,
// and two boards.
func stockedUp(t require.TestingT) *Draft {
	draft := NewDraft(empty(), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("10"), d("139.50"), nil))
	require.NoError(t, draft.Bring(1, at(vest, wall), d("5"), d("69.75"), nil))
	sooner, later := at(cream, floor), at(cream, floor)
	sooner.Lot, later.Lot = may, june
	require.NoError(t, draft.Bring(2, sooner, d("32"), d("96"), nil))
	require.NoError(t, draft.Bring(2, later, d("50"), d("150"), nil))
	require.NoError(t, draft.Bring(3, at(board, floor), d("2"), d("635"), []string{"T1", "T2"}))
	return draft
}

func worth(h Holding) decimal.Decimal {
	sum := decimal.Zero
	for _, p := range h.Pools {
		sum = sum.Add(p.Value)
	}
	return sum
}

func moveOf(variant uint64, q string) Want {
	return Want{Line: 1, Variant: variant, Branch: quay, Condition: ForSale, Quantity: d(q), Day: today}
}

func TestMovingFromShelfToShelf(t *testing.T) {
	draft := stockedUp(t)
	before := worth(draft.Holding())
	w := moveOf(vest, "4")
	w.Shelf = floor
	require.NoError(t, draft.Move(w, wall))
	h := draft.Holding()
	assert.Equal(t, "6 9", h.Balances[at(vest, floor)].String()+" "+h.Balances[at(vest, wall)].String())
	assert.True(t, before.Equal(worth(h)), "moving changes no value")
	require.NoError(t, draft.Move(moveOf(vest, "6"), wall), "from wherever else they lie")
	assert.Equal(t, "15", draft.Holding().Balances[at(vest, wall)].String())

	for says, c := range map[string]struct {
		q    string
		from uint64
		to   uint64
	}{"on the other shelves": {"16", 0, wall}, "1 asked": {"1", floor, wall}, "no such shelf": {"1", 0, bench},
		"already": {"1", wall, wall}} {
		w := moveOf(vest, c.q)
		w.Shelf = c.from
		err := draft.Move(w, c.to)
		if says == "1 asked" {
			assert.ErrorContains(t, err, "none is For sale here", "the floor is empty")
			continue
		}
		assert.ErrorContains(t, err, says)
	}
	boards := moveOf(board, "1")
	boards.Serials = []string{"T2"}
	require.NoError(t, draft.Move(boards, wall))
	assert.Equal(t, uint64(wall), draft.Holding().Units[UnitKey{board, "T2"}].Key.Shelf)
	assert.ErrorContains(t, draft.Move(boards, wall), "already")
	doc, err := draft.Document()
	require.NoError(t, err)
	for _, e := range doc.Entries[6:] {
		assert.True(t, e.Moved)
	}
}

func TestClosedShelvesTakeNothing(t *testing.T) {
	h := empty()
	shelf := h.Shelves[wall]
	shelf.Closed = true
	h.Shelves[wall] = shelf
	draft := NewDraft(h, Document{})
	assert.ErrorContains(t, draft.Bring(1, at(vest, wall), d("1"), d("1"), nil), "Wall is closed")
	require.NoError(t, draft.Bring(1, at(vest, floor), d("1"), d("1"), nil))
	assert.ErrorContains(t, draft.Move(moveOf(vest, "1"), wall), "no such shelf")
	for says, l := range map[string]Leaving{"last one": {Last: true}, "the default": {Default: true},
		"3 units":        {Units: d("3")},
		"drawer is open": {Open: []string{"a drawer is open"}}} {
		assert.ErrorContains(t, l.CheckClose("Wall"), says)
	}
	assert.NoError(t, Leaving{}.CheckClose("Wall"))
	_, err := PlaceName("  \u200b ")
	assert.Error(t, err)
	name, err := PlaceName(" Regal 漢 ß ")
	assert.NoError(t, err)
	assert.Equal(t, "Regal 漢 ß", name)
	for typed, ok := range map[string]bool{"q3": true, "D": false, "RV": false, "Q": false, "Q123": false, "": false} {
		_, err := RegisterCode(typed)
		assert.Equal(t, ok, err == nil, typed)
	}
}

// TestThreeSentTwoArrived: 1 stays to be settled, and the total never changes.
func TestThreeSentTwoArrived(t *testing.T) {
	for how, want := range map[Settling]string{ShortFound: "12 3 0", ShortBack: "13 2 0", ShortLostFrom: "12 2 0",
		ShortLostTo: "12 2 0"} {
		draft := stockedUp(t)
		before := worth(draft.Holding())
		lines, err := draft.Send(quay, boathouse, []SendingLine{{ID: 7, Variant: vest, Condition: ForSale,
			Wanted: d("4"), Packed: d("3")}}, today)
		require.NoError(t, err)
		require.Len(t, lines, 1)
		assert.Equal(t, "3 4", lines[0].OnWay().String()+" "+lines[0].Wanted.String())
		h := draft.Holding()
		assert.Equal(t, "12 0 12", h.OnHand(vest, quay, ForSale).String()+" "+h.OnHand(vest, boathouse, ForSale).String()+" "+
			h.Available(vest, 0, today).String(), "nobody can sell what is on the way")
		assert.Equal(t, SendingOnWay, SendingNow(lines))

		lines[0].Here = d("2")
		lines, err = draft.Arrive(boathouse, bench, lines)
		require.NoError(t, err)
		assert.Equal(t, "1", lines[0].OnWay().String())
		assert.True(t, before.Equal(worth(draft.Holding())), "the total never changes")
		assert.Equal(t, "15", draft.Holding().Pools[vest].Quantity.String())
		assert.Equal(t, SendingOnWay, SendingNow(lines))

		line, err := draft.SettleSending(lines[0],
			SettlePlan{From: quay, To: boathouse, How: how, Quantity: d("1"), Account: ledger.StockLoss})
		require.NoError(t, err)
		h = draft.Holding()
		assert.Equal(t, want, h.OnHand(vest, quay, ForSale).String()+" "+h.OnHand(vest, boathouse, ForSale).String()+" "+
			h.OnHand(vest, boathouse, OnTheWay).String(), how)
		assert.Equal(t, SendingSettled, SendingNow([]SendingLine{line}))
		_, err = draft.SettleSending(line, SettlePlan{From: quay, To: boathouse, How: how, Quantity: d("1")})
		assert.ErrorContains(t, err, "there are 0 to settle", "once")
		doc, err := draft.Document()
		require.NoError(t, err)
		lost := decimal.Zero
		for _, p := range doc.Postings {
			if p.Account == ledger.StockLoss {
				lost = p.Amount
			}
		}
		assert.Equal(t, how.NeedsReason(), lost.Equal(d("13.95")), "%s posts %s", how, lost)
		assert.Equal(t, how.NeedsReason(), !before.Equal(worth(h)), how)
	}
	assert.Equal(t, uint64(quay), ShortLostFrom.At(quay, boathouse), "the sender's loss is at the sender's")
	assert.Equal(t, uint64(boathouse), ShortLostTo.At(quay, boathouse))
	assert.Error(t, Settling("somehow").Check())
}

func TestLotsAndNumbersGoAlong(t *testing.T) {
	draft := stockedUp(t)
	lines, err := draft.Send(quay, boathouse, []SendingLine{{Variant: cream, Condition: ForSale, Packed: d("45")},
		{Variant: board, Condition: ForSale, Packed: d("1"), Numbers: []string{"T2"}}}, today)
	require.NoError(t, err)
	require.Len(t, lines, 3, "one line for each lot")
	assert.Equal(t, "32 13", lines[0].Sent.String()+" "+lines[1].Sent.String(), "the earliest expiry goes first")
	assert.Equal(t, []string{"T2"}, lines[2].NumbersOnWay())

	// another number comes than was sent: the sent one stays on the way, the other is over
	h := draft.Holding()
	line, said, err := h.CountHere(lines, HereInput{Came: SendingLine{Variant: board, Numbers: []string{"T1"}},
		Adds: true})
	require.NoError(t, err)
	assert.Contains(t, said, "1 of 1")
	lines[2] = line
	_, _, err = h.CountHere(lines, HereInput{Came: SendingLine{Variant: board, Numbers: []string{"T1"}}, Adds: true})
	assert.ErrorContains(t, err, "here already")
	_, _, err = h.CountHere(lines, HereInput{Came: SendingLine{Variant: board}, Adds: true, Quantity: "1"})
	assert.Equal(t, "serials", fault.Of(err).Field)
	lines, err = draft.Arrive(boathouse, bench, lines)
	require.NoError(t, err)
	assert.Equal(t, "1 1", lines[2].OnWay().String()+" "+lines[2].OverLeft().String())
	assert.Equal(t, []string{"T1"}, lines[2].NumbersOver())
	over, err := draft.SettleSending(lines[2], SettlePlan{From: quay, To: boathouse, How: OverSent, Quantity: d("1"),
		Numbers: []string{"T1"}})
	require.NoError(t, err)
	assert.Equal(t, uint64(bench), draft.Holding().Units[UnitKey{board, "T1"}].Key.Shelf)
	_, err = draft.SettleSending(over, SettlePlan{From: quay, To: boathouse, How: ShortBack, Quantity: d("1"),
		Numbers: []string{"T9"}})
	assert.ErrorContains(t, err, "not one of those")
	back, err := draft.SettleSending(over, SettlePlan{From: quay, To: boathouse, How: ShortBack, Quantity: d("1"),
		Numbers: []string{"T2"}})
	require.NoError(t, err)
	assert.False(t, back.Open())
	assert.Equal(t, "T2", draft.Holding().NumbersAt(board, quay, ForSale)[0])
}

func TestMoreThanSentIsOver(t *testing.T) {
	for how, want := range map[Settling]string{OverSent: "11 4 0", OverFound: "12 4 0", OverMiscount: "12 3 0"} {
		draft := stockedUp(t)
		lines, err := draft.Send(quay, boathouse, []SendingLine{{Variant: vest, Condition: ForSale, Packed: d("3")}}, today)
		require.NoError(t, err)
		lines[0].Here = d("4")
		lines, err = draft.Arrive(boathouse, bench, lines)
		require.NoError(t, err)
		assert.Equal(t, "0 1", lines[0].OnWay().String()+" "+lines[0].OverLeft().String())
		assert.Equal(t, "15", draft.Holding().Pools[vest].Quantity.String(), "what is over is in no book yet")
		line, err := draft.SettleSending(lines[0],
			SettlePlan{From: quay, To: boathouse, How: how, Quantity: d("1"), Account: ledger.StockGain})
		require.NoError(t, err)
		h := draft.Holding()
		assert.Equal(t, want, h.OnHand(vest, quay, ForSale).String()+" "+h.OnHand(vest, boathouse, ForSale).String()+" "+
			line.OverLeft().String(), how)
	}
}

func TestNeverMoreThanIsThere(t *testing.T) {
	draft := stockedUp(t)
	h := draft.Holding()
	_, err := draft.Send(quay, boathouse, []SendingLine{{Variant: vest, Condition: ForSale, Packed: d("16")}}, today)
	assert.ErrorContains(t, err, "1 short")
	_, err = draft.Send(quay, quay, []SendingLine{{Variant: vest, Condition: ForSale, Packed: d("1")}}, today)
	assert.ErrorContains(t, err, "another")
	_, err = draft.Send(quay, boathouse, []SendingLine{{Variant: vest, Condition: ForSale, Wanted: d("2")}}, today)
	assert.ErrorContains(t, err, "Nothing is packed")
	packed := h.Pack(quay, []SendingLine{{Variant: vest, Condition: ForSale, Wanted: d("12")},
		{Variant: vest, Condition: ForSale, Lot: 0, Wanted: d("9")},
		{Variant: board, Condition: ForSale, Wanted: d("1")}}, today)
	assert.Equal(t, "12 3 0", packed[0].Packed.String()+" "+packed[1].Packed.String()+" "+packed[2].Packed.String())

	put := func(q, was string, adds bool) (SendingLine, error) {
		l, _, err := h.PutInSending([]SendingLine{{ID: 3, Variant: vest, Condition: ForSale, Packed: d("2")}},
			SendingPut{Line: SendingLine{Variant: vest}, Quantity: q, Was: was, Adds: adds, From: quay})
		return l, err
	}
	l, err := put("1", "", true)
	require.NoError(t, err)
	assert.Equal(t, "3", l.Packed.String(), "a scan adds")
	l, err = put("5", "2", false)
	require.NoError(t, err)
	assert.Equal(t, "5", l.Packed.String(), "what is typed is all")
	_, err = put("5", "1", false)
	assert.True(t, fault.Is(err, fault.Conflict), "somebody else changed it")
	l, err = put("2", "1", false)
	require.NoError(t, err, "and made it what is asked")
	assert.Equal(t, "2", l.Packed.String())
	for _, q := range []string{"16", "1.5", "-1", "x"} {
		_, err = put(q, "", false)
		assert.Error(t, err, q)
	}
	assert.Error(t, SendingSettled.Edits("S-1"))
	assert.Error(t, SendingPacking.Arrives("S-1"))
	all := AllHere([]SendingLine{{Sent: d("3"), Arrived: d("1")},
		{Sent: d("2"), Numbers: []string{"a", "b"}, Ended: []string{"a"}, Arrived: d("1")}})
	assert.Equal(t, "2 1", all[0].Here.String()+" "+all[1].Here.String())
	assert.Equal(t, []string{"b"}, all[1].HereNumbers)
}

// TestSendingsKeepTheTotal sends, takes in, finds, loses and sends back at any point: units and value of
// the shop change by what is lost or found alone, and nothing is on the way in the end but what the
// lines say.
func TestSendingsKeepTheTotal(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draft := stockedUp(t)
		total, units := worth(draft.Holding()),
			draft.Holding().Pools[vest].Quantity.Add(draft.Holding().Pools[cream].Quantity)
		var lines []SendingLine
		changed, moved := decimal.Zero, decimal.Zero
		for range rapid.IntRange(1, 14).Draw(t, "steps") {
			variant := rapid.SampledFrom([]uint64{vest, cream}).Draw(t, "variant")
			q := decimal.New(int64(rapid.IntRange(1, 9).Draw(t, "q")), 0)
			switch rapid.SampledFrom([]string{"send", "arrive", "settle", "sell"}).Draw(t, "what") {
			case "send":
				more, err := draft.Send(quay, boathouse, []SendingLine{{Variant: variant, Condition: ForSale, Packed: q}}, today)
				if err == nil {
					lines = append(lines, more...)
				}
			case "arrive":
				if len(lines) > 0 {
					i := rapid.IntRange(0, len(lines)-1).Draw(t, "line")
					lines[i].Here = q
					var err error
					lines, err = draft.Arrive(boathouse, bench, lines)
					require.NoError(t, err)
				}
			case "settle":
				if len(lines) > 0 {
					i := rapid.IntRange(0, len(lines)-1).Draw(t, "line")
					how := rapid.SampledFrom([]Settling{ShortFound, ShortBack, ShortLostFrom, ShortLostTo, OverSent,
						OverFound, OverMiscount}).Draw(t, "how")
					was, had := worth(draft.Holding()), draft.Holding().Pools[lines[i].Variant].Quantity
					line, err := draft.SettleSending(lines[i],
						SettlePlan{From: quay, To: boathouse, How: how, Quantity: q, Account: ledger.StockLoss})
					if err == nil {
						lines[i] = line
						changed = changed.Add(worth(draft.Holding()).Sub(was))
						moved = moved.Add(draft.Holding().Pools[line.Variant].Quantity.Sub(had))
					}
				}
			case "sell":
				w := sell(variant, q.String())
				if sold, err := draft.Take(w); err == nil {
					changed, moved = changed.Sub(sold), moved.Sub(q)
				}
			}
		}
		h := draft.Holding()
		assert.True(t, total.Add(changed).Equal(worth(h)), "value %s is %s", total.Add(changed), worth(h))
		assert.True(t, units.Add(moved).Equal(h.Pools[vest].Quantity.Add(h.Pools[cream].Quantity)))
		way := TotalSending(lines).OnWay
		assert.True(t, way.Equal(h.OnHand(vest, boathouse, OnTheWay).Add(h.OnHand(cream, boathouse, OnTheWay))))
		doc, err := draft.Document()
		require.NoError(t, err)
		again, err := empty().Apply(doc.Entries)
		require.NoError(t, err)
		assert.True(t, worth(again).Equal(worth(h)))
		assert.False(t, slices.ContainsFunc(lines,
			func(l SendingLine) bool { return l.OnWay().IsNegative() || l.OverLeft().IsNegative() }))
	})
}
