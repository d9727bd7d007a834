package buying

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/core/buying"
	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

func suppliers(c *kit.Call) error {
	words := c.Query("q")
	columns := []kit.Column[storebuying.SupplierView]{kit.Col("supplier",
		func(r storebuying.SupplierView) any { return r.Name }),
		kit.Col("our number there", func(r storebuying.SupplierView) any { return r.AccountNumber }),
		kit.CostCol("discount %", func(r storebuying.SupplierView) any { return r.Discount }),
		kit.CostCol("freight %", func(r storebuying.SupplierView) any { return r.Freight }),
		kit.CostCol("markup %", func(r storebuying.SupplierView) any { return kit.Optional(r.Markup) }),
		kit.Col("price ending", func(r storebuying.SupplierView) any { return kit.Deref(r.Ending) }),
		kit.Col("days to pay", func(r storebuying.SupplierView) any { return r.DaysToPay }),
		kit.Col("lead days", func(r storebuying.SupplierView) any { return r.LeadDays }),
		kit.CostCol("minimum order", func(r storebuying.SupplierView) any { return c.Amount(r.MinimumOrder) }),
		kit.Col("currency note", func(r storebuying.SupplierView) any { return r.CurrencyNote }),
		kit.Col("note", func(r storebuying.SupplierView) any { return r.Note }),
		kit.Col("contact", func(r storebuying.SupplierView) any { return r.Contact }),
		kit.Col("mail", func(r storebuying.SupplierView) any { return r.Mail }),
		kit.Col("phone", func(r storebuying.SupplierView) any { return r.Phone }),
		kit.Col("closed", func(r storebuying.SupplierView) any { return c.InZone(r.ClosedAt) })}
	return kit.Listed(c, "suppliers", "Buying", "Suppliers", columns,
		func(q store.Q, page int) ([]storebuying.SupplierView, bool, error) {
			return storebuying.SupplierList(q, words, page)
		},
		map[string]any{"Words": words, "Changes": c.Who.Can(staff.DeedSupplier), "Filtered": kept(c, "q")})
}

// supplierPage is all that the page of a supplier shows.
type supplierPage struct {
	S          goods.Supplier
	Contacts   []goods.SupplierContact
	Orders     []orderRow
	Deliveries []storebuying.DeliveryView
	Supplies   []storebuying.SuppliedView
	MoreOrders bool
	Pager      any
	Others     []goods.Supplier
	Changes    bool
	OrdersIt   bool
	Edit       bool
	Owed       owedRow
	Returns    []storebuying.ReturnView
	Pays       bool
	SendsBack  bool
	Catalog    int64 // lines of its own catalog
}

func readSupplierPage(c *kit.Call) (supplierPage, error) {
	var p supplierPage
	id, err := c.Number("id")
	if err != nil {
		return p, err
	}
	if p.S, p.Contacts, err = goods.ReadSupplier(c.Q(), id); err != nil {
		return p, err
	}
	list, more, err := storebuying.Orders(c.Q(), storebuying.OrderFilter{Supplier: id}, 1)
	if err != nil {
		return p, err
	}
	today := c.Terms.Day(c.Shop.Now())
	const few = 8
	p.MoreOrders = more || len(list) > few
	for _, o := range list[:min(few, len(list))] {
		p.Orders = append(p.Orders, orderRow{o, buying.DaysLate(o.State, o.WantedOn, today)})
	}
	deliveries, _, err := storebuying.DeliveriesOf(c.Q(), id, 1)
	if err != nil {
		return p, err
	}
	p.Deliveries = deliveries[:min(few, len(deliveries))]
	supplies, more, err := storebuying.SuppliesOf(c.Q(), id, c.PageNumber())
	p.Supplies, p.Pager = supplies, c.Pager(more)
	p.Changes, p.OrdersIt = c.Who.Can(staff.DeedSupplier), c.Who.Can(staff.DeedOrder)
	return p, err
}

