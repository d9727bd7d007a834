package register

import (
	"context"
	"time"

	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/till"
)

// VoucherLife is a voucher or store credit with what happened to it.
type VoucherLife struct {
	sale.Credit
	State sale.CreditState   `json:"state"`
	Moves []till.VoucherMove `json:"moves"`
}

// Voucher reads a voucher or store credit by its code, as it was scanned or typed.
func Voucher(ctx context.Context, s *deed.Shop, who staff.Actor, typed string) (VoucherLife, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return VoucherLife{}, err
	}
	_, code, err := sale.ReadCredit(typed)
	if err != nil {
		return VoucherLife{}, err
	}
	q := s.Store.Read(ctx)
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
func BlockVoucher(ctx context.Context, s *deed.Shop, who staff.Actor, key, typed string,
	in BlockInput) (VoucherLife, error) {
	return deed.Once(ctx, s, who, staff.DeedVoid, key, func(tx store.Tx) (VoucherLife, error) {
		_, code, err := sale.ReadCredit(typed)
		if err != nil {
			return VoucherLife{}, err
		}
		c, err := till.LockVoucher(tx, code)
		if err != nil {
			return VoucherLife{}, err
		}
		var at *time.Time
		if in.Blocked {
			now := s.Now()
			at = &now
		}
		c.BlockedAt = at
		if err := till.BlockVoucher(tx, c.ID, at); err != nil {
			return VoucherLife{}, err
		}
		moves, err := till.VoucherMoves(tx.Q, c.ID)
		return VoucherLife{c, c.State(), moves}, err
	})
}
