package buying

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/staff"
	"itemrack/device"
	"itemrack/sheet"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/web/kit"
)

// soldDays is for how many days back what was sold is told beside what to order.
const soldDays = 30

// orderFilter reads which orders are asked for.
func orderFilter(c *kit.Call) (storebuying.OrderFilter, error) {
	f := storebuying.OrderFilter{Supplier: fiber.Query[uint64](c.Ctx, "supplier")}
	switch state := c.Query("state"); state {
	case "open":
		f.Open = true
	case "late":
		today := c.Terms.Day(c.Shop.Now())
		f.LateOn = &today
	default:
		var err error
		if f.State, err = buying.ParseState(state); err != nil {
			return f, err
		}
	}
	return f, nil
}

// orderRow is an order in a list, with for how many days it is late.
type orderRow struct {
	storebuying.OrderView
	Late int
}

func orders(c *kit.Call) error {
	f, err := orderFilter(c)
	if err != nil {
		return err
	}
	today := c.Terms.Day(c.Shop.Now())
	columns := []kit.Column[orderRow]{kit.Col("number", func(r orderRow) any { return r.Number }),
		kit.Col("supplier", func(r orderRow) any { return r.Supplier }),
		kit.Col("state", func(r orderRow) any { return string(r.State) }),
		kit.Col("made", func(r orderRow) any { return c.InZone(&r.CreatedAt) }),
		kit.Col("wanted", func(r orderRow) any {
			if r.WantedOn == nil {
				return nil
			}
			return *r.WantedOn
		}),
		kit.Col("days late", func(r orderRow) any { return r.Late }),
		kit.Col("to", func(r orderRow) any { return r.Branch }),
		kit.Col("units", func(r orderRow) any { return r.Units }),
		kit.Col("to come", func(r orderRow) any { return r.ToCome }),
		kit.CostCol("net", func(r orderRow) any { return c.Amount(r.Net) }),
		kit.Col("by", func(r orderRow) any { return r.By })}
	suppliers, err := goods.Suppliers(c.Q())
	if err != nil {
		return err
	}
	return kit.Listed(c, "orders", "Buying", "Orders", columns, func(q store.Q, page int) ([]orderRow, bool, error) {
		rows, more, err := storebuying.Orders(q, f, page)
		list := make([]orderRow, len(rows))
		for i, r := range rows {
			list[i] = orderRow{r, buying.DaysLate(r.State, r.WantedOn, today)}
		}
		return list, more, err
	}, map[string]any{"Suppliers": suppliers, "Filter": f, "State": c.Query("state"), "States": buying.States,
		"Orders": c.Who.Can(staff.DeedOrder), "Filtered": kept(c, "state", "supplier")})
}

// kept are the parts of the address that narrow a list, for the links to its files.
func kept(c *kit.Call, names ...string) string {
	query := ""
	for _, name := range names {
		if value := c.Query(name); value != "" {
			query += name + "=" + url.QueryEscape(value) + "&"
		}
	}
	return query
}

// orderLineView is a line of an order with what there is to know about it.
type orderLineView struct {
	storebuying.OrderLine
	Item    goods.Sellable
	F       buying.Ordered
	Net     decimal.Decimal
	Unit    decimal.Decimal
	Landed  decimal.Decimal
	Asked   string // price of a pack as it is typed; empty while it is not known
	Packing string // "4 boxes of 12 and 3"
	// what stands in a long list of lines is written once, before it is drawn
	Full, Many, NetText, LandedText, Off, HereText, Of, Rev string
}

// orderPage is all that the page of an order shows: of a long one a part of its lines.
type orderPage struct {
	O         storebuying.OrderView
	All       []storebuying.OrderLine
	Lines     []orderLineView
	Pager     any
	At        int // the page of lines that is shown
	Totals    buying.OrderTotals
	Supplier  goods.Supplier
	Contacts  []goods.SupplierContact
	Events    []storebuying.OrderEvent
	Late      int
	Racks     []orderRack
	Loose     []orderLineView // lines that hang on no rack
	Edits     bool            // lines can be typed
	Orders    bool            // the person may order
	Costs     bool            // and see costs
	Receives  bool
	Open      bool
	Changed   bool // since it was sent
	Filled    int  // percent of the value that is here
	Least     int  // percent of the bar at which the minimum order stands
	Products  []goods.SupplierProduct
	Branches  []office.Branch
	CanChange bool
}

