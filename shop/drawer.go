package shop

import (
	"context"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/store"
)

// DrawerRef names a drawer session.
type DrawerRef struct {
	Session uint64 `json:"session_id"`
}

// OpenDrawer opens the drawer of a register with its float.
func (s *Shop) OpenDrawer(ctx context.Context, who Actor, key string, register uint64, float string) (DrawerRef, error) {
	return once(ctx, s, who, DeedDrawer, key, func(tx store.Tx) (DrawerRef, error) {
		amount, err := money.Parse("float", float)
		if err != nil {
			return DrawerRef{}, err
		}
		if _, err := tx.Register(register); err != nil {
			return DrawerRef{}, err
		}
		row := store.DrawerSession{RegisterID: register, OpenRegisterID: &register, OpenedBy: who.ID, OpenedAt: s.Now(), Float: amount}
		if err := tx.OpenDrawer(&row); err != nil {
			return DrawerRef{}, err
		}
		return DrawerRef{row.ID}, nil
	})
}

// Closing is how a drawer session ended.
type Closing struct {
	Session    uint64          `json:"session_id"`
	Number     string          `json:"number"`
	Counted    decimal.Decimal `json:"counted"`
	Expected   decimal.Decimal `json:"expected"`
	Difference decimal.Decimal `json:"difference"`
}

// CloseDrawer closes the drawer of a register with what was counted in it. What
// is over or short is posted.
func (s *Shop) CloseDrawer(ctx context.Context, who Actor, key string, register uint64, counted []sale.Denomination) (Closing, error) {
	return once(ctx, s, who, DeedDrawer, key, func(tx store.Tx) (Closing, error) {
		amount, err := sale.CountCash(counted)
		if err != nil {
			return Closing{}, err
		}
		view, err := tx.Register(register)
		if err != nil {
			return Closing{}, err
		}
		if view.Session == 0 {
			return Closing{}, fault.Clash("register", register, "a register whose drawer is open", "The drawer of %s is closed already.", view.Name)
		}
		row, err := tx.Drawer(view.Session)
		if err != nil {
			return Closing{}, err
		}
		if row.ClosedAt != nil {
			return Closing{}, fault.Clash("register", register, "a register whose drawer is open", "The drawer of %s was closed meanwhile.", view.Name)
		}
		figures, err := tx.DrawerFigures(row.ID)
		if err != nil {
			return Closing{}, err
		}
		drawer := figures.Core()
		expected, difference := drawer.Expected(), drawer.Difference(amount)
		name, err := number(tx, "Z")
		if err != nil {
			return Closing{}, err
		}
		now := s.Now()
		draft := stock.NewDraft(stock.Holding{}, stock.Document{Kind: stock.DrawerClose, Number: name, Branch: view.BranchID, By: who.ID, HappenedAt: now, RecordedAt: now})
		draft.Post(ledger.Cash, difference)
		draft.Post(ledger.CashOver, difference.Neg())
		doc, err := draft.Document()
		if err != nil {
			return Closing{}, err
		}
		document, err := tx.Post(stock.Holding{}, doc)
		if err != nil {
			return Closing{}, err
		}
		row.ClosedAt, row.ClosedBy, row.Expected, row.Counted, row.DocumentID = &now, &who.ID, &expected, &amount, &document
		return Closing{row.ID, name, amount, expected, difference}, tx.CloseDrawer(row)
	})
}
