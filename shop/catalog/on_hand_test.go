package catalog_test

import (
	"bytes"
	"image"
	"image/png"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/catalog"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
)

func TestStockComesWithWhatIsMade(t *testing.T) {
	s := testkit.New(t)
	vary := []catalog.AxisInput{{Name: "Size", Text: "S-L"}}
	made, err := catalog.MakeProduct(s.By(s.Maren, "k"), catalog.NewProduct{Name: "Vest", Category: "Swim",
		Tracking: "counted", Price: "34.95",
		Cost: "13.95", Axes: vary, OwnCosts: []catalog.CellText{{Choice: []string{"L"}, Text: "14.50"}},
		OnHand: catalog.OnHand{Each: "4", CameOn: "20/11/2026",
			Cells: []catalog.CellStock{{Choice: []string{"M"}, Quantity: "7", Worth: "22"},
				{Choice: []string{"S"}, Quantity: "0"}}}})
	require.NoError(t, err)
	require.NotEmpty(t, made.Document)
	doc, err := book.Document(s.Store.Read(ctx), made.Document)
	require.NoError(t, err)
	entries, err := book.EntryViews(s.Store.Read(ctx), doc.ID)
	require.NoError(t, err)
	require.Len(t, entries, 2, "one document, a line for each cell that has some")
	assert.Equal(t, []string{"7", "22", "4", "58"}, []string{entries[0].Quantity.String(), entries[0].Value.String(),
		entries[1].Quantity.String(),
		entries[1].Value.String()}, "what all of it is worth, and four at 14.50")
	assert.Equal(t, 20, entries[0].CameOn.Day())
	again, err := catalog.MakeProduct(s.By(s.Maren, "k"), catalog.NewProduct{Name: "Vest", Category: "Swim",
		Tracking: "counted", Price: "34.95",
		Cost: "13.95", Axes: vary, OwnCosts: []catalog.CellText{{Choice: []string{"L"}, Text: "14.50"}},
		OnHand: catalog.OnHand{Each: "4", CameOn: "20/11/2026",
			Cells: []catalog.CellStock{{Choice: []string{"M"}, Quantity: "7", Worth: "22"},
				{Choice: []string{"S"}, Quantity: "0"}}}})
	require.NoError(t, err)
	assert.Equal(t, made, again, "asked again it is not made twice")

	more, err := catalog.AddValues(s.By(s.Maren), made.ID,
		catalog.Extension{Axes: []catalog.AxisInput{{Name: "Size", Text: "XL"}}, Cost: "15",
			OnHand: catalog.OnHand{Each: "2"}})
	require.NoError(t, err)
	held := s.Held(t, more.Variants[0].ID)
	assert.Equal(t, "30", held.Pools[more.Variants[0].ID].Value.String())

	numbered, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Boat", Category: "Paddle",
		Tracking: "serial", Price: "900", Cost: "500",
		OnHand: catalog.OnHand{Cells: []catalog.CellStock{{Choice: []string{}, Serials: "b 1, B2"}}}})
	require.NoError(t, err)
	unit, err := goods.Find(s.Store.Read(ctx), "B1", 2)
	require.NoError(t, err)
	require.Len(t, unit, 1)
	assert.Equal(t, numbered.Variants[0].ID, unit[0].ID)
	_, err = catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Cream", Category: "Swim",
		Tracking: "lot", Price: "9", Cost: "5",
		OnHand: catalog.OnHand{Cells: []catalog.CellStock{{Choice: []string{}, Quantity: "6", Lot: "k 614",
			Expiry: "31/12/2027"}}}})
	require.NoError(t, err)
	s.InStep(t)
}

func TestStockThatCantBeIsRefusedWithTheProduct(t *testing.T) {
	s := testkit.New(t)
	product := func(tracking string, in catalog.OnHand) catalog.NewProduct {
		return catalog.NewProduct{Name: "Vest", Category: "Swim", Tracking: tracking, Price: "9", OnHand: in}
	}
	priced := product("counted", catalog.OnHand{Each: "4", Branch: 99})
	priced.Cost = "5"
	tomorrow := product("counted", catalog.OnHand{Each: "4", Worth: "9",
		CameOn: s.Now().Add(48 * time.Hour).Format(time.DateOnly)})
	for field, in := range map[string]catalog.NewProduct{"cost": product("counted", catalog.OnHand{Each: "4"}),
		"each":  product("counted", catalog.OnHand{Each: "1.5"}),
		"worth": product("counted", catalog.OnHand{Each: "4", Worth: "much"}), "lot": product("lot",
			catalog.OnHand{Each: "4", Worth: "9"}), "serials": product("serial", catalog.OnHand{Each: "4", Worth: "9"}),
		"quantity": product("not stocked", catalog.OnHand{Each: "4",
			Worth: "9"}), "came_on": tomorrow, "branch": priced} {
		_, err := catalog.MakeProduct(s.By(s.Maren), in)
		e := fault.Of(err)
		require.NotNil(t, e, "%s: %v", field, err)
		assert.Equal(t, field, e.Field, e.Detail)
	}
	in := product("counted", catalog.OnHand{Cells: []catalog.CellStock{{Choice: []string{"M"}, Quantity: "x"}}})
	in.Axes = []catalog.AxisInput{{Name: "Size", Text: "S-L"}}
	_, err := catalog.MakeProduct(s.By(s.Maren), in)
	assert.ErrorContains(t, err, "M: ", "it is said of which cell")
	id, err := goods.ProductByName(s.Store.Read(ctx), "Vest")
	require.NoError(t, err)
	assert.Zero(t, id, "nothing of it is made")
	s.InStep(t)
}

func TestAPictureIsKeptBeforeTheProduct(t *testing.T) {
	s := testkit.New(t)
	var drawn bytes.Buffer
	require.NoError(t, png.Encode(&drawn, image.NewGray(image.Rect(0, 0, 20, 20))))
	kept, err := catalog.KeepPicture(s.By(s.Maren), "vest.png", drawn.Bytes())
	require.NoError(t, err)
	in := catalog.NewProduct{Name: "Vest", Category: "Swim", Tracking: "counted", Price: "9",
		Pictures: []uint64{kept.ID}}
	made, err := catalog.MakeProduct(s.By(s.Maren), in)
	require.NoError(t, err)
	assert.Equal(t, kept.ID, *s.View(t, made.ID).PictureID)
	in.Name, in.Pictures = "Cap", []uint64{kept.ID + 5}
	_, err = catalog.MakeProduct(s.By(s.Maren), in)
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = catalog.KeepPicture(s.By(s.Tobi), "vest.png", drawn.Bytes())
	assert.True(t, fault.Is(err, fault.Forbidden))
	assert.True(t, s.Tobi.Role == staff.Clerk)
}
