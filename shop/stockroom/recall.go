package stockroom

import (
	"context"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/office"
)

// RecallInput puts all that is for sale of a lot into another condition, at all branches.
type RecallInput struct {
	To   string `json:"to"`
	Note string `json:"note"`
}

// Recalled says what was taken out of sale, and by which documents.
type Recalled struct {
	Units     decimal.Decimal `json:"units"`
	Documents []string        `json:"documents"`
}

// Recall takes a lot out of sale, all of it in one deed: with a document for each branch where some of it is.
func Recall(ctx context.Context, s *deed.Shop, who staff.Actor, key string, lot uint64,
	in RecallInput) (Recalled, error) {
	return deed.Once(ctx, s, who, staff.DeedChange, key, func(tx store.Tx) (Recalled, error) {
		out := Recalled{Documents: []string{}}
		if err := noteFits(in.Note); err != nil {
			return out, err
		}
		life, err := book.ReadLot(tx.Q, lot)
		if err != nil {
			return out, err
		}
		branches, err := office.AllBranches(tx.Q)
		if err != nil {
			return out, err
		}
		set, err := tx.Terms()
		if err != nil {
			return out, err
		}
		for _, b := range branches {
			held, err := book.Hold(tx, []uint64{life.VariantID}, nil)
			if err != nil {
				return out, err
			}
			draft := stock.NewDraft(held, stock.Document{})
			units, err := draft.TakeLotOut(1, life.VariantID, lot, b.ID, stock.Condition(in.To), set.Day(s.Now()))
			if err != nil || units.IsZero() {
				if err != nil {
					return out, err
				}
				continue
			}
			note := text.Cut(text.Joined("Lot "+life.Number+" out of sale", text.Tidy(in.Note)), 250)
			if draft, err = newDraft(s, tx, who, held, "CC", stock.ConditionChange, b.ID, note); err != nil {
				return out, err
			}
			if _, err := draft.TakeLotOut(1, life.VariantID, lot, b.ID, stock.Condition(in.To), set.Day(s.Now())); err != nil {
				return out, err
			}
			done, err := deed.Post(tx, held, draft)
			if err != nil {
				return out, err
			}
			out.Units, out.Documents = out.Units.Add(units), append(out.Documents, done.Number)
		}
		if len(out.Documents) == 0 {
			return out, fault.Refuse("lot", life.Number, "a lot of which something is for sale",
				"Nothing of lot %s is for sale any more.", life.Number)
		}
		return out, nil
	})
}
