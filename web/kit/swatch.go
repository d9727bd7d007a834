package kit

import (
	"fmt"
	"html/template"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
)

// swatch draws how a colour looks as the inside of an SVG of 28 × 28: one colour,
// two halves, stripes, dots or a check. It takes what catalog.ParseSwatch reads.
func swatch(text any) template.HTML {
	s, ok := text.(catalog.Swatch)
	if !ok {
		var err error
		if s, err = catalog.ParseSwatch(fmt.Sprint(text)); err != nil {
			return ""
		}
	}
	if s.First == "" {
		return ""
	}
	second := ""
	switch s.Pattern {
	case catalog.TwoTone:
		second = `<path d="M14 1.5a12.5 12.5 0 0 1 0 25z" fill="` + s.Second + `"/>`
	case catalog.Stripes:
		second = `<path d="M4 6.5h20M1.8 12h24.4M1.8 17.5h24.4M5 23h18" stroke="` + s.Second + `" stroke-width="2.6"/>`
	case catalog.Dots:
		for _, at := range []string{`cx="9" cy="9"`, `cx="19" cy="9"`, `cx="14" cy="14"`, `cx="9" cy="19"`,
			`cx="19" cy="19"`} {
			second += `<circle ` + at + ` r="2.3" fill="` + s.Second + `"/>`
		}
	case catalog.Check:
		second = `<path d="M4 5h10v9H4zM14 14h10v9H14z" fill="` + s.Second + `"/>`
	}
	return template.HTML( //nolint:gosec // colours are checked codes
		`<svg class="swatch" width="28" height="28" viewBox="0 0 28 28" aria-hidden="true">` +
			`<circle cx="14" cy="14" r="12.5" fill="` + s.First + `"/>` + second +
			`<circle class="swatch-rim" cx="14" cy="14" r="12.5" fill="none"/></svg>`)
}

// orNone is a text, or a dash for an empty one.
func orNone(text string) string {
	if text == "" {
		return "–"
	}
	return text
}

// bars draws a barcode as an SVG for the screen, with its quiet zones.
func bars(code string) template.HTML {
	drawn, err := barcode.Encode(code)
	if err != nil || !drawn.Linear() {
		return ""
	}
	path := ""
	for i, ink := range drawn.Rows[0] {
		if ink {
			path += fmt.Sprintf("M%d 0h1v30h-1z", drawn.QuietLeft+i)
		}
	}
	return template.HTML(
		fmt.Sprintf(
			`<svg class="bars-drawn" viewBox="0 0 %d 30" preserveAspectRatio="none" aria-hidden="true">`+
				`<rect width="100%%" height="100%%" fill="#fff"/><path d="%s" fill="#1E2A2E"/></svg>`,
			drawn.Width(), path),
	) //nolint:gosec // numbers only
}
