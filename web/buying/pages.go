package buying

import (
	"fmt"
	"html/template"
	"maps"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/staff"
	"itemrack/core/stock"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/store/till"
	"itemrack/web/kit"
)

func deliveries(c *kit.Call) error {
	columns := []kit.Column[storebuying.DeliveryView]{kit.Col("number",
		func(r storebuying.DeliveryView) any { return r.Number }),
		kit.Col("when", func(r storebuying.DeliveryView) any { return c.InZone(r.HappenedAt) }),
		kit.Col("supplier", func(r storebuying.DeliveryView) any { return r.Supplier }),
		kit.Col("their number", func(r storebuying.DeliveryView) any { return r.SupplierNumber }),
		kit.Col("to", func(r storebuying.DeliveryView) any { return r.Branch }),
		kit.Col("units", func(r storebuying.DeliveryView) any { return r.Units }),
		kit.CostCol("net", func(r storebuying.DeliveryView) any { return c.Amount(r.Net) }),
		kit.Col("by", func(r storebuying.DeliveryView) any { return r.By }),
		kit.Col("reversed", func(r storebuying.DeliveryView) any { return r.Reversed })}
	return kit.Listed(c, "deliveries", "Buying", "Deliveries", columns, storebuying.Deliveries,
		map[string]any{"Receives": c.Who.Can(staff.DeedReceive)})
}

func newDelivery(c *kit.Call) error {
	data, err := noDelivery(c)
	if err != nil {
		return err
	}
	if err := choices(c, data); err != nil {
		return err
	}
	return c.Page("delivery", "Buying", "New delivery", data)
}

// choices adds what can be chosen on the page of a delivery.
func choices(c *kit.Call, data map[string]any) error {
	var err error
	if data["Suppliers"], err = goods.Suppliers(c.Q()); err != nil {
		return err
	}
	if data["Branches"], err = office.Branches(c.Q()); err != nil {
		return err
	}
	if data["Classes"], err = prices.TaxClasses(c.Q()); err != nil {
		return err
	}
	if c.Who.Can(staff.DeedNewGoods) {
		if data["Categories"], err = goods.Categories(c.Q()); err != nil {
			return err
		}
	}
	data["Registers"], err = payable(c)
	return err
}

// payable are the registers out of whose drawers a person may pay.
func payable(c *kit.Call) ([]till.RegisterView, error) {
	if !c.Who.Can(staff.DeedPay) {
		return nil, nil
	}
	return till.Registers(c.Q())
}

// noDelivery is what is shown of a delivery that nothing is kept of yet: the orders of the
// supplier, or the order, that the address names.
func noDelivery(c *kit.Call) (map[string]any, error) {
	view := storebuying.DeliveryView{Delivery: storebuying.Delivery{BranchID: c.Who.Branch, Spread: "value",
		BillLater: !c.Who.Can(staff.DeedBill)}}
	supplier, order := fiber.Query[uint64](c.Ctx, "supplier"), fiber.Query[uint64](c.Ctx, "order")
	var chosen []uint64
	if order != 0 {
		o, _, err := storebuying.ReadOrder(c.Q(), order)
		if err != nil {
			return nil, err
		}
		supplier, chosen = o.SupplierID, []uint64{order}
		if c.Who.At(o.BranchID, "") == nil {
			view.BranchID = o.BranchID
		}
	}
	if supplier != 0 {
		view.SupplierID = &supplier
	}
	data := map[string]any{"D": view, "Lines": []lineView{}, "Totals": buying.Totals{}, "Shelves": []stock.Shelf{},
		"Costs": c.Who.Can(staff.DeedCosts)}
	return data, against(c, data, view, chosen, nil)
}

// openOrderView is an order that a delivery can be against.
type openOrderView struct {
	storebuying.OrderView
	Chosen bool
	Late   int
}

// waitingView is what is awaited and not in the delivery, or not all of it.
type waitingView struct {
	Item  goods.Sellable
	Short decimal.Decimal
	Of    decimal.Decimal
}

