package paper

import (
	"fmt"
	"strings"

	"itemrack/core/barcode"
)

// Listing is a list on A4, a page after another: a head with the code of what it is of, then rows under
// their columns. A row with a code has a barcode at its left.
type Listing struct {
	Shop, Title string
	Code        string   // of the whole, scanned from the first page; empty for none
	Says        []string // lines below the title
	Columns     []ListingColumn
	Rows        []ListingRow
	Foot        string // at the left of the foot of each page
}

// ListingColumn is a column of a listing: its head, and where its cells begin or end, in mm. Boxed cells
// are boxes to write into.
type ListingColumn struct {
	Head  string
	X     float64
	W     float64 // how wide a cell is at most
	Right bool    // cells end at X
	Boxed bool
}

// ListingRow is a row: Name stands bold in the first column, the lines of Under below it. A row of
// nothing but Head is a caption. Ticks are texts with a box each, to be ticked.
type ListingRow struct {
	Head  string
	Code  string
	Name  string
	Under []string
	Cells []string // of the columns after the first one
	Ticks []string
}

// The measures of a listing, in mm.
const (
	listWidth  = 210.0
	listHeight = 297.0
	listEdge   = 15.0
	listRow    = 13.5
	listLast   = 280.0
	codeWidth  = 40.0
	nameX      = 62.0
)

// NameX is where the first column of a listing begins, in mm.
const NameX = nameX

// Pages lays a listing out. No row is cut by the end of a page.
func (l Listing) Pages(measure Measure) []Page {
	var pages []Page
	y := 0.0
	begin := func() {
		p := Page{Width: listWidth, Height: listHeight}
		if y = 30; len(pages) == 0 {
			p.Shapes, y = l.top()
		} else {
			p.Shapes = []Shape{{X: listEdge, Y: 18, Text: l.Title, Face: Bold, Size: 4.4, Anchor: Start}}
		}
		p.Shapes = append(p.Shapes, l.heads(y-3)...)
		pages = append(pages, p)
		y += 3
	}
	begin()
	for _, r := range l.Rows {
		shapes, high := l.row(r, measure)
		if y+high > listLast {
			begin()
		}
		p := &pages[len(pages)-1]
		p.Shapes = append(p.Shapes, Moved(shapes, 0, y)...)
		y += high
	}
	for i := range pages {
		foot := fmt.Sprintf("page %d of %d", i+1, len(pages))
		pages[i].Shapes = append(pages[i].Shapes,
			Shape{X: listEdge, Y: listHeight - 9, Text: l.Foot, Face: Text, Size: 3, Anchor: Start, Gray: 90},
			Shape{X: listWidth - listEdge, Y: listHeight - 9, Text: foot, Face: Text, Size: 3, Anchor: End, Gray: 90})
	}
	return pages
}

// top is the head of the first page, and how far down it goes.
func (l Listing) top() ([]Shape, float64) {
	shapes := []Shape{{X: listEdge, Y: 18, Text: l.Shop, Face: Text, Size: 3.6, Anchor: Start},
		{X: listEdge, Y: 28, Text: l.Title, Face: Bold, Size: 6.4, Anchor: Start}}
	if l.Code != "" {
		shapes = append(shapes, Coded(l.Code, listWidth-listEdge-56, 13, 56)...)
	}
	y := 34.0
	for _, line := range l.Says {
		if line != "" {
			shapes = append(shapes, Shape{X: listEdge, Y: y, Text: line, Face: Text, Size: 3.6, Anchor: Start})
			y += 5
		}
	}
	return shapes, y + 7
}

func (l Listing) heads(y float64) []Shape {
	shapes := []Shape{{X: listEdge, Y: y + 1.4, W: listWidth - 2*listEdge, H: 0.25}}
	for _, c := range l.Columns {
		anchor := Start
		if c.Right {
			anchor = End
		}
		shapes = append(shapes, Shape{X: c.X, Y: y, Text: c.Head, Face: Text, Size: 3, Anchor: anchor, Gray: 90})
	}
	return shapes
}

