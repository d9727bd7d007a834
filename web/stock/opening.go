package stock

import (
	"encoding/json"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/shop/lists"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/web/kit"
)

// openStock is the page on which opening stock is typed.
func openStock(c *kit.Call) error {
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	shelves, err := book.Shelves(c.Q())
	if err != nil {
		return err
	}
	return c.Page("opening", "Stock", "Opening stock",
		map[string]any{"Branches": branches, "Shelves": byShelf(shelves), "Branch": c.Who.Branch})
}

// byShelf lists shelves by branch, the default one first.
func byShelf(all map[uint64]stock.Shelf) []stock.Shelf {
	list := make([]stock.Shelf, 0, len(all))
	for _, s := range all {
		list = append(list, s)
	}
	stock.SortShelves(list)
	return list
}

// typedLines are the lines that a page asks to have worked out.
func typedLines(c *kit.Call) ([]lists.OpeningLine, error) {
	var in struct {
		Lines []lists.OpeningLine `json:"lines"`
	}
	if err := json.Unmarshal(c.Body(), &in); err != nil {
		return nil, fault.Field("lines", "", "lines as JSON", "The lines can't be read.")
	}
	return in.Lines, nil
}

// openingLines is the table of the lines that are typed, worked out.
func openingLines(c *kit.Call) error {
	in, err := typedLines(c)
	if err != nil {
		return err
	}
	lines, worth, err := lists.TryOpening(c.Deed(), in)
	if err != nil {
		return err
	}
	units, wrong := decimal.Zero, 0
	for _, l := range lines {
		units = units.Add(l.Units())
		if l.Refused != nil {
			wrong++
		}
	}
	return c.Fragment("opening_lines", map[string]any{"Lines": lines, "Worth": worth, "Units": units, "Wrong": wrong,
		"Today": c.Terms.Day(c.Shop.Now()).Format(time.DateOnly)})
}

// openingRack is the rack on which what is on hand of one product is typed.
func openingRack(c *kit.Call) error {
	in, err := typedLines(c)
	if err != nil {
		return err
	}
	p, err := c.ProductOf()
	if err != nil {
		return err
	}
	typed, cost := map[uint64]string{}, ""
	for _, l := range in {
		typed[l.Variant] = l.Quantity
	}
	rack := kit.Hang(p, kit.RackNumber, "on hand", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		if cost == "" && !p.Goods(v).Cost.IsZero() {
			cost = kit.CostText(p.Goods(v).Cost, c.Terms.Minor())
		}
		return kit.CellView{Hint: "0", Value: typed[v.ID], Note: p.UnitOf.Format(v.OnHand) + " now"}, decimal.Zero
	})
	rack.Dense = true
	rack.Untotal()
	return c.Fragment("delivery_rack", map[string]any{"P": p, "Rack": rack, "Cost": cost, "Costs": true})
}
