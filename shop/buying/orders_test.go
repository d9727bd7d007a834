package buying_test

import (
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// neoprene keeps a supplier with terms, and returns its number.
func neoprene(t *testing.T, s *testkit.Shop) uint64 {
	t.Helper()
	ref, err := buying.SaveSupplier(s.By(s.Maren), 0,
		buying.SupplierInput{Name: "Northfold Neoprene", Discount: "8", Freight: "4",
			Markup: "110", Ending: "1/0.95/nearest", DaysToPay: "30", LeadDays: "14", MinimumOrder: "2500",
			AccountNumber: "SPS-2207",
			Contacts:      []goods.SupplierContact{{Name: "Ada Berg", Mail: "orders@northfold.example"}, {}}})
	require.NoError(t, err)
	return ref.ID
}

// ordered makes and places an order of so many of each of some variants, at 20.00.
func ordered(t *testing.T, s *testkit.Shop, supplier uint64, lines ...buying.OrderLineInput) buying.OrderRef {
	t.Helper()
	draft, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1,
		Lines: lines})
	require.NoError(t, err)
	assert.Equal(t, corebuying.Draft, draft.State)
	placed, err := buying.PlaceOrder(s.By(s.Maren), draft.ID)
	require.NoError(t, err)
	require.Equal(t, corebuying.Placed, placed.State)
	return placed
}

func readOrder(t *testing.T, s *testkit.Shop, id uint64) (storebuying.OrderView, []storebuying.OrderLine) {
	t.Helper()
	o, lines, err := storebuying.ReadOrder(s.Store.Read(ctx), id)
	require.NoError(t, err)
	return o, lines
}

func onOrder(t *testing.T, s *testkit.Shop, variant uint64) string {
	t.Helper()
	found, err := storebuying.OnOrder(s.Store.Read(ctx), []uint64{variant}, 1)
	require.NoError(t, err)
	return found[variant].String()
}

// TestAnOrderFromDraftToAllIn goes through the states, short, over and called off.
func TestAnOrderFromDraftToAllIn(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	supplier := neoprene(t, s)
	m, l := vest.Variants[1].ID, vest.Variants[2].ID
	o := ordered(t, s, supplier, buying.OrderLineInput{Variant: m, Quantity: "6", Price: "64", Discount: "8"},
		buying.OrderLineInput{Variant: l, Quantity: "4 x 1 + 4", Price: "9.50"})
	assert.Equal(t, "P-0001", o.Number)
	view, lines := readOrder(t, s, o.ID)
	assert.Equal(t, "8", lines[1].Discount.String(), "the supplier's discount is offered")
	assert.Equal(t, "423.20", view.Net.StringFixed(2), "6 × 58.88 and 8 × 8.74")
	assert.Equal(t, s.Now().AddDate(0, 0, 14).Format(time.DateOnly), view.WantedOn.Format(time.DateOnly))
	assert.Equal(t, "6", onOrder(t, s, m))
	_, err := buying.PlaceOrder(s.By(s.Maren), o.ID)
	assert.True(t, fault.Is(err, fault.Conflict), "placed once")

	// 4 of 6 come, and one more of L than was ordered
	posted := s.Receive(t, buying.DeliveryInput{Supplier: supplier, Orders: []uint64{o.ID},
		Lines: []scan.GoodsLine{{Variant: m, Quantity: "4"}, {Variant: l, Quantity: "9"}}})
	view, lines = readOrder(t, s, o.ID)
	assert.Equal(t, corebuying.PartIn, view.State)
	assert.Equal(t, []string{"4", "9", "2"}, []string{lines[0].Arrived.String(), lines[1].Arrived.String(),
		view.ToCome.String()})
	assert.Equal(t, "2", onOrder(t, s, m))
	assert.Equal(t, "0", onOrder(t, s, l))
	assert.Equal(t, "314.18", s.Held(t, m).Pools[m].Value.Add(s.Held(t, l).Pools[l].Value).StringFixed(2),
		"at the agreed cost")

	// a placed order can be changed, not below what is here
	_, err = buying.PutOrderLines(s.By(s.Maren), o.ID, []buying.OrderLineInput{{Variant: m, Quantity: "3"}})
	require.True(t, fault.Is(err, fault.Refused))
	assert.Equal(t, "lines.0.quantity", fault.Of(err).Field)
	_, err = buying.PutOrderLines(s.By(s.Maren), o.ID, []buying.OrderLineInput{{Variant: m, Quantity: "8"}})
	require.NoError(t, err)
	assert.Equal(t, "4", onOrder(t, s, m))
	off, err := buying.CallOffOrder(s.By(s.Maren), o.ID, buying.CallOffInput{Note: "out of print"})
	require.NoError(t, err)
	assert.Equal(t, corebuying.AllIn, off.State)
	_, err = buying.CallOffOrder(s.By(s.Maren), o.ID, buying.CallOffInput{})
	assert.True(t, fault.Is(err, fault.Refused), "nothing is left to call off")
	events, err := storebuying.OrderEvents(s.Store.Read(ctx), o.ID)
	require.NoError(t, err)
	var said []string
	for _, e := range events {
		said = append(said, e.What+" "+e.Detail+" "+e.Document)
	}
	assert.Equal(t, []string{"Draft  ", "Placed  ", "Part in 13 " + posted.Number,
		"Changed Tidewater rash vest, Coral · M 6 → 8 ",
		"Called off 4, out of print "}, said)

	// undone, what it brought is awaited again
	_, err = stockroom.Reverse(s.By(s.Maren), posted.Number, "")
	require.NoError(t, err)
	view, lines = readOrder(t, s, o.ID)
	assert.Equal(t, corebuying.Placed, view.State)
	assert.Equal(t, []string{"0", "0", "4", "8"}, []string{lines[0].Arrived.String(), lines[1].Arrived.String(),
		onOrder(t, s, m), onOrder(t, s, l)})
	s.InStep(t)
}

