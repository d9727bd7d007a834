package barcode

import (
	"fmt"
	"strings"

	encoder "github.com/boombuler/barcode"
	"github.com/boombuler/barcode/code128"
	"github.com/boombuler/barcode/ean"
	"github.com/boombuler/barcode/qr"
	"github.com/boombuler/barcode/twooffive"

	"itemrack/core/fault"
)

// Symbology is a way in which a text becomes a symbol.
type Symbology string

// The symbologies that are drawn.
const (
	AsEAN13      Symbology = "EAN-13"
	AsEAN8       Symbology = "EAN-8"
	AsUPCA       Symbology = "UPC-A"
	AsITF14      Symbology = "ITF-14"
	AsCode128    Symbology = "Code 128"
	AsQR         Symbology = "QR"
	AsDataMatrix Symbology = "GS1 DataMatrix"
)

// Symbologies lists them in the order they are offered.
var Symbologies = []Symbology{AsEAN13, AsEAN8, AsUPCA, AsITF14, AsCode128, AsQR, AsDataMatrix}

// Symbol is a drawn symbol: rows of modules from top to bottom, true for ink; a
// linear symbol has one row. The quiet zones are the least number of white
// modules around it. Least is the narrowest module in mm that readers are
// required to cope with, Advised the narrowest for the shop's own counter.
type Symbol struct {
	Kind      Symbology
	Text      string // what a reader gets
	Rows      [][]bool
	QuietLeft int
	// QuietRight, QuietAbove and QuietBelow are white modules on the other sides.
	QuietRight, QuietAbove, QuietBelow int
	Least, Advised                     float64
}

// Linear reports whether the symbol is bars rather than a matrix.
func (s Symbol) Linear() bool { return len(s.Rows) == 1 }

// Width is the number of modules across with both quiet zones.
func (s Symbol) Width() int { return s.QuietLeft + len(s.Rows[0]) + s.QuietRight }

// Height is the number of module rows of a matrix with both quiet zones; 1 for
// a linear symbol, which is as high as it is drawn.
func (s Symbol) Height() int { return s.QuietAbove + len(s.Rows) + s.QuietBelow }

// measures are the quiet zones and module widths of each symbology: GS1 General
// Specifications sections 5.2.3.4 and 5.12.3 (EAN and UPC), 5.3.2 (ITF-14),
// 5.4 (Code 128), 5.6.3 (DataMatrix), ISO/IEC 18004 section 6.3.8 (QR).
var measures = map[Symbology]Symbol{
	AsEAN13:      {QuietLeft: 11, QuietRight: 7, Least: 0.264, Advised: 0.264},
	AsEAN8:       {QuietLeft: 7, QuietRight: 7, Least: 0.264, Advised: 0.264},
	AsUPCA:       {QuietLeft: 9, QuietRight: 9, Least: 0.264, Advised: 0.264},
	AsITF14:      {QuietLeft: 10, QuietRight: 10, Least: 0.495, Advised: 0.495},
	AsCode128:    {QuietLeft: 10, QuietRight: 10, Least: 0.19, Advised: 0.25},
	AsQR:         {QuietLeft: 4, QuietRight: 4, QuietAbove: 4, QuietBelow: 4, Least: 0.25, Advised: 0.396},
	AsDataMatrix: {QuietLeft: 1, QuietRight: 1, QuietAbove: 1, QuietBelow: 1, Least: 0.254, Advised: 0.375},
}

// Usual is the symbology that a barcode is drawn in when none is asked for: by
// the length of a GTIN, otherwise Code 128.
func Usual(code string) Symbology {
	if !Digits(code) {
		return AsCode128
	}
	switch len(code) {
	case 8:
		return AsEAN8
	case 12:
		return AsUPCA
	case 13:
		return AsEAN13
	case 14:
		if code[0] == '0' {
			return AsEAN13
		}
		return AsITF14
	}
	return AsCode128
}

// Encode draws a barcode in its usual symbology.
func Encode(code string) (Symbol, error) { return EncodeAs(Usual(code), code) }

// EncodeAs draws a text in a symbology. A text that it can't hold is an Invalid
// error that says what it would take.
func EncodeAs(kind Symbology, text string) (Symbol, error) {
	s, known := measures[kind]
	if !known {
		return Symbol{}, fault.Field("symbol", kind, "one of "+names(), "There is no symbol %q.", kind)
	}
	s.Kind = kind
	rows, read, err := draw(kind, strings.TrimSpace(text))
	if err != nil {
		if fault.Of(err) != nil {
			return Symbol{}, err
		}
		return Symbol{}, fault.Field("barcode", text, "a text that it can hold", "%q can't be drawn as %s: %v.", text,
			kind, err)
	}
	s.Rows, s.Text = rows, read
	return s, nil
}

func names() string {
	list := make([]string, len(Symbologies))
	for i, s := range Symbologies {
		list[i] = string(s)
	}
	return strings.Join(list, ", ")
}

// draw returns the modules of a symbol and the text that a reader gets.
func draw(kind Symbology, text string) ([][]bool, string, error) {
	switch kind {
	case AsEAN13, AsEAN8, AsUPCA, AsITF14:
		digits, err := gtinOf(kind, text)
		if err != nil {
			return nil, "", err
		}
		if kind == AsITF14 {
			drawn, err := twooffive.Encode(digits, true)
			return firstRow(drawn, err), digits, err
		}
		body := digits
		if kind == AsUPCA { // the same bars as EAN-13 with a leading zero
			body = "0" + digits
		}
		drawn, err := ean.Encode(body)
		return firstRow(drawn, err), digits, err
	case AsQR:
		if text == "" {
			return nil, "", fmt.Errorf("it is empty")
		}
		drawn, err := qr.Encode(text, qr.M, qr.Auto)
		return matrix(drawn, err), text, err
	case AsDataMatrix:
		return dataMatrix(text)
	}
	drawn, err := code128.Encode(text)
	return firstRow(drawn, err), text, err
}

// length is how many digits a symbology of GTINs holds.
var length = map[Symbology]int{AsEAN13: 13, AsEAN8: 8, AsUPCA: 12, AsITF14: 14}

// gtinOf writes a GTIN with as many digits as a symbology holds: leading zeros
// come and go, anything else is refused.
func gtinOf(kind Symbology, text string) (string, error) {
	n := length[kind]
	if !Digits(text) || !gtinLength(len(text)) {
		return "", fault.Field("barcode", text, fmt.Sprintf("a number of %d digits", n),
			"%s holds a number of %d digits; %q is none.", kind, n, text)
	}
	if _, err := Parse(text); err != nil {
		return "", err
	}
	key := Key(text)
	if strings.Trim(key[:14-n], "0") != "" {
		return "", fault.Field("barcode", text, fmt.Sprintf("a number of %d digits", n),
			"%s has more digits than the %d that %s holds.", text, n, kind)
	}
	return key[14-n:], nil
}

func firstRow(drawn encoder.Barcode, err error) [][]bool {
	if err != nil {
		return nil
	}
	return matrixOf(drawn, 1)
}

func matrix(drawn encoder.Barcode, err error) [][]bool {
	if err != nil {
		return nil
	}
	return matrixOf(drawn, drawn.Bounds().Dy())
}

func matrixOf(drawn encoder.Barcode, rows int) [][]bool {
	list := make([][]bool, rows)
	for y := range list {
		list[y] = make([]bool, drawn.Bounds().Dx())
		for x := range list[y] {
			shade, _, _, _ := drawn.At(x, y).RGBA()
			list[y][x] = shade == 0
		}
	}
	return list
}
