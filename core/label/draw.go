package label

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/paper"
)

// AxisValue is what a variant is on one axis.
type AxisValue struct{ Axis, Value string }

// Item is what a label says of a variant. Prices are written as they print;
// empty texts are left out.
type Item struct {
	Name        string
	ShortName   string
	Values      []AxisValue
	SKU         string
	Price       string
	FormerPrice string
	UnitPrice   string
	Part        string
	Barcode     string
	Lot         string
	Expiry      time.Time
	Serial      string
	Picture     *paper.Picture
}

// value joins the values of the axes that a kind of field shows.
func (i Item) value(kind Kind) string {
	var list []string
	for _, v := range i.Values {
		colour := strings.EqualFold(v.Axis, "colour") || strings.EqualFold(v.Axis, "color")
		if kind == Values || colour == (kind == Colour) {
			list = append(list, v.Value)
		}
	}
	return strings.Join(list, " · ")
}

// text is what a field of letters says of an item.
func (i Item) text(f Field) string {
	said := ""
	switch f.Kind {
	case Name:
		said = i.Name
	case ShortName:
		if said = i.ShortName; said == "" {
			said = i.Name
		}
	case Values, Colour, Size:
		said = i.value(f.Kind)
	case SKU:
		said = i.SKU
	case Price:
		said = i.Price
	case FormerPrice:
		said = i.FormerPrice
	case UnitPrice:
		said = i.UnitPrice
	case Part:
		said = i.Part
	case Lot:
		said = i.Lot
	case Serial:
		said = i.Serial
	case Expiry:
		if !i.Expiry.IsZero() {
			said = i.Expiry.Format("2 Jan 2006")
		}
	case Text:
		return f.Words
	}
	if said == "" {
		return ""
	}
	return f.Words + said
}

// face is the typeface of a field: codes and amounts in the one with tabular
// figures.
func (f Field) face() paper.Face {
	code := slices.Contains([]Kind{SKU, Price, FormerPrice, UnitPrice, Part, Lot, Serial}, f.Kind)
	switch {
	case code && f.Bold:
		return paper.CodeBold
	case code:
		return paper.Code
	case f.Bold:
		return paper.Bold
	}
	return paper.Text
}

// Draw lays out one label. It returns remarks in words where something had to
// give way. What would be wrong on paper is an error: size and colour that do
// not fit, bars too thin to scan.
func (t Template) Draw(item Item, measure paper.Measure) ([]paper.Shape, []string, error) {
	var shapes []paper.Shape
	var remarks []string
	for _, f := range t.Fields {
		var drawn []paper.Shape
		var said []string
		var err error
		switch f.Kind {
		case Barcode:
			drawn, said, err = f.symbol(item, measure)
		case Picture:
			drawn = f.picture(item)
		default:
			drawn, said, err = f.letters(item, measure)
		}
		if err != nil {
			return nil, nil, err
		}
		shapes, remarks = append(shapes, drawn...), append(remarks, said...)
	}
	return shapes, remarks, nil
}

const (
	lineSpacing = 1.18 // of the em
	ascent      = 0.82 // of the em above the baseline
)

// letters sets a field of text into its box: on one line as large as its em,
// else on as many lines as the box has, else smaller; a name gives way to the
// short name before it is cut.
func (f Field) letters(item Item, measure paper.Measure) ([]paper.Shape, []string, error) {
	text := item.text(f)
	if text == "" {
		return nil, nil, nil
	}
	var remarks []string
	least := max(minEm, f.Em*0.8)
	whole := f.Kind.whole()
	if f.Kind.price() {
		least = max(minEm, f.Em*0.5)
	} else if whole {
		least = minEm
	}
	lines, em, fits := f.set(text, least, measure)
	if !fits && f.Kind == Name && item.ShortName != "" {
		remarks = append(remarks, "The name is too long for the label; the short name is printed.")
		lines, em, fits = f.set(f.Words+item.ShortName, max(minEm, f.Em*0.7), measure)
	}
	if !fits {
		if whole {
			return nil, nil, fault.Refuse("template", text, f.wouldFit(text, measure),
				"The %s %q does not fit on this label, and is never cut.", f.Kind, text)
		}
		lines = []string{paper.Cut(measure, strings.Join(lines, " "), f.face(), em, f.W)}
		remarks = append(remarks, fmt.Sprintf("The %s is too long for the label and is cut.", f.Kind))
	} else if whole && em < f.Em*0.75 {
		remarks = append(remarks, fmt.Sprintf("The %s is printed small to fit.", f.Kind))
	}
	return f.place(lines, em, measure), remarks, nil
}

// whole reports whether what a field says would be wrong if it were cut: everything but
// names and words.
func (k Kind) whole() bool { return k != Name && k != ShortName && k != Text }

// price reports whether a field says an amount: it is read from afar, and made half as large
// at most.
func (k Kind) price() bool { return k == Price || k == FormerPrice || k == UnitPrice }