// orderRack is the rack of one product of an order.
type orderRack struct {
	Name  string
	Note  string
	Here  decimal.Decimal
	Of    decimal.Decimal
	Rack  kit.RackView
	First uint64
}

// mostRacks is how many products of an order hang on racks; the others are lines.
const mostRacks = 8

// linesAPage is how many lines of an order are shown at once.
const linesAPage = 100

// shown are the lines of an order that a page shows: those of the page that is asked for, or of the one
// that goods are on.
func (p *orderPage) shown(c *kit.Call) []storebuying.OrderLine {
	p.At = c.PageNumber()
	if on := fiber.Query[uint64](c.Ctx, "on"); on != 0 {
		if i := slices.IndexFunc(p.All, func(l storebuying.OrderLine) bool { return l.VariantID == on }); i >= 0 {
			p.At = i/linesAPage + 1
		}
	}
	p.At = min(p.At, max(1, (len(p.All)+linesAPage-1)/linesAPage))
	from := (p.At - 1) * linesAPage
	p.Pager = c.PagerAt(p.At, len(p.All) > from+linesAPage)
	return p.All[from:min(len(p.All), from+linesAPage)]
}

// readOrderPage reads an order with a part of its lines: those that choose returns.
func readOrderPage(c *kit.Call, choose func(p *orderPage) []storebuying.OrderLine) (orderPage, error) {
	var p orderPage
	id, err := c.Number("id")
	if err != nil {
		return p, err
	}
	o, lines, err := storebuying.ReadOrder(c.Q(), id)
	if err != nil {
		return p, err
	}
	p.O, p.All = o, lines
	if p.Supplier, p.Contacts, err = goods.ReadSupplier(c.Q(), o.SupplierID); err != nil {
		return p, err
	}
	if p.Lines, err = p.look(c, choose(&p)); err != nil {
		return p, err
	}
	minor := c.Terms.Minor()
	p.Totals = buying.OrderOf(p.Supplier.SupplierTerms, storebuying.FiguresOf(lines), minor)
	p.Costs = c.Who.Can(staff.DeedCosts)
	p.Orders, p.Receives = c.Who.Can(staff.DeedOrder), c.Who.Can(staff.DeedReceive)
	p.Open = o.State.Open()
	p.Changed = o.SentAt != nil && o.ChangedAt != nil && o.ChangedAt.After(*o.SentAt)
	p.CanChange = p.Orders && (o.PlacedAt == nil || p.Open)
	p.Edits = p.CanChange && (o.PlacedAt == nil || c.Query("change") != "")
	p.Late = buying.DaysLate(o.State, o.WantedOn, c.Terms.Day(c.Shop.Now()))
	p.bar()
	return p, nil
}

// look reads what there is to know about some lines.
func (p *orderPage) look(c *kit.Call, lines []storebuying.OrderLine) ([]orderLineView, error) {
	ids := make([]uint64, len(lines))
	for i, l := range lines {
		ids[i] = l.VariantID
	}
	found, err := goods.Sellables(c.Q(), ids, c.Shop.Now())
	if err != nil {
		return nil, err
	}
	minor := c.Terms.Minor()
	views := make([]orderLineView, 0, len(lines))
	for _, l := range lines {
		f := l.Figures()
		v := orderLineView{OrderLine: l, Item: found[l.VariantID], F: f, Net: f.Net(minor), Unit: f.UnitCost(minor),
			Landed: f.ExpectedLanded(p.Supplier.SupplierTerms, minor), Packing: packing(l, found[l.VariantID])}
		if l.Price != nil {
			v.Asked = kit.CostText(*l.Price, minor)
		}
		v.Full, v.Many = v.Item.FullName(), v.Item.Unit.Format(l.Quantity)
		v.NetText, v.LandedText, v.Off = minor.Text(v.Net), v.Landed.StringFixed(shownPlaces), l.Discount.String()
		v.Of, v.Rev = strconv.FormatUint(l.VariantID, 10), strconv.FormatUint(l.Revision, 10)
		if !l.Arrived.IsZero() {
			v.HereText = v.Item.Unit.Format(l.Arrived)
		}
		views = append(views, v)
	}
	return views, nil
}

