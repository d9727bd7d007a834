package count

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/paper"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/unit"
)

const callum, ines = 4, 3

func by(who uint64, q, onHand string, at int) Event {
	return Event{Row: row, Quantity: d(q), OnHand: d(onHand), By: who, At: time.Unix(int64(at), 0)}
}

func two(events ...Event) Row {
	return ByCounters([]RowKey{row}, events, map[RowKey]decimal.Decimal{row: d("14")}, []uint64{callum, ines}, nil)[0]
}

// TestTwoCountersAgreeWhenTheirVariancesDo: 14, then 13 after a sale, is equal.
func TestTwoCountersAgreeWhenTheirVariancesDo(t *testing.T) {
	r := two(by(callum, "14", "14", 1), by(ines, "13", "13", 2))
	assert.False(t, r.Apart)
	assert.True(t, r.Counted)
	assert.Equal(t, "13 0", r.Quantity.String()+" "+r.Variance().String(), "the later reading holds")
	require.Len(t, r.Columns, 2)
	assert.Equal(t, "14 13", r.Columns[0].Quantity.String()+" "+r.Columns[1].Quantity.String())

	r = two(by(callum, "10", "10", 1), by(ines, "8", "10", 2))
	assert.True(t, r.Apart && r.Counted)
	r = two(by(callum, "10", "10", 1))
	assert.True(t, r.Apart, "one of them has not counted it")
	assert.False(t, r.Columns[1].Counted)
	r = two()
	assert.False(t, r.Apart || r.Counted)
	chosen := ByCounters([]RowKey{row}, []Event{by(callum, "10", "10", 1), by(ines, "8", "10", 2)}, nil,
		[]uint64{callum, ines},
		map[RowKey]uint64{row: ines})[0]
	assert.False(t, chosen.Apart)
	assert.Equal(t, "8", chosen.Quantity.String())
	assert.Len(t, chosen.Columns, 2)
	struck := by(ines, "5", "10", 1)
	struck.Struck = true
	assert.True(t, two(by(callum, "10", "10", 1), struck).Apart)
}

// TestNumbersDifferByWhich: of numbered goods two people differ in which numbers they found.
func TestNumbersDifferByWhich(t *testing.T) {
	one := func(who uint64, number string) Event {
		e := by(who, "1", "2", 1)
		e.Serial = number
		return e
	}
	assert.True(t, two(one(callum, "A1"), one(ines, "A2")).Apart)
	assert.False(t, two(one(callum, "A1"), one(callum, "A2"), one(ines, "A2"), one(ines, "A1")).Apart)
}

// TestPerhapsSwapped: M −1 and L +1 of one product.
func TestPerhapsSwapped(t *testing.T) {
	cell := func(variant uint64, differs string) Cell { return Cell{variant, d(differs)} }
	for name, c := range map[string]struct {
		rails [][]Cell
		want  []Swap
	}{
		"side by side": {[][]Cell{{cell(1, "0"), cell(2, "-1"), cell(3, "1")}},
			[]Swap{{Short: 2, Over: 3, Units: d("1"), Net: d("0")}}},
		"above each other": {[][]Cell{{cell(1, "2")}, {cell(2, "-2")}},
			[]Swap{{Short: 2, Over: 1, Units: d("2"), Net: d("0")}}},
		"not neighbours":     {[][]Cell{{cell(1, "1"), cell(2, "0"), cell(3, "-1")}}, nil},
		"they do not cancel": {[][]Cell{{cell(1, "2"), cell(2, "-1")}}, nil},
		"one swap each": {[][]Cell{{cell(1, "-1"), cell(2, "1"), cell(3, "-1")}},
			[]Swap{{Short: 1, Over: 2, Units: d("1"), Net: d("0")}}},
		"a place without":      {[][]Cell{{cell(0, "-1"), cell(2, "1")}}, nil},
		"nothing differs here": {[][]Cell{{cell(1, "0"), cell(2, "0")}}, nil},
	} {
		got := Swapped(c.rails)
		require.Len(t, got, len(c.want), name)
		for i := range got {
			assert.Equal(t, c.want[i].Short, got[i].Short, name)
			assert.Equal(t, c.want[i].Over, got[i].Over, name)
			assert.True(t, c.want[i].Units.Equal(got[i].Units) && got[i].Net.IsZero(), name)
		}
	}
}