// TestOneDeliveryOfTwoOrders: the earlier order gets its goods first, and what has not come
// is called off where that is said.
func TestOneDeliveryOfTwoOrders(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	w := s.Simple(t, "Bell", "counted", "9.00")
	supplier := neoprene(t, s)
	first := ordered(t, s, supplier, buying.OrderLineInput{Variant: v, Quantity: "6", Price: "2"},
		buying.OrderLineInput{Variant: w, Quantity: "3", Price: "5"})
	second := ordered(t, s, supplier, buying.OrderLineInput{Variant: v, Quantity: "5"})
	_, lines := readOrder(t, s, second.ID)
	assert.Equal(t, "2", lines[0].Price.String(), "what was asked the last time")

	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Branch: 1, Orders: []uint64{first.ID, second.ID}})
	require.NoError(t, err)
	_, err = buying.FillDelivery(s.By(s.Callum), draft.ID)
	require.NoError(t, err)
	view, rows, err := storebuying.ReadDelivery(s.Store.Read(ctx), draft.ID)
	require.NoError(t, err)
	assert.Equal(t, supplier, *view.SupplierID, "the orders say whose it is")
	require.Len(t, rows, 2)
	assert.Equal(t, "11 as ordered", rows[0].Quantity.String()+" "+string(rows[0].How))
	_, err = buying.SaveDelivery(s.By(s.Maren), draft.ID,
		buying.DeliveryInput{Branch: 1, Orders: []uint64{first.ID, second.ID},
			Lines: []scan.GoodsLine{{Variant: v, Quantity: "8"}, {Variant: w, Quantity: "1"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{CallOff: []uint64{w}})
	require.NoError(t, err)
	one, lines := readOrder(t, s, first.ID)
	assert.Equal(t, corebuying.AllIn, one.State, "the two bells are called off")
	assert.Equal(t, []string{"6", "1", "2"}, []string{lines[0].Arrived.String(), lines[1].Arrived.String(),
		lines[1].CalledOff.String()})
	two, lines := readOrder(t, s, second.ID)
	assert.Equal(t, "Part in 2 3", string(two.State)+" "+lines[0].Arrived.String()+" "+lines[0].Outstanding.String())
	_, err = buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Branch: 1, Orders: []uint64{first.ID}})
	assert.Equal(t, "order_ids", fault.Of(err).Field, "nothing of it is awaited")
	_, err = buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Branch: 1, Supplier: 1, Orders: []uint64{second.ID}})
	assert.Equal(t, "order_ids", fault.Of(err).Field, "it is of another supplier")
	s.InStep(t)
}

