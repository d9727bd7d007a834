package e2e

import (
	"context"
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/stock"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
)

// refuses saves one of the small forms of a page and sees why not, beside the form and in sight.
func (p *person) refuses(form, says string) {
	p.t.Helper()
	p.press(form+" button.act", "Save")
	p.sees("#form-error", says)
	assert.True(p.t, p.MustEval(`(form) => {
		const box = document.getElementById("form-error").getBoundingClientRect();
		const at = document.querySelector(form).getBoundingClientRect();
		return box.top >= 0 && box.bottom <= innerHeight && at.top - box.bottom < 40 && at.top >= box.bottom - 1;
	}`, form).Bool(), "%s stands beside its form", says)
}

// saves saves one of the small forms of a page, twice in one go.
func (p *person) saves(form string) {
	p.t.Helper()
	p.pressed(form+" button.act", "Save")
}

// TestOddNamesAndNumbersOfPlaces types what nobody should into branches, shelves and conditions: nothing is cut,
// nothing becomes nought, and what was typed stays.
func TestOddNamesAndNumbersOfPlaces(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "4", "9.50")
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/settings/branches")
	last := `form[data-place="shelves/2"]`
	for typed, says := range map[string]string{"   ": "1 to 60 characters", " FLOOR ": "already",
		fmt.Sprintf("%061d", 7): "1 to 60 characters"} {
		p.fill(last+" [name=name]", typed)
		p.refuses(last, says)
		assert.Equal(t, typed, p.MustElement(last+" [name=name]").MustProperty("value").Str(), "what was typed stays whole")
	}
	p.fill(last+" [name=name]", "Wänd ß 漢 🛶\u200b")
	for typed, says := range map[string]string{"-3x": "“-3x” is not a whole number.", "1.5": "“1.5” is not",
		"-":           "“-” is not",
		"99999999999": "0 to 9,999", "-1": "0 to 9,999"} {
		p.fill(last+" [name=position]", typed)
		p.refuses(last, says)
		assert.Equal(t, typed, p.MustElement(last+" [name=position]").MustProperty("value").Str())
	}
	p.fill(last+" [name=position]", "7")
	p.saves(last)
	name, place := p.MustElement(last+" [name=name]"), p.MustElement(last+" [name=position]")
	assert.Equal(t, []string{"Wänd ß 漢 🛶", "7"}, []string{name.MustProperty("value").Str(),
		place.MustProperty("value").Str()},
		"without the sign that nobody sees")
	p.MustElement(`form[data-place="shelves/1"] [name=closed]`).MustClick()
	p.refuses(`form[data-place="shelves/1"]`, "default")

	p.open("/settings/conditions")
	p.accessible()
	seconds := `form[data-condition="2"]`
	for typed, says := range map[string]string{"120": "0 to 100 %", "-1": "0 to 100 %", "viel": "is not a number"} {
		p.fill(seconds+" [name=percent]", typed)
		p.refuses(seconds, says)
	}
	p.fill(seconds+" [name=percent]", "12,5")
	p.saves(seconds)
	assert.Equal(t, "12.5", p.MustElement(seconds+" [name=percent]").MustProperty("value").Str())
	p.fill(`form[data-condition="3"] [name=days]`, "soon")
	p.refuses(`form[data-condition="3"]`, "0 to 3,660 days")
}

// TestOddWaysOutOfNotForSale asks for more than there is, for no number, and twice; gives goods to nobody, and
// until a day that is over.
func TestOddWaysOutOfNotForSale(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	v := s.Simple(t, "Dry bag", "counted", "24.00")
	s.Stock(t, v, "6", "9.50")
	_, err := stockroom.ChangeCondition(deed.By(ctx, s.Shop, s.Maren, ""), stockroom.ChangeInput{Variant: v, Branch: 1,
		From: "For sale",
		To:   "To look over", Quantity: "4"})
	require.NoError(t, err)
	p := sit(t, serve(t, s), 390, 800).as("maren")
	p.open("/stock/not-for-sale")
	p.accessible()
	p.fits()
	next := func(many string) {
		p.fill("tr[data-off] [data-f=quantity]", many)
		p.press("tr[data-off] [data-next]", "Put for sale")
	}
	next("5")
	p.sees("#form-error", "1 short")
	next("abc")
	p.sees("#form-error", "is not a quantity")
	next("1.5")
	p.sees("#form-error", "whole numbers")
	assert.Equal(t, "2", s.Held(t, v).ForSale()[v].String(), "nothing was put for sale yet")
	p.fill("tr[data-off] [data-f=quantity]", "1")
	p.pressed("tr[data-off] [data-next]", "Put for sale")
	assert.Equal(t, "3", s.Held(t, v).ForSale()[v].String(), "pressed twice, put for sale once")

	p.MustElement("tr[data-off] [data-choose]").MustClick()
	p.choose("[data-other]", "Lent")
	p.press("#hold", "Give")
	p.sees("#form-error", "Say with whom it is")
	p.fill("[name=with_whom]", "Zoë 漢 & Söhne")
	p.MustEval(`() => { document.querySelector("[name=back_by]").value = "2020-02-29" }`)
	p.press("#hold", "Give")
	p.sees("#form-error", "29 February 2020 is over")
	day := s.Now().AddDate(0, 0, 20)
	p.MustEval(`(day) => { document.querySelector("[name=back_by]").value = day }`, day.Format("2006-01-02"))
	p.pressed("#hold", "Give")
	p.sees("tr[data-off]", "Zoë 漢 & Söhne, back by")
	assert.Equal(t, "3", s.Held(t, v).OnHand(v, 1, "Lent").String())
	p.pressed("tr[data-off] [data-next]", "Came back")
	assert.Equal(t, "6", s.Held(t, v).ForSale()[v].String())
	_, err = stockroom.ChangeCondition(deed.By(ctx, s.Shop, s.Maren, ""), stockroom.ChangeInput{Variant: v, Branch: 1,
		From: "For sale",
		To:   "Seconds", Quantity: "1"})
	require.NoError(t, err)
	p.open("/stock/not-for-sale")
	assert.Empty(t, p.MustElements("tr[data-off] [data-next]"),
		"Seconds are where they belong: no press makes them new by mistake")
	s.InStep(t)
}

