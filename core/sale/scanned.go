package sale

import (
	"slices"
	"strings"
	"time"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
)

// ScannedLot finds the lot that a code says, by its number, its expiry, or both: it is
// that one that is sold. One that is not known, not here or past its expiry is refused. It
// is 0 for goods that are not kept by lot; what a code says that they expired is held
// against them all the same.
func ScannedLot(held stock.Holding, v Sellable, from stock.Condition, number string, expiry time.Time, branch uint64,
	day time.Time) (uint64, error) {
	said := serial.Lot{Number: serial.Normal(number), Expiry: expiry}
	if number == "" && expiry.IsZero() {
		return 0, nil
	}
	if said.Expired(day) {
		return 0, expired(v, said)
	}
	if v.Tracking != stock.ByLot {
		return 0, nil
	}
	var known, here []serial.Lot
	for id, lot := range held.Lots {
		if number != "" && lot.Number != said.Number || !expiry.IsZero() && !lot.Expiry.Equal(expiry) {
			continue
		}
		known = append(known, lot)
		for key, q := range held.Balances {
			if key.Variant == v.ID && key.Lot == id && key.Condition == from && q.IsPositive() &&
				held.Shelves[key.Shelf].Branch == branch {
				here = append(here, lot)
				break
			}
		}
	}
	switch {
	case len(known) == 0:
		return 0, fault.Refuse("code", said.Number, "a lot that the book has", "The book has no lot %s of %s.",
			lotName(said), v.FullName())
	case len(here) == 0:
		return 0, fault.Refuse("code", said.Number, "a lot that is for sale here", "Lot %s of %s is not for sale here.",
			lotName(known[0]), v.FullName())
	}
	first := slices.MinFunc(here, func(a, b serial.Lot) int {
		if x, y := a.Expired(day), b.Expired(day); x != y {
			if y {
				return -1
			}
			return 1
		}
		return a.Expiry.Compare(b.Expiry)
	})
	if first.Expired(day) {
		return 0, expired(v, first)
	}
	return first.ID, nil
}

func expired(v Sellable, lot serial.Lot) error {
	return fault.Refuse("code", lot.Number, "one that has not expired",
		"%s, lot %s, was to be used by %s. It can't be sold.", v.FullName(), lotName(lot),
		lot.Expiry.Format("2 Jan 2006"))
}

// lotName is a lot by its number, else by its expiry.
func lotName(l serial.Lot) string {
	if l.Number == "" {
		return "of " + l.Expiry.Format("2 Jan 2006")
	}
	return l.Number
}

// ScannedUnits finds the condition that serial numbers are sold from: the one that was said, else that of the
// first of them. A number that is not sold from it at a branch is refused; goods without numbers take none.
func ScannedUnits(held stock.Holding, v Sellable, said stock.Condition, numbers []string,
	branch uint64) (stock.Condition, error) {
	if v.Tracking != stock.BySerial {
		return said, nil
	}
	for i, n := range numbers {
		if i == 0 && said == "" {
			said = stock.ForSale
			if c := held.Units[stock.UnitKey{Variant: v.ID, Serial: n}].Key.Condition; v.SoldIn(c, 0) == nil {
				said = c
			}
		}
		if err := scannedUnit(held, v, said, n, branch); err != nil {
			return said, err
		}
	}
	return said, nil
}

func scannedUnit(held stock.Holding, v Sellable, from stock.Condition, number string, branch uint64) error {
	u, known := held.Units[stock.UnitKey{Variant: v.ID, Serial: number}]
	switch {
	case !known:
		return fault.Refuse("serial", number, "a number that the book has", "The book has no %s No. %s.", v.FullName(),
			number)
	case u.State == serial.NumberOwed:
		return fault.Refuse("serial", number, "to give that sale its number first",
			"%s No. %s stands in for a number that is owed on a sale.", v.FullName(), number)
	case u.State != serial.InStock:
		return fault.Refuse("serial", number, "a number in stock", "%s No. %s is %s, not in stock.", v.FullName(),
			number, u.State)
	case held.Shelves[u.Key.Shelf].Branch != branch:
		return fault.Refuse("serial", number, "a number that is here", "%s No. %s is at another branch.", v.FullName(),
			number)
	case u.Key.Condition != from:
		return fault.Refuse("serial", number, "a number that is "+strings.ToLower(string(from)), "%s No. %s is %s, not %s.",
			v.FullName(), number, u.Key.Condition, strings.ToLower(string(from)))
	}
	return nil
}
