package register

import (
	"context"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/trade"
)

// DrawerRef names a drawer.
type DrawerRef struct {
	Session uint64 `json:"session_id"`
}

// OpenDrawer opens the drawer of a register with its float.
func OpenDrawer(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register uint64,
	float string) (DrawerRef, error) {
	return deed.Once(ctx, s, who, staff.DeedDrawer, key, func(tx store.Tx) (DrawerRef, error) {
		set, err := tx.Terms()
		if err != nil {
			return DrawerRef{}, err
		}
		amount, err := set.Minor().Parse("float", float)
		if err != nil {
			return DrawerRef{}, err
		}
		view, err := trade.ReadRegister(tx.Q, register)
		if err != nil {
			return DrawerRef{}, err
		}
		if err := who.At(view.BranchID, view.Branch); err != nil {
			return DrawerRef{}, err
		}
		row := trade.Drawer{
			RegisterID:     register,
			OpenRegisterID: &register,
			OpenedBy:       who.ID,
			OpenedAt:       s.Now(),
			Float:          amount,
		}
		if err := trade.OpenDrawer(tx, &row); err != nil {
			return DrawerRef{}, err
		}
		return DrawerRef{row.ID}, nil
	})
}

// CashUp is how a drawer ended.
type CashUp struct {
	Drawer     uint64          `json:"drawer_id"`
	Number     string          `json:"number"`
	Counted    decimal.Decimal `json:"counted"`
	ShouldBe   decimal.Decimal `json:"should_be"`
	Difference decimal.Decimal `json:"difference"`
}

// CashUpDrawer closes the drawer of a register with what was counted in it. What
// is over or short is posted.
func CashUpDrawer(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register uint64,
	counted []sale.Denomination) (CashUp, error) {
	return deed.Once(ctx, s, who, staff.DeedDrawer, key, func(tx store.Tx) (CashUp, error) {
		set, err := tx.Terms()
		if err != nil {
			return CashUp{}, err
		}
		view, err := trade.ReadRegister(tx.Q, register)
		if err != nil {
			return CashUp{}, err
		}
		if err := who.At(view.BranchID, view.Branch); err != nil {
			return CashUp{}, err
		}
		if view.Drawer == 0 {
			return CashUp{}, fault.Clash("register", register, "a register whose drawer is open",
				"The drawer of %s is not open.", view.Name)
		}
		amount, err := sale.CountCash(counted, set.Currency)
		if err != nil {
			return CashUp{}, err
		}
		row, err := trade.ReadDrawer(tx, view.Drawer)
		if err != nil {
			return CashUp{}, err
		}
		if row.ClosedAt != nil {
			return CashUp{}, fault.Clash("register", register, "a register whose drawer is open",
				"The drawer of %s was cashed up meanwhile.", view.Name)
		}
		_, open, err := trade.Lines(tx.Q, register)
		if err != nil {
			return CashUp{}, err
		}
		if err := sale.CheckCashUp(view.Name, len(open.Lines)); err != nil {
			return CashUp{}, err
		}
		figures, err := trade.ReadDrawerFigures(tx.Q, row.ID)
		if err != nil {
			return CashUp{}, err
		}
		drawer := figures.Core()
		shouldBe, difference := drawer.ShouldBe(), drawer.Difference(amount)
		name, err := deed.NextNumber(tx, "CU")
		if err != nil {
			return CashUp{}, err
		}
		now := stock.NotBefore(s.Now(), row.OpenedAt)
		draft := stock.NewDraft(
			stock.Holding{},
			stock.Document{
				Kind:       stock.CashUp,
				Number:     name,
				Branch:     view.BranchID,
				By:         who.ID,
				HappenedAt: now,
				RecordedAt: now,
			},
		)
		sale.CashUp(draft, difference)
		posted, err := deed.Post(tx, stock.Holding{}, draft)
		if err != nil {
			return CashUp{}, err
		}
		row.ClosedAt, row.ClosedBy, row.ShouldBe, row.Counted, row.DocumentID = &now, &who.ID, &shouldBe, &amount, &posted.Document
		return CashUp{row.ID, name, amount, shouldBe, difference}, trade.CashUpDrawer(tx, row)
	})
}
