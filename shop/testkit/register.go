package testkit

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	shopregister "itemrack/shop/register"
	"itemrack/store/office"
)

// Yes is somebody's yes on the spot.
func Yes(who staff.Actor) *deed.Approval { return &deed.Approval{Person: who.ID, PIN: PIN} }

// Why is the number of a reason of a kind by its name.
func (s *Shop) Why(t testing.TB, kind reason.Kind, name string) uint64 {
	t.Helper()
	list, err := office.Reasons(s.Store.Read(context.Background()))
	require.NoError(t, err)
	for _, r := range list {
		if r.Kind == kind && r.Name == name {
			return r.ID
		}
	}
	t.Fatalf("there is no reason %s: %s", kind, name)
	return 0
}

// Basket puts one of each variant on the basket of a register.
func (s *Shop) Basket(t testing.TB, register uint64, variants ...uint64) shopregister.BasketView {
	t.Helper()
	var view shopregister.BasketView
	for _, v := range variants {
		var err error
		view, err = shopregister.AddToBasket(s.By(s.Tobi), register,
			shopregister.BasketAdd{Variant: v})
		require.NoError(t, err)
	}
	return view
}

// Pay pays the basket of a register; without a way to pay, all of it in cash.
func (s *Shop) Pay(t testing.TB, register uint64, key string,
	ways ...shopregister.TenderInput) (shopregister.SaleResult, error) {
	t.Helper()
	view, err := shopregister.Basket(s.By(s.Tobi), register)
	require.NoError(t, err)
	in := shopregister.SaleInput{Register: register, Basket: view.ID, Total: view.Due.String(), Tenders: ways}
	if len(ways) == 0 && view.Due.IsPositive() {
		in.Tenders = []shopregister.TenderInput{{Kind: sale.Cash, Amount: view.DueCash.String()}}
	}
	return shopregister.Sell(s.By(s.Tobi, key), in)
}