// packing writes a line in packs: "4 × box of 12 and 3".
func packing(l storebuying.OrderLine, v goods.Sellable) string {
	if l.Pack == "" || l.Factor.Equal(decimal.New(1, 0)) {
		return ""
	}
	packs, loose := l.Figures().Packs()
	text := packs.String() + " × " + l.Pack
	if packs.IsZero() {
		text = ""
	}
	if loose.IsPositive() {
		text = strings.TrimPrefix(text+" and "+v.Unit.Format(loose)+" loose", " and ")
	}
	return text
}

// bar works out how far the bar below an order is filled, and where the minimum stands.
func (p *orderPage) bar() {
	most := decimal.Max(p.Totals.Net, p.Supplier.MinimumOrder)
	if !most.IsPositive() {
		return
	}
	percent := func(d decimal.Decimal) int { return int(d.Mul(decimal.New(100, 0)).DivRound(most, 0).IntPart()) }
	p.Filled, p.Least = percent(p.Totals.NetHere), percent(p.Supplier.MinimumOrder)
	if p.O.PlacedAt == nil {
		p.Filled = percent(p.Totals.Net)
	}
}

func order(c *kit.Call) error {
	p, err := readOrderPage(c, func(p *orderPage) []storebuying.OrderLine { return p.shown(c) })
	if err != nil {
		return err
	}
	if p.Events, err = storebuying.OrderEvents(c.Q(), p.O.ID); err != nil {
		return err
	}
	if p.Edits {
		if p.Branches, err = office.Branches(c.Q()); err != nil {
			return err
		}
		if p.Products, err = goods.ProductsOfSupplier(c.Q(), p.O.SupplierID, 200); err != nil {
			return err
		}
	} else if err := p.hang(c); err != nil {
		return err
	}
	return c.Page("order", "Buying", "Order "+p.O.Number, p)
}

// hang puts the products of the order that vary on racks, in outline; what is here fills
// them.
func (p *orderPage) hang(c *kit.Call) error {
	byProduct := map[uint64][]orderLineView{}
	var turn []uint64
	for _, l := range p.Lines {
		if byProduct[l.Item.ProductID] == nil {
			turn = append(turn, l.Item.ProductID)
		}
		byProduct[l.Item.ProductID] = append(byProduct[l.Item.ProductID], l)
	}
	var racked []uint64
	for _, id := range turn {
		if byProduct[id][0].Item.Label == "" || len(racked) == mostRacks || p.At > 1 {
			p.Loose = append(p.Loose, byProduct[id]...)
			continue
		}
		racked = append(racked, id)
	}
	products, err := goods.ProductViews(c.Q(), racked, p.O.BranchID, c.Shop.Now())
	if err != nil {
		return err
	}
	var theirs []storebuying.OrderLine // those on other pages of lines, too
	for _, product := range products {
		theirs = append(theirs, p.of(*product)...)
	}
	lines, err := p.look(c, theirs)
	if err != nil {
		return err
	}
	for _, product := range products {
		its := slices.DeleteFunc(slices.Clone(lines),
			func(l orderLineView) bool { return l.Item.ProductID != product.ID })
		p.Racks = append(p.Racks, rackOf(c, *product, its))
	}
	return nil
}

