package sale

import (
	"itemrack/core/barcode"
	"itemrack/core/paper"
)

// ReceiptLine is a line of a receipt: what, how much of it, and what it came to.
type ReceiptLine struct {
	Name, Detail, Amount string
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

// The measures of a receipt, in mm: a roll of 80 mm.
const (
	rollWidth  = 80.0
	rollEdge   = 5.0
	lineHeight = 4.6
	textSize   = 3.3
	smallSize  = 2.8
)

// Page lays a receipt out on a roll; its length follows from what it says.
func (r Receipt) Page(measure paper.Measure) paper.Page {
	p := &roll{measure: measure, y: 9}
	p.text(r.Shop, paper.Bold, 5, paper.Middle)
	p.text(r.Branch, paper.Text, textSize, paper.Middle)
	p.y += 2
	p.text(r.Title, paper.Bold, 4, paper.Start)
	for _, under := range r.Under {
		p.text(under, paper.Text, smallSize, paper.Start)
	}
	p.rule()
	for _, l := range r.Lines {
		p.row(l.Name, l.Amount, paper.Text, paper.Code, textSize)
		if l.Detail != "" {
			for _, part := range paper.Wrap(measure, l.Detail, paper.Text, smallSize, rollWidth-2*rollEdge-20) {
				p.text(part, paper.Text, smallSize, paper.Start)
			}
		}
	}
	p.rule()
	for _, sum := range r.Sums {
		if sum.Large {
			p.y += 1
			p.row(sum.Label, sum.Amount, paper.Bold, paper.CodeBold, 4.6)
			continue
		}
		p.row(sum.Label, sum.Amount, paper.Text, paper.Code, textSize)
	}
	p.symbol(r.Number)
	p.text(r.Foot, paper.Text, smallSize, paper.Middle)
	return paper.Page{Width: rollWidth, Height: p.y + 4, Shapes: p.shapes}
}

// roll collects shapes from the top down; y is the next baseline.
type roll struct {
	measure paper.Measure
	shapes  []paper.Shape
	y       float64
}

func (p *roll) text(text string, face paper.Face, size float64, anchor paper.Anchor) {
	if text == "" {
		return
	}
	x := rollEdge
	if anchor == paper.Middle {
		x = rollWidth / 2
	}
	for _, line := range paper.Wrap(p.measure, text, face, size, rollWidth-2*rollEdge) {
		p.shapes = append(p.shapes, paper.Shape{X: x, Y: p.y, Text: line, Face: face, Size: size, Anchor: anchor})
		p.y += max(lineHeight, size*1.2)
	}
}

// row sets a text and an amount on one line; a long text wraps before it.
func (p *roll) row(label, amount string, face, code paper.Face, size float64) {
	room := rollWidth - 2*rollEdge - p.measure(amount, code, size) - 2
	for i, line := range paper.Wrap(p.measure, label, face, size, room) {
		p.shapes = append(p.shapes,
			paper.Shape{X: rollEdge, Y: p.y, Text: line, Face: face, Size: size, Anchor: paper.Start})
		if i == 0 {
			p.shapes = append(p.shapes,
				paper.Shape{X: rollWidth - rollEdge, Y: p.y, Text: amount, Face: code, Size: size, Anchor: paper.End})
		}
		p.y += max(lineHeight, size*1.2)
	}
}

func (p *roll) rule() {
	p.shapes = append(p.shapes, paper.Shape{X: rollEdge, Y: p.y - 2.5, W: rollWidth - 2*rollEdge, H: 0.2, Gray: 90})
	p.y += 2.2
}

// symbol draws the number as Code 128 with its quiet zones.
func (p *roll) symbol(number string) {
	drawn, err := barcode.EncodeAs(barcode.AsCode128, number)
	if err != nil {
		return // document numbers are ASCII; nothing else comes here
	}
	module := min(0.375, (rollWidth-4)/float64(drawn.Width()))
	x := (rollWidth-float64(drawn.Width())*module)/2 + float64(drawn.QuietLeft)*module
	p.shapes = append(p.shapes, paper.Bars(drawn.Rows[0], x, p.y, module, 12)...)
	p.y += 16
	p.text(number, paper.Code, textSize, paper.Middle)
}
