package catalog_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// TestTwoPeopleChangeAPack: the second, who did not see what the first saved, is told.
func TestTwoPeopleChangeAPack(t *testing.T) {
	ctx := context.Background()
	s := testkit.New(t)
	v := s.Simple(t, "Wax", "counted", "4.00")
	product := s.Sellables(t, v)[v].ProductID
	made, err := catalog.SavePack(deed.By(ctx, s.Shop, s.Maren, ""), product, 0,
		catalog.PackInput{Name: "Schachtel ß", Factor: "12"})
	require.NoError(t, err)
	read := func() goods.Pack { return s.View(t, product).Packs[0] }
	shown := read().Revision
	assert.Equal(t, made.Revision, shown, "as it was answered")
	save := func(factor, shown string) error {
		_, err := catalog.SavePack(deed.By(ctx, s.Shop, s.Maren, ""), product, made.ID,
			catalog.PackInput{Name: made.Name, Factor: factor, Revision: shown})
		return err
	}
	require.NoError(t, save("10", shown))
	err = save("6", shown)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "10", read().Factor.String())
	require.NoError(t, save("6", read().Revision))
	require.NoError(t, save("4", ""), "a program that says none")
}
