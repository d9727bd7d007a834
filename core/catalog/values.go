package catalog

import (
	"slices"
	"strconv"
	"strings"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/text"
)

// ClothingSizes are the values that a set of sizes begins with.
var ClothingSizes = []string{"XXS", "XS", "S", "M", "L", "XL", "XXL", "3XL", "4XL"}

// ParseValues reads the values of an axis as they are typed, with commas between
// them. Each may be the beginning of one of the known values, or a run of them in
// their order, from either end: "xs-xxl"; a run of whole numbers need not be known:
// "36-42". Where every word between two commas is known, they are values of their
// own: "co sl ke". What is not known, or stands in quotation marks, stands for itself.
// Each value comes once; known ones bring their swatch. Letters that may mean several
// are refused with their names.
func ParseValues(typed string, known []Value) ([]Value, error) {
	var list []Value
	for _, part := range strings.FieldsFunc(typed, func(r rune) bool { return r == ',' || r == ';' || r == '\n' }) {
		name := text.Tidy(part)
		if name == "" {
			continue
		}
		found, err := values(name, known)
		if err != nil {
			return nil, err
		}
		for _, v := range found {
			if !slices.ContainsFunc(list, func(have Value) bool { return text.Same(have.Name, v.Name) }) {
				list = append(list, Value{Name: v.Name, Swatch: v.Swatch})
			}
		}
	}
	return list, nil
}

// values reads what stands between two commas.
func values(name string, known []Value) ([]Value, error) {
	if bare, quoted := strings.CutPrefix(name, `"`); quoted {
		if bare = text.Tidy(strings.TrimSuffix(bare, `"`)); bare == "" {
			return nil, nil
		}
		return []Value{{Name: bare}}, nil
	}
	found, err := meant(name, known)
	if err != nil || len(found) > 0 {
		return found, err
	}
	words := strings.Fields(name)
	for _, w := range words {
		one, err := meant(w, known)
		if len(one) == 0 {
			return []Value{{Name: name}}, nil // not all of its words are known
		}
		if err != nil {
			return nil, err
		}
		found = append(found, one...)
	}
	return found, nil
}

// meant finds the known values that a part stands for; none when it is not known.
func meant(part string, known []Value) ([]Value, error) {
	at, err := one(part, known)
	if err != nil {
		return nil, err
	}
	if at >= 0 {
		return known[at : at+1], nil
	}
	for i, r := range part {
		if r != '-' && r != '–' {
			continue
		}
		from, errFrom := one(part[:i], known)
		to, errTo := one(part[i+len(string(r)):], known)
		if errFrom == nil && errTo == nil && from >= 0 && to >= 0 && from != to {
			return known[min(from, to) : max(from, to)+1], nil
		}
		if run := numbers(strings.TrimSpace(part[:i]), strings.TrimSpace(part[i+len(string(r)):])); run != nil {
			return run, nil
		}
	}
	return nil, nil
}

// numbers is a run of whole numbers; none when the two are no such, or too far apart.
func numbers(a, b string) []Value {
	if !barcode.Digits(a) || !barcode.Digits(b) || len(a) > 6 || len(b) > 6 {
		return nil
	}
	from, _ := strconv.Atoi(a)
	to, _ := strconv.Atoi(b)
	if from, to = min(from, to), max(from, to); from == to || to-from >= MaxValues {
		return nil
	}
	var run []Value
	for n := from; n <= to; n++ {
		run = append(run, Value{Name: strconv.Itoa(n)})
	}
	return run
}

// one finds the known value that a text is, that it is the whole first word of, or that
// begins with it; −1 when there is none. Of several that begin so the one with which all
// others begin is meant ("co": Coral, and not Coral and slate); else none is.
func one(typed string, known []Value) (int, error) {
	key := text.Key(typed)
	if key == "" {
		return -1, nil
	}
	var words, begun []int
	for i, v := range known {
		name := text.Key(v.Name)
		if name == key {
			return i, nil
		}
		if strings.HasPrefix(name, key+" ") {
			words = append(words, i)
		}
		if strings.HasPrefix(name, key) {
			begun = append(begun, i)
		}
	}
	switch {
	case len(begun) == 0:
		return -1, nil
	case len(words) == 1:
		return words[0], nil
	}
	for _, i := range begun {
		first := text.Key(known[i].Name)
		if !slices.ContainsFunc(begun, func(j int) bool {
			return !strings.HasPrefix(text.Key(known[j].Name)+" ",
				first+" ")
		}) {
			return i, nil
		}
	}
	names := make([]string, len(begun))
	for i, at := range begun {
		names[i] = known[at].Name
	}
	return -1, fault.Field("axes", typed, strings.Join(names, " or ")+`; "`+typed+`" in quotation marks for a new one`,
		"%q may be %s.", typed, strings.Join(names, " or "))
}
