package search

import (
	"slices"
	"strings"
	"testing"
)

func FuzzWords(f *testing.F) {
	for _, text := range []string{"Tidewater rash vest", "Größe 42", "漢字 ロープ", "سترة", "👩‍🚀 +*\"()", "9'6\"",
		strings.Repeat("x", 90)} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		words := Words(text)
		for _, w := range words {
			if w == "" || len(w) > longest || strings.ContainsFunc(w,
				func(r rune) bool { return (r < 'a' || r > 'z') && (r < '0' || r > '9') }) {
				t.Fatalf("%q has the word %q", text, w)
			}
		}
		if again := Words(strings.Join(words, " ")); !slices.Equal(again, words) {
			t.Fatalf("%q is %q and %q", text, words, again)
		}
		if (Query(text) == "") != (len(words) == 0) {
			t.Fatalf("%q asks for %q", text, Query(text))
		}
	})
}
