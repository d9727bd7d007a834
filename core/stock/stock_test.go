package stock

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/serial"
	"itemrack/core/unit"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

const (
	vest, board, cream = 1, 2, 3
	quay, boathouse    = 1, 2
	floor, wall, bench = 1, 2, 3
	may, june          = 1, 2
)

var today = time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)

// empty is a shop of two branches with one product of each tracking.
func empty() Holding {
	return Holding{
		Items: map[uint64]Item{
			vest:  {Name: "vest", Tracking: Counted, Unit: unit.Piece},
			board: {Name: "board", Tracking: BySerial, Unit: unit.Piece},
			cream: {Name: "cream", Tracking: ByLot, Unit: unit.Piece},
		},
		Shelves: map[uint64]Shelf{
			floor: {ID: floor, Branch: quay, Name: "Floor", Default: true},
			wall:  {ID: wall, Branch: quay, Name: "Wall"},
			bench: {ID: bench, Branch: boathouse, Name: "Bench", Default: true},
		},
		Pools:    map[uint64]cost.Pool{},
		Balances: map[Key]decimal.Decimal{},
		Lots: map[uint64]serial.Lot{
			may:  {ID: may, Number: "K614", Expiry: today.AddDate(0, 0, 10)},
			june: {ID: june, Number: "K615", Expiry: today.AddDate(0, 2, 0)},
		},
		Units: map[UnitKey]Unit{},
	}
}

func at(variant, shelf uint64) Key { return Key{Variant: variant, Shelf: shelf, Condition: ForSale} }

func sell(variant uint64, q string) Want {
	return Want{Line: 1, Variant: variant, Branch: quay, Condition: ForSale, Quantity: d(q), Day: today}
}

func TestMovingAverage(t *testing.T) {
	draft := NewDraft(empty(), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("10"), d("200.00"), nil))
	require.NoError(t, draft.Bring(2, at(vest, floor), d("5"), d("135.00"), nil)) // 26.00 each and 5.00 freight
	pool := draft.Holding().Pools[vest]
	assert.Equal(t, "335.00", pool.Value.StringFixed(2))
	assert.Equal(t, "22.333333", pool.Average().String())
	assert.Equal(t, "27", pool.Last.String())
	worth, err := draft.Take(sell(vest, "4"))
	require.NoError(t, err)
	assert.Equal(t, "89.33", worth.StringFixed(2))
	assert.Equal(t, "245.67", draft.Holding().Pools[vest].Value.StringFixed(2))
	worth, err = draft.Take(sell(vest, "11"))
	require.NoError(t, err)
	assert.Equal(t, "245.67", worth.StringFixed(2))
	assert.True(t, draft.Holding().Pools[vest].Value.IsZero())
}

func TestSevenFor22SoldOneByOne(t *testing.T) {
	draft := NewDraft(empty(), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("7"), d("22.00"), nil))
	for i, want := range []string{"3.14", "3.14", "3.14", "3.15", "3.14", "3.15", "3.14"} {
		worth, err := draft.Take(sell(vest, "1"))
		require.NoError(t, err)
		assert.Equal(t, want, worth.StringFixed(2), "number %d", i+1)
	}
	assert.Equal(t, "0.00", draft.Holding().Pools[vest].Value.StringFixed(2))
}

func TestReturnAtTheSalesCost(t *testing.T) {
	draft := NewDraft(empty(), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("4"), d("100.00"), nil))
	back := Key{Variant: vest, Shelf: floor, Condition: ToLookOver}
	require.NoError(t, draft.Restore(2, back, d("1"), d("21.00"), nil))
	pool := draft.Holding().Pools[vest]
	assert.Equal(t, "121.00", pool.Value.StringFixed(2))
	assert.Equal(t, "24.20", pool.Average().StringFixed(2))
	assert.Equal(t, "25", pool.Last.String(), "a return does not change the last cost")
	assert.Equal(t, "4", draft.Holding().ForSale()[vest].String(),
		"what is to check is worth its cost but not available")
}

