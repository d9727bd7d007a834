package buying

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/staff"
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
