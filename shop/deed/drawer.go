package deed

import (
	"github.com/shopspring/decimal"

	"itemrack/core/sale"
	"itemrack/store"
	"itemrack/store/till"
)

// CashOut holds that no more cash leaves a drawer than should be in it. The drawer is locked until the transaction
// ends.
func CashOut(tx store.Tx, drawer uint64, field string, out decimal.Decimal) error {
	if !out.IsPositive() {
		return nil
	}
	if _, err := till.ReadDrawer(tx, drawer); err != nil {
		return err
	}
	figures, err := till.ReadDrawerFigures(tx.Q, drawer)
	if err != nil {
		return err
	}
	set, err := tx.Terms()
	if err != nil {
		return err
	}
	return sale.CheckDrawer(field, out, figures.Core().ShouldBe(), set.Minor())
}
