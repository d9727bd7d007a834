package e2e

import (
	"context"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/cost"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// TestAShopPractises opens a shop that practises first and values its stock first
// in, first out; types its opening stock, and clears it to begin for real.
func TestAShopPractises(t *testing.T) {
	t.Parallel()
	s, ctx := testkit.Bare(t), context.Background()
	p := sit(t, serve(t, s), 1280, 800)
	p.open("/")
	p.fill("#name", "Gull & Oar")
	p.fill("#branch", "Pier")
	p.fill("#manager", "Maren Holt")
	p.fill("#login", "maren")
	p.fill("#password", testkit.Password)
	p.choose("#costing", "first in, first out")
	p.MustElement("#practice").MustClick()
	p.MustElement("form .big-act").MustClick()
	p.sees("h1", "Today")
	p.sees(".practice", "nothing here counts yet")
	maren, err := office.PersonByLogin(ctx, s.Shop, "maren")
	require.NoError(t, err)
	s.Maren = maren
	vest := s.Vest(t)
	cream, watch := s.Simple(t, "Sun cream", "lot", "9.00"), s.Simple(t, "Paddle watch", "serial", "190.00")

	p.open("/stock/opening")
	p.sees("#lines", "Nothing typed yet")
	p.accessible()
	p.scan("3 x " + vest.Variants[0].Barcode)
	p.sees("#said", "3 on hand")
	p.sees("#lines", "cost of one is missing")
	p.fill(`[name="lines.0.cost"]`, "13.95")
	p.focus("#scan")
	p.sees(".sums", "£41.85")
	p.types("tidewater")
	p.keys(input.Enter)
	p.sees("#deliver-rack", "Tidewater rash vest")
	p.focus("#deliver-rack " + cell("Slate · M"))
	p.types("12")
	p.keys(input.Enter)
	p.sees("#lines", "Slate · M")
	p.fill("#rack-cost", "14")
	p.focus("#scan")
	p.sees(".sums", "£210.00") // 15 at 14.00: the rack's cost is of the whole product
	for _, name := range []string{"cream", "watch"} {
		p.focus("#scan")
		p.types(name)
		p.keys(input.Enter)
		p.sees("#deliver-rack", name)
		p.focus("#deliver-rack .rack-cell")
		p.types("2")
		p.keys(input.Enter)
	}
	p.sees("#lines", "Paddle watch")
	p.fill(`[name="lines.2.cost"]`, "3")
	p.fill(`[name="lines.3.cost"]`, "90")
	p.fill(`[name="lines.3.serials"]`, "N1, N2")
	p.focus("#scan")
	p.sees("#lines", "no lot is given")
	p.accessible()
	p.press("#post", "Take into stock")
	p.sees("#form-error", "no lot is given")
	assert.Equal(t, "lines.2.lot", p.MustEval("() => document.activeElement.name").Str(), "the field that is wrong")
	p.open("/stock/opening") // what is typed outlives the page
	p.sees(`[name="lines.3.serials"]`, "N1, N2")
	p.fill(`[name="lines.2.lot"]`, "K614")
	p.focus("#scan")
	p.misses("#lines", "to mend")
	p.pressed("#post", "Take into stock")
	p.sees("h1", "Opening stock OS-0001")
	held, err := book.Look(s.Store.Read(ctx), []uint64{vest.Variants[0].ID, vest.Variants[4].ID, cream, watch})
	require.NoError(t, err)
	assert.Equal(t, "3 12 2 2",
		held.Pools[vest.Variants[0].ID].Quantity.String()+" "+held.Pools[vest.Variants[4].ID].Quantity.String()+" "+
			held.Pools[cream].Quantity.String()+" "+held.Pools[watch].Quantity.String())
	p.open("/stock/opening")
	p.sees("#lines", "Nothing typed yet")
	s.InStep(t)

	p.open("/settings#practice")
	p.sees("main", "1 document")
	p.accessible()
	p.fill("#clear-name", "Gull")
	p.press("#clear button", "Clear and begin")
	p.sees("#form-error", "Gull & Oar")
	p.fill("#clear-name", "Gull & Oar")
	p.pressed("#clear button", "Clear and begin")
	p.sees("main", string(cost.FIFO))
	p.misses("body", "Practice")
	left, err := book.ReadPractised(s.Store.Read(ctx))
	require.NoError(t, err)
	assert.Zero(t, left)
	s.InStep(t)
}

// TestKitsOnTheSwingTag makes kits up and breaks them up where the bundle hangs.
func TestKitsOnTheSwingTag(t *testing.T) {
	t.Parallel()
	s, ctx := testkit.New(t), context.Background()
	goggles, caps := s.Simple(t, "Goggles", "counted", "12.00"), s.Simple(t, "Cap", "counted", "5.00")
	made, err := catalog.MakeProduct(deed.By(ctx, s.Shop, s.Maren, ""), catalog.NewProduct{
		Name:     "Swim set",
		Category: "Swim > Sets",
		TaxClass: 1,
		Price:    "19.00",
		Parts:    []catalog.PartInput{{Variant: goggles, Quantity: "1"}, {Variant: caps, Quantity: "2"}},
	},
	)
	require.NoError(t, err)
	s.Stock(t, goggles, "4", "6.00")
	s.Stock(t, caps, "8", "1.50")
	set := made.Variants[0].ID
	kits := func() string {
		held, err := book.Look(s.Store.Read(ctx), []uint64{set})
		require.NoError(t, err)
		return held.Pools[set].Quantity.String()
	}
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/" + itoa(made.ID))
	p.sees("#tag-body", "Cap")
	p.fill("#tag-body [name=quantity]", "9")
	p.press("#tag-body button", "Make up")
	p.sees("#tag-body [data-error]", "10 short")
	p.fill("#tag-body [name=quantity]", "3")
	p.press("#tag-body button", "Make up") // pressed twice
	p.sees("#said", "KM-0001")
	p.sees("#tag-body", "Made up")
	assert.Equal(t, "3", kits())
	p.accessible()
	p.press("#tag-body button", "Break up")
	p.sees("#said", "KB-0001")
	assert.Equal(t, "2", kits())
	p.open("/documents/KB-0001")
	p.sees("h1", "Kit broken up KB-0001")
	s.InStep(t)
}

// TestTypingGoesOnWhileALineIsKept: what is typed while the server works out the
// field before is not lost, and the caret stays.
func TestTypingGoesOnWhileALineIsKept(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Goggles", "counted", "12.00")
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Cost: "6"}}})
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("callum")
	p.open("/buying/" + itoa(draft.ID))
	p.sees("#lines", "Goggles")
	p.MustEval(`() => {
		const field = (name) => document.querySelector('#lines [data-f="' + name + '"]');
		field("quantity").value = "3 x 12 + 4";
		field("quantity").dispatchEvent(new Event("change", { bubbles: true }));
		field("cost").focus();
		setTimeout(() => { field("cost").value = "9.9"; }, 0); // typed, and not left yet
	}`)
	p.sees("#sums", "40 units")
	assert.Equal(t, "9.9 cost",
		p.MustEval(`() => document.activeElement.value + " " + document.activeElement.dataset.f`).Str())
	p.types("5")
	p.focus("#scan")
	p.sees("#sums", "net £398.00")
}