// TestOddSendingsAndCounts begins a sending to where it comes from and for days that are none, packs more than
// there is; plans a count of nothing, and settles one that nobody finished, twice.
func TestOddSendingsAndCounts(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	vest := s.Vest(t)
	for _, variant := range vest.Variants {
		s.Stock(t, variant.ID, "6", "13.95")
	}
	m := vest.Variants[0]
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/stock/sendings")
	begin := func(says string) {
		p.press(".begin-sending button", "Begin a sending")
		p.sees(".begin-sending [role=alert]", says)
	}
	p.choose(".begin-sending [name=to_branch_id]", "Quay Shop")
	begin("from one branch to another")
	p.choose(".begin-sending [name=to_branch_id]", "Boathouse")
	for typed, says := range map[string]string{"gestern": "is not a date", "31.2.2027": "is not a date",
		"1.1.2020": "1 January 2020 is over"} {
		p.fill(".begin-sending [name=wanted_on]", typed)
		begin(says)
	}
	p.fill(".begin-sending [name=wanted_on]", s.Now().AddDate(0, 0, 9).Format("2.1.2006"))
	p.leave(func() { p.press(".begin-sending button", "Begin a sending") })
	p.MustElement(".head-change summary").MustClick()
	for typed, says := range map[string]string{"übermorgen": "is not a date", "1.1.2020": "1 January 2020 is over"} {
		p.fill("#head-change [name=wanted_on]", typed)
		p.press("#head-change button", "Save")
		p.sees("#form-error", says)
	}
	p.fill("#head-change [name=wanted_on]", "")
	p.fill("#head-change [name=note]", "für Samstag ß 漢 🛶")
	p.leave(func() { p.press("#head-change button", "Save") })
	p.sees(".with-tag", "für Samstag ß 漢 🛶")
	p.scan("12 x " + m.Barcode)
	p.sees("#said", "6 For sale at the sender's, 12 asked")
	p.scan("SH-0001")
	p.sees("#said", "is a shelf, not a product")
	p.MustElement("#scan").MustInput("漢字🛶").MustType(input.Enter)
	p.sees("#said", "漢字🛶")
	p.scan("2 x " + m.Barcode)
	p.sees("#said", "2 packed")
	for typed, says := range map[string]string{"99": "6 For sale at the sender's, 99 asked",
		"viele": "is not a quantity", "-1": "below zero"} {
		p.fill("#lines [data-put]", typed)
		p.sees("#form-error", says)
	}
	p.fill("#lines [data-put]", "3") // what was refused before keeps nothing from being sent
	p.until(`() => document.getElementById("form-error").hidden`)
	p.fill("#lines [data-put]", "2")
	p.until(`() => document.querySelector("#lines [data-put]").defaultValue === "2"`)
	p.pressed(".acts button", "Send it off")
	assert.Equal(t, "2", s.Held(t, m.ID).OnHand(m.ID, 2, stock.OnTheWay).String(), "pressed twice, sent once")

	p.open("/counts/new")
	p.press("#plan button", "Begin")
	p.sees("main", "Say what is counted")
	p.fill("#plan textarea", "VC-1 nonsense 漢")
	p.press("#plan button", "Begin")
	p.sees("main", "is called VC-1 nonsense 漢")
	p.fill("#plan textarea", m.SKU+"\n\n"+vest.Variants[1].SKU+"\n"+m.SKU)
	p.leave(func() { p.press("#plan button", "Begin") })
	p.scan("1.5 x " + m.Barcode)
	p.sees("#said", "whole numbers")
	p.scan("3 x " + m.Barcode)
	p.sees("#said", "3 counted")
	p.leave(func() { p.press("#settling", "Done counting") })
	p.press("form button.act.first", "Settle")
	p.sees("main", "Say what becomes of the rows that nobody counted")
	p.MustElementR("label", "leave them as they are").MustClick()
	p.leave(func() { p.press("form button.act.first", "Settle") })
	p.sees("main", "in the book")
	assert.Equal(t, "3", s.Held(t, m.ID).ForSale()[m.ID].String(), "4 were left, 3 are there")
	s.InStep(t)
}

