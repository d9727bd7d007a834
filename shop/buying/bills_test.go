package buying_test

import (
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	corebuying "itemrack/core/buying"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/till"
)

// posted is what a document posts to some accounts.
func posted(t *testing.T, s *testkit.Shop, document uint64, accounts ...ledger.Account) []string {
	t.Helper()
	list, err := book.Postings(s.Store.Read(ctx), document)
	require.NoError(t, err)
	said := make([]string, len(accounts))
	for i, account := range accounts {
		sum := decimal.Zero
		for _, p := range list {
			if p.Account == account {
				sum = sum.Add(p.Amount)
			}
		}
		said[i] = sum.StringFixed(2)
	}
	return said
}

// later posts a delivery whose bill has not come, and returns the number of its row.
func later(t *testing.T, s *testkit.Shop, lines ...scan.GoodsLine) (uint64, deed.Posted) {
	t.Helper()
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, BillLater: true, Lines: lines})
	require.NoError(t, err)
	done, err := buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	return draft.ID, done
}

// billed posts a bill for deliveries with these lines, and returns the number of its row.
func billed(t *testing.T, s *testkit.Shop, in buying.BillInput) (uint64, deed.Posted) {
	t.Helper()
	in.Supplier = 1
	draft, err := buying.SaveBill(s.By(s.Maren), 0, in)
	require.NoError(t, err)
	done, err := buying.PostBill(s.By(s.Maren), draft.ID)
	require.NoError(t, err)
	return draft.ID, done
}

func deliveryLine(t *testing.T, s *testkit.Shop, delivery uint64, at int) uint64 {
	t.Helper()
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), delivery)
	require.NoError(t, err)
	return lines[at].ID
}

func sold(t *testing.T, s *testkit.Shop, variant uint64, quantity string) {
	t.Helper()
	_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: variant, Quantity: quantity}}, Cash: "9000"})
	require.NoError(t, err)
}

// TestTheBillComesAfterTheGoods: 10 in at 20.00, tax 20 %, the bill says 210.00 net; none is
// sold.
func TestTheBillComesAfterTheGoods(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	id, done := later(t, s, scan.GoodsLine{Variant: v, Quantity: "10", Cost: "20"})
	assert.Equal(t, []string{"200.00", "-200.00", "0.00", "0.00"},
		posted(t, s, done.Document, ledger.Stock, ledger.ReceivedNotBilled, ledger.TaxIn, ledger.Payable), "no tax yet")
	s.InStep(t)
	bill, posts := billed(t, s, buying.BillInput{Number: "NN-1", Deliveries: []uint64{id},
		Lines: []buying.BillLineInput{{DeliveryLine: deliveryLine(t, s, id, 0), Quantity: "10",
			Net: "210"}}, BilledOn: "2026-11-12"})
	assert.Equal(t, []string{"10.00", "200.00", "42.00", "-252.00", "0.00"},
		posted(t, s, posts.Document, ledger.Stock, ledger.ReceivedNotBilled, ledger.TaxIn, ledger.Payable,
			ledger.CostOfSales))
	assert.Equal(t, "210.00", s.Held(t, v).Pools[v].Value.StringFixed(2))
	s.InStep(t)
	_, err := buying.SaveBill(s.By(s.Maren), bill, buying.BillInput{Supplier: 1})
	assert.True(t, fault.Is(err, fault.Conflict), "posted")
	again, err := buying.SaveBill(s.By(s.Maren), 0,
		buying.BillInput{Supplier: 1, Number: "nn-1", Freight: "3", Deliveries: []uint64{id}})
	require.NoError(t, err)
	_, err = buying.PostBill(s.By(s.Maren), again.ID)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "number", fault.Of(err).Field)
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	assert.True(t, fault.Is(err, fault.Refused), "its bill goes first")
	_, err = stockroom.Reverse(s.By(s.Maren), posts.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "200.00", s.Held(t, v).Pools[v].Value.StringFixed(2))
	s.InStep(t)
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	require.NoError(t, err)
	s.InStep(t)
}

