package face

import (
	_ "embed" // the faces are part of the program
	"strings"
	"sync"
	"unicode"

	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
	"golang.org/x/text/unicode/bidi"

	"itemrack/core/paper"
)

// What the faces that are printed with do not have is drawn as an outline of the first of these that has it: letters of
// more alphabets, the scripts of East Asia, signs. What none has is a box.

//go:embed fallback-letters.ttf
var moreLetters []byte

//go:embed fallback-scripts.ttf
var moreScripts []byte

//go:embed fallback-signs.ttf
var moreSigns []byte

var fallbacks = sync.OnceValue(func() []*sfnt.Font {
	return []*sfnt.Font{parse("letters", moreLetters), parse("scripts", moreScripts), parse("signs", moreSigns)}
})

// sign is a letter as an outline, in units of unitsPerEm, y going down from the line that letters stand on.
type sign struct {
	segments sfnt.Segments
	advance  fixed.Int26_6
}

// boxed is what stands for a letter that no face has.
var boxed = box()

func box() sign {
	at := func(x, y int) [3]fixed.Point26_6 { return [3]fixed.Point26_6{{X: fixed.I(x), Y: fixed.I(-y)}} }
	made := sign{advance: fixed.I(660)}
	for _, side := range [][4]int{{60, 0, 600, 700},
		{110, 50, 550, 650}} { // the inner side goes the other way round: a hole
		l, b, r, t := side[0], side[1], side[2], side[3]
		corners := [][2]int{{l, b}, {r, b}, {r, t}, {l, t}}
		if l > 60 {
			corners = [][2]int{{l, b}, {l, t}, {r, t}, {r, b}}
		}
		for i, c := range corners {
			op := sfnt.SegmentOpLineTo
			if i == 0 {
				op = sfnt.SegmentOpMoveTo
			}
			made.segments = append(made.segments, sfnt.Segment{Op: op, Args: at(c[0], c[1])})
		}
	}
	return made
}

// signOf finds the outline of a letter.
func signOf(r rune) sign {
	var buffer sfnt.Buffer
	for _, f := range fallbacks() {
		index, err := f.GlyphIndex(&buffer, r)
		if err != nil || index == 0 {
			continue
		}
		segments, err := f.LoadGlyph(&buffer, index, fixed.I(unitsPerEm), nil)
		if err != nil {
			continue
		}
		advance, err := f.GlyphAdvance(&buffer, index, fixed.I(unitsPerEm), font.HintingNone)
		if err == nil {
			return sign{append(sfnt.Segments{}, segments...), advance}
		}
	}
	return boxed
}

// unseen reports whether a letter is not drawn by itself: it joins others, or chooses how they look.
func unseen(r rune) bool {
	return unicode.In(r, unicode.Cf, unicode.Variation_Selector) || unicode.IsControl(r) || r >= 0x1F3FB && r <= 0x1F3FF
}

// seen is a text as it is seen from left to right: what is written from right to left is turned round (UAX #9).
func seen(text string) string {
	if !strings.ContainsFunc(text, func(r rune) bool {
		p, _ := bidi.LookupRune(r)
		return p.Class() == bidi.R || p.Class() == bidi.AL
	}) {
		return text
	}
	var p bidi.Paragraph
	if _, err := p.SetString(text); err != nil {
		return text
	}
	order, err := p.Order()
	if err != nil {
		return text
	}
	var all strings.Builder
	for i := range order.NumRuns() {
		run := order.Run(i)
		if run.Direction() == bidi.RightToLeft {
			all.WriteString(bidi.ReverseString(run.String()))
		} else {
			all.WriteString(run.String())
		}
	}
	return all.String()
}

// Part is a stretch of a text: as a face has it, or the outline of one letter that it does not have.
type Part struct {
	Text    string
	Outline sfnt.Segments
	Width   float64 // in mm
}

// Parts takes a text apart, in a face at an em of size mm.
func Parts(text string, name paper.Face, size float64) []Part {
	m := faces()[name]
	var parts []Part
	for _, r := range seen(text) {
		width := millimetres(m.advance(r), size)
		m.Lock()
		has := m.has(r)
		m.Unlock()
		switch last := len(parts) - 1; {
		case has && last >= 0 && parts[last].Outline == nil:
			parts[last].Text, parts[last].Width = parts[last].Text+string(r), parts[last].Width+width
		case has:
			parts = append(parts, Part{Text: string(r), Width: width})
		case !unseen(r):
			parts = append(parts, Part{Outline: signOf(r).segments, Width: width})
		}
	}
	return parts
}

// Point is a point of an outline in mm, from where its letter stands, at an em of size mm.
func Point(p fixed.Point26_6, size float64) (x, y float64) {
	return millimetres(p.X, size), millimetres(p.Y, size)
}
