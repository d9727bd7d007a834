package stockroom

import (
	"context"

	"itemrack/core/fault"
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
	with, cards, err := moneyBack(do.Tx, view)
	if err != nil {
		return deed.Posted{}, nil, err
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
	name, err := deed.NextNumber(do.Tx, stock.Reversal)
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

// moneyBack is what a reversal takes back at a register: how a sale or an account was paid, and cash that was moved. It
// returns the references of card charges that are to be given back.
func moneyBack(tx store.Tx, view book.DocumentView) ([]book.With, []string, error) {
	switch stock.Kind(view.Kind) {
	case stock.Sale:
		drawer, cards, err := voidable(tx, view)
		return []book.With{till.WithVoid(view.ID, drawer)}, cards, err
	case stock.AccountPaid:
		drawer, err := till.DrawerOf(tx, view.ID)
		if err != nil {
			return nil, nil, err
		}
		if drawer.ClosedAt != nil { // it goes back out of the one that is open there now
			if drawer.ID, err = till.ShareDrawer(tx, drawer.RegisterID); err != nil {
				return nil, nil, err
			}
		}
		paid, err := till.Tendered(tx.Q, view.ID)
		if err != nil {
			return nil, nil, err
		}
		if err := deed.CashOut(tx, drawer.ID, "document", paid.Of(sale.Cash)); err != nil {
			return nil, nil, err
		}
		return []book.With{till.WithVoid(view.ID, drawer.ID)}, paid.Charged(), nil
	case stock.Return:
		with, err := returnBack(tx, view)
		return with, nil, err
	case stock.CashMoved:
		move, err := till.MoveOf(tx.Q, view.ID)
		if err != nil {
			return nil, nil, err
		}
		if move == nil {
			return nil, nil, fault.Refuse("document", view.Number, "cash put in or taken out, with its reason",
				"%s is what was given instead of a card. It is mended by cash that is put in or taken out.", view.Number)
		}
		drawer, err := till.ReadDrawer(tx, move.DrawerID)
		if err != nil {
			return nil, nil, err
		}
		if err := sale.CheckMoveBack(view.Number, drawer.ClosedAt != nil); err != nil {
			return nil, nil, err
		}
		if err := deed.CashOut(tx, drawer.ID, "document", move.Kind.Signed(move.Amount)); err != nil {
			return nil, nil, err
		}
		return []book.With{till.WithMoveBack(*move)}, nil, nil
	}
	return nil, nil, nil
}

// returnBack takes back that things came back: how they were paid for, and the store credit that was given, unless that
// was used.
func returnBack(tx store.Tx, view book.DocumentView) ([]book.With, error) {
	back, err := till.ReturnByNumber(tx.Q, view.Number)
	if err != nil {
		return nil, err
	}
	if back.Sale != "" { // nothing else comes back of it meanwhile
		if _, err := till.LockSale(tx, back.Sale); err != nil {
			return nil, err
		}
	}
	drawer, err := till.ReadDrawer(tx, back.DrawerID)
	if err != nil {
		return nil, err
	}
	if err := sale.CheckReturnBack(view.Number, drawer.ClosedAt != nil, back.Paid); err != nil {
		return nil, err
	}
	given, err := till.GivenWith(tx.Q, view.ID)
	if err != nil {
		return nil, err
	}
	for _, g := range given {
		left, err := till.LockVoucher(tx, g.Code)
		if err != nil {
			return nil, err
		}
		if err := sale.CheckUnused(g, left); err != nil {
			return nil, err
		}
	}
	return []book.With{till.WithVoid(view.ID, drawer.ID), till.WithReturnBack(view.ID)}, nil
}

// voidable refuses a sale that can't be made void, and returns its drawer and the references of
// its card charges.
func voidable(tx store.Tx, view book.DocumentView) (uint64, []string, error) {
	sold, err := till.LockSale(tx, view.Number)
	if err != nil {
		return 0, nil, err
	}
	drawer, err := till.ReadDrawer(tx, sold.DrawerID)
	if err != nil {
		return 0, nil, err
	}
	back, err := till.HasReturns(tx.Q, sold.DocumentID)
	if err != nil {
		return 0, nil, err
	}
	if err := sale.CheckVoid(view.Number, drawer.ClosedAt != nil, back); err != nil {
		return 0, nil, err
	}
	for _, given := range sold.Given {
		left, err := till.LockVoucher(tx, given.Code)
		if err != nil {
			return 0, nil, err
		}
		if err := sale.CheckUnused(given, left); err != nil {
			return 0, nil, err
		}
	}
	if err := deed.CashOut(tx, sold.DrawerID, "document", sold.Paid.Of(sale.Cash)); err != nil {
		return 0, nil, err
	}
	given, err := till.NumbersGiven(tx.Q, sold.DocumentID)
	if err != nil {
		return 0, nil, err
	}
	if err := sale.CheckGiven(view.Number, given, !sold.Paid.Of(sale.Exchange).IsZero()); err != nil {
		return 0, nil, err
	}
	return sold.DrawerID, sold.Paid.Charged(), nil
}
