package web

import (
	"fmt"
	"slices"
	"strconv"

	"github.com/shopspring/decimal"

	"itemrack/core/count"
	"itemrack/core/stock"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) counts() error {
	columns := []column[store.CountView]{{"number", func(r store.CountView) any { return r.Number }}, {"category", func(r store.CountView) any { return r.Category }}, {"branch", func(r store.CountView) any { return r.Branch }},
		{"begun", func(r store.CountView) any { return c.inZone(&r.CreatedAt) }}, {"by", func(r store.CountView) any { return r.By }}, {"rows", func(r store.CountView) any { return r.Rows }},
		{"entries", func(r store.CountView) any { return r.Events }}, {"state", func(r store.CountView) any { return r.State }}, {"note", func(r store.CountView) any { return r.Note }}}
	return listed(c, "counts", "Counts", "Shelf counts", columns, store.Q.Counts, map[string]any{})
}

func (c *call) newCount() error {
	branches, err := c.q().Branches()
	if err != nil {
		return err
	}
	categories, err := c.q().Categories()
	if err != nil {
		return err
	}
	return c.page("count_new", "Counts", "Plan a count", map[string]any{"Branches": branches, "Categories": categories})
}

// mostCountRacks is how many products a count shows as racks; the others are
// counted by scanning, and stand in the log and in settling.
const mostCountRacks = 40

func (c *call) count() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	figures, err := c.server.shop.CountStands(c.ctx, id)
	if err != nil {
		return err
	}
	if figures.Count.State == string(count.Settling) || figures.Count.State == string(count.Closed) {
		return c.settlePage(figures)
	}
	racks, others, more, err := c.countRacks(figures)
	if err != nil {
		return err
	}
	log := slices.Clone(figures.Events)
	slices.Reverse(log)
	return c.page("count", "Counts", "Count "+figures.Count.Number, map[string]any{"C": figures.Count, "Racks": racks, "Others": others, "More": more,
		"Log": log[:min(len(log), 60)], "Done": done(figures), "Settles": c.who.Can(shop.DeedSettle)})
}

// countRack is a product of a count with its rack.
type countRack struct {
	P    store.ProductView
	Rack rackView
}

// countRacks hangs what is for sale on racks, and lists the rows of lots and of
// other conditions.
func (c *call) countRacks(figures shop.CountFigures) ([]countRack, []shop.CountFigure, int, error) {
	var order []uint64
	rows := map[uint64]shop.CountFigure{}
	inCount := map[uint64]bool{}
	var others []shop.CountFigure
	for _, f := range figures.Rows {
		if f.Key.Condition != stock.ForSale || f.Key.Lot != 0 {
			others = append(others, f)
			continue
		}
		rows[f.Key.Variant] = f
		if !inCount[f.Item.ProductID] {
			inCount[f.Item.ProductID] = true
			order = append(order, f.Item.ProductID)
		}
	}
	more := max(0, len(order)-mostCountRacks)
	var racks []countRack
	products, err := c.q().ProductViews(order[:len(order)-more], figures.Count.BranchID, c.server.shop.Now())
	if err != nil {
		return nil, nil, 0, err
	}
	for _, found := range products {
		p := *found
		rack := hang(p, rackNumber, "counted", func(v store.VariantView) (cellView, decimal.Decimal) {
			return countCell(p, rows[v.ID], figures.Count.Blind)
		})
		rack.Add = true
		racks = append(racks, countRack{p, rack})
	}
	return racks, others, more, nil
}

func countCell(p store.ProductView, f shop.CountFigure, blind bool) (cellView, decimal.Decimal) {
	cell := cellView{Off: f.RowID == 0 || p.Tracking == string(stock.BySerial), Hint: "–"}
	if !blind && f.RowID != 0 {
		cell.Note = "of " + p.UnitOf.Format(f.Expected)
	}
	if f.Counted {
		cell.Hint = p.UnitOf.Format(f.Quantity)
		return cell, f.Quantity
	}
	return cell, decimal.Zero
}

func done(figures shop.CountFigures) int {
	n := 0
	for _, f := range figures.Rows {
		if f.Counted {
			n++
		}
	}
	return n
}

func (c *call) settle() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	figures, err := c.server.shop.CountStands(c.ctx, id)
	if err != nil {
		return err
	}
	return c.settlePage(figures)
}

func (c *call) settlePage(figures shop.CountFigures) error {
	var differ []shop.CountFigure
	units, value, blank := decimal.Zero, decimal.Zero, 0
	for _, f := range figures.Rows {
		switch {
		case !f.Counted:
			blank++
		case !f.Variance().IsZero() || len(f.Missing) > 0 || f.Moved:
			differ = append(differ, f)
		}
		units, value = units.Add(f.Variance()), value.Add(f.Value)
	}
	return c.page("settle", "Counts", "Settle "+figures.Count.Number, map[string]any{"C": figures.Count, "Differ": differ, "Blank": blank,
		"Units": units, "Value": value, "Figures": []figure{{Amount: strconv.Itoa(done(figures)), Name: fmt.Sprintf("of %d rows counted", len(figures.Rows))},
			{Amount: signed("", units), Name: "units of variance"}, c.money(value, "value of variance")}, "Reasons": count.Reasons, "Log": figures.Events, "Settles": c.who.Can(shop.DeedSettle)})
}
