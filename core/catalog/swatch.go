package catalog

import (
	"regexp"
	"slices"
	"strings"

	"itemrack/core/fault"
)

// Pattern is how a swatch of two colours is drawn.
type Pattern string

// The patterns.
const (
	Plain   Pattern = ""
	TwoTone Pattern = "two-tone"
	Stripes Pattern = "stripes"
	Dots    Pattern = "dots"
	Check   Pattern = "check"
)

// Patterns lists the patterns of two colours.
var Patterns = []Pattern{TwoTone, Stripes, Dots, Check}

// Swatch is how a colour looks: one colour, or two in a pattern, as "#RRGGBB".
type Swatch struct {
	First   string  `json:"first"`
	Second  string  `json:"second"`
	Pattern Pattern `json:"pattern"`
}

var colourCode = regexp.MustCompile(`^#[0-9A-F]{6}$`)

// ParseSwatch reads a swatch: "#D9604C", "#D9604C #54646F" for two-tone, or
// "#D9604C #54646F stripes". An empty text is no swatch.
func ParseSwatch(text string) (Swatch, error) {
	parts := strings.Fields(text)
	wrong := fault.Field("swatch", text, "#D9604C, or #D9604C #54646F stripes",
		"%q is not a colour such as #D9604C, nor two with a pattern.", text)
	if len(parts) > 3 {
		return Swatch{}, wrong
	}
	s := Swatch{}
	for i, part := range parts {
		switch {
		case i < 2 && colourCode.MatchString(strings.ToUpper(part)):
			if i == 0 {
				s.First = strings.ToUpper(part)
			} else {
				s.Second, s.Pattern = strings.ToUpper(part), TwoTone
			}
		case i == 2 && slices.Contains(Patterns, Pattern(strings.ToLower(part))):
			s.Pattern = Pattern(strings.ToLower(part))
		default:
			return Swatch{}, wrong
		}
	}
	return s, nil
}

// String writes the swatch as ParseSwatch reads it.
func (s Swatch) String() string {
	switch {
	case s.Second == "":
		return s.First
	case s.Pattern == TwoTone:
		return s.First + " " + s.Second
	}
	return s.First + " " + s.Second + " " + string(s.Pattern)
}

// usualColours are swatches for the names of colours that shops use.
var usualColours = map[string]string{
	"coral":  "#D9604C",
	"slate":  "#54646F",
	"kelp":   "#3F6B4F",
	"sand":   "#D8C29A",
	"foam":   "#DDE8E4",
	"tide":   "#2F5D73",
	"navy":   "#24364F",
	"black":  "#22282B",
	"white":  "#F6F5F0",
	"red":    "#B8382F",
	"blue":   "#2E5F9E",
	"green":  "#3C7A4B",
	"yellow": "#E2B93B",
	"orange": "#DB7A2C",
	"grey":   "#8A9195",
	"gray":   "#8A9195",
	"pink":   "#D98BA3",
	"purple": "#6C4A86",
	"brown":  "#7A5A3C",
	"teal":   "#2F7F74",
	"silver": "#B4BBC0",
	"gold":   "#C79A2B",
}

// UsualSwatch proposes a swatch for a colour's name: that of the first word it
// knows, the last word first ("Harbour green"), or none.
func UsualSwatch(name string) string {
	words := strings.Fields(strings.ToLower(name))
	for i := len(words) - 1; i >= 0; i-- {
		if swatch := usualColours[words[i]]; swatch != "" {
			return swatch
		}
	}
	return ""
}

// IsColour reports whether an axis is of colours, by its name.
func IsColour(axis string) bool {
	axis = strings.ToLower(axis)
	return strings.HasPrefix(axis, "colour") || strings.HasPrefix(axis, "color")
}
