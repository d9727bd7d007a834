package buying_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/scan"
	"itemrack/shop/buying"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
)

// TestGoodsAreScannedOntoShelves: what comes after a shelf's label goes there, as a line of its
// own, and what is outstanding is proposed less what stands elsewhere.
func TestGoodsAreScannedOntoShelves(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	a := vest.Variants[0]
	order, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{{Variant: a.ID, Quantity: "6", Price: "20"}}})
	require.NoError(t, err)
	_, err = buying.PlaceOrder(s.By(s.Maren), order.ID)
	require.NoError(t, err)
	id := uint64(0)
	put := func(code string, shelf uint64) string {
		done, err := buying.ScanDelivery(s.By(s.Callum), id,
			buying.DeliveryScan{Code: code, Shelf: shelf, Head: buying.DeliveryInput{Branch: 1}})
		require.NoError(t, err, code)
		id = max(id, done.ID)
		return done.Said
	}
	put(order.Number, 0)
	assert.Equal(t, "What comes next goes to Wall A.", put("sh-0002", 0))
	put("2 x "+a.Barcode, 2)
	assert.Contains(t, put(a.SKU, 1), "6 as ordered", "four more on the floor")
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), id)
	require.NoError(t, err)
	require.Len(t, lines, 2)
	assert.Equal(t, "2 on 2 ; 4 on 1 proposed", fmt.Sprint(lines[0].Quantity, " on ", *lines[0].ShelfID, " ",
		lines[0].How, "; ", lines[1].Quantity, " on ", *lines[1].ShelfID, " ", lines[1].How))
	put(a.SKU, 2)
	_, lines, err = storebuying.ReadDelivery(s.Store.Read(ctx), id)
	require.NoError(t, err)
	assert.Equal(t, "3", lines[0].Quantity.String(), "counted on its own shelf")
	_, err = buying.ScanDelivery(s.By(s.Callum), id, buying.DeliveryScan{Code: scan.ShelfCode(3)})
	assert.ErrorContains(t, err, "not where these goods come to")
	_, err = buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{})
	require.NoError(t, err)
	s.InStep(t)
}

// TestNumbersAreScannedOneAfterAnother: after the board's barcode, codes that nobody knows are its
// serial numbers; a GTIN never is.
func TestNumbersAreScannedOneAfterAnother(t *testing.T) {
	s := testkit.New(t)
	board, id := s.Simple(t, "Board", "serial", "549.00"), uint64(0)
	put := func(code string, after uint64) (uint64, error) {
		done, err := buying.ScanDelivery(s.By(s.Callum), id,
			buying.DeliveryScan{Code: code, After: after, Head: buying.DeliveryInput{Supplier: 1, Branch: 1}})
		id = max(id, done.ID)
		return done.Variant, err
	}
	line := func() string {
		_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), id)
		require.NoError(t, err)
		require.Len(t, lines, 1)
		return lines[0].Quantity.String() + ": " + lines[0].Serials
	}
	code := s.View(t, 1).Variants[0].Barcode
	for range 2 {
		after, err := put(code, 0)
		require.NoError(t, err)
		assert.Equal(t, board, after)
	}
	for _, c := range []struct{ scan, want string }{{"bw26 0100", "2: BW260100"},
		{"BW26-0101", "2: BW260100,BW26-0101"}, {"BW26-0102..0104",
			"5: BW260100,BW26-0101,BW26-0102,BW26-0103,BW26-0104"}} {
		_, err := put(c.scan, board)
		require.NoError(t, err, c.scan)
		assert.Equal(t, c.want, line())
	}
	_, err := put("BW26-0101", board)
	assert.ErrorContains(t, err, "there already")
	_, err = put("2099000000019", board)
	assert.Error(t, err, "a GTIN is other goods")
	_, err = put("BW26-0199", 0)
	assert.Error(t, err, "nothing was scanned before it")
	_, err = put("BW26-0199", s.Simple(t, "Cap", "counted", "9"))
	assert.Error(t, err, "a cap has no numbers")
	assert.Equal(t, "5: BW260100,BW26-0101,BW26-0102,BW26-0103,BW26-0104", line())
}