// of are the lines of an order that are of a product.
func (p *orderPage) of(product goods.ProductView) []storebuying.OrderLine {
	its := map[uint64]bool{}
	for _, v := range product.Variants {
		its[v.ID] = true
	}
	return slices.DeleteFunc(slices.Clone(p.All), func(l storebuying.OrderLine) bool { return !its[l.VariantID] })
}

// rackOf hangs the lines of one product.
func rackOf(c *kit.Call, product goods.ProductView, lines []orderLineView) orderRack {
	r := orderRack{Name: product.Name}
	whole := product.UnitOf.Format
	at := map[uint64]orderLineView{}
	same := true
	for _, l := range lines {
		at[l.VariantID] = l
		r.Here, r.Of = r.Here.Add(l.Arrived), r.Of.Add(l.Quantity)
		same = same && l.Unit.Equal(lines[0].Unit)
	}
	if same && c.Who.Can(staff.DeedCosts) && lines[0].Price != nil {
		r.Note = kit.CostText(lines[0].Unit, c.Terms.Minor()) + " each"
		if lines[0].Discount.IsPositive() {
			r.Note = fmt.Sprintf("%s less %s %% = %s", lines[0].Asked, lines[0].Discount, r.Note)
		}
	}
	r.Rack = kit.Hang(product, kit.RackLook, "here of ordered",
		func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
			l, ok := at[v.ID]
			if !ok {
				return kit.CellView{Off: true, Figure: "–", Note: "not ordered"}, decimal.Zero
			}
			if r.First == 0 {
				r.First = v.ID
			}
			cell := kit.CellView{Figure: whole(l.Arrived), Note: "of " + whole(l.Quantity), Outline: true}
			if l.Quantity.IsPositive() {
				cell.Filled = int(decimal.Min(decimal.New(100, 0),
					l.Arrived.Mul(decimal.New(100, 0)).DivRound(l.Quantity, 0)).IntPart())
			}
			switch {
			case l.F.Over().IsPositive():
				cell.Under = whole(l.F.Over()) + " over"
			case l.CalledOff.IsPositive():
				cell.Under = whole(l.CalledOff) + " called off"
			}
			return cell, l.Arrived
		})
	r.Rack.Dense = true
	r.Rack.Tell(func(variants []uint64) string {
		here, of := decimal.Zero, decimal.Zero
		for _, v := range variants {
			here, of = here.Add(at[v].Arrived), of.Add(at[v].Quantity)
		}
		return whole(here) + " of " + whole(of)
	})
	return r
}

// orderLines is the part of the page with the lines that are typed.
func orderLines(c *kit.Call) error {
	p, err := readOrderPage(c, func(p *orderPage) []storebuying.OrderLine { return p.shown(c) })
	if err != nil {
		return err
	}
	return c.Fragment("order_lines", p)
}

// orderSums is the part of the page with what the order comes to.
func orderSums(c *kit.Call) error {
	p, err := readOrderPage(c, func(*orderPage) []storebuying.OrderLine { return nil })
	if err != nil {
		return err
	}
	return c.Fragment("order_sums", p)
}