// shelfOf is a branch with a floor and a wall, with 10 of M at 8.00 and 10 of L at 9.00 on the floor, 5 of M on
// the wall, and two numbered boards.
func shelfOf() stock.Holding {
	m, l, board := uint64(1), uint64(2), uint64(3)
	on := func(v, shelf uint64) stock.Key { return stock.Key{Variant: v, Shelf: shelf, Condition: stock.ForSale} }
	return stock.Holding{
		Items: map[uint64]stock.Item{m: {Name: "Vest, M", Tracking: stock.Counted, Unit: unit.Piece},
			l: {Name: "Vest, L", Tracking: stock.Counted,
				Unit: unit.Piece}, board: {Name: "Board", Tracking: stock.BySerial, Unit: unit.Piece}},
		Shelves: map[uint64]stock.Shelf{1: {ID: 1, Branch: 1, Name: "Floor", Default: true},
			2: {ID: 2, Branch: 1, Name: "Wall"}},
		Pools: map[uint64]cost.Pool{m: {Quantity: d("15"), Value: d("120")},
			l: {Quantity: d("10"), Value: d("90")}, board: {Quantity: d("1"), Value: d("310")}},
		Balances: map[stock.Key]decimal.Decimal{on(m, 1): d("10"), on(m, 2): d("5"), on(l, 1): d("10"), on(board, 1): d("1")},
		Lots:     map[uint64]serial.Lot{},
		Units: map[stock.UnitKey]stock.Unit{{Variant: board, Serial: "A1"}: {State: serial.InStock,
			Key: on(board, 1), Cost: d("310")}},
	}
}

// TestAMixUpLosesTheDifferenceAlone: settled as one there is no loss in value but the cost difference.
func TestAMixUpLosesTheDifferenceAlone(t *testing.T) {
	m, l := RowKey{Variant: 1, Condition: stock.ForSale}, RowKey{Variant: 2, Condition: stock.ForSale}
	rows := []Row{{Key: m, Counted: true, Quantity: d("14"), Expected: d("15")},
		{Key: l, Counted: true, Quantity: d("11"), Expected: d("10")}}
	post := func(mixed bool) map[ledger.Account]string {
		s := Settlement{Draft: stock.NewDraft(shelfOf(), stock.Document{Kind: stock.Count}), Branch: 1, Uncounted: Leave,
			MixUps: map[RowKey]bool{m: mixed, l: mixed}}
		for _, r := range rows {
			_, err := s.Figure(r)
			require.NoError(t, err)
		}
		doc, err := s.Draft.Document()
		require.NoError(t, err)
		by := map[ledger.Account]string{}
		for _, p := range doc.Postings {
			by[p.Account] = p.Amount.StringFixed(2)
		}
		return by
	}
	assert.Equal(t, map[ledger.Account]string{ledger.Stock: "1.00", ledger.StockLoss: "8.00",
		ledger.StockGain: "-9.00"}, post(false))
	assert.Equal(t, map[ledger.Account]string{ledger.Stock: "1.00", ledger.StockLoss: "-1.00"}, post(true))
	assert.NoError(t, CheckMixUp(rows[0], rows[1], true))
	assert.Error(t, CheckMixUp(rows[0], rows[1], false), "of different products")
	assert.Error(t, CheckMixUp(rows[1], rows[0], true), "short and over the wrong way round")
	assert.Error(t, CheckMixUp(rows[0], rows[0], true))
}

// TestACountOfSomeShelves: only what lies there is expected, and what is missing goes from there.
func TestACountOfSomeShelves(t *testing.T) {
	held := shelfOf()
	wall := Place{Branch: 1, Shelves: []uint64{2}}
	key := RowKey{Variant: 1, Condition: stock.ForSale}
	assert.Equal(t, "5", wall.Lying(held, key).String())
	assert.Equal(t, "15", Place{Branch: 1}.Lying(held, key).String(), "shelf and back room are one row")
	e, newLot, err := Note(held, wall, Noted{Variant: 1, Quantity: "3"}, nil)
	require.NoError(t, err)
	assert.False(t, newLot)
	assert.Equal(t, "5", e.OnHand.String())
	s := Settlement{Draft: stock.NewDraft(held, stock.Document{Kind: stock.Count}), Branch: 1, Shelves: []uint64{2},
		Uncounted: Leave}
	f, err := s.Figure(Row{Key: key, Counted: true, Quantity: d("3"), Expected: d("5")})
	require.NoError(t, err)
	assert.Equal(t, "-2", f.Differs.String())
	h := s.Draft.Holding()
	assert.Equal(t, "10 3", h.OnShelf(1, 1, 1, stock.ForSale).String()+" "+h.OnShelf(1, 2, 1, stock.ForSale).String())
	_, err = s.Figure(Row{Key: RowKey{Variant: 2, Condition: stock.ForSale}, Counted: true, Quantity: d("1"),
		Expected: d("0")})
	require.NoError(t, err)
	assert.Equal(t, "1", s.Draft.Holding().OnShelf(2, 2, 1, stock.ForSale).String(),
		"what is found is put where it was counted")
}

