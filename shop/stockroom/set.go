package stockroom

import (
	"fmt"

	"github.com/shopspring/decimal"

	"itemrack/core/reason"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/office"
)

// PutInput puts stock of a variant at a branch right: set to what is there, or so many written off
// or on, with the reason why. Condition is For sale where none is said.
type PutInput struct {
	How       string         `json:"how"`
	Variant   uint64         `json:"variant_id"`
	Branch    uint64         `json:"branch_id"`
	Condition string         `json:"condition"`
	Lot       uint64         `json:"lot_id"`
	Quantity  string         `json:"quantity"`
	Serials   string         `json:"serials"`
	Reason    uint64         `json:"reason_id"`
	Note      string         `json:"note"`
	Approval  *deed.Approval `json:"approval"`
}

// PutResult says what was expected at that moment and what changed.
type PutResult struct {
	deed.Posted
	Expected decimal.Decimal `json:"expected"`
	Change   decimal.Decimal `json:"change"`
	Says     string          `json:"says"` // in a sentence
}

// PutRight puts stock right on the spot, as one document.
func PutRight(do deed.Deed, in PutInput) (PutResult, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return PutResult{}, err
	}
	return deed.Once(do, staff.DeedLook, func(do deed.Deed) (PutResult, error) {
		if err := deed.At(do.Tx.Q, do.Who, in.Branch); err != nil {
			return PutResult{}, err
		}
		numbers, err := serial.ReadList(in.Serials)
		if err != nil {
			return PutResult{}, err
		}
		reasons, err := office.Reasons(do.Tx.Q)
		if err != nil {
			return PutResult{}, err
		}
		why, err := reason.Find(reasons, reason.Stock, in.Reason)
		if err != nil {
			return PutResult{}, err
		}
		held, err := book.Hold(do.Tx, []uint64{in.Variant}, numbers)
		if err != nil {
			return PutResult{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return PutResult{}, err
		}
		ask := deed.Asks(do.Shop, do.Who, by)
		if err := ask.May(staff.DeedStock, text.Cut(held.Items[in.Variant].Name+": "+in.How+" "+in.Quantity,
			200)); err != nil {
			return PutResult{}, err
		}
		name, err := deed.NextNumber(do.Tx, stock.StockSet)
		if err != nil {
			return PutResult{}, err
		}
		now := do.Shop.Now()
		draft := stock.NewDraft(held, stock.Document{Kind: stock.StockSet, Number: name, Branch: in.Branch, By: do.Who.ID,
			HappenedAt: now, RecordedAt: now, Note: text.Cut(text.Joined(why.Name, text.Tidy(in.Note)), 250)})
		result := PutResult{}
		result.Expected, result.Change, err = draft.Put(stock.Putting{How: in.How, Variant: in.Variant, Branch: in.Branch,
			Condition: stock.Condition(text.Or(in.Condition, string(stock.ForSale))), Lot: in.Lot, Quantity: in.Quantity,
			Serials: numbers, Account: why.Account, Day: set.Day(now)})
		if err != nil {
			return PutResult{}, err
		}
		if result.Posted, err = deed.Post(do.Tx, held, draft); err != nil {
			return PutResult{}, err
		}
		item := held.Items[in.Variant]
		result.Says = fmt.Sprintf("%s: %s were expected, %s are there now.", item.Name, item.Unit.Format(result.Expected),
			item.Unit.Format(result.Expected.Add(result.Change)))
		return result, ask.Keep(do.Tx, 0, 0, result.Document)
	})
}
