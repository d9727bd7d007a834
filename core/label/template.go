// Package label lays out labels and tags in millimetres. Its main rules: a
// symbol keeps its quiet zones and the module width of its standard; size and
// colour are never cut, and a name too long gives way to the short name.
package label

import (
	"encoding/json"
	"fmt"
	"strings"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/paper"
	"itemrack/core/text"
)

// Kind is what a field of a template shows.
type Kind string

// The kinds of field.
const (
	Name        Kind = "name"
	ShortName   Kind = "short name"
	Colour      Kind = "colour"
	Size        Kind = "size"
	Values      Kind = "colour and size"
	SKU         Kind = "SKU"
	Price       Kind = "price"
	FormerPrice Kind = "former price"
	UnitPrice   Kind = "price per unit"
	Part        Kind = "supplier's part"
	Barcode     Kind = "barcode"
	Picture     Kind = "picture"
	Text        Kind = "text"
	Lot         Kind = "lot"
	Expiry      Kind = "expiry"
	Serial      Kind = "serial number"
)

// Kinds lists the kinds in the order they are offered.
var Kinds = []Kind{Name, ShortName, Values, Colour, Size, SKU, Price, FormerPrice, UnitPrice, Part, Barcode, Picture,
	Text, Lot, Expiry, Serial}

// Field is one thing on a label, in a box in mm from the label's top left
// corner. Em is the size of its text in mm; Words are the words of a text, or
// what stands before the value of any other field. Symbol is a barcode's
// symbology; empty is the usual one for its number. Bare leaves the digits under
// bars out.
type Field struct {
	Kind   Kind              `json:"kind"`
	X      float64           `json:"x"`
	Y      float64           `json:"y"`
	W      float64           `json:"w"`
	H      float64           `json:"h"`
	Em     float64           `json:"em,omitempty"`
	Bold   bool              `json:"bold,omitempty"`
	Align  paper.Anchor      `json:"align,omitempty"`
	Words  string            `json:"words,omitempty"`
	Symbol barcode.Symbology `json:"symbol,omitempty"`
	Bare   bool              `json:"bare,omitempty"`
}

// Paper is what labels lie on.
type Paper string

// The papers.
const (
	A4     Paper = "A4"
	Letter Paper = "Letter"
	Roll   Paper = "Roll"
)

// Papers lists the papers.
var Papers = []Paper{A4, Letter, Roll}

// Sheet is how labels lie on their paper: columns and rows from a margin, with
// gaps between them, in mm. A roll has one label to a page.
type Sheet struct {
	Paper   Paper   `json:"paper"`
	Columns int     `json:"columns,omitempty"`
	Rows    int     `json:"rows,omitempty"`
	Left    float64 `json:"left,omitempty"`
	Top     float64 `json:"top,omitempty"`
	GapX    float64 `json:"gap_x,omitempty"`
	GapY    float64 `json:"gap_y,omitempty"`
}

