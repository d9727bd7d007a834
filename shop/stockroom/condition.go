package stockroom

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/reason"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/office"
)

// ChangeInput puts goods of a branch from one condition into another. Where somebody holds what is in it,
// WithWhom says who, and BackBy until which day, empty for none.
type ChangeInput struct {
	Variant  uint64 `json:"variant_id"`
	Branch   uint64 `json:"branch_id"`
	Lot      uint64 `json:"lot_id"`
	From     string `json:"from"`
	To       string `json:"to"`
	Quantity string `json:"quantity"`
	Serials  string `json:"serials"`
	Note     string `json:"note"`
	WithWhom string `json:"with_whom"`
	BackBy   string `json:"back_by"`
}

// ChangeCondition puts goods into another condition; their value does not change.
func ChangeCondition(do deed.Deed, in ChangeInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedChange, func(do deed.Deed) (deed.Posted, error) {
		if err := noteFits(in.Note); err != nil {
			return deed.Posted{}, err
		}
		all := ChangesInput{To: in.To, Note: in.Note, WithWhom: in.WithWhom, BackBy: in.BackBy}
		return change(do, all, []ChangeInput{in}, func(_ int, err error) error { return err })
	})
}

// ChangesInput puts many goods into one condition, or writes them off for a reason.
type ChangesInput struct {
	Lines    []ChangeInput `json:"lines"`
	To       string        `json:"to"`
	WriteOff bool          `json:"write_off"`
	Reason   uint64        `json:"reason_id"`
	Note     string        `json:"note"`
	WithWhom string        `json:"with_whom"`
	BackBy   string        `json:"back_by"`
}

// Changed says by which documents goods were changed, one for each branch.
type Changed struct {
	Documents []string `json:"documents"`
}

// ChangeConditions puts many goods into one condition in one deed, or writes them off: with a document for
// each branch. A refusal names its line.
func ChangeConditions(do deed.Deed, in ChangesInput) (Changed, error) {
	what := staff.DeedChange
	if in.WriteOff {
		what = staff.DeedStock
	}
	return deed.Once(do, what, func(do deed.Deed) (Changed, error) {
		out := Changed{Documents: []string{}}
		if err := noteFits(in.Note); err != nil {
			return out, err
		}
		if len(in.Lines) == 0 || len(in.Lines) > 500 {
			return out, fault.Field("lines", len(in.Lines), "1 to 500 lines", "Choose what is to be changed.")
		}
		var branches []uint64
		for _, l := range in.Lines {
			if !slices.Contains(branches, l.Branch) {
				branches = append(branches, l.Branch)
			}
		}
		for _, branch := range branches {
			var lines []ChangeInput
			var at []int
			for i, l := range in.Lines {
				if l.Branch == branch {
					lines, at = append(lines, l), append(at, i)
				}
			}
			done, err := change(do, in, lines, func(i int, err error) error { return inLine(at[i], err) })
			if err != nil {
				return out, err
			}
			out.Documents = append(out.Documents, done.Number)
		}
		return out, nil
	})
}

// change changes goods of one branch, as one document.
func change(do deed.Deed, in ChangesInput, lines []ChangeInput, of func(i int, err error) error) (deed.Posted, error) {
	branch := lines[0].Branch
	if err := deed.At(do.Tx.Q, do.Who, branch); err != nil {
		return deed.Posted{}, err
	}
	var variants []uint64
	var numbers []string
	serials := make([][]string, len(lines))
	for i, l := range lines {
		var err error
		if serials[i], err = serial.ReadList(l.Serials); err != nil {
			return deed.Posted{}, of(i, err)
		}
		variants, numbers = append(variants, l.Variant), append(numbers, serials[i]...)
	}
	held, err := book.Hold(do.Tx, variants, numbers)
	if err != nil {
		return deed.Posted{}, err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return deed.Posted{}, err
	}
	today := set.Day(do.Shop.Now())
	by, why, err := in.terms(do.Tx, held, today)
	if err != nil {
		return deed.Posted{}, err
	}
	kind := stock.ConditionChange
	if in.WriteOff {
		kind = stock.StockSet
	}
	note := text.Cut(text.Joined(why.Name, text.Tidy(in.Note)), 250)
	draft, err := newDraft(do, held, kind, branch, note)
	if err != nil {
		return deed.Posted{}, err
	}
	notes := make([]book.HeldBy, 0, len(lines))
	for i, l := range lines {
		q, err := l.change(draft, held, in, serials[i], why, today, i+1)
		if err != nil {
			return deed.Posted{}, of(i, err)
		}
		notes = append(notes, book.HeldBy{VariantID: l.Variant, BranchID: branch, LotID: l.Lot, Condition: in.To,
			Serials: serial.Keep(serials[i]), Quantity: q, WithWhom: by.WithWhom})
	}
	done, err := deed.Post(do.Tx, held, draft)
	if err != nil || by.WithWhom == "" {
		return done, err
	}
	for i := range notes {
		if notes[i].DocumentID = done.Document; !by.BackBy.IsZero() {
			notes[i].BackBy = &by.BackBy
		}
		if err := book.NoteHolder(do.Tx, &notes[i]); err != nil {
			return done, err
		}
	}
	return done, nil
}

// terms reads with whom goods will be, or for which reason they are written off.
func (in ChangesInput) terms(tx store.Tx, held stock.Holding, today time.Time) (by stock.HeldBy, why reason.Reason,
	err error) {
	if in.WriteOff {
		reasons, err := office.Reasons(tx.Q)
		if err != nil {
			return by, why, err
		}
		why, err = reason.Find(reasons, reason.Stock, in.Reason)
		return by, why, err
	}
	if err := held.Into(stock.Condition(in.To)); err != nil {
		return by, why, err
	}
	by = stock.HeldBy{WithWhom: in.WithWhom}
	if text.Tidy(in.BackBy) != "" {
		if by.BackBy, err = number.DayToCome("back_by", in.BackBy, today); err != nil {
			return by, why, err
		}
	}
	by, err = held.HeldIn(stock.Condition(in.To), by)
	return by, why, err
}

// change adds a line to the draft, and says how many it is of.
func (l ChangeInput) change(draft *stock.Draft, held stock.Holding, in ChangesInput, numbers []string,
	why reason.Reason, day time.Time, line int) (decimal.Decimal, error) {
	from := stock.Condition(l.From)
	if err := held.CheckCondition(from); err != nil {
		return decimal.Zero, err
	}
	item := held.Items[l.Variant]
	q, err := item.Unit.Parse("quantity", l.Quantity)
	if err != nil {
		return q, err
	}
	if !q.IsPositive() {
		return q, fault.Field("quantity", l.Quantity, "more than 0", "Say how many to change.")
	}
	want := stock.Want{Line: line, Variant: l.Variant, Branch: l.Branch, Condition: from, Quantity: q, Lot: l.Lot,
		Serials: numbers, Day: day, Unsold: true}
	if in.WriteOff {
		return q, draft.WriteOff(want, why.Account)
	}
	return q, draft.Change(want, stock.Condition(in.To))
}
