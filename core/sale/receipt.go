package sale

import (
	"fmt"

	"itemrack/core/barcode"
	"itemrack/core/paper"
)

// ReceiptLine is a line of a receipt: what, how much of it, what it came to, and what was given
// off it.
type ReceiptLine struct {
	Name, Detail, Amount string
	Less, LessAmount     string
}

// ReceiptSum is a figure under the lines; Large stands out.
type ReceiptSum struct {
	Label, Amount string
	Large         bool
}

// Receipt is what a receipt says, in the words and figures to print.
type Receipt struct {
	Shop, Branch string
	Title        string // "Sale Q1-00318"
	Number       string // printed as a barcode
	Under        []string
	Lines        []ReceiptLine
	Sums         []ReceiptSum
	Foot         string
}

// measures are those of a receipt on a kind of paper, in mm; sizes grow by Scale.
type measures struct{ width, edge, height, scale float64 }

// A receipt comes on a roll of 80 mm, or on A4.
var (
	onRoll  = measures{width: 80, edge: 5, scale: 1}
	onSheet = measures{width: 210, edge: 30, height: 297, scale: 1.2}
)

const (
	lineHeight = 4.6
	textSize   = 3.3
	smallSize  = 2.8
)

// Page lays a receipt out on a roll; its length follows from what it says.
func (r Receipt) Page(measure paper.Measure) paper.Page {
	p := r.laid(measure, onRoll)
	return paper.Page{Width: onRoll.width, Height: p.y + 4, Shapes: p.shapes}
}

// Sheets lays a receipt out on A4.
func (r Receipt) Sheets(measure paper.Measure) []paper.Page {
	p := r.laid(measure, onSheet)
	pages := make([]paper.Page, 0, len(p.full)+1)
	for _, shapes := range append(p.full, p.shapes) {
		pages = append(pages, paper.Page{Width: onSheet.width, Height: onSheet.height, Shapes: shapes})
	}
	for i := range pages {
		pages[i].Shapes = append(pages[i].Shapes, paper.Shape{X: onSheet.width - onSheet.edge, Y: onSheet.height - 10,
			Text: fmt.Sprintf("%s · page %d of %d", r.Number, i+1, len(pages)), Face: paper.Text, Size: 3,
			Anchor: paper.End, Gray: 90})
	}
	return pages
}

// laid lays a receipt out from the top down.
func (r Receipt) laid(measure paper.Measure, on measures) *roll {
	p := &roll{measure: measure, measures: on, y: 9}
	if on.height > 0 {
		p.y = 24
	}
	p.text(r.Shop, paper.Bold, 5, paper.Middle)
	p.text(r.Branch, paper.Text, textSize, paper.Middle)
	p.y += 2
	p.text(r.Title, paper.Bold, 4, paper.Start)
	for _, under := range r.Under {
		p.text(under, paper.Text, smallSize, paper.Start)
	}
	p.rule()
	for _, l := range r.Lines {
		p.room(14)
		p.row(l.Name, l.Amount, paper.Text, paper.Code, textSize)
		if l.Detail != "" {
			for _, part := range paper.Wrap(measure, l.Detail, paper.Text, smallSize*on.scale, p.width-2*p.edge-20) {
				p.text(part, paper.Text, smallSize, paper.Start)
			}
		}
		if l.Less != "" {
			p.row(l.Less, l.LessAmount, paper.Text, paper.Code, smallSize)
		}
	}
	p.rule()
	for _, sum := range r.Sums {
		p.room(8)
		if sum.Large {
			p.y += 1
			p.row(sum.Label, sum.Amount, paper.Bold, paper.CodeBold, 4.6)
			continue
		}
		p.row(sum.Label, sum.Amount, paper.Text, paper.Code, textSize)
	}
	p.room(26)
	p.symbol(r.Number)
	p.text(r.Foot, paper.Text, smallSize, paper.Middle)
	return p
}

// roll collects shapes from the top down; y is the next baseline, full the sheets that are full.
type roll struct {
	measures
	measure paper.Measure
	shapes  []paper.Shape
	full    [][]paper.Shape
	y       float64
}

// room begins another sheet where so much would not fit on this one.
func (p *roll) room(height float64) {
	if p.height > 0 && p.y+height*p.scale > p.height-20 {
		p.full, p.shapes, p.y = append(p.full, p.shapes), nil, 24
	}
}

func (p *roll) text(text string, face paper.Face, size float64, anchor paper.Anchor) {
	if text == "" {
		return
	}
	size *= p.scale
	x := p.edge
	if anchor == paper.Middle {
		x = p.width / 2
	}
	for _, line := range paper.Wrap(p.measure, text, face, size, p.width-2*p.edge) {
		p.shapes = append(p.shapes, paper.Shape{X: x, Y: p.y, Text: line, Face: face, Size: size, Anchor: anchor})
		p.y += max(lineHeight*p.scale, size*1.2)
	}
}

// row sets a text and an amount on one line; a long text wraps before it.
func (p *roll) row(label, amount string, face, code paper.Face, size float64) {
	size *= p.scale
	room := p.width - 2*p.edge - p.measure(amount, code, size) - 2
	for i, line := range paper.Wrap(p.measure, label, face, size, room) {
		p.shapes = append(p.shapes,
			paper.Shape{X: p.edge, Y: p.y, Text: line, Face: face, Size: size, Anchor: paper.Start})
		if i == 0 {
			p.shapes = append(p.shapes,
				paper.Shape{X: p.width - p.edge, Y: p.y, Text: amount, Face: code, Size: size, Anchor: paper.End})
		}
		p.y += max(lineHeight*p.scale, size*1.2)
	}
}

func (p *roll) rule() {
	p.shapes = append(p.shapes, paper.Shape{X: p.edge, Y: p.y - 2.5, W: p.width - 2*p.edge, H: 0.2, Gray: 90})
	p.y += 2.2
}

// symbol draws the number as Code 128 with its quiet zones.
func (p *roll) symbol(number string) {
	drawn, err := barcode.EncodeAs(barcode.AsCode128, number)
	if err != nil {
		return // document numbers are ASCII; nothing else comes here
	}
	module := min(0.375, (p.width-4)/float64(drawn.Width()))
	x := (p.width-float64(drawn.Width())*module)/2 + float64(drawn.QuietLeft)*module
	p.shapes = append(p.shapes, paper.Bars(drawn.Rows[0], x, p.y, module, 12)...)
	p.y += 16
	p.text(number, paper.Code, textSize, paper.Middle)
}
