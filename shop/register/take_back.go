package register

import (
	"context"
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
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
	Owed     string          `json:"owed,omitempty"` // why the card was not given its money yet
}

// TakeBack takes things back by their sale. They come back at the cost at which
// they went out; the refund goes back as it was paid, to the card first.
func TakeBack(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in ReturnInput) (ReturnResult, error) {
	result, err := deed.Once(ctx, s, who, staff.DeedReturn, key, func(tx store.Tx) (ReturnResult, error) {
		till, err := openTill(tx, who, in.Register, 0)
		if err != nil {
			return ReturnResult{}, err
		}
		if err := till.Sells(); err != nil {
			return ReturnResult{}, err
		}
		sold, err := trade.LockSale(tx, in.Sale)
		if err != nil {
			return ReturnResult{}, err
		}
		if sold.Reversed {
			return ReturnResult{}, fault.Refuse("sale", sold.Number, "a sale that stands",
				"Sale %s was made void; there is nothing to take back.", sold.Number)
		}
		r, held, err := returning(s, tx, who, till, sold)
		if err != nil {
			return ReturnResult{}, err
		}
		for _, l := range in.Lines {
			if err := r.Take(sale.Back(l)); err != nil {
				return ReturnResult{}, err
			}
		}
		onCard, err := trade.CardRefunded(tx.Q, sold.DocumentID)
		if err != nil {
			return ReturnResult{}, err
		}
		cash, card, err := r.Pay(sold.Card.Sub(onCard))
		if err != nil {
			return ReturnResult{}, err
		}
		row := trade.SaleReturn{
			SaleID:   sold.DocumentID,
			DrawerID: till.Drawer,
			Amount:   r.Sum.Amount,
			Tax:      r.Sum.Tax,
			Cash:     cash,
			Card:     card,
		}
		posted, err := deed.Post(tx, held, r.Draft, trade.WithReturn(row, r.Rows))
		return ReturnResult{
			Document: posted.Document,
			Number:   posted.Number,
			At:       posted.At,
			Amount:   r.Sum.Amount,
			Cash:     cash,
			Card:     card,
		}, err
	})
	if err == nil && result.Card.IsPositive() {
		result.Owed = owed(device.Refund(context.WithoutCancel(ctx), devices.Of(s.Store), "return/"+result.Number,
			result.Card, s.Now()))
	}
	return result, err
}

// returning reads what a return of a sale needs, and begins its document.
func returning(s *deed.Shop, tx store.Tx, who staff.Actor, till trade.Till,
	sold trade.SaleView) (*sale.Returning, stock.Holding, error) {
	var variants []uint64
	var numbers []string
	for _, l := range sold.Lines {
		variants = append(variants, l.VariantID)
		for _, p := range l.Parts {
			variants = append(variants, p.VariantID)
		}
		numbers = append(numbers, serial.Kept(l.Serials)...)
	}
	held, err := book.Hold(tx, variants, numbers)
	if err != nil {
		return nil, held, err
	}
	set, err := tx.Terms()
	if err != nil {
		return nil, held, err
	}
	out, err := trade.LotsOut(tx.Q, sold.DocumentID)
	if err != nil {
		return nil, held, err
	}
	lines, err := sold.SoldLines(out, set.Minor())
	if err != nil {
		return nil, held, err
	}
	n, err := book.NextNumber(tx, "return "+till.Code, 1)
	if err != nil {
		return nil, held, err
	}
	now := stock.NotBefore(s.Now(), sold.HappenedAt)
	head := stock.Document{
		Kind:       stock.Return,
		Number:     fmt.Sprintf("%s-R%04d", till.Code, n),
		Branch:     till.Branch,
		By:         who.ID,
		HappenedAt: now,
		RecordedAt: now,
		Note:       "of sale " + sold.Number,
	}
	r := &sale.Returning{
		Number: sold.Number,
		Lines:  lines,
		Draft:  stock.NewDraft(held, head),
		Day:    set.Day(now),
		Minor:  set.Minor(),
	}
	if r.Shelf, err = held.Where(till.Branch); err != nil && len(held.Shelves) > 0 {
		return nil, held, err
	}
	return r, held, nil
}

// owed says that the terminal did not give money back: it stands on Today until it does.
func owed(err error) string {
	if err == nil {
		return ""
	}
	return err.Error() + " The card is given its money from Today."
}
