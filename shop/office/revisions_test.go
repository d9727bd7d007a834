package office_test

import (
	"context"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/testkit"
)

// TestTwoWindowsLoseNothing: what was changed in one window is not undone by a save in another that
// shows it as it was before; a save that builds on what is kept goes through.
func TestTwoWindowsLoseNothing(t *testing.T) {
	ctx := context.Background()
	s := testkit.New(t)
	s.Vest(t)
	refused := func(what string, err error) {
		t.Helper()
		require.NotNil(t, fault.Of(err), what)
		assert.True(t, fault.Is(err, fault.Conflict), what)
		assert.Equal(t, "revision", fault.Of(err).Field, what)
	}

	before, err := office.ReadSettings(deed.By(ctx, s.Shop, s.Maren, ""))
	require.NoError(t, err)
	saved, err := office.SaveSettings(deed.By(ctx, s.Shop, s.Maren, ""), office.SettingsInput{Name: "Saltmarsh",
		Revision: before.Revision})
	require.NoError(t, err)
	_, err = office.SaveSettings(deed.By(ctx, s.Shop, s.Maren, ""), office.SettingsInput{Name: "Other", ScalePrefix: "28",
		Revision: before.Revision})
	refused("settings", err)
	_, err = office.SaveSettings(deed.By(ctx, s.Shop, s.Maren, ""), office.SettingsInput{Name: "Saltmarsh & Co",
		Revision: saved.Revision})
	require.NoError(t, err)

	people, err := office.People(deed.By(ctx, s.Shop, s.Maren, ""))
	require.NoError(t, err)
	tobi := people[slices.IndexFunc(people, func(p office.PersonView) bool { return p.Login == "tobi" })]
	change := office.PersonChange{NewPerson: office.NewPerson{Login: tobi.Login, Name: tobi.Name, Role: tobi.Role,
		Branch: tobi.Branch, Branches: tobi.Branches}, Revision: tobi.Revision}
	change.Role = staff.Stock
	now, err := office.ChangePerson(deed.By(ctx, s.Shop, s.Maren, ""), tobi.ID, change)
	require.NoError(t, err)
	change.Role, change.Name = tobi.Role, "Tobi A."
	_, err = office.ChangePerson(deed.By(ctx, s.Shop, s.Maren, ""), tobi.ID, change)
	refused("person", err)
	change.Revision = now.Revision
	_, err = office.ChangePerson(deed.By(ctx, s.Shop, s.Maren, ""), tobi.ID, change)
	require.NoError(t, err)

	lists, err := prices.Lists(s.Store.Read(ctx))
	require.NoError(t, err)
	_, err = prices.SavePriceList(deed.By(ctx, s.Shop, s.Maren, ""), 1,
		prices.ListInput{Name: "Regular", Kind: "markup", Percent: "100", Revision: lists[0].Revision})
	require.NoError(t, err)
	_, err = prices.SavePriceList(deed.By(ctx, s.Shop, s.Maren, ""), 1,
		prices.ListInput{Name: "Everyday", Revision: lists[0].Revision})
	refused("price list", err)
	_, err = prices.SavePriceList(deed.By(ctx, s.Shop, s.Maren, ""), 1, prices.ListInput{Name: "Everyday"})
	require.NoError(t, err, "a program that says none")

	tree, err := catalog.Categories(deed.By(ctx, s.Shop, s.Maren, ""))
	require.NoError(t, err)
	at := tree[0]
	_, err = catalog.SaveCategory(deed.By(ctx, s.Shop, s.Maren, ""), at.ID,
		catalog.CategoryInput{Name: at.Name, Markup: "90", Revision: at.Revision})
	require.NoError(t, err)
	_, err = catalog.SaveCategory(deed.By(ctx, s.Shop, s.Maren, ""), at.ID,
		catalog.CategoryInput{Name: at.Name, Colour: "#112233", Revision: at.Revision})
	refused("category", err)
}

// TestTwoPeopleSayHowFarItIs between the same branches: the second sees what the first saved, and nobody says any
// more where the field was emptied.
func TestTwoPeopleSayHowFarItIs(t *testing.T) {
	s := testkit.New(t)
	var none *int
	shown := revision.Of(none)
	save := func(minutes *int, shown string) (office.Way, error) {
		return office.SaveWay(s.By(s.Maren), office.WayInput{From: 1, To: 2, Minutes: minutes, Revision: shown})
	}
	first, err := save(new(12), shown)
	require.NoError(t, err)
	_, err = save(new(25), shown)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "revision", fault.Of(err).Field)
	_, err = save(new(10_001), first.Revision)
	assert.Equal(t, "minutes", fault.Of(err).Field)
	second, err := save(new(25), first.Revision)
	require.NoError(t, err)
	back, err := office.SaveWay(s.By(s.Maren), office.WayInput{From: 2, To: 1, Revision: second.Revision})
	require.NoError(t, err, "the way back is the same way")
	assert.Nil(t, back.Minutes)
	_, err = save(new(7), shown)
	assert.NoError(t, err, "nobody said, as it was shown")
	listed, err := office.Ways(s.Store.Read(ctx))
	require.NoError(t, err)
	require.Len(t, listed, 2)
	for _, w := range listed {
		require.NotNil(t, w.Minutes)
		assert.Equal(t, 7, *w.Minutes)
	}
	_, err = save(new(8), listed[1].Revision)
	assert.NoError(t, err, "as it was listed")
	_, err = save(new(9), listed[1].Revision)
	assert.True(t, fault.Is(err, fault.Conflict), "listed before: %v", err)
}
