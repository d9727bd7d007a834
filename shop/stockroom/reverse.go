package stockroom

import (
	"context"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/trade"
)

// reversible are the kinds of document that can be reversed whole.
var reversible = map[stock.Kind]bool{stock.Delivery: true, stock.Opening: true, stock.ConditionChange: true, stock.Count: true, stock.Sale: true, stock.KitMade: true, stock.KitBroken: true}

// Reversible reports whether documents of a kind can be reversed whole.
func Reversible(kind stock.Kind) bool { return reversible[kind] }

// Reverse mends a mistake: it posts the opposite of a document. A sale can be
// made void while its drawer is open and none of it has come back.
func Reverse(ctx context.Context, s *deed.Shop, who staff.Actor, key, documentNumber, note string) (deed.Posted, error) {
	card := ""
	done, err := deed.Once(ctx, s, who, staff.DeedReverse, key, func(tx store.Tx) (deed.Posted, error) {
		view, err := book.LockDocument(tx, documentNumber)
		if err != nil {
			return deed.Posted{}, err
		}
		if view.ReversedBy != "" {
			return deed.Posted{}, fault.Clash("document", view.Number, "a document not reversed yet", "%s was reversed already, by %s; nothing was posted twice.", view.Number, view.ReversedBy)
		}
		if !reversible[stock.Kind(view.Kind)] {
			return deed.Posted{}, fault.Refuse("document", view.Number, "a delivery, count, change of condition, opening stock, kit or sale", "A document of the kind %s can't be reversed.", view.Kind)
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
		name, err := deed.NextNumber(tx, "RV")
		if err != nil {
			return deed.Posted{}, err
		}
		now := s.Now()
		draft := stock.NewDraft(held, stock.Document{Kind: stock.Reversal, Number: name, Branch: view.BranchID, By: who.ID, HappenedAt: now, RecordedAt: now, Note: note, Reverses: view.ID})
		difference, err := draft.Reverse(stock.Kind(view.Kind), entries)
		if err != nil {
			return deed.Posted{}, err
		}
		postings, err := book.Postings(tx.Q, view.ID)
		if err != nil {
			return deed.Posted{}, err
		}
		for _, p := range postings {
			draft.Post(p.Account, p.Amount.Neg())
		}
		draft.Post(ledger.Stock, difference.Neg())
		draft.Post(ledger.CostOfSales, difference)
		if err := trade.ReleaseNumber(tx, view.ID); err != nil {
			return deed.Posted{}, err
		}
		return deed.Post(tx, held, draft)
	})
	if err == nil && card != "" {
		err = device.Return(context.WithoutCancel(ctx), devices.Of(s.Store), card)
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
	if drawer.ClosedAt != nil {
		return "", fault.Refuse("document", view.Number, "a sale of an open drawer", "The drawer of sale %s is cashed up; take the goods back instead.", view.Number)
	}
	back, err := trade.HasReturns(tx.Q, sold.DocumentID)
	if err != nil {
		return "", err
	}
	if back {
		return "", fault.Refuse("document", view.Number, "a sale of which nothing came back", "Some of sale %s came back already; take the rest back instead.", view.Number)
	}
	return sold.CardReference, nil
}
