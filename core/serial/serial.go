// Package serial knows serial numbers of single units. Its main rule: numbers
// that a person would call the same are the same, however they were typed.
package serial

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// State is where a unit's life has come to.
type State string

// The states of a unit.
const (
	InStock State = "in stock"
	Sold    State = "sold"
	// NumberOwed is a unit that stands in, on a sale, for one whose number will be given.
	NumberOwed State = "number owed"
	Missing    State = "missing" // not found at a shelf count
	Undone     State = "undone"  // its delivery was reversed
	// BackToSupplier is a unit that went back to whom it came from.
	BackToSupplier State = "back to supplier"
)

// Normal is the form in which a number of a unit or lot is kept and compared: in
// capitals, without blanks, signs that nobody sees, and those that stand between numbers.
// "ab 12" and "AB12" are one number; "E1" and "É1" are two.
func Normal(number string) string {
	return strings.ToUpper(unspaced.Replace(text.Key(number)))
}

var unspaced = strings.NewReplacer(" ", "", ",", "", ";", "")

// Longest is how many characters a number has at most.
const Longest = 40

// ReadList reads numbers separated by commas, semicolons or line ends. An empty
// list is fine; the same number twice, or one over 40 characters, is an error.
func ReadList(typed string) ([]string, error) {
	var list []string
	seen := map[string]bool{}
	for _, part := range strings.FieldsFunc(typed, func(r rune) bool {
		return r == ',' || r == ';' || r == '\n' ||
			r == '\r'
	}) {
		numbers, err := ranged(Normal(part))
		if err != nil {
			return nil, err
		}
		for _, number := range numbers {
			if text.Len(number) > Longest {
				return nil, fault.Field("serials", part, "40 characters or fewer", "The serial number %s is too long.",
					part)
			}
			if seen[number] {
				return nil, fault.Field("serials", part, "each number once", "The serial number %s stands there twice.",
					number)
			}
			seen[number] = true
			list = append(list, number)
		}
	}
	return list, nil
}

// aRange is numbers that follow each other: "BW26-0100..0120", "7..12".
var aRange = regexp.MustCompile(`^(.*?)(\d{1,15})\.\.(\d{1,15})$`)

// mostInRange bounds how many numbers a range has.
const mostInRange = 1000

// ranged is the numbers of a range, or the one number that it is; none for an empty text.
// Zeros before the figures stay.
func ranged(number string) ([]string, error) {
	if number == "" {
		return nil, nil
	}
	m := aRange.FindStringSubmatch(number)
	if m == nil {
		return []string{number}, nil
	}
	from, _ := strconv.ParseInt(m[2], 10, 64) // they are figures, and few
	to, _ := strconv.ParseInt(m[3], 10, 64)
	if to < from || to-from >= mostInRange {
		return nil, fault.Field("serials", number, "from the lower to the higher, 1000 at most",
			"%s is no range of numbers.", number)
	}
	list := make([]string, 0, to-from+1)
	for n := from; n <= to; n++ {
		list = append(list, fmt.Sprintf("%s%0*d", m[1], len(m[2]), n))
	}
	return list, nil
}

// Typed reads numbers as they are typed into one field and writes them as a list is kept.
func Typed(typed string) (string, error) {
	numbers, err := ReadList(typed)
	return Keep(numbers), err
}

// Keep writes numbers in normal form as a list is kept.
func Keep(numbers []string) string { return strings.Join(numbers, ",") }

// Kept takes apart a list of numbers as it is kept: in normal form, with commas.
func Kept(list string) []string {
	if list == "" {
		return nil
	}
	return strings.Split(list, ",")
}