func TestBelowZeroIsRefused(t *testing.T) {
	draft := NewDraft(empty(), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("2"), d("20"), nil))
	_, err := draft.Take(sell(vest, "3"))
	e := fault.Of(err)
	require.NotNil(t, e)
	assert.Equal(t, fault.Refused, e.Kind)
	assert.Contains(t, e.Detail, "1 short")
	_, err = draft.Take(sell(vest, "1.5"))
	assert.Equal(t, fault.Invalid, fault.Of(err).Kind)
	elsewhere := sell(vest, "1")
	elsewhere.Branch = boathouse
	_, err = draft.Take(elsewhere)
	assert.Contains(t, err.Error(), "none is For sale here")
}

func TestLotsEarliestFirst(t *testing.T) {
	h := empty()
	sooner, later := at(cream, wall), at(cream, floor)
	sooner.Lot, later.Lot = may, june
	draft := NewDraft(h, Document{})
	require.NoError(t, draft.Bring(1, later, d("50"), d("50"), nil))
	require.NoError(t, draft.Bring(1, sooner, d("32"), d("32"), nil))
	takes, err := draft.Holding().Pick(sell(cream, "45"))
	require.NoError(t, err)
	require.Len(t, takes, 2)
	assert.Equal(t, []any{uint64(may), "32", uint64(june), "13"},
		[]any{takes[0].Key.Lot, takes[0].Quantity.String(), takes[1].Key.Lot, takes[1].Quantity.String()})
	_, err = draft.Take(sell(cream, "45"))
	require.NoError(t, err)
	assert.Equal(t, "37", draft.Holding().Balances[later].String())
	_, err = draft.Take(sell(cream, "40"))
	assert.Contains(t, err.Error(), "3 short")

	expired := sell(cream, "40")
	expired.Day = today.AddDate(1, 0, 0)
	_, err = draft.Take(expired)
	assert.Contains(t, err.Error(), "37 are past their expiry")
	require.ErrorContains(t, draft.Bring(1, at(cream, floor), d("1"), d("1"), nil), "a lot is needed")
}

func TestSerialUnitsKeepTheirOwnCost(t *testing.T) {
	draft := NewDraft(empty(), Document{})
	require.NoError(t, draft.Bring(1, at(board, floor), d("1"), d("310.00"), []string{"A1"}))
	require.NoError(t, draft.Bring(2, at(board, wall), d("1"), d("325.00"), []string{"A2"}))
	require.ErrorContains(t, draft.Bring(3, at(board, floor), d("1"), d("1"), []string{"A1"}),
		"in stock already, at Floor")
	require.ErrorContains(t, draft.Bring(3, at(board, floor), d("3"), d("1"), []string{"B1", "B2"}),
		"3 units, and 2 serial numbers")
	w := sell(board, "1")
	_, err := draft.Take(w)
	require.ErrorContains(t, err, "choose a serial number")
	w.Serials = []string{"A2"}
	worth, err := draft.Take(w)
	require.NoError(t, err)
	assert.Equal(t, "325.00", worth.StringFixed(2))
	assert.Equal(t, serial.Sold, draft.Holding().Units[UnitKey{board, "A2"}].State)
	_, err = draft.Take(w)
	require.ErrorContains(t, err, "A2 is not For sale here")
	w.Serials = []string{"A1"}
	worth, err = draft.Take(w)
	require.NoError(t, err)
	assert.Equal(t, "310.00", worth.StringFixed(2))
}

func TestChangeOfConditionKeepsValue(t *testing.T) {
	draft := NewDraft(empty(), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("3"), d("10.00"), nil))
	w := sell(vest, "2")
	require.NoError(t, draft.Change(w, ToLookOver))
	h := draft.Holding()
	assert.Equal(t, "10.00", h.Pools[vest].Value.StringFixed(2))
	assert.Equal(t, "1", h.ForSale()[vest].String())
	assert.Equal(t, "2", h.OnHand(vest, quay, ToLookOver).String())
	assert.Error(t, draft.Change(w, ForSale), "to the same condition")
}

