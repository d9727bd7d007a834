package register

import (
	"time"

	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/store/till"
)

// VoucherLife is a voucher or store credit with what happened to it.
type VoucherLife struct {
	sale.Credit
	State sale.CreditState   `json:"state"`
	Moves []till.VoucherMove `json:"moves"`
}

// Voucher reads a voucher or store credit by its code, as it was scanned or typed.
func Voucher(do deed.Deed, typed string) (VoucherLife, error) {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return VoucherLife{}, err
	}
	_, code, err := sale.ReadCredit(typed)
	if err != nil {
		return VoucherLife{}, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	c, err := till.ReadVoucher(q, code)
	if err != nil {
		return VoucherLife{}, err
	}
	moves, err := till.VoucherMoves(q, c.ID)
	return VoucherLife{c, c.State(), moves}, err
}

// BlockInput says whether a voucher is blocked.
type BlockInput struct {
	Blocked bool `json:"blocked"`
}

// BlockVoucher blocks a voucher or store credit, such as a stolen one, or lets it be used again.
func BlockVoucher(do deed.Deed, typed string, in BlockInput) (VoucherLife, error) {
	return deed.Once(do, staff.DeedVoid, func(do deed.Deed) (VoucherLife, error) {
		_, code, err := sale.ReadCredit(typed)
		if err != nil {
			return VoucherLife{}, err
		}
		c, err := till.LockVoucher(do.Tx, code)
		if err != nil {
			return VoucherLife{}, err
		}
		var at *time.Time
		if in.Blocked {
			now := do.Shop.Now()
			at = &now
		}
		c.BlockedAt = at
		if err := till.BlockVoucher(do.Tx, c.ID, at); err != nil {
			return VoucherLife{}, err
		}
		moves, err := till.VoucherMoves(do.Tx.Q, c.ID)
		return VoucherLife{c, c.State(), moves}, err
	})
}
