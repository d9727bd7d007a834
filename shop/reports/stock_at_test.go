package reports_test

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/ledger"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// TestStockAsAt has three moments: after the first delivery, after a change of
// condition and a second one, and now that some are sold.
func TestStockAsAt(t *testing.T) {
	s := testkit.New(t)
	v := s.Vest(t).Variants[0].ID
	monday := s.Now().Add(-72 * time.Hour)
	receive := func(then *deed.Shop, q, cost string) {
		draft, err := buying.SaveDelivery(deed.By(ctx, then, s.Maren, ""), 0,
			buying.DeliveryInput{
				Supplier: 1,
				Branch:   1,
				Lines:    []scan.GoodsLine{{Variant: v, Quantity: q, Cost: cost}},
			},
		)
		require.NoError(t, err)
		_, err = buying.PostDelivery(deed.By(ctx, then, s.Maren, ""), draft.ID, buying.DeliveryPosting{})
		require.NoError(t, err)
	}
	receive(s.At(monday), "10", "20.00")
	tuesday := s.At(monday.Add(24 * time.Hour))
	_, err := stockroom.ChangeCondition(deed.By(ctx, tuesday, s.Maren, ""), stockroom.ChangeInput{Variant: v, Branch: 1,
		From: "For sale", To: "For scrap", Quantity: "3"})
	require.NoError(t, err)
	receive(tuesday, "5", "27.00")
	s.Open(t, 1)
	s.Sold(t, v, "4")
	q := s.Store.Read(ctx)
	for _, c := range []struct {
		at   time.Time
		want string
	}{
		{monday.Add(-time.Hour), "0 0 0.00 0.00"}, {monday, "10 10 200.00 200.00"}, {monday.Add(23 * time.Hour),
			"10 10 200.00 200.00"},
		{monday.Add(25 * time.Hour), "15 12 335.00 335.00"}, {s.Now(), "11 8 245.67 245.67"}} {
		rows, more, err := book.StockList(q, then(c.at), 1)
		require.NoError(t, err)
		require.Len(t, rows, 6, "what had no stock then is there, too")
		assert.False(t, more)
		worth, err := book.StockWorth(q, c.at)
		require.NoError(t, err)
		assert.Equal(
			t,
			c.want,
			rows[0].Quantity.String()+" "+rows[0].ForSale.String()+" "+rows[0].Value.StringFixed(
				2)+" "+worth.StringFixed(
				2,
			),
			c.at.String(),
		)
	}
	now, _, err := book.StockList(q, book.StockQuery{ListFilter: goods.ListFilter{Words: "tidewater"}}, 1)
	require.NoError(t, err)
	past, _, err := book.StockList(q, then(s.Now()), 1)
	require.NoError(t, err)
	for i := range now {
		assert.Equal(t, now[i].Quantity.String()+now[i].Value.String(),
			past[i].Quantity.String()+past[i].Value.String())
	}
	places, err := book.PlacesAt(q, v, monday.Add(25*time.Hour))
	require.NoError(t, err)
	require.Len(t, places, 2)
	assert.Equal(
		t,
		[]string{"For sale 12", "For scrap 3"},
		[]string{places[0].Condition + " " + places[0].Quantity.String(),
			places[1].Condition + " " + places[1].Quantity.String()},
	)
	before, err := book.PlacesAt(q, v, monday.Add(-time.Hour))
	require.NoError(t, err)
	assert.Empty(t, before)

	// an entry of an earlier day that is made now does not move what the book said then
	require.NoError(t, s.Store.Do(ctx, func(tx store.Tx) error {
		held, err := book.Hold(tx, []uint64{v}, nil)
		require.NoError(t, err)
		draft := stock.NewDraft(
			held,
			stock.Document{
				Kind:       stock.Opening,
				Number:     "OS-9",
				Branch:     1,
				By:         1,
				HappenedAt: monday.Add(-time.Hour),
				RecordedAt: s.Now(),
			},
		)
		require.NoError(
			t,
			draft.Bring(1, stock.Key{Variant: v, Shelf: 1, Condition: stock.ForSale}, decimal.New(2, 0),
				decimal.New(40, 0), nil),
		)
		draft.Post(ledger.Stock, decimal.New(40, 0))
		draft.Post(ledger.Opening, decimal.New(-40, 0))
		doc, err := draft.Document()
		require.NoError(t, err)
		_, err = book.Post(tx, held, doc)
		return err
	}))
	rows, _, err := book.StockList(q, then(monday.Add(23*time.Hour)), 1)
	require.NoError(t, err)
	assert.Equal(t, "10", rows[0].Quantity.String())
	s.InStep(t)
}

// then asks for the vests as the book stood at a moment.
func then(at time.Time) book.StockQuery {
	return book.StockQuery{ListFilter: goods.ListFilter{Words: "tidewater"}, At: at, Past: true}
}
