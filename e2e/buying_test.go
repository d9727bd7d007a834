package e2e

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
	"itemrack/store/devices"
)

// TestAnOrderIsBought goes the way of an order on the pages: typed on the rack, placed, labels
// in two acts, scanned in against what was ordered in five, the bill dearer, paid in part, one
// sent back.
func TestAnOrderIsBought(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	vest := s.Vest(t)
	s.Open(t, 1)
	base := serve(t, s)
	p := sit(t, base, 1280, 800).as("maren")

	p.open("/buying/suppliers/1/edit")
	p.fill("#discount", "101")
	p.ctrlEnter()
	p.sees("#form-error", "101 %")
	p.fill("#discount", "8")
	p.fill("#lead_days", "14")
	p.fill("#days_to_pay", "30")
	p.fill("#minimum_order", "100")
	p.fill(`[name="contacts.0.mail"]`, "orders@kelpline.example")
	p.leave(p.ctrlEnter)
	p.sees("main", "orders@kelpline.example")
	p.sees("main", "8 %")

	// on the rack, outlined
	p.leave(func() { p.types("n") })
	p.leave(func() { p.press("form .act.first", "Begin the order") })
	p.sees("h1", "P-0001")
	p.press("[data-open]", "Tidewater rash vest")
	p.MustElement("#order-rack .rack-cell")
	p.fill("#rack-price", "20")
	p.focus("#order-rack .rack-cell")
	for _, quantity := range []string{"6", "4", "5"} {
		p.types(quantity)
		p.keys(input.Enter)
	}
	p.sees("#saved", "kept")
	p.sees("#order-sums", "£276.00") // 15 × 18.40
	p.leave(p.ctrlEnter)
	p.sees("main", "Placed")
	p.sees("#tag-body", "0 of 6 here, 6 to come")
	order, lines, err := storebuying.ReadOrder(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.Equal(t, "20 8 276", lines[0].Price.String()+" "+lines[0].Discount.String()+" "+order.Net.String())

	// sent by mail, as the mailbox shows
	p.MustElementR("summary", "Send").MustClick()
	p.leave(func() { p.press("#send .act.first", "Send it") })
	p.sees(".thread", "to orders@kelpline.example")
	p.open("/devices")
	p.sees("main", "Order P-0001 of Saltmarsh Paddle & Swim")
	p.accessible()
	p.open("/buying/orders/1")

	// labels in two acts: l, and PDF
	p.leave(func() { p.types("l") })
	p.sees("#preview", "15 labels")
	p.leave(func() { p.press(".views a", "as outstanding") })
	p.sees("#preview", "15 labels")

	// a second window sees what the first one ordered, and another order's barcode opens it
	p.open("/")
	p.leave(func() { p.scan("p-0001") })
	p.sees("h1", "P-0001")

	// five acts: the order, three kinds of goods, and post
	p.open("/buying/new")
	p.scan("P-0001")
	p.sees("#said", "15 to come")
	p.scan(vest.Variants[0].Barcode)
	p.sees("#said", "6 as ordered")
	p.scan(vest.Variants[1].Barcode)
	p.sees("#said", "4 as ordered")
	p.scan(vest.Variants[2].Barcode)
	p.sees("#lines", "3 lines taken as ordered")
	// the second scan counts instead: two short, which stays open
	p.scan(vest.Variants[2].Barcode)
	p.sees("#said", "2 of 5")
	p.scan(vest.Variants[2].Barcode)
	p.sees("#said", "3 of 5")
	p.sees("#lines", "2 short")
	p.scan("2 x " + vest.Variants[3].SKU)
	p.sees("#said", "not ordered")
	p.sees("#lines", "not ordered")
	p.fill(`[name="lines.3.cost"]`, "18.40")
	p.keys(input.Tab)
	p.MustElement("#bill_later").MustClick()
	p.sees("#saved", "kept")
	p.accessible()
	p.fits()
	p.leave(p.ctrlEnter)
	p.sees("h1", "Delivery D-0001")
	order, _, err = storebuying.ReadOrder(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Equal(t, "Part in 2", string(order.State)+" "+order.ToCome.String())
	p.open("/buying/orders/1")
	p.sees("main", "2 to come")
	p.press("#call-off", "Call off the rest")
	p.sees("main", "All in")

	// the bill is dearer, and has a vest more than came
	p.open("/buying/bills")
	p.sees("main", "D-0001")
	p.leave(func() { p.press("a", "Enter its bill") })
	p.fill("#number", "NN-1")
	p.leave(func() { p.press("#bill-new .act.first", "Begin the bill") })
	// the quantity is typed while the price is being kept
	p.MustEval(`async () => {
		const field = (name) => document.getElementsByName(name)[0];
		const type = (name, text) => { field(name).focus(); field(name).value = text; field(name).dispatchEvent(new Event("change", { bubbles: true })); };
		type("lines.0.each", "19.40");
		await new Promise((done) => setTimeout(done, 0));
		type("lines.1.quantity", "5");
		field("lines.1.each").focus();
	}`)
	p.sees("#lines", "dearer than agreed by 6.00")
	p.sees("#lines", "1 billed that have not come")
	p.sees("#saved", "draft, kept")
	p.choose(`[data-then="missing"]`, "expect a credit note")
	p.sees("#lines", "expect a credit of")
	p.accessible()
	p.leave(p.ctrlEnter)
	p.sees("main", "owed, due")
	s.InStep(t)

	// part of it out of the drawer
	p.leave(func() { p.types("p") })
	p.MustElement("#from").MustSelect("out of the drawer of Register 1")
	p.fill("[data-amount]", "9999")
	p.ctrlEnter()
	p.sees("#form-error", "is open, not 9999")
	p.fill("[data-amount]", "40")
	p.keys(input.Tab)
	p.sees("#pay-sum", "£40.00")
	p.leave(p.ctrlEnter)
	p.sees("main", "Credit expected")

	// the credit note comes, one vest goes back
	p.fill(`.credit [name="number"]`, "CR-1")
	p.leave(func() { p.press(".credit .act", "It came") })
	p.sees("main", "No supplier owes us a credit note")
	p.open("/buying/back?supplier=1")
	p.scan(vest.Variants[0].SKU)
	p.sees("#said", "1 go back")
	p.leave(p.ctrlEnter)
	p.sees("h1", "Back to supplier BS-0001")
	s.InStep(t)

	// three fields of an order typed faster than they are kept
	_, err = buying.MakeOrder(deed.By(ctx, s.Shop, s.Maren, ""), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{
			{Variant: vest.Variants[0].ID, Quantity: "1", Price: "20"}, {Variant: vest.Variants[1].ID, Quantity: "1",
				Price: "20"}}})
	require.NoError(t, err)
	p.open("/buying/orders/2")
	p.MustElement(`[name="lines.1.quantity"]`)
	p.MustEval(`async () => {
		for (const [name, text] of [["lines.0.price", "21"], ["lines.0.quantity", "7"], ["lines.1.quantity", "9"]]) {
			const field = document.getElementsByName(name)[0];
			field.focus();
			field.value = text;
			field.dispatchEvent(new Event("change", { bubbles: true }));
			await new Promise((done) => setTimeout(done, 0));
		}
		document.getElementsByName("lines.1.price")[0].focus();
	}`)
	p.sees("#order-sums", "£300.84") // 7 × 19.32 and 9 × 18.40, by the supplier's 8 % less; drawn from what is kept
	_, lines, err = storebuying.ReadOrder(s.Store.Read(ctx), 2)
	require.NoError(t, err)
	assert.Equal(t, "21 7 9", lines[0].Price.String()+" "+lines[0].Quantity.String()+" "+lines[1].Quantity.String())

	// a list of suppliers is tried, then read in
	file := filepath.Join(t.TempDir(), "suppliers.csv")
	require.NoError(t, os.WriteFile(file, []byte("supplier,lead days\nKelpline Textiles,9\nМоре,4\n"), 0o600))
	p.open("/buying/suppliers")
	p.MustElement("#suppliers-file").MustSetFiles(file)
	p.sees("#suppliers-tried", "1 changed, 1 made")
	p.leave(func() { p.press("#suppliers-tried .act", "Read it in") })
	p.sees("main", "Море")

	// what a supplier sent as a file becomes a draft; what can't be read is said where it was chosen
	sent := func(name, text string) {
		path := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		p.MustElement("#sent-file").MustSetFiles(path)
	}
	p.open("/buying/bills/new")
	sent("bill.xml", "no XML at all")
	p.sees("#sent-error", "can't be read as a UBL 2.1 Invoice")
	p.open("/buying/new")
	p.MustElementR("summary", "Read it from their file").MustClick()
	advice := func(code string) string {
		return `<DespatchAdvice xmlns="urn:oasis:names:specification:ubl:schema:xsd:DespatchAdvice-2"><ID>LS-9</ID><DespatchLine><DeliveredQuantity>2</DeliveredQuantity>` +
			`<Item><StandardItemIdentification><ID>` + vest.Variants[1].Barcode +
			`</ID></StandardItemIdentification></Item></DespatchLine><DespatchLine>` +
			`<DeliveredQuantity>1</DeliveredQuantity><Item><BuyersItemIdentification><ID>` + code +
			`</ID></BuyersItemIdentification></Item></DespatchLine></DespatchAdvice>`
	}
	sent("advice.xml", advice("漢-1"))
	p.sees("#sent-error", "names no order of ours")
	p.choose("#supplier_id", "Kelpline Textiles")
	sent("advice.xml", advice("漢-1"))
	p.sees("#sent-said", "left out: 漢-1.")
	p.leave(func() { p.press("#sent-said a", "the draft") })
	p.sees("#lines", vest.Variants[1].SKU)
	p.sees("#saved", "kept")
}

// buyingPages keeps suppliers, orders and bills in every state, and returns the pages that
// show them.
func buyingPages(t *testing.T, s *testkit.Shop, variant uint64) []string {
	t.Helper()
	ctx := context.Background()
	terms := buying.SupplierInput{Name: "Northfold Neoprene", Discount: "8", Freight: "4", LeadDays: "14",
		DaysToPay: "30", MinimumOrder: "100", AccountNumber: "SPS-2207"}
	supplier, err := buying.SaveSupplier(deed.By(ctx, s.Shop, s.Maren, ""), 0, terms)
	require.NoError(t, err)
	order := func(quantity string, placed bool) uint64 {
		o, err := buying.MakeOrder(deed.By(ctx, s.Shop, s.Maren, ""), buying.OrderInput{Supplier: supplier.ID, Branch: 1,
			WantedOn: "2026-11-02", Note: "By the back door.",
			Lines: []buying.OrderLineInput{{Variant: variant, Quantity: quantity, Price: "14"}}})
		require.NoError(t, err)
		if placed {
			_, err = buying.PlaceOrder(deed.By(ctx, s.Shop, s.Maren, ""), o.ID)
			require.NoError(t, err)
		}
		return o.ID
	}
	draft, placed := order("6", false), order("9", true)
	came, err := buying.SaveDelivery(deed.By(ctx, s.Shop, s.Maren, ""), 0,
		buying.DeliveryInput{Branch: 1, BillLater: true, Orders: []uint64{placed},
			Lines: []scan.GoodsLine{{Variant: variant, Quantity: "4"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(deed.By(ctx, s.Shop, s.Maren, ""), came.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	more, err := buying.SaveDelivery(deed.By(ctx, s.Shop, s.Maren, ""), 0,
		buying.DeliveryInput{Branch: 1, Orders: []uint64{placed},
			Lines: []scan.GoodsLine{{Variant: variant, Quantity: "7"}}})
	require.NoError(t, err)
	bill, err := buying.SaveBill(deed.By(ctx, s.Shop, s.Maren, ""), 0,
		buying.BillInput{Supplier: supplier.ID, Number: "NN-1", Deliveries: []uint64{came.ID}, Freight: "5"})
	require.NoError(t, err)
	_, err = buying.SendBack(deed.By(ctx, s.Shop, s.Callum, ""), buying.SendBackInput{Supplier: supplier.ID,
		Lines: []buying.SendBackLine{{Variant: variant, Quantity: "1"}}})
	require.NoError(t, err)
	at := itoa(supplier.ID)
	return []string{"/buying/orders", "/buying/orders?state=late", "/buying/orders/new", "/buying/orders/" +
		itoa(draft), "/buying/orders/" + itoa(placed),
		"/buying/orders/" + itoa(placed) + "?change=1", "/buying/" + itoa(more.ID), "/buying/new?order=" +
			itoa(placed), "/buying/bills", "/buying/bills/new?supplier=" + at,
		"/buying/bills/new?carrier=1", "/buying/bills/" + itoa(bill.ID), "/buying/bills/1", "/buying/pay?supplier=" +
			at, "/buying/back?supplier=" + at, "/buying/suppliers",
		"/buying/suppliers/new", "/buying/suppliers/" + at, "/buying/suppliers/" + at + "/edit", "/buying/suppliers/" +
			at + "/catalog", "/buying/hand", "/labels?order=" + itoa(placed), "/buying/" + itoa(came.ID) + "/prices",
		"/documents/BS-0001",
		"/buying/back?condition=For+sale&quantity=1&variant=" + itoa(variant)}
}

// TestTheMainActIsTheOneThatIsSeen: Ctrl Enter does it with the caret wherever it is, the scan line included, and
// nothing that lies in something closed; labels of a ticked product are of all its variants.
func TestTheMainActIsTheOneThatIsSeen(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	o, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: 1, Branch: 1})
	require.NoError(t, err)
	_, err = buying.PutOrderLines(s.By(s.Maren), o.ID,
		[]buying.OrderLineInput{{Variant: made.Variants[0].ID, Quantity: "3",
			Price: "10"}})
	require.NoError(t, err)
	_, err = buying.PlaceOrder(s.By(s.Maren), o.ID)
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	for _, at := range []string{"#scan", "body"} {
		p.open("/buying/orders/" + itoa(o.ID))
		p.focus(at)
		p.ctrlEnter()
		time.Sleep(300 * time.Millisecond) // nothing is what is waited for
		mails, err := devices.Mails(s.Store.Read(t.Context()), 10)
		require.NoError(t, err)
		require.Empty(t, mails, "nothing is sent by what nobody sees, from %s", at)
	}
	p.open("/catalog/new")
	p.fill("#name", "Whistle")
	p.fill("#category", "Swim")
	p.fill("#price", "4")
	p.focus("#scan")
	p.leave(p.ctrlEnter)
	p.sees("h1", "Whistle")
	p.open("/catalog")
	p.MustElement("td.tick input").MustClick()
	p.leave(func() { p.MustElement("#bulk-labels").MustClick() })
	for _, v := range made.Variants {
		p.sees("main", v.SKU)
	}
}
