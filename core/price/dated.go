package price

import (
	"cmp"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// patience is how long a form may be open before the moment in it is past.
const patience = time.Minute

// CheckBegin refuses a price, or a rate, that would begin in the past.
func CheckBegin(what string, from, now time.Time) error {
	if from.Before(now.Add(-patience)) {
		return fault.Field("from", from.Format(time.RFC3339), "now or later",
			"A %s can't begin in the past: what was sold was sold.", what)
	}
	return nil
}

// Former is what a customer paid for one before the price that holds at a moment, where
// that was more; false where it was not, or where there was no price before.
func (b Book) Former(g Goods, list uint64, moment time.Time) (decimal.Decimal, bool) {
	rows := g.Own[list]
	if len(rows) == 0 {
		rows = g.Product[list]
	}
	began := slices.DeleteFunc(slices.Clone(rows),
		func(r Dated) bool { return r.Since.After(moment) || !r.From.IsZero() })
	if len(began) < 2 {
		return decimal.Zero, false
	}
	before, now := b.Gross(began[len(began)-2].Amount, g.Percent), b.Gross(began[len(began)-1].Amount, g.Percent)
	return before, before.GreaterThan(now)
}

// standing are the prices that hold at a moment, one for each quantity that they begin at: a
// variant's own, and its product's for quantities that none of its own reaches.
func standing(own, product []Dated, moment time.Time) []Dated {
	var list []Dated
	add := func(rows []Dated, below *decimal.Decimal) {
		for _, r := range rows {
			if r.Since.After(moment) || below != nil && !r.From.LessThan(*below) {
				continue
			}
			if at := slices.IndexFunc(list, func(d Dated) bool { return d.From.Equal(r.From) }); at < 0 {
				list = append(list, r)
			} else if !r.Since.Before(list[at].Since) {
				list[at] = r
			}
		}
	}
	add(own, nil)
	var least *decimal.Decimal
	for i := range list {
		if least == nil || list[i].From.LessThan(*least) {
			least = &list[i].From
		}
	}
	add(product, least)
	return list
}

// Plain is the price of one that holds at a moment, a variant's own or else its product's;
// false when there is none but by rule.
func Plain(own, product []Dated, moment time.Time) (decimal.Decimal, bool) {
	for _, d := range standing(own, product, moment) {
		if d.From.IsZero() {
			return d.Amount, true
		}
	}
	return decimal.Zero, false
}

// Beyond are the prices of a thing beside the plain one that holds now: those from a quantity
// on, whose Since is zero, and those to come.
func Beyond(own, product []Dated, moment time.Time) []Dated {
	list := slices.DeleteFunc(standing(own, product, moment), func(d Dated) bool { return d.From.IsZero() })
	for i := range list {
		list[i].Since = time.Time{}
	}
	for _, rows := range [][]Dated{product, own} {
		for _, r := range rows {
			if !r.Since.After(moment) {
				continue
			}
			at := slices.IndexFunc(list, func(d Dated) bool { return d.From.Equal(r.From) && d.Since.Equal(r.Since) })
			if at >= 0 { // of two for one moment the variant's own holds, and the later one
				list[at] = r
				continue
			}
			list = append(list, r)
		}
	}
	slices.SortFunc(list, func(a, b Dated) int { return cmp.Or(a.Since.Compare(b.Since), a.From.Cmp(b.From)) })
	return list
}

// Stands reports whether a price holds already: at a moment, for one without a Since of its
// own, else from its own moment on.
func Stands(own, product []Dated, wanted Dated, moment time.Time) bool {
	rows := standing(own, product, moment)
	if !wanted.Since.IsZero() {
		rows = slices.DeleteFunc(slices.Concat(product, own),
			func(d Dated) bool { return !d.Since.Equal(wanted.Since) })
	}
	for _, r := range slices.Backward(rows) {
		if r.From.Equal(wanted.From) {
			return r.Amount.Equal(wanted.Amount)
		}
	}
	return false
}