// TestListsFitTheHand: at 390 px what a list is about is seen without scrolling sideways.
func TestListsFitTheHand(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	vest := s.Vest(t)
	m := vest.Variants[0]
	s.Stock(t, m.ID, "6", "13.95")
	_, err := stockroom.ChangeCondition(deed.By(ctx, s.Shop, s.Maren, ""), stockroom.ChangeInput{Variant: m.ID, Branch: 1,
		From: "For sale",
		To:   "To look over", Quantity: "1"})
	require.NoError(t, err)
	sending, err := stockroom.BeginSending(deed.By(ctx, s.Shop, s.Maren, ""), stockroom.SendingInput{From: 1, To: 2,
		Note: "for Saturday, 漢"})
	require.NoError(t, err)
	_, err = stockroom.PutInSending(deed.By(ctx, s.Shop, s.Maren, ""), sending.ID,
		stockroom.SendingPut{Variant: m.ID, Quantity: "2"})
	require.NoError(t, err)
	_, err = counts.PlanCount(deed.By(ctx, s.Shop, s.Maren, ""), counts.CountPlan{Branch: 1, Whole: true,
		Note: "before the sale"})
	require.NoError(t, err)
	p := sit(t, serve(t, s), 390, 800).as("maren")
	for _, path := range []string{"/stock", fmt.Sprint("/stock/", m.ID), "/stock/movements", "/stock/not-for-sale",
		"/stock/sendings",
		"/documents", "/counts"} {
		p.open(path)
		p.MustElement(".scroll table.list")
		p.fits()
		assert.True(t, p.MustEval(
			`() => [...document.querySelectorAll(".scroll")].every((s) => s.scrollWidth <= s.clientWidth + 1)`).Bool(),
			"%s scrolls sideways", path)
	}
}

// TestTheRegisterFitsTheHand opens each panel of the register at phone width, with a basket on hold and one at the
// register: nothing of it is cut, and nothing has to be pushed sideways.
func TestTheRegisterFitsTheHand(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "1949.99")
	s.Stock(t, v, "10", "4")
	s.Open(t, 1)
	for range 2 {
		_, err := register.AddToBasket(deed.By(ctx, s.Shop, s.Maren, ""), 1, register.BasketAdd{Variant: v, Quantity: "3"})
		require.NoError(t, err)
		_, err = register.Hold(deed.By(ctx, s.Shop, s.Maren, ""), 1, register.HoldInput{Name: "Ada Penrose, the blue one"})
		require.NoError(t, err)
	}
	_, err := register.AddToBasket(deed.By(ctx, s.Shop, s.Maren, ""), 1, register.BasketAdd{Variant: v, Quantity: "2"})
	require.NoError(t, err)
	p := sit(t, serve(t, s), 390, 800).as("maren")
	fits := func(what string) {
		p.fits()
		cut := p.MustEval(`() => [...document.querySelectorAll("main *")].filter((e) => e.offsetParent &&
			e.scrollWidth > e.clientWidth + 1 && /auto|scroll/.test(getComputedStyle(e).overflowX) && e.id !== "held").map((e) =>
			e.tagName + "#" + e.id + "." + e.className)`)
		assert.Empty(t, cut.Arr(), "%s is pushed sideways", what)
	}
	for _, panel := range []string{"", "customer", "basket", "hold", "make"} {
		p.open("/register/1?show=" + panel)
		fits("panel " + panel)
	}
	for _, button := range []string{"#cash", "#other", ".line .edit"} {
		p.open("/register/1")
		p.MustElement(button).MustClick()
		p.until(`() => !!document.querySelector(".panel:not([hidden])")`)
		fits(button)
	}
}

// TestOddWaysBetweenBranches types minutes that are none, saves in two windows, and takes back what was said.
func TestOddWaysBetweenBranches(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/settings")
	const form = `form[data-way="1/2"]`
	for typed, says := range map[string]string{"zwölf": "not a whole number", "1.5": "not a whole number",
		"-3": "can't be -3 minutes", "10001": "10,000"} {
		p.fill(form+" [name=minutes]", typed)
		p.press(form+" button", "Save")
		p.sees("#form-error", says)
	}
	p.fill(form+" [name=minutes]", "12")
	p.press(form+" button", "Save")
	p.sees("#said", "Saved")
	_, err := office.SaveWay(s.By(s.Maren), office.WayInput{From: 2, To: 1, Minutes: new(40)})
	require.NoError(t, err)
	p.fill(form+" [name=minutes]", "15")
	p.press(form+" button", "Save")
	p.sees("#form-error", "was changed meanwhile")
	p.open("/settings")
	assert.Equal(t, "40", p.MustElement(form+" [name=minutes]").MustProperty("value").Str())
	p.fill(form+" [name=minutes]", " ")
	p.press(form+" button", "Save")
	p.sees("#said", "Saved")
	p.open("/settings")
	assert.Empty(t, p.MustElement(form+" [name=minutes]").MustProperty("value").Str())
}
