package web

import (
	"encoding/json"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/shop"
	"itemrack/store"
)

// openStock is the page on which opening stock is typed.
func (c *call) openStock() error {
	branches, err := c.q().Branches()
	if err != nil {
		return err
	}
	shelves, err := c.q().Shelves()
	if err != nil {
		return err
	}
	return c.page("opening", "Stock", "Opening stock", map[string]any{"Branches": branches, "Shelves": byShelf(shelves), "Branch": c.who.Branch})
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
func (c *call) typedLines() ([]shop.GoodsLine, error) {
	var in struct {
		Lines []shop.GoodsLine `json:"lines"`
	}
	if err := json.Unmarshal(c.Body(), &in); err != nil {
		return nil, fault.Field("lines", "", "lines as JSON", "The lines can't be read.")
	}
	return in.Lines, nil
}

// openingLines is the table of the lines that are typed, worked out.
func (c *call) openingLines() error {
	in, err := c.typedLines()
	if err != nil {
		return err
	}
	lines, worth, err := c.server.shop.TryOpening(c.ctx, c.who, in)
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
	return c.fragment("opening_lines", map[string]any{"Lines": lines, "Worth": worth, "Units": units, "Wrong": wrong})
}

// openingRack is the rack on which what is on hand of one product is typed.
func (c *call) openingRack() error {
	in, err := c.typedLines()
	if err != nil {
		return err
	}
	p, err := c.productOf()
	if err != nil {
		return err
	}
	typed, cost := map[uint64]string{}, ""
	for _, l := range in {
		typed[l.Variant] = l.Quantity
	}
	rack := hang(p, rackNumber, "on hand", func(v store.VariantView) (cellView, decimal.Decimal) {
		if cost == "" && !p.Goods(v).Cost.IsZero() {
			cost = costText(p.Goods(v).Cost)
		}
		return cellView{Hint: "0", Value: typed[v.ID], Note: p.UnitOf.Format(v.OnHand) + " now"}, decimal.Zero
	})
	rack.Dense = true
	rack.untotal()
	return c.fragment("delivery_rack", map[string]any{"P": p, "Rack": rack, "Cost": cost})
}

func apiScanOpening(c *call, in shop.OpeningScan) (shop.OpeningScanned, error) {
	return c.server.shop.ScanOpening(c.ctx, c.who, in)
}
