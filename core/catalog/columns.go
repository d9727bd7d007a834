package catalog

import (
	"slices"
	"strconv"
	"strings"
	"unicode"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// Column is a column that a list may have. Also are other heads that people
// write over it; Says is what stands in it, for the template.
type Column struct {
	Name string
	Also []string
	Says string
}

// ListColumns are the columns of a stock list, in the order in which a list is
// written; axes are made in the order in which theirs stand here.
var ListColumns = []Column{
	{"product", []string{"product name", "item", "item name", "title", "name", "article"}, "Tidewater rash vest"},
	{"short name", []string{"label name", "tile name"}, "Rash vest"},
	{"style", []string{"style code", "style no", "model"}, "TWV"},
	{"category", []string{"department", "group", "product group", "type"}, "Swim > Rash vests"},
	{"brand", []string{"make", "maker", "manufacturer"}, "Kelpline"},
	{"supplier", []string{"vendor", "supplier name"}, "Kelpline Textiles"},
	{"supplier part", []string{"part number", "part no", "supplier code", "supplier sku", "vendor code"}, "KT-1180"},
	{"tax class", []string{"tax", "vat", "tax rate", "vat rate"}, "Standard"}, {"tracking", nil, "counted"},
	{"unit", []string{"base unit", "uom"}, "piece"}, {"colour", []string{"color", "shade"}, "Coral"},
	{"swatch", []string{"colour code", "color code", "hex"}, "#D9604C"}, {"size", nil, "M"}, {"length", nil, ""},
	{"litres", []string{"volume", "liters"}, ""},
	{"sku", []string{"code", "item code", "item no", "article no", "stock code", "our code"}, "TWV-COR-M"},
	{"barcode", []string{"ean", "gtin", "upc", "ean13", "ean code", "bar code"}, ""}, {"more barcodes", nil, ""},
	{"price", []string{"selling price", "retail price", "rrp", "sale price", "unit price", "price with tax"}, "34.95"},
	{"cost", []string{"cost price", "purchase price", "buying price", "unit cost", "net cost"}, "13.95"},
	{"opening quantity", []string{"quantity", "qty", "stock", "on hand", "opening stock"}, "12"},
	{"restock level", []string{"reorder level", "minimum", "min stock"}, "3"},
	{"more prices", []string{"quantity prices", "price breaks", "prices to come"}, ""},
	{"content", []string{"contents", "net content"}, ""}, {"weight kg", []string{"weight", "weight in kg"},
		""}, {"pack", []string{"pack name", "case"}, ""},
	{"pack factor", []string{"pack size", "units per pack", "case size"}, ""},
	{"pack barcode", []string{"case barcode"}, ""}, {"pack price", []string{"case price"}, ""},
	{"discontinued", nil, ""}, {"picture", []string{"image", "photo", "picture file", "image file"}, ""},
	{"description", []string{"text", "long description"}, ""}, {"supplier text", []string{"buying text"}, ""},
	{"sku pattern", nil, ""}, {"parts", []string{"components"}, ""}}

// OpeningColumns are the columns of an opening stock list.
var OpeningColumns = []Column{
	{"code", []string{"barcode", "sku", "ean", "gtin", "upc", "item code", "stock code"}, "TWV-COR-M"},
	{"quantity", []string{"qty", "stock", "on hand", "opening quantity", "counted"}, "12"},
	{"cost", []string{"cost price", "unit cost", "purchase price"}, "13.95"},
	{"worth", []string{"value", "total cost", "stock value", "amount"}, ""},
	{"came on", []string{"date", "day", "received", "came in", "purchase date", "delivered"}, ""},
	{"lot", []string{"batch", "lot number", "batch number"}, ""},
	{"expiry", []string{"use by", "best before", "expiry date"}, ""},
	{"serial numbers", []string{"serial", "serials", "serial number"}, ""},
	{"shelf", []string{"place", "location", "bin"}, ""}}

// Prefixes begin the heads of columns that a shop names itself: an axis, an
// attribute, the price on a list, the swatches of an axis.
const (
	AxisPrefix      = "axis: "
	AttributePrefix = "attribute: "
	PricePrefix     = "price: "

	MorePricesPrefix = "more prices: "
	SwatchPrefix     = "swatch: "
)

var prefixes = []string{AxisPrefix, AttributePrefix, PricePrefix, MorePricesPrefix, SwatchPrefix}

// MostOwnName is how many characters what a shop names itself has at most: an axis, an
// attribute, a price list.
const MostOwnName = 40

// MaxPacks bounds the packs that a row of a list names.
const MaxPacks = 12

// PackColumns are the columns of one pack.
type PackColumns struct{ Name, Factor, Barcode, Price string }

// PackColumnsOf are the columns of the nth pack of a row: "pack", "pack factor" of the first,
// "pack 2", "pack 2 factor" of the second.
func PackColumnsOf(n int) PackColumns {
	name := "pack"
	if n > 1 {
		name += " " + strconv.Itoa(n)
	}
	return PackColumns{name, name + " factor", name + " barcode", name + " price"}
}

// Names are the columns of the pack, in order.
func (p PackColumns) Names() []string { return []string{p.Name, p.Factor, p.Barcode, p.Price} }

// plainHead is a head as it is compared: in folded case, one blank between words, without
// other signs; letters of any script count.
func plainHead(head string) string {
	return strings.Join(strings.FieldsFunc(text.Key(head), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsNumber(r) && !unicode.IsMark(r) && r != ':'
	}), " ")
}

