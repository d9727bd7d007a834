package counts

import (
	"fmt"
	"slices"
	"strconv"

	"github.com/shopspring/decimal"

	corecount "itemrack/core/count"
	"itemrack/core/staff"
	"itemrack/core/stock"
	shopcounts "itemrack/shop/counts"
	storecounts "itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/web/kit"
)

func counts(c *kit.Call) error {
	columns := []kit.Column[storecounts.CountView]{
		kit.Col("number", func(r storecounts.CountView) any { return r.Number }),
		kit.Col("category", func(r storecounts.CountView) any { return r.Category }),
		kit.Col("branch", func(r storecounts.CountView) any { return r.Branch }),
		kit.Col("begun", func(r storecounts.CountView) any { return c.InZone(&r.CreatedAt) }),
		kit.Col("by", func(r storecounts.CountView) any { return r.By }),
		kit.Col("rows", func(r storecounts.CountView) any { return r.Rows }),
		kit.Col("entries", func(r storecounts.CountView) any { return r.Events }),
		kit.Col("state", func(r storecounts.CountView) any { return r.State }),
		kit.Col("note", func(r storecounts.CountView) any { return r.Note })}
	return kit.Listed(c, "counts", "Counts", "Shelf counts", columns, storecounts.Counts, map[string]any{})
}

func newCount(c *kit.Call) error {
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	categories, err := goods.Categories(c.Q())
	if err != nil {
		return err
	}
	return c.Page("count_new", "Counts", "Plan a count", map[string]any{"Branches": branches, "Categories": categories})
}

// mostCountRacks is how many products a count shows as racks; the others are
// counted by scanning, and stand in the log and in settling.
const mostCountRacks = 40

func count(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	figures, err := shopcounts.CountStands(c.Until, c.Shop, c.Who, id)
	if err != nil {
		return err
	}
	if figures.Count.State == string(corecount.Settling) || figures.Count.State == string(corecount.Closed) {
		return settlePage(c, figures)
	}
	racks, others, more, err := countRacks(c, figures)
	if err != nil {
		return err
	}
	log := slices.Clone(figures.Events)
	slices.Reverse(log)
	return c.Page(
		"count",
		"Counts",
		"Count "+figures.Count.Number,
		map[string]any{"C": figures.Count, "Racks": racks, "Others": others, "More": more,
			"Log": log[:min(len(log), 60)], "Done": done(figures), "Settles": c.Who.Can(staff.DeedSettle)},
	)
}

// countRack is a product of a count with its rack.
type countRack struct {
	P    goods.ProductView
	Rack kit.RackView
}

// countRacks hangs what is for sale on racks, and lists the rows of lots and of
// other conditions.
func countRacks(c *kit.Call, figures shopcounts.CountFigures) ([]countRack, []shopcounts.CountFigure, int, error) {
	var order []uint64
	rows := map[uint64]shopcounts.CountFigure{}
	inCount := map[uint64]bool{}
	var others []shopcounts.CountFigure
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
	products, err := goods.ProductViews(c.Q(), order[:len(order)-more], figures.Count.BranchID, c.Shop.Now())
	if err != nil {
		return nil, nil, 0, err
	}
	for _, found := range products {
		p := *found
		rack := kit.Hang(p, kit.RackNumber, "counted", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
			return countCell(p, rows[v.ID], figures.Count.Blind)
		})
		rack.Add = true
		racks = append(racks, countRack{p, rack})
	}
	return racks, others, more, nil
}

func countCell(p goods.ProductView, f shopcounts.CountFigure, blind bool) (kit.CellView, decimal.Decimal) {
	cell := kit.CellView{Off: f.RowID == 0 || p.Tracking == string(stock.BySerial), Hint: "–"}
	if !blind && f.RowID != 0 {
		cell.Note = "of " + p.UnitOf.Format(f.Expected)
	}
	if f.Counted {
		cell.Hint = p.UnitOf.Format(f.Quantity)
		return cell, f.Quantity
	}
	return cell, decimal.Zero
}

func done(figures shopcounts.CountFigures) int {
	n := 0
	for _, f := range figures.Rows {
		if f.Counted {
			n++
		}
	}
	return n
}

func settle(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	figures, err := shopcounts.CountStands(c.Until, c.Shop, c.Who, id)
	if err != nil {
		return err
	}
	return settlePage(c, figures)
}

func settlePage(c *kit.Call, figures shopcounts.CountFigures) error {
	var differ, asZero []shopcounts.CountFigure
	units, value, blank := decimal.Zero, decimal.Zero, 0
	zeroUnits, zeroValue := decimal.Zero, decimal.Zero
	for _, f := range figures.Rows {
		switch {
		case !f.Counted:
			blank++
		case !f.Differs.IsZero() || f.Moved:
			differ = append(differ, f)
		}
		units, value = units.Add(f.Differs), value.Add(f.Value)
		if f.AsZero != nil && !f.AsZero.Differs.IsZero() {
			asZero = append(asZero, f)
			zeroUnits, zeroValue = zeroUnits.Add(f.AsZero.Differs), zeroValue.Add(f.AsZero.Value)
		}
	}
	return c.Page(
		"settle",
		"Counts",
		"Settle "+figures.Count.Number,
		map[string]any{"C": figures.Count, "Differ": differ, "Blank": blank,
			"AsZero": asZero, "ZeroUnits": zeroUnits, "ZeroValue": zeroValue, "AllUnits": units.Add(zeroUnits),
			"AllValue": value.Add(zeroValue), "Units": units, "Value": value, "Figures": []kit.Figure{{Amount: strconv.Itoa(done(figures)), Name: fmt.Sprintf("of %d rows counted", len(figures.Rows))},
				{
					Amount: kit.Signed("", units),
					Name:   "units of variance",
				}, c.Money(value, "value of variance")}, "Reasons": corecount.Reasons, "Log": figures.Events, "Settles": c.Who.Can(staff.DeedSettle)},
	)
}
