// Package search turns texts into the words they are found by, and forgives
// typing errors. Its main rule: what is searched and what is searched for are
// cut into words by the same function.
package search

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"itemrack/core/letters"
)

// mark stands before each indexed word, so that a full text index keeps even the
// words of one letter, and those that it would leave out as too common.
const mark = "qz"

// longest is how many letters of a word count.
const longest = 36

// Words cuts a text into words of a to z and 0 to 9, without accents, each once
// and in order. Letters of other alphabets are written as the numbers that they have
// (Unicode, in hexadecimal behind a 0); of scripts that put no blanks between words each
// sign is a word.
func Words(text string) []string {
	var words []string
	for _, w := range strings.FieldsFunc(spelt(letters.Plain(text)), func(r rune) bool { return !letters.Code(r) }) {
		if len(w) > longest {
			w = w[:longest]
		}
		if !slices.Contains(words, w) {
			words = append(words, w)
		}
	}
	return words
}

// unspaced are the scripts that put no blanks between words.
var unspaced = []*unicode.RangeTable{unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Thai, unicode.Lao,
	unicode.Khmer,
	unicode.Myanmar}

// spelt writes letters of other alphabets as their numbers.
func spelt(text string) string {
	var b strings.Builder
	other := false // the sign before was of another alphabet
	for _, r := range text {
		switch {
		case r < 0x80 || !unicode.IsLetter(r) && !unicode.IsMark(r) && !unicode.IsNumber(r):
			if other && letters.Code(r) {
				b.WriteByte(' ')
			}
			other = false
			b.WriteRune(r)
			continue
		case !other || unicode.In(r, unspaced...):
			b.WriteByte(' ')
		}
		fmt.Fprintf(&b, "0%04x", r)
		if other = !unicode.In(r, unspaced...); !other {
			b.WriteByte(' ')
		}
	}
	return b.String()
}

// Index joins the words of some texts as they are kept in the full text index.
func Index(texts ...string) string {
	words := Words(strings.Join(texts, " "))
	for i := range words {
		words[i] = mark + words[i]
	}
	return strings.Join(words, " ")
}

// Query is the boolean full text query for what a person typed: every word, each
// by its beginning. It is empty when nothing was typed that could be found.
func Query(text string) string {
	words := Words(text)
	for i := range words {
		words[i] = "+" + mark + words[i] + "*"
	}
	return strings.Join(words, " ")
}

// Forgiven is how many errors a word of so many letters may have: none up to
// three, one up to seven, else two.
func Forgiven(letters int) int {
	switch {
	case letters <= 3:
		return 0
	case letters <= 7:
		return 1
	}
	return 2
}

// Near finds the words, among those known, that a person may have meant by one:
// those with the fewest errors, at most some. A word that is the beginning of a
// known one is right as it is. Words with digits are never guessed at: they are
// codes.
func Near(word string, known []string, most int) []string {
	allowed := Forgiven(len(word))
	if allowed == 0 || strings.ContainsAny(word, "0123456789") {
		return nil
	}
	best := allowed
	var found []string
	for _, k := range known {
		if strings.HasPrefix(k, word) {
			return nil
		}
		errors := distance(word, k, best)
		if errors > best {
			continue
		}
		if errors < best {
			best, found = errors, nil
		}
		found = append(found, k)
	}
	slices.Sort(found)
	return found[:min(len(found), most)]
}

// distance counts the errors between two words: letters put in, left out,
// mistaken or swapped with their neighbour. It may stop counting above most.
func distance(a, b string, most int) int {
	if len(a)-len(b) > most || len(b)-len(a) > most {
		return most + 1
	}
	before, last, next := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(a); i++ {
		next[0] = i
		least := i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			next[j] = min(last[j]+1, next[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				next[j] = min(next[j], before[j-2]+1)
			}
			least = min(least, next[j])
		}
		if least > most {
			return most + 1
		}
		before, last, next = last, next, before
	}
	return last[len(b)]
}
