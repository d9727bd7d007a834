package catalog

import (
	"slices"
	"strconv"
	"strings"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// DefaultPattern builds SKUs such as TWV-COR-M from a style code and the first
// letters of each axis value but the last, which stands whole.
func DefaultPattern(axes []Axis) string {
	pattern := "{style}"
	for i, a := range axes {
		part := strings.ToLower(a.Name)
		if strings.ContainsAny(part, "{}:") || text.Len(part) > 24 {
			part = strconv.Itoa(i + 1)
		}
		if i < len(axes)-1 {
			part += ":3"
		}
		pattern += "-{" + part + "}"
	}
	return pattern
}

// MaxSKU is the longest SKU.
const MaxSKU = 40

// SKU builds a variant's SKU from a pattern. {style} stands for the style code,
// {axis} for the letters of the variant's value on that axis (named, or by its number from 1
// on), {axis:3} for the first three; everything else stands for itself. An unknown name is an error.
func SKU(pattern, style string, axes []Axis, choice Choice) (string, error) {
	var b strings.Builder
	for rest := pattern; rest != ""; {
		open := strings.IndexByte(rest, '{')
		if open < 0 {
			b.WriteString(rest)
			break
		}
		b.WriteString(rest[:open])
		end := strings.IndexByte(rest[open:], '}')
		if end < 0 {
			return "", fault.Field("sku_pattern", pattern, "{style}-{colour:3}-{size}",
				"A { in the SKU pattern is not closed.")
		}
		text, err := expand(rest[open+1:open+end], pattern, style, axes, choice)
		if err != nil {
			return "", err
		}
		b.WriteString(text)
		rest = rest[open+end+1:]
	}
	return CheckSKU(b.String())
}

func expand(field, pattern, style string, axes []Axis, choice Choice) (string, error) {
	name, width, limited := strings.Cut(strings.ToLower(strings.TrimSpace(field)), ":")
	letters, found := style, name == "style"
	for i, a := range axes {
		if (text.Same(a.Name, name) || !found && name == strconv.Itoa(i+1)) && i < len(choice) {
			letters, found = Letters(choice[i]), true
			if letters == "" { // it has no letters that can be scanned
				letters = strconv.Itoa(1 + slices.IndexFunc(a.Values,
					func(v Value) bool { return text.Same(v.Name, choice[i]) }))
			}
		}
	}
	if !found {
		return "", fault.Field("sku_pattern", pattern, "{style} and the names of the axes",
			"{%s} is not an axis of this product.", name)
	}
	if limited {
		n, err := strconv.Atoi(width)
		if err != nil || n < 1 || n > MaxSKU {
			return "", fault.Field("sku_pattern", pattern, "{"+name+":3}", "%q is not a number of letters.", width)
		}
		letters = first(letters, n)
	}
	return letters, nil
}

// CheckSKU trims a SKU and returns it in capitals, or an error: it is 1 to 40
// printable ASCII characters without spaces.
func CheckSKU(text string) (string, error) {
	sku := strings.ToUpper(strings.TrimSpace(text))
	if sku == "" || len(sku) > MaxSKU {
		return "", fault.Field("sku", text, "1 to 40 characters", "The SKU %q has %d characters; it takes 1 to 40.",
			text, len(sku))
	}
	for i := 0; i < len(sku); i++ {
		if sku[i] <= ' ' || sku[i] > '~' {
			return "", fault.Field("sku", text, "letters, digits and signs, no spaces",
				"The SKU %q holds a character that can't be scanned.", text)
		}
	}
	return sku, nil
}

// Numbered is how a SKU begins that is made different by a number at its end.
func Numbered(sku string) string { return first(sku, MaxSKU-4) + "-" }

// Distinct makes each SKU different from those before it and from taken ones,
// by a number at its end. It changes the slice in place.
func Distinct(skus []string, taken func(sku string) bool) {
	seen := map[string]bool{}
	for i, sku := range skus {
		name := sku
		for n := 2; seen[name] || taken(name); n++ {
			name = Numbered(sku) + strconv.Itoa(n)
		}
		seen[name] = true
		skus[i] = name
	}
}
