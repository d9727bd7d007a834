package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/device"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

// focused is what the focused element is called.
func (p *person) focused() string {
	p.t.Helper()
	return p.MustEval("() => document.activeElement.getAttribute('aria-label') || document.activeElement.id || " +
		"document.activeElement.innerText").
		Str()
}

// TestTheKeysOfTheRack moves, types, selects and fills with the keyboard.
func TestTheKeysOfTheRack(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("callum")
	p.open("/catalog/1")
	assert.Contains(t, p.focused(), "Coral · S")
	p.keys(input.ArrowRight, input.ArrowDown)
	assert.Contains(t, p.focused(), "Slate · M")
	p.sees("#tag-body", "TWV-SLA-M")
	p.keys(input.ArrowDown, input.ArrowRight, input.ArrowRight)
	assert.Contains(t, p.focused(), "Slate · L", "the edge holds")
	p.leave(func() { p.keys(input.Enter) })
	p.sees("h1", "Tidewater rash vest Slate · L")

	p.open("/catalog/1/labels")
	total := func() string { return p.text("[data-total]") }
	p.types("3")
	p.keys(input.Enter) // goes on to the next
	assert.Contains(t, p.focused(), "Coral · M")
	p.types("2")
	p.keys(input.ArrowDown) // leaving a cell keeps it
	p.sees("#preview", "5 labels")
	assert.Equal(t, "5", total())
	p.types("9")
	p.keys(input.Escape) // takes back what was typed
	assert.Equal(t, "", p.MustElement(cell("Slate · M")).MustProperty("value").Str())
	p.KeyActions().Press(input.ShiftLeft).Type(input.ArrowRight).MustDo()
	p.types("4")
	p.keys(input.Enter) // the selected cells get it
	p.sees("#preview", "13 labels")
	assert.Equal(t, "4", p.MustElement(cell("Slate · L")).MustProperty("value").Str())
	p.MustElement(`.rack-head[data-column="0"]`).MustClick()
	p.types("1")
	p.keys(input.Enter)
	p.sees("#preview", "12 labels")
	p.types("x")
	p.keys(input.Enter)
	p.sees("#form-error", "a whole number")
	p.MustElement("#print").MustClick()
	p.sees("#form-error", "x labels can't be printed")
	for _, v := range made.Variants {
		p.fill(cell(v.Label), "1")
	}
	p.MustElement("#print").MustClick()
	p.sees("#said", "6 labels printed on 1 page")
}

// TestTheScanLine finds, offers, opens and says what is not there.
func TestTheScanLine(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Simple(t, "Tidewater towel", "counted", "9.00")
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.keys('/')
	p.types("tidewater")
	p.keys(input.Enter)
	p.sees("#scan-found", "Tidewater towel")
	p.keys(input.ArrowDown, input.ArrowUp, input.ArrowDown)
	p.leave(func() { p.keys(input.Enter) })
	p.sees("h1", "Tidewater towel")
	p.leave(func() { p.scan(made.Variants[4].Barcode) })
	p.sees("#tag-body", "TWV-SLA-M")
	p.keys('/')
	p.types("no such thing")
	p.keys(input.Enter)
	p.sees("#said", "Nothing here is called no such thing.")
	p.keys(input.Escape)
	p.keys('?')
	p.sees("#keys", "scan line")
	p.keys(input.Escape)
	p.MustElement(".who summary").MustClick()
	p.MustElement("#theme").MustClick()
	assert.Equal(t, "dark", p.MustEval("() => document.documentElement.dataset.theme").Str())
	p.open("/catalog")
	assert.Equal(t, "dark", p.MustEval("() => document.documentElement.dataset.theme").Str(), "it is remembered")
	p.keys('j', 'j')
	assert.Equal(t, "Tidewater towel", p.focused())
	p.keys('k')
	p.leave(func() { p.keys(input.Enter) })
	p.sees("h1", "Tidewater rash vest")
}

