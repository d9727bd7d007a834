// Package barcode knows numbers that are scanned: GTINs with their check digits,
// the shop's own numbers, and symbols as rows of modules. Its main rule: one key
// for one thing, so that a number finds the same thing with or without the
// leading zeros that its symbol adds.
package barcode

import (
	"fmt"
	"strings"

	"itemrack/core/fault"
)

// CheckDigit computes the last digit of a GTIN from the digits before it:
// weights 3 and 1 from the right, up to the next ten (GS1 General
// Specifications, section 7.9.1).
func CheckDigit(body string) byte {
	sum := 0
	for i := 0; i < len(body); i++ {
		digit := int(body[len(body)-1-i] - '0')
		if i%2 == 0 {
			digit *= 3
		}
		sum += digit
	}
	return byte('0' + (10-sum%10)%10)
}

// Digits reports whether text is made of the digits 0 to 9 only, at least one.
func Digits(text string) bool {
	for i := 0; i < len(text); i++ {
		if text[i] < '0' || text[i] > '9' {
			return false
		}
	}
	return text != ""
}

// gtinLength reports whether a number of so many digits is a GTIN-8, -12, -13 or -14.
func gtinLength(n int) bool { return n == 8 || n == 12 || n == 13 || n == 14 }

// maxLength is the longest barcode text that is kept.
const maxLength = 48

// GTIN reports whether a text is a number of GS1: 8, 12, 13 or 14 digits.
func GTIN(text string) bool { return Digits(text) && gtinLength(len(text)) }

// Parse reads a barcode as typed or scanned. Digits in the length of a GTIN must
// have the right check digit, which the error names; any other printable ASCII
// text is taken as the text of a Code 128 symbol. The text comes back trimmed.
func Parse(text string) (string, error) {
	code := strings.TrimSpace(text)
	if code == "" {
		return "", fault.Field("barcode", text, "a number such as 2000000000015", "A barcode can't be empty.")
	}
	if len(code) > maxLength {
		return "", fault.Field("barcode", text, "48 characters or fewer", "A barcode of %d characters is too long.",
			len(code))
	}
	for i := 0; i < len(code); i++ {
		if code[i] < ' ' || code[i] > '~' {
			return "", fault.Field("barcode", text, "letters, digits and signs of ASCII",
				"The barcode holds a character that no scanner sends.")
		}
	}
	if wrong := misread(code); wrong != nil {
		wrong.Value = text
		return "", wrong
	}
	if Digits(code) && gtinLength(len(code)) {
		body, last := code[:len(code)-1], code[len(code)-1]
		if right := CheckDigit(body); right != last {
			return "", fault.Field("barcode", text, body+string(right), "The check digit of %s is %c, not %c.", code,
				right, last)
		}
	}
	return code, nil
}

// misread says what numbers are that can't be the barcode of a thing: a GTIN that lacks a
// digit, the number of a pallet, or more than a number.
func misread(code string) *fault.Error {
	switch {
	case Digits(code) && len(code) == 11:
		return fault.Field("barcode", code, "8, 12, 13 or 14 digits",
			"%s has 11 digits; a GTIN has 8, 12, 13 or 14. With a check digit it would be %s.", code,
			code+string(CheckDigit(code)))
	case Digits(code) && len(code) == 18:
		return fault.Field("barcode", code, "the number of the thing itself",
			"%s has 18 digits: that is the number of one pallet or parcel (SSCC), not of a thing.", code)
	case !IsElements(code):
		return nil
	}
	e, err := ParseElements(code)
	if err != nil || e.GTIN == "" {
		return nil
	}
	return fault.Field("barcode", code, e.GTIN, "%s says more than a number: scanning it finds what has %s.", code,
		e.GTIN)
}

// Remark says what a person should know of a barcode that can be kept; empty for nothing.
func Remark(code string) string {
	if strings.Contains(code, " ") {
		return "It has a blank in it, which must be in what is scanned, too."
	}
	return ""
}

// Key is the form under which a barcode is unique and found: a GTIN as 14
// digits (GS1 General Specifications, section 3.3.2), other text in capitals.
func Key(code string) string {
	code = strings.TrimSpace(code)
	if Digits(code) && gtinLength(len(code)) {
		return strings.Repeat("0", 14-len(code)) + code
	}
	return strings.ToUpper(code)
}

// CheckPrefix says whether a shop may give out numbers of its own under prefix:
// GS1 leaves 02, 04 and 20 to 29 to restricted circulation.
func CheckPrefix(prefix string) error {
	if len(prefix) == 2 && Digits(prefix) && (prefix == "02" || prefix == "04" || prefix[0] == '2') {
		return nil
	}
	return fault.Field("barcode_prefix", prefix, "02, 04 or 20 to 29", "The prefix %q belongs to somebody else.",
		prefix)
}

// Own makes the nth number of the shop as an EAN-13: prefix, ten digits, check
// digit. It is an error when the ten digits are used up.
func Own(prefix string, n uint64) (string, error) {
	if err := CheckPrefix(prefix); err != nil {
		return "", err
	}
	if n >= 1e10 {
		return "", fault.Refuse("barcode_prefix", prefix, "another prefix", "All numbers under %s are given out.",
			prefix)
	}
	body := fmt.Sprintf("%s%010d", prefix, n)
	return body + string(CheckDigit(body)), nil
}
