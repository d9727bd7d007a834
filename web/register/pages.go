package register

import (
	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/paper"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	shopregister "itemrack/shop/register"
	"itemrack/store/goods"
	"itemrack/store/prices"
	"itemrack/store/trade"
	"itemrack/web/kit"
)

func registers(c *kit.Call) error {
	rows, err := trade.Registers(c.Q())
	if err != nil {
		return err
	}
	return c.Page("registers", "Register", "Registers", map[string]any{"Rows": rows})
}

func register(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	at, err := trade.ReadRegister(c.Q(), id)
	if err != nil {
		return err
	}
	basket, err := shopregister.Basket(c.Until, c.Shop, c.Who, id)
	if err != nil {
		return err
	}
	tiles, err := goods.CategoryTiles(c.Q())
	if err != nil {
		return err
	}
	lists, err := prices.PriceLists(c.Q())
	if err != nil {
		return err
	}
	return c.Page("register", "Register", at.Name,
		map[string]any{"At": at, "Basket": basket, "Tiles": tiles, "Lists": lists})
}

func registerProducts(c *kit.Call) error {
	rows, more, err := goods.Products(c.Q(),
		goods.ListFilter{Words: c.Query("q"), Category: fiber.Query[uint64](c.Ctx, "category")}, c.PageNumber())
	if err != nil {
		return err
	}
	return c.Fragment("register_products", map[string]any{"Rows": rows, "More": more})
}

func registerRack(c *kit.Call) error {
	id, err := c.Number("product")
	if err != nil {
		return err
	}
	at, err := registerOf(c)
	if err != nil {
		return err
	}
	p, err := goods.ReadProduct(c.Q(), id, at.BranchID, c.Shop.Now())
	if err != nil {
		return err
	}
	rack := kit.Hang(p, kit.RackPick, "for sale here", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Figure: p.UnitOf.Format(v.Here), Note: c.Terms.Minor().Text(v.Price)}
		if p.Tracking == string(stock.NotStocked) {
			cell.Figure = "–"
		}
		return cell, v.Here
	})
	rack.Dense = true
	return c.Fragment("register_rack", map[string]any{"P": p, "Rack": rack, "At": at})
}

func registerOf(c *kit.Call) (trade.RegisterView, error) {
	id, err := c.Number("id")
	if err != nil {
		return trade.RegisterView{}, err
	}
	return trade.ReadRegister(c.Q(), id)
}

func takeBack(c *kit.Call) error {
	at, err := registerOf(c)
	if err != nil {
		return err
	}
	data := map[string]any{"At": at, "Conditions": stock.Conditions, "Asked": c.Query("sale")}
	if number := c.Query("sale"); number != "" {
		v, err := trade.SaleByNumber(c.Q(), number)
		if err != nil {
			data["Said"] = err.Error()
		} else {
			data["Sale"] = v
		}
	}
	return c.Page("take_back", "Register", "Take back", data)
}

func cashUp(c *kit.Call) error {
	at, err := registerOf(c)
	if err != nil {
		return err
	}
	return c.Page("cash_up", "Register", "Cash up the drawer",
		map[string]any{"At": at, "Values": c.Terms.Currency.Pieces()})
}

func drawers(c *kit.Call) error {
	columns := []kit.Column[trade.DrawerRow]{kit.Col("session", func(r trade.DrawerRow) any { return r.Number }),
		kit.Col("register", func(r trade.DrawerRow) any { return r.Register }),
		kit.Col("opened", func(r trade.DrawerRow) any { return c.InZone(&r.OpenedAt) }),
		kit.Col("by", func(r trade.DrawerRow) any { return r.Opener }),
		kit.Col("cashed up", func(r trade.DrawerRow) any { return c.InZone(r.ClosedAt) }),
		kit.Col("cashed up by", func(r trade.DrawerRow) any { return r.Closer }),
		kit.Col("float", func(r trade.DrawerRow) any { return c.Amount(r.Float) }),
		kit.Col("should be there", func(r trade.DrawerRow) any { return c.AmountOf(r.ShouldBe) }),
		kit.Col("counted", func(r trade.DrawerRow) any { return c.AmountOf(r.Counted) })}
	return kit.Listed(c, "drawers", "Register", "Cash-ups", columns, trade.Drawers, map[string]any{})
}

func drawer(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	row, err := trade.ReadDrawerRow(c.Q(), id)
	if err != nil {
		return err
	}
	figures, err := trade.ReadDrawerFigures(c.Q(), id)
	if err != nil {
		return err
	}
	data := map[string]any{"Row": row, "Figures": figures, "ShouldBe": figures.Core().ShouldBe()}
	if row.Counted != nil {
		data["Difference"] = row.Counted.Sub(*row.ShouldBe)
	}
	return c.Page("drawer", "Register", "Cash-up", data)
}

func sale(c *kit.Call) error {
	v, err := trade.SaleByNumber(c.Q(), c.Text("number"))
	if err != nil {
		return err
	}
	page, err := shopregister.Receipt(c.Until, c.Shop, v.Number)
	if err != nil {
		return err
	}
	return c.Page(
		"sale",
		"Register",
		"Sale "+v.Number,
		map[string]any{
			"Sale":    v,
			"Page":    page,
			"Printer": c.Query("printer"),
			"Change":  v.ChangeGiven,
			"Sells":   c.Who.Can(staff.DeedSell),
			"Voids":   c.Who.Can(staff.DeedReverse),
		},
	)
}

func receiptPDF(c *kit.Call) error {
	page, err := shopregister.Receipt(c.Until, c.Shop, c.Text("number"))
	if err != nil {
		return err
	}
	data, err := device.PDF("Sale "+c.Text("number"), []paper.Page{page})
	if err != nil {
		return err
	}
	return c.Pdf(c.Text("number")+".pdf", data)
}
