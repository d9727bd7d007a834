package label

import (
	"itemrack/core/barcode"
	"itemrack/core/paper"
)

// ShelfLabel is what the label of a shelf says: its name, its branch, and the code that is scanned.
type ShelfLabel struct {
	Name   string
	Branch string
	Code   string
}

// The sheet of shelf labels: A4, two columns of 90 × 36 mm with 8 mm between them, seven rows.
const (
	shelfWidth   = 90.0
	shelfHeight  = 36.0
	shelfLeft    = 11.0
	shelfTop     = 14.0
	shelfBetween = 8.0
	shelfColumns = 2
	shelfRows    = 7
	shelfModule  = 0.5 // of the bars, to be read from a step away
)

// ShelfSheets lays shelf labels out on A4.
func ShelfSheets(labels []ShelfLabel, measure paper.Measure) ([]paper.Page, error) {
	var pages []paper.Page
	for n, l := range labels {
		place := n % (shelfColumns * shelfRows)
		if place == 0 {
			pages = append(pages, paper.Page{Width: 210, Height: 297})
		}
		shapes, err := l.draw(measure)
		if err != nil {
			return nil, err
		}
		x := shelfLeft + float64(place%shelfColumns)*(shelfWidth+shelfBetween)
		y := shelfTop + float64(place/shelfColumns)*(shelfHeight+2)
		page := &pages[len(pages)-1]
		page.Shapes = append(page.Shapes, paper.Moved(shapes, x, y)...)
	}
	return pages, nil
}

// draw draws one label from its corner; a long name is written smaller, then cut.
func (l ShelfLabel) draw(measure paper.Measure) ([]paper.Shape, error) {
	const edge = 4.0
	drawn, err := barcode.EncodeAs(barcode.AsCode128, l.Code)
	if err != nil {
		return nil, err
	}
	size, fits := paper.Fit(measure, l.Name, paper.Bold, 9, 5, shelfWidth-2*edge)
	name := l.Name
	if !fits {
		name = paper.Cut(measure, l.Name, paper.Bold, size, shelfWidth-2*edge)
	}
	at := edge + float64(drawn.QuietLeft)*shelfModule
	shapes := []paper.Shape{{X: edge, Y: 11, Text: name, Face: paper.Bold, Size: size, Anchor: paper.Start},
		{X: shelfWidth - edge, Y: shelfHeight - 3, Text: l.Code, Face: paper.Code, Size: 3.4, Anchor: paper.End},
		{X: edge, Y: shelfHeight - 3, Text: paper.Cut(measure, l.Branch, paper.Text, 3.4, 50), Face: paper.Text,
			Size: 3.4, Anchor: paper.Start}}
	return append(shapes, paper.Bars(drawn.Rows[0], at, 14, shelfModule, 13)...), nil
}