// wouldFit says at which size a text would fit into the field, or that another kind of label
// is needed.
func (f Field) wouldFit(text string, measure paper.Measure) string {
	if em := f.Em * f.W / max(measure(text, f.face(), f.Em), 1e-9); em >= minEm {
		return fmt.Sprintf("type of %.1f mm for it", math.Floor(em*10)/10)
	}
	return "a kind of label with more room for it"
}

// set finds the largest em from the field's down to least at which a text fits
// into the box, broken into lines where the box is high enough.
func (f Field) set(text string, least float64, measure paper.Measure) (lines []string, em float64, fits bool) {
	for em = f.Em; em >= least-1e-9; em -= 0.1 {
		if measure(text, f.face(), em) <= f.W {
			return []string{text}, em, true
		}
		room := int((f.H + 0.2) / (em * lineSpacing))
		if room < 2 {
			continue
		}
		if broken := paper.Wrap(measure, text, f.face(), em, f.W); len(broken) <= room && wholeWords(broken, text) {
			return broken, em, true
		}
	}
	return []string{text}, least, false
}

// wholeWords reports whether lines were broken between words only.
func wholeWords(lines []string, text string) bool {
	return strings.Join(lines, " ") == strings.Join(strings.Fields(text), " ")
}

func (f Field) place(lines []string, em float64, measure paper.Measure) []paper.Shape {
	x := f.X
	anchor := f.Align
	switch anchor {
	case paper.Middle:
		x += f.W / 2
	case paper.End:
		x += f.W
	default:
		anchor = paper.Start
	}
	var shapes []paper.Shape
	top := f.Y + max(0, (f.H-float64(len(lines))*em*lineSpacing)/2)
	for i, line := range lines {
		base := top + em*(ascent+lineSpacing*float64(i)) + em*(lineSpacing-1)/2
		shapes = append(shapes, paper.Shape{X: x, Y: base, Text: line, Face: f.face(), Size: em, Anchor: anchor})
		if f.Kind != FormerPrice {
			continue
		}
		width := measure(line, f.face(), em) // a former price is struck through
		left := map[paper.Anchor]float64{paper.Start: x, paper.Middle: x - width/2, paper.End: x - width}[anchor]
		shapes = append(shapes, paper.Shape{X: left, Y: base - em*0.32, W: width, H: max(0.2, em*0.07)})
	}
	return shapes
}

// widest is the widest module that a symbol is drawn with, in mm: 150 % of the
// nominal size of EAN and UPC, 0.75 mm for a matrix.
const (
	widestBar  = 0.495
	widestItf  = 0.66
	widestDot  = 0.75
	digitsEm   = 2.3
	digitsRoom = 2.9
	// dot is that of a label printer of 203 dpi, 8 to the mm: bars of whole dots
	// print sharp.
	dot = 0.125
)

// onDot moves a place to the next dot.
func onDot(mm float64) float64 { return math.Round(mm/dot) * dot }

// symbol draws a barcode into its box, which holds its quiet zones.
func (f Field) symbol(item Item, measure paper.Measure) ([]paper.Shape, []string, error) {
	if item.Barcode == "" {
		return nil, []string{"It has no barcode; the label stays without."}, nil
	}
	drawn, err := f.encode(item)
	if err != nil {
		return nil, nil, err
	}
	room := f.W / float64(drawn.Width())
	module := min(room, widestBar)
	switch {
	case drawn.Kind == barcode.AsITF14:
		module = min(room, widestItf)
	case !drawn.Linear():
		module = min(room, f.H/float64(drawn.Height()), widestDot)
	}
	if whole := math.Floor(module/dot+0.001) * dot; whole >= drawn.Advised-0.0005 {
		module = whole
	}
	if module < drawn.Least-0.0005 {
		need := drawn.Least * float64(drawn.Width())
		return nil, nil, fault.Refuse("barcode", item.Barcode,
			fmt.Sprintf("a box %.1f mm wide, or a larger label", need),
			"The barcode %s as %s is too small: its bars would be %.2f mm, and readers need %.3f mm.", item.Barcode,
			drawn.Kind, module, drawn.Least)
	}
	var remarks []string
	if module < drawn.Advised-0.0005 {
		remarks = append(remarks,
			fmt.Sprintf("The %s is small: %.2f mm a module, %.3f mm is advised.", drawn.Kind, module, drawn.Advised))
	}
	if !drawn.Linear() {
		x := onDot(f.X + (f.W-module*float64(drawn.Width()))/2 + module*float64(drawn.QuietLeft))
		y := onDot(f.Y + (f.H-module*float64(drawn.Height()))/2 + module*float64(drawn.QuietAbove))
		return paper.Matrix(drawn.Rows, x, y, module), remarks, nil
	}
	height := f.H
	if !f.Bare {
		height -= digitsRoom
	}
	if height < 4 {
		return nil, nil, fault.Refuse("barcode", item.Barcode, "a box 7 mm high",
			"The barcode %s is too low to scan: %.1f mm.", item.Barcode, height)
	}
	left := onDot(f.X + (f.W-module*float64(drawn.Width()))/2 + module*float64(drawn.QuietLeft))
	shapes := paper.Bars(drawn.Rows[0], left, f.Y, module, height)
	if !f.Bare {
		em, _ := paper.Fit(measure, drawn.Text, paper.Code, digitsEm, minEm, f.W)
		shapes = append(
			shapes,
			paper.Shape{
				X:      left + module*float64(len(drawn.Rows[0]))/2,
				Y:      f.Y + f.H - 0.5,
				Text:   drawn.Text,
				Face:   paper.Code,
				Size:   em,
				Anchor: paper.Middle,
			},
		)
	}
	return shapes, remarks, nil
}

