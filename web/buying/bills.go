package buying

import (
	"slices"
	"strconv"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/paper"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/store/till"
	"itemrack/web/kit"
)

// billRow is a bill in a list, with how old what is owed on it is.
type billRow struct {
	storebuying.BillView
	Age buying.Age
}

func billFilter(c *kit.Call) storebuying.BillFilter {
	f := storebuying.BillFilter{Supplier: fiber.Query[uint64](c.Ctx, "supplier")}
	switch c.Query("state", "owed") {
	case "owed":
		f.Owed = true
	case "drafts":
		f.Drafts = true
	}
	return f
}

// ageRow is what is owed of one age.
type ageRow struct {
	Age  buying.Age      `json:"age"`
	Open decimal.Decimal `json:"open" see:"costs"`
}

// owedRow is what is owed to one supplier, by age.
type owedRow struct {
	SupplierID uint64          `json:"supplier_id"`
	Supplier   string          `json:"supplier"`
	Open       decimal.Decimal `json:"open" see:"costs"`
	Ages       []ageRow        `json:"ages"`
}

// owedBy adds up what is owed to each supplier by age, and in all.
func owedBy(c *kit.Call, supplier uint64) ([]owedRow, owedRow, error) {
	rows, err := storebuying.Owed(c.Q(), supplier)
	if err != nil {
		return nil, owedRow{}, err
	}
	blank := func(id uint64, name string) owedRow {
		r := owedRow{SupplierID: id, Supplier: name}
		for _, age := range buying.Ages {
			r.Ages = append(r.Ages, ageRow{Age: age})
		}
		return r
	}
	today := c.Terms.Day(c.Shop.Now())
	all := blank(0, "")
	list := []owedRow{}
	for _, r := range rows {
		if len(list) == 0 || list[len(list)-1].SupplierID != r.SupplierID {
			list = append(list, blank(r.SupplierID, r.Supplier))
		}
		at := slices.Index(buying.Ages, buying.AgeOf(r.DueOn, today))
		for _, sum := range []*owedRow{&all, &list[len(list)-1]} {
			sum.Open = sum.Open.Add(r.Open)
			sum.Ages[at].Open = sum.Ages[at].Open.Add(r.Open)
		}
	}
	return list, all, nil
}

func bills(c *kit.Call) error {
	f := billFilter(c)
	columns := []kit.Column[billRow]{kit.Col("number", func(r billRow) any { return r.Name() }),
		kit.Col("kind", func(r billRow) any { return r.Kind }),
		kit.Col("supplier", func(r billRow) any { return r.Supplier }),
		kit.Col("of", func(r billRow) any { return r.BilledOn }),
		kit.Col("due", func(r billRow) any { return r.DueOn }),
		kit.Col("age", func(r billRow) any { return string(r.Age) }),
		kit.CostCol("net", func(r billRow) any { return c.Amount(r.Net) }),
		kit.CostCol("tax", func(r billRow) any { return c.Amount(r.Tax) }),
		kit.CostCol("in all", func(r billRow) any { return c.Amount(r.Gross) }),
		kit.CostCol("owed", func(r billRow) any { return c.Amount(r.Open) }),
		kit.Col("document", func(r billRow) any { return r.Document })}
	read := func(q store.Q, page int) ([]billRow, bool, error) {
		rows, more, err := storebuying.Bills(q, f, page)
		today := c.Terms.Day(c.Shop.Now())
		list := make([]billRow, len(rows))
		for i, r := range rows {
			list[i] = billRow{BillView: r}
			if !r.Open.IsZero() {
				list[i].Age = buying.AgeOf(r.DueOn, today)
			}
		}
		return list, more, err
	}
	if c.Query("format") != "" {
		return kit.Listed(c, "bills", "Buying", "Bills", columns, read, map[string]any{})
	}
	owed, all, err := owedBy(c, 0)
	if err != nil {
		return err
	}
	unbilled, err := storebuying.Unbilled(c.Q(), 0)
	if err != nil {
		return err
	}
	credits, err := storebuying.Credits(c.Q(), 0)
	if err != nil {
		return err
	}
	suppliers, err := goods.Suppliers(c.Q())
	if err != nil {
		return err
	}
	return kit.Listed(c, "bills", "Buying", "Bills", columns, read,
		map[string]any{"Owed": owed, "All": all, "Unbilled": unbilled, "Credits": credits,
			"Suppliers": suppliers, "Filter": f, "State": c.Query("state",
				"owed"), "Bills": c.Who.Can(staff.DeedBill), "Pays": c.Who.Can(staff.DeedPay),
			"Filtered": kept(c, "state", "supplier")})
}