func TestApplyRefusesWhatDoesNotFit(t *testing.T) {
	h := empty()
	draft := NewDraft(h, Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("3"), d("9"), nil))
	doc, err := draft.Document()
	require.NoError(t, err)
	after, err := h.Apply(doc.Entries)
	require.NoError(t, err)
	assert.Equal(t, "3", after.Balances[at(vest, floor)].String())
	_, err = after.Apply(doc.Entries)
	assert.Error(t, err, "the figures after do not follow from another holding")
	assert.Empty(t, h.Balances, "the holding itself is left alone")
	draft.Post(ledger.Cash, d("1"))
	_, err = draft.Document()
	assert.ErrorContains(t, err, "out of balance by 1")
}

func TestReverseADeliveryPartlySold(t *testing.T) {
	h := empty()
	draft := NewDraft(h, Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("10"), d("200"), nil))
	delivery, err := draft.Document()
	require.NoError(t, err)
	_, err = draft.Take(sell(vest, "4"))
	require.NoError(t, err)
	h = draft.Holding()
	h.Since = map[uint64]Since{vest: {Gone: d("4"), By: "R1-00001"}}
	undo := NewDraft(h, Document{})
	err = undo.Reverse(Document{Kind: Delivery, Entries: delivery.Entries}, nil, today)
	require.True(t, fault.Is(err, fault.Refused))
	assert.ErrorContains(t, err, "R1-00001")
}

// TestADeliveryIsUndoneAsIfItHadNotBeen: 10 at 2.00, 10 at 20.00, 10 sold; the first can't
// be taken back any more by moving average, where its cost is mixed into what was sold.
// Before the sale it can, and leaves 10 at 20.00.
func TestADeliveryIsUndoneAsIfItHadNotBeen(t *testing.T) {
	for _, method := range cost.Methods {
		h := by(method)
		bring := func(value string, number uint64) Document {
			draft := NewDraft(h, Document{Kind: Delivery})
			require.NoError(t, draft.Bring(1, at(vest, floor), d("10"), d(value), nil))
			doc, err := draft.Document()
			require.NoError(t, err)
			h = posted(t, h, doc, number)
			return doc
		}
		first, second := bring("20", 1), bring("200", 2)
		back := func(doc Document, number uint64, since Since) (Holding, error) {
			h.Since = map[uint64]Since{vest: since}
			undo := NewDraft(h, Document{Kind: Reversal, Reverses: number})
			err := undo.Reverse(Document{Kind: Delivery, Entries: doc.Entries}, nil, today)
			return undo.Holding(), err
		}
		after, err := back(first, 1, Since{Last: d("20")})
		require.NoError(t, err)
		assert.Equal(t, []string{"10", "200", "20"}, []string{after.Pools[vest].Quantity.String(),
			after.Pools[vest].Value.String(), after.Pools[vest].Last.String()})
		after, err = back(second, 2, Since{Last: d("2")})
		require.NoError(t, err)
		assert.Equal(t, "2", after.Pools[vest].Average().String())
		assert.Equal(t, "2", after.Pools[vest].Last.String(), "nobody remembers what the second one cost")
		draft := NewDraft(h, Document{Kind: Sale})
		_, err = draft.Take(sell(vest, "10"))
		require.NoError(t, err)
		doc, err := draft.Document()
		require.NoError(t, err)
		h = posted(t, h, doc, 3)
		gone := Since{Gone: d("10"), By: "R1-00001"}
		_, err = back(first, 1, gone)
		assert.True(t, fault.Is(err, fault.Refused), method)
		_, err = back(second, 2, gone)
		if method == cost.FIFO {
			assert.NoError(t, err, "its own layer is whole")
		} else {
			assert.True(t, fault.Is(err, fault.Refused), "it is mixed into what was sold")
		}
	}
}

// settled gives the layers of the document that was just made its number, as the door
// does.
func settled(p cost.Pool, number uint64) cost.Pool {
	p.Layers = slices.Clone(p.Layers)
	for i := range p.Layers {
		if p.Layers[i].Document == 0 {
			p.Layers[i].Document = number
		}
	}
	return p
}