// TestScanningWhatWasOrdered: proposed, taken by the next goods, counted by a second scan,
// overridden by a number; over and unordered are said.
func TestScanningWhatWasOrdered(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	bell := s.Simple(t, "Bell", "counted", "9.00")
	supplier := neoprene(t, s)
	a, b, c := vest.Variants[0], vest.Variants[1], vest.Variants[2]
	o := ordered(t, s, supplier, buying.OrderLineInput{Variant: a.ID, Quantity: "6", Price: "20"},
		buying.OrderLineInput{Variant: b.ID, Quantity: "4", Price: "20"}, buying.OrderLineInput{Variant: c.ID,
			Quantity: "5", Price: "20"})
	draft := uint64(0)
	scanned := func(code string) string {
		t.Helper()
		done, err := buying.ScanDelivery(s.By(s.Callum), draft, buying.DeliveryScan{Code: code,
			Head: buying.DeliveryInput{Branch: 1, Orders: []uint64{o.ID}}})
		require.NoError(t, err)
		draft = done.ID
		return done.Said + done.Verdict
	}
	state := func() (said []string) {
		_, rows, err := storebuying.ReadDelivery(s.Store.Read(ctx), draft)
		require.NoError(t, err)
		for _, r := range rows {
			said = append(said, r.Quantity.String()+" "+string(r.How))
		}
		return said
	}
	assert.Equal(t, "Tidewater rash vest, Coral · S: 6 as ordered. Scan it again to count.", scanned(a.SKU))
	assert.Equal(t, []string{"6 proposed"}, state())
	assert.Equal(t, "Tidewater rash vest, Coral · M: 4 as ordered. Scan it again to count.", scanned(b.SKU))
	assert.Equal(t, []string{"6 as ordered", "4 proposed"}, state())
	assert.Equal(t, "Tidewater rash vest, Coral · M: 2 of 4.", scanned(b.SKU))
	assert.Equal(t, "Tidewater rash vest, Coral · M: 3 of 4.", scanned(b.SKU))
	assert.Equal(t, "Tidewater rash vest, Coral · L: 7 of 5, 2 over.over", scanned("7 x "+c.SKU))
	assert.Equal(t, []string{"6 as ordered", "3 ", "7 "}, state())
	whistle, err := goods.Sellables(s.Store.Read(ctx), []uint64{bell}, s.Now())
	require.NoError(t, err)
	assert.Equal(t, "Bell: 1, not ordered.not ordered", scanned(whistle[bell].SKU))
	// a number for what is proposed
	second := ordered(t, s, supplier, buying.OrderLineInput{Variant: a.ID, Quantity: "9", Price: "20"})
	draft = 0
	o = second
	scanned(a.SKU)
	assert.Equal(t, []string{"9 proposed"}, state())
	assert.Equal(t, "Tidewater rash vest, Coral · S: 5 of 9.", scanned("5 x "+a.SKU))
	assert.Equal(t, []string{"5 "}, state())
	_, err = buying.TakeProposed(s.By(s.Callum), draft)
	require.NoError(t, err)
	assert.Equal(t, []string{"5 "}, state(), "nothing was proposed")
}

