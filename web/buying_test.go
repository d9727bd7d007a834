package web

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
	"itemrack/shop/office"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// TestLongOrdersAreReadAtOnce holds that the pages of an order of 1000 lines, and of a supplier
// with hundreds of orders, take as many statements as those of a short one.
func TestLongOrdersAreReadAtOnce(t *testing.T) {
	ctx := context.Background()
	s := testkit.New(t)
	token, err := office.MakeToken(deed.By(ctx, s.Shop, s.Maren, ""), office.TokenInput{})
	require.NoError(t, err)
	c := newClient(t, s)
	c.token = token.Token
	var list strings.Builder
	list.WriteString("product,size,category,price,cost,supplier\n")
	for n := range 200 {
		for _, size := range []string{"XS", "S", "M", "L", "XL"} {
			_, _ = fmt.Fprintf(&list, "Style %03d,%s,Swim > Rash vests,9.95,4.00,Kelpline Textiles\n", n, size)
		}
	}
	report, err := lists.ImportList(deed.By(ctx, s.Shop, s.Maren, ""), strings.NewReader(list.String()), 1, false)
	require.NoError(t, err)
	require.Equal(t, 1000, report.Made)
	variants, err := goods.VariantIDs(s.Store.Read(ctx), goods.ListFilter{}, 0, 1000)
	require.NoError(t, err)
	// buy orders so many variants, takes half of each in, and leaves a draft and a bill
	buy := func(n int) []string {
		in := buying.OrderInput{Supplier: 1, Branch: 1}
		var came, more []scan.GoodsLine
		for _, v := range variants[:n] {
			in.Lines = append(in.Lines, buying.OrderLineInput{Variant: v, Quantity: "4", Price: "4"})
			came, more = append(came, scan.GoodsLine{Variant: v, Quantity: "2"}), append(more,
				scan.GoodsLine{Variant: v, Quantity: "1"})
		}
		o, err := buying.MakeOrder(deed.By(ctx, s.Shop, s.Maren, ""), in)
		require.NoError(t, err)
		_, err = buying.PlaceOrder(deed.By(ctx, s.Shop, s.Maren, ""), o.ID)
		require.NoError(t, err)
		d, err := buying.SaveDelivery(deed.By(ctx, s.Shop, s.Maren, ""), 0,
			buying.DeliveryInput{Branch: 1, BillLater: true, Orders: []uint64{o.ID}, Lines: came})
		require.NoError(t, err)
		_, err = buying.PostDelivery(deed.By(ctx, s.Shop, s.Maren, ""), d.ID, buying.DeliveryPosting{})
		require.NoError(t, err)
		b, err := buying.SaveBill(deed.By(ctx, s.Shop, s.Maren, ""), 0,
			buying.BillInput{Supplier: 1, Number: fmt.Sprint("N", n), Deliveries: []uint64{d.ID}})
		require.NoError(t, err)
		draft, err := buying.SaveDelivery(deed.By(ctx, s.Shop, s.Maren, ""), 0,
			buying.DeliveryInput{Branch: 1, Orders: []uint64{o.ID}, Lines: more})
		require.NoError(t, err)
		at := fmt.Sprintf("/buying/orders/%d", o.ID)
		return []string{at, at + "?change=1", at + "/lines?change=1", fmt.Sprint(at, "/tag/", variants[0]),
			"/api/v1/orders/" + fmt.Sprint(o.ID), fmt.Sprint("/buying/bills/", b.ID),
			fmt.Sprint("/buying/", draft.ID), fmt.Sprint("/buying/", draft.ID, "/lines"), fmt.Sprint("/buying/", d.ID,
				"/prices"), fmt.Sprint("/labels?order=", o.ID)}
	}
	always := []string{"/buying", "/buying/orders", "/buying/orders?supplier=1", "/buying/suppliers",
		"/buying/suppliers/1", "/buying/bills", "/buying/pay?supplier=1", "/",
		"/buying/new?supplier=1"}
	count := func(pages []string) (taken []string, slowest time.Duration) {
		for _, path := range append(pages, always...) {
			request := httptest.NewRequest("GET", path, nil)
			request.Header.Set("Authorization", "Bearer "+c.token)
			began := time.Now()
			answer, err := c.app.Test(request, fiber.TestConfig{Timeout: 0})
			slowest = max(slowest, time.Since(began))
			t.Logf("%s %s", path, time.Since(began))
			require.NoError(t, err)
			require.Equal(t, http.StatusOK, answer.StatusCode, path)
			taken = append(taken, answer.Header.Get("Server-Timing"))
		}
		return taken, slowest
	}
	short := buy(50) // more products than hang on racks
	few, _ := count(short)
	long := buy(1000)
	for range 300 {
		o, err := buying.MakeOrder(deed.By(ctx, s.Shop, s.Maren, ""), buying.OrderInput{Supplier: 1, Branch: 1,
			Lines: []buying.OrderLineInput{{Variant: variants[3], Quantity: "1", Price: "4"}}})
		require.NoError(t, err)
		_, err = buying.PlaceOrder(deed.By(ctx, s.Shop, s.Maren, ""), o.ID)
		require.NoError(t, err)
	}
	many, slowest := count(long)
	t.Logf("the slowest page took %s", slowest.Round(time.Millisecond))
	statements := func(timing string) (n int) {
		_, err := fmt.Sscanf(timing, `db;desc="%d statements"`, &n)
		require.NoError(t, err, timing)
		return n
	}
	for i, path := range append(short, always...) {
		assert.LessOrEqual(t, statements(many[i]), statements(few[i]), path)
	}
	s.InStep(t)
}