// encode draws the item's barcode as the field wants it. A GS1 DataMatrix holds
// lot, expiry and serial number, too; a barcode that the wanted symbology can't
// hold is drawn as it usually is.
func (f Field) encode(item Item) (barcode.Symbol, error) {
	kind := f.Symbol
	if kind == "" {
		kind = barcode.Usual(item.Barcode)
	}
	text := item.Barcode
	if kind == barcode.AsDataMatrix {
		e, err := barcode.ElementsOf(item.Barcode, item.Lot, item.Expiry, item.Serial)
		if err != nil {
			return barcode.Symbol{}, err
		}
		text = e.String()
	}
	drawn, err := barcode.EncodeAs(kind, text)
	if e := fault.Of(err); e != nil && kind != barcode.Usual(item.Barcode) && kind != barcode.AsDataMatrix &&
		kind != barcode.AsQR {
		return barcode.Encode(item.Barcode)
	}
	return drawn, err
}

// picture sets the item's picture into its box, whole and in the middle.
func (f Field) picture(item Item) []paper.Shape {
	p := item.Picture
	if p == nil || p.Width <= 0 || p.Height <= 0 {
		return nil
	}
	scale := min(f.W/float64(p.Width), f.H/float64(p.Height))
	w, h := float64(p.Width)*scale, float64(p.Height)*scale
	return []paper.Shape{{X: f.X + (f.W-w)/2, Y: f.Y + (f.H-h)/2, W: w, H: h, Picture: p}}
}

// Order is how many labels of an item are wanted.
type Order struct {
	Item   Item
	Copies int
}

// MaxLabels bounds one print.
const MaxLabels = 10_000

// Print lays labels out on pages, row by row; skip is how many labels of the
// first sheet are used already. It returns the remarks of all items, each with
// its name.
func (t Template) Print(orders []Order, skip int, measure paper.Measure) ([]paper.Page, []string, error) {
	if skip < 0 || skip >= t.PerPage() {
		return nil, nil, fault.Field("skip", skip, fmt.Sprintf("0 to %d", t.PerPage()-1),
			"The sheet has %d labels; it can't begin after the first %d.", t.PerPage(), skip)
	}
	width, height := t.page()
	var pages []paper.Page
	var remarks []string
	n := 0
	for _, o := range orders {
		if o.Copies < 0 || n+o.Copies > MaxLabels {
			return nil, nil, fault.Field("copies", o.Copies, "0 to 10,000 in all",
				"One print takes 10,000 labels at most.")
		}
		if o.Copies == 0 {
			continue
		}
		shapes, said, err := t.Draw(o.Item, measure)
		if e := fault.Of(err); e != nil {
			return nil, nil, e.About(o.Item.Name)
		} else if err != nil {
			return nil, nil, err
		}
		for _, s := range said {
			remarks = append(remarks, o.Item.Name+": "+s)
		}
		for range o.Copies {
			place := (n + skip) % t.PerPage()
			if place == 0 || len(pages) == 0 {
				pages = append(pages, paper.Page{Width: width, Height: height})
			}
			x, y := t.spot(place)
			page := &pages[len(pages)-1]
			page.Shapes = append(page.Shapes, paper.Moved(shapes, x, y)...)
			n++
		}
	}
	if n == 0 {
		return nil, nil, fault.Field("copies", 0, "at least one label",
			"Say how many labels of which variant to print.")
	}
	return pages, compact(remarks), nil
}

// Holding names kinds of label that hold every label of a print, two at most: what is said
// when one is too small.
func Holding(kinds []Template, orders []Order, measure paper.Measure) []string {
	var names []string
	for _, t := range kinds {
		if len(names) < 2 && !slices.ContainsFunc(orders, func(o Order) bool {
			_, _, err := t.Draw(o.Item, measure)
			return err != nil
		}) {
			names = append(names, t.Name)
		}
	}
	return names
}

// compact keeps each remark once.
func compact(list []string) []string {
	var once []string
	for _, r := range list {
		if !slices.Contains(once, r) {
			once = append(once, r)
		}
	}
	return once
}