// TestUndoAtTheRegister takes a scan back, and keeps the basket over a reload.
func TestUndoAtTheRegister(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	m := made.Variants[1]
	s.Stock(t, m.ID, "9", "10")
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/register/1")
	p.scan(m.Barcode)
	p.sees("#total", "£34.95")
	p.scan(m.Barcode)
	p.sees("#total", "£69.90")
	p.MustElement("#said .link").MustClick()
	p.sees("#total", "£34.95")
	p.open("/register/1")
	p.sees("#total", "£34.95")
	p.MustElementR(".tile", "Rash vests").MustClick()
	p.sees("#picked", "Tidewater rash vest")
	p.keys(input.Escape)
	p.sees("#tiles", "Rash vests")
	p.keys(input.F8)
	p.sees("#notes", "£40.00")
	p.MustElementR("#notes button", "40.00").MustClick()
	p.sees("#change", "change £5.05")
	p.keys(input.Escape)
	p.leave(func() { p.keys(input.F9) })
	p.sees("h1", "Sale Q1-00001")
	p.scan(m.Barcode) // a scan on the finished sale begins the next basket
	p.sees("h1", "Register 1")
	p.sees("#total", "£34.95")
	p.press("[data-show=basket]", "More")
	p.MustElement("#clear").MustClick()
	p.sees("#total", "£0.00")
	p.sees("#said", "nothing was posted")
	s.InStep(t)
}

// TestLotsAndNumbersInADelivery types lots, expiry and serial numbers on the
// page, with the mistakes that people make.
func TestLotsAndNumbersInADelivery(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Simple(t, "Board", "serial", "549.00")
	s.Simple(t, "Sun cream", "lot", "14.50")
	p := sit(t, serve(t, s), 1280, 800).as("callum")
	p.open("/buying/new")
	p.MustElement("#post").MustClick()
	p.sees("#form-error", "Nothing is in it yet")
	p.focus("#scan")
	p.types("board")
	p.keys(input.Enter)
	p.sees("#deliver-rack h2", "Board")
	p.fill("#rack-cost", "310")
	p.focus("#deliver-rack .rack-cell")
	p.types("2")
	p.keys(input.Enter)
	p.sees("#sums", "2 units")
	p.sees("#saved", "draft, kept")
	p.MustElement("#post").MustClick()
	p.sees("#form-error", "Choose the supplier") // what was typed before is kept
	p.choose("#supplier_id", "Oar & Thole")
	p.sees("#saved", "draft, kept")
	p.fill("#lines textarea", "A1, a 1")
	p.sees("#form-error", "stands there twice")
	p.sees("#saved", "not kept")
	assert.Equal(t, "A1, a 1", p.MustElement("#lines textarea").MustProperty("value").Str(), "nothing typed is lost")
	p.fill("#lines textarea", "A1")
	p.sees("#saved", "draft, kept")
	p.MustElement("#post").MustClick()
	p.sees("#form-error", "2 units, and 1 serial number")
	p.fill("#lines textarea", "A1, A2")
	p.sees("#saved", "draft, kept")
	p.focus("#scan")
	p.types("sun cream")
	p.keys(input.Enter)
	p.sees("#deliver-rack h2", "Sun cream")
	p.focus("#deliver-rack .rack-cell")
	p.types("12")
	p.keys(input.Enter)
	p.sees("#sums", "14 units")
	p.sees("#saved", "draft, kept")
	p.fill(`#lines [data-f="lot"]`, "K614")
	p.sees("#saved", "draft, kept")
	p.fill(`#lines [data-variant="2"] [data-f="cost"]`, "6")
	p.sees("#sums", "£692.00")
	p.sees("#saved", "draft, kept")
	p.leave(func() { p.MustElement("#post").MustClick() })
	p.sees("h1", "Delivery D-0001")
	p.sees("table", "Board No. A1")
	p.sees("table", "Lot K614")
	s.InStep(t)
}