// TestWhatComesLateIsOfItsMoment: a device without a line sends later; the book's figure is that of then.
func TestWhatComesLateIsOfItsMoment(t *testing.T) {
	held := shelfOf() // 15 now, after 3 were sold and 10 came in to the wall
	since := []stock.Entry{{Key: stock.Key{Variant: 1, Shelf: 1, Condition: stock.ForSale}, Quantity: d("-3")},
		{Key: stock.Key{Variant: 1, Shelf: 2, Condition: stock.ForSale}, Quantity: d("10")},
		{Key: stock.Key{Variant: 1, Shelf: 2, Condition: stock.Seconds}, Quantity: d("4")}}
	e, _, err := Note(held, Place{Branch: 1}, Noted{Variant: 1, Quantity: "8"}, since)
	require.NoError(t, err)
	assert.Equal(t, "8", e.OnHand.String())
	e, _, err = Note(held, Place{Branch: 1, Shelves: []uint64{1}}, Noted{Variant: 1, Quantity: "8"}, since)
	require.NoError(t, err)
	assert.Equal(t, "13", e.OnHand.String())
}

func TestNumbersThatWereNotExpected(t *testing.T) {
	held := shelfOf()
	held.Units[stock.UnitKey{Variant: 3, Serial: "S9"}] = stock.Unit{State: serial.Sold}
	held.Shelves[9] = stock.Shelf{ID: 9, Branch: 2, Name: "Bench"}
	held.Units[stock.UnitKey{Variant: 3, Serial: "B1"}] = stock.Unit{State: serial.InStock,
		Key: stock.Key{Variant: 3, Shelf: 9, Condition: stock.Lent}}
	held.Units[stock.UnitKey{Variant: 3, Serial: "W1"}] = stock.Unit{State: serial.InStock,
		Key: stock.Key{Variant: 3, Shelf: 9, Condition: stock.OnTheWay}}
	names := map[uint64]string{1: "Quay Shop", 2: "Boathouse"}
	for number, want := range map[string]string{"s9": "sold", "b 1": "Lent at Boathouse, Bench",
		"W1": "on the way to Boathouse", "X": "not known"} {
		e, _, err := Note(held, Place{Branch: 1}, Noted{Variant: 3, Serial: number}, nil)
		require.NoError(t, err, number)
		assert.True(t, e.Unexpected, number)
		assert.Equal(t, want, Believed(held, names, 3, e.Serial), number)
	}
	e, _, err := Note(held, Place{Branch: 1}, Noted{Variant: 3, Serial: "a1"}, nil)
	require.NoError(t, err)
	assert.False(t, e.Unexpected)
	_, _, err = Note(held, Place{Branch: 1}, Noted{Variant: 3}, nil)
	assert.Equal(t, "serial", fault.Of(err).Field)
	rows := Rows([]RowKey{{Variant: 3, Condition: stock.ForSale}},
		[]Event{{Row: RowKey{Variant: 3, Condition: stock.ForSale}, Serial: "X", Quantity: d("1"),
			Unexpected: true}}, nil)
	assert.False(t, rows[0].Counted, "it does not count")
}

func TestClassesByIncome(t *testing.T) {
	classes := Classify(map[uint64]decimal.Decimal{1: d("800"), 2: d("100"), 3: d("50"), 4: d("30"), 5: d("20"),
		6: d("0"), 7: d("-5")})
	assert.Equal(t, map[uint64]Class{1: ClassA, 2: ClassB, 3: ClassB, 4: ClassC, 5: ClassC, 6: ClassC, 7: ClassC}, classes)
	assert.Equal(t, ClassA, Classify(map[uint64]decimal.Decimal{9: d("1")})[9], "the only one brings all")
	assert.Empty(t, Classify(nil))
}

