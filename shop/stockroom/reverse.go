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
	"itemrack/store/devices"
	"itemrack/store/trade"
)

// Reverse mends a mistake: it posts the opposite of a document. A sale can be
// made void while its drawer is open and none of it has come back.
func Reverse(ctx context.Context, s *deed.Shop, who staff.Actor,
	key, documentNumber, note string) (deed.Posted, error) {
	card := ""
	done, err := deed.Once(ctx, s, who, staff.DeedReverse, key, func(tx store.Tx) (deed.Posted, error) {
		view, err := book.LockDocument(tx, documentNumber)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := stock.Kind(view.Kind).CheckReversal(view.Number, view.ReversedBy); err != nil {
			return deed.Posted{}, err
		}
		if stock.Kind(view.Kind) == stock.Sale {
			if card, err = voidable(tx, view); err != nil {
				return deed.Posted{}, err
			}
		}
		entries, err := book.Entries(tx.Q, view.ID)
		if err != nil {
			return deed.Posted{}, err
		}
		var serials []string
		for _, e := range entries {
			if e.Serial != "" {
				serials = append(serials, e.Serial)
			}
		}
		held, err := book.Hold(tx, stock.Touched(entries), serials)
		if err != nil {
			return deed.Posted{}, err
		}
		if stock.Kind(view.Kind).Brings() {
			if held.Since, err = book.Since(tx.Q, view.ID, stock.Touched(entries)); err != nil {
				return deed.Posted{}, err
			}
		}
		set, err := tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		name, err := deed.NextNumber(tx, "RV")
		if err != nil {
			return deed.Posted{}, err
		}
		now := stock.NotBefore(s.Now(), view.HappenedAt)
		draft := stock.NewDraft(
			held,
			stock.Document{
				Kind:       stock.Reversal,
				Number:     name,
				Branch:     view.BranchID,
				By:         who.ID,
				HappenedAt: now,
				RecordedAt: now,
				Note:       note,
				Reverses:   view.ID,
			},
		)
		postings, err := book.Postings(tx.Q, view.ID)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := draft.Reverse(stock.Kind(view.Kind), entries, postings, set.Day(now)); err != nil {
			return deed.Posted{}, err
		}
		if err := trade.ReleaseNumber(tx, view.ID); err != nil {
			return deed.Posted{}, err
		}
		if err := buying.Undo(s, tx, who, held, stock.Kind(view.Kind), view); err != nil {
			return deed.Posted{}, err
		}
		return deed.Post(tx, held, draft)
	})
	if err == nil && card != "" {
		if lost := device.Return(context.WithoutCancel(ctx), devices.Of(s.Store), card); lost != nil {
			done.Owed = lost.Error() + " The card is given its money from Today."
		}
	}
	return done, err
}

// voidable refuses a sale that can't be made void, and returns the reference of
// its card charge.
func voidable(tx store.Tx, view book.DocumentView) (string, error) {
	sold, err := trade.LockSale(tx, view.Number)
	if err != nil {
		return "", err
	}
	drawer, err := trade.ReadDrawer(tx, sold.DrawerID)
	if err != nil {
		return "", err
	}
	back, err := trade.HasReturns(tx.Q, sold.DocumentID)
	if err != nil {
		return "", err
	}
	if err := sale.CheckVoid(view.Number, drawer.ClosedAt != nil, back); err != nil {
		return "", err
	}
	return sold.CardReference, nil
}
