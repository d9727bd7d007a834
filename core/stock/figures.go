package stock

import (
	"slices"
	"sort"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/serial"
)

// OnHand adds up a variant's balances at a branch (0 for all) in a condition.
func (h Holding) OnHand(variant, branch uint64, condition Condition) decimal.Decimal {
	sum := decimal.Zero
	for _, key := range h.of(variant) {
		if key.Condition == condition && (branch == 0 || h.Shelves[key.Shelf].Branch == branch) {
			sum = sum.Add(h.Balances[key])
		}
	}
	return sum
}

// OnShelf adds up a variant's balances on a shelf in a condition; shelf 0 is all of a branch.
func (h Holding) OnShelf(variant, shelf, branch uint64, condition Condition) decimal.Decimal {
	if shelf == 0 {
		return h.OnHand(variant, branch, condition)
	}
	sum := decimal.Zero
	for _, key := range h.of(variant) {
		if key.Condition == condition && key.Shelf == shelf {
			sum = sum.Add(h.Balances[key])
		}
	}
	return sum
}

// OnShelfOf is OnShelf of one lot.
func (h Holding) OnShelfOf(variant, shelf, branch, lot uint64, condition Condition) decimal.Decimal {
	sum := decimal.Zero
	for _, key := range h.of(variant) {
		if key.Condition == condition && key.Lot == lot &&
			(key.Shelf == shelf || shelf == 0 && h.Shelves[key.Shelf].Branch == branch) {
			sum = sum.Add(h.Balances[key])
		}
	}
	return sum
}

// NumbersOn is NumbersAt on some shelves; none of them is all of the branch.
func (h Holding) NumbersOn(variant, branch uint64, shelves []uint64, condition Condition) []string {
	return slices.DeleteFunc(h.NumbersAt(variant, branch, condition), func(n string) bool {
		return len(shelves) > 0 && !slices.Contains(shelves, h.Units[UnitKey{variant, n}].Key.Shelf)
	})
}

// NumbersAt lists the serial numbers of a variant that are in stock at a branch in a
// condition, in their order.
func (h Holding) NumbersAt(variant, branch uint64, condition Condition) []string {
	var list []string
	for _, n := range h.numbersOf(variant) {
		if u := h.Units[UnitKey{variant, n}]; u.State == serial.InStock && u.Key.Condition == condition &&
			h.Shelves[u.Key.Shelf].Branch == branch {
			list = append(list, n)
		}
	}
	slices.Sort(list)
	return list
}

// Known picks, of some serial numbers, those of a variant's units: those in stock, or
// where none is those that it ever had.
func (h Holding) Known(variant uint64, numbers []string) []string {
	var here, ever []string
	for _, n := range numbers {
		if u, ok := h.Units[UnitKey{Variant: variant, Serial: n}]; ok {
			ever = append(ever, n)
			if u.State == serial.InStock {
				here = append(here, n)
			}
		}
	}
	if len(here) > 0 {
		return here
	}
	return ever
}

// Sellable refuses goods of a lot in a condition that it can't have on a day: what has
// expired is not for sale.
func Sellable(lot serial.Lot, condition Condition, day time.Time) error {
	if condition == ForSale && lot.Expired(day) {
		return fault.Refuse("condition", condition, "To look over or For scrap",
			"Lot %s is past its expiry; it can't go back for sale.", lot.Number)
	}
	return nil
}

// Available is what can be sold of a variant on a day, at a branch (0 for all): what is
// for sale, not past its expiry, and not locked by a count.
func (h Holding) Available(variant, branch uint64, day time.Time) decimal.Decimal {
	return h.AvailableIn(variant, branch, ForSale, day)
}

// AvailableIn is Available of what is in a condition that is sold from.
func (h Holding) AvailableIn(variant, branch uint64, from Condition, day time.Time) decimal.Decimal {
	sum := decimal.Zero
	for key, q := range h.Balances {
		if key.Variant != variant || key.Condition != from || branch != 0 && h.Shelves[key.Shelf].Branch != branch ||
			h.Lots[key.Lot].Expired(day) {
			continue
		}
		if _, locked := h.locked(key); !locked {
			sum = sum.Add(q)
		}
	}
	return sum
}

