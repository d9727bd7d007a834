// Package text has what is done with short texts everywhere. Its main rule: a
// length is counted in characters, never in bytes.
package text

import (
	"strings"
	"unicode/utf8"
)

// Len is how many characters a text has.
func Len(text string) int { return utf8.RuneCountInString(text) }

// Or is a text without blanks around it, or the usual one where that is empty.
func Or(text, usual string) string {
	if text = strings.TrimSpace(text); text == "" {
		return usual
	}
	return text
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
