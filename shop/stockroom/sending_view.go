package stockroom

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/revision"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/sendings"
)

// SendingView is a sending with its lines worked out.
type SendingView struct {
	sendings.SendingRow
	Revision string                  `json:"revision"` // of its head
	Lines    []SendingLineView       `json:"lines"`
	Events   []sendings.SendingEvent `json:"events"`
	Total    stock.SendingTotal      `json:"total"`
	Worth    decimal.Decimal         `json:"worth" see:"costs"` // of what is on the way
}

// SendingLineView is a line of a sending: what is left at the sender's, on the way and at the receiver's of
// its goods in its condition, and what the line's units on the way are worth.
type SendingLineView struct {
	stock.SendingLine
	Item    goods.Sellable  `json:"item"`
	LotName string          `json:"lot"`
	Expiry  *time.Time      `json:"expiry"`
	AtFrom  decimal.Decimal `json:"at_from"`
	Way     decimal.Decimal `json:"on_the_way"` // of this line
	AtTo    decimal.Decimal `json:"at_to"`
	Excess  decimal.Decimal `json:"excess"` // arrived unsent and not settled
	Worth   decimal.Decimal `json:"worth" see:"costs"`
}

// ReadSending reads a sending with its lines worked out.
func ReadSending(s *deed.Shop, q store.Q, id uint64) (SendingView, error) {
	r, err := sendings.ReadSending(q, id)
	if err != nil {
		return SendingView{}, err
	}
	view := SendingView{SendingRow: r, Revision: revision.Of(headOf(r)), Lines: []SendingLineView{}}
	lines, err := sendings.SendingLines(q, id)
	if err != nil {
		return view, err
	}
	if view.Events, err = sendings.SendingEvents(q, id); err != nil {
		return view, err
	}
	view.Total = stock.TotalSending(lines)
	items, err := goods.Sellables(q, variantsIn(lines), s.Now())
	if err != nil {
		return view, err
	}
	held, err := book.Known(q, variantsIn(lines), numbersIn(lines))
	if err != nil {
		return view, err
	}
	for _, l := range lines {
		v := SendingLineView{SendingLine: l, Item: items[l.Variant], Way: l.OnWay(), Excess: l.OverLeft(),
			AtFrom: held.OnHand(l.Variant, r.FromID, l.Condition), AtTo: held.OnHand(l.Variant, r.ToID, l.Condition),
			Worth: held.WorthOf(l.Variant, l.OnWay(), l.NumbersOnWay())}
		if lot, ok := held.Lots[l.Lot]; ok {
			v.LotName = lot.Number
			if !lot.Expiry.IsZero() {
				v.Expiry = &lot.Expiry
			}
		}
		view.Worth = view.Worth.Add(v.Worth)
		view.Lines = append(view.Lines, v)
	}
	return view, nil
}
