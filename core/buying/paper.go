package buying

import (
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/paper"
)

// Paper is a purchase order as it goes to the supplier. Moments are days at midnight UTC.
type Paper struct {
	Shop, Branch      string
	Number            string
	Supplier, Account string // our number there
	Day               time.Time
	Wanted            *time.Time
	Note              string
	Currency          money.Currency
	Lines             []PaperLine
}

// PaperLine is a line of an order on paper. Code is our barcode, or SKU; Theirs the
// supplier's number; GTIN the code where it is one of GS1's. Unit is its code: pc, m or kg.
type PaperLine struct {
	Code, SKU, Theirs string
	Name, Label       string
	Unit, Pack        string
	Ordered
}

// Totals is what the order comes to.
func (p Paper) Totals() OrderTotals {
	lines := make([]Ordered, len(p.Lines))
	for i, l := range p.Lines {
		lines[i] = l.Ordered
	}
	return OrderOf(SupplierTerms{}, lines, p.Currency.Minor)
}

// Quantity writes a line's units, and its packs where it has them.
func (l PaperLine) Words() string {
	text := l.Quantity.String() + " " + l.Unit
	packs, loose := l.Packs()
	if l.Pack == "" || packs.IsZero() {
		return text
	}
	said := packs.String() + " × " + l.Pack
	if loose.IsPositive() {
		said += " + " + loose.String()
	}
	return said + " = " + text
}

// The measures of an order on A4, in mm.
const (
	sheetWidth  = 210.0
	sheetHeight = 297.0
	sheetEdge   = 15.0
	sheetRow    = 13.5
	sheetFirst  = 74.0 // where the lines of the first page begin
	sheetNext   = 32.0
	sheetLast   = 262.0 // below which no line begins
)

// columns of the lines: left edges, or right ones of figures.
const (
	colCode   = sheetEdge
	colName   = 58.0
	colWords  = 150.0
	colPrice  = 174.0
	colNet    = sheetWidth - sheetEdge
	nameWidth = 56.0
)

// Pages lays the order out on A4: a barcode for its number, and one for each line.
func (p Paper) Pages(measure paper.Measure) []paper.Page {
	var pages []paper.Page
	rest := p.Lines
	for len(pages) == 0 || len(rest) > 0 {
		page := paper.Page{Width: sheetWidth, Height: sheetHeight}
		y := sheetNext
		if len(pages) == 0 {
			page.Shapes = p.head(measure)
			y = sheetFirst
		} else {
			page.Shapes = []paper.Shape{{X: sheetEdge, Y: 20, Text: "Order " + p.Number, Face: paper.Bold, Size: 4.4,
				Anchor: paper.Start}}
		}
		page.Shapes = append(page.Shapes, heads(y-4)...)
		for len(rest) > 0 && y <= sheetLast {
			page.Shapes = append(page.Shapes, p.line(rest[0], y, measure)...)
			rest, y = rest[1:], y+sheetRow
		}
		if len(rest) == 0 {
			page.Shapes = append(page.Shapes, p.sums(y)...)
		}
		pages = append(pages, page)
	}
	for i := range pages {
		pages[i].Shapes = append(pages[i].Shapes, paper.Shape{X: colNet, Y: sheetHeight - 10,
			Text: fmt.Sprintf("%s · page %d of %d", p.Number, i+1, len(pages)),
			Face: paper.Text, Size: 3, Anchor: paper.End, Gray: 90})
	}
	return pages
}

// head is the top of the first page.
func (p Paper) head(measure paper.Measure) []paper.Shape {
	say := func(x, y float64, text string, face paper.Face, size float64) paper.Shape {
		return paper.Shape{X: x, Y: y, Text: text, Face: face, Size: size, Anchor: paper.Start}
	}
	shapes := []paper.Shape{say(sheetEdge, 20, p.Shop, paper.Bold, 5), say(sheetEdge, 26, p.Branch, paper.Text, 3.6),
		say(sheetEdge, 38, "Order "+p.Number, paper.Bold, 7), say(sheetEdge, 45, "of "+p.Day.Format("2 January 2006"),
			paper.Text, 3.6),
		say(110, 38, p.Supplier, paper.Bold, 4.4)}
	if p.Account != "" {
		shapes = append(shapes, say(110, 44, "our number with you: "+p.Account, paper.Text, 3.6))
	}
	if p.Wanted != nil {
		shapes = append(shapes, say(110, 50, "wanted by "+p.Wanted.Format("2 January 2006"), paper.Text, 3.6))
	}
	for i, line := range paper.Wrap(measure, p.Note, paper.Text, 3.6, sheetWidth-2*sheetEdge) {
		if line != "" && i < 2 {
			shapes = append(shapes, say(sheetEdge, 56+5*float64(i), line, paper.Text, 3.6))
		}
	}
	return append(shapes, paper.Coded(p.Number, 128, 14, 67)...)
}