// TestTwoPeopleOnOneOrder: each sees the other's lines, and neither overwrites them.
func TestTwoPeopleOnOneOrder(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	supplier := neoprene(t, s)
	draft, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1})
	require.NoError(t, err)
	var wait sync.WaitGroup
	for i, v := range vest.Variants {
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, err := buying.PutOrderLines(s.By(s.Maren), draft.ID,
				[]buying.OrderLineInput{{Variant: v.ID, Quantity: []string{"1", "2", "3", "4", "5", "6"}[i],
					Price: "20"}})
			assert.NoError(t, err)
		}()
	}
	wait.Wait()
	view, lines := readOrder(t, s, draft.ID)
	assert.Len(t, lines, 6)
	assert.Equal(t, "21", view.Units.String())
	shown := lines[0].Revision
	put := func(quantity string) error {
		_, err := buying.PutOrderLines(s.By(s.Maren), draft.ID,
			[]buying.OrderLineInput{{Variant: lines[0].VariantID, Quantity: quantity, Revision: shown}})
		return err
	}
	require.NoError(t, put("9"))
	err = put("7")
	require.True(t, fault.Is(err, fault.Conflict))
	assert.Equal(t, "lines.0.revision", fault.Of(err).Field)
	_, lines = readOrder(t, s, draft.ID)
	assert.Equal(t, "9", lines[0].Quantity.String())
	_, err = buying.ChangeOrder(s.By(s.Maren), draft.ID,
		buying.OrderInput{Branch: 1, Note: "by boat", Revision: view.Revision})
	assert.True(t, fault.Is(err, fault.Conflict), "the head, too")
	_, err = buying.ChangeOrder(s.By(s.Maren), draft.ID,
		buying.OrderInput{Branch: 1, Note: "by boat", WantedOn: "24.12.2126"})
	require.NoError(t, err)
	_, err = buying.PutOrderLines(s.By(s.Maren), draft.ID,
		[]buying.OrderLineInput{{Variant: lines[1].VariantID}})
	require.NoError(t, err)
	view, lines = readOrder(t, s, draft.ID)
	assert.Len(t, lines, 5, "taken off a draft")
	assert.Equal(t, "by boat 2126-12-24", view.Note+" "+view.WantedOn.Format(time.DateOnly))
	copied, err := buying.CopyOrder(s.By(s.Maren), draft.ID)
	require.NoError(t, err)
	again, lines := readOrder(t, s, copied.ID)
	assert.Equal(t, "5 by boat "+view.Net.String(), string(rune('0'+len(lines)))+" "+again.Note+" "+again.Net.String())
	_, err = buying.DropOrder(s.By(s.Maren), copied.ID)
	require.NoError(t, err)
	_, err = buying.DropOrder(s.By(s.Maren), copied.ID)
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = buying.MakeOrder(s.By(s.Tobi), buying.OrderInput{Supplier: supplier, Branch: 1})
	assert.True(t, fault.Is(err, fault.Forbidden))
}

// TestOddOrdersAreRefused names the field and loses nothing.
func TestOddOrdersAreRefused(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	service := s.Simple(t, "Board wax service", "not stocked", "15.00")
	supplier := neoprene(t, s)
	draft, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1})
	require.NoError(t, err)
	pack := uint64(99)
	for field, bad := range map[string]buying.OrderLineInput{
		"lines.0.quantity": {Variant: v, Quantity: "1.5"}, "lines.0.price": {Variant: v, Quantity: "1", Price: "-3"},
		"lines.0.discount": {Variant: v, Quantity: "1", Discount: "101"}, "lines.0.variant_id": {Variant: service,
			Quantity: "1"},
		"lines.0.pack_id": {Variant: v, Quantity: "1", Pack: &pack},
	} {
		_, err := buying.PutOrderLines(s.By(s.Maren), draft.ID, []buying.OrderLineInput{bad})
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	_, err = buying.PlaceOrder(s.By(s.Maren), draft.ID)
	assert.Equal(t, "lines", fault.Of(err).Field, "nothing is in it")
	_, err = buying.PutOrderLines(s.By(s.Maren), draft.ID,
		[]buying.OrderLineInput{{Variant: v, Quantity: "3"}})
	require.NoError(t, err, "a draft may wait for its price")
	_, err = buying.PlaceOrder(s.By(s.Maren), draft.ID)
	assert.Equal(t, "lines.0.price", fault.Of(err).Field)
	_, err = buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: 99, Branch: 1})
	assert.Equal(t, "supplier_id", fault.Of(err).Field)
	_, err = buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 99})
	assert.Equal(t, "branch_id", fault.Of(err).Field)
	_, err = buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1,
		WantedOn: "soon"})
	assert.Equal(t, "wanted_on", fault.Of(err).Field)
}

