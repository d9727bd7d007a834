package barcode

import (
	"strings"
	"time"

	"itemrack/core/fault"
)

// Elements is what an element string says: an item, and which lot, expiry and
// serial number it has. A zero Expiry and empty texts are not there.
type Elements struct {
	GTIN   string // 14 digits
	Lot    string
	Expiry time.Time // midnight UTC
	Serial string
}

// ai is an application identifier: how long its value is; 0 for one of up to
// most characters that ends with a separator (GS1 General Specifications,
// sections 3.2 and 7.8.5).
type ai struct {
	code       string
	fixed      int
	most       int
	digitsOnly bool
}

// identifiers are those that are read, in the order they are tried; values other
// than AI 01, 10, 17 and 21 are checked and passed over.
var identifiers = []ai{
	{"00", 18, 0, true}, {"01", 14, 0, true}, {"02", 14, 0, true}, {"10", 0, 20, false}, {"11", 6, 0, true}, {"12", 6,
		0, true}, {"13", 6, 0, true},
	{"15", 6, 0, true}, {"16", 6, 0, true}, {"17", 6, 0, true}, {"20", 2, 0, true}, {"21", 0, 20, false}, {"22", 0, 20,
		false}, {"30", 0, 8, true},
	{"37", 0, 8, true}, {"240", 0, 30, false}, {"241", 0, 30, false}, {"250", 0, 30, false}, {"400", 0, 30, false}}

// symbologyIdentifiers go before what a reader sends of a symbol with element
// strings (ISO/IEC 15424).
var symbologyIdentifiers = []string{"]C1", "]e0", "]d2", "]Q3"}

// IsElements reports whether a scanned text is meant as an element string: it
// has a symbology identifier, a separator, or brackets around its first
// identifier.
func IsElements(text string) bool {
	text = strings.TrimSpace(text)
	for _, id := range symbologyIdentifiers {
		if strings.HasPrefix(text, id) {
			return true
		}
	}
	return strings.HasPrefix(text, "\x1d") || strings.HasPrefix(text, "(01)") || strings.HasPrefix(text, "(02)") ||
		strings.HasPrefix(text, "01") && len(text) >= 16 && Digits(text[2:16]) && CheckDigit(text[2:15]) == text[15]
}

// ParseElements reads an element string as a reader sends it, with or without a
// symbology identifier and with FNC1 as ASCII 29, or as it is written for
// people: (01)02000000000015(10)K614. What is wrong is named. A two-digit year
// is of 1977 to 2076 (section 7.12, from 2026).
func ParseElements(text string) (Elements, error) {
	var e Elements
	clean := strings.TrimSpace(text)
	for _, id := range symbologyIdentifiers {
		clean = strings.TrimPrefix(clean, id)
	}
	clean = strings.TrimPrefix(clean, "\x1d")
	if clean == "" {
		return e, wrongElements(text, "It is empty.")
	}
	bracketed := strings.HasPrefix(clean, "(")
	seen := map[string]bool{}
	for clean != "" {
		id, value, rest, err := nextElement(text, clean, bracketed)
		if err != nil {
			return e, err
		}
		if seen[id.code] {
			return e, wrongElements(text, "("+id.code+") stands there twice.")
		}
		seen[id.code] = true
		if err := e.take(text, id.code, value); err != nil {
			return e, err
		}
		clean = rest
	}
	return e, nil
}

func wrongElements(text, why string) *fault.Error {
	return fault.Field("barcode", text, "an element string such as (01)02000000000015(10)K614", "The element string "+
		"can't be read. %s", why)
}

