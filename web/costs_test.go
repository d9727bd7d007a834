package web

import (
	"context"
	"fmt"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
	storegoods "itemrack/store/goods"
)

// TestCostsAreOnlyForThoseWhoMaySeeThem asks every page, file and route of the API as a
// clerk, of goods that cost 13.57: neither that nor what follows from it is told.
func TestCostsAreOnlyForThoseWhoMaySeeThem(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "50.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "7", Cost: "13.57"}}})
	board := s.Simple(t, "Board", "serial", "50.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "13.57",
		Serials: "N1"}}})
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Kit",
		Category: "Swim", TaxClass: 1, Price: "90", Parts: []catalog.PartInput{{Variant: v, Quantity: "1"},
			{Variant: board, Quantity: "1"}}})
	require.NoError(t, err)
	ctx := context.Background()
	order, err := buying.MakeOrder(deed.By(ctx, s.Shop, s.Maren, ""), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{{Variant: v, Quantity: "7", Price: "13.57"}}})
	require.NoError(t, err)
	_, err = buying.PlaceOrder(deed.By(ctx, s.Shop, s.Maren, ""), order.ID)
	require.NoError(t, err)
	draft, err := buying.SaveDelivery(deed.By(ctx, s.Shop, s.Maren, ""), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Extra: "13.57", Orders: []uint64{order.ID},
			Lines: []scan.GoodsLine{{Variant: v, Quantity: "6"}, {Variant: board, Quantity: "1", Total: "13.57"}}})
	require.NoError(t, err)
	_, err = buying.PutOrderLines(deed.By(ctx, s.Shop, s.Maren, ""), order.ID,
		[]buying.OrderLineInput{{Variant: v, Quantity: "8", Price: "67.4"}})
	require.NoError(t, err)
	_, err = buying.PutOrderLines(deed.By(ctx, s.Shop, s.Maren, ""), order.ID,
		[]buying.OrderLineInput{{Variant: v, Quantity: "8", Price: "13.57"}})
	require.NoError(t, err)
	later := s.Receive(t, buying.DeliveryInput{BillLater: true,
		Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Cost: "13.57"}}})
	deliveries, _, err := storebuying.Deliveries(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	bill, err := buying.SaveBill(deed.By(ctx, s.Shop, s.Maren, ""), 0,
		buying.BillInput{Supplier: 1, Number: "N", Deliveries: []uint64{deliveries[0].ID}})
	require.NoError(t, err)
	billed, err := buying.PostBill(deed.By(ctx, s.Shop, s.Maren, ""), bill.ID)
	require.NoError(t, err)
	back, err := buying.SendBack(deed.By(ctx, s.Shop, s.Maren, ""), buying.SendBackInput{Supplier: 1,
		Lines: []buying.SendBackLine{{Variant: v, Quantity: "1"}}})
	require.NoError(t, err)
	paid, err := buying.Pay(deed.By(ctx, s.Shop, s.Maren, ""), buying.PaymentInput{Supplier: 1,
		Parts: []buying.PaymentPart{{Bill: bill.ID, Amount: "16.28"}}})
	require.NoError(t, err)
	s.Open(t, 1)
	s.Sold(t, v, "1")
	terms, _, err := storegoods.ReadSupplier(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	_, err = buying.SaveSupplier(s.By(s.Maren), 1, buying.SupplierInput{Name: terms.Name, Discount: "41.7",
		Freight: "83.9",
		Markup:  "213.7", Revision: terms.Revision})
	require.NoError(t, err)
	counted := func(settle bool) {
		plan, err := counts.PlanCount(s.By(s.Maren), counts.CountPlan{Branch: 1, Whole: true})
		require.NoError(t, err)
		_, err = counts.Count(s.By(s.Maren), plan.ID, counts.CountInput{Variant: v, Quantity: "5"})
		require.NoError(t, err)
		if settle {
			_, err = counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
			require.NoError(t, err)
		}
	}
	counted(true)
	counted(false)
	// terms of the supplier, its value for seven and six, tax on it, margins of 50.00 with 20 % tax in it
	told := regexp.MustCompile(`\b(13\.57|41\.7|83\.9|213\.7|94\.99|81\.42|16\.28|19\.00|67\.4|207\.1)\b|"(margin|last_cost|average|own_cost|value_after|pool_value)"`)
	clerk, manager := newClient(t, s), newClient(t, s)
	clerk.signIn("tobi")
	manager.signIn("maren")
	seen := 0
	paths := []string{}
	for _, r := range everyRoute() {
		if r.Method == http.MethodGet {
			paths = append(paths, example(r.Path))
		}
	}
	paths = append(paths, "/catalog?list=variants&columns=cost,margin,value,price", "/catalog?sort=-margin",
		"/catalog/1?hang=value", "/catalog/1?hang=price", "/stock?format=csv", "/stock/not-for-sale?format=csv",
		"/catalog/export?as=list&columns=cost,margin,value", "/api/v1/variants/1/explain/price",
		"/api/v1/variants/1/explain/average_cost", "/documents/D-0001", "/documents/Q1-00001", "/movements?format=csv")
	for _, number := range []string{later.Number, billed.Number, back.Number, paid.Number} {
		paths = append(paths, "/documents/"+number, "/api/v1/documents/"+number)
	}
	paths = append(paths, "/buying/back/"+back.Number+"/slip", "/documents?format=csv", "/buying/suppliers/1?format=csv",
		"/buying/orders?format=csv", "/buying/suppliers?format=csv", "/buying?format=csv")
	bundle := fmt.Sprint("/products/", made.ID)
	paths = append(paths, "/api/v1"+bundle, "/api/v1"+bundle+"/parts", fmt.Sprint("/catalog/", made.ID),
		fmt.Sprint("/catalog/", made.ID, "/edit"))
	at := strconv.FormatUint(draft.ID, 10)
	paths = append(paths, "/buying/"+at, "/buying/"+at+"/lines", "/buying/"+at+"/rack/1", "/api/v1/deliveries/"+at,
		"/buying/new?order=1", "/buying/new/lines?order=1")
	paths = append(paths, "/counts/2", "/counts/2/settle", "/counts/1?format=csv", "/counts/1/settle?format=csv",
		"/counts/history?format=csv", "/buying/orders/"+strconv.FormatUint(order.ID, 10), "/buying/suppliers/1/edit")
	for _, path := range paths {
		_, text := clerk.get(path)
		assert.Empty(t, told.FindString(text), "%s tells a clerk what things cost", path)
		if _, text := manager.get(path); told.MatchString(text) {
			seen++
		}
	}
	assert.Greater(t, seen, 15, "managers see them")
	status, _ := clerk.get("/api/v1/products?is=under+cost&margin_from=10")
	require.Equal(t, http.StatusOK, status)
	_, all := clerk.get("/api/v1/products")
	_, narrowed := clerk.get("/api/v1/products?is=under+cost&margin_from=90&sort=margin")
	assert.Equal(t, strings.Count(all, `"id"`), strings.Count(narrowed, `"id"`), "nor can it be found out by a filter")
}
