package stock

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/prices"
	"itemrack/shop/stockroom"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/till"
	"itemrack/web/catalog"
	"itemrack/web/kit"
)

func stockList(c *kit.Call) error {
	columns := []kit.Column[book.StockRow]{kit.Col("product", func(r book.StockRow) any { return r.Name }),
		kit.Col("variant", func(r book.StockRow) any { return r.Label }),
		kit.Col("sku", func(r book.StockRow) any { return r.SKU }),
		kit.Col("on hand", func(r book.StockRow) any { return r.Quantity }),
		kit.Col("for sale", func(r book.StockRow) any { return r.ForSale }),
		kit.Col("sold apart", func(r book.StockRow) any { return r.Apart }),
		kit.Col("not for sale", func(r book.StockRow) any { return r.Other }),
		kit.Col("on the way", func(r book.StockRow) any { return r.OnWay() }),
		kit.Col("unit", func(r book.StockRow) any { return r.Unit }),
		kit.CostCol("average cost", func(r book.StockRow) any { return kit.Fixed(r.Average(), 4) }),
		kit.CostCol("value", func(r book.StockRow) any { return c.Amount(r.Value) }),
		kit.Col("running low", func(r book.StockRow) any { return r.Low })}
	asked, err := stockAsked(c)
	if err != nil {
		return err
	}
	worth, err := book.StockWorth(c.Q(), asked.At)
	if err != nil {
		return err
	}
	conditions, err := office.OpenConditions(c.Q())
	if err != nil {
		return err
	}
	data := map[string]any{"Words": c.Query("q"), "Verifies": c.Who.Can(staff.DeedVerify), "At": c.Query("at"),
		"Past": asked.Past, "Moment": asked.At,
		"Worth": worth, "Opens": c.Who.Can(staff.DeedCatalog), "F": asked, "Conditions": append(conditions, stock.OnTheWay),
		"OnRacks": c.Query("by") == "rack", "Filtered": asked.Branch != 0 || asked.Condition != "" ||
			c.Query("q") != "" || asked.Category != 0}
	for name, read := range map[string]func() (any, error){
		"Branches":   func() (any, error) { return office.Branches(c.Q()) },
		"Categories": func() (any, error) { return goods.Categories(c.Q()) },
		"Suppliers":  func() (any, error) { return goods.Suppliers(c.Q()) },
		"Brands":     func() (any, error) { return goods.Brands(c.Q()) },
	} {
		if data[name], err = read(); err != nil {
			return err
		}
	}
	return kit.Listed(c, "stock", "Stock", "Stock", columns, func(q store.Q, page int) ([]book.StockRow, bool, error) {
		rows, more, err := book.StockList(q, asked, page)
		if err == nil && c.Query("by") == "rack" && c.Query("format") == "" {
			data["Racks"], err = stockRacks(c, rows)
		}
		return rows, more, err
	}, data)
}

// stockAsked is which stock an address asks for.
func stockAsked(c *kit.Call) (book.StockQuery, error) {
	var asked book.StockQuery
	var err error
	if asked.ListFilter, _, err = catalog.FilterOf(c); err != nil {
		return asked, err
	}
	asked.Branch, asked.Condition = fiber.Query[uint64](c.Ctx, "branch"), c.Query("condition")
	asked.At, asked.Past, err = asAt(c)
	return asked, err
}

// stockRack is a product of the list with its rack.
type stockRack struct {
	P    goods.ProductView
	Rack kit.RackView
}