// Unsold are what of a variant is for sale and can't be sold on a day: what is past its expiry, and, of the rest, what
// counts lock, by their numbers.
func (h Holding) Unsold(variant uint64, day time.Time) (expired decimal.Decimal, locked map[string]decimal.Decimal) {
	locked = map[string]decimal.Decimal{}
	for key, q := range h.Balances {
		if key.Variant != variant || key.Condition != ForSale {
			continue
		}
		if h.Lots[key.Lot].Expired(day) {
			expired = expired.Add(q)
		} else if s, is := h.locked(key); is {
			locked[s.Count] = locked[s.Count].Add(q)
		}
	}
	return expired, locked
}

// sellable reports whether goods at a key are kept as available on a day: what a count locked is not until somebody
// took note that it does not any more.
func (h Holding) sellable(key Key, day time.Time) bool {
	_, locked := h.Still[StillKey{key.Variant, h.Shelves[key.Shelf].Branch, key.Lot, key.Condition}]
	return key.Condition == ForSale && !h.Lots[key.Lot].Expired(day) && !locked
}

// AllAvailable is what is kept as available of each variant, over all branches.
func (h Holding) AllAvailable(day time.Time) map[uint64]decimal.Decimal {
	sums := make(map[uint64]decimal.Decimal, len(h.Items))
	for key, q := range h.Balances {
		if h.sellable(key, day) {
			sums[key.Variant] = sums[key.Variant].Add(q)
		}
	}
	return sums
}

// ForSale adds up what is for sale of each variant, over all branches.
func (h Holding) ForSale() map[uint64]decimal.Decimal {
	sums := make(map[uint64]decimal.Decimal, len(h.Items))
	for key, q := range h.Balances {
		if key.Condition == ForSale {
			sums[key.Variant] = sums[key.Variant].Add(q)
		}
	}
	return sums
}

// Low reports whether less is for sale than the restock level; at the level it
// is not low.
func (i Item) Low(forSale decimal.Decimal) bool {
	return i.Restock != nil && forSale.LessThan(*i.Restock)
}

// Left is the state a unit is in after a document of this kind took it out.
func (k Kind) Left() serial.State {
	switch k {
	case SupplierReturn:
		return serial.BackToSupplier
	case Count:
		return serial.Missing
	case Reversal:
		return serial.Undone
	}
	return serial.Sold
}

// Where is the branch's shelf that goods go to unless another is named.
func (h Holding) Where(branch uint64) (uint64, error) {
	for id, s := range h.Shelves {
		if s.Branch == branch && s.Default && !s.Closed {
			return id, nil
		}
	}
	return 0, fault.Missing("branch", branch, "There is no branch %d with a default shelf.", branch)
}

// sources lists the keys that hold a variant at a branch in a condition, in the
// order they are taken: earliest expiry first (no expiry last), then the
// default shelf, then by key.
func (h Holding) sources(variant, branch uint64, condition Condition) []Key {
	var keys []Key
	for _, key := range h.of(variant) {
		if key.Condition == condition && h.Shelves[key.Shelf].Branch == branch && h.Balances[key].IsPositive() {
			keys = append(keys, key)
		}
	}
	sort.Slice(keys, func(a, b int) bool {
		ka, kb := keys[a], keys[b]
		if ea, eb := h.Lots[ka.Lot].Expiry, h.Lots[kb.Lot].Expiry; ka.Lot != kb.Lot && !ea.Equal(eb) {
			return !ea.IsZero() && (eb.IsZero() || ea.Before(eb))
		}
		if da, db := h.Shelves[ka.Shelf].Default, h.Shelves[kb.Shelf].Default; da != db {
			return da
		}
		return ka.Compare(kb) < 0
	})
	return keys
}
