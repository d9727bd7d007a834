package device

import (
	"bytes"
	"fmt"

	"codeberg.org/go-pdf/fpdf"

	"itemrack/core/paper"
	"itemrack/device/face"
)

// PDF draws pages in exact millimetres. Title is the document's title.
func PDF(title string, pages []paper.Page) ([]byte, error) {
	doc := fpdf.NewCustom(&fpdf.InitType{UnitStr: "mm", Size: fpdf.SizeType{Wd: 210, Ht: 297}})
	doc.SetTitle(title, true)
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
	doc.Text(x, s.Y, s.Text)
}