// TestSuppliersAreKept: with terms and people, closed, merged.
func TestSuppliersAreKept(t *testing.T) {
	s := testkit.New(t)
	supplier := neoprene(t, s)
	row, contacts, err := goods.ReadSupplier(s.Store.Read(ctx), supplier)
	require.NoError(t, err)
	assert.Equal(t, "Northfold Neoprene 8 4 30 14 2500",
		row.Name+" "+row.Discount.String()+" "+row.Freight.String()+" 30 14 "+row.MinimumOrder.String())
	require.Len(t, contacts, 1, "one of whom nothing is said is left out")
	for field, bad := range map[string]buying.SupplierInput{"name": {Name: "\u200b"},
		"discount":  {Name: "A", Discount: "101"},
		"lead_days": {Name: "A", LeadDays: "two"}, "days_to_pay": {Name: "A",
			DaysToPay: "-1"}, "minimum_order": {Name: "A", MinimumOrder: "x"},
		"ending": {Name: "A", Ending: "odd"}, "contacts.0.mail": {Name: "A",
			Contacts: []goods.SupplierContact{{Mail: "a b@c"}}}} {
		_, err := buying.SaveSupplier(s.By(s.Maren), 0, bad)
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	_, err = buying.SaveSupplier(s.By(s.Maren), 0, buying.SupplierInput{Name: "northfold  NEOPRENE"})
	assert.True(t, fault.Is(err, fault.Conflict), "there is one of that name")
	_, err = buying.SaveSupplier(s.By(s.Maren), supplier,
		buying.SupplierInput{Name: "Northfold", Revision: row.Revision + 1})
	assert.True(t, fault.Is(err, fault.Conflict), "changed meanwhile")
	_, err = buying.SaveSupplier(s.By(s.Callum), supplier, buying.SupplierInput{Name: "Northfold"})
	assert.True(t, fault.Is(err, fault.Forbidden))

	other, err := buying.SaveSupplier(s.By(s.Maren), 0, buying.SupplierInput{Name: "Northfold Neopren"})
	require.NoError(t, err)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	o := ordered(t, s, other.ID, buying.OrderLineInput{Variant: v, Quantity: "6", Price: "2"})
	_, err = buying.CloseSupplier(s.By(s.Maren), other.ID, true)
	assert.True(t, fault.Is(err, fault.Refused), "something is outstanding")
	s.Receive(t, buying.DeliveryInput{Supplier: other.ID, SupplierNumber: "77", Orders: []uint64{o.ID},
		Lines: []scan.GoodsLine{{Variant: v, Quantity: "6"}}})
	product, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Hood", Category: "Swim", TaxClass: 1,
		Tracking: "counted", Supplier: "Northfold Neopren", Part: "NF-1", Cost: "10"})
	require.NoError(t, err)
	_, err = buying.MergeSuppliers(s.By(s.Maren), other.ID, other.ID)
	assert.Equal(t, "into_id", fault.Of(err).Field)
	_, err = buying.MergeSuppliers(s.By(s.Maren), other.ID, supplier)
	require.NoError(t, err)
	_, _, err = goods.ReadSupplier(s.Store.Read(ctx), other.ID)
	assert.True(t, fault.Is(err, fault.NotFound))
	view, _ := readOrder(t, s, o.ID)
	assert.Equal(t, supplier, view.SupplierID)
	assert.Equal(t, "Northfold Neoprene", s.View(t, product.ID).Supplier)
	closed, err := buying.CloseSupplier(s.By(s.Maren), supplier, true)
	require.NoError(t, err)
	assert.Equal(t, "Northfold Neoprene is closed.", closed.Said)
	_, err = buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1})
	assert.True(t, fault.Is(err, fault.Refused))
	list, _, err := storebuying.SupplierList(s.Store.Read(ctx), "NORTH", 1)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 1, list[0].Products)
	supplies, _, err := storebuying.SuppliesOf(s.Store.Read(ctx), supplier, 1)
	require.NoError(t, err)
	require.Len(t, supplies, 1)
	assert.Equal(t, "Whistle 2", supplies[0].Name+" "+supplies[0].Price.String())
	s.InStep(t)
}

// TestTwoPostTheSameDelivery: it is one document, and the order got its goods once.
func TestTwoPostTheSameDelivery(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	supplier := neoprene(t, s)
	o := ordered(t, s, supplier, buying.OrderLineInput{Variant: v, Quantity: "6", Price: "2"})
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Branch: 1, Orders: []uint64{o.ID},
			Lines: []scan.GoodsLine{{Variant: v, Quantity: "4"}}})
	require.NoError(t, err)
	var wait sync.WaitGroup
	errs := make([]error, 4)
	for i := range errs {
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, errs[i] = buying.PostDelivery(s.By(s.Maren), draft.ID,
				buying.DeliveryPosting{})
		}()
	}
	wait.Wait()
	posted := 0
	for _, err := range errs {
		if err == nil {
			posted++
			continue
		}
		assert.True(t, fault.Is(err, fault.Conflict), "%v", err)
	}
	assert.Equal(t, 1, posted)
	_, lines := readOrder(t, s, o.ID)
	assert.Equal(t, "4", lines[0].Arrived.String())
	s.InStep(t)
}