func TestRollingPicksWhatHasWaitedLongest(t *testing.T) {
	today := time.Date(2026, 11, 27, 0, 0, 0, 0, time.UTC)
	ago := func(days int) time.Time { return today.AddDate(0, 0, -days) }
	list := []Waiting{{1, ClassA, ago(29)}, {2, ClassA, ago(45)}, {3, ClassB, ago(90)}, {4, ClassC, ago(400)},
		{5, ClassC, time.Time{}}, {6, ClassA, time.Time{}},
		{7, ClassB, ago(10)}}
	assert.Equal(t, []uint64{6, 5, 4, 2, 3}, Rolling(list, 10, UsualDays, today),
		"never counted first, then by the share of its days")
	assert.Equal(t, []uint64{6, 5}, Rolling(list, 2, UsualDays, today))
	assert.Equal(t, []uint64{6, 5, 2, 4, 1, 3}, Rolling(list, 10, map[Class]int{ClassA: 20}, today))
}

func TestSchedulesComeRound(t *testing.T) {
	day := func(s string) time.Time { at, _ := time.Parse(time.DateOnly, s); return at }
	for _, c := range []struct {
		from  string
		every Every
		n     int
		want  string
		recur string
	}{
		{"2026-11-27", Days, 1, "2026-11-28", "FREQ=DAILY;INTERVAL=1"},
		{"2026-11-27", Weeks, 2, "2026-12-11", "FREQ=WEEKLY;INTERVAL=2"},
		{"2026-01-31", Months, 1, "2026-02-28", "FREQ=MONTHLY;INTERVAL=1;BYMONTHDAY=28,29,30,31;BYSETPOS=-1"},
		{"2028-01-30", Months, 1, "2028-02-29", "FREQ=MONTHLY;INTERVAL=1;BYMONTHDAY=28,29,30;BYSETPOS=-1"},
		{"2026-11-15", Quarters, 1, "2027-02-15", "FREQ=MONTHLY;INTERVAL=3"},
		{"2028-02-29", Years, 1, "2029-02-28", "FREQ=MONTHLY;INTERVAL=12;BYMONTHDAY=28,29;BYSETPOS=-1"},
	} {
		from := day(c.from)
		assert.Equal(t, c.want, Next(from, c.every, c.n, from.Day()).Format(time.DateOnly), c.from)
		assert.Equal(t, c.recur, Schedule{Every: c.every, N: c.n}.Recurs(from.Day()))
	}
	assert.Equal(t, "2026-03-31", Next(day("2026-02-28"), Months, 1, 31).Format(time.DateOnly),
		"the day that was agreed comes back")
	assert.Equal(t, "2026-12-04", After(day("2026-11-06"), Weeks, 1, 6, day("2026-11-27")).Format(time.DateOnly),
		"what was missed is not made up for")
	good := Schedule{Name: "Goggles", Every: Weeks, N: 1, NextOn: day("2026-11-27")}
	assert.NoError(t, good.Check())
	assert.Equal(t, "each week", good.Says())
	for field, bad := range map[string]Schedule{"name": {Every: Weeks, N: 1, NextOn: good.NextOn},
		"every": {Name: "x", Every: "moons", N: 1, NextOn: good.NextOn},
		"n":     {Name: "x", Every: Days, NextOn: good.NextOn}, "next_on": {Name: "x", Every: Days, N: 1},
		"per_day": {Name: "x", Every: Days, N: 1, NextOn: good.NextOn, PerDay: 501}} {
		assert.Equal(t, field, fault.Of(bad.Check()).Field)
	}
}

func TestWhoAndWhatOfARow(t *testing.T) {
	assert.NoError(t, CheckCounter("SC-1", 3, nil, nil), "whoever counts")
	assert.NoError(t, CheckCounter("SC-1", 3, []uint64{3, 4}, nil))
	assert.ErrorContains(t, CheckCounter("SC-1", 9, []uint64{3, 4}, []string{"Callum", "Ines"}), "Callum and Ines")
	assert.NoError(t, RowKeep.Check(nil, 0))
	assert.NoError(t, RowChoose.Check([]uint64{3}, 3))
	assert.Error(t, RowChoose.Check([]uint64{3}, 0))
	assert.Error(t, RowRecount.Check([]uint64{3}, 4))
	assert.Error(t, RowDeed("eat").Check(nil, 0))
	sum, beyond := Beyond([]Figure{{Value: d("-60")}, {Value: d("60")}}, d("100"))
	assert.True(t, beyond, "row by row, not net")
	assert.Equal(t, "120", sum.String())
	_, beyond = Beyond([]Figure{{Value: d("-60")}}, decimal.Zero)
	assert.False(t, beyond)
}

