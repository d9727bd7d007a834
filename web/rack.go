package web

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/store"
)

// The modes of a rack: what its cells are for.
const (
	rackLook   = "look"   // choose a cell to see its swing tag
	rackPick   = "pick"   // Enter takes the cell
	rackNumber = "number" // type a figure into each cell
	rackMake   = "make"   // switch cells on and off
)

// rackView is the rack component: one for all of its uses.
type rackView struct {
	Name    string // of the rack, for people who hear it
	Mode    string
	What    string // what the figures are: "on hand", "labels"
	Add     bool   // a typed figure adds to what is there
	Down    string
	Across  string
	Columns []string
	Rails   []railView
	Totals  []string
	Total   string
	Dense   bool
}

type railView struct {
	Label, Count, Total string
	Swatch              catalog.Swatch
	Cells               []cellView
}

// cellView is one hanger. Gauge and Notch are in percent of its length; a Notch
// below 0 is left out.
type cellView struct {
	Made     bool
	Variant  uint64
	Label    string
	Choice   string // as JSON
	Figure   string
	Value    string // typed already
	Hint     string // placeholder
	Note     string // "low"
	Gauge    int
	Notch    int
	HasGauge bool
	Off      bool // can't be typed into here
	Low      bool // the note asks for attention
	Retired  bool // no longer bought
	Wide     bool // holds a code
}

// untotal leaves sums out, where what hangs can't be added up.
func (r *rackView) untotal() {
	r.Totals, r.Total = nil, ""
	for i := range r.Rails {
		r.Rails[i].Total = ""
	}
}

// hang builds a rack from a product; figure says what hangs in each cell, and
// its number for the totals.
func hang(p store.ProductView, mode, what string, figure func(v store.VariantView) (cellView, decimal.Decimal)) rackView {
	built := p.Rack()
	most := decimal.New(1, 0)
	for _, v := range p.Variants {
		most = decimal.Max(most, v.ForSale)
		if v.RestockLevel != nil {
			most = decimal.Max(most, v.RestockLevel.Mul(decimal.New(2, 0)))
		}
	}
	view := rackView{Name: p.Name, Mode: mode, What: what, Down: built.Down, Across: built.Across, Columns: built.Columns, Dense: len(built.Rails) > 4}
	columns := make([]decimal.Decimal, len(built.Columns))
	all := decimal.Zero
	for _, rail := range built.Rails {
		row := railView{Label: rail.Label}
		row.Swatch, _ = catalog.ParseSwatch(rail.Swatch) // it was checked before it was kept
		sum, n := decimal.Zero, 0
		for i, slot := range rail.Slots {
			cell := cellView{Label: slot.Choice.Label()}
			if slot.Variant != catalog.NotMade {
				v := p.Variants[slot.Variant]
				var number decimal.Decimal
				cell, number = figure(v)
				cell.Made, cell.Variant, cell.Label = true, v.ID, v.Label
				if cell.HasGauge {
					cell.gauge(v, most)
				}
				if cell.Retired && cell.Note == "" {
					cell.Note = "selling out"
				}
				sum, columns[i], all = sum.Add(number), columns[i].Add(number), all.Add(number)
				if !cell.Off {
					n++
				}
			}
			row.Cells = append(row.Cells, cell)
		}
		row.Total = p.UnitOf.Format(sum)
		if built.Across != "" {
			row.Count = plural(n, strings.ToLower(built.Across), strings.TrimSuffix(strings.ToLower(built.Across), "s")+"s")
		}
		view.Rails = append(view.Rails, row)
	}
	for _, c := range columns {
		view.Totals = append(view.Totals, p.UnitOf.Format(c))
	}
	view.Total = p.UnitOf.Format(all)
	return view
}

// gauge sets the level gauge: what is for sale, and the notch at the restock
// level, on a scale that is the same all over the rack.
func (c *cellView) gauge(v store.VariantView, most decimal.Decimal) {
	percent := func(d decimal.Decimal) int {
		return int(d.Mul(decimal.New(100, 0)).DivRound(most, 0).IntPart())
	}
	c.Gauge, c.Notch = percent(v.ForSale), -1
	if v.RestockLevel != nil && v.RestockLevel.IsPositive() {
		c.Notch = min(percent(*v.RestockLevel), 100)
	}
	if v.Low {
		c.Note, c.Low = "low", true
	}
}

// onHandCell hangs what is on hand, with the gauge of what is for sale.
func onHandCell(p store.ProductView) func(store.VariantView) (cellView, decimal.Decimal) {
	return func(v store.VariantView) (cellView, decimal.Decimal) {
		return cellView{Figure: p.UnitOf.Format(v.OnHand), HasGauge: p.Tracking != "not stocked", Retired: v.Retired}, v.OnHand
	}
}
