package catalog

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/stock"
)

// Part is a component of a bundle: how many of it one bundle holds, how many are
// available and what one costs. NotStocked parts have no stock and never run out.
type Part struct {
	Name       string          `json:"name"`
	Quantity   decimal.Decimal `json:"quantity"`
	Available  decimal.Decimal `json:"available"`
	Cost       decimal.Decimal `json:"cost" see:"costs"`
	NotStocked bool            `json:"not_stocked"`
}

// Available is how many bundles the parts allow: the least that any of them
// does, in whole bundles. Without parts there are none.
func Available(parts []Part) decimal.Decimal {
	least, some := decimal.Zero, false
	for _, p := range parts {
		if p.NotStocked || !p.Quantity.IsPositive() {
			continue
		}
		n := decimal.Max(decimal.Zero, p.Available).Div(p.Quantity).Floor()
		if !some || n.LessThan(least) {
			least, some = n, true
		}
	}
	return least
}

// BundleCost is what one bundle costs: the sum of its parts' costs, to 6 decimals.
func BundleCost(parts []Part) decimal.Decimal {
	sum := decimal.Zero
	for _, p := range parts {
		sum = sum.Add(p.Cost.Mul(p.Quantity))
	}
	return sum.Round(6)
}

// CheckParts returns an error when parts can't make a bundle.
func CheckParts(parts []Part) error {
	if len(parts) == 0 || len(parts) > 50 {
		return fault.Field("parts", len(parts), "1 to 50 parts", "A bundle has 1 to 50 parts.")
	}
	for _, p := range parts {
		if !p.Quantity.IsPositive() {
			return fault.Field("parts", p.Quantity, "more than 0", "%s: a bundle holds more than none of its parts.",
				p.Name)
		}
	}
	return nil
}

// CheckPack says whether a product kept so can come in packs: not one by one.
func CheckPack(pack, product string, tracking stock.Tracking) error {
	if tracking == stock.BySerial {
		return fault.Refuse("pack", pack, "a product without serial numbers",
			"%s is kept by serial number; it comes one by one.", product)
	}
	return nil
}