// stockRacks hangs what lies of the rows of a page on the racks of their products.
func stockRacks(c *kit.Call, rows []book.StockRow) ([]stockRack, error) {
	var order []uint64
	by := map[uint64]book.StockRow{}
	for _, r := range rows {
		by[r.ID] = r
		if !slices.Contains(order, r.ProductID) {
			order = append(order, r.ProductID)
		}
	}
	products, err := goods.ProductViews(c.Q(), order, c.Who.Branch, c.Shop.Now())
	var racks []stockRack
	for _, p := range products {
		rack := kit.Hang(*p, kit.RackLook, "on hand", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
			r, here := by[v.ID]
			if !here {
				return kit.CellView{Figure: "–", Note: "elsewhere in the list"}, decimal.Zero
			}
			cell := kit.CellView{Figure: p.UnitOf.Format(r.Quantity), Low: r.Low}
			if r.Low {
				cell.Note = "low"
			}
			return cell, r.Quantity
		})
		racks = append(racks, stockRack{*p, rack})
	}
	return racks, err
}

// asAt is the moment that the address asks figures for, and whether it is past.
func asAt(c *kit.Call) (time.Time, bool, error) {
	at, err := c.Shop.Moment(c.Terms, "at", c.Query("at"))
	now := c.Shop.Now()
	if err == nil && at.After(now) {
		err = fault.Field("at", c.Query("at"), "now or earlier", "What stock there will be is not known.")
	}
	return at, strings.TrimSpace(c.Query("at")) != "", err
}

func notForSale(c *kit.Call) error {
	columns := []kit.Column[stockroom.Off]{kit.Col("product", func(r stockroom.Off) any { return r.Name }),
		kit.Col("variant", func(r stockroom.Off) any { return r.Label }),
		kit.Col("sku", func(r stockroom.Off) any { return r.SKU }),
		kit.Col("condition", func(r stockroom.Off) any { return r.Condition }),
		kit.Col("branch", func(r stockroom.Off) any { return r.Branch }),
		kit.Col("lot", func(r stockroom.Off) any { return r.Lot }),
		kit.Col("serial numbers", func(r stockroom.Off) any { return r.Serials }),
		kit.Col("units", func(r stockroom.Off) any { return r.Quantity }),
		kit.CostCol("worth", func(r stockroom.Off) any { return c.Amount(r.Worth(c.Terms.Minor())) }),
		kit.Col("since", func(r stockroom.Off) any { return c.InZone(r.Since) }),
		kit.Col("with", func(r stockroom.Off) any {
			if len(r.Holders) == 0 {
				return nil
			}
			return r.Holders[0].WithWhom
		})}
	asked := book.StockQuery{}
	asked.Branch, asked.Condition = fiber.Query[uint64](c.Ctx, "branch"), c.Query("condition")
	facts, err := office.Conditions(c.Q())
	if err != nil {
		return err
	}
	branches, err := office.AllBranches(c.Q())
	if err != nil {
		return err
	}
	reasons, err := office.Reasons(c.Q())
	if err != nil {
		return err
	}
	most := stockroom.MostOff
	if c.Query("format") != "" { // a file is whole
		most = 0
	}
	list, err := stockroom.NotForSale(c.Deed(), asked.Branch, asked.Condition, most)
	if err != nil {
		return err
	}
	if done, err := kit.AsFile(c, "not for sale", columns, list.Rows); done {
		return err
	}
	return c.Page("not_for_sale", "Stock", "Not for sale",
		map[string]any{"Rows": list.Rows, "Sums": list.Sums, "Facts": facts, "F": asked, "Branches": branches,
			"Reasons": reasons, "Left": list.Left, "Full": list.Full, "WritesOff": c.Who.Can(staff.DeedStock)})
}

// branchValue is what a branch has of a variant, and its share of the value.
type branchValue struct {
	Branch   string
	By       map[string]decimal.Decimal // by condition
	Quantity decimal.Decimal
	Value    decimal.Decimal
}

// byBranch adds places up by branch; the value is shared so that the branches
// add up to it.
func byBranch(places []book.Place, value decimal.Decimal, minor money.Minor) []branchValue {
	var list []branchValue
	var weights []decimal.Decimal
	for _, p := range places {
		if n := len(list); n == 0 || list[n-1].Branch != p.Branch {
			list = append(list, branchValue{Branch: p.Branch, By: map[string]decimal.Decimal{}})
			weights = append(weights, decimal.Zero)
		}
		b := &list[len(list)-1]
		b.By[p.Condition] = b.By[p.Condition].Add(p.Quantity)
		b.Quantity = b.Quantity.Add(p.Quantity)
		weights[len(list)-1] = b.Quantity
	}
	for i, share := range minor.Split(value, weights) {
		list[i].Value = share
	}
	return list
}