// by is a shop that values its stock by a method.
func by(method cost.Method) Holding {
	h := empty()
	for _, variant := range []uint64{vest, cream} {
		h.Pools[variant] = cost.Pool{Method: method}
	}
	return h
}

// posted is the holding after a document, which is known by its number.
func posted(t require.TestingT, h Holding, doc Document, number uint64) Holding {
	h.Undone = doc.Reverses
	next, err := h.Apply(doc.Entries)
	require.NoError(t, err, "what was drafted can be applied")
	for variant, pool := range next.Pools {
		next.Pools[variant] = settled(pool, number)
	}
	next.Undone = 0
	return next
}

// TestAnySequenceStaysInStep lets deliveries, sales, returns, changes of
// condition, counts and reversals come in any order, and holds quantity, value,
// layers, units and double entry together after each.
func TestAnySequenceStaysInStep(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := by(rapid.SampledFrom(cost.Methods).Draw(t, "method"))
		var docs []Document
		books := ledger.Postings{}
		nextSerial := 0
		for range rapid.IntRange(1, 40).Draw(t, "deeds") {
			draft, err := anyDeed(t, h, docs, &nextSerial)
			if err != nil {
				require.NotNil(t, fault.Of(err), "only rules refuse: %v", err)
				continue
			}
			doc, err := draft.Document()
			require.NoError(t, err)
			h.Since = draft.Holding().Since
			next := posted(t, h, doc, uint64(len(docs)+1))
			for variant, pool := range draft.Holding().Pools {
				require.Equal(t, settled(pool, uint64(len(docs)+1)), next.Pools[variant])
				require.NoError(t, pool.Even())
			}
			h = next
			docs = append(docs, doc)
			for _, p := range doc.Postings {
				books.Add(p.Account, p.Amount)
			}
			inStep(t, h, docs, books)
		}
	})
}

func anyDeed(t *rapid.T, h Holding, docs []Document, nextSerial *int) (*Draft, error) {
	variant := rapid.Uint64Range(vest, cream).Draw(t, "variant")
	q := decimal.New(rapid.Int64Range(1, 9).Draw(t, "quantity"), 0)
	value := decimal.New(rapid.Int64Range(0, 50000).Draw(t, "value"), -2)
	shelf := rapid.Uint64Range(floor, bench).Draw(t, "shelf")
	key := at(variant, shelf)
	if variant == cream {
		key.Lot = rapid.Uint64Range(may, june).Draw(t, "lot")
	}
	var serials []string
	if variant == board {
		for range q.IntPart() {
			*nextSerial++
			serials = append(serials, fmt.Sprint("N", *nextSerial))
		}
	}
	w := Want{
		Line:      1,
		Variant:   variant,
		Branch:    h.Shelves[shelf].Branch,
		Condition: rapid.SampledFrom(Conditions).Draw(t, "condition"),
		Quantity:  q,
		Day:       today,
		Unsold:    true,
	}
	if variant == board {
		w.Serials = someUnits(h, w)
		w.Quantity = decimal.New(int64(len(w.Serials)), 0)
	}
	draft := NewDraft(h, Document{Kind: Delivery})
	switch rapid.IntRange(0, 4).Draw(t, "deed") {
	case 0:
		err := draft.Bring(1, key, q, value, serials)
		draft.Post(ledger.Stock, value)
		draft.Post(ledger.Payable, value.Neg())
		return draft, err
	case 1:
		draft = NewDraft(h, Document{Kind: Sale})
		worth, err := draft.Take(w)
		draft.Post(ledger.CostOfSales, worth)
		draft.Post(ledger.Stock, worth.Neg())
		return draft, err
	case 2:
		draft = NewDraft(h, Document{Kind: Return})
		err := draft.Restore(1, key, q, value, serials)
		draft.Post(ledger.Stock, value)
		draft.Post(ledger.CostOfSales, value.Neg())
		return draft, err
	case 3:
		draft = NewDraft(h, Document{Kind: ConditionChange})
		return draft, draft.Change(w, rapid.SampledFrom(Conditions).Draw(t, "to"))
	}
	if len(docs) == 0 {
		return nil, fault.Refuse("", "", "", "nothing to reverse")
	}
	which := rapid.IntRange(1, len(docs)).Draw(t, "reversed")
	return undo(h, docs, docs[which-1], uint64(which))
}

