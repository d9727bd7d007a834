package device

import (
	"bytes"
	"fmt"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"itemrack/core/paper"
	"itemrack/device/face"
)

// PDF draws pages in exact millimetres. Title is the document's title.
func PDF(title string, pages []paper.Page) ([]byte, error) {
	doc := fpdf.NewCustom(&fpdf.InitType{UnitStr: "mm", Size: fpdf.SizeType{Wd: 210, Ht: 297}})
	doc.SetTitle(plain(title), true)
	doc.SetAutoPageBreak(false, 0)
	doc.SetMargins(0, 0, 0)
	for name, file := range face.Files {
		doc.AddUTF8FontFromBytes(string(name), "", file)
	}
	for _, p := range pages {
		orientation := "P"
		if p.Width > p.Height {
			orientation = "L" // fpdf swaps the sides of a landscape page
		}
		doc.AddPageFormat(orientation, fpdf.SizeType{Wd: min(p.Width, p.Height), Ht: max(p.Width, p.Height)})
		for _, s := range p.Shapes {
			draw(doc, s)
		}
	}
	var out bytes.Buffer
	if err := doc.Output(&out); err != nil {
		return nil, fmt.Errorf("draw the PDF %q: %w", title, err)
	}
	return out.Bytes(), nil
}

func draw(doc *fpdf.Fpdf, s paper.Shape) {
	if s.Picture != nil {
		options := fpdf.ImageOptions{ImageType: s.Picture.Type}
		doc.RegisterImageOptionsReader(s.Picture.Key, options, bytes.NewReader(s.Picture.Data)) // once for each key
		doc.ImageOptions(s.Picture.Key, s.X, s.Y, s.W, s.H, false, options, 0, "")
		return
	}
	gray := int(s.Gray)
	if s.Text == "" {
		doc.SetFillColor(gray, gray, gray)
		doc.Rect(s.X, s.Y, s.W, s.H, "F")
		return
	}
	const pointsPerMillimetre = 72 / 25.4
	doc.SetFont(string(s.Face), "", s.Size*pointsPerMillimetre)
	doc.SetTextColor(gray, gray, gray)
	x := s.X
	switch s.Anchor {
	case paper.Middle:
		x -= face.Measure(s.Text, s.Face, s.Size) / 2
	case paper.End:
		x -= face.Measure(s.Text, s.Face, s.Size)
	}
	for _, part := range face.Parts(s.Text, s.Face, s.Size) {
		if part.Outline == nil {
			doc.Text(x, s.Y, part.Text)
		} else {
			outline(doc, part.Outline, x, s.Y, s.Size)
		}
		x += part.Width
	}
}

// outline fills the outline of a letter that stands at a point.
func outline(doc *fpdf.Fpdf, segments sfnt.Segments, x, y, size float64) {
	if len(segments) == 0 { // it is a space
		return
	}
	at := func(p fixed.Point26_6) (float64, float64) {
		dx, dy := face.Point(p, size)
		return x + dx, y + dy
	}
	for i, s := range segments {
		x1, y1 := at(s.Args[0])
		x2, y2 := at(s.Args[1])
		x3, y3 := at(s.Args[2])
		switch s.Op {
		case sfnt.SegmentOpMoveTo:
			if i > 0 {
				doc.ClosePath()
			}
			doc.MoveTo(x1, y1)
		case sfnt.SegmentOpLineTo:
			doc.LineTo(x1, y1)
		case sfnt.SegmentOpQuadTo:
			doc.CurveTo(x1, y1, x2, y2)
		case sfnt.SegmentOpCubeTo:
			doc.CurveBezierCubicTo(x1, y1, x2, y2, x3, y3)
		}
	}
	doc.ClosePath()
	doc.DrawPath("F")
}

// plain is a title as a PDF can have it.
func plain(title string) string {
	return strings.Map(func(r rune) rune {
		if r > 0xFFFF {
			return '\u25A1'
		}
		return r
	}, title)
}
