// Package letters writes any Latin text with the letters a to z alone. Its main
// rule: SKUs, searches and column heads all see the same letters in a text.
package letters

import (
	"strings"
)

// accents are the letters that come apart into others.
var accents = strings.NewReplacer("ä", "ae", "ö", "oe", "ü", "ue", "ß", "ss", "æ", "ae", "ø", "o", "å", "a", "à", "a",
	"á", "a", "â", "a", "ã", "a", "ā", "a", "ă", "a", "ą", "a", "ç", "c", "ć", "c", "č", "c", "ď", "d", "đ", "d", "è",
	"e", "é", "e", "ê", "e", "ë", "e", "ē", "e", "ę", "e", "ě", "e", "ğ", "g", "ì", "i", "í", "i", "î", "i", "ï", "i",
	"ī", "i", "ı", "i", "ł", "l", "ñ", "n", "ń", "n", "ň", "n", "ò", "o", "ó", "o", "ô", "o", "õ", "o", "ő", "o", "œ",
	"oe", "ř", "r", "ś", "s", "š", "s", "ş", "s", "ș", "s", "ť", "t", "ț", "t", "ţ", "t", "ù", "u", "ú", "u", "û", "u",
	"ū", "u", "ű", "u", "ů", "u", "ý", "y", "ÿ", "y", "ź", "z", "ż", "z", "ž", "z", "'", "", "’", "", "´", "", "′", "")

// others are the letters of alphabets that are written with those of this one.
var others = strings.NewReplacer("а", "a", "б", "b", "в", "v", "г", "g", "ґ", "g", "д", "d", "е", "e", "ё", "e", "є",
	"ye",
	"ж", "zh", "з", "z", "и", "i", "і", "i", "ї", "yi", "й", "i", "к", "k", "л", "l", "м", "m", "н", "n", "о", "o", "п",
	"p", "р", "r", "с", "s", "т", "t", "у", "u", "ў", "u", "ф", "f", "х", "kh", "ц", "ts", "ч", "ch", "ш", "sh", "щ",
	"shch", "ъ", "", "ы", "y", "ь", "", "э", "e", "ю", "yu", "я", "ya", "ђ", "dj", "ј", "j", "љ", "lj", "њ", "nj", "ћ",
	"c", "џ", "dz", "α", "a", "ά", "a", "β", "v", "γ", "g", "δ", "d", "ε", "e", "έ", "e", "ζ", "z", "η", "i", "ή", "i",
	"θ", "th", "ι", "i", "ί", "i", "ϊ", "i", "ΐ", "i", "κ", "k", "λ", "l", "μ", "m", "ν", "n", "ξ", "x", "ο", "o", "ό",
	"o", "π", "p", "ρ", "r", "σ", "s", "ς", "s", "τ", "t", "υ", "y", "ύ", "y", "ϋ", "y", "ΰ", "y", "φ", "f", "χ", "ch",
	"ψ", "ps", "ω", "o", "ώ", "o")

// Plain writes a text in small letters without accents, those of Greek and Cyrillic with
// the letters of this alphabet; other signs stay.
func Plain(text string) string { return others.Replace(accents.Replace(strings.ToLower(text))) }

// Code reports whether r is a small letter a to z or a digit.
func Code(r rune) bool { return r >= 'a' && r <= 'z' || r >= '0' && r <= '9' }

// Only keeps the letters a to z and digits of a text, in small letters.
func Only(text string) string {
	return strings.Map(func(r rune) rune {
		if Code(r) {
			return r
		}
		return -1
	}, Plain(text))
}
