package register_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
)

// TestANumberOnALineIsOneThatIsThere: what the book does not have, what was sold and what lies elsewhere is refused as
// it is typed, and not only when it is paid.
func TestANumberOnALineIsOneThatIsThere(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Board", "serial", "549.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310",
		Serials: "A1,A2"}}})
	s.Open(t, 1)
	line := s.Basket(t, 1, board).Line
	change := func(number string) error {
		_, err := register.ChangeBasketLine(s.By(s.Tobi), 1, line, register.BasketChange{Serial: &number})
		return err
	}
	err := change("Z9")
	require.Error(t, err)
	assert.Equal(t, "serial", fault.Of(err).Field)
	require.NoError(t, change("a 1"), "however it is written")
	_, err = s.Pay(t, 1, "k1")
	require.NoError(t, err)
	line = s.Basket(t, 1, board).Line
	assert.ErrorContains(t, change("A1"), "sold")
	require.NoError(t, change("A2"))
}

// TestWhatIsOnABasketIsNotDropped: its line would vanish from under the customer.
func TestWhatIsOnABasketIsNotDropped(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Lesson", "not stocked", "40.00")
	s.Open(t, 1)
	s.Basket(t, 1, v)
	product := s.Sellables(t, v)[v].ProductID
	_, err := catalog.DropProduct(s.By(s.Maren), product)
	assert.True(t, fault.Is(err, fault.Refused), "%v", err)
	_, err = register.DropBasket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	_, err = catalog.DropProduct(s.By(s.Maren), product)
	require.NoError(t, err)
}
