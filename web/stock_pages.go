package web

import (
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/stock"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) stockList() error {
	rows, more, err := c.q().StockList(c.Query("q"), c.pageNumber())
	if err != nil {
		return err
	}
	return c.page("stock", "Stock", "Stock", map[string]any{"Rows": rows, "Pager": c.pager(more), "Words": c.Query("q"), "Verifies": c.who.Can(shop.DeedVerify)})
}

func (c *call) notForSale() error {
	rows, err := c.q().NotForSale(500)
	if err != nil {
		return err
	}
	return c.page("not_for_sale", "Stock", "Not for sale", map[string]any{"Rows": rows, "Conditions": stock.Conditions})
}

func (c *call) inStep() error {
	began := time.Now()
	checks, err := c.server.shop.Verify(c.ctx, c.who)
	if err != nil {
		return err
	}
	wrong := 0
	for _, check := range checks {
		if check.Wrong != "" {
			wrong++
		}
	}
	accounts, err := c.q().Accounts()
	if err != nil {
		return err
	}
	return c.page("in_step", "Stock", "In step", map[string]any{"Checks": checks, "Wrong": wrong, "Took": time.Since(began).Round(time.Millisecond), "Accounts": accounts})
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
func byBranch(places []store.Place, value decimal.Decimal) []branchValue {
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
	for i, share := range money.Split(value, weights) {
		list[i].Value = share
	}
	return list
}

// cardDays is how far back the level curve of a stock card goes.
const cardDays = 120

func (c *call) stockCard() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	tag, err := c.tag(id)
	if err != nil {
		return err
	}
	filter := store.MovementFilter{Branch: fiber.Query[uint64](c.Ctx, "branch"), Kind: c.Query("kind"), Before: fiber.Query[uint64](c.Ctx, "before")}
	moves, more, err := c.q().Movements(id, filter)
	if err != nil {
		return err
	}
	now := c.server.shop.Now()
	levels, err := c.q().Levels(id, now.AddDate(0, 0, -cardDays))
	if err != nil {
		return err
	}
	branches, err := c.q().Branches()
	if err != nil {
		return err
	}
	points := make([]paper.Point, len(levels))
	for i, l := range levels {
		points[i] = paper.Point{At: l.At, Level: l.Quantity}
	}
	path, notch := paper.Steps(points, now, tag.V.RestockLevel, 304, 60)
	older := ""
	if more && len(moves) > 0 {
		older = fmt.Sprintf("?branch=%d&kind=%s&before=%d", filter.Branch, filter.Kind, moves[len(moves)-1].ID)
	}
	return c.page("stock_card", "Stock", tag.P.Name+" "+tag.V.Label, map[string]any{"Tag": tag, "Figures": c.cardStrip(tag), "Moves": moves, "Older": older, "Filter": filter, "Branches": branches,
		"ByBranch": byBranch(tag.Places, tag.V.Value), "Path": path, "Notch": notch, "Days": cardDays, "Conditions": stock.Conditions,
		"Kinds": []stock.Kind{stock.Opening, stock.Delivery, stock.Sale, stock.Return, stock.ConditionChange, stock.Count, stock.Reversal}})
}

func (c *call) documents() error {
	rows, more, err := c.q().Documents(c.Query("kind"), c.pageNumber())
	if err != nil {
		return err
	}
	return c.page("documents", "Stock", "Documents", map[string]any{"Rows": rows, "Pager": c.pager(more), "Kind": c.Query("kind"),
		"Kinds": []stock.Kind{stock.Opening, stock.Delivery, stock.Sale, stock.Return, stock.ConditionChange, stock.Count, stock.DrawerClose, stock.Reversal}})
}

func (c *call) document() error {
	d, err := c.q().Document(c.text("number"))
	if err != nil {
		return err
	}
	entries, err := c.q().EntryViews(d.ID)
	if err != nil {
		return err
	}
	postings, err := c.q().Postings(d.ID)
	if err != nil {
		return err
	}
	data := map[string]any{"D": d, "Entries": entries, "Postings": postings}
	if c.who.Can(shop.DeedReverse) && d.ReversedBy == "" && shop.Reversible(stock.Kind(d.Kind)) {
		data["Reverses"] = true
	}
	if stock.Kind(d.Kind) == stock.Delivery {
		id, err := c.q().DeliveryOf(d.ID)
		if err != nil {
			return err
		}
		delivery, _, err := c.q().Delivery(id)
		if err != nil {
			return err
		}
		data["Delivery"] = delivery
	}
	units, value := decimal.Zero, decimal.Zero
	for _, e := range entries {
		units, value = units.Add(e.Quantity), value.Add(e.Value)
	}
	data["Units"], data["Value"] = units, value
	return c.page("document", "Stock", d.Kind+" "+d.Number, data)
}
