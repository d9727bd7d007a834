package web

import (
	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/device"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) registers() error {
	rows, err := c.q().Registers()
	if err != nil {
		return err
	}
	return c.page("registers", "Register", "Registers", map[string]any{"Rows": rows})
}

func (c *call) register() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	at, err := c.q().Register(id)
	if err != nil {
		return err
	}
	basket, err := c.server.shop.Basket(c.ctx, c.who, id)
	if err != nil {
		return err
	}
	tiles, err := c.q().CategoryTiles()
	if err != nil {
		return err
	}
	lists, err := c.q().PriceLists()
	if err != nil {
		return err
	}
	return c.page("register", "Register", at.Name, map[string]any{"At": at, "Basket": basket, "Tiles": tiles, "Lists": lists})
}

func (c *call) registerProducts() error {
	rows, more, err := c.q().Products(store.ListFilter{Words: c.Query("q"), Category: fiber.Query[uint64](c.Ctx, "category")}, c.pageNumber(), c.server.shop.Now())
	if err != nil {
		return err
	}
	return c.fragment("register_products", map[string]any{"Rows": rows, "More": more})
}

func (c *call) registerRack() error {
	id, err := c.number("product")
	if err != nil {
		return err
	}
	at, err := c.registerOf()
	if err != nil {
		return err
	}
	p, err := c.q().Product(id, at.BranchID, c.server.shop.Now())
	if err != nil {
		return err
	}
	rack := hang(p, rackPick, "for sale here", func(v store.VariantView) (cellView, decimal.Decimal) {
		cell := cellView{Figure: p.UnitOf.Format(v.Here), Note: v.Price.StringFixed(2)}
		if p.Tracking == string(stock.NotStocked) {
			cell.Figure = "–"
		}
		return cell, v.Here
	})
	rack.Dense = true
	return c.fragment("register_rack", map[string]any{"P": p, "Rack": rack, "At": at})
}

func (c *call) registerOf() (store.RegisterView, error) {
	id, err := c.number("id")
	if err != nil {
		return store.RegisterView{}, err
	}
	return c.q().Register(id)
}

func (c *call) takeBack() error {
	at, err := c.registerOf()
	if err != nil {
		return err
	}
	data := map[string]any{"At": at, "Conditions": stock.Conditions, "Asked": c.Query("sale")}
	if number := c.Query("sale"); number != "" {
		v, err := c.q().SaleByNumber(number)
		if err != nil {
			data["Said"] = err.Error()
		} else {
			data["Sale"] = v
		}
	}
	return c.page("take_back", "Register", "Take back", data)
}

func (c *call) cashUp() error {
	at, err := c.registerOf()
	if err != nil {
		return err
	}
	return c.page("cash_up", "Register", "Cash up the drawer", map[string]any{"At": at, "Values": sale.Denominations})
}

func (c *call) drawers() error {
	columns := []column[store.DrawerRow]{{"session", func(r store.DrawerRow) any { return r.Number }}, {"register", func(r store.DrawerRow) any { return r.Register }}, {"opened", func(r store.DrawerRow) any { return c.inZone(&r.OpenedAt) }},
		{"by", func(r store.DrawerRow) any { return r.Opener }}, {"cashed up", func(r store.DrawerRow) any { return c.inZone(r.ClosedAt) }}, {"cashed up by", func(r store.DrawerRow) any { return r.Closer }},
		{"float", func(r store.DrawerRow) any { return fixed(r.Float, 2) }}, {"should be there", func(r store.DrawerRow) any { return amountCell(r.ShouldBe) }}, {"counted", func(r store.DrawerRow) any { return amountCell(r.Counted) }}}
	return listed(c, "drawers", "Register", "Cash-ups", columns, store.Q.Drawers, map[string]any{})
}

func (c *call) drawer() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	row, err := c.q().DrawerRow(id)
	if err != nil {
		return err
	}
	figures, err := c.q().DrawerFigures(id)
	if err != nil {
		return err
	}
	data := map[string]any{"Row": row, "Figures": figures, "ShouldBe": figures.Core().ShouldBe()}
	if row.Counted != nil {
		data["Difference"] = row.Counted.Sub(*row.ShouldBe)
	}
	return c.page("drawer", "Register", "Cash-up", data)
}

func (c *call) sale() error {
	v, err := c.q().SaleByNumber(c.text("number"))
	if err != nil {
		return err
	}
	page, err := c.server.shop.Receipt(c.ctx, v.Number)
	if err != nil {
		return err
	}
	return c.page("sale", "Register", "Sale "+v.Number, map[string]any{"Sale": v, "Page": page, "Printer": c.Query("printer"), "Change": v.ChangeGiven, "Sells": c.who.Can(shop.DeedSell), "Voids": c.who.Can(shop.DeedReverse)})
}

func (c *call) receiptPDF() error {
	page, err := c.server.shop.Receipt(c.ctx, c.text("number"))
	if err != nil {
		return err
	}
	data, err := device.PDF("Sale "+c.text("number"), []paper.Page{page})
	if err != nil {
		return err
	}
	return c.pdf(c.text("number")+".pdf", data)
}

func (c *call) devices() error {
	type one struct {
		Name, State string
		States      []string
	}
	var list []one
	for _, name := range []string{device.ReceiptPrinter, device.LabelPrinter, device.CardTerminal} {
		state, err := c.server.shop.Store.Devices().DeviceState(c.ctx, name)
		if err != nil {
			return err
		}
		list = append(list, one{name, state, device.States[name]})
	}
	papers, err := c.server.shop.Papers(c.ctx, 8)
	if err != nil {
		return err
	}
	return c.page("devices", "Register", "Stand-ins", map[string]any{"Devices": list, "Papers": papers})
}