// orderRackOf is the rack on which what to order of one product is typed.
func orderRackOf(c *kit.Call) error {
	id, err := c.Number("product")
	if err != nil {
		return err
	}
	var product goods.ProductView
	var missing error
	p, err := readOrderPage(c, func(p *orderPage) []storebuying.OrderLine {
		product, missing = goods.ReadProduct(c.Q(), id, p.O.BranchID, c.Shop.Now())
		return p.of(product)
	})
	if err = errors.Join(err, missing); err != nil {
		return err
	}
	variants := kit.VariantsOf(product)
	sold, err := storebuying.SoldSince(c.Q(), variants, c.Shop.Now().AddDate(0, 0, -soldDays))
	if err != nil {
		return err
	}
	coming, err := storebuying.OnOrder(c.Q(), variants, p.O.BranchID)
	if err != nil {
		return err
	}
	before, err := shopbuying.Quoted(c.Q(), p.Supplier, variants, c.Terms.Day(c.Shop.Now()))
	if err != nil {
		return err
	}
	at := map[uint64]orderLineView{}
	for _, l := range p.Lines {
		at[l.VariantID] = l
	}
	whole := product.UnitOf.Format
	rack := kit.Hang(product, kit.RackNumber, "to order", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Hint: "0", Note: whole(v.OnHand) + " here", Low: v.Low}
		if n := coming[v.ID].Sub(at[v.ID].Outstanding); n.IsPositive() {
			cell.Note += " +" + whole(n)
		}
		if n := sold[v.ID]; n.IsPositive() {
			cell.Note += " · " + whole(n)
		}
		if v.Retired {
			cell.Off, cell.Hint = true, "selling out"
		}
		if l, ok := at[v.ID]; ok {
			cell.Value = whole(l.Quantity)
		}
		return cell, at[v.ID].Quantity
	})
	rack.Dense = true
	revisions := map[uint64]uint64{}
	for _, l := range p.Lines {
		revisions[l.VariantID] = l.Revision
	}
	view := map[string]any{"P": product, "Rack": rack, "Page": p, "Revisions": revisions, "Price": "",
		"Discount": kit.FigureText(&p.Supplier.Discount), "Days": soldDays, "Paid": ""}
	for _, v := range variants {
		if l, ok := at[v]; ok {
			view["Price"], view["Discount"] = l.Asked, l.Discount.String()
			break
		}
		if b, ok := before[v]; ok && view["Paid"] == "" {
			view["Paid"] = kit.CostText(number.OrZero(b.Price), c.Terms.Minor())
			view["Discount"], view["Of"] = b.Discount.String(), b.Pack
		}
	}
	return c.Fragment("order_rack", view)
}

// orderTag is the swing tag of a line of an order.
func orderTag(c *kit.Call) error {
	variant, err := c.Number("variant")
	if err != nil {
		return err
	}
	p, err := readOrderPage(c, func(p *orderPage) []storebuying.OrderLine {
		at := slices.IndexFunc(p.All, func(l storebuying.OrderLine) bool { return l.VariantID == variant })
		return p.All[max(at, 0) : at+1]
	})
	if err != nil {
		return err
	}
	at := slices.IndexFunc(p.Lines, func(l orderLineView) bool { return l.VariantID == variant })
	if at < 0 {
		return fault.Missing("variant", variant, "That is not in the order.")
	}
	l := p.Lines[at]
	history, err := storebuying.AskedBefore(c.Q(), p.O.SupplierID, variant, p.O.ID, 3)
	if err != nil {
		return err
	}
	sold, err := storebuying.SoldSince(c.Q(), []uint64{variant}, c.Shop.Now().AddDate(0, 0, -soldDays))
	if err != nil {
		return err
	}
	view := map[string]any{"Page": p, "L": l, "Sold": sold[variant], "Days": soldDays,
		"Costs": c.Who.Can(staff.DeedCosts)}
	var earlier []askedView
	for _, h := range history {
		f := h.Figures()
		earlier = append(earlier, askedView{h, kit.CostText(f.Price, c.Terms.Minor()), f.UnitCost(c.Terms.Minor()),
			f.ExpectedLanded(p.Supplier.SupplierTerms, c.Terms.Minor())})
	}
	if len(earlier) > 0 {
		diff := l.Unit.Sub(earlier[0].Unit)
		view["Dearer"], view["Than"] = diff, earlier[0].Unit
		if earlier[0].Unit.IsPositive() {
			view["Percent"] = buying.CostChange(earlier[0].Unit, l.Unit).Abs()
		}
	}
	view["Earlier"] = earlier
	if ruled, ok := l.Item.Book.Ruled(l.Item.Goods, l.Landed); ok && c.Who.Can(staff.DeedCosts) {
		view["Ruled"] = ruled
	}
	product, err := goods.ReadProduct(c.Q(), l.Item.ProductID, p.O.BranchID, c.Shop.Now())
	if err != nil {
		return err
	}
	v, _ := product.Variant(variant)
	view["V"] = v
	if view["Picture"] = v.PictureID; v.PictureID == 0 && product.PictureID != nil {
		view["Picture"] = *product.PictureID
	}
	return c.Fragment("order_tag", view)
}

