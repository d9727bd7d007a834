package stock

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/shop/stockroom"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/office"
	"itemrack/web/kit"
)

// lotView is a lot in the list: how many days are left, and the price that is proposed for it.
type lotView struct {
	book.LotRow
	Left     int
	Expired  bool
	Near     bool
	Cut      decimal.Decimal
	Proposed *decimal.Decimal
	Value    decimal.Decimal
}

func (v lotView) days() any {
	if v.Expiry == nil {
		return nil
	}
	return v.Left
}

func lotViews(c *kit.Call, rows []book.LotRow) []lotView {
	today := c.Terms.Day(c.Shop.Now())
	views := make([]lotView, len(rows))
	for i, r := range rows {
		v := lotView{LotRow: r, Value: r.Worth(c.Terms.Minor())}
		if r.Expiry != nil {
			v.Left, v.Expired = stock.DaysLeft(r.Lot(), today), r.Lot().Expired(today)
			v.Near = !v.Expired && v.Left <= r.Told
			if v.Cut = stock.Cut(v.Left, r.Told); v.Cut.IsPositive() && r.Price != nil {
				p := c.Terms.Minor().Less(*r.Price, v.Cut)
				v.Proposed = &p
			}
		}
		views[i] = v
	}
	return views
}

// lots is the list of the lots in stock, the nearest expiry first.
func lots(c *kit.Call) error {
	columns := []kit.Column[lotView]{kit.Col("product", func(r lotView) any { return r.Name }),
		kit.Col("variant", func(r lotView) any { return r.Label }),
		kit.Col("sku", func(r lotView) any { return r.SKU }), kit.Col("lot", func(r lotView) any { return r.Number }),
		kit.Col("expiry", func(r lotView) any {
			if r.Expiry == nil {
				return nil
			}
			return r.Expiry.Format(time.DateOnly)
		}), kit.Col("days left", func(r lotView) any { return r.days() }),
		kit.Col("for sale", func(r lotView) any { return r.ForSale }),
		kit.Col("other", func(r lotView) any { return r.Other }),
		kit.CostCol("worth", func(r lotView) any { return c.Amount(r.Value) }),
		kit.Col("price", func(r lotView) any { return c.AmountOf(r.Price) }),
		kit.Col("cut %", func(r lotView) any { return r.Cut }),
		kit.Col("proposed price", func(r lotView) any { return c.AmountOf(r.Proposed) })}
	return kit.Listed(c, "lots", "Stock", "Lots", columns, func(q store.Q, page int) ([]lotView, bool, error) {
		rows, more, err := book.Lots(q, c.Query("kind"), c.Terms.Day(c.Shop.Now()), page)
		return lotViews(c, rows), more, err
	}, map[string]any{"Show": c.Query("kind"), "Shows": [][2]string{{"", "all"}, {"near", "near expiry"},
		{"expired", "expired"}}})
}

// lot is the life of a lot; its file has the customers who are known by name.
func lot(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	life, err := book.ReadLot(c.Q(), id)
	if err != nil {
		return err
	}
	var sold, known []book.LotEvent
	units := decimal.Zero
	for _, e := range life.Events {
		if stock.Kind(e.Kind) != stock.Sale {
			continue
		}
		sold, units = append(sold, e), units.Sub(e.Quantity)
		if e.CustomerID != 0 {
			known = append(known, e)
		}
	}
	columns := []kit.Column[book.LotEvent]{kit.Col("lot", func(book.LotEvent) any { return life.Number }),
		kit.Col("customer", func(e book.LotEvent) any { return e.Customer }),
		kit.Col("mail", func(e book.LotEvent) any { return e.Mail }),
		kit.Col("phone", func(e book.LotEvent) any { return e.Phone }),
		kit.Col("address", func(e book.LotEvent) any { return e.Address }),
		kit.Col("sale", func(e book.LotEvent) any { return e.Number }),
		kit.Col("when", func(e book.LotEvent) any { return c.InZone(&e.HappenedAt) }),
		kit.Col("units", func(e book.LotEvent) any { return e.Quantity.Neg() })}
	if done, err := kit.AsFile(c, "lot "+life.Number+" customers", columns, known); done {
		return err
	}
	forSale := decimal.Zero
	conditions, err := office.Conditions(c.Q())
	if err != nil {
		return err
	}
	sells := stock.Holding{Conditions: conditions}.SoldFrom()
	for _, p := range life.Places {
		if slices.Contains(sells, stock.Condition(p.Condition)) {
			forSale = forSale.Add(p.Quantity)
		}
	}
	return c.Page("lot", "Stock", "Lot "+life.Number,
		map[string]any{"L": lotViews(c, []book.LotRow{life.LotRow})[0], "Life": life, "Sold": sold, "Units": units,
			"Known": len(known), "ForSale": forSale, "To": []stock.Condition{stock.ToLookOver, stock.ForScrap}})
}