// heads are the heads of the lines' columns.
func heads(y float64) []paper.Shape {
	shapes := []paper.Shape{{X: sheetEdge, Y: y + 1.2, W: sheetWidth - 2*sheetEdge, H: 0.25}}
	for _, h := range []struct {
		x      float64
		text   string
		anchor paper.Anchor
	}{{colCode, "Code", paper.Start}, {colName, "Goods", paper.Start}, {colWords, "Quantity", paper.End}, {colPrice,
		"Price", paper.End}, {colNet, "Net", paper.End}} {
		shapes = append(shapes, paper.Shape{X: h.x, Y: y, Text: h.text, Face: paper.Text, Size: 3, Anchor: h.anchor,
			Gray: 90})
	}
	return shapes
}

// line draws one line with its barcode.
func (p Paper) line(l PaperLine, y float64, measure paper.Measure) []paper.Shape {
	shapes := paper.Coded(l.Code, colCode, y, colName-colCode-6)
	say := func(x, at float64, text string, face paper.Face, size float64, anchor paper.Anchor) {
		if text != "" {
			shapes = append(shapes, paper.Shape{X: x, Y: at, Text: text, Face: face, Size: size, Anchor: anchor})
		}
	}
	say(colName, y+3.4, paper.Cut(measure, l.Name, paper.Bold, 3.6, nameWidth), paper.Bold, 3.6, paper.Start)
	say(colName, y+7.4, paper.Cut(measure, l.Label, paper.Text, 3.4, nameWidth), paper.Text, 3.4, paper.Start)
	theirs := l.SKU
	if l.Theirs != "" {
		theirs = "yours " + l.Theirs + " · ours " + l.SKU
	}
	say(colName, y+11, paper.Cut(measure, theirs, paper.Code, 2.8, nameWidth), paper.Code, 2.8, paper.Start)
	say(colWords, y+3.4, l.Words(), paper.CodeBold, 3.6, paper.End)
	minor := p.Currency.Minor
	say(colPrice, y+3.4, plainCost(l.Price, minor), paper.Code, 3.4, paper.End)
	if l.Discount.IsPositive() {
		say(colPrice, y+7.4, "less "+l.Discount.String()+" %", paper.Text, 3, paper.End)
	}
	say(colNet, y+3.4, minor.Text(l.Net(minor)), paper.Code, 3.4, paper.End)
	return shapes
}

// plainCost writes a price with the decimals of the currency at least.
func plainCost(amount decimal.Decimal, minor money.Minor) string {
	if amount.Equal(minor.Round(amount)) {
		return minor.Text(amount)
	}
	return amount.String()
}

// sums is what stands under the lines.
func (p Paper) sums(y float64) []paper.Shape {
	t := p.Totals()
	minor := p.Currency.Minor
	shapes := []paper.Shape{{X: colWords - 30, Y: y, W: colNet - colWords + 30, H: 0.25}}
	for i, s := range []struct {
		label  string
		amount decimal.Decimal
	}{{"Net", t.Net}, {"Tax", t.Tax}, {"In all, " + p.Currency.Code, t.Gross}} {
		at := y + 6 + 5.5*float64(i)
		shapes = append(shapes, paper.Shape{X: colPrice, Y: at, Text: s.label, Face: paper.Text, Size: 3.6,
			Anchor: paper.End},
			paper.Shape{X: colNet, Y: at, Text: minor.Text(s.amount), Face: paper.CodeBold, Size: 3.6,
				Anchor: paper.End})
	}
	return shapes
}
