package catalog

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/text"
	"itemrack/core/unit"
)

// ListPrice is a price that a row gives beside the plain one of a list: for a pack, from a
// quantity on, or from a day on. An empty List is Regular, an empty Pack the unit; a zero
// Since is now.
type ListPrice struct {
	List string
	Pack string
	price.Dated
}

// The words between the parts of a price in a list: "36.00 from 6 from 2026-12-24 09:00 per
// box of 12".
const (
	priceFrom = " from "
	pricePack = " per "
)

// String writes a price as a list has it; moments by the clock of zone.
func (p ListPrice) String(zone *time.Location) string {
	said := p.Amount.String()
	if p.From.IsPositive() {
		said += priceFrom + p.From.String()
	}
	if !p.Since.IsZero() {
		said += priceFrom + written(p.Since.In(zone))
	}
	if p.Pack != "" {
		said += pricePack + p.Pack
	}
	return said
}

// written is a moment without what it has none of.
func written(at time.Time) string {
	switch {
	case at.Second() != 0:
		return at.Format(time.DateTime)
	case at.Minute() != 0 || at.Hour() != 0:
		return at.Format("2006-01-02 15:04")
	}
	return at.Format(time.DateOnly)
}

// morePrices reads the prices of a cell; the fields of of are the row's.
func (r *ListReader) morePrices(c *cells, column, list string, of unit.Unit) []ListPrice {
	var prices []ListPrice
	for _, part := range c.list(column) {
		p, ok := r.onePrice(part, of, c.comma)
		if !ok {
			c.keep(fault.Field(column, part, "36.00 from 6, 38.00 from 2026-12-24 09:00, or 17.40 per box of 12",
				"%q is no price with what it is for.", part))
			continue
		}
		p.List = list
		prices = append(prices, p)
	}
	return prices
}

func (r *ListReader) onePrice(part string, of unit.Unit, comma bool) (ListPrice, bool) {
	var p ListPrice
	part, p.Pack, _ = strings.Cut(part, pricePack)
	if p.Pack = text.Tidy(p.Pack); p.Pack != "" {
		of = unit.Piece
	}
	said := strings.Split(part, priceFrom)
	read := func(typed string, parse func(field, text string) (decimal.Decimal, error)) (decimal.Decimal, bool) {
		amount, err := parse("", number.InFile(strings.TrimSpace(typed), comma))
		return amount, err == nil
	}
	var ok bool
	if p.Amount, ok = read(said[0], r.Minor.Parse); !ok || len(said) > 3 {
		return p, false
	}
	for _, from := range said[1:] {
		if quantity, ok := read(from, of.Parse); ok && quantity.IsPositive() && p.From.IsZero() {
			p.From = quantity
			continue
		}
		moment, ok := r.Moment(strings.TrimSpace(from))
		if !ok || !p.Since.IsZero() {
			return p, false
		}
		p.Since = moment
	}
	if p.From.Equal(decimal.New(1, 0)) {
		p.From = decimal.Zero
	}
	return p, p.Pack != "" || p.From.IsPositive() || !p.Since.IsZero()
}

// Same reports whether two prices are one.
func (p ListPrice) Same(other ListPrice) bool {
	return text.Same(p.List, other.List) && text.Same(p.Pack, other.Pack) && p.From.Equal(other.From) &&
		p.Since.Equal(other.Since) && p.Amount.Equal(other.Amount)
}