// against adds to what is shown of a delivery the orders it can be against, what each line
// has got of them, and what has not come.
func against(c *kit.Call, data map[string]any, view storebuying.DeliveryView, chosen []uint64, lines []lineView) error {
	var open []openOrderView
	if view.SupplierID != nil {
		list, _, err := storebuying.Orders(c.Q(), storebuying.OrderFilter{Supplier: *view.SupplierID, Open: true}, 1)
		if err != nil {
			return err
		}
		today := c.Terms.Day(c.Shop.Now())
		for _, o := range list {
			open = append(open, openOrderView{o, slices.Contains(chosen, o.ID),
				buying.DaysLate(o.State, o.WantedOn, today)})
		}
	}
	data["Open"], data["Chosen"] = open, len(chosen) > 0
	awaited, err := storebuying.LinesOfOrders(c.Q(), chosen)
	if err != nil || len(awaited) == 0 {
		return err
	}
	progress := map[uint64]buying.Progress{}
	var turn []uint64
	for _, a := range awaited {
		p, known := progress[a.VariantID]
		if !known {
			turn = append(turn, a.VariantID)
		}
		p.Outstanding = p.Outstanding.Add(a.Outstanding)
		progress[a.VariantID] = p
	}
	taken := 0
	for _, l := range lines {
		p, known := progress[l.VariantID]
		p.Got = p.Got.Add(l.Quantity)
		if known {
			progress[l.VariantID] = p
		}
		if l.How != buying.Counted {
			taken++
		}
	}
	for i := range lines {
		p, known := progress[lines[i].VariantID]
		if lines[i].Unordered = !known; known {
			lines[i].Progress = &p
		}
	}
	found := map[uint64]goods.Sellable{}
	for _, l := range lines {
		found[l.VariantID] = l.Item
	}
	missing := slices.DeleteFunc(slices.Clone(turn), func(v uint64) bool {
		return found[v].ID != 0 ||
			!progress[v].Short().IsPositive()
	})
	unread, err := goods.Sellables(c.Q(), missing, c.Shop.Now())
	maps.Copy(found, unread)
	var short []waitingView
	for _, v := range turn {
		if p := progress[v]; p.Short().IsPositive() {
			short = append(short, waitingView{found[v], p.Short(), p.Outstanding})
		}
	}
	data["Short"], data["Taken"] = short, taken
	return err
}

// lineView is a line of a delivery with names and what it comes to.
type lineView struct {
	storebuying.DeliveryLine
	Item   goods.Sellable
	Landed buying.Landed
	Expiry string
	Codes  string
	Each   string // what one costs, as it is typed; empty while it is not known
	All    string // what the line costs, where that was typed
	// Progress is what the delivery has got of these goods, nil without an order.
	Progress  *buying.Progress
	Unordered bool // there are orders, and these goods are on none
	// what stands in a long list of lines is written once, before it is drawn
	Full, Many, NetText, LandedText, GotText, GotLow, HowText string
	ShelfOptions                                              template.HTML
}

// write writes what a line says.
func (l *lineView) write(minor money.Minor, shelves []stock.Shelf) {
	whole := l.Item.Unit.Format
	l.Full, l.Many = l.Item.FullName(), whole(l.Quantity)
	l.NetText, l.LandedText = minor.Text(l.Landed.Net), l.Landed.UnitCost.StringFixed(shownPlaces)
	l.ShelfOptions = shelfOptions(shelves, deed.Deref(l.ShelfID))
	if l.Progress == nil {
		return
	}
	l.GotText, l.HowText = whole(l.Progress.Got)+" of "+whole(l.Progress.Outstanding), string(l.How)
	if over := l.Progress.Over(); over.IsPositive() {
		l.GotLow = whole(over) + " over"
	} else if short := l.Progress.Short(); short.IsPositive() {
		l.GotLow = whole(short) + " short"
	}
}

// shelfOptions are the shelves that goods can go to, the default one first.
func shelfOptions(shelves []stock.Shelf, chosen uint64) template.HTML {
	var all strings.Builder
	for _, s := range shelves {
		id, mark := s.ID, ""
		if s.Default {
			id = 0
		}
		if id == chosen || s.ID == chosen {
			mark = " selected"
		}
		fmt.Fprintf(&all, `<option value="%d"%s>%s</option>`, id, mark, template.HTMLEscapeString(s.Name))
	}
	return template.HTML(all.String()) //nolint:gosec // names are escaped
}

// Lotted and Numbered say what a line asks for besides quantity and cost.
func (l lineView) Lotted() bool { return l.Item.Tracking == stock.ByLot }

// Numbered reports whether the line's goods have serial numbers.
func (l lineView) Numbered() bool { return l.Item.Tracking == stock.BySerial }

