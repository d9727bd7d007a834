package stock

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/unit"
)

const (
	kit, leash, lesson = 11, 12, 13
)

// kitShop has a kit of one vest and two leashes, with a lesson.
func kitShop(method cost.Method) (Holding, []KitPart) {
	h := by(method)
	for id, item := range map[uint64]Item{kit: {Name: "kit", Tracking: Counted, Unit: unit.Piece},
		leash:  {Name: "leash", Tracking: Counted, Unit: unit.Piece},
		lesson: {Name: "lesson", Tracking: NotStocked, Unit: unit.Piece}} {
		h.Items[id], h.Pools[id] = item, cost.Pool{Method: method}
	}
	return h, []KitPart{{vest, d("1")}, {leash, d("2")}, {lesson, d("1")}}
}

func TestKitsAreMadeUpAtWhatTheirPartsCost(t *testing.T) {
	h, parts := kitShop(cost.MovingAverage)
	draft := NewDraft(h, Document{Kind: KitMade})
	require.NoError(t, draft.Bring(1, at(vest, floor), d("4"), d("40.00"), nil))
	require.NoError(t, draft.Bring(1, at(leash, wall), d("5"), d("11.00"), nil))
	require.NoError(t, draft.MakeUp(kit, quay, d("2"), parts))
	after := draft.Holding()
	assert.Equal(t, "2 worth 28.80", after.Pools[kit].Quantity.String()+" worth "+after.Pools[kit].Value.StringFixed(2),
		"2 vests at 10.00 and 4 leashes at 2.20")
	assert.Equal(t, "14.4", after.Pools[kit].Last.String())
	assert.Equal(t, "2 1", after.Pools[vest].Quantity.String()+" "+after.Pools[leash].Quantity.String())
	err := NewDraft(after, Document{}).MakeUp(kit, quay, d("1"), parts)
	assert.ErrorContains(t, err, "1 short", "one leash is left, a kit holds two")

	require.NoError(t, draft.BreakUp(kit, quay, d("1"), parts))
	assert.Equal(t, "1 3 3",
		after.Pools[kit].Quantity.String()+" "+after.Pools[vest].Quantity.String()+" "+after.Pools[leash].Quantity.String())
	assert.Equal(t, "51.00",
		after.Pools[kit].Value.Add(after.Pools[vest].Value).Add(after.Pools[leash].Value).StringFixed(2))
	assert.True(t, fault.Is(draft.BreakUp(kit, quay, d("2"), parts), fault.Refused), "only one is made up")
}

func TestWhatCanBeNoKit(t *testing.T) {
	h, parts := kitShop(cost.FIFO)
	draft := NewDraft(h, Document{Kind: KitMade})
	for _, p := range []KitPart{{board, d("1")}, {cream, d("1")}} {
		assert.ErrorContains(t, draft.MakeUp(kit, quay, d("1"), append(parts[:2:2], p)), "put together when it is sold")
	}
	assert.ErrorContains(t, draft.MakeUp(kit, quay, d("1"), parts[2:]), "Nothing in kit has stock")
	assert.ErrorContains(t, draft.BreakUp(kit, 9, d("1"), parts), "no branch 9")
}

// TestKitsLoseNothing makes up and breaks up in any order: what all of it is worth
// stays the same to the penny.
func TestKitsLoseNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, parts := kitShop(rapid.SampledFrom(cost.Methods).Draw(t, "method"))
		start := NewDraft(h, Document{})
		for range rapid.IntRange(1, 4).Draw(t, "deliveries") {
			require.NoError(
				t,
				start.Bring(1, at(vest, floor), d("3"),
					d("0.01").Mul(d(rapid.StringMatching(`[1-9][0-9]{0,4}`).Draw(t, "value"))), nil),
			)
			require.NoError(
				t,
				start.Bring(1, at(leash, floor), d("7"),
					d("0.01").Mul(d(rapid.StringMatching(`[1-9][0-9]{0,4}`).Draw(t, "value"))), nil),
			)
		}
		worth := func(h Holding) string {
			return h.Pools[kit].Value.Add(h.Pools[vest].Value).Add(h.Pools[leash].Value).String()
		}
		before := worth(start.Holding())
		h = posted(t, h, start.doc, 1)
		for n := range rapid.IntRange(1, 12).Draw(t, "deeds") {
			draft := NewDraft(h, Document{Kind: KitMade})
			q := d(rapid.SampledFrom([]string{"1", "2", "3"}).Draw(t, "kits"))
			work := draft.MakeUp
			if rapid.Bool().Draw(t, "break") {
				work = draft.BreakUp
			}
			if work(kit, quay, q, parts) != nil {
				continue
			}
			doc, err := draft.Document()
			require.NoError(t, err)
			require.True(t, doc.Value().IsZero(), "the stock of the shop is worth the same")
			h = posted(t, h, doc, uint64(n+2))
			require.Equal(t, before, worth(h))
		}
	})
}