// askedView is what was asked for a variant in an earlier order.
type askedView struct {
	storebuying.Asked
	Price  string
	Unit   decimal.Decimal
	Landed decimal.Decimal
}

func newOrder(c *kit.Call) error {
	suppliers, err := goods.OpenSuppliers(c.Q())
	if err != nil {
		return err
	}
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	return c.Page("order_new", "Buying", "New order", map[string]any{"Suppliers": suppliers, "Branches": branches,
		"Supplier": fiber.Query[uint64](c.Ctx, "supplier"), "Branch": c.Who.Branch})
}

// orderAnswer is an order with its lines, what they come to, and what happened to it.
type orderAnswer struct {
	Order  storebuying.OrderView    `json:"order"`
	Lines  []storebuying.OrderLine  `json:"lines"`
	Totals buying.OrderTotals       `json:"totals"`
	Events []storebuying.OrderEvent `json:"events"`
	Late   int                      `json:"days_late"`
}

func apiOrder(c *kit.Call, id uint64) (orderAnswer, error) {
	view, lines, err := storebuying.ReadOrder(c.Q(), id)
	if err != nil {
		return orderAnswer{}, err
	}
	supplier, _, err := goods.ReadSupplier(c.Q(), view.SupplierID)
	if err != nil {
		return orderAnswer{}, err
	}
	events, err := storebuying.OrderEvents(c.Q(), id)
	if lines == nil {
		lines = []storebuying.OrderLine{}
	}
	return orderAnswer{view, lines, buying.OrderOf(supplier.SupplierTerms, storebuying.FiguresOf(lines), c.Terms.Minor()),
		events,
		buying.DaysLate(view.State, view.WantedOn, c.Terms.Day(c.Shop.Now()))}, err
}

func apiOrders(c *kit.Call, page int) ([]storebuying.OrderView, bool, error) {
	f, err := orderFilter(c)
	if err != nil {
		return nil, false, err
	}
	return storebuying.Orders(c.Q(), f, page)
}

