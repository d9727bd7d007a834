package e2e

import (
	"context"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// TestWhatIsThereComesWithTheProduct makes a product with stock of each cell, one cell of which
// has another quantity and is worth something else, and adds a size with stock later.
func TestWhatIsThereComesWithTheProduct(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/new")
	p.fill("#name", "Größe 漢 shorts")
	p.fill("#category", "Swim")
	p.fill("#price", "29.95")
	p.fill(`[data-values="1"]`, "S-L")
	p.MustElementR("summary", "On hand already").MustClick()
	p.fill("#each", "4")
	p.sees("#rack", "3 variants")
	p.ctrlEnter()
	p.sees("#form-error", "the cost of one is missing")
	p.fill("#cost", "11.20")
	p.press("[data-view]", "On hand")
	p.MustElement(`#rack input.rack-cell[placeholder="4"]`)
	p.focus("#rack " + cell("M"))
	p.types("7")
	p.keys(input.Enter)
	p.press("[data-view]", "Worth")
	p.MustElement(`#rack input.rack-cell:not([placeholder="4"])`)
	p.focus("#rack " + cell("M"))
	p.types("70")
	p.keys(input.Enter)
	p.accessible()
	p.leave(p.ctrlEnter)
	p.sees("h1", "Größe 漢 shorts")
	id, err := goods.ProductByName(s.Store.Read(context.Background()), "Größe 漢 shorts")
	require.NoError(t, err)
	of := func() (said []string) {
		for _, v := range s.View(t, id).Variants {
			said = append(said, v.Label+" "+v.OnHand.String()+" "+v.Value.StringFixed(2))
		}
		return said
	}
	assert.Equal(t, []string{"S 4 44.80", "M 7 70.00", "L 4 44.80"}, of())
	p.open("/catalog/" + itoa(id) + "/rack")
	p.fill("#value", "XL")
	p.fill("#values #each", "2")
	p.fill("#values #worth", "25")
	p.leave(func() { p.press("#values button", "Add") })
	assert.Equal(t, []string{"S 4 44.80", "M 7 70.00", "L 4 44.80", "XL 2 25.00"}, of())
	s.InStep(t)
}