func supplier(c *kit.Call) error {
	p, err := readSupplierPage(c)
	if err != nil {
		return err
	}
	columns := []kit.Column[storebuying.SuppliedView]{kit.Col("product",
		func(r storebuying.SuppliedView) any { return r.Name }),
		kit.Col("variant", func(r storebuying.SuppliedView) any { return r.Label }),
		kit.Col("SKU", func(r storebuying.SuppliedView) any { return r.SKU }),
		kit.Col("their number", func(r storebuying.SuppliedView) any { return r.PartNumber }),
		kit.Col("pack", func(r storebuying.SuppliedView) any { return r.Pack }),
		kit.Col("of", func(r storebuying.SuppliedView) any { return r.Factor }),
		kit.CostCol("price", func(r storebuying.SuppliedView) any { return r.Price }),
		kit.CostCol("discount %", func(r storebuying.SuppliedView) any { return r.Discount }),
		kit.Col("when", func(r storebuying.SuppliedView) any { return c.InZone(&r.At) }),
		kit.Col("from", func(r storebuying.SuppliedView) any { return r.Source })}
	if c.Query("format") != "" {
		return kit.Listed(c, "supplies", "Buying", p.S.Name, columns,
			func(q store.Q, page int) ([]storebuying.SuppliedView, bool, error) {
				return storebuying.SuppliesOf(q, p.S.ID, page)
			}, map[string]any{})
	}
	if p.Catalog, err = storebuying.CatalogCount(c.Q(), p.S.ID); err != nil {
		return err
	}
	p.Pays, p.SendsBack = c.Who.Can(staff.DeedPay), c.Who.Can(staff.DeedSendBack)
	if c.Who.Can(staff.DeedCosts) {
		owed, _, err := owedBy(c, p.S.ID)
		if err != nil {
			return err
		}
		if len(owed) > 0 {
			p.Owed = owed[0]
		}
	}
	const few = 5
	if p.Returns, err = storebuying.ReturnsTo(c.Q(), p.S.ID, few); err != nil {
		return err
	}
	if p.Changes {
		if p.Others, err = goods.Suppliers(c.Q()); err != nil {
			return err
		}
	}
	return c.Page("supplier", "Buying", p.S.Name, p)
}

func editSupplier(c *kit.Call) error {
	p := supplierPage{Changes: true, Edit: true}
	title := "New supplier"
	if c.Params("id") != "" {
		var err error
		if p, err = readSupplierPage(c); err != nil {
			return err
		}
		title = p.S.Name
	}
	for len(p.Contacts) < 2 {
		p.Contacts = append(p.Contacts, goods.SupplierContact{})
	}
	return c.Page("supplier_edit", "Buying", title, p)
}

// supplierAnswer is a supplier with the people to ask there.
type supplierAnswer struct {
	Supplier goods.Supplier          `json:"supplier"`
	Contacts []goods.SupplierContact `json:"contacts"`
}

func apiSupplier(c *kit.Call, id uint64) (supplierAnswer, error) {
	row, contacts, err := goods.ReadSupplier(c.Q(), id)
	if contacts == nil {
		contacts = []goods.SupplierContact{}
	}
	return supplierAnswer{row, contacts}, err
}

// closing says whether a supplier is closed.
type closing struct {
	Closed bool `json:"closed"`
}

// merging says which supplier another becomes part of.
type merging struct {
	Into uint64 `json:"into_id"`
}

// supplierRoutes are the addresses of suppliers for programs.
func supplierRoutes() []kit.Route {
	return []kit.Route{
		kit.Take("POST", "/suppliers", staff.DeedSupplier, "Make a supplier", apiSaveSupplier),
		kit.On("GET", "/suppliers/:id", staff.DeedLook, "Read a supplier with its terms and the people to ask there",
			apiSupplier),
		kit.Take("PUT", "/suppliers/:id", staff.DeedSupplier, "Change a supplier", apiSaveSupplier),
		kit.TakeOn("POST", "/suppliers/:id/close", staff.DeedSupplier, "Close a supplier, or open it again",
			func(c *kit.Call, id uint64, in closing) (shopbuying.SupplierRef, error) {
				return shopbuying.CloseSupplier(c.Deed(), id, in.Closed)
			}),
		kit.TakeOn("POST", "/suppliers/:id/merge", staff.DeedSupplier,
			"Give all that a supplier has to another, and drop it",
			func(c *kit.Call, id uint64, in merging) (shopbuying.SupplierRef, error) {
				return shopbuying.MergeSuppliers(c.Deed(), id, in.Into)
			}),
		kit.Ask("POST", "/suppliers/read", staff.DeedSupplier,
			"Read a list of suppliers in (CSV or XLSX), or try it with dry_run=true",
			func(c *kit.Call) (shopbuying.SuppliersRead, error) {
				_, data := c.Upload()
				return shopbuying.ReadSuppliersIn(c.Deed(), data, c.Query("dry_run") == "true")
			}).Raw("text/csv", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "application/octet-stream").
			Asks("dry_run", "true to see what would become of each row"),
		kit.Ask("GET", "/suppliers/:id/supplies", staff.DeedLook,
			"List what a supplier brought or was asked for, with its number and what it asked last",
			func(c *kit.Call) (kit.List[storebuying.SuppliedView], error) {
				id, err := c.Number("id")
				if err != nil {
					return kit.List[storebuying.SuppliedView]{}, err
				}
				rows, more, err := storebuying.SuppliesOf(c.Q(), id, c.PageNumber())
				return kit.ListOf(rows, more), err
			}).Asks("page", "the number of the page, from 1"),
	}
}

func apiSaveSupplier(c *kit.Call, in shopbuying.SupplierInput) (shopbuying.SupplierRef, error) {
	return shopbuying.SaveSupplier(c.Deed(), fiber.Params[uint64](c.Ctx, "id"), in)
}
