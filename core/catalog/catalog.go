// Package catalog builds products with their variants. Its main rule: a product
// has up to three axes, and its variants are the cells of that matrix that are
// made; a value added later adds cells and leaves the others as they are.
package catalog

import (
	"strings"

	"itemrack/core/fault"
	"itemrack/core/letters"
	"itemrack/core/text"
)

// MaxAxes, MaxValues and MaxVariants bound a product.
const (
	MaxAxes     = 3
	MaxValues   = 60
	MaxVariants = 600

	MostPosition = 9999 // of a value in its set
	MostValue    = 60   // characters of a value
)

// Value is one value of an axis; Swatch is how a colour looks, in the form of
// ParseSwatch, or empty. A retired value is no longer bought.
type Value struct {
	Name    string `json:"name"`
	Swatch  string `json:"swatch"`
	Retired bool   `json:"retired"`
}

// Axis is a direction in which a product varies, with its values in order. Set is
// the name of the value set they come from; empty is the one of the axis' name.
type Axis struct {
	Name   string  `json:"name"`
	Set    string  `json:"set"`
	Values []Value `json:"values"`
}

// ValueSet is the name of the set that the axis takes its values from.
func (a Axis) ValueSet() string {
	if a.Set != "" {
		return a.Set
	}
	return a.Name
}

// Choice is the value that a variant has on each axis, in the axes' order.
type Choice []string

// Key is the form in which choices are compared.
func (c Choice) Key() string {
	keys := make([]string, len(c))
	for i, value := range c {
		keys[i] = text.Key(value)
	}
	return strings.Join(keys, "\x1f")
}

// Label is how a variant is called beside its product: "Coral · M".
func (c Choice) Label() string { return strings.Join(c, " · ") }

// CheckAxes returns an error when axes can't make a product: too many, without
// a name, without values, or the same name or value twice.
func CheckAxes(axes []Axis) error {
	if len(axes) > MaxAxes {
		return fault.Field("axes", len(axes), "three or fewer", "A product varies in three ways at most.")
	}
	cells, names := 1, map[string]bool{}
	for _, a := range axes {
		name := text.Key(a.Name)
		if name == "" || names[name] {
			return fault.Field("axes", a.Name, "a name of its own",
				"Each axis needs a name of its own, such as Colour.")
		}
		names[name] = true
		if text.Len(a.Name) > MostOwnName || text.Len(a.Set) > MostOwnName+20 {
			return fault.Field("axes", a.Name, "40 characters or fewer", "The axis %s has too long a name.",
				text.Cut(a.Name, 60))
		}
		if len(a.Values) == 0 || len(a.Values) > MaxValues {
			return fault.Field("axes", a.Name, "1 to 60 values", "%s has %d values; it needs 1 to 60.", a.Name,
				len(a.Values))
		}
		cells *= len(a.Values)
		seen := map[string]bool{}
		for _, v := range a.Values {
			value := text.Key(v.Name)
			if value == "" || seen[value] {
				return fault.Field("axes", v.Name, "each value once", "%s: %q stands there twice or is empty.", a.Name,
					v.Name)
			}
			seen[value] = true
			if text.Len(v.Name) > MostValue {
				return fault.Field("axes", text.Cut(v.Name, 60), "60 characters or fewer",
					"%s: the value %s has %d characters.",
					a.Name, text.Cut(v.Name, 60), text.Len(v.Name))
			}
			if _, err := ParseSwatch(v.Swatch); err != nil {
				return err
			}
		}
	}
	if cells > MaxVariants {
		return fault.Field("axes", cells, "600 variants or fewer", "That makes %d variants; a product has 600 at most.",
			cells)
	}
	return nil
}

// Cells lists every choice of the matrix, the last axis running fastest. A
// product without axes has one empty choice.
func Cells(axes []Axis) []Choice {
	cells := []Choice{{}}
	for _, a := range axes {
		var next []Choice
		for _, c := range cells {
			for _, v := range a.Values {
				next = append(next, append(append(Choice{}, c...), v.Name))
			}
		}
		cells = next
	}
	return cells
}

// Missing lists the cells that are neither among the variants there are nor
// left out: what a product gains when values are added.
func Missing(axes []Axis, have, leftOut []Choice) []Choice {
	skip := map[string]bool{}
	for _, c := range append(append([]Choice{}, have...), leftOut...) {
		skip[c.Key()] = true
	}
	var missing []Choice
	for _, c := range Cells(axes) {
		if !skip[c.Key()] {
			missing = append(missing, c)
		}
	}
	return missing
}

// Letters writes text as capitals A–Z and digits, accents removed: the alphabet
// of SKUs.
func Letters(text string) string { return strings.ToUpper(letters.Only(text)) }

// StyleCode proposes a product's style code: the first letters of its words, or
// three letters of a single word; P for a name without any that can be scanned.
func StyleCode(name string) string {
	if Letters(name) == "" {
		return "P"
	}
	words := strings.Fields(name)
	if len(words) == 1 {
		return first(Letters(name), 3)
	}
	var b strings.Builder
	for _, w := range words {
		b.WriteString(first(Letters(w), 1))
	}
	return first(b.String(), 6)
}

func first(s string, n int) string {
	if len(s) > n {
		return s[:n]
	}
	return s
}

// FullName is how a variant is called: "Tidewater rash vest, Coral · M".
func FullName(product, label string) string {
	if label == "" {
		return product
	}
	return product + ", " + label
}
