package buying_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
)

// placed is an order that is placed, of so many of each of some variants.
func placed(t *testing.T, s *testkit.Shop, quantity string, variants ...uint64) buying.OrderRef {
	t.Helper()
	in := buying.OrderInput{Supplier: 1, Branch: 1}
	for _, v := range variants {
		in.Lines = append(in.Lines, buying.OrderLineInput{Variant: v, Quantity: quantity, Price: "20"})
	}
	order, err := buying.MakeOrder(s.By(s.Maren), in)
	require.NoError(t, err)
	_, err = buying.PlaceOrder(s.By(s.Maren), order.ID)
	require.NoError(t, err)
	return order
}

// handed writes what a delivery in the hand has got.
func handed(h buying.Hand) string {
	var words []string
	for _, l := range h.Lines {
		text := l.Label + " " + l.Got.String()
		if l.Of != nil {
			text += " of " + l.Of.String()
		}
		for _, w := range []string{l.Verdict, l.Asks} {
			if w != "" {
				text += " " + w
			}
		}
		words = append(words, text)
	}
	return strings.Join(words, ", ")
}

// TestADeliveryInTheHand goes the way of the page for the hand: the order, a shelf, goods, numbers,
// posted. The same step sent again counts once.
func TestADeliveryInTheHand(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	a, b, c := vest.Variants[0], vest.Variants[1], vest.Variants[2]
	order := placed(t, s, "5", a.ID, b.ID)
	n := 0
	step := func(in buying.HandStep) buying.Hand {
		t.Helper()
		in.Session, n = "device-1", n+1
		h, err := buying.TakeInHand(s.By(s.Tobi, fmt.Sprint("key", n)), in)
		require.NoError(t, err)
		again, err := buying.TakeInHand(s.By(s.Tobi, fmt.Sprint("key", n)), in)
		require.NoError(t, err)
		assert.Equal(t, h.Revision, again.Revision, "sent again it is the same step")
		return h
	}
	scan := func(code string) buying.Hand { return step(buying.HandStep{What: corebuying.StepScan, Code: code}) }

	before, err := buying.ReadHand(s.Shop, s.Store.Read(ctx), s.Tobi, "device-1")
	require.NoError(t, err)
	assert.Zero(t, before.ID)
	assert.NotEmpty(t, before.Shelves, "a shelf can be chosen before anything is scanned")
	h := scan(order.Number)
	assert.Equal(t, "Coral · S 0 of 5, Coral · M 0 of 5", handed(h))
	assert.Equal(t, "0 10 P-0001", fmt.Sprint(h.Units, " ", h.ToCome, " ", h.Orders[0]))
	assert.Equal(t, "Wall A", scan("SH-0002").Shelf.Name)
	h = scan(a.Barcode)
	assert.Equal(t, "Coral · S 5 of 5", handed(h), "all are proposed")
	assert.True(t, h.Lines[0].Proposed)
	h = scan(a.SKU)
	assert.Equal(t, "2 of 5: 2 of 5 hangers", fmt.Sprintf("%s of %s: %d of %d hangers", h.Lines[0].Got, h.Lines[0].Of,
		h.Lines[0].Filled, h.Lines[0].Hangers))
	assert.Equal(t, "Coral · S 6 of 5 over", handed(step(buying.HandStep{What: corebuying.StepNumber, Variant: a.ID,
		Quantity: "6"})))
	assert.Equal(t, "Coral · S 5 of 5", handed(step(buying.HandStep{What: corebuying.StepMore, Variant: a.ID,
		Quantity: "-1"})))
	step(buying.HandStep{What: corebuying.StepShelf, Shelf: 1})
	assert.Equal(t, "Coral · L 1 not ordered", handed(scan(c.SKU)))
	h = step(buying.HandStep{What: corebuying.StepWhole, Variant: b.ID})
	assert.Equal(t, "Coral · M 5 of 5", handed(h))
	assert.Equal(t, "11 0", fmt.Sprint(h.Units, " ", h.ToCome))

	// what can't be is refused by its field, and nothing changes
	for field, in := range map[string]buying.HandStep{"what": {What: "juggle"},
		"code": {What: corebuying.StepScan, Code: "2099000000019"},
		"quantity": {What: corebuying.StepNumber, Variant: a.ID,
			Quantity: "x"}, "variant_id": {What: corebuying.StepWhole, Variant: 999},
		"lot": {What: corebuying.StepTracking, Variant: a.ID, Lot: "K1"}} {
		in.Session = "device-1"
		_, err := buying.TakeInHand(s.By(s.Tobi), in)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	for _, odd := range []string{"", strings.Repeat("x", 65), "漢", "a b", "'"} {
		_, err := buying.TakeInHand(s.By(s.Tobi), buying.HandStep{Session: odd, What: corebuying.StepScan,
			Code: a.SKU})
		assert.Equal(t, "session", fault.Of(err).Field, odd)
	}
	words, err := buying.TakeInHand(s.By(s.Tobi), buying.HandStep{Session: "device-1",
		What: corebuying.StepScan, Code: "vest"})
	require.NoError(t, err)
	assert.Len(t, words.Offers, 1, "words offer what they may mean")

	whole, err := buying.ReadHand(s.Shop, s.Store.Read(ctx), s.Tobi, "device-1")
	require.NoError(t, err)
	assert.Equal(t, "Coral · M 5 of 5, Coral · L 1 not ordered, Coral · S 5 of 5", handed(whole),
		"what came last first")
	assert.False(t, whole.Ready, "nobody knows what Coral L costs")
	_, err = buying.PostDelivery(s.By(s.Tobi), whole.ID, buying.DeliveryPosting{})
	assert.ErrorContains(t, err, "nobody has said what one costs")
	step(buying.HandStep{What: corebuying.StepNumber, Variant: c.ID, Quantity: "0"})
	done, err := buying.PostDelivery(s.By(s.Tobi), whole.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	whole, err = buying.ReadHand(s.Shop, s.Store.Read(ctx), s.Tobi, "device-1")
	require.NoError(t, err)
	assert.Equal(t, done.Number, whole.Posted)
	_, err = buying.TakeInHand(s.By(s.Tobi), buying.HandStep{Session: "device-1", What: corebuying.StepScan,
		Code: a.SKU})
	assert.True(t, fault.Is(err, fault.Conflict), "%v", err)
	q := s.Store.Read(ctx)
	_, lines, err := storebuying.ReadDelivery(q, whole.ID)
	require.NoError(t, err)
	assert.Equal(t, "2 1", fmt.Sprint(*lines[0].ShelfID, " ", *lines[1].ShelfID))
	s.InStep(t)
}

// TestLotsAndNumbersInTheHand are asked for on the spot.
func TestLotsAndNumbersInTheHand(t *testing.T) {
	s := testkit.New(t)
	cream, board := s.Simple(t, "Sun cream", "lot", "9"), s.Simple(t, "Board", "serial", "549")
	step := func(in buying.HandStep) buying.Hand {
		t.Helper()
		in.Session = "d2"
		h, err := buying.TakeInHand(s.By(s.Callum), in)
		require.NoError(t, err)
		return h
	}
	code := func(v uint64) string { return s.View(t, map[uint64]uint64{cream: 1, board: 2}[v]).Variants[0].Barcode }
	h := step(buying.HandStep{What: corebuying.StepScan, Code: code(cream)})
	assert.Equal(t, " 1 lot", handed(h))
	h = step(buying.HandStep{What: corebuying.StepTracking, Variant: cream, Lot: "k-7", Expiry: "31/12/2029"})
	assert.Equal(t, " 1 K-7 31/12/2029", handed(h)+" "+h.Lines[0].Lot+" "+h.Lines[0].Expiry)
	step(buying.HandStep{What: corebuying.StepScan, Code: "2 x " + code(board)})
	h = step(buying.HandStep{What: corebuying.StepScan, Code: "BW26-0100"})
	assert.Equal(t, " 2 numbers", handed(h), "one is missing")
	h = step(buying.HandStep{What: corebuying.StepTracking, Variant: board, Serials: "BW26-0100..0101"})
	assert.Equal(t, " 2", handed(h))
	assert.Equal(t, 2, h.Lines[0].Numbers)
}

// TestTwoDevicesBeginOneSession: a step that was sent twice at once begins one draft.
func TestTwoDevicesBeginOneSession(t *testing.T) {
	s := testkit.New(t)
	a := s.Vest(t).Variants[0]
	var together sync.WaitGroup
	for i := range 6 {
		together.Go(func() {
			_, err := buying.TakeInHand(s.By(s.Tobi, fmt.Sprint("k", i%3)), buying.HandStep{Session: "one",
				What: corebuying.StepScan, Code: a.SKU})
			assert.NoError(t, err)
		})
	}
	together.Wait()
	drafts, err := storebuying.DeliveryDrafts(s.Store.Read(ctx), 10)
	require.NoError(t, err)
	require.Len(t, drafts, 1)
	assert.Equal(t, "3", drafts[0].Units.String(), "three keys, three pieces")
}
