package register

import (
	"context"

	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store/devices"
)

// Loose lists the cards that were charged, or are to be given money back, while the answer
// was lost.
func Loose(ctx context.Context, s *deed.Shop, who staff.Actor) ([]sale.Loose, error) {
	if err := who.May(staff.DeedLook); err != nil {
		return nil, err
	}
	return devices.Loose(s.Store.Read(ctx), s.Now())
}

// GiveBack settles a card: the terminal gives the amount back, once however often it is
// asked.
func GiveBack(ctx context.Context, s *deed.Shop, who staff.Actor, reference string) (sale.Loose, error) {
	if err := who.May(staff.DeedReturn); err != nil {
		return sale.Loose{}, err
	}
	list, err := devices.Loose(s.Store.Read(ctx), s.Now())
	if err != nil {
		return sale.Loose{}, err
	}
	l, err := sale.Find(list, reference)
	if err != nil {
		return l, err
	}
	if l.What == sale.BackNotPaid {
		return l, device.Refund(ctx, devices.Of(s.Store), reference, l.Amount, s.Now())
	}
	return l, device.Return(ctx, devices.Of(s.Store), reference)
}