// undo drafts the reversal of one of some documents.
func undo(h Holding, docs []Document, doc Document, number uint64) (*Draft, error) {
	h.Since = nil
	if doc.Kind.Brings() {
		h.Since = sinceThen(docs, doc, number)
	}
	var revalued []Revalued
	for _, r := range doc.Revaluations {
		revalued = append(revalued, Revalued{r, docs[r.Of-1].Entries})
	}
	h.Later = laterThen(docs)
	draft := NewDraft(h, Document{Kind: Reversal, Reverses: number})
	return draft, draft.Reverse(doc, revalued, today)
}

// laterThen is what came in after each document, as the book tells it.
func laterThen(docs []Document) map[CameKey]decimal.Decimal {
	reversed := map[uint64]bool{}
	for _, doc := range docs {
		reversed[doc.Reverses] = true
	}
	later := map[CameKey]decimal.Decimal{}
	for i, doc := range docs {
		if doc.Reverses != 0 || reversed[uint64(i+1)] {
			continue
		}
		came := map[uint64]decimal.Decimal{}
		for _, e := range doc.Entries {
			came[e.Variant] = came[e.Variant].Add(e.Quantity)
		}
		for variant, n := range came {
			for before := range i {
				if key := (CameKey{uint64(before + 1), variant}); n.IsPositive() {
					later[key] = later[key].Add(n)
				}
			}
		}
	}
	return later
}

// sinceThen is what became of the variants of a document since, as the book tells it.
func sinceThen(docs []Document, of Document, number uint64) map[uint64]Since {
	reversed := map[uint64]bool{}
	for _, doc := range docs {
		reversed[doc.Reverses] = true
	}
	since := map[uint64]Since{}
	for _, variant := range Touched(of.Entries) {
		s := Since{}
		for i, doc := range docs {
			n := uint64(i + 1)
			for _, e := range doc.Entries {
				if e.Variant != variant || n == number || reversed[n] {
					continue
				}
				if e.Bought {
					s.Last = e.Value.DivRound(e.Quantity, 6)
				}
				moved := doc.Kind.Moves() || doc.Reverses > 0 &&
					(docs[doc.Reverses-1].Kind.Moves() || doc.Reverses > number)
				if n > number && e.Quantity.IsNegative() && !moved {
					s.Gone = s.Gone.Sub(e.Quantity)
				}
			}
		}
		since[variant] = s
	}
	return since
}

// someUnits names up to two units that are where a want asks for them.
func someUnits(h Holding, w Want) []string {
	for name, u := range h.Units {
		if name.Variant == w.Variant && u.State == serial.InStock && u.Key.Condition == w.Condition &&
			h.Shelves[u.Key.Shelf].Branch == w.Branch {
			return []string{name.Serial}
		}
	}
	return nil
}

func inStep(t *rapid.T, h Holding, docs []Document, books ledger.Postings) {
	quantity, value, balance, own := map[uint64]decimal.Decimal{}, map[uint64]decimal.Decimal{},
		map[uint64]decimal.Decimal{}, decimal.Zero
	for _, doc := range docs {
		for _, e := range doc.Entries {
			quantity[e.Variant], value[e.Variant] = quantity[e.Variant].Add(e.Quantity), value[e.Variant].Add(e.Value)
		}
	}
	for key, q := range h.Balances {
		require.False(t, q.IsNegative())
		balance[key.Variant] = balance[key.Variant].Add(q)
	}
	units := 0
	for _, u := range h.Units {
		if u.State == serial.InStock {
			units++
			own = own.Add(u.Cost)
		}
	}
	total := decimal.Zero
	for variant, pool := range h.Pools {
		require.True(t, pool.Quantity.Equal(quantity[variant]) && pool.Quantity.Equal(balance[variant]))
		require.True(t, pool.Value.Equal(value[variant]))
		require.False(t, pool.Value.IsNegative())
		require.False(t, pool.Quantity.IsZero() && !pool.Value.IsZero())
		total = total.Add(pool.Value)
	}
	require.True(t, h.Pools[board].Quantity.Equal(decimal.New(int64(units), 0)))
	require.True(t, h.Pools[board].Value.Equal(own), "the boards are worth %s, their units %s", h.Pools[board].Value,
		own)
	require.True(t, books[ledger.Stock].Equal(total), "the books have %s, the shelves %s", books[ledger.Stock], total)
}

