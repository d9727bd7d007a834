// Package label lays out price labels in millimetres. Its main rule: the symbol
// keeps its quiet zones and size and colour are never cut; a name too long
// gives way to the short name.
package label

import (
	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/paper"
)

// Item is what a label says.
type Item struct {
	Name      string
	ShortName string
	Detail    string // colour and size
	Price     string
	Barcode   string
}

// Size is the size of a label in mm.
type Size struct{ Width, Height float64 }

// Small is the label of 40 × 25 mm.
var Small = Size{40, 25}

// Layout is how labels lie on a page: columns and rows of Size from a margin, no
// gap between them. A roll is a page of one label.
type Layout struct {
	Code          string
	Name          string
	Size          Size
	Columns, Rows int
	Left, Top     float64
	Width, Height float64 // of the page
}

// Layouts are the layouts there are: a sheet of 55 on A4 and a roll.
var Layouts = []Layout{
	{Code: "a4-40x25", Name: "A4 sheet, 55 labels of 40 × 25 mm", Size: Small, Columns: 5, Rows: 11, Left: 5, Top: 11, Width: 210, Height: 297},
	{Code: "roll-40x25", Name: "Roll, labels of 40 × 25 mm", Size: Small, Columns: 1, Rows: 1, Width: 40, Height: 25},
}

// LayoutByCode finds a layout; an empty code is the sheet.
func LayoutByCode(code string) (Layout, error) {
	if code == "" {
		return Layouts[0], nil
	}
	for _, l := range Layouts {
		if l.Code == code {
			return l, nil
		}
	}
	return Layout{}, fault.Field("layout", code, "a4-40x25 or roll-40x25", "There is no label layout %q.", code)
}

// PerPage is how many labels a page holds.
func (l Layout) PerPage() int { return l.Columns * l.Rows }

// The measures of a label, in mm. The module of 0.3 mm is 91 % of the nominal
// 0.33 mm; GS1 General Specifications section 5.2.6.6 allows 80 to 200 %.
const (
	edge     = 1.5
	module   = 0.3
	nameSize = 2.8
	digits   = 2.3
)

// Draw lays out one label. It returns remarks in words where something had to
// give way.
func Draw(item Item, size Size, measure paper.Measure) ([]paper.Shape, []string, error) {
	symbol, err := barcode.Encode(item.Barcode)
	if err != nil {
		return nil, nil, fault.Field("barcode", item.Barcode, "ASCII text", "The barcode %q can't be drawn.", item.Barcode)
	}
	var remarks []string
	width := size.Width - 2*edge
	name := item.Name
	em, fits := paper.Fit(measure, name, paper.Bold, nameSize, 2.3, width)
	if !fits && item.ShortName != "" {
		name = item.ShortName
		em, fits = paper.Fit(measure, name, paper.Bold, nameSize, 2.0, width)
		remarks = append(remarks, "The name is too long for the label; the short name is printed.")
	}
	if !fits {
		name = paper.Cut(measure, name, paper.Bold, em, width)
		remarks = append(remarks, "The name is too long for the label and is cut.")
	}
	shapes := []paper.Shape{{X: edge, Y: 4.1, Text: name, Face: paper.Bold, Size: em, Anchor: paper.Start}}
	const priceSize = 3.3
	priceWidth := measure(item.Price, paper.CodeBold, priceSize)
	shapes = append(shapes, paper.Shape{X: size.Width - edge, Y: 7.8, Text: item.Price, Face: paper.CodeBold, Size: priceSize, Anchor: paper.End})
	if item.Detail != "" {
		em, fits := paper.Fit(measure, item.Detail, paper.Text, 2.7, 1.2, width-priceWidth-1)
		if !fits {
			return nil, nil, fault.Refuse("label", item.Detail, "a larger label", "%q does not fit on this label, and size and colour are never cut.", item.Detail)
		}
		if em < 2 {
			remarks = append(remarks, "Size and colour are printed small to fit.")
		}
		shapes = append(shapes, paper.Shape{X: edge, Y: 7.8, Text: item.Detail, Face: paper.Text, Size: em, Anchor: paper.Start})
	}
	bars := module
	if room := size.Width / float64(symbol.Width()); room < bars {
		bars = room
	}
	if bars < 0.19 {
		return nil, nil, fault.Refuse("label", item.Barcode, "a larger label or a shorter barcode", "The barcode %s is too long for this label: its bars would be too thin to scan.", item.Barcode)
	}
	left := (size.Width-float64(symbol.Width())*bars)/2 + float64(symbol.QuietLeft)*bars
	top, bottom := 9.2, size.Height-edge-digits-0.4
	shapes = append(shapes, paper.Bars(symbol.Modules, left, top, bars, bottom-top)...)
	shapes = append(shapes, paper.Shape{X: size.Width / 2, Y: size.Height - edge, Text: symbol.Text, Face: paper.Code, Size: digits, Anchor: paper.Middle})
	return shapes, remarks, nil
}

// Order is how many labels of an item are wanted.
type Order struct {
	Item   Item
	Copies int
}

// MaxLabels bounds one print.
const MaxLabels = 10_000

// Sheet lays labels out on pages, row by row. It returns the remarks of all
// items, each with its name.
func Sheet(layout Layout, orders []Order, measure paper.Measure) ([]paper.Page, []string, error) {
	var pages []paper.Page
	var remarks []string
	n := 0
	for _, o := range orders {
		if o.Copies < 0 || n+o.Copies > MaxLabels {
			return nil, nil, fault.Field("copies", o.Copies, "0 to 10,000 in all", "One print takes 10,000 labels at most.")
		}
		if o.Copies == 0 {
			continue
		}
		shapes, said, err := Draw(o.Item, layout.Size, measure)
		if err != nil {
			return nil, nil, err
		}
		for _, s := range said {
			remarks = append(remarks, o.Item.Name+": "+s)
		}
		for range o.Copies {
			place := n % layout.PerPage()
			if place == 0 {
				pages = append(pages, paper.Page{Width: layout.Width, Height: layout.Height})
			}
			x := layout.Left + float64(place%layout.Columns)*layout.Size.Width
			y := layout.Top + float64(place/layout.Columns)*layout.Size.Height
			page := &pages[len(pages)-1]
			page.Shapes = append(page.Shapes, paper.Moved(shapes, x, y)...)
			n++
		}
	}
	if n == 0 {
		return nil, nil, fault.Field("copies", 0, "at least one label", "Say how many labels of which variant to print.")
	}
	return pages, remarks, nil
}
