package stock

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/ledger"
)

// book is a history of documents of one variant, with what they left.
type history struct {
	t     require.TestingT
	held  Holding
	docs  []Document
	books ledger.Postings
}

func newHistory(t require.TestingT, method cost.Method) *history {
	return &history{t: t, held: by(method), books: ledger.Postings{}}
}

func (h *history) post(draft *Draft) uint64 {
	doc, err := draft.Document()
	require.NoError(h.t, err)
	h.docs = append(h.docs, doc)
	h.held = posted(h.t, h.held, doc, uint64(len(h.docs)))
	for _, p := range doc.Postings {
		h.books.Add(p.Account, p.Amount)
	}
	require.True(h.t, h.books[ledger.Stock].Equal(h.held.Pools[vest].Value), "the account is what the goods are worth")
	require.NoError(h.t, h.held.Pools[vest].Even())
	return uint64(len(h.docs))
}

// came posts a delivery: quantity and worth of each of its lines.
func (h *history) came(lines ...string) uint64 {
	draft := NewDraft(h.held, Document{Kind: Delivery})
	for i := 0; i < len(lines); i += 2 {
		worth := d(lines[i+1])
		require.NoError(h.t, draft.Bring(i/2+1, at(vest, floor), d(lines[i]), worth, nil))
		draft.Post(ledger.Stock, worth)
		draft.Post(ledger.Payable, worth.Neg())
	}
	return h.post(draft)
}

func (h *history) sold(q string) uint64 {
	draft := NewDraft(h.held, Document{Kind: Sale})
	worth, err := draft.Take(sell(vest, q))
	require.NoError(h.t, err)
	draft.Post(ledger.CostOfSales, worth)
	draft.Post(ledger.Stock, worth.Neg())
	return h.post(draft)
}

// billed says by how much a line of a delivery is dearer.
func (h *history) billed(of uint64, line int, by string) uint64 {
	h.held.Later = laterThen(h.docs)
	draft := NewDraft(h.held, Document{Kind: Bill})
	_, err := draft.Revalue(Revaluation{Of: of, Line: line, Variant: vest, By: d(by)}, h.docs[of-1].Entries)
	require.NoError(h.t, err)
	draft.Post(ledger.Payable, d(by).Neg())
	return h.post(draft)
}

func (h *history) undo(of uint64) {
	draft, err := undo(h.held, h.docs, h.docs[of-1], of)
	require.NoError(h.t, err)
	h.post(draft)
}

func (h *history) stands(worth, sales string) {
	assert.Equal(h.t, worth, h.held.Pools[vest].Value.StringFixed(2), "what is there is worth")
	assert.Equal(h.t, sales, h.books[ledger.CostOfSales].StringFixed(2), "cost of sales")
}

// TestDearerGoods holds what a dearer or cheaper bill does, and its undoing, whatever came between: both ways of
// costing.
func TestDearerGoods(t *testing.T) {
	for _, method := range cost.Methods {
		for _, c := range []struct {
			name         string
			do           func(h *history)
			worth, sales map[cost.Method]string
		}{
			{"some sold before the bill", func(h *history) {
				of := h.came("40", "600")
				h.sold("10")
				h.billed(of, 1, "40")
			}, both("480.00"), both("160.00")},
			{"sold after the bill, which is undone", func(h *history) {
				of := h.came("40", "600")
				bill := h.billed(of, 1, "40")
				h.sold("30")
				h.undo(bill)
			}, both("150.00"), both("450.00")},
			{"undone when others came since", func(h *history) {
				of := h.came("10", "20")
				bill := h.billed(of, 1, "6")
				h.sold("9")
				h.came("10", "20")
				h.undo(bill)
			}, both("22.00"), both("18.00")},
			{"all sold, others came, then the bill", func(h *history) {
				of := h.came("10", "200")
				h.sold("10")
				h.came("10", "300")
				h.billed(of, 1, "10")
			}, both("300.00"), both("210.00")},
			{"one of two lines is dearer", func(h *history) {
				of := h.came("5", "50", "5", "50")
				h.sold("5")
				h.billed(of, 2, "10")
			}, both("60.00"), both("50.00")},
			{"the line that has gone is dearer", func(h *history) {
				of := h.came("5", "50", "5", "50")
				h.sold("5")
				h.billed(of, 1, "10")
			}, both("50.00"), both("60.00")},
			{"two bills, the first undone", func(h *history) {
				of := h.came("10", "100")
				first := h.billed(of, 1, "10")
				h.billed(of, 1, "20")
				h.sold("5")
				h.undo(first)
			}, both("60.00"), both("60.00")},
			{"cheaper than it is worth", func(h *history) {
				of := h.came("10", "20")
				h.sold("5")
				h.billed(of, 1, "-26")
			}, both("0.01"), both("-6.01")},
			{"cheaper than it is worth, undone", func(h *history) {
				of := h.came("10", "20")
				h.sold("5")
				h.undo(h.billed(of, 1, "-26"))
			}, both("10.00"), both("10.00")},
		} {
			t.Run(string(method)+": "+c.name, func(t *testing.T) {
				h := newHistory(t, method)
				c.do(h)
				h.stands(c.worth[method], c.sales[method])
			})
		}
	}
}

