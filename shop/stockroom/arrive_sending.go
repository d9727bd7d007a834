package stockroom

import (
	"fmt"
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/office"
	"itemrack/store/sendings"
)

// HereInput is what is counted as here of a sending that is on the way: a scan, which adds one; or how
// many of a line are here in all.
type HereInput struct {
	Code     string `json:"code"`
	Line     uint64 `json:"line_id"`
	Quantity string `json:"quantity"`
	Serials  string `json:"serials"`
}

// CountHere counts what arrives of a sending; ArriveSending takes it in.
func CountHere(do deed.Deed, id uint64, in HereInput) (SendingPutResult, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (SendingPutResult, error) {
		r, lines, err := coming(do.Tx, do.Who, id)
		if err != nil {
			return SendingPutResult{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, r.ToID); err != nil {
			return SendingPutResult{}, err
		}
		put := SendingPut{Code: in.Code, Serials: in.Serials, Quantity: in.Quantity}
		for _, l := range lines {
			if l.ID == in.Line && in.Line != 0 {
				put.Variant, put.Lot = l.Variant, l.Lot
			}
		}
		came, out, err := readPut(do.Tx, &put)
		if err != nil || came.Variant == 0 {
			return out, err
		}
		held, err := book.Known(do.Tx.Q, append(variantsIn(lines), came.Variant), came.Numbers)
		if err != nil {
			return SendingPutResult{}, err
		}
		line, said, err := held.CountHere(lines, stock.HereInput{Came: came, Line: in.Line, Adds: in.Code != "",
			Quantity: put.Quantity})
		if err != nil {
			return SendingPutResult{}, err
		}
		err = sendings.KeepSendingLine(do.Tx, id, &line)
		return SendingPutResult{Said: said, Line: line.ID}, err
	})
}

// ArriveInput takes in what is counted as here, on a shelf, the default one for 0; All takes in all that
// is on the way.
type ArriveInput struct {
	Shelf uint64 `json:"shelf_id"`
	All   bool   `json:"all"`
}

// ArriveSending takes in what is here of a sending.
func ArriveSending(do deed.Deed, id uint64, in ArriveInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (deed.Posted, error) {
		r, lines, err := coming(do.Tx, do.Who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, r.ToID); err != nil {
			return deed.Posted{}, err
		}
		if in.All {
			lines = stock.AllHere(lines)
		}
		held, err := book.Hold(do.Tx, variantsIn(lines), numbersIn(lines))
		if err != nil {
			return deed.Posted{}, err
		}
		if in.Shelf == 0 {
			if in.Shelf, err = held.Where(r.ToID); err != nil {
				return deed.Posted{}, err
			}
		}
		draft, err := newDraft(do, held, stock.Arrived, r.ToID, r.Number)
		if err != nil {
			return deed.Posted{}, err
		}
		before := stock.TotalSending(lines)
		after, err := draft.Arrive(r.ToID, in.Shelf, lines)
		if err != nil {
			return deed.Posted{}, err
		}
		return finishSending(do, r, held, draft, after, arrivedSays(before, stock.TotalSending(after)))
	})
}

func arrivedSays(before, after stock.SendingTotal) string {
	what := after.Arrived.Sub(before.Arrived).String() + " arrived"
	if over := after.Over.Sub(before.Over); over.IsPositive() {
		what += ", and " + over.String() + " over"
	}
	return what
}

// finishSending posts what became of a sending that is on the way, and keeps its lines. A document
// without entries, of what was only counted, is none.
func finishSending(do deed.Deed, r sendings.SendingRow, held stock.Holding, draft *stock.Draft,
	lines []stock.SendingLine, what string) (deed.Posted, error) {
	doc, err := draft.Document()
	if err != nil {
		return deed.Posted{}, err
	}
	done := deed.Posted{Number: r.Number, At: doc.HappenedAt}
	if len(doc.Entries) > 0 {
		if done, err = deed.Post(do.Tx, held, draft); err != nil {
			return deed.Posted{}, err
		}
	}
	for i := range lines {
		if err := sendings.KeepSendingLine(do.Tx, r.ID, &lines[i]); err != nil {
			return deed.Posted{}, err
		}
	}
	if err := sendings.NoteSending(do.Tx, r.ID, text.Cut(what, 250), do.Shop.Now(), do.Who.ID, done.Document); err != nil {
		return deed.Posted{}, err
	}
	now := stock.SendingNow(lines)
	if now == stock.SendingSettled {
		if err := sendings.NoteSending(do.Tx, r.ID, "Settled", do.Shop.Now(), do.Who.ID, 0); err != nil {
			return deed.Posted{}, err
		}
	}
	return done, sendings.SetSendingState(do.Tx, r.ID, now)
}

