package web

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/stock"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) stockList() error {
	columns := []column[store.StockRow]{{"product", func(r store.StockRow) any { return r.Name }}, {"variant", func(r store.StockRow) any { return r.Label }}, {"sku", func(r store.StockRow) any { return r.SKU }},
		{"on hand", func(r store.StockRow) any { return r.Quantity }}, {"available", func(r store.StockRow) any { return r.ForSale }}, {"unit", func(r store.StockRow) any { return r.Unit }},
		{"average cost", func(r store.StockRow) any { return fixed(r.Average(), 4) }}, {"value", func(r store.StockRow) any { return fixed(r.Value, 2) }}, {"running low", func(r store.StockRow) any { return r.Low }}}
	at, past, err := c.asAt()
	if err != nil {
		return err
	}
	worth, err := c.q().StockWorth(at)
	if err != nil {
		return err
	}
	return listed(c, "stock", "Stock", "Stock", columns, func(q store.Q, page int) ([]store.StockRow, bool, error) {
		return stockRows(q, c.Query("q"), page, at, past)
	},
		map[string]any{"Words": c.Query("q"), "Verifies": c.who.Can(shop.DeedVerify), "At": c.Query("at"), "Past": past, "Moment": at, "Worth": worth, "Opens": c.who.Can(shop.DeedCatalog)})
}

// asAt is the moment that the address asks figures for, and whether it is past.
func (c *call) asAt() (time.Time, bool, error) {
	at, err := c.server.shop.Moment("at", c.Query("at"))
	now := c.server.shop.Now()
	if err == nil && at.After(now) {
		err = fault.Field("at", c.Query("at"), "now or earlier", "What stock there will be is not known.")
	}
	return at, strings.TrimSpace(c.Query("at")) != "", err
}

func stockRows(q store.Q, text string, page int, at time.Time, past bool) ([]store.StockRow, bool, error) {
	if past {
		return q.StockAt(text, page, at)
	}
	return q.StockList(text, page)
}

func apiStock(c *call) (list[store.StockRow], error) {
	at, past, err := c.asAt()
	if err != nil {
		return list[store.StockRow]{}, err
	}
	rows, more, err := stockRows(c.q(), c.Query("q"), c.pageNumber(), at, past)
	return listOf(rows, more), err
}

func (c *call) notForSale() error {
	columns := []column[store.OffRow]{{"product", func(r store.OffRow) any { return r.Name }}, {"variant", func(r store.OffRow) any { return r.Label }}, {"sku", func(r store.OffRow) any { return r.SKU }},
		{"condition", func(r store.OffRow) any { return r.Condition }}, {"branch", func(r store.OffRow) any { return r.Branch }}, {"lot", func(r store.OffRow) any { return r.Lot }}, {"serial numbers", func(r store.OffRow) any { return r.Serials }},
		{"units", func(r store.OffRow) any { return r.Quantity }}, {"worth", func(r store.OffRow) any { return fixed(r.Worth(), 2) }}, {"since", func(r store.OffRow) any { return c.inZone(r.Since) }}}
	return listed(c, "not_for_sale", "Stock", "Not for sale", columns, func(q store.Q, _ int) ([]store.OffRow, bool, error) {
		rows, err := q.NotForSale(500)
		return rows, false, err
	}, map[string]any{"Conditions": stock.Conditions})
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
	if c.Query("format") != "" {
		return c.movementsFile(id, filter)
	}
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
		"Kinds": stock.Movements})
}

// movementsFile sends the movements of a stock card, those that the filter shows.
func (c *call) movementsFile(variant uint64, filter store.MovementFilter) error {
	columns := []column[store.Movement]{{"when", func(r store.Movement) any { return c.inZone(&r.HappenedAt) }}, {"document", func(r store.Movement) any { return r.Number }}, {"kind", func(r store.Movement) any { return r.Kind }},
		{"branch", func(r store.Movement) any { return r.Branch }}, {"shelf", func(r store.Movement) any { return r.Shelf }}, {"condition", func(r store.Movement) any { return r.Condition }}, {"lot", func(r store.Movement) any { return r.Lot }},
		{"serial number", func(r store.Movement) any { return r.Serial }}, {"who", func(r store.Movement) any { return r.Who }}, {"units", func(r store.Movement) any { return r.Quantity }}, {"value", func(r store.Movement) any { return fixed(r.Value, 2) }},
		{"units after", func(r store.Movement) any { return r.QuantityAfter }}, {"value after", func(r store.Movement) any { return fixed(r.ValueAfter, 2) }}}
	return listed(c, "movements", "Stock", "Movements", columns, func(q store.Q, _ int) ([]store.Movement, bool, error) {
		rows, more, err := q.Movements(variant, filter)
		if len(rows) > 0 {
			filter.Before = rows[len(rows)-1].ID
		}
		return rows, more, err
	}, nil)
}

func (c *call) documents() error {
	columns := []column[store.DocumentView]{{"number", func(r store.DocumentView) any { return r.Number }}, {"kind", func(r store.DocumentView) any { return r.Kind }}, {"when", func(r store.DocumentView) any { return c.inZone(&r.HappenedAt) }},
		{"branch", func(r store.DocumentView) any { return r.Branch }}, {"who", func(r store.DocumentView) any { return r.Who }}, {"note", func(r store.DocumentView) any { return r.Note }},
		{"reverses", func(r store.DocumentView) any { return r.Reverses }}, {"reversed by", func(r store.DocumentView) any { return r.ReversedBy }}}
	return listed(c, "documents", "Stock", "Documents", columns, func(q store.Q, page int) ([]store.DocumentView, bool, error) {
		return q.Documents(c.Query("kind"), page)
	}, map[string]any{"Kind": c.Query("kind"),
		"Kinds": append(slices.Clone(stock.Movements), stock.CashUp)})
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