// moves is the list of everything that moved.
func moves(c *kit.Call) error {
	asked, err := movesAsked(c)
	if err != nil {
		return err
	}
	columns := []kit.Column[book.MoveRow]{kit.Col("when", func(r book.MoveRow) any { return c.InZone(&r.HappenedAt) }),
		kit.Col("document", func(r book.MoveRow) any { return r.Number }),
		kit.Col("kind", func(r book.MoveRow) any { return r.Kind }),
		kit.Col("product", func(r book.MoveRow) any { return r.Name }),
		kit.Col("variant", func(r book.MoveRow) any { return r.Label }),
		kit.Col("sku", func(r book.MoveRow) any { return r.SKU }),
		kit.Col("branch", func(r book.MoveRow) any { return r.Branch }),
		kit.Col("shelf", func(r book.MoveRow) any { return r.Shelf }),
		kit.Col("condition", func(r book.MoveRow) any { return r.Condition }),
		kit.Col("lot", func(r book.MoveRow) any { return r.Lot }),
		kit.Col("serial number", func(r book.MoveRow) any { return r.Serial }),
		kit.Col("who", func(r book.MoveRow) any { return r.Who }),
		kit.Col("units", func(r book.MoveRow) any { return r.Quantity }),
		kit.CostCol("value", func(r book.MoveRow) any { return c.Amount(r.Value) }),
		kit.Col("note", func(r book.MoveRow) any { return r.Note })}
	conditions, err := office.OpenConditions(c.Q())
	if err != nil {
		return err
	}
	data := map[string]any{"F": asked, "From": c.Query("from"), "To": c.Query("to"), "Kinds": stock.Movements(),
		"Conditions": append(conditions, stock.OnTheWay)}
	for name, read := range map[string]func() (any, error){
		"Branches": func() (any, error) { return office.AllBranches(c.Q()) },
		"People":   func() (any, error) { return office.Users(c.Q()) },
		"Reasons":  func() (any, error) { return office.Reasons(c.Q()) },
	} {
		if data[name], err = read(); err != nil {
			return err
		}
	}
	asked.Before = fiber.Query[uint64](c.Ctx, "before")
	return kit.Listed(c, "moves", "Stock", "Movements", columns, func(q store.Q, _ int) ([]book.MoveRow, bool, error) {
		rows, more, err := book.Moves(q, asked)
		if len(rows) > 0 {
			asked.Before = rows[len(rows)-1].ID
			if more {
				data["Older"] = movesLink(c, asked.Before)
			}
		}
		return rows, more, err
	}, data)
}

// movesAsked is which movements an address asks for.
func movesAsked(c *kit.Call) (book.MoveQuery, error) {
	asked := book.MoveQuery{Branch: fiber.Query[uint64](c.Ctx, "branch"), User: fiber.Query[uint64](c.Ctx, "person"),
		Kind:      c.Query("kind"),
		Condition: c.Query("condition"), Reason: c.Query("reason"), Before: fiber.Query[uint64](c.Ctx, "before")}
	for name, into := range map[string]*time.Time{"from": &asked.From, "to": &asked.To} {
		if typed := strings.TrimSpace(c.Query(name)); typed != "" {
			at, ok := c.Terms.Moment(typed)
			if !ok {
				return asked, fault.Field(name, typed, "a day as 2026-11-27", "%q is not a day.", typed)
			}
			if *into = at; name == "to" && len(typed) <= len("31/12/2026") {
				*into = at.In(c.Terms.Zone).AddDate(0, 0, 1).UTC() // that whole day
			}
		}
	}
	return asked, nil
}

// movesLink is the address of what is older.
func movesLink(c *kit.Call, before uint64) string {
	link := fmt.Sprint("?before=", before)
	for _, name := range []string{"branch", "person", "kind", "condition", "reason", "from", "to"} {
		if value := c.Query(name); value != "" {
			link += "&" + name + "=" + kit.Escaped(value)
		}
	}
	return link
}

func apiMoves(c *kit.Call) (kit.List[book.MoveRow], error) {
	asked, err := movesAsked(c)
	if err != nil {
		return kit.List[book.MoveRow]{}, err
	}
	rows, more, err := book.Moves(c.Q(), asked)
	return kit.ListOf(rows, more), err
}

func apiLots(c *kit.Call, page int) ([]book.LotRow, bool, error) {
	return book.Lots(c.Q(), c.Query("show"), c.Terms.Day(c.Shop.Now()), page)
}

func apiLot(c *kit.Call, id uint64) (book.LotLife, error) { return book.ReadLot(c.Q(), id) }

func apiRecall(c *kit.Call, id uint64, in stockroom.RecallInput) (stockroom.Recalled, error) {
	return stockroom.Recall(c.Deed(), id, in)
}