// both is a figure that is the same by both ways of costing.
func both(figure string) map[cost.Method]string {
	return map[cost.Method]string{cost.MovingAverage: figure, cost.FIFO: figure}
}

// TestRevaluingLosesNothing: goods become dearer or cheaper before or after some of them went. Undone at once, all is
// as it was; undone after what came since, by first in, first out, all is as if it had never been.
func TestRevaluingLosesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		method := rapid.SampledFrom(cost.Methods).Draw(t, "method")
		h, never := newHistory(t, method), newHistory(t, method)
		n := rapid.IntRange(1, 3).Draw(t, "deliveries")
		lines := make([]int, n)
		whole := func(from, to int64) string { return decimal.New(rapid.Int64Range(from, to).Draw(t, "n"), 0).String() }
		money := func(from, to int64) string {
			return decimal.New(rapid.Int64Range(from, to).Draw(t, "sum"), -2).String()
		}
		came := func() {
			var said []string
			for range rapid.IntRange(1, 3).Draw(t, "lines") {
				said = append(said, whole(1, 9), money(45, 9000)) // dust, where rounding alone takes all, is not undone
			}
			h.came(said...)
			never.came(said...)
			lines = append(lines[:0:0], append(lines, len(said)/2)...)
		}
		lines = lines[:0]
		for range n {
			came()
		}
		sell := func() {
			if gone := rapid.Int64Range(0, h.held.Pools[vest].Quantity.IntPart()).Draw(t, "gone"); gone > 0 {
				q := decimal.New(gone, 0).String()
				h.sold(q)
				never.sold(q)
			}
		}
		sell()
		of := rapid.IntRange(1, n).Draw(t, "of")
		asked := money(-4000, 4000)
		was := h.held.Pools[vest].Value
		bill := h.billed(uint64(of), rapid.IntRange(1, lines[of-1]).Draw(t, "line"), asked)
		r := h.docs[bill-1].Revaluations[0]
		if rapid.Bool().Draw(t, "at once") {
			h.undo(bill)
			require.True(t, h.held.Pools[vest].Value.Equal(was), "%s, was %s", h.held.Pools[vest].Value, was)
			require.True(t, h.books[ledger.CostOfSales].Equal(never.books[ledger.CostOfSales]))
			return
		}
		sell()
		if rapid.Bool().Draw(t, "others came") {
			// by number they come after the bill in one history only, which no rule looks at
			q, worth := whole(1, 9), money(1, 9000)
			h.came(q, worth)
			never.came(q, worth)
		}
		sell()
		h.undo(bill)
		if method == cost.FIFO && r.By.Equal(d(asked)) {
			apart := h.held.Pools[vest].Value.Sub(never.held.Pools[vest].Value).Abs()
			require.False(t, apart.GreaterThan(d("0.02")), "%s, never billed %s", h.held.Pools[vest].Value,
				never.held.Pools[vest].Value)
		}
		require.True(t, h.held.Pools[vest].Quantity.Equal(never.held.Pools[vest].Quantity))
	})
}
