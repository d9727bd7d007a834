package stockroom

import (
	"context"

	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/devices"
	"itemrack/store/till"
)

// Reverse mends a mistake: it posts the opposite of a document. A sale can be
// made void while its drawer is open and none of it has come back.
func Reverse(do deed.Deed, documentNumber, note string) (deed.Posted, error) {
	var cards []string
	done, err := deed.Once(do, staff.DeedReverse, func(do deed.Deed) (posted deed.Posted, err error) {
		posted, cards, err = Undo(do, documentNumber, note)
		return posted, err
	})
	if err == nil {
		done.Owed = Uncharge(do.Ctx, do.Shop, cards)
	}
	return done, err
}

// Uncharge has the terminal give back what cards were charged; it says what it did not give, which
// stands on Today until it does.
func Uncharge(ctx context.Context, s *deed.Shop, cards []string) string {
	said := ""
	for _, card := range cards {
		if lost := device.Return(context.WithoutCancel(ctx), devices.Of(s.Store), card); lost != nil {
			said = lost.Error() + " The card is given its money from Today."
		}
	}
	return said
}

// Undo posts the opposite of a document, and returns the card charges of a sale that are to be
// given back.
func Undo(do deed.Deed, documentNumber, note string) (deed.Posted, []string, error) {
	view, err := book.LockDocument(do.Tx, documentNumber)
	if err != nil {
		return deed.Posted{}, nil, err
	}
	if err := stock.Kind(view.Kind).CheckReversal(view.Number, view.ReversedBy); err != nil {
		return deed.Posted{}, nil, err
	}
	var cards []string
	var with []book.With
	if stock.Kind(view.Kind) == stock.Sale {
		if cards, err = voidable(do.Tx, view); err != nil {
			return deed.Posted{}, nil, err
		}
		with = append(with, till.WithVoid(view.ID))
	}
	entries, err := book.Entries(do.Tx.Q, view.ID)
	if err != nil {
		return deed.Posted{}, nil, err
	}
	revalued, err := book.Revalued(do.Tx.Q, view.ID)
	if err != nil {
		return deed.Posted{}, nil, err
	}
	held, err := buying.HoldWith(do.Tx, entries, revalued)
	if err != nil {
		return deed.Posted{}, nil, err
	}
	if stock.Kind(view.Kind).Brings() {
		if held.Since, err = book.Since(do.Tx.Q, view.ID, stock.Touched(entries)); err != nil {
			return deed.Posted{}, nil, err
		}
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return deed.Posted{}, nil, err
	}
	name, err := deed.NextNumber(do.Tx, "RV")
	if err != nil {
		return deed.Posted{}, nil, err
	}
	now := stock.NotBefore(do.Shop.Now(), view.HappenedAt)
	draft := stock.NewDraft(
		held,
		stock.Document{
			Kind:       stock.Reversal,
			Number:     name,
			Branch:     view.BranchID,
			By:         do.Who.ID,
			HappenedAt: now,
			RecordedAt: now,
			Note:       note,
			Reverses:   view.ID,
		},
	)
	postings, err := book.Postings(do.Tx.Q, view.ID)
	if err != nil {
		return deed.Posted{}, nil, err
	}
	if err := draft.Reverse(stock.Document{Kind: stock.Kind(view.Kind), Entries: entries, Postings: postings}, revalued,
		set.Day(now)); err != nil {
		return deed.Posted{}, nil, err
	}
	if err := storebuying.ReleaseNumber(do.Tx, view.ID); err != nil {
		return deed.Posted{}, nil, err
	}
	if err := buying.Undo(do, held, stock.Kind(view.Kind), view); err != nil {
		return deed.Posted{}, nil, err
	}
	posted, err := deed.Post(do.Tx, held, draft, with...)
	return posted, cards, err
}

// voidable refuses a sale that can't be made void, and returns the references of
// its card charges.
func voidable(tx store.Tx, view book.DocumentView) ([]string, error) {
	sold, err := till.LockSale(tx, view.Number)
	if err != nil {
		return nil, err
	}
	drawer, err := till.ReadDrawer(tx, sold.DrawerID)
	if err != nil {
		return nil, err
	}
	back, err := till.HasReturns(tx.Q, sold.DocumentID)
	if err != nil {
		return nil, err
	}
	if err := sale.CheckVoid(view.Number, drawer.ClosedAt != nil, back); err != nil {
		return nil, err
	}
	for _, given := range sold.Given {
		left, err := till.LockVoucher(tx, given.Code)
		if err != nil {
			return nil, err
		}
		if err := sale.CheckUnused(given, left); err != nil {
			return nil, err
		}
	}
	if err := deed.CashOut(tx, sold.DrawerID, "document", sold.Paid.Of(sale.Cash)); err != nil {
		return nil, err
	}
	given, err := till.NumbersGiven(tx.Q, sold.DocumentID)
	if err != nil {
		return nil, err
	}
	if err := sale.CheckGiven(view.Number, given, !sold.Paid.Of(sale.Exchange).IsZero()); err != nil {
		return nil, err
	}
	var cards []string
	for _, t := range sold.Paid {
		if t.Kind == sale.Card && t.Reference != "" {
			cards = append(cards, t.Reference)
		}
	}
	return cards, nil
}