func TestHeldStillRowsDoNotMove(t *testing.T) {
	held := shelfOf()
	held.Still = map[stock.StillKey]stock.Still{{Variant: 1, Branch: 1, Condition: stock.ForSale}: {Count: "SC-0009",
		Until: time.Date(2026, 11, 27, 18, 0, 0, 0, time.UTC)}}
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Sale})
	_, err := draft.Take(stock.Want{Line: 1, Variant: 1, Branch: 1, Condition: stock.ForSale, Quantity: d("1")})
	assert.ErrorContains(t, err, "SC-0009")
	assert.ErrorContains(t, err, "until 27 November, 18:00")
	assert.ErrorContains(t, draft.Bring(1, stock.Key{Variant: 1, Shelf: 2, Condition: stock.ForSale}, d("1"), d("8"),
		nil), "being counted")
	_, err = draft.Take(stock.Want{Line: 1, Variant: 2, Branch: 1, Condition: stock.ForSale, Quantity: d("1")})
	assert.NoError(t, err, "others go on")
	s := Settlement{Draft: stock.NewDraft(held, stock.Document{Kind: stock.Count, Number: "SC-0009"}), Branch: 1,
		Uncounted: Leave}
	_, err = s.Figure(Row{Key: RowKey{Variant: 1, Condition: stock.ForSale}, Counted: true, Quantity: d("14"),
		Expected: d("15")})
	assert.NoError(t, err, "the count itself settles")
	s.Draft = stock.NewDraft(held, stock.Document{Kind: stock.Count, Number: "SC-0010"})
	_, err = s.Figure(Row{Key: RowKey{Variant: 1, Condition: stock.ForSale}, Counted: true, Quantity: d("14"),
		Expected: d("15")})
	assert.ErrorContains(t, err, "SC-0009", "and no other one")
}

func TestARowThatStandsApartIsNotSettled(t *testing.T) {
	s := Settlement{Draft: stock.NewDraft(shelfOf(), stock.Document{Kind: stock.Count}), Branch: 1, Uncounted: Zero,
		Readings: map[RowKey]Reading{}}
	key := RowKey{Variant: 1, Condition: stock.ForSale}
	_, err := s.Figure(Row{Key: key, Counted: true, Apart: true, Quantity: d("14"), Expected: d("15")})
	assert.Equal(t, "choices", fault.Of(err).Field)
	s.Readings[key] = NotYet
	f, err := s.Figure(Row{Key: key, Counted: true, Apart: true, Quantity: d("14"), Expected: d("15")})
	require.NoError(t, err)
	assert.True(t, f.Differs.IsZero() && !f.Counted, "it is left as it is, also where others are taken as zero")
}

// TestASheetHasAllToWriteInto lays out more than a page: every row once, with its boxes, its numbers and its
// barcode, none cut by the end of a page.
func TestASheetHasAllToWriteInto(t *testing.T) {
	measure := func(text string, _ paper.Face, size float64) float64 { return float64(len(text)) * size * 0.5 }
	s := Sheet{Shop: "Saltmarsh", Number: "SC-0009", Branch: "Quay Shop", Scope: "Swim", Counter: "Callum Reeve"}
	for i := range 60 {
		r := SheetRow{Shelf: "Floor", Code: "2000000000015", Name: "Vest", Label: "Coral · M", SKU: "V",
			Condition: stock.ForSale, Expected: "7"}
		if i > 40 {
			r.Shelf = "Wall A"
		}
		if i == 50 {
			r.Numbers = []string{"BW26-01191", "BW26-01192"}
		}
		s.Rows = append(s.Rows, r)
	}
	pages := s.Listing().Pages(measure)
	require.Greater(t, len(pages), 2)
	names, books, ticks, heads := 0, 0, 0, 0
	for _, p := range pages {
		for _, shape := range p.Shapes {
			assert.LessOrEqual(t, shape.Y+shape.H, 297.0)
			switch shape.Text {
			case "Vest":
				names++
			case "7":
				books++
			case "BW26-01191", "BW26-01192":
				ticks++
			case "Floor", "Wall A":
				heads++
			}
		}
	}
	assert.Equal(t, []int{60, 60, 2, 2}, []int{names, books, ticks, heads})
	s.Blind = true
	for _, p := range s.Listing().Pages(measure) {
		for _, shape := range p.Shapes {
			assert.NotEqual(t, "7", shape.Text, "a blind sheet tells nothing")
		}
	}
}

