package stockroom

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// KitInput says how many of a bundle to make up at a branch, or to break up.
type KitInput struct {
	Variant  uint64 `json:"variant_id"`
	Branch   uint64 `json:"branch_id"`
	Quantity string `json:"quantity"`
	Note     string `json:"note"`
}

// MakeUpKits puts kits of a bundle together into stock: a register sells them
// before it puts one together itself.
func MakeUpKits(do deed.Deed, in KitInput) (deed.Posted, error) {
	return kits(do, in, stock.KitMade, (*stock.Draft).MakeUp)
}

// BreakUpKits takes kits in stock apart into what their bundle holds now.
func BreakUpKits(do deed.Deed, in KitInput) (deed.Posted, error) {
	return kits(do, in, stock.KitBroken, (*stock.Draft).BreakUp)
}

func kits(do deed.Deed, in KitInput, kind stock.Kind, work func(*stock.Draft, uint64, uint64,
	decimal.Decimal, []stock.KitPart) error) (deed.Posted, error) {
	return deed.Once(do, staff.DeedKits, func(do deed.Deed) (deed.Posted, error) {
		if text.Len(in.Note) > 250 {
			return deed.Posted{}, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
		}
		if err := deed.At(do.Tx.Q, do.Who, in.Branch); err != nil {
			return deed.Posted{}, err
		}
		bundles, err := goods.BundleParts(do.Tx.Q, []uint64{in.Variant}, in.Branch)
		if err != nil {
			return deed.Posted{}, err
		}
		if len(bundles[in.Variant]) == 0 {
			return deed.Posted{}, fault.Refuse("variant_id", in.Variant, "a bundle",
				"Only a bundle can be made up or broken up.")
		}
		variants := []uint64{in.Variant}
		var parts []stock.KitPart
		for _, p := range bundles[in.Variant] {
			variants = append(variants, p.Variant)
			parts = append(parts, stock.KitPart{Variant: p.Variant, Quantity: p.Quantity})
		}
		held, err := book.Hold(do.Tx, variants, nil)
		if err != nil {
			return deed.Posted{}, err
		}
		q, err := held.Items[in.Variant].Unit.Parse("quantity", in.Quantity)
		if err != nil {
			return deed.Posted{}, err
		}
		if !q.IsPositive() {
			return deed.Posted{}, fault.Field("quantity", in.Quantity, "1 or more", "Say how many.")
		}
		name, err := deed.NextNumber(do.Tx, kind)
		if err != nil {
			return deed.Posted{}, err
		}
		now := do.Shop.Now()
		draft := stock.NewDraft(
			held,
			stock.Document{
				Kind:       kind,
				Number:     name,
				Branch:     in.Branch,
				By:         do.Who.ID,
				HappenedAt: now,
				RecordedAt: now,
				Note:       in.Note,
			},
		)
		if err := work(draft, in.Variant, in.Branch, q, parts); err != nil {
			return deed.Posted{}, err
		}
		return deed.Post(do.Tx, held, draft)
	})
}
