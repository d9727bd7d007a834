// Package face holds the typefaces that are printed with, and measures text in
// them, so that what core lays out fits on paper.
package face

import (
	_ "embed" // the faces are part of the program
	"fmt"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"itemrack/core/paper"
)

//go:embed next-400.ttf
var next400 []byte

//go:embed next-600.ttf
var next600 []byte

//go:embed mono-400.ttf
var mono400 []byte

//go:embed mono-600.ttf
var mono600 []byte

// Files are the TrueType files of the faces (SIL Open Font License 1.1).
var Files = map[paper.Face][]byte{
	paper.Text:     next400,
	paper.Bold:     next600,
	paper.Code:     mono400,
	paper.CodeBold: mono600,
}

// unitsPerEm is the size at which faces are measured: large enough that
// rounding to whole pixels does not show.
const unitsPerEm = 1000

// measured is a face, and how far each letter that was measured takes the next one.
type measured struct {
	sync.Mutex
	drawn    font.Face
	parsed   *sfnt.Font
	advances sync.Map // of fixed.Int26_6 by rune
}

var faces = sync.OnceValue(func() map[paper.Face]*measured {
	all := map[paper.Face]*measured{}
	for name, file := range Files {
		parsed := parse(string(name), file)
		drawn, err := opentype.NewFace(parsed,
			&opentype.FaceOptions{Size: unitsPerEm, DPI: 72, Hinting: font.HintingNone})
		if err != nil {
			panic(fmt.Sprintf("the face %s that ships with the program is broken: %v", name, err))
		}
		all[name] = &measured{drawn: drawn, parsed: parsed}
	}
	return all
})

func parse(name string, file []byte) *sfnt.Font {
	parsed, err := opentype.Parse(file)
	if err != nil {
		panic(fmt.Sprintf("the face %s that ships with the program is broken: %v", name, err))
	}
	return parsed
}

// Measure returns the width in mm of a text in a face at an em of size mm.
func Measure(text string, name paper.Face, size float64) float64 {
	m := faces()[name]
	width := fixed.Int26_6(0)
	for _, r := range text {
		width += m.advance(r)
	}
	return millimetres(width, size)
}

// millimetres is a length in a face as it is at an em of size mm.
func millimetres(length fixed.Int26_6, size float64) float64 {
	return float64(length) / 64 / unitsPerEm * size
}

// advance is how far a letter takes the next one, without kerning, as the PDF sets it.
func (m *measured) advance(r rune) fixed.Int26_6 {
	if known, ok := m.advances.Load(r); ok {
		return known.(fixed.Int26_6)
	}
	m.Lock()
	defer m.Unlock()
	var advance fixed.Int26_6
	switch {
	case m.has(r):
		advance, _ = m.drawn.GlyphAdvance(r)
	case !unseen(r):
		advance = signOf(r).advance
	}
	m.advances.Store(r, advance)
	return advance
}

// has reports whether the face itself has a letter, where a PDF can name it: in the Basic Multilingual Plane.
func (m *measured) has(r rune) bool {
	index, err := m.parsed.GlyphIndex(nil, r)
	return err == nil && index != 0 && r <= 0xFFFF
}
