package kit

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/text"
	"itemrack/store/goods"
)

// The modes of a rack: what its cells are for.
const (
	RackLook   = "look"   // choose a cell to see its swing tag
	RackPick   = "pick"   // Enter takes the cell
	RackNumber = "number" // type a figure into each cell
	RackMake   = "make"   // switch cells on and off
)

// RackView is the rack component: one for all of its uses.
type RackView struct {
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
	Cells               []CellView
}

// CellView is one hanger. Gauge and Notch are in percent of its length; a Notch
// below 0 is left out.
type CellView struct {
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
	Outline  bool // ordered: drawn in outline, and Filled percent of it with ink
	Filled   int
	Under    string // said below it: "1 over"
	Halves   []HalfView
}

// HalfView is what one of two people says of a cell, where they differ; an Open one has not said it.
type HalfView struct {
	Figure, Name string
	Open         bool
}

// Ink is how far down the ink of a hanger begins, in percent.
func (c CellView) Ink() int { return 100 - c.Filled }

// Untotal leaves sums out, where what hangs can't be added up.
func (r *RackView) Untotal() {
	r.Totals, r.Total = nil, ""
	for i := range r.Rails {
		r.Rails[i].Total = ""
	}
}

// Tell says beside each rail what says makes of the variants that hang on it, in place of
// sums.
func (r *RackView) Tell(says func(variants []uint64) string) {
	r.Untotal()
	for i, rail := range r.Rails {
		var variants []uint64
		for _, c := range rail.Cells {
			if c.Made {
				variants = append(variants, c.Variant)
			}
		}
		r.Rails[i].Count = says(variants)
	}
}

// Hang builds a rack from a product; figure says what hangs in each cell, and
// its number for the totals.
func Hang(p goods.ProductView, mode, what string,
	figure func(v goods.VariantView) (CellView, decimal.Decimal)) RackView {
	built := p.Rack()
	most := decimal.New(1, 0)
	for _, v := range p.Variants {
		most = decimal.Max(most, v.ForSale)
		if v.RestockLevel != nil {
			most = decimal.Max(most, v.RestockLevel.Mul(decimal.New(2, 0)))
		}
	}
	view := RackView{
		Name:    p.Name,
		Mode:    mode,
		What:    what,
		Down:    built.Down,
		Across:  built.Across,
		Columns: built.Columns,
		Dense:   len(built.Rails) > 4,
	}
	columns := make([]decimal.Decimal, len(built.Columns))
	all := decimal.Zero
	for _, rail := range built.Rails {
		row := railView{Label: rail.Label}
		row.Swatch, _ = catalog.ParseSwatch(rail.Swatch) // it was checked before it was kept
		sum, n := decimal.Zero, 0
		for i, slot := range rail.Slots {
			cell := CellView{Label: slot.Choice.Label()}
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
			row.Count = text.Plural(n, strings.ToLower(built.Across),
				strings.TrimSuffix(strings.ToLower(built.Across), "s")+"s")
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
func (c *CellView) gauge(v goods.VariantView, most decimal.Decimal) {
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

// OnHandCell hangs what is on hand, with the gauge of what is for sale.
func OnHandCell(p goods.ProductView) func(goods.VariantView) (CellView, decimal.Decimal) {
	return func(v goods.VariantView) (CellView, decimal.Decimal) {
		return CellView{
			Figure:   p.UnitOf.Format(v.OnHand),
			HasGauge: p.Tracking != "not stocked",
			Retired:  v.Retired,
		}, v.OnHand
	}
}
