package catalog

import (
	"slices"
	"strings"
)

// ClothingSizes are the values that a set of sizes begins with.
var ClothingSizes = []string{"XXS", "XS", "S", "M", "L", "XL", "XXL", "3XL", "4XL"}

// ParseValues reads the values of an axis as they are typed, with commas between
// them. Each may be the beginning of one of the known values, or a run from one
// to another in their order: "xs-xxl". Where every word between two commas is
// known, they are values of their own: "co sl ke". What is not known stands for
// itself. Each value comes once; known ones bring their swatch.
func ParseValues(text string, known []Value) []Value {
	var list []Value
	for _, part := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' || r == '\n' }) {
		words := strings.Fields(part)
		if len(words) == 0 {
			continue
		}
		name := strings.Join(words, " ")
		found := meant(name, known)
		if len(found) == 0 && !slices.ContainsFunc(words, func(w string) bool { return len(meant(w, known)) == 0 }) {
			for _, w := range words {
				found = append(found, meant(w, known)...)
			}
		}
		if len(found) == 0 {
			found = []Value{{Name: name}}
		}
		for _, v := range found {
			if !slices.ContainsFunc(list, func(have Value) bool { return strings.EqualFold(have.Name, v.Name) }) {
				list = append(list, Value{Name: v.Name, Swatch: v.Swatch})
			}
		}
	}
	return list
}

// meant finds the known values that a part stands for; none when it is not known.
func meant(part string, known []Value) []Value {
	if at := one(part, known); at >= 0 {
		return known[at : at+1]
	}
	for i, r := range part {
		if r != '-' && r != '–' {
			continue
		}
		from, to := one(part[:i], known), one(part[i+len(string(r)):], known)
		if from >= 0 && to > from {
			return known[from : to+1]
		}
	}
	return nil
}

// one finds the known value that a text is, or is the beginning of when no other
// begins like it; −1 when there is none.
func one(text string, known []Value) int {
	text = strings.ToLower(strings.TrimSpace(text))
	if text == "" {
		return -1
	}
	found := -1
	for i, v := range known {
		name := strings.ToLower(v.Name)
		if name == text {
			return i
		}
		if strings.HasPrefix(name, text) {
			if found >= 0 {
				found = len(known) // two begin like it
			} else {
				found = i
			}
		}
	}
	if found == len(known) {
		return -1
	}
	return found
}