// TestDearerWhenSomeAreSold: 40 in at 15.00, 10 sold, the bill says 16.00: 30.00 more stock
// value, 10.00 more cost of sales; by either method, and freight that comes later alike.
func TestDearerWhenSomeAreSold(t *testing.T) {
	for method, open := range map[cost.Method]func(testing.TB) *testkit.Shop{cost.MovingAverage: testkit.New,
		cost.FIFO: testkit.FirstIn} {
		s := open(t)
		v := s.Simple(t, "Whistle", "counted", "40.00")
		s.Open(t, 1)
		id, _ := later(t, s, scan.GoodsLine{Variant: v, Quantity: "40", Cost: "15"})
		sold(t, s, v, "10")
		_, posts := billed(t, s, buying.BillInput{Number: "NN-1", Deliveries: []uint64{id},
			Lines: []buying.BillLineInput{{DeliveryLine: deliveryLine(t, s, id, 0), Quantity: "40", Each: "16"}}})
		assert.Equal(t, []string{"30.00", "10.00"}, posted(t, s, posts.Document, ledger.Stock, ledger.CostOfSales),
			method)
		_, posts = billed(t, s, buying.BillInput{Number: "carrier 7", Freight: "8", Carrier: true,
			Deliveries: []uint64{id}})
		assert.Equal(t, []string{"6.00", "2.00", "1.60", "-9.60"},
			posted(t, s, posts.Document, ledger.Stock, ledger.CostOfSales, ledger.TaxIn, ledger.Payable), method)
		assert.Equal(t, "486.00", s.Held(t, v).Pools[v].Value.StringFixed(2))
		sold(t, s, v, "30")
		assert.Equal(t, "0 0", s.Held(t, v).Pools[v].Quantity.String()+" "+s.Held(t, v).Pools[v].Value.String())
		s.InStep(t)
	}
}

// TestLateFreightIsSpread: 30.00 over 10 at 20.00 and 5 at 40.00: by value 21.50 and 43.00
// each, by quantity 22.00 and 42.00.
func TestLateFreightIsSpread(t *testing.T) {
	for spread, want := range map[corebuying.Spread]string{corebuying.ByValue: "215.00 215.00",
		corebuying.ByQuantity: "220.00 210.00"} {
		s := testkit.New(t)
		a, b := s.Simple(t, "Whistle", "counted", "40.00"), s.Simple(t, "Bell", "counted", "90.00")
		id, _ := later(t, s, scan.GoodsLine{Variant: a, Quantity: "10", Cost: "20"},
			scan.GoodsLine{Variant: b, Quantity: "5", Cost: "40"})
		billed(t, s, buying.BillInput{Number: "C-1", Freight: "30", Spread: spread, Carrier: true,
			Deliveries: []uint64{id}})
		held := s.Held(t, a)
		assert.Equal(t, want, held.Pools[a].Value.StringFixed(2)+" "+s.Held(t, b).Pools[b].Value.StringFixed(2))
		s.InStep(t)
	}
}

// TestUnitsBearTheirShare: each of two boards its own, one of them sold.
func TestUnitsBearTheirShare(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Board", "serial", "600.00")
	s.Open(t, 1)
	id, _ := later(t, s, scan.GoodsLine{Variant: v, Quantity: "2", Cost: "310", Serials: "BW1, BW2"})
	_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "1", Serial: "BW1"}}, Cash: "600"})
	require.NoError(t, err)
	_, posts := billed(t, s, buying.BillInput{Number: "B-7", Freight: "10", Deliveries: []uint64{id},
		Lines: []buying.BillLineInput{{DeliveryLine: deliveryLine(t, s, id, 0), Quantity: "2", Each: "320"}}})
	assert.Equal(t, []string{"15.00", "15.00"}, posted(t, s, posts.Document, ledger.Stock, ledger.CostOfSales))
	held := s.Held(t, v)
	assert.Equal(t, "325.00", held.Pools[v].Value.StringFixed(2))
	s.InStep(t)
	_, err = stockroom.Reverse(s.By(s.Maren), posts.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "310.00", s.Held(t, v).Pools[v].Value.StringFixed(2))
	s.InStep(t)
}

