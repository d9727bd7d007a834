package register

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/trade"
)

// ReturnLineInput is what comes back of a line of a sale, and the condition it
// goes into; empty means To look over.
type ReturnLineInput struct {
	Line      int    `json:"line"`
	Quantity  string `json:"quantity"`
	Condition string `json:"condition"`
	Serials   string `json:"serials"`
}

// ReturnInput takes things of a sale back at a register.
type ReturnInput struct {
	Register uint64            `json:"register_id"`
	Sale     string            `json:"sale"`
	Lines    []ReturnLineInput `json:"lines"`
}

// ReturnResult is a return that was posted: the refund, in cash and to the card.
type ReturnResult struct {
	Document uint64          `json:"document_id"`
	Number   string          `json:"number"`
	At       time.Time       `json:"at"`
	Amount   decimal.Decimal `json:"amount"`
	Cash     decimal.Decimal `json:"cash"`
	Card     decimal.Decimal `json:"card"`
}

// TakeBack takes things back by their sale. They come back at the cost at which
// they went out; the refund goes back as it was paid, to the card first.
func TakeBack(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in ReturnInput) (ReturnResult, error) {
	result, err := deed.Once(ctx, s, who, staff.DeedReturn, key, func(tx store.Tx) (ReturnResult, error) {
		register, err := trade.ReadRegister(tx.Q, in.Register)
		if err != nil {
			return ReturnResult{}, err
		}
		session, err := trade.ShareDrawer(tx, in.Register)
		if err != nil {
			return ReturnResult{}, err
		}
		sold, err := trade.LockSale(tx, strings.ToUpper(strings.TrimSpace(in.Sale)))
		if err != nil {
			return ReturnResult{}, err
		}
		if sold.Reversed {
			return ReturnResult{}, fault.Refuse("sale", sold.Number, "a sale that stands", "Sale %s was made void; there is nothing to take back.", sold.Number)
		}
		r := &returning{shop: s, tx: tx, sold: sold}
		if err := r.hold(); err != nil {
			return ReturnResult{}, err
		}
		n, err := book.NextNumber(tx, "return "+register.Code, 1)
		if err != nil {
			return ReturnResult{}, err
		}
		now := s.Now()
		head := stock.Document{Kind: stock.Return, Number: fmt.Sprintf("%s-R%04d", register.Code, n), Branch: register.BranchID, By: who.ID, HappenedAt: now, RecordedAt: now, Note: "of sale " + sold.Number}
		r.draft = stock.NewDraft(r.held, head)
		if r.shelf, err = r.held.Where(register.BranchID); err != nil && len(r.held.Shelves) > 0 {
			return ReturnResult{}, err
		}
		for _, l := range in.Lines {
			if err := r.line(l); err != nil {
				return ReturnResult{}, err
			}
		}
		return r.post(session)
	})
	if err == nil && result.Card.IsPositive() {
		err = device.Refund(context.WithoutCancel(ctx), devices.Of(s.Store), "return/"+result.Number, result.Card, s.Now())
	}
	return result, err
}

// returning is a return while it is worked out.
type returning struct {
	shop  *deed.Shop
	tx    store.Tx
	sold  trade.SaleView
	held  stock.Holding
	draft *stock.Draft
	shelf uint64
	lots  map[int][]trade.LotOut
	rows  []trade.ReturnLine
	sum   sale.Refund
}

func (r *returning) hold() error {
	var variants []uint64
	var numbers []string
	for _, l := range r.sold.Lines {
		variants = append(variants, l.VariantID)
		for _, p := range l.Parts {
			variants = append(variants, p.VariantID)
		}
		numbers = append(numbers, serial.Kept(l.Serials)...)
	}
	var err error
	if r.held, err = book.Hold(r.tx, variants, numbers); err != nil {
		return err
	}
	r.lots, err = trade.LotsOut(r.tx.Q, r.sold.DocumentID)
	return err
}

func (r *returning) line(in ReturnLineInput) error {
	if strings.TrimSpace(in.Quantity) == "" {
		return nil
	}
	at := slices.IndexFunc(r.sold.Lines, func(l trade.SaleLineView) bool { return l.Line == in.Line })
	if at < 0 {
		return fault.Field("line", in.Line, fmt.Sprintf("1 to %d", len(r.sold.Lines)), "Sale %s has no line %d.", r.sold.Number, in.Line)
	}
	line := &r.sold.Lines[at]
	u, err := unit.ByCode(line.Unit)
	if err != nil {
		return err
	}
	q, err := u.Parse("quantity", in.Quantity)
	if err != nil || q.IsZero() {
		return err
	}
	back, err := line.Core().TakeBack(q)
	if err != nil {
		return err
	}
	condition := stock.Condition(in.Condition)
	if condition == "" {
		condition = stock.ToLookOver
	}
	if err := stock.CheckCondition(condition); err != nil {
		return err
	}
	numbers, err := r.serials(line, in.Serials, q)
	if err != nil {
		return err
	}
	switch {
	case len(line.Parts) > 0:
		err = r.restoreParts(*line, condition, q, back.Cost, numbers)
	case r.held.Items[line.VariantID].Tracking != stock.NotStocked && !line.Bundle:
		err = r.restore(line.Line, line.VariantID, condition, q, back.Cost, numbers)
	}
	if err != nil {
		return err
	}
	line.Back, line.Refunded = line.Back.Add(q), line.Refunded.Add(back.Amount)
	line.TaxBack, line.CostReturned = line.TaxBack.Add(back.Tax), line.CostReturned.Add(back.Cost)
	r.rows = append(r.rows, trade.ReturnLine{SaleLineID: line.ID, Serials: strings.Join(numbers, ","), Condition: string(condition),
		Quantity: q, Amount: back.Amount, Tax: back.Tax, Cost: back.Cost})
	r.sum.Amount, r.sum.Tax, r.sum.Cost = r.sum.Amount.Add(back.Amount), r.sum.Tax.Add(back.Tax), r.sum.Cost.Add(back.Cost)
	return nil
}

