package buying

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/text"
)

// CatalogColumns are the columns of a supplier's catalog, with what suppliers call them.
var CatalogColumns = []catalog.Column{
	{Name: "part number", Also: []string{"part", "part no", "supplier part", "item number", "item no", "article",
		"article no", "article number", "art no", "art nr", "ref", "reference", "sku", "code"}, Says: "KT-1180"},
	{Name: "gtin", Also: []string{"ean", "barcode", "bar code", "upc", "ean13", "gtin13"}, Says: "2000000000015"},
	{Name: "name", Also: []string{"product", "description", "title", "item", "article name"},
		Says: "Sea towel 70 x 140"},
	{Name: "brand", Also: []string{"make", "maker", "manufacturer"}, Says: "Kelpline"},
	{Name: "cost", Also: []string{"price", "list price", "net price", "trade price", "cost price", "wholesale price"},
		Says: "8.40"},
	{Name: "pack", Also: []string{"pack name", "packing", "sold in", "unit"}, Says: "box of 6"},
	{Name: "pack of", Also: []string{"pack size", "pack factor", "units per pack", "per pack", "quantity per pack",
		"moq"}, Says: "6"},
	{Name: "suggested price", Also: []string{"rrp", "retail price", "recommended price", "recommended retail price",
		"suggested retail price", "selling price"}, Says: "19.95"},
	{Name: "from", Also: []string{"valid from", "price from", "from when", "date", "effective from"},
		Says: "2027-01-01"},
}

// CatalogItem is a line of a supplier's catalog. Cost is of a pack of Factor units, before the
// discount that was agreed; Suggested is the price of one that it recommends, nil where it
// says none. From is the day from which it holds, nil for at once.
type CatalogItem struct {
	Part      string
	GTIN      string
	Name      string
	Brand     string
	Cost      *decimal.Decimal
	Pack      string
	Factor    decimal.Decimal
	Suggested *decimal.Decimal
	From      *time.Time
}

// Key is what makes it the same item in another catalog of the supplier: its number there, or
// its GTIN where it has none.
func (i CatalogItem) Key() string {
	if key := text.Key(i.Part); key != "" {
		return "p " + key
	}
	return "g " + barcode.Key(i.GTIN)
}

// Each is what one unit costs, nil where the catalog says no cost.
func (i CatalogItem) Each() *decimal.Decimal {
	if i.Cost == nil || !i.Factor.IsPositive() {
		return nil
	}
	each := i.Cost.DivRound(i.Factor, money.CostPlaces)
	return &each
}

// Same reports whether two items say the same.
func (i CatalogItem) Same(o CatalogItem) bool {
	return i.Part == o.Part && i.GTIN == o.GTIN && i.Name == o.Name && i.Brand == o.Brand && i.Pack == o.Pack &&
		i.Factor.Equal(o.Factor) &&
		equal(i.Cost, o.Cost) && equal(i.Suggested, o.Suggested) && (i.From == nil) == (o.From == nil) &&
		(i.From == nil || i.From.Equal(*o.From))
}

func equal(a, b *decimal.Decimal) bool {
	return (a == nil) == (b == nil) && (a == nil || a.Equal(*b))
}

// ReadCatalogItem reads a row of a catalog; cell gives what stands under a column, and comma says
// that numbers have a comma before their decimals. What a supplier leaves out is empty.
func ReadCatalogItem(cell func(column string) string, comma bool, minor money.Minor) (CatalogItem, error) {
	item := CatalogItem{Part: text.Tidy(cell("part number")), Name: text.Tidy(cell("name")),
		Brand: text.Tidy(cell("brand")), Pack: text.Tidy(cell("pack")),
		Factor: decimal.New(1, 0)}
	for _, typed := range []struct {
		field, value string
		most         int
	}{{"part number", item.Part, 60}, {"name", item.Name, 120}, {"brand", item.Brand, 80}, {"pack", item.Pack, 60}} {
		if text.Len(typed.value) > typed.most {
			return item, fault.Field(typed.field, text.Cut(typed.value, 40), "fewer characters",
				"The %s is longer than %d characters.", typed.field, typed.most)
		}
	}
	if item.Name == "" {
		return item, fault.Field("name", "", "what it is called", "It has no name.")
	}
	var err error
	if code := strings.TrimSpace(cell("gtin")); code != "" {
		if item.GTIN, err = barcode.Parse(code); err != nil {
			return item, err
		}
		if !barcode.GTIN(item.GTIN) {
			return item, fault.Field("gtin", text.Cut(code, 40), "a GTIN of 8, 12, 13 or 14 digits", "%q is no GTIN.",
				text.Cut(code, 40))
		}
	}
	if item.Part == "" && item.GTIN == "" {
		return item, fault.Field("part number", "", "a part number or a GTIN",
			"%s has neither a part number nor a GTIN.", item.Name)
	}
	figure := func(column string) string { return number.InFile(cell(column), comma) }
	if item.Cost, err = number.Optional("cost", figure("cost"), money.ParseCost); err != nil {
		return item, err
	}
	if item.Suggested, err = number.Optional("suggested price", figure("suggested price"), minor.Parse); err != nil {
		return item, err
	}
	of, err := number.Optional("pack of", figure("pack of"), money.ParseCost)
	switch {
	case err != nil:
		return item, err
	case of != nil && !of.IsPositive():
		return item, fault.Field("pack of", of, "1 or more", "A pack of %s is none.", of)
	case of != nil:
		item.Factor = *of
	}
	if item.Pack == "" && !item.Factor.Equal(decimal.New(1, 0)) {
		item.Pack = "pack of " + item.Factor.String()
	}
	if from := strings.TrimSpace(cell("from")); from != "" {
		day, err := number.Day("from", from)
		if err != nil {
			return item, err
		}
		item.From = &day
	}
	return item, nil
}

// CostChange is how much what one costs changes, in percent of what it was, to one decimal; nil
// where it was nothing.
func CostChange(was, now decimal.Decimal) *decimal.Decimal {
	if !was.IsPositive() {
		return nil
	}
	percent := now.Sub(was).Mul(hundred).DivRound(was, 1)
	return &percent
}

// Quoted is an offer with the moment since when it is known.
type Quoted struct {
	Offer
	Part string
	At   time.Time
}

// Current is which of what was asked the last time and what the supplier's catalog says is the
// newer on a day; nil where there is neither. What the catalog says holds from its day on, and
// without one since it was read.
func Current(asked *Quoted, item *CatalogItem, read time.Time, discount decimal.Decimal, today time.Time) *Quoted {
	if item == nil || item.Cost == nil || item.From != nil && item.From.After(today) {
		return asked
	}
	since := read
	if item.From != nil {
		since = *item.From
	}
	if asked != nil && !since.After(asked.At) {
		return asked
	}
	return &Quoted{Offer{Pack: item.Pack, Factor: item.Factor, Price: item.Cost, Discount: discount}, item.Part, since}
}

// PriceFor is what goods of a catalog are proposed to sell for: by the rule that they would have
// here, else what the supplier suggests; nil where neither says.
func PriceFor(byRule, suggested *decimal.Decimal) *decimal.Decimal {
	if byRule != nil {
		return byRule
	}
	return suggested
}
