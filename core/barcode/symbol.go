package barcode

import (
	"fmt"

	encoder "github.com/boombuler/barcode"
	"github.com/boombuler/barcode/code128"
	"github.com/boombuler/barcode/ean"
)

// Symbol is a linear symbol: one bool a module from left to right, true for
// ink. Quiet is the least number of white modules left and right of it.
type Symbol struct {
	Kind       string // "EAN-13" or "Code 128"
	Text       string // what a reader gets
	Modules    []bool
	QuietLeft  int
	QuietRight int
}

// Width is the number of modules with both quiet zones.
func (s Symbol) Width() int { return s.QuietLeft + len(s.Modules) + s.QuietRight }

// Encode draws a barcode: EAN-13 where its number can be one (quiet zones 11
// and 7 modules, GS1 General Specifications section 5.2.3.4), otherwise Code
// 128 (quiet zones of 10 modules, section 5.4.3).
func Encode(code string) (Symbol, error) {
	if digits, ok := EAN13(code); ok {
		drawn, err := ean.Encode(digits)
		if err != nil {
			return Symbol{}, fmt.Errorf("draw EAN-13 %s: %w", digits, err)
		}
		return Symbol{Kind: "EAN-13", Text: digits, Modules: modules(drawn), QuietLeft: 11, QuietRight: 7}, nil
	}
	return Code128(code)
}

// Code128 draws any ASCII text as Code 128.
func Code128(text string) (Symbol, error) {
	drawn, err := code128.Encode(text)
	if err != nil {
		return Symbol{}, fmt.Errorf("draw Code 128 %q: %w", text, err)
	}
	return Symbol{Kind: "Code 128", Text: text, Modules: modules(drawn), QuietLeft: 10, QuietRight: 10}, nil
}

func modules(drawn encoder.Barcode) []bool {
	row := make([]bool, drawn.Bounds().Dx())
	for x := range row {
		shade, _, _, _ := drawn.At(x, 0).RGBA()
		row[x] = shade == 0
	}
	return row
}