// row draws a row from its top at 0, and says how high it is.
func (l Listing) row(r ListingRow, measure Measure) ([]Shape, float64) {
	if r.Head != "" {
		return []Shape{{X: listEdge, Y: 6, Text: r.Head, Face: Bold, Size: 4, Anchor: Start},
			{X: listEdge, Y: 7.6, W: listWidth - 2*listEdge, H: 0.15, Gray: 120}}, 10
	}
	var shapes []Shape
	if r.Code != "" {
		shapes = Coded(r.Code, listEdge, 0, codeWidth)
	}
	wide := listWidth - listEdge - nameX
	if len(l.Columns) > 1 {
		next := l.Columns[1]
		wide = next.X - nameX - 2
		if next.Right || next.Boxed {
			wide -= next.W
		}
	}
	shapes = append(shapes, Shape{X: nameX, Y: 3.4, Text: Cut(measure, r.Name, Bold, 3.6, wide), Face: Bold,
		Size: 3.6, Anchor: Start})
	y := 7.4
	for _, line := range r.Under {
		if line != "" {
			shapes = append(shapes, Shape{X: nameX, Y: y, Text: Cut(measure, line, Text, 3.2, wide), Face: Text,
				Size: 3.2, Anchor: Start})
			y += 3.8
		}
	}
	for i, cell := range r.Cells {
		if i+1 >= len(l.Columns) {
			break
		}
		shapes = append(shapes, l.Columns[i+1].cell(cell, measure)...)
	}
	ticks, high := ticked(r.Ticks, max(listRow, y), measure)
	return append(shapes, ticks...), high
}

func (c ListingColumn) cell(text string, measure Measure) []Shape {
	if c.Boxed {
		x, h := c.X-c.W, 8.0
		box := []Shape{{X: x, Y: 0, W: c.W, H: 0.2}, {X: x, Y: h, W: c.W, H: 0.2}, {X: x, Y: 0, W: 0.2, H: h},
			{X: c.X, Y: 0, W: 0.2, H: h + 0.2}}
		if text != "" {
			box = append(box, Shape{X: c.X - 1.5, Y: 5.4, Text: text, Face: Code, Size: 3.6, Anchor: End})
		}
		return box
	}
	anchor, face := Start, Text
	if c.Right {
		anchor, face = End, CodeBold
	}
	return []Shape{{X: c.X, Y: 3.4, Text: Cut(measure, text, face, 3.6, c.W), Face: face, Size: 3.6, Anchor: anchor}}
}

// ticked draws texts with a box each below a row, as many beside each other as fit, and says how far
// down they go.
func ticked(list []string, y float64, measure Measure) ([]Shape, float64) {
	if len(list) == 0 {
		return nil, y
	}
	var shapes []Shape
	x := nameX
	for _, text := range list {
		wide := 4.6 + measure(text, Code, 3.2) + 5
		if x > nameX && x+wide > listWidth-listEdge {
			x, y = nameX, y+5.4
		}
		const s = 3.4
		shapes = append(shapes, Shape{X: x, Y: y - 2.8, W: s, H: 0.2}, Shape{X: x, Y: y - 2.8 + s, W: s + 0.2, H: 0.2},
			Shape{X: x, Y: y - 2.8, W: 0.2, H: s}, Shape{X: x + s, Y: y - 2.8, W: 0.2, H: s},
			Shape{X: x + 4.6, Y: y, Text: text, Face: Code, Size: 3.2, Anchor: Start})
		x += wide
	}
	return shapes, y + 6
}

// Coded draws a code with its text underneath, no wider than so many mm; what no barcode can hold
// stands as text only.
func Coded(code string, x, y, width float64) []Shape {
	drawn, err := barcode.Encode(code)
	if err != nil || !drawn.Linear() {
		return []Shape{{X: x, Y: y + 4, Text: code, Face: Code, Size: 3, Anchor: Start}}
	}
	module := min(0.375, width/float64(drawn.Width()))
	at := x + float64(drawn.QuietLeft)*module
	return append(Bars(drawn.Rows[0], at, y, module, 8),
		Shape{X: at, Y: y + 11, Text: strings.TrimSpace(code), Face: Code, Size: 2.6, Anchor: Start})
}