// TestBilledBeforeItCame: more is billed than came and is waited for; what comes then is worth
// what was billed.
func TestBilledBeforeItCame(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	o := ordered(t, s, 1, buying.OrderLineInput{Variant: v, Quantity: "6", Price: "20"})
	take := func(q string, later bool) (uint64, error) {
		draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
			buying.DeliveryInput{Branch: 1, BillLater: later, Orders: []uint64{o.ID},
				Lines: []scan.GoodsLine{{Variant: v, Quantity: q}}})
		require.NoError(t, err)
		_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
		return draft.ID, err
	}
	id, err := take("4", true)
	require.NoError(t, err)
	bill, posts := billed(t, s, buying.BillInput{Number: "NN-1", Deliveries: []uint64{id},
		Lines: []buying.BillLineInput{{DeliveryLine: deliveryLine(t, s, id, 0), Quantity: "6", Each: "21"}}})
	assert.Equal(t, []string{"122.00", "4.00", "-151.20"}, posted(t, s, posts.Document, ledger.ReceivedNotBilled,
		ledger.Stock, ledger.Payable))
	s.InStep(t)
	_, err = take("2", false)
	require.True(t, fault.Is(err, fault.Invalid), "they are billed already")
	assert.Equal(t, "bill_later", fault.Of(err).Field)
	_, err = take("2", true)
	require.NoError(t, err)
	assert.Equal(t, "126.00", s.Held(t, v).Pools[v].Value.StringFixed(2), "at 21.00 each")
	left, err := storebuying.Unbilled(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Empty(t, left, "nothing waits for a bill")
	_, err = stockroom.Reverse(s.By(s.Maren), posts.Number, "")
	assert.True(t, fault.Is(err, fault.Refused), "what it billed ahead has come")
	_, lines, _, err := storebuying.ReadBill(s.Store.Read(ctx), bill)
	require.NoError(t, err)
	assert.Equal(t, "0 0", lines[0].AheadUnits.String()+" "+lines[0].Ahead.String())
	s.InStep(t)
}