// nextElement cuts the next identifier and its value off.
func nextElement(whole, text string, bracketed bool) (ai, string, string, error) {
	if bracketed {
		if text[0] != '(' {
			return ai{}, "", "", wrongElements(whole, "Brackets go around each identifier.")
		}
		text = text[1:]
	}
	for _, id := range identifiers {
		rest, ok := strings.CutPrefix(text, id.code)
		if !ok {
			continue
		}
		if bracketed {
			if rest, ok = strings.CutPrefix(rest, ")"); !ok {
				continue
			}
		}
		value, left, err := id.value(whole, rest, bracketed)
		return id, value, left, err
	}
	return ai{}, "", "", wrongElements(whole, "It has an identifier that is not known, at "+text[:min(len(text),
		4)]+".")
}

// value cuts the value of an identifier off.
func (id ai) value(whole, text string, bracketed bool) (value, rest string, err error) {
	end := len(text)
	switch {
	case bracketed:
		if at := strings.IndexByte(text, '('); at >= 0 {
			end = at
		}
	case id.fixed > 0:
		end = min(id.fixed, len(text))
	default:
		if at := strings.IndexByte(text, separatorByte); at >= 0 {
			end = at
		}
	}
	value, rest = text[:end], strings.TrimPrefix(text[end:], "\x1d")
	switch {
	case id.fixed > 0 && len(value) != id.fixed || id.fixed == 0 && (value == "" || len(value) > id.most):
		return "", "", wrongElements(whole, "("+id.code+") has a value of the wrong length.")
	case id.digitsOnly && !Digits(value):
		return "", "", wrongElements(whole, "("+id.code+") takes digits only.")
	}
	for i := 0; i < len(value); i++ {
		if value[i] <= ' ' || value[i] > '~' {
			return "", "", wrongElements(whole, "("+id.code+") holds a character that it can't.")
		}
	}
	return value, rest, nil
}

func (e *Elements) take(whole, code, value string) error {
	switch code {
	case "01":
		if right := CheckDigit(value[:13]); right != value[13] {
			return wrongElements(whole, "The check digit of "+value+" is "+string(right)+", not "+value[13:]+".")
		}
		e.GTIN = value
	case "10":
		e.Lot = value
	case "21":
		e.Serial = value
	case "17":
		day, ok := elementDate(value)
		if !ok {
			return wrongElements(whole, value+" is no date: it takes year, month and day, such as 261231.")
		}
		e.Expiry = day
	}
	return nil
}

// elementDate reads YYMMDD; day 00 is the last of the month.
func elementDate(value string) (time.Time, bool) {
	two := func(i int) int { return int(value[i]-'0')*10 + int(value[i+1]-'0') }
	year, month, day := 2000+two(0), two(2), two(4)
	if year > 2076 { // 51 years and more after 2026 are of the century before
		year -= 100
	}
	if month < 1 || month > 12 {
		return time.Time{}, false
	}
	if day == 0 {
		return time.Date(year, time.Month(month)+1, 0, 0, 0, 0, 0, time.UTC), true
	}
	date := time.Date(year, time.Month(month), day, 0, 0, 0, 0, time.UTC)
	return date, date.Day() == day
}

// String writes the element string as it stands in a symbol: identifiers and
// values, a separator after each value of open length but the last.
func (e Elements) String() string {
	var text string
	if e.GTIN != "" {
		text = "01" + e.GTIN
	}
	if !e.Expiry.IsZero() {
		text += "17" + e.Expiry.Format("060102")
	}
	if e.Lot != "" {
		text += "10" + e.Lot
	}
	if e.Lot != "" && e.Serial != "" {
		text += "\x1d"
	}
	if e.Serial != "" {
		text += "21" + e.Serial
	}
	return text
}

// ElementsOf makes the elements of a GTIN with lot, expiry and serial number.
// A code that is no GTIN can't have them.
func ElementsOf(code, lot string, expiry time.Time, serial string) (Elements, error) {
	if !Digits(code) || !gtinLength(len(code)) {
		return Elements{}, fault.Field("barcode", code, "a GTIN of 8, 12, 13 or 14 digits", "Only a GTIN can stand "+
			"in an element string; %q is none.", code)
	}
	return Elements{GTIN: Key(code), Lot: lot, Expiry: expiry, Serial: serial}, nil
}