// orderRoutes are the addresses of orders for programs.
func orderRoutes() []kit.Route {
	return []kit.Route{
		kit.Lists("/orders", staff.DeedLook, "List purchase orders, newest first", apiOrders).
			Asks("state", "Draft, Placed, Part in, All in, Called off; open for those that goods are awaited of; late",
				"supplier", "the number of a supplier"),
		kit.Take("POST", "/orders", staff.DeedOrder, "Begin a purchase order as a draft",
			func(c *kit.Call, in shopbuying.OrderInput) (shopbuying.OrderRef, error) {
				return shopbuying.MakeOrder(c.Until, c.Shop, c.Who, c.Key(), in)
			}),
		kit.On("GET", "/orders/:id", staff.DeedLook,
			"Read a purchase order with its lines, totals and what happened to it", apiOrder),
		kit.TakeOn("PUT", "/orders/:id", staff.DeedOrder,
			"Change the head of a purchase order; a change of a placed one is kept",
			func(c *kit.Call, id uint64, in shopbuying.OrderInput) (shopbuying.OrderRef, error) {
				return shopbuying.ChangeOrder(c.Until, c.Shop, c.Who, c.Key(), id, in)
			}),
		kit.On("DELETE", "/orders/:id", staff.DeedOrder, "Give up a draft",
			func(c *kit.Call, id uint64) (shopbuying.OrderRef, error) {
				return shopbuying.DropOrder(c.Until, c.Shop, c.Who, id)
			}),
		kit.TakeOn("PUT", "/orders/:id/lines", staff.DeedOrder,
			"Set lines of an order, each by itself; the others stay",
			func(c *kit.Call, id uint64, in orderLinesInput) (shopbuying.OrderRef, error) {
				return shopbuying.PutOrderLines(c.Until, c.Shop, c.Who, c.Key(), id, in.Lines)
			}),
		kit.TakeOn("POST", "/orders/:id/scan", staff.DeedOrder, "Add to an order what was scanned", apiScanOrder),
		kit.On("POST", "/orders/:id/place", staff.DeedOrder, "Place a draft",
			func(c *kit.Call, id uint64) (shopbuying.OrderRef, error) {
				return shopbuying.PlaceOrder(c.Until, c.Shop, c.Who, c.Key(), id)
			}),
		kit.TakeOn("POST", "/orders/:id/call-off", staff.DeedOrder,
			"Call off what is outstanding of an order, or of some of its lines",
			func(c *kit.Call, id uint64, in shopbuying.CallOffInput) (shopbuying.OrderRef, error) {
				return shopbuying.CallOffOrder(c.Until, c.Shop, c.Who, c.Key(), id, in)
			}),
		kit.TakeOn("POST", "/orders/:id/send", staff.DeedOrder,
			"Send an order to its supplier by mail, as PDF, CSV and UBL; a draft is placed by it",
			func(c *kit.Call, id uint64, in shopbuying.SendInput) (shopbuying.OrderRef, error) {
				return shopbuying.SendOrder(c.Until, c.Shop, c.Who, c.Key(), id, in)
			}),
		kit.Ask("POST", "/orders/read", staff.DeedOrder,
			"Begin an order with the lines of a file: UBL 2.1, CSV or XLSX",
			func(c *kit.Call) (shopbuying.ReadIn, error) {
				_, data := c.Upload()
				in := shopbuying.OrderInput{Supplier: fiber.Query[uint64](c.Ctx, "supplier"),
					Branch: fiber.Query(c.Ctx, "branch", c.Who.Branch)}
				return shopbuying.ReadOrderIn(c.Until, c.Shop, c.Who, c.Key(), in, data)
			}).Raw("application/xml", "text/csv", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
			"application/octet-stream").
			Asks("supplier", "the number of the supplier", "branch", "the number of the branch"),
		kit.On("POST", "/orders/:id/copy", staff.DeedOrder, "Begin a new order with the lines of another",
			func(c *kit.Call, id uint64) (shopbuying.OrderRef, error) {
				return shopbuying.CopyOrder(c.Until, c.Shop, c.Who, c.Key(), id)
			}),
	}
}

// orderLinesInput are lines of an order to set.
type orderLinesInput struct {
	Lines []shopbuying.OrderLineInput `json:"lines"`
}

func apiScanOrder(c *kit.Call, id uint64, in shopbuying.OrderScan) (scan.DeliveryScanned, error) {
	return shopbuying.ScanOrder(c.Until, c.Shop, c.Who, c.Key(), id, in)
}

// orderFile sends an order as PDF, CSV, XLSX or UBL.
func orderFile(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	view, _, err := storebuying.ReadOrder(c.Q(), id)
	if err != nil {
		return err
	}
	switch kind := c.Text("kind"); kind {
	case "pdf":
		pages, err := shopbuying.OrderPages(c.Until, c.Shop, c.Who, id)
		if err != nil {
			return err
		}
		data, err := device.PDF("Order "+view.Number, pages)
		if err != nil {
			return err
		}
		return c.Pdf(view.Number+".pdf", data)
	case "xml":
		data, err := shopbuying.OrderUBL(c.Until, c.Shop, c.Who, id)
		if err != nil {
			return err
		}
		return sendFile(c, view.Number+".xml", "application/xml", data)
	default:
		format, err := sheet.ParseFormat(kind)
		if err != nil {
			return err
		}
		data, err := shopbuying.OrderSheet(c.Until, c.Shop, c.Who, id, format)
		if err != nil {
			return err
		}
		return sendFile(c, view.Number+"."+string(format), format.Type(), data)
	}
}

func sendFile(c *kit.Call, name, kind string, data []byte) error {
	c.Set(fiber.HeaderContentType, kind)
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename=%q`, name))
	return c.Ctx.Send(data)
}
