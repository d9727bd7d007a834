package buying_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	shopregister "itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
)

var ctx = context.Background()

// TestSameLotNumberOtherExpiry: two lots; same both: one lot, value added.
func TestSameLotNumberOtherExpiry(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "14.50")
	for _, expiry := range []string{"2127-04-30", "2127-05-31", "2127-04-30", ""} {
		s.Receive(
			t,
			buying.DeliveryInput{
				Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "6", Lot: "K1", Expiry: expiry}},
			},
		)
	}
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	require.Len(t, places, 3)
	assert.Equal(t, "10", places[0].Quantity.String())
	assert.Nil(t, places[2].Expiry)
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	assert.ErrorContains(t, err, "lot number is missing")
	s.InStep(t)
}

func TestSerialNumbersThatAreRefused(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Board", "serial", "549.00")
	in := func(serials string) buying.DeliveryInput {
		return buying.DeliveryInput{
			Supplier: 1,
			Branch:   1,
			Lines:    []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310", Serials: serials}},
		}
	}
	_, err := buying.SaveDelivery(s.By(s.Maren), 0, in("A1, a 1"))
	assert.ErrorContains(t, err, "stands there twice")
	s.Receive(t, in("A1, A2"))
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0, in("a2, A3"))
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	require.ErrorContains(t, err, "No. A2 is in stock already, at Floor")
	assert.Equal(t, "2", s.Held(t, board).Pools[board].Quantity.String(), "nothing of it was posted")
	s.Open(t, 1)
	for serial, says := range map[string]string{"A9": "has no Board No. A9", "": "choose a serial number"} {
		_, err := shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{
			Register: 1,
			Lines:    []shopregister.SaleLineInput{{Variant: board, Quantity: "1", Serial: serial}},
			Cash:     "600",
		},
		)
		assert.ErrorContains(t, err, says)
	}
	_, err = shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{
		Register: 1,
		Lines:    []shopregister.SaleLineInput{{Variant: board, Quantity: "2", Serial: "A1"}},
		Cash:     "2000",
	},
	)
	assert.ErrorContains(t, err, "one by one")
	_, err = shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{
		Register: 1,
		Lines:    []shopregister.SaleLineInput{{Variant: board, Quantity: "1", Serial: "A1"}},
		Cash:     "600",
	},
	)
	require.NoError(t, err)
	_, err = shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{
		Register: 1,
		Lines:    []shopregister.SaleLineInput{{Variant: board, Quantity: "1", Serial: "A1"}},
		Cash:     "600",
	},
	)
	assert.True(t, fault.Is(err, fault.Refused), "sold once")
	s.InStep(t)
}

// TestBackDated enters a delivery with the clock of the day before.
func TestBackDated(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	then := &testkit.Shop{Shop: s.At(s.Now().Add(-48 * time.Hour)), Maren: s.Maren}
	then.Stock(t, v, "5", "1")
	moves, _, err := book.Movements(s.Store.Read(ctx), v, book.MovementFilter{})
	require.NoError(t, err)
	require.Len(t, moves, 1)
	assert.WithinDuration(t, time.Now().Add(-48*time.Hour), moves[0].HappenedAt, time.Minute)
}

// TestTheLastCostIsProposedWithoutItsFreight: a line without a cost takes what
// was typed last, not what it came to with freight.
func TestTheLastCostIsProposedWithoutItsFreight(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Receive(t,
		buying.DeliveryInput{Extra: "5.00", Lines: []scan.GoodsLine{{Variant: v, Quantity: "5", Cost: "1.00"}}})
	assert.Equal(t, "2", s.Held(t, v).Pools[v].Last.String(), "the landed cost")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "5"}}})
	assert.Equal(t, "15.00", s.Held(t, v).Pools[v].Value.StringFixed(2))
	s.InStep(t)
}

// TestLengthsAreOfCharacters types texts as long as may be, in letters of several bytes,
// and one longer.
func TestLengthsAreOfCharacters(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "9.00")
	watch := s.Simple(t, "Paddle watch", "serial", "190.00")
	for field, line := range map[string]func(text string) scan.GoodsLine{
		"lot": func(text string) scan.GoodsLine { return scan.GoodsLine{Variant: cream, Quantity: "1", Lot: text} },
		"serials": func(text string) scan.GoodsLine {
			return scan.GoodsLine{Variant: watch, Quantity: "1",
				Serials: text}
		},
	} {
		for _, letter := range []string{"7", "é", "漢", "😀"} {
			in := buying.DeliveryInput{Supplier: 1, Branch: 1,
				Lines: []scan.GoodsLine{line(strings.Repeat(letter, 40))}}
			_, err := buying.SaveDelivery(s.By(s.Maren), 0, in)
			require.NoError(t, err, "40 times %s as %s", letter, field)
			in.Lines[0] = line(strings.Repeat(letter, 60))
			_, err = buying.SaveDelivery(s.By(s.Maren), 0, in)
			require.NotNil(t, fault.Of(err), "60 times %s as %s: %v", letter, field, err)
			assert.Equal(t, "lines.0."+field, fault.Of(err).Field)
		}
	}
}

// TestTwoWindowsOnOneDraft saves a draft on top of what another window saved, and scans
// into it from both.
func TestTwoWindowsOnOneDraft(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	in := buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: made.Variants[0].ID,
		Quantity: "2", Cost: "5"}}}
	first, err := buying.SaveDelivery(s.By(s.Maren), 0, in)
	require.NoError(t, err)
	one, two := in, in
	one.Revision, two.Revision = first.Revision, first.Revision
	one.Lines = []scan.GoodsLine{{Variant: made.Variants[0].ID, Quantity: "9", Cost: "5"}}
	saved, err := buying.SaveDelivery(s.By(s.Maren), first.ID, one)
	require.NoError(t, err)
	_, err = buying.SaveDelivery(s.By(s.Maren), first.ID, two)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "revision", fault.Of(err).Field)
	for _, v := range made.Variants[1:3] { // one scans here, one there
		scanned, err := buying.ScanDelivery(s.By(s.Callum), first.ID, buying.DeliveryScan{Code: v.Barcode})
		require.NoError(t, err)
		assert.Greater(t, scanned.Revision, saved.Revision)
	}
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), first.ID)
	require.NoError(t, err)
	require.Len(t, lines, 3, "what both scanned is kept")
	assert.Equal(t, "9", lines[0].Quantity.String())
	_, err = buying.SaveDelivery(s.By(s.Maren), first.ID, in)
	require.NoError(t, err, "a program that says no revision")
}