// SettleInput settles what is short or over of a line of a sending.
type SettleInput struct {
	Line     uint64 `json:"line_id"`
	How      string `json:"how"`
	Quantity string `json:"quantity"` // empty for all of it
	Serials  string `json:"serials"`
	Reason   uint64 `json:"reason_id"` // where something is lost or found
}

// SettleSending settles what is short or over of a sending.
func SettleSending(do deed.Deed, id uint64, in SettleInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedWriteOff, func(do deed.Deed) (deed.Posted, error) {
		r, lines, err := coming(do.Tx, do.Who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		at := slices.IndexFunc(lines, func(l stock.SendingLine) bool { return l.ID == in.Line })
		if at < 0 {
			return deed.Posted{}, fault.Missing("line_id", in.Line, "%s has no line %d.", r.Number, in.Line)
		}
		numbers, err := serial.ReadList(in.Serials)
		if err != nil {
			return deed.Posted{}, err
		}
		held, err := book.Hold(do.Tx, []uint64{lines[at].Variant}, append(numbersIn(lines[at:at+1]), numbers...))
		if err != nil {
			return deed.Posted{}, err
		}
		plan, why, err := settlePlan(do, held, r, lines[at], in, numbers)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, plan.How.At(r.FromID, r.ToID)); err != nil {
			return deed.Posted{}, err
		}
		draft, err := newDraft(do, held, stock.SentSettled, plan.How.At(r.FromID, r.ToID),
			text.Cut(text.Joined(r.Number, why), 250))
		if err != nil {
			return deed.Posted{}, err
		}
		if lines[at], err = draft.SettleSending(lines[at], plan); err != nil {
			return deed.Posted{}, err
		}
		what := fmt.Sprintf("%s %s: %s", plan.Quantity, held.Items[lines[at].Variant].Name, plan.How)
		return finishSending(do, r, held, draft, lines, what)
	})
}

// settlePlan reads how a line is settled, with the name of the reason.
func settlePlan(do deed.Deed, held stock.Holding, r sendings.SendingRow, l stock.SendingLine, in SettleInput,
	numbers []string) (stock.SettlePlan, string, error) {
	plan := stock.SettlePlan{From: r.FromID, To: r.ToID, How: stock.Settling(in.How), Numbers: numbers}
	if err := plan.How.Check(); err != nil {
		return plan, "", err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return plan, "", err
	}
	plan.Day = set.Day(do.Shop.Now())
	open, all := l.OnWay(), l.NumbersOnWay()
	if plan.How.Over() {
		open, all = l.OverLeft(), l.NumbersOver()
	}
	if len(numbers) == 0 && text.Tidy(in.Quantity) == "" {
		plan.Numbers = all
	}
	plan.Quantity = open
	if text.Tidy(in.Quantity) != "" {
		if plan.Quantity, err = held.Items[l.Variant].Unit.Parse("quantity", in.Quantity); err != nil {
			return plan, "", err
		}
	} else if len(numbers) > 0 {
		plan.Quantity = decimal.New(int64(len(numbers)), 0)
	}
	if !plan.How.NeedsReason() {
		return plan, "", nil
	}
	reasons, err := office.Reasons(do.Tx.Q)
	if err != nil {
		return plan, "", err
	}
	why, err := reason.Find(reasons, reason.Stock, in.Reason)
	plan.Account = why.Account
	return plan, why.Name, err
}