// Template is a kind of label: its size in mm, its sheet and its fields. Code
// names it; those that ship with the program have one of words.
type Template struct {
	Code   string  `json:"code"`
	Name   string  `json:"name"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Sheet  Sheet   `json:"sheet"`
	Fields []Field `json:"fields"`
}

// PerPage is how many labels a page holds.
func (t Template) PerPage() int {
	if t.Sheet.Paper == Roll {
		return 1
	}
	return t.Sheet.Columns * t.Sheet.Rows
}

// page is the size of the paper in mm.
func (t Template) page() (width, height float64) {
	switch t.Sheet.Paper {
	case A4:
		return 210, 297
	case Letter:
		return 215.9, 279.4
	}
	return t.Width, t.Height
}

// spot is where the nth label of a page lies.
func (t Template) spot(n int) (x, y float64) {
	if t.Sheet.Paper == Roll {
		return 0, 0
	}
	s := t.Sheet
	return s.Left + float64(n%s.Columns)*(t.Width+s.GapX), s.Top + float64(n/s.Columns)*(t.Height+s.GapY)
}

// The bounds of a template.
const (
	maxFields = 40
	maxSide   = 400.0
	minEm     = 1.2
	slack     = 0.01 // mm that rounding may add
)

// Validate returns an error for a template that can't be drawn at all: sizes out
// of bounds, labels that do not fit on their sheet, a field off the label.
func (t Template) Validate() error {
	if name := strings.TrimSpace(t.Name); name == "" || text.Len(name) > 80 {
		return fault.Field("name", t.Name, "1 to 80 characters", "A label needs a name of 1 to 80 characters.")
	}
	for _, side := range []struct {
		field string
		mm    float64
	}{{"width", t.Width}, {"height", t.Height}} {
		if !(side.mm >= 10 && side.mm <= maxSide) {
			return fault.Field(side.field, side.mm, "10 to 400 mm", "A label can't be %g mm in %s.", side.mm,
				side.field)
		}
	}
	if err := t.fits(); err != nil {
		return err
	}
	if len(t.Fields) == 0 || len(t.Fields) > maxFields {
		return fault.Field("fields", len(t.Fields), "1 to 40 fields", "A label has 1 to 40 fields.")
	}
	for i, f := range t.Fields {
		if err := f.validate(i, t); err != nil {
			return err
		}
	}
	return nil
}

func (t Template) fits() error {
	s := t.Sheet
	switch s.Paper {
	case Roll:
		return nil
	case A4, Letter:
	default:
		return fault.Field("paper", s.Paper, "A4, Letter or Roll", "There is no paper %q.", s.Paper)
	}
	if s.Columns < 1 || s.Rows < 1 || s.Columns*s.Rows > 500 || s.Left < 0 || s.Top < 0 || s.GapX < 0 || s.GapY < 0 {
		return fault.Field("sheet", s.Columns*s.Rows, "1 to 500 labels and margins of 0 or more",
			"The sheet needs columns and rows, and margins that are not below zero.")
	}
	width, height := t.page()
	if right := s.Left + float64(s.Columns)*t.Width + float64(s.Columns-1)*s.GapX; right > width+slack {
		return fault.Field("columns", s.Columns, fmt.Sprintf("fewer columns, or narrower than %g mm", width),
			"%d columns take %.1f mm; %s is %g mm wide.", s.Columns, right, s.Paper, width)
	}
	if bottom := s.Top + float64(s.Rows)*t.Height + float64(s.Rows-1)*s.GapY; bottom > height+slack {
		return fault.Field("rows", s.Rows, fmt.Sprintf("fewer rows, or lower than %g mm", height),
			"%d rows take %.1f mm; %s is %g mm high.", s.Rows, bottom, s.Paper, height)
	}
	return nil
}

func (f Field) validate(at int, t Template) error {
	known := false
	for _, k := range Kinds {
		known = known || k == f.Kind
	}
	if !known {
		return fault.Field("fields", f.Kind, "a kind of field", "Field %d: there is no %q.", at+1, f.Kind)
	}
	if !(f.X >= 0 && f.Y >= 0 && f.W > 0 && f.H > 0) || f.X+f.W > t.Width+slack || f.Y+f.H > t.Height+slack {
		return fault.Field("fields", f.Kind, "a box on the label",
			"The field %q lies off the label, which is %g × %g mm.", f.Kind, t.Width, t.Height)
	}
	if f.Kind != Barcode && f.Kind != Picture && !(f.Em >= minEm && f.Em <= 60) {
		return fault.Field("fields", f.Em, "1.2 to 60 mm", "The field %q needs letters of 1.2 to 60 mm.", f.Kind)
	}
	switch f.Align {
	case "", paper.Start, paper.Middle, paper.End:
	default:
		return fault.Field("fields", f.Align, "start, middle or end", "There is no alignment %q.", f.Align)
	}
	if text.Len(f.Words) > 200 {
		return fault.Field("fields", len(f.Words), "200 characters or fewer", "The words of a field are too long.")
	}
	return nil
}

// Remarks says what is unwise about a template without stopping it: a field over
// a symbol's quiet zone, or two that lie on each other.
func (t Template) Remarks() []string {
	var said []string
	for i, a := range t.Fields {
		for _, b := range t.Fields[i+1:] {
			if !overlap(a, b) {
				continue
			}
			switch {
			case a.Kind == Barcode:
				said = append(said, fmt.Sprintf("%q lies in the quiet zone of the barcode; it will not scan.", b.Kind))
			case b.Kind == Barcode:
				said = append(said, fmt.Sprintf("%q lies in the quiet zone of the barcode; it will not scan.", a.Kind))
			default:
				said = append(said, fmt.Sprintf("%q and %q lie on each other.", a.Kind, b.Kind))
			}
		}
	}
	return said
}

func overlap(a, b Field) bool {
	return a.X < b.X+b.W-slack && b.X < a.X+a.W-slack && a.Y < b.Y+b.H-slack && b.Y < a.Y+a.H-slack
}

// Parse reads a template that was kept as JSON.
func Parse(data []byte) (Template, error) {
	var t Template
	if err := json.Unmarshal(data, &t); err != nil {
		return t, fault.Field("template", "", "the JSON of a template", "The template can't be read: %v.", err)
	}
	return t, t.Validate()
}
