// Package text has what is done with short texts everywhere. Its main rules: a
// length is counted in characters, never in bytes; and two texts are the same when
// their keys are, for the program and for its database.
package text

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Tidy is a text as it is kept: composed (Unicode normalization form C), with single
// blanks and none around it, without signs that nobody sees. Joiners stay where they
// join, as in emoji and in scripts that need them.
func Tidy(typed string) string {
	return norm.NFC.String(strings.Join(strings.FieldsFunc(strings.Map(shown, typed), blank), " "))
}

// Key is the form in which texts are compared and kept as keys: tidy, in folded case
// (Unicode, full case folding: ß is ss) and without any sign that nobody sees. Accents
// and widths are told apart: é is not e.
func Key(typed string) string {
	key := Tidy(strings.Map(func(r rune) rune {
		if joins(r) {
			return -1
		}
		return r
	}, typed))
	for range 4 { // a folded letter may compose into one that folds again
		next := Tidy(cases.Fold().String(key))
		if next == key {
			break
		}
		key = next
	}
	return key
}

// NumberKey is the form in which numbers of papers of others are compared: as Key, and wide, narrow, raised and other
// forms of a sign being one (Unicode, compatibility): ７７ is 77.
func NumberKey(typed string) string { return Key(norm.NFKC.String(typed)) }

// Same reports whether two texts are the same to a person.
func Same(a, b string) bool { return a == b || Key(a) == Key(b) }

// blank reports whether r stands between words and is not seen.
func blank(r rune) bool { return unicode.IsSpace(r) || r == '\u2800' || r == '\u3164' }

// joins reports whether r only changes how the signs beside it look: joiners and
// variation selectors.
func joins(r rune) bool {
	return r == '\u200c' || r == '\u200d' || unicode.Is(unicode.Variation_Selector, r)
}

// shown leaves out what nobody sees: control and format signs, and bytes that are no
// text.
func shown(r rune) rune {
	if r == utf8.RuneError || !blank(r) && !joins(r) && (unicode.IsControl(r) || unicode.Is(unicode.Cf, r)) {
		return -1
	}
	return r
}

// Len is how many characters a text has.
func Len(text string) int { return utf8.RuneCountInString(text) }

// Or is a text without blanks around it, or the usual one where that is empty.
func Or(text, usual string) string {
	if text = strings.TrimSpace(text); text == "" {
		return usual
	}
	return text
}

// Plural writes so many of a thing: "1 variant", "3 variants", "0.5 variants", "−1 unit".
func Plural(n any, one, many string) string {
	said := fmt.Sprint(n)
	if strings.TrimLeft(said, "+-−") == "1" {
		return said + " " + one
	}
	return said + " " + many
}

// Cut shortens a text to so many characters, the last one then being "…".
func Cut(text string, most int) string {
	if Len(text) <= most {
		return text
	}
	return string([]rune(text)[:most-1]) + "…"
}

// Joined puts parts of a line behind each other, leaving empty ones out: "a · b".
func Joined(parts ...string) string {
	var kept []string
	for _, p := range parts {
		if p != "" {
			kept = append(kept, p)
		}
	}
	return strings.Join(kept, " · ")
}
