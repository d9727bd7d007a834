package stockroom

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
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
func Recall(do deed.Deed, lot uint64, in RecallInput) (Recalled, error) {
	return deed.Once(do, staff.DeedChange, func(do deed.Deed) (Recalled, error) {
		out := Recalled{Documents: []string{}}
		if err := noteFits(in.Note); err != nil {
			return out, err
		}
		life, err := book.ReadLot(do.Tx.Q, lot)
		if err != nil {
			return out, err
		}
		branches, err := office.AllBranches(do.Tx.Q)
		if err != nil {
			return out, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return out, err
		}
		for _, b := range branches {
			held, err := book.Hold(do.Tx, []uint64{life.VariantID}, nil)
			if err != nil {
				return out, err
			}
			draft := stock.NewDraft(held, stock.Document{})
			units, err := draft.TakeLotOut(1, life.VariantID, lot, b.ID, stock.Condition(in.To), set.Day(do.Shop.Now()))
			if err != nil || units.IsZero() {
				if err != nil {
					return out, err
				}
				continue
			}
			note := text.Cut(text.Joined("Lot "+life.Number+" out of sale", text.Tidy(in.Note)), 250)
			if draft, err = newDraft(do, held, stock.ConditionChange, b.ID, note); err != nil {
				return out, err
			}
			if _, err := draft.TakeLotOut(1, life.VariantID, lot, b.ID, stock.Condition(in.To),
				set.Day(do.Shop.Now())); err != nil {
				return out, err
			}
			done, err := deed.Post(do.Tx, held, draft)
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