// serials are the numbers that come back: those given, which must have been
// sold on the line, or the only one there is.
func (r *returning) serials(line *trade.SaleLineView, given string, q decimal.Decimal) ([]string, error) {
	if line.Serials == "" {
		return nil, nil
	}
	var out []string
	back := serial.Kept(line.BackSerials)
	for _, n := range serial.Kept(line.Serials) {
		if !slices.Contains(back, n) {
			out = append(out, n)
		}
	}
	numbers, err := serial.ReadList(given)
	if err != nil {
		return nil, err
	}
	if len(numbers) == 0 && (q.Equal(decimal.New(int64(len(out)), 0)) || q.Equal(line.Quantity.Sub(line.Back))) {
		numbers = out
	}
	for _, n := range numbers {
		if !slices.Contains(out, n) {
			return nil, fault.Refuse("serials", n, strings.Join(out, ", "), "No. %s was not sold on this line, or is back already.", n)
		}
	}
	line.BackSerials = strings.Join(append(back, numbers...), ",")
	return numbers, nil
}

// restoreParts puts what a bundle held back into stock, the cost shared over its
// parts as it went out.
func (r *returning) restoreParts(line trade.SaleLineView, condition stock.Condition, q, cost decimal.Decimal, numbers []string) error {
	weights := make([]decimal.Decimal, len(line.Parts))
	for i, p := range line.Parts {
		weights[i] = p.Cost
	}
	for i, share := range money.Split(cost, weights) {
		p := line.Parts[i]
		var own []string
		for _, n := range numbers {
			if slices.Contains(serial.Kept(p.Serials), n) {
				own = append(own, n)
			}
		}
		if err := r.restore(line.Line, p.VariantID, condition, p.Quantity.Mul(q).DivRound(line.Quantity, 3), share, own); err != nil {
			return err
		}
	}
	return nil
}

// restore puts goods back into stock: lots as they went out, one after another.
func (r *returning) restore(line int, variant uint64, condition stock.Condition, q, cost decimal.Decimal, numbers []string) error {
	key := stock.Key{Variant: variant, Shelf: r.shelf, Condition: condition}
	if r.held.Items[variant].Tracking != stock.ByLot {
		return r.draft.Restore(line, key, q, cost, numbers)
	}
	lots := r.lots[line]
	done, given := decimal.Zero, decimal.Zero
	for i := range lots {
		if lots[i].Variant != variant {
			continue
		}
		part := decimal.Min(lots[i].Quantity, q.Sub(done))
		if !part.IsPositive() {
			continue
		}
		lot := r.held.Lots[lots[i].Lot]
		if condition == stock.ForSale && lot.Expired(r.shop.Today()) {
			return fault.Refuse("condition", condition, "To look over or For scrap", "Lot %s is past its expiry; it can't go back for sale.", lot.Number)
		}
		value := money.Part(cost, given, done, part, q)
		done, given = done.Add(part), given.Add(value)
		lots[i].Quantity = lots[i].Quantity.Sub(part)
		key.Lot = lot.ID
		if err := r.draft.Restore(line, key, part, value, nil); err != nil {
			return err
		}
	}
	return nil
}

func (r *returning) post(session uint64) (ReturnResult, error) {
	if len(r.rows) == 0 {
		return ReturnResult{}, fault.Field("lines", "", "a quantity on at least one line", "Say how many of what came back.")
	}
	onCard, err := trade.CardRefunded(r.tx.Q, r.sold.DocumentID)
	if err != nil {
		return ReturnResult{}, err
	}
	card := decimal.Min(r.sum.Amount, r.sold.Card.Sub(onCard))
	cash := r.sum.Amount.Sub(card)
	r.draft.Post(ledger.Income, r.sum.Amount.Sub(r.sum.Tax))
	r.draft.Post(ledger.TaxOut, r.sum.Tax)
	r.draft.Post(ledger.Cash, cash.Neg())
	r.draft.Post(ledger.Card, card.Neg())
	r.draft.Post(ledger.Stock, r.sum.Cost)
	r.draft.Post(ledger.CostOfSales, r.sum.Cost.Neg())
	doc, err := r.draft.Document()
	if err != nil {
		return ReturnResult{}, err
	}
	document, err := book.Post(r.tx, r.held, doc)
	if err != nil {
		return ReturnResult{}, err
	}
	for i := range r.rows {
		r.rows[i].DocumentID = document
	}
	if err := trade.AddReturn(r.tx, &trade.SaleReturn{DocumentID: document, SaleID: r.sold.DocumentID, DrawerID: session, Amount: r.sum.Amount, Tax: r.sum.Tax, Cash: cash, Card: card}); err != nil {
		return ReturnResult{}, err
	}
	return ReturnResult{Document: document, Number: doc.Number, At: doc.HappenedAt, Amount: r.sum.Amount, Cash: cash, Card: card}, trade.AddReturnLines(r.tx, &r.rows)
}