// cardDays is how far back the level curve of a stock card goes.
const cardDays = 120

// putRight is the form that puts stock of a variant right, for the pages that it is seen on.
func putRight(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	tag, err := catalog.Tag(c, id)
	if err != nil {
		return err
	}
	all, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	reasons, err := office.Reasons(c.Q())
	if err != nil {
		return err
	}
	at := c.Who.Branch
	if register := fiber.Query[uint64](c.Ctx, "register"); register != 0 {
		r, err := till.ReadRegister(c.Q(), register)
		if err != nil {
			return err
		}
		at = r.BranchID
	}
	branches := slices.DeleteFunc(all, func(b office.Branch) bool { return c.Who.At(b.ID, b.Name) != nil })
	var lots []book.Place
	for _, p := range tag.Places {
		if p.LotID != 0 && !slices.ContainsFunc(lots, func(l book.Place) bool { return l.LotID == p.LotID }) {
			lots = append(lots, p)
		}
	}
	conditions, err := office.OpenConditions(c.Q())
	if err != nil {
		return err
	}
	return c.Fragment("put_right", map[string]any{"V": tag.V, "P": tag.P, "Branches": branches, "At": at,
		"Conditions": conditions, "Lots": lots, "Reasons": reasons})
}

func stockCard(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	tag, err := catalog.Tag(c, id)
	if err != nil {
		return err
	}
	filter, past, err := movementFilter(c)
	if err != nil {
		return err
	}
	if c.Query("format") != "" {
		return movementsFile(c, id, filter)
	}
	figures, worth := catalog.CardStrip(c, tag), tag.V.Value
	if past {
		if tag.Places, err = book.PlacesAt(c.Q(), id, filter.At); err != nil {
			return err
		}
		if figures, worth, err = pastStrip(c, tag.P.Unit, id, filter.At); err != nil {
			return err
		}
	}
	moves, more, err := book.Movements(c.Q(), id, filter)
	if err != nil {
		return err
	}
	now := c.Shop.Now()
	levels, err := book.Levels(c.Q(), id, now.AddDate(0, 0, -cardDays))
	if err != nil {
		return err
	}
	branches, err := office.AllBranches(c.Q())
	if err != nil {
		return err
	}
	points := make([]paper.Point, len(levels))
	for i, l := range levels {
		points[i] = paper.Point{At: l.At, Level: l.Quantity}
	}
	path, notch := paper.Steps(points, now, tag.V.RestockLevel, 304, 60)
	curves, err := branchCurves(c, id, now)
	if err != nil {
		return err
	}
	apart, err := prices.InConditions(c.Shop, c.Q(), id)
	if err != nil {
		return err
	}
	last, err := counts.LastOf(c.Q(), id)
	if err != nil {
		return err
	}
	older := ""
	if more && len(moves) > 0 {
		older = fmt.Sprintf("?branch=%d&kind=%s&at=%s&before=%d", filter.Branch, url.QueryEscape(filter.Kind),
			url.QueryEscape(c.Query("at")), moves[len(moves)-1].ID)
	}
	return c.Page(
		"stock_card",
		"Stock",
		tag.P.Name+" "+tag.V.Label,
		map[string]any{
			"Tag":      tag,
			"Figures":  figures,
			"Past":     past,
			"At":       c.Query("at"),
			"Curves":   curves,
			"Last":     last,
			"In":       apart,
			"Moves":    moves,
			"Older":    older,
			"Filter":   filter,
			"Branches": branches,
			"ByBranch": byBranch(tag.Places, worth, c.Terms.Minor()),
			"Path":     path,
			"Notch":    notch,
			"Days":     cardDays,
			"Kinds":    stock.Movements(),
		},
	)
}