// Matching says which column each head of a file is, by the head's place; an
// empty name is a head that is not read.
type Matching []string

// Match finds the column of each head: by memory (head to column, as a person
// matched it before), by its own name, or by another name for it. A column is
// taken once, by the first head that is it.
func Match(heads []string, columns []Column, memory map[string]string) Matching {
	match := make(Matching, len(heads))
	taken := map[string]bool{}
	take := func(i int, name string) {
		if name != "" && !taken[name] && match[i] == "" {
			match[i], taken[name] = name, true
		}
	}
	for i, h := range heads { // what a person said goes first
		take(i, memory[plainHead(h)])
	}
	for i, h := range heads {
		take(i, named(h, columns))
	}
	for i, h := range heads {
		for _, c := range columns {
			if slices.Contains(c.Also, plainHead(h)) {
				take(i, c.Name)
			}
		}
	}
	return match
}

// Memory is what is kept of a matching that a person confirmed: plain head to
// column.
func (m Matching) Memory(heads []string) map[string]string {
	memory := map[string]string{}
	for i, h := range heads {
		if i < len(m) && m[i] != "" && plainHead(h) != "" {
			memory[plainHead(h)] = m[i]
		}
	}
	return memory
}

// named is the column that a head names in full, or its own name for an axis, an
// attribute or a price list.
func named(head string, columns []Column) string {
	plain := plainHead(head)
	for _, c := range columns {
		if c.Name == plain {
			return c.Name
		}
	}
	for n := 2; n <= MaxPacks && strings.HasPrefix(plain, "pack "); n++ {
		if slices.Contains(PackColumnsOf(n).Names(), plain) {
			return plain
		}
	}
	for _, prefix := range prefixes {
		name := strings.TrimSpace(head)
		if len(name) > len(prefix) && strings.EqualFold(name[:len(prefix)-1], strings.TrimSpace(prefix)) {
			return prefix + strings.TrimSpace(name[len(prefix)-1:])
		}
	}
	return ""
}

// Check returns an error when a matching has a column twice, one that is not
// known, or lacks one that is needed.
func (m Matching) Check(columns []Column, need ...string) error {
	seen := map[string]bool{}
	for _, name := range m {
		if name == "" {
			continue
		}
		if seen[name] {
			return fault.Field("columns", name, "each column once", "Two columns of the file are matched to %q.", name)
		}
		seen[name] = true
		if named(name, columns) != name {
			return fault.Field("columns", text.Cut(name, 60), "a column of the template", "There is no column %q.",
				text.Cut(name, 60))
		}
		if _, own, ok := strings.Cut(name, ": "); ok && text.Len(own) > MostOwnName {
			return fault.Field("columns", text.Cut(name, 60), "40 characters or fewer",
				"The name in the head %q has %d characters.", text.Cut(name, 60), text.Len(own))
		}
	}
	for _, name := range need {
		if !seen[name] {
			return fault.Field("columns", strings.Join(m, ", "), name,
				"The file has no column %q. Say which of its columns that is.", name)
		}
	}
	return nil
}