// TestTooMuchOnTheBill: a credit is expected, comes, and is used when the bill is paid.
func TestTooMuchOnTheBill(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	s.Open(t, 1)
	id, _ := later(t, s, scan.GoodsLine{Variant: v, Quantity: "8", Cost: "8.74"})
	line := deliveryLine(t, s, id, 0)
	bill, posts := billed(t, s, buying.BillInput{Number: "NN-1", Deliveries: []uint64{id}, Total: "114.03",
		Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "10", Each: "9.50",
			Dearer: corebuying.ExpectCredit, Missing: corebuying.ExpectCredit}}})
	assert.Equal(t, []string{"25.08", "69.92", "0.00", "0.03", "-114.03"},
		posted(t, s, posts.Document, ledger.CreditExpected, ledger.ReceivedNotBilled, ledger.Stock,
			ledger.PriceVariance, ledger.Payable))
	s.InStep(t)
	credits, err := storebuying.Credits(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	require.Len(t, credits, 1)
	_, err = buying.EnterCredit(s.By(s.Maren), buying.CreditInput{Credit: credits[0].ID})
	assert.Equal(t, "number", fault.Of(err).Field)
	note, err := buying.EnterCredit(s.By(s.Maren), buying.CreditInput{Credit: credits[0].ID, Number: "CR-9", Net: "25.00"})
	require.NoError(t, err)
	assert.Equal(t, []string{"-25.08", "30.00", "-5.00", "0.08"},
		posted(t, s, note.Document, ledger.CreditExpected, ledger.Payable, ledger.TaxIn, ledger.PriceVariance))
	_, err = buying.EnterCredit(s.By(s.Maren), buying.CreditInput{Credit: credits[0].ID, Number: "CR-10"})
	assert.True(t, fault.Is(err, fault.Conflict), "once")
	s.InStep(t)
	owed, _, err := storebuying.Bills(s.Store.Read(ctx), storebuying.BillFilter{Owed: true}, 1)
	require.NoError(t, err)
	require.Len(t, owed, 2)
	_, err = stockroom.Reverse(s.By(s.Maren), posts.Number, "")
	assert.True(t, fault.Is(err, fault.Refused), "its credit note goes first")

	// part out of the drawer, with the credit
	credit := owed[0].ID + owed[1].ID - bill
	_, err = buying.Pay(s.By(s.Maren), buying.PaymentInput{Supplier: 1,
		Parts: []buying.PaymentPart{{Bill: bill, Amount: "200"}}})
	assert.Equal(t, "amount", fault.Of(err).Field, "never more than is owed")
	_, err = buying.Pay(s.By(s.Callum), buying.PaymentInput{Supplier: 1,
		Parts: []buying.PaymentPart{{Bill: bill}}})
	assert.True(t, fault.Is(err, fault.Forbidden))
	paid, err := buying.Pay(s.By(s.Maren), buying.PaymentInput{Supplier: 1, From: corebuying.Drawer,
		Register: 1,
		Parts:    []buying.PaymentPart{{Bill: bill, Amount: "80"}, {Bill: credit}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"50.00", "-50.00"}, posted(t, s, paid.Document, ledger.Payable, ledger.Cash))
	s.InStep(t)
	view, _, _, err := storebuying.ReadBill(s.Store.Read(ctx), bill)
	require.NoError(t, err)
	assert.Equal(t, "34.03", view.Open.StringFixed(2))
	drawer, err := till.ReadDrawerFigures(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Equal(t, "50.00 50.00", drawer.PaidOut.StringFixed(2)+" "+drawer.Core().ShouldBe().StringFixed(2),
		"100.00 float less 50.00")
	_, err = stockroom.Reverse(s.By(s.Maren), posts.Number, "")
	assert.True(t, fault.Is(err, fault.Refused), "it is paid in part")
	_, err = stockroom.Reverse(s.By(s.Maren), paid.Number, "")
	require.NoError(t, err)
	view, _, _, err = storebuying.ReadBill(s.Store.Read(ctx), bill)
	require.NoError(t, err)
	assert.Equal(t, "114.03", view.Open.StringFixed(2), "owed again")
	s.InStep(t)
}

// TestBackToSupplier: 3 bought at 20.00 go back at an average of 21.00, credited 60.00.
func TestBackToSupplier(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	s.Stock(t, v, "5", "22")
	s.Stock(t, v, "5", "20")
	back, err := buying.SendBack(s.By(s.Callum), buying.SendBackInput{Supplier: 1,
		Lines: []buying.SendBackLine{{Variant: v, Quantity: "3", Each: "20"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"-63.00", "60.00", "3.00"}, posted(t, s, back.Document, ledger.Stock,
		ledger.CreditExpected, ledger.PriceVariance))
	assert.Equal(t, "7", s.Held(t, v).OnHand(v, 1, stock.ForSale).String())
	s.InStep(t)
	for field, bad := range map[string]buying.SendBackInput{"supplier_id": {Lines: []buying.SendBackLine{{Variant: v,
		Quantity: "1"}}},
		"lines": {Supplier: 1}, "lines.0.quantity": {Supplier: 1,
			Lines: []buying.SendBackLine{{Variant: v, Quantity: "0"}}},
		"lines.0.variant_id": {Supplier: 1, Lines: []buying.SendBackLine{{Variant: 99, Quantity: "1"}}}} {
		_, err := buying.SendBack(s.By(s.Callum), bad)
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	_, err = buying.SendBack(s.By(s.Callum), buying.SendBackInput{Supplier: 1,
		Lines: []buying.SendBackLine{{Variant: v, Quantity: "9"}}})
	assert.True(t, fault.Is(err, fault.Refused), "only 7 are here")
	_, err = stockroom.Reverse(s.By(s.Maren), back.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "10", s.Held(t, v).OnHand(v, 1, stock.ForSale).String())
	s.InStep(t)

	board := s.Simple(t, "Board", "serial", "600.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310",
		Serials: "BW1, BW2"}}})
	back, err = buying.SendBack(s.By(s.Callum), buying.SendBackInput{Supplier: 1,
		Lines: []buying.SendBackLine{{Variant: board, Quantity: "1", Serials: "bw 2"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"-310.00", "310.00"}, posted(t, s, back.Document, ledger.Stock, ledger.CreditExpected))
	slip, err := buying.BackSlip(ctx, s.Shop, back.Number)
	require.NoError(t, err)
	var said string
	for _, shape := range slip.Shapes {
		said += shape.Text + "|"
	}
	for _, want := range []string{"Back to Oar & Thole", "Board", "No. BW2", back.Number} {
		assert.Contains(t, said, want)
	}
	assert.NotContains(t, said, "310", "it says no costs")
	_, err = buying.BackSlip(ctx, s.Shop, "D-0001")
	assert.True(t, fault.Is(err, fault.NotFound))
	s.InStep(t)
}

// TestTheBillThatCameWithTheGoods is owed on its day, and a delivery that is paid is not
// undone.
func TestTheBillThatCameWithTheGoods(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	_, err := buying.SaveSupplier(s.By(s.Maren), 1,
		buying.SupplierInput{Name: "Oar & Thole", DaysToPay: "30"})
	require.NoError(t, err)
	done := s.Receive(t, buying.DeliveryInput{SupplierNumber: "K-1",
		Lines: []scan.GoodsLine{{Variant: v, Quantity: "10", Cost: "20"}}})
	bills, _, err := storebuying.Bills(s.Store.Read(ctx), storebuying.BillFilter{Owed: true}, 1)
	require.NoError(t, err)
	require.Len(t, bills, 1)
	assert.Equal(t, "K-1 240", bills[0].Name()+" "+bills[0].Open.String())
	assert.Equal(t, bills[0].BilledOn.AddDate(0, 0, 30), bills[0].DueOn)
	_, err = buying.Pay(s.By(s.Maren, "p"), buying.PaymentInput{Supplier: 1,
		Parts: []buying.PaymentPart{{Bill: bills[0].ID}}})
	require.NoError(t, err)
	_, err = buying.Pay(s.By(s.Maren, "p"), buying.PaymentInput{Supplier: 1,
		Parts: []buying.PaymentPart{{Bill: bills[0].ID}}})
	require.NoError(t, err, "the same request again")
	_, err = buying.Pay(s.By(s.Maren), buying.PaymentInput{Supplier: 1,
		Parts: []buying.PaymentPart{{Bill: bills[0].ID}}})
	assert.Error(t, err, "it is paid")
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	assert.True(t, fault.Is(err, fault.Refused))
	s.InStep(t)
}

// TestTwoPostTheSameBill: it is owed once.
func TestTwoPostTheSameBill(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	id, _ := later(t, s, scan.GoodsLine{Variant: v, Quantity: "10", Cost: "20"})
	draft, err := buying.SaveBill(s.By(s.Maren), 0,
		buying.BillInput{Supplier: 1, Number: "NN-1", Deliveries: []uint64{id}})
	require.NoError(t, err)
	other, err := buying.SaveBill(s.By(s.Maren), 0,
		buying.BillInput{Supplier: 1, Number: "NN-1", Deliveries: []uint64{id}})
	require.NoError(t, err)
	var wait sync.WaitGroup
	errs := make([]error, 4)
	for i := range errs {
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, errs[i] = buying.PostBill(s.By(s.Maren), []uint64{draft.ID, other.ID}[i%2])
		}()
	}
	wait.Wait()
	n := 0
	for _, err := range errs {
		if err == nil {
			n++
		} else {
			assert.True(t, fault.Is(err, fault.Conflict), "%v", err)
		}
	}
	assert.Equal(t, 1, n)
	s.InStep(t)
}

// TestRandomHistoriesOfBuying: orders, deliveries, bills, late freight, goods sent back, sales,
// payments and reversals in any order, by both methods: what the records say agrees after each
// few, and nothing is worth anything once it is gone.
func TestRandomHistoriesOfBuying(t *testing.T) {
	for seed, open := range []func(testing.TB) *testkit.Shop{testkit.New, testkit.FirstIn} {
		s := open(t)
		s.Open(t, 1)
		r := rand.New(rand.NewPCG(uint64(seed)+3, 26))
		variants := []uint64{s.Simple(t, "Whistle", "counted", "40.00"), s.Simple(t, "Bell", "counted", "90.00")}
		money := func(most int64) string { return decimal.New(r.Int64N(most), -2).String() }
		var deliveries []uint64
		var numbers []string
		done := map[string]int{}
		for step := range 160 {
			v := variants[r.IntN(2)]
			q := fmt.Sprint(1 + r.IntN(12))
			var err error
			what := r.IntN(9)
			note := func(posts deed.Posted, e error) {
				if err = e; e == nil {
					numbers = append(numbers, posts.Number)
				}
			}
			switch what {
			case 0, 1:
				draft, e := buying.SaveDelivery(s.By(s.Maren), 0,
					buying.DeliveryInput{Supplier: 1, Branch: 1, BillLater: r.IntN(2) == 0,
						Lines: []scan.GoodsLine{{Variant: variants[0], Quantity: q, Cost: money(4000)},
							{Variant: variants[1], Quantity: "3", Total: money(9000)}}})
				require.NoError(t, e)
				posts, e := buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
				note(posts, e)
				deliveries = append(deliveries, draft.ID)
			case 2:
				_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
					Lines: []register.SaleLineInput{{Variant: v, Quantity: q}},
					Cash:  "9000"})
			case 3, 4:
				open, e := storebuying.Unbilled(s.Store.Read(ctx), 1)
				require.NoError(t, e)
				if len(open) == 0 {
					continue
				}
				id := open[r.IntN(len(open))].ID
				in := buying.BillInput{Supplier: 1, Number: fmt.Sprint("N", step), Deliveries: []uint64{id},
					Freight: money(900)}
				for at := range 2 {
					in.Lines = append(in.Lines, buying.BillLineInput{DeliveryLine: deliveryLine(t, s, id, at),
						Quantity: fmt.Sprint(1 + r.IntN(6)), Each: money(4500),
						Dearer: []corebuying.Then{"", "credit"}[r.IntN(2)], Missing: corebuying.ExpectCredit})
				}
				draft, e := buying.SaveBill(s.By(s.Maren), 0, in)
				require.NoError(t, e)
				note(buying.PostBill(s.By(s.Maren), draft.ID))
			case 5:
				if len(deliveries) == 0 {
					continue
				}
				draft, e := buying.SaveBill(s.By(s.Maren), 0,
					buying.BillInput{Supplier: 1, Number: fmt.Sprint("C", step), Carrier: true, Freight: money(2000),
						Spread: []corebuying.Spread{corebuying.ByValue,
							corebuying.ByQuantity}[r.IntN(2)], Deliveries: []uint64{deliveries[r.IntN(len(deliveries))]}})
				require.NoError(t, e)
				note(buying.PostBill(s.By(s.Maren), draft.ID))
			case 6:
				note(buying.SendBack(s.By(s.Callum), buying.SendBackInput{Supplier: 1,
					Lines: []buying.SendBackLine{{Variant: v, Quantity: q,
						Each: money(4000)}}}))
			case 7:
				owed, _, e := storebuying.Bills(s.Store.Read(ctx), storebuying.BillFilter{Owed: true, Supplier: 1}, 1)
				require.NoError(t, e)
				if len(owed) == 0 {
					continue
				}
				b := owed[r.IntN(len(owed))]
				note(buying.Pay(s.By(s.Maren), buying.PaymentInput{Supplier: 1,
					From: []corebuying.From{corebuying.Outside, corebuying.Drawer}[r.IntN(2)], Register: 1,
					Parts: []buying.PaymentPart{{Bill: b.ID, Amount: money(5000)}}}))
			case 8:
				if len(numbers) == 0 {
					continue
				}
				_, err = stockroom.Reverse(s.By(s.Maren), numbers[r.IntN(len(numbers))], "")
			}
			if err != nil {
				require.NotNil(t, fault.Of(err), "only rules refuse: %v", err)
				continue
			}
			done[fmt.Sprint(what)]++
			if step%8 == 0 {
				s.InStep(t)
			}
		}
		for _, v := range variants {
			if q := s.Held(t, v).OnHand(v, 1, stock.ForSale); q.IsPositive() {
				sold(t, s, v, q.String())
			}
			pool := s.Held(t, v).Pools[v]
			assert.True(t, pool.Quantity.IsZero() && pool.Value.IsZero(), "%s left, worth %s", pool.Quantity,
				pool.Value)
		}
		s.InStep(t)
		assert.Len(t, done, 9, "each kind of deed was done: %v", done)
	}
}

// TestOddBillsAreRefused names the field.
func TestOddBillsAreRefused(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	id, _ := later(t, s, scan.GoodsLine{Variant: v, Quantity: "10", Cost: "20"})
	line := deliveryLine(t, s, id, 0)
	for field, bad := range map[string]buying.BillInput{"supplier_id": {Supplier: 99},
		"billed_on": {Supplier: 1, BilledOn: "soon"}, "due_on": {Supplier: 1, DueOn: "31.2.2027"},
		"freight": {Supplier: 1, Freight: "-1"}, "total": {Supplier: 1, Total: "x"}, "spread": {Supplier: 1,
			Spread: "guess"},
		"delivery_ids.0": {Supplier: 1, Deliveries: []uint64{99}}, "freight_tax_class_id": {Supplier: 1,
			FreightTaxClass: 99},
		"lines.0.delivery_line_id": {Supplier: 1, Lines: []buying.BillLineInput{{DeliveryLine: 99, Quantity: "1"}}},
		"lines.0.quantity":         {Supplier: 1, Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "1.5"}}},
		"lines.0.net": {Supplier: 1, Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "1",
			Net: "1.999"}}},
		"lines.0.dearer": {Supplier: 1, Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "1",
			Dearer: "shout"}}}} {
		_, err := buying.SaveBill(s.By(s.Maren), 0, bad)
		require.Error(t, err, field)
		require.NotNil(t, fault.Of(err), "%s: %v", field, err)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	draft, err := buying.SaveBill(s.By(s.Maren), 0,
		buying.BillInput{Supplier: 1, Deliveries: []uint64{id}, Total: "250.00"})
	require.NoError(t, err)
	_, err = buying.PostBill(s.By(s.Maren), draft.ID)
	assert.Equal(t, "number", fault.Of(err).Field)
	_, err = buying.SaveBill(s.By(s.Maren), draft.ID,
		buying.BillInput{Supplier: 1, Number: "N1", Deliveries: []uint64{id}, Total: "250.00",
			Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "10"}}})
	require.NoError(t, err)
	_, err = buying.PostBill(s.By(s.Maren), draft.ID)
	assert.Equal(t, "total", fault.Of(err).Field, "their paper says 10.00 more")
	_, err = buying.DropBill(s.By(s.Maren), draft.ID)
	require.NoError(t, err)
	_, err = buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, BillLater: true, Extra: "5"})
	assert.Equal(t, "extra", fault.Of(err).Field)
}