func deliveryView(c *kit.Call) (map[string]any, storebuying.DeliveryView, error) {
	if c.Params("id") == "" {
		data, err := noDelivery(c)
		return data, storebuying.DeliveryView{}, err
	}
	id, err := c.Number("id")
	if err != nil {
		return nil, storebuying.DeliveryView{}, err
	}
	d, rows, err := storebuying.ReadDelivery(c.Q(), id)
	if err != nil {
		return nil, d, err
	}
	totals, err := shopbuying.DeliveryTotals(d.Delivery, rows, c.Terms.Minor())
	if err != nil {
		return nil, d, err
	}
	ids := make([]uint64, len(rows))
	for i, r := range rows {
		ids[i] = r.VariantID
	}
	found, err := goods.Sellables(c.Q(), ids, c.Shop.Now())
	if err != nil {
		return nil, d, err
	}
	lines := make([]lineView, len(rows))
	for i, r := range rows {
		lines[i] = lineView{
			DeliveryLine: r,
			Item:         found[r.VariantID],
			Landed:       totals.Lines[i],
			Codes:        strings.ReplaceAll(r.Serials, ",", ", "),
		}
		if r.Expiry != nil {
			lines[i].Expiry = r.Expiry.Format("02/01/2006")
		}
		if r.Cost != nil {
			lines[i].Each = kit.CostText(*r.Cost, c.Terms.Minor())
		}
		if r.Total != nil {
			lines[i].All = c.Terms.Minor().Text(*r.Total)
		}
	}
	chosen, err := storebuying.OrdersOf(c.Q(), id)
	if err != nil {
		return nil, d, err
	}
	shelves, err := book.ShelvesOf(c.Q(), d.BranchID)
	if err != nil {
		return nil, d, err
	}
	data := map[string]any{"D": d, "Lines": lines, "Totals": totals, "Shelves": shelves,
		"Costs": c.Who.Can(staff.DeedCosts)}
	if err := against(c, data, d, chosen, lines); err != nil {
		return nil, d, err
	}
	for i := range lines {
		lines[i].write(c.Terms.Minor(), shelves)
	}
	return data, d, nil
}

func delivery(c *kit.Call) error {
	data, d, err := deliveryView(c)
	if err != nil {
		return err
	}
	if d.DocumentID != nil || !c.Who.Can(staff.DeedReceive) {
		if d.Number != "" {
			return c.Redirect().To("/documents/" + d.Number)
		}
		return fault.Missing("delivery", d.ID, "That delivery is still a draft.")
	}
	if err := choices(c, data); err != nil {
		return err
	}
	title := "Delivery"
	if d.Supplier != "" {
		title += " from " + d.Supplier
	}
	return c.Page("delivery", "Buying", title, data)
}

func deliveryLines(c *kit.Call) error {
	data, _, err := deliveryView(c)
	if err != nil {
		return err
	}
	return c.Fragment("delivery_lines", data)
}

// deliveryRack is the rack on which the quantities of one product are typed.
func deliveryRack(c *kit.Call) error {
	id, err := c.Number("product")
	if err != nil {
		return err
	}
	data, _, err := deliveryView(c)
	if err != nil {
		return err
	}
	p, err := goods.ReadProduct(c.Q(), id, c.Who.Branch, c.Shop.Now())
	if err != nil {
		return err
	}
	got := map[uint64]decimal.Decimal{}
	for _, l := range data["Lines"].([]lineView) {
		got[l.VariantID] = got[l.VariantID].Add(l.Quantity)
	}
	rack := kit.Hang(p, kit.RackNumber, "delivered", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Hint: "0", Note: p.UnitOf.Format(v.OnHand) + " now"}
		if q, ok := got[v.ID]; ok {
			cell.Value = p.UnitOf.Format(q)
		}
		return cell, got[v.ID]
	})
	rack.Dense = true
	last := ""
	variants := make([]uint64, len(p.Variants))
	for i, v := range p.Variants {
		variants[i] = v.ID
		if !v.LastCost.IsZero() && last == "" {
			last = kit.CostText(v.LastCost, c.Terms.Minor())
		}
	}
	typed, err := storebuying.LastTyped(c.Q(), variants, data["D"].(storebuying.DeliveryView).CostsIncludeTax)
	if err != nil {
		return err
	}
	for _, id := range variants {
		if before, ok := typed[id]; ok {
			last = kit.CostText(before, c.Terms.Minor())
			break
		}
	}
	return c.Fragment("delivery_rack", map[string]any{"P": p, "Rack": rack, "Cost": last,
		"Costs": c.Who.Can(staff.DeedCosts)})
}