func newBill(c *kit.Call) error {
	suppliers, err := goods.Suppliers(c.Q())
	if err != nil {
		return err
	}
	supplier := fiber.Query[uint64](c.Ctx, "supplier")
	delivery := fiber.Query[uint64](c.Ctx, "delivery")
	if delivery != 0 {
		view, _, err := storebuying.ReadDelivery(c.Q(), delivery)
		if err != nil {
			return err
		}
		supplier = deed.Deref(view.SupplierID)
	}
	data := map[string]any{"Suppliers": suppliers, "Supplier": supplier, "Delivery": delivery,
		"Carrier": c.Query("carrier") != ""}
	if supplier != 0 {
		if data["Unbilled"], err = storebuying.Unbilled(c.Q(), supplier); err != nil {
			return err
		}
	}
	if c.Query("carrier") != "" {
		deliveries, _, err := storebuying.Deliveries(c.Q(), 1)
		if err != nil {
			return err
		}
		data["Unbilled"] = slices.DeleteFunc(deliveries,
			func(d storebuying.DeliveryView) bool { return d.DocumentID == nil || d.Reversed })
	}
	return c.Page("bill_new", "Buying", "New bill", data)
}

// billLineView is a line of a bill beside what was ordered and what came.
type billLineView struct {
	storebuying.BillLine
	Name, Label, Unit string
	Delivery          string
	Ordered           decimal.Decimal
	Arrived           decimal.Decimal
	Agreed            string // of a unit
	Each              string
	Billed            buying.BilledLine
	Unequal           bool
	// what stands in a long list of lines is written once, before it is drawn
	Full, Many, NetText, CameText, OrderedText, OfDelivery, OfOrder string
}

// billPage is all that the page of a bill shows.
type billPage struct {
	B          storebuying.BillView
	Lines      []billLineView
	Deliveries []uint64
	Numbers    []string
	Billed     buying.Billed
	Wrong      string // why it can't be posted
	Unequal    int
	Classes    any
	Payments   []storebuying.PaymentView
	Owed       owedRow
	Age        buying.Age
	Edits      bool
	Pays       bool
	Postings   []stock.Posting
}

// reference writes what a line refers to; empty for nothing.
func reference(id *uint64) string {
	if id == nil {
		return ""
	}
	return strconv.FormatUint(*id, 10)
}

// shownPlaces are the decimals with which a unit cost is shown beside others.
const shownPlaces = 4

func readBillPage(c *kit.Call) (billPage, error) {
	var p billPage
	id, err := c.Number("id")
	if err != nil {
		return p, err
	}
	b, lines, deliveries, err := storebuying.ReadBill(c.Q(), id)
	if err != nil {
		return p, err
	}
	p.B, p.Deliveries = b, deliveries
	p.Edits, p.Pays = b.DocumentID == nil && c.Who.Can(staff.DeedBill), c.Who.Can(staff.DeedPay)
	var ids, variants []uint64
	for _, l := range lines {
		variants = append(variants, l.VariantID)
		if l.DeliveryLineID != nil {
			ids = append(ids, *l.DeliveryLineID)
		}
	}
	of, err := storebuying.LinesToBill(c.Q(), ids)
	if err != nil {
		return p, err
	}
	minor := c.Terms.Minor()
	if b.DocumentID == nil {
		p.Billed, err = shopbuying.BillTotals(b.Bill, lines, of, minor)
		if refused := fault.Of(err); refused != nil {
			p.Wrong = refused.Detail
		} else if err != nil {
			return p, err
		}
	}
	found, err := goods.Sellables(c.Q(), variants, c.Shop.Now())
	if err != nil {
		return p, err
	}
	var ordered []uint64
	for _, l := range lines {
		if l.DeliveryLineID == nil && l.OrderLineID != nil {
			ordered = append(ordered, *l.OrderLineID)
		}
	}
	awaited, err := storebuying.OrderLinesByID(c.Q(), ordered)
	if err != nil {
		return p, err
	}
	came := map[uint64]storebuying.ToBill{}
	for _, row := range of {
		came[row.ID] = row
	}
	for i, l := range lines {
		item := found[l.VariantID]
		v := billLineView{BillLine: l, Name: item.Name, Label: item.Label, Unit: item.Unit.Code,
			Each: kit.CostText(l.Net.DivRound(l.Quantity, shownPlaces), minor)}
		if row, ok := came[deed.Deref(l.DeliveryLineID)]; ok {
			v.Delivery, v.Ordered, v.Arrived = row.Number, row.Ordered, row.Quantity
			if row.Cost != nil {
				v.Agreed = kit.CostText(row.Cost.Round(shownPlaces), minor)
			}
			if !slices.Contains(p.Numbers, v.Delivery) {
				p.Numbers = append(p.Numbers, v.Delivery)
			}
		} else if row, ok := awaited[deed.Deref(l.OrderLineID)]; ok { // goods that have not come
			v.Ordered, v.Agreed = row.Quantity, kit.CostText(row.Figures().UnitCost(minor).Round(shownPlaces), minor)
		}
		if b.DocumentID == nil {
			v.Billed = p.Billed.Lines[i]
			v.Unequal = !v.Billed.Differs.IsZero() || v.Billed.MissingNet.IsPositive() ||
				v.Billed.Credit.IsPositive() || v.Billed.Left.IsPositive()
		}
		if v.Unequal {
			p.Unequal++
		}
		whole := item.Unit.Format
		v.Full, v.Many, v.NetText, v.CameText, v.OrderedText = item.FullName(), whole(l.Quantity),
			l.Net.StringFixed(minor.Places()), whole(v.Arrived), "–"
		if v.Ordered.IsPositive() {
			v.OrderedText = whole(v.Ordered)
		}
		v.OfDelivery, v.OfOrder = reference(l.DeliveryLineID), reference(l.OrderLineID)
		p.Lines = append(p.Lines, v)
	}
	return p, nil
}