// TestReversalRestores: a document and its reversal leave everything as it was,
// and what goes out next costs what it would have cost.
func TestReversalRestores(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := 0
		var docs []Document
		before := by(rapid.SampledFrom(cost.Methods).Draw(t, "method"))
		for range rapid.IntRange(0, 12).Draw(t, "before") {
			if try, err := anyDeed(t, before, nil, &n); err == nil {
				doc, err := try.Document()
				require.NoError(t, err)
				docs = append(docs, doc)
				before = posted(t, before, doc, uint64(len(docs)))
			}
		}
		deed, err := anyDeed(t, before, nil, &n)
		if err != nil {
			return
		}
		doc, err := deed.Document()
		require.NoError(t, err)
		number := uint64(len(docs) + 1)
		after := posted(t, before, doc, number)
		back, err := undo(after, append(docs, doc), doc, number)
		require.NoError(t, err)
		require.Equal(t, doc.Value().Neg().String(), back.doc.Value().String(), "nothing is left over")
		for variant, pool := range before.Pools {
			left := back.Holding().Pools[variant]
			require.True(t, left.Quantity.Equal(pool.Quantity))
			require.True(t, left.Value.Equal(pool.Value))
			if doc.Kind.Brings() && len(doc.Entries) > 0 {
				require.Equal(t, pool.Last.String(), left.Last.String(), "nor what was paid last")
			}
			for q := decimal.New(1, 0); q.LessThan(pool.Quantity); q = q.Add(decimal.New(1, 0)) {
				require.InDelta(t, pool.Worth(q).InexactFloat64(), left.Worth(q).InexactFloat64(), 0.011,
					"a layer that was split is worth the same, but for rounding")
			}
		}
		for key, q := range back.Holding().Balances {
			require.True(t, before.Balances[key].Equal(q))
		}
	})
}

// TestVoidPutsLayersBack: goods of two layers that went out in one line come back as
// two, each at its own cost.
func TestVoidPutsLayersBack(t *testing.T) {
	before := by(cost.FIFO)
	for i, worth := range []string{"10.00", "20.00"} {
		draft := NewDraft(before, Document{Kind: Delivery})
		require.NoError(t, draft.Bring(1, at(vest, floor), d("1"), d(worth), nil))
		doc, err := draft.Document()
		require.NoError(t, err)
		before = posted(t, before, doc, uint64(i+1))
	}
	draft := NewDraft(before, Document{Kind: Sale})
	worth, err := draft.Take(sell(vest, "2"))
	require.NoError(t, err)
	assert.Equal(t, "30.00", worth.StringFixed(2))
	doc, err := draft.Document()
	require.NoError(t, err)
	back, err := undo(posted(t, before, doc, 3), nil, doc, 3)
	require.NoError(t, err)
	assert.Equal(t, "10.00", back.Holding().Pools[vest].Worth(d("1")).StringFixed(2))
	assert.Equal(t, "30.00", back.Holding().Pools[vest].Worth(d("2")).StringFixed(2))
}

