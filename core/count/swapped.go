package count

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// Cell is a place on the rack of a product: the variant that hangs there, 0 for none, and by how much it
// differs.
type Cell struct {
	Variant uint64
	Differs decimal.Decimal
}

// Swap is two variants of one product whose variances cancel, in neighbouring places of its rack: perhaps
// the one was counted as the other. Net is what is left of both, which is nothing.
type Swap struct {
	Short uint64          `json:"short_variant_id"`
	Over  uint64          `json:"over_variant_id"`
	Units decimal.Decimal `json:"units"`
	Net   decimal.Decimal `json:"net"`
}

// Swapped finds the variances of a rack that cancel in neighbouring cells: side by side on a rail, or
// above each other. A cell is of one swap at most.
func Swapped(rails [][]Cell) []Swap {
	var swaps []Swap
	used := map[uint64]bool{}
	for r, rail := range rails {
		for c, cell := range rail {
			neighbours := []Cell{}
			if c+1 < len(rail) {
				neighbours = append(neighbours, rail[c+1])
			}
			if r+1 < len(rails) && c < len(rails[r+1]) {
				neighbours = append(neighbours, rails[r+1][c])
			}
			for _, n := range neighbours {
				if used[cell.Variant] || used[n.Variant] || !cell.cancels(n) {
					continue
				}
				used[cell.Variant], used[n.Variant] = true, true
				swap := Swap{Short: cell.Variant, Over: n.Variant, Units: n.Differs, Net: cell.Differs.Add(n.Differs)}
				if cell.Differs.IsPositive() {
					swap.Short, swap.Over, swap.Units = n.Variant, cell.Variant, cell.Differs
				}
				swaps = append(swaps, swap)
			}
		}
	}
	return swaps
}

func (c Cell) cancels(o Cell) bool {
	return c.Variant != 0 && o.Variant != 0 && !c.Differs.IsZero() && c.Differs.Add(o.Differs).IsZero()
}

// CheckMixUp refuses to settle two rows as one that are of different products, or do not cancel.
func CheckMixUp(short, over Row, sameProduct bool) error {
	if !sameProduct || short.Key == over.Key || !short.Counted || !over.Counted || short.Apart || over.Apart ||
		!short.Variance().IsNegative() || !short.Variance().Add(over.Variance()).IsZero() {
		return fault.Field("mix_ups", "", "two rows of one product whose variances cancel",
			"These two rows can't be settled as one: what is short of the one must be over of the other.")
	}
	return nil
}
