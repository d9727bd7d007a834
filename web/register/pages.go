package register

import (
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	coresale "itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	shopoffice "itemrack/shop/office"
	shopregister "itemrack/shop/register"
	"itemrack/store/customers"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/store/till"
	"itemrack/web/kit"
)

func registers(c *kit.Call) error {
	rows, err := till.Registers(c.Q())
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
	all, err := till.Registers(c.Q())
	if err != nil {
		return err
	}
	at, err := till.ReadRegister(c.Q(), id)
	if err != nil {
		return err
	}
	basket, err := shopregister.Basket(c.Deed(), id)
	if err != nil {
		return err
	}
	categories, err := goods.CategoryTiles(c.Q())
	if err != nil {
		return err
	}
	tiled, err := till.TilePages(c.Q())
	if err != nil {
		return err
	}
	lists, err := prices.PriceLists(c.Q())
	if err != nil {
		return err
	}
	reasons, err := office.Reasons(c.Q())
	if err != nil {
		return err
	}
	return c.Page("register", "Register", at.Name,
		map[string]any{"At": at, "Basket": basket, "Tiles": categories, "Pages": tiled, "Lists": lists, "Reasons": reasons,
			"Others": others(all, at), "LockAfter": c.Terms.Till.LockAfter})
}

// others are the other registers of a branch.
func others(all []till.RegisterView, at till.RegisterView) []till.RegisterView {
	return slices.DeleteFunc(slices.Clone(all),
		func(r till.RegisterView) bool { return r.ID == at.ID || r.BranchID != at.BranchID })
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

func registerOf(c *kit.Call) (till.RegisterView, error) {
	id, err := c.Number("id")
	if err != nil {
		return till.RegisterView{}, err
	}
	return till.ReadRegister(c.Q(), id)
}

func takeBack(c *kit.Call) error {
	at, err := registerOf(c)
	if err != nil {
		return err
	}
	conditions, err := office.OpenConditions(c.Q())
	if err != nil {
		return err
	}
	data := map[string]any{"At": at, "Conditions": conditions, "Asked": c.Query("sale"),
		"LockAfter": c.Terms.Till.LockAfter, "Serial": ""}
	if err := found(c, data); err != nil {
		said := fault.Of(err)
		if said == nil {
			return err
		}
		data["Said"] = said.Detail
	}
	return c.Page("take_back", "Register", "Take back", data)
}

// found is what a scan that is to be taken back means.
func found(c *kit.Call, data map[string]any) error {
	back := shopregister.ToTakeBack{Variant: fiber.Query[uint64](c.Ctx, "variant")}
	var err error
	switch {
	case c.Query("product") != "":
		p, err := goods.ReadProduct(c.Q(), back.Variant, c.Who.Branch, c.Shop.Now())
		if err != nil {
			return err
		}
		var offers []goods.Found
		for _, v := range p.Variants {
			offers = append(offers, goods.Found{Kind: "variant", ID: v.ID, Name: p.Name, Detail: v.Label, Code: v.SKU})
		}
		if len(offers) > 1 {
			data["Offers"] = offers
			return nil
		}
		back.Variant = offers[0].ID
		fallthrough
	case back.Variant != 0:
		back, err = shopregister.WithoutReceipt(c.Deed(), back.Variant)
	case c.Query("sale") != "":
		back, err = shopregister.FindBack(c.Deed(), c.Query("sale"))
	default:
		return nil
	}
	if err != nil {
		return err
	}
	data["Offers"], data["Found"] = back.Offers, back.Sale != "" || back.Variant != 0
	if back.Sale == "" {
		if back.Variant != 0 {
			data["Unsold"] = back
		}
		return nil
	}
	v, err := till.SaleByNumber(c.Q(), back.Sale)
	if err != nil {
		return err
	}
	data["Sale"], data["Serial"], data["SerialLine"] = v, back.Serial, v.LineOf(back.Serial)
	data["Lots"], err = shopregister.LotsBack(c.Deed(), v)
	return err
}

func cashUp(c *kit.Call) error {
	at, err := registerOf(c)
	if err != nil {
		return err
	}
	reasons, err := office.Reasons(c.Q())
	if err != nil {
		return err
	}
	return c.Page("cash_up", "Register", "Cash up the drawer",
		map[string]any{"At": at, "Values": c.Terms.Currency.Pieces(), "Reasons": reasons})
}

func drawers(c *kit.Call) error {
	columns := []kit.Column[till.DrawerRow]{kit.Col("session", func(r till.DrawerRow) any { return r.Number }),
		kit.Col("register", func(r till.DrawerRow) any { return r.Register }),
		kit.Col("opened", func(r till.DrawerRow) any { return c.InZone(&r.OpenedAt) }),
		kit.Col("by", func(r till.DrawerRow) any { return r.Opener }),
		kit.Col("cashed up", func(r till.DrawerRow) any { return c.InZone(r.ClosedAt) }),
		kit.Col("cashed up by", func(r till.DrawerRow) any { return r.Closer }),
		kit.Col("float", func(r till.DrawerRow) any { return c.Amount(r.Float) }),
		kit.Col("should be there", func(r till.DrawerRow) any { return c.AmountOf(r.ShouldBe) }),
		kit.Col("counted", func(r till.DrawerRow) any { return c.AmountOf(r.Counted) })}
	return kit.Listed(c, "drawers", "Register", "Cash-ups", columns, till.Drawers, map[string]any{})
}

func drawer(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	row, err := till.ReadDrawerRow(c.Q(), id)
	if err != nil {
		return err
	}
	figures, err := till.ReadDrawerFigures(c.Q(), id)
	if err != nil {
		return err
	}
	moves, err := till.DrawerMoves(c.Q(), id)
	if err != nil {
		return err
	}
	opened, err := till.HowOpened(c.Q(), row.Drawer)
	if err != nil {
		return err
	}
	data := map[string]any{"Opened": opened, "Row": row, "Figures": figures, "ShouldBe": figures.Core().ShouldBe(),
		"Moves": moves,
		"Ways":  coresale.TenderKinds, "Peeks": row.Counted != nil || c.Who.Can(staff.DeedPeek)}
	if row.Counted != nil {
		data["Difference"] = row.Counted.Sub(*row.ShouldBe)
	}
	return c.Page("drawer", "Register", "Cash-up", data)
}

func sale(c *kit.Call) error {
	v, err := till.SaleByNumber(c.Q(), c.Text("number"))
	if err != nil {
		return err
	}
	page, err := shopregister.Receipt(c.Until, c.Shop, v.Number)
	if err != nil {
		return err
	}
	approved, err := office.ApprovalsOf(c.Q(), v.DocumentID)
	if err != nil {
		return err
	}
	opened, err := till.ReadDrawerRow(c.Q(), v.DrawerID)
	if err != nil {
		return err
	}
	back := slices.ContainsFunc(v.Lines, func(l till.SaleLineView) bool {
		return l.Refunded.IsPositive() ||
			l.Back.IsPositive()
	})
	mail := ""
	if v.CustomerID != nil {
		who, err := customers.Read(c.Q(), *v.CustomerID)
		if err != nil {
			return err
		}
		mail = who.Mail
	}
	return c.Page(
		"sale",
		"Register",
		"Sale "+v.Number,
		map[string]any{
			"Sale":      v,
			"Page":      page,
			"Printer":   c.Query("printer"),
			"Change":    v.Paid.Change(),
			"Voids":     coresale.CheckVoid(v.Number, opened.ClosedAt != nil, back) == nil,
			"Sells":     c.Who.Can(staff.DeedSell),
			"Returns":   c.Who.Can(staff.DeedReturn),
			"Approved":  approved,
			"Mail":      mail,
			"Backs":     slices.DeleteFunc(strings.Split(c.Query("back"), ","), func(n string) bool { return n == "" }),
			"Owed":      c.Query("owed"),
			"Total":     v.Gross.Add(v.Vouchers),
			"LockAfter": c.Terms.Till.LockAfter,
		},
	)
}

func returned(c *kit.Call) error {
	v, err := till.ReturnByNumber(c.Q(), c.Text("number"))
	if err != nil {
		return err
	}
	page, err := shopregister.ReturnPaper(c.Until, c.Shop, v.Number)
	if err != nil {
		return err
	}
	given, err := till.GivenWith(c.Q(), v.DocumentID)
	if err != nil {
		return err
	}
	approved, err := office.ApprovalsOf(c.Q(), v.DocumentID)
	if err != nil {
		return err
	}
	return c.Page("returned", "Register", "Return "+v.Number, map[string]any{"Return": v, "Page": page, "Given": given,
		"Approved": approved, "Printer": c.Query("printer"), "Owed": c.Query("owed")})
}

func receiptPDF(c *kit.Call) error {
	pages, err := shopregister.Papers(c.Until, c.Shop, c.Text("number"), c.Query("as"))
	if err != nil {
		return err
	}
	data, err := device.PDF("Sale "+c.Text("number"), pages)
	if err != nil {
		return err
	}
	return c.Pdf(c.Text("number")+".pdf", data)
}

func locked(c *kit.Call) error {
	people, err := shopoffice.WithPIN(c.Until, c.Shop, c.Who.Branch, staff.DeedSell)
	if err != nil {
		return err
	}
	return c.Page("locked", "Register", "Locked", map[string]any{"People": people, "To": c.SafePath(),
		"Locked": c.Who.Locked})
}

func approvals(c *kit.Call) error {
	columns := []kit.Column[office.ApprovalRow]{kit.Col("at", func(r office.ApprovalRow) any { return c.InZone(&r.At) }),
		kit.Col("what", func(r office.ApprovalRow) any { return r.What }),
		kit.Col("asked by", func(r office.ApprovalRow) any { return r.Asker }),
		kit.Col("approved by", func(r office.ApprovalRow) any { return r.Approver }),
		kit.Col("document", func(r office.ApprovalRow) any { return r.Number })}
	return kit.Listed(c, "approvals", "Register", "Approvals", columns, office.Approvals, map[string]any{})
}

func vouchers(c *kit.Call) error {
	columns := []kit.Column[coresale.Credit]{kit.Col("code", func(r coresale.Credit) any { return r.Code }),
		kit.Col("kind", func(r coresale.Credit) any { return string(r.Kind) }),
		kit.Col("given", func(r coresale.Credit) any { return c.InZone(&r.GivenAt) }),
		kit.Col("left", func(r coresale.Credit) any { return c.Amount(r.Balance) }),
		kit.Col("state", func(r coresale.Credit) any { return string(r.State()) })}
	return kit.Listed(c, "vouchers", "Register", "Vouchers and store credit", columns, vouchersOf(c), map[string]any{})
}

func voucher(c *kit.Call) error {
	life, err := shopregister.Voucher(c.Deed(), c.Text("code"))
	if err != nil {
		return err
	}
	return c.Page("voucher", "Register", life.Code, map[string]any{"V": life, "Blocks": c.Who.Can(staff.DeedVoid)})
}

func tiles(c *kit.Call) error {
	pages, err := till.TilePages(c.Q())
	if err != nil {
		return err
	}
	categories, err := goods.CategoryTiles(c.Q())
	if err != nil {
		return err
	}
	return c.Page("tiles", "Register", "Tiles", map[string]any{"Pages": pages, "Categories": categories})
}
