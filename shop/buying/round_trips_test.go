package buying_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store"
)

// TestLongDocumentsAskNoMore counts the questions to the database: a delivery and its bill take
// as many for six lines as for two, when they are posted and when they are undone.
func TestLongDocumentsAskNoMore(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	supplier := neoprene(t, s)
	counted := func(do func(ctx context.Context) error) int64 {
		counting, n := store.Counting(ctx)
		require.NoError(t, do(counting))
		return n.Load()
	}
	asked := func(number string, lines int) map[string]int64 {
		var in []buying.OrderLineInput
		for _, v := range vest.Variants[:lines] {
			in = append(in, buying.OrderLineInput{Variant: v.ID, Quantity: "4", Price: "20", Discount: "0"})
		}
		o := ordered(t, s, supplier, in...)
		draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
			buying.DeliveryInput{Supplier: supplier, Branch: 1, BillLater: true, Orders: []uint64{o.ID}})
		require.NoError(t, err)
		_, err = buying.FillDelivery(s.By(s.Maren), draft.ID)
		require.NoError(t, err)
		n := map[string]int64{}
		var came, billed string
		n["delivery"] = counted(func(ctx context.Context) error {
			done, err := buying.PostDelivery(deed.By(ctx, s.Shop, s.Maren, ""), draft.ID, buying.DeliveryPosting{})
			came = done.Number
			return err
		})
		bill, err := buying.SaveBill(s.By(s.Maren), 0,
			buying.BillInput{Supplier: supplier, Branch: 1, Number: number, Deliveries: []uint64{draft.ID}})
		require.NoError(t, err)
		n["bill"] = counted(func(ctx context.Context) error {
			done, err := buying.PostBill(deed.By(ctx, s.Shop, s.Maren, ""), bill.ID)
			billed = done.Number
			return err
		})
		n["bill undone"] = counted(func(ctx context.Context) error {
			_, err := stockroom.Reverse(deed.By(ctx, s.Shop, s.Maren, ""), billed, "wrong")
			return err
		})
		n["delivery undone"] = counted(func(ctx context.Context) error {
			_, err := stockroom.Reverse(deed.By(ctx, s.Shop, s.Maren, ""), came, "wrong")
			return err
		})
		return n
	}
	asked("NN-1", 2) // makes the ranges of numbers
	assert.Equal(t, asked("NN-2", 2), asked("NN-3", 6), "no question per line")
	s.InStep(t)
}