// TestCountsWhileGoodsMove interleaves sales, deliveries and counting at every point: after settling there is
// on hand what was counted, less what left after, and more what came after.
func TestCountsWhileGoodsMove(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		key := RowKey{Variant: 1, Condition: stock.ForSale}
		there := stock.Key{Variant: 1, Shelf: 1, Condition: stock.ForSale}
		start := decimal.New(int64(rapid.IntRange(0, 30).Draw(t, "book")), 0)
		held := stock.Holding{Items: map[uint64]stock.Item{1: {Name: "Rope", Tracking: stock.Counted, Unit: unit.Piece}},
			Shelves:  map[uint64]stock.Shelf{1: {ID: 1, Branch: 1, Name: "Floor", Default: true}},
			Pools:    map[uint64]cost.Pool{1: {Quantity: start, Value: start}},
			Balances: map[stock.Key]decimal.Decimal{there: start}, Lots: map[uint64]serial.Lot{},
			Units: map[stock.UnitKey]stock.Unit{}}
		draft := stock.NewDraft(held, stock.Document{Kind: stock.Sale})
		counters := []uint64{callum}
		if rapid.Bool().Draw(t, "two") {
			counters = append(counters, ines)
		}
		var events []Event
		real := decimal.New(int64(rapid.IntRange(0, 30).Draw(t, "really there")), 0)
		after := map[uint64]decimal.Decimal{} // what moved after each counter counted
		counted := map[uint64]decimal.Decimal{}
		for range rapid.IntRange(1, 12).Draw(t, "steps") {
			q := decimal.New(int64(rapid.IntRange(1, 5).Draw(t, "q")), 0)
			switch rapid.SampledFrom([]string{"sell", "deliver", "count", "count"}).Draw(t, "what") {
			case "sell":
				if _, err := draft.Take(stock.Want{Line: 1, Variant: 1, Branch: 1, Condition: stock.ForSale,
					Quantity: q}); err == nil {
					real = real.Sub(q)
					for who := range counted {
						after[who] = after[who].Sub(q)
					}
				}
			case "deliver":
				require.NoError(t, draft.Bring(1, there, q, q, nil))
				real = real.Add(q)
				for who := range counted {
					after[who] = after[who].Add(q)
				}
			case "count":
				who := rapid.SampledFrom(counters).Draw(t, "who")
				if _, already := counted[who]; already || real.IsNegative() {
					continue // in one go
				}
				e, _, err := Note(draft.Holding(), Place{Branch: 1}, Noted{Variant: 1, Quantity: real.String()}, nil)
				require.NoError(t, err)
				e.By, e.At = who, time.Unix(int64(len(events)), 0)
				events, counted[who], after[who] = append(events, e), real, decimal.Zero
			}
		}
		now := map[RowKey]decimal.Decimal{key: draft.Holding().Balances[there]}
		r := Rows([]RowKey{key}, events, now)[0]
		if len(counters) > 1 {
			r = ByCounters([]RowKey{key}, events, now, counters, nil)[0]
		}
		before := draft.Holding()
		settlement := Settlement{Draft: stock.NewDraft(before, stock.Document{Kind: stock.Count}), Branch: 1,
			Uncounted: Leave,
			Readings:  map[RowKey]Reading{key: ByLast}}
		_, err := settlement.Figure(r)
		if r.Apart {
			require.Len(t, counted, 1, "both counted what was there, each at the own moment: they agree")
			assert.Equal(t, "choices", fault.Of(err).Field)
			return
		}
		if left := now[key].Add(r.Variance()); left.IsNegative() { // more is gone than the book can lose
			return
		}
		require.NoError(t, err)
		on := settlement.Draft.Holding().Balances[there]
		if !r.Counted {
			assert.True(t, on.Equal(now[key]), "what nobody counted is left")
			return
		}
		for who, q := range counted {
			assert.True(t, on.Equal(q.Add(after[who])), "%s counted by %d, %s since: %s on hand", q, who, after[who], on)
		}
	})
}

func TestDueAndAbove(t *testing.T) {
	day := func(text string) time.Time {
		at, err := time.Parse(time.DateOnly, text)
		require.NoError(t, err)
		return at
	}
	s := Schedule{NextOn: day("2026-11-27")}
	assert.Equal(t, []bool{false, true, true}, []bool{s.Due(day("2026-11-26")), s.Due(day("2026-11-27")),
		s.Due(day("2026-12-01"))})
	assert.Equal(t, []bool{false, true, false}, []bool{Above(d("10"), d("10")), Above(d("10.01"), d("10")),
		Above(d("99"), d("0"))},
		"a tolerance of nothing lets all")
}
