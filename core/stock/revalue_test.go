package stock

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/ledger"
)

// TestRevaluingLosesNothing: goods that are partly gone become dearer or cheaper; what the
// goods keep and what the cost of sales takes are all of it, and undone nothing stays behind.
func TestRevaluingLosesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		before := by(rapid.SampledFrom(cost.Methods).Draw(t, "method"))
		var docs []Document
		post := func(draft *Draft) Document {
			doc, err := draft.Document()
			require.NoError(t, err)
			docs = append(docs, doc)
			before = posted(t, before, doc, uint64(len(docs)))
			return doc
		}
		n := rapid.IntRange(1, 3).Draw(t, "deliveries")
		for range n {
			draft := NewDraft(before, Document{Kind: Delivery})
			q := decimal.New(rapid.Int64Range(1, 9).Draw(t, "quantity"), 0)
			require.NoError(t, draft.Bring(1, at(vest, floor), q,
				decimal.New(rapid.Int64Range(0, 9000).Draw(t, "value"), -2), nil))
			draft.Post(ledger.Stock, draft.doc.Entries[0].Value)
			draft.Post(ledger.Payable, draft.doc.Entries[0].Value.Neg())
			post(draft)
		}
		if gone := rapid.Int64Range(0, before.Pools[vest].Quantity.IntPart()).Draw(t, "gone"); gone > 0 {
			draft := NewDraft(before, Document{Kind: Sale})
			worth, err := draft.Take(sell(vest, decimal.New(gone, 0).String()))
			require.NoError(t, err)
			draft.Post(ledger.CostOfSales, worth)
			draft.Post(ledger.Stock, worth.Neg())
			post(draft)
		}
		of := rapid.IntRange(1, n).Draw(t, "of")
		change := decimal.New(rapid.Int64Range(-4000, 4000).Draw(t, "by"), -2)
		was := before.Pools[vest]
		draft := NewDraft(before, Document{Kind: Bill})
		kept, err := draft.Revalue(1, docs[of-1].Entries, uint64(of), change)
		require.NoError(t, err)
		draft.Post(ledger.Payable, change.Neg())
		doc := post(draft)
		require.True(t, before.Pools[vest].Value.Equal(was.Value.Add(kept)))
		require.True(t, doc.Value().Equal(kept))
		require.False(t, kept.Abs().GreaterThan(change.Abs()))
		require.NoError(t, before.Pools[vest].Even())
		require.True(t, before.Pools[vest].Quantity.Equal(was.Quantity))
		back, err := undo(before, docs, doc, uint64(len(docs)))
		require.NoError(t, err)
		require.True(t, back.Holding().Pools[vest].Value.Equal(was.Value), "%s, was %s",
			back.Holding().Pools[vest].Value, was.Value)
	})
}
