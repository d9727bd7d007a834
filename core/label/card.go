package label

import (
	"itemrack/core/barcode"
	"itemrack/core/paper"
)

// A customer's card is as large as a bank card: 85.60 × 53.98 mm (ISO/IEC 7810, ID-1).
const (
	cardWidth  = 85.6
	cardHeight = 53.98
	cardEdge   = 6.0
	cardModule = 0.45
)

// CustomerCard draws a customer's card: the shop, the customer's name, and the code that is scanned, in
// Code 128 with its quiet zones.
func CustomerCard(shop, name, code string, measure paper.Measure) (paper.Page, error) {
	drawn, err := barcode.EncodeAs(barcode.AsCode128, code)
	if err != nil {
		return paper.Page{}, err
	}
	line := func(text string, face paper.Face, size, y float64) paper.Shape {
		fitted, fits := paper.Fit(measure, text, face, size, 3.2, cardWidth-2*cardEdge)
		if !fits {
			text = paper.Cut(measure, text, face, fitted, cardWidth-2*cardEdge)
		}
		return paper.Shape{X: cardEdge, Y: y, Text: text, Face: face, Size: fitted, Anchor: paper.Start}
	}
	x := (cardWidth-float64(drawn.Width())*cardModule)/2 + float64(drawn.QuietLeft)*cardModule
	page := paper.Page{Width: cardWidth, Height: cardHeight, Shapes: []paper.Shape{line(shop, paper.Text, 4, 10),
		line(name, paper.Bold, 6.5, 20),
		{X: cardWidth / 2, Y: cardHeight - 5, Text: code, Face: paper.Code, Size: 4, Anchor: paper.Middle}}}
	page.Shapes = append(page.Shapes, paper.Bars(drawn.Rows[0], x, 26, cardModule, 17)...)
	return page, nil
}