// TestFirstInFirstOut has the figures of the domain: 10 in at 20.00, then 5 at
// 26.00 with 5.00 freight.
func TestFirstInFirstOut(t *testing.T) {
	draft := NewDraft(by(cost.FIFO), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("10"), d("200.00"), nil))
	require.NoError(t, draft.Bring(2, at(vest, floor), d("5"), d("135.00"), nil))
	worth, err := draft.Take(sell(vest, "4"))
	require.NoError(t, err)
	assert.Equal(t, "80.00", worth.StringFixed(2))
	pool := draft.Holding().Pools[vest]
	assert.Equal(t, "255.00", pool.Value.StringFixed(2))
	assert.Equal(
		t,
		"6 at 20, 5 at 27",
		fmt.Sprintf("%s at %s, %s at %s", pool.Layers[0].Quantity, pool.Layers[0].Value.Div(pool.Layers[0].Quantity),
			pool.Layers[1].Quantity, pool.Layers[1].Value.Div(pool.Layers[1].Quantity)),
	)
	worth, err = draft.Take(sell(vest, "11"))
	require.NoError(t, err)
	assert.Equal(t, "255.00", worth.StringFixed(2))
	pool = draft.Holding().Pools[vest]
	assert.True(t, pool.Value.IsZero() && len(pool.Layers) == 0)
}

// TestFirstInFirstOutMovesNothing: goods that change their condition stay where
// they are in the queue; what comes back is the next to go.
func TestFirstInFirstOutMovesNothing(t *testing.T) {
	draft := NewDraft(by(cost.FIFO), Document{})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("2"), d("40.00"), nil))
	require.NoError(t, draft.Bring(2, at(vest, floor), d("2"), d("60.00"), nil))
	require.NoError(t, draft.Change(sell(vest, "3"), ToLookOver))
	pool := draft.Holding().Pools[vest]
	assert.Equal(t, "100.00 40.00", pool.Value.StringFixed(2)+" "+pool.Worth(d("2")).StringFixed(2))
	_, err := draft.Take(sell(vest, "2"))
	assert.ErrorContains(t, err, "1 short", "three of them are to check")
	worth, err := draft.Take(sell(vest, "1"))
	require.NoError(t, err)
	assert.Equal(t, "20.00", worth.StringFixed(2))
	require.NoError(t, draft.Restore(3, at(vest, floor), d("1"), d("19.50"), nil))
	worth, err = draft.Take(sell(vest, "1"))
	require.NoError(t, err)
	assert.Equal(t, "19.50", worth.StringFixed(2))
}

// TestReverseTakesItsOwnLayer: a delivery that is taken back goes at its own
// cost, though an older one would be next.
func TestReverseTakesItsOwnLayer(t *testing.T) {
	h := by(cost.FIFO)
	var docs []Document
	for _, value := range []string{"40.00", "60.00", "50.00"} {
		draft := NewDraft(h, Document{Kind: Delivery})
		require.NoError(t, draft.Bring(1, at(vest, floor), d("2"), d(value), nil))
		draft.Post(ledger.Stock, d(value))
		draft.Post(ledger.Payable, d(value).Neg())
		doc, err := draft.Document()
		require.NoError(t, err)
		docs = append(docs, doc)
		h = posted(t, h, doc, uint64(len(docs)))
	}
	back, err := undo(h, docs, docs[1], 2)
	require.NoError(t, err)
	assert.Equal(t, "-60.00 90.00", back.doc.Value().StringFixed(2)+" "+back.Holding().Pools[vest].Value.StringFixed(2))
	sold := NewDraft(h, Document{Kind: Sale})
	_, err = sold.Take(sell(vest, "3"))
	require.NoError(t, err)
	h, docs = posted(t, h, sold.doc, 4), append(docs, sold.doc)
	for number := range 2 {
		_, err = undo(h, docs, docs[number], uint64(number+1))
		assert.True(t, fault.Is(err, fault.Refused), "of the first none is left, of the second one")
	}
	_, err = undo(h, docs, docs[2], 3)
	assert.NoError(t, err, "the third is whole")
}

func TestLow(t *testing.T) {
	level := d("8")
	item := Item{Restock: &level}
	assert.False(t, item.Low(d("8")), "at the level: no")
	assert.True(t, item.Low(d("7")), "below: yes")
	assert.False(t, Item{}.Low(decimal.Zero))
	assert.Error(t, CheckCondition("Lost"))
	assert.NoError(t, CheckCondition(InRepair))
	assert.Equal(t, serial.Missing, Count.Left())
}