// movementFilter is what the address asks of the movements of a variant, and whether it asks for a past moment.
func movementFilter(c *kit.Call) (book.MovementFilter, bool, error) {
	f := book.MovementFilter{
		Branch: fiber.Query[uint64](c.Ctx, "branch"),
		Kind:   c.Query("kind"),
		Before: fiber.Query[uint64](c.Ctx, "before"),
	}
	at, past, err := asAt(c)
	if past {
		f.At = at
	}
	return f, past, err
}

// pastStrip is the figures of a stock card at a past moment, and what all of it was worth.
func pastStrip(c *kit.Call, unit string, variant uint64, at time.Time) ([]kit.Figure, decimal.Decimal, error) {
	last, _, err := book.Movements(c.Q(), variant, book.MovementFilter{At: at, Limit: 1})
	var pool cost.Pool
	if len(last) > 0 {
		pool = cost.Pool{Quantity: last[0].QuantityAfter, Value: last[0].ValueAfter}
	}
	figures := []kit.Figure{{Amount: kit.Quantity(unit, pool.Quantity), Name: "on hand then"}}
	if c.Who.Can(staff.DeedCosts) {
		figures = append(figures, c.Cost(pool.Average(), "average cost then"), c.Worth(pool.Value, "value then"))
	}
	return figures, pool.Value, err
}

// branchCurve is the level of a variant at one branch, drawn.
type branchCurve struct {
	Branch, Path string
	Now          decimal.Decimal
}

// branchCurves draws the level of a variant at each branch, where there are two or more.
func branchCurves(c *kit.Call, variant uint64, now time.Time) ([]branchCurve, error) {
	all, err := book.LevelsByBranch(c.Q(), variant, now.AddDate(0, 0, -cardDays))
	if len(all) < 2 {
		return nil, err
	}
	curves := make([]branchCurve, len(all))
	for i, b := range all {
		points := make([]paper.Point, len(b.Levels))
		for j, l := range b.Levels {
			points[j] = paper.Point{At: l.At, Level: l.Quantity}
		}
		path, _ := paper.Steps(points, now, nil, 304, 36)
		curves[i] = branchCurve{Branch: b.Branch, Path: path, Now: points[len(points)-1].Level}
	}
	return curves, err
}

// movementsFile sends the movements of a stock card, those that the filter shows.
func movementsFile(c *kit.Call, variant uint64, filter book.MovementFilter) error {
	columns := []kit.Column[book.Movement]{
		kit.Col("when", func(r book.Movement) any { return c.InZone(&r.HappenedAt) }),
		kit.Col("document", func(r book.Movement) any { return r.Number }),
		kit.Col("kind", func(r book.Movement) any { return r.Kind }),
		kit.Col("branch", func(r book.Movement) any { return r.Branch }),
		kit.Col("shelf", func(r book.Movement) any { return r.Shelf }),
		kit.Col("condition", func(r book.Movement) any { return r.Condition }),
		kit.Col("lot", func(r book.Movement) any { return r.Lot }),
		kit.Col("serial number", func(r book.Movement) any { return r.Serial }),
		kit.Col("who", func(r book.Movement) any { return r.Who }),
		kit.Col("units", func(r book.Movement) any { return r.Quantity }),
		kit.CostCol("value", func(r book.Movement) any { return c.Amount(r.Value) }),
		kit.Col("units after", func(r book.Movement) any { return r.QuantityAfter }),
		kit.CostCol("value after", func(r book.Movement) any { return c.Amount(r.ValueAfter) })}
	return kit.Listed(
		c,
		"movements",
		"Stock",
		"Movements",
		columns,
		func(q store.Q, _ int) ([]book.Movement, bool, error) {
			rows, more, err := book.Movements(q, variant, filter)
			if len(rows) > 0 {
				filter.Before = rows[len(rows)-1].ID
			}
			return rows, more, err
		},
		nil,
	)
}
