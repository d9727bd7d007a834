// Package paper describes what is printed as shapes in millimetres, from which
// the screen preview and the PDF are both drawn. Its main rule: a shape says
// exactly where it is; whoever draws it decides nothing.
package paper

import (
	"encoding/base64"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Face is a typeface that ships with the program.
type Face string

// The faces.
const (
	Text     Face = "next-400"
	Bold     Face = "next-600"
	Code     Face = "mono-400"
	CodeBold Face = "mono-600"
)

// Anchor says which point of a text stands at its X.
type Anchor string

// The anchors.
const (
	Start  Anchor = "start"
	Middle Anchor = "middle"
	End    Anchor = "end"
)

// Picture is a bitmap that is printed. Key is the same for the same picture;
// Width and Height are in pixels.
type Picture struct {
	Key    string
	Type   string // "png" or "jpeg"
	Data   []byte
	Width  int
	Height int
}

// Shape is a filled rectangle, a text when Text is not empty, or a picture. X and
// Y are of its top left corner, for a text of its anchor on the baseline; all in
// mm from the page's top left. Size is the em of a text in mm. Gray 0 is ink.
type Shape struct {
	X       float64  `json:",omitzero"`
	Y       float64  `json:",omitzero"`
	W       float64  `json:",omitzero"`
	H       float64  `json:",omitzero"`
	Text    string   `json:",omitzero"`
	Face    Face     `json:",omitzero"`
	Size    float64  `json:",omitzero"`
	Anchor  Anchor   `json:",omitzero"`
	Gray    uint8    `json:",omitzero"`
	Picture *Picture `json:",omitempty"`
}

// Page is one sheet or label.
type Page struct {
	Width, Height float64
	Shapes        []Shape
}

// Measure returns the width in mm of a text in a face at an em of size mm.
type Measure func(text string, face Face, size float64) float64

// Moved returns the shapes shifted by dx and dy.
func Moved(shapes []Shape, dx, dy float64) []Shape {
	moved := make([]Shape, len(shapes))
	for i, s := range shapes {
		s.X, s.Y = s.X+dx, s.Y+dy
		moved[i] = s
	}
	return moved
}

// Rounded is the page with its shapes on thousandths of a millimetre, which is finer than any printer: so it is short
// when it is kept.
func (p Page) Rounded() Page {
	p.Width, p.Height = round(p.Width), round(p.Height)
	p.Shapes = slices.Clone(p.Shapes)
	for i := range p.Shapes {
		s := &p.Shapes[i]
		s.X, s.Y, s.W, s.H, s.Size = round(s.X), round(s.Y), round(s.W), round(s.H), round(s.Size)
	}
	return p
}

var escape = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;")

// SVG writes the page as an SVG image in mm. The faces' names are the page's
// font families.
func (p Page) SVG(title string) string {
	var b strings.Builder
	n := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
	b.WriteString(
		`<svg xmlns="http://www.w3.org/2000/svg" role="img" aria-label="` + escape.Replace(
			title,
		) + `" width="` + n(p.Width) + `mm" height="` + n(p.Height) +
			`mm" viewBox="0 0 ` + n(
			p.Width,
		) + " " + n(p.Height) + `"><rect width="100%" height="100%" fill="#fff"/>`,
	)
	for _, s := range p.Shapes {
		if s.Picture != nil {
			b.WriteString(
				`<image x="` + n(round(s.X)) + `" y="` + n(round(s.Y)) + `" width="` + n(round(s.W)) + `" height="` + n(
					round(s.H)) +
					`" href="data:image/` + s.Picture.Type + ";base64," + base64.StdEncoding.EncodeToString(
					s.Picture.Data,
				) + `"/>`,
			)
			continue
		}
		gray := strconv.Itoa(int(s.Gray))
		fill := ` fill="rgb(` + gray + "," + gray + "," + gray + `)"`
		if s.Text == "" {
			b.WriteString(
				`<rect x="` + n(round(s.X)) + `" y="` + n(round(s.Y)) + `" width="` + n(round(s.W)) + `" height="` + n(
					round(s.H)) + `"` + fill + "/>",
			)
			continue
		}
		family, weight := "Item Rack Text", "400"
		if strings.HasPrefix(string(s.Face), "mono") {
			family = "Item Rack Mono"
		}
		if strings.HasSuffix(string(s.Face), "600") {
			weight = "600"
		}
		b.WriteString(
			`<text x="` + n(round(s.X)) + `" y="` + n(
				round(s.Y)) + `" font-family="` + family + `" font-weight="` + weight + `" font-size="` +
				n(round(s.Size)) +
				`" text-anchor="` + string(
				s.Anchor,
			) + `"` + fill + ">" + escape.Replace(s.Text) + "</text>",
		)
	}
	b.WriteString("</svg>")
	return b.String()
}

// round keeps what is written short: a thousandth of a millimetre is finer than any printer.
func round(v float64) float64 { return math.Round(v*1000) / 1000 }