func bill(c *kit.Call) error {
	p, err := readBillPage(c)
	if err != nil {
		return err
	}
	if p.Classes, err = prices.TaxClasses(c.Q()); err != nil {
		return err
	}
	if p.Payments, err = storebuying.PaymentsFor(c.Q(), p.B.ID); err != nil {
		return err
	}
	if p.B.DocumentID != nil {
		if p.Postings, err = book.Postings(c.Q(), *p.B.DocumentID); err != nil {
			return err
		}
	}
	owed, _, err := owedBy(c, p.B.SupplierID)
	if err != nil {
		return err
	}
	if len(owed) > 0 {
		p.Owed = owed[0]
	}
	p.Age = buying.AgeOf(p.B.DueOn, c.Terms.Day(c.Shop.Now()))
	title := "Bill"
	if p.B.Kind == storebuying.KindCreditNote {
		title = "Credit note"
	}
	return c.Page("bill", "Buying", title+" "+p.B.Name(), p)
}

func billLines(c *kit.Call) error {
	p, err := readBillPage(c)
	if err != nil {
		return err
	}
	return c.Fragment("bill_lines", p)
}

// payPage is the page on which bills of a supplier are paid.
func payPage(c *kit.Call) error {
	supplier, contacts, err := goods.ReadSupplier(c.Q(), fiber.Query[uint64](c.Ctx, "supplier"))
	if err != nil {
		return err
	}
	list, _, err := storebuying.Bills(c.Q().Long(), storebuying.BillFilter{Supplier: supplier.ID, Owed: true}, 1)
	if err != nil {
		return err
	}
	registers, err := till.Registers(c.Q())
	if err != nil {
		return err
	}
	today := c.Terms.Day(c.Shop.Now())
	rows := make([]billRow, len(list))
	for i, b := range list {
		rows[i] = billRow{b, buying.AgeOf(b.DueOn, today)}
	}
	return c.Page("pay", "Buying", "Pay "+supplier.Name, map[string]any{"S": supplier, "Contacts": contacts,
		"Rows": rows, "Registers": registers,
		"Bill": fiber.Query[uint64](c.Ctx, "bill"), "Today": today})
}

// sendBackPage is the page on which goods are sent back; the address may name what goes.
func sendBackPage(c *kit.Call) error {
	suppliers, err := goods.Suppliers(c.Q())
	if err != nil {
		return err
	}
	conditions, err := office.OpenConditions(c.Q())
	if err != nil {
		return err
	}
	data := map[string]any{"Suppliers": suppliers, "Supplier": fiber.Query[uint64](c.Ctx, "supplier"),
		"Conditions": conditions,
		"Branch":     fiber.Query(c.Ctx, "branch", c.Who.Branch), "First": nil}
	if id := fiber.Query[uint64](c.Ctx, "variant"); id != 0 {
		found, err := goods.Sellables(c.Q(), []uint64{id}, c.Shop.Now())
		if err != nil {
			return err
		}
		if v := found[id]; v.ID != 0 {
			data["First"] = map[string]any{"variant_id": id, "name": v.FullName(),
				"quantity": c.Query("quantity", "1"), "condition": c.Query("condition"),
				"serials": c.Query("serials"), "lot_id": fiber.Query[uint64](c.Ctx, "lot")}
			if data["Supplier"] == uint64(0) {
				p, err := goods.ReadProduct(c.Q(), v.ProductID, c.Who.Branch, c.Shop.Now())
				if err != nil {
					return err
				}
				data["Supplier"] = deed.Deref(p.SupplierID)
			}
		}
	}
	return c.Page("send_back", "Buying", "Back to supplier", data)
}

// backSlip sends the slip of goods that went back.
func backSlip(c *kit.Call) error {
	number := c.Text("number")
	page, err := shopbuying.BackSlip(c.Until, c.Shop, number)
	if err != nil {
		return err
	}
	data, err := device.PDF("Back to supplier "+number, []paper.Page{page})
	if err != nil {
		return err
	}
	return c.Pdf(number+".pdf", data)
}