// TestMistakesAreMended reverses a delivery from its page, and says why it may not.
func TestMistakesAreMended(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	s.Open(t, 1)
	s.Sold(t, v, "4")
	s.Stock(t, v, "3", "1")
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/documents/D-0001")
	p.MustElement("#reverse").MustClick()
	p.sees("#reverse-panel", "−5 units, −£5.00")
	p.MustElement("#why").MustInput("entered twice")
	p.MustElement("#reverse-panel button").MustClick()
	p.sees("#reverse-panel", "4 gone out since")
	p.open("/documents/D-0002")
	p.MustElement("#reverse").MustClick()
	p.MustElement("#why").MustInput("entered twice")
	p.leave(func() { p.MustElement("#reverse-panel button").MustClick() })
	p.sees("h1", "Reversal RV-0001")
	p.sees("main", "entered twice")
	p.open("/documents/D-0002")
	p.sees(".remark", "It was reversed by RV-0001")
	assert.Empty(t, p.MustElements("#reverse"))
	s.InStep(t)
}

// TestADayAtTheDrawer opens and closes a drawer on the pages, runs out of paper
// in between, and reads the closing slip.
func TestADayAtTheDrawer(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/register/1")
	p.MustElement("#float").MustInput("12,x")
	p.keys(input.Enter)
	p.sees("[data-error]", "not an amount")
	p.fill("#float", "100")
	p.leave(func() { p.keys(input.Enter) })
	p.open("/devices")
	p.leave(func() { p.MustElementR("button", "out of paper").MustClick() })
	_, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: v})
	require.NoError(t, err)
	p.open("/register/1")
	p.keys(input.F9)
	p.sees(".remark", "out of paper")
	p.sees("h1", "Sale Q1-00001")
	p.MustElement("#reprint").MustClick()
	p.sees("#form-error", "out of paper")
	_, err = office.SetDevice(s.By(s.Tobi), device.ReceiptPrinter, device.Ready)
	require.NoError(t, err)
	p.MustElement("#reprint").MustClick()
	p.sees("#done", "Printed again")
	p.open("/devices")
	p.sees("figcaption", "Sale Q1-00001, again")
	p.open("/register/1/cash-up")
	p.MustElement("#d0").MustInput("1.5")
	p.keys(input.Enter)
	p.sees("[data-error]", "not a whole number")
	p.fill("#d0", "1")
	p.fill("#d1", "2")
	p.leave(func() { p.ctrlEnter() })
	p.sees("h1", "Cash-up slip CU-0001")
	p.sees(".slip", "−£10.00 short")
	p.sees(".slip", "By card £4.00")
	p.open("/drawers")
	p.sees("table", "10.00 short")
	s.InStep(t)
}

// TestACardThatIsDeclined keeps the basket and can be paid otherwise.
func TestACardThatIsDeclined(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	s.Open(t, 1)
	_, err := office.SetDevice(s.By(s.Tobi), device.CardTerminal, device.Declines)
	require.NoError(t, err)
	_, err = register.AddToBasket(s.By(s.Tobi), 1,
		register.BasketAdd{Variant: v, Quantity: "2"})
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/register/1")
	p.keys(input.F9)
	p.sees("#form-error", "card was declined")
	p.sees("#total", "£8.00")
	p.keys(input.F8)
	p.types("8")
	p.leave(func() { p.keys(input.Enter) })
	p.sees("h1", "Sale Q1-00001")
	s.InStep(t)
}

// TestPricesLater changes prices on the rack of a product that is there.
func TestPricesLater(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/catalog/1/rack?set=price")
	p.fill("#price", "1.2.3")
	p.MustElement("#prices button.first").MustClick()
	p.sees("#prices [data-error]", "not an amount")
	p.fill("#price", "35.95")
	p.focus(cell("Coral · M"))
	p.MustElement(cell("Coral · M")).MustSelectAllText()
	p.types("39.95")
	p.keys(input.Enter)
	p.MustElement("#prices button.first").MustClick()
	p.sees("[data-done]", "3 follow the product's price")
	p.sees("[data-done]", "Coral · M 39.95")
	p.open("/catalog/1?hang=price")
	p.sees(".rack", "39.95 own")
	p.open("/catalog/1/rack")
	p.fill("#value", "coral")
	p.MustElement("#values button").MustClick()
	p.sees("#values [data-error]", "stands there twice")
}
