package stockroom

import (
	"context"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
)

// ChangeInput puts goods of a branch from one condition into another.
type ChangeInput struct {
	Variant  uint64 `json:"variant_id"`
	Branch   uint64 `json:"branch_id"`
	Lot      uint64 `json:"lot_id"`
	From     string `json:"from"`
	To       string `json:"to"`
	Quantity string `json:"quantity"`
	Serials  string `json:"serials"`
	Note     string `json:"note"`
}

// ChangeCondition puts goods into another condition; their value does not change.
func ChangeCondition(ctx context.Context, s *deed.Shop, who staff.Actor, key string,
	in ChangeInput) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedChange, key, func(tx store.Tx) (deed.Posted, error) {
		from, to := stock.Condition(in.From), stock.Condition(in.To)
		for _, c := range []stock.Condition{from, to} {
			if err := stock.CheckCondition(c); err != nil {
				return deed.Posted{}, err
			}
		}
		if err := deed.At(tx.Q, who, in.Branch); err != nil {
			return deed.Posted{}, err
		}
		numbers, err := serial.ReadList(in.Serials)
		if err != nil {
			return deed.Posted{}, err
		}
		held, err := book.Hold(tx, []uint64{in.Variant}, numbers)
		if err != nil {
			return deed.Posted{}, err
		}
		q, err := held.Items[in.Variant].Unit.Parse("quantity", in.Quantity)
		if err != nil {
			return deed.Posted{}, err
		}
		if !q.IsPositive() {
			return deed.Posted{}, fault.Field("quantity", in.Quantity, "more than 0", "Say how many to change.")
		}
		name, err := deed.NextNumber(tx, "CC")
		if err != nil {
			return deed.Posted{}, err
		}
		set, err := tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		now := s.Now()
		draft := stock.NewDraft(
			held,
			stock.Document{
				Kind:       stock.ConditionChange,
				Number:     name,
				Branch:     in.Branch,
				By:         who.ID,
				HappenedAt: now,
				RecordedAt: now,
				Note:       in.Note,
			},
		)
		err = draft.Change(
			stock.Want{
				Line:      1,
				Variant:   in.Variant,
				Branch:    in.Branch,
				Condition: from,
				Quantity:  q,
				Lot:       in.Lot,
				Serials:   numbers,
				Day:       set.Day(now),
				Unsold:    true,
			},
			to,
		)
		if err != nil {
			return deed.Posted{}, err
		}
		return deed.Post(tx, held, draft)
	})
}
