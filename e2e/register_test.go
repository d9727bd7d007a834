package e2e

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/sale"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/till"
)

// alt presses a letter while Alt is held: a key of the page.
func (p *person) alt(letter rune) {
	p.t.Helper()
	p.KeyActions().Press(input.AltLeft).Type(input.Key(letter)).MustDo()
}

// writes types like a person, with time between the keys: not as fast as a scanner.
func (p *person) writes(text string) {
	p.t.Helper()
	for _, r := range text {
		p.keys(input.Key(r))
		time.Sleep(60 * time.Millisecond)
	}
}

// tabTo presses Tab until the caret is where it should be.
func (p *person) tabTo(selector string) {
	p.t.Helper()
	for range 90 {
		if p.MustEval("s => document.activeElement.matches(s)", selector).Bool() {
			return
		}
		p.keys(input.Tab)
	}
	p.t.Fatalf("no key leads to %s at %s", selector, p.MustInfo().URL)
}

// number is what stands behind a word in the heading of a page.
func (p *person) number(word string) string {
	p.t.Helper()
	p.sees("h1", word)
	var number string
	_, err := fmt.Sscanf(p.text("h1"), word+" %s", &number)
	require.NoError(p.t, err)
	return number
}

// TestABusyQuarterOfAnHour is one story at two registers, with keys alone: a basket on hold that is
// taken up at the other register, a discount that a manager says yes to, a declined card, an answer that
// is lost, a voucher, an exchange, a refund to card and cash, and a drawer that is short by 1.50.
func TestABusyQuarterOfAnHour(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	ctx := context.Background()
	made := s.Vest(t)
	vest, other := made.Variants[0], made.Variants[1]
	whistle := s.Simple(t, "Whistle", "counted", "4.00")
	for _, v := range []uint64{vest.ID, other.ID, whistle} {
		s.Stock(t, v, "20", "1.95")
	}
	terminal := func(state string) {
		_, err := office.SetDevice(deed.By(ctx, s.Shop, s.Maren, ""), device.CardTerminal, state)
		require.NoError(t, err)
	}
	s.Open(t, 2)
	base := serve(t, s)
	p := sit(t, base, 1280, 800).as("tobi")
	p.open("/register/1")
	p.types("100")
	p.leave(func() { p.keys(input.Enter) }) // the drawer is open

	// a basket is put by, and taken up at the other register
	p.scan("2 x " + vest.Barcode)
	p.sees("#total", "£69.90")
	p.alt('h')
	p.writes("Mr Ellis")
	p.keys(input.Enter)
	p.sees("#held", "Mr Ellis")
	p.sees("#total", "£0.00")
	q := sit(t, base, 1280, 800).as("maren")
	q.open("/register/2")
	q.tabTo(".held-slip")
	q.keys(input.Enter)
	q.sees("#total", "£69.90")
	q.keys(input.F8)
	q.types("100")
	q.sees("#change", "change £30.10")
	q.leave(func() { q.keys(input.Enter) })
	q.number("Sale")

	// a discount above what everybody may give
	p.scan(other.Barcode)
	p.sees("#total", "£34.95")
	p.alt('l')
	p.types("20 %")
	p.keys(input.Tab, input.ArrowDown, input.Enter)
	p.sees(".pin-dialog", "needs a yes")
	p.sees(".pin-dialog select", itoa(s.Maren.ID))
	p.accessible()
	p.types("0000")
	p.keys(input.Enter)
	p.sees(".pin-dialog", "4 tries left")
	p.types(testkit.PIN)
	p.keys(input.Enter)
	p.sees(".line .cut", "−6.99: 20 %, End of season")
	p.sees("#total", "£27.96")

	// the card is declined, then its answer is lost; the same press settles it
	terminal(device.Declines)
	p.keys(input.F9)
	p.sees("#form-error", "declined")
	terminal(device.AnswersLate)
	p.keys(input.F9)
	p.sees("#form-error", "did not answer in time")
	terminal(device.Ready)
	p.leave(func() { p.keys(input.F9) })
	first := p.number("Sale")
	rows, _, err := book.Documents(s.Store.Read(ctx), "Sale", 1)
	require.NoError(t, err)
	assert.Len(t, rows, 2, "posted once")

	// a voucher is sold, and pays for the next basket with the rest in cash
	p.leave(func() { p.keys(input.Enter) }) // the next basket
	p.alt('m')
	p.tabTo("[data-part=voucher] [name=amount]")
	p.types("25.00")
	p.keys(input.Enter)
	p.sees("#total", "£25.00")
	p.leave(func() { p.keys(input.F9) })
	p.number("Sale")
	code := p.text("main a.mono")
	p.leave(func() { p.keys('n') })
	p.scan(vest.Barcode)
	p.sees("#total", "£34.95")
	p.scan(code)
	p.sees("#left", "£9.95")
	p.sees("#ways", code)
	p.keys(input.Enter) // the rest in cash
	p.sees("#left", "nothing")
	p.leave(func() { p.keys(input.Enter) })
	second := p.number("Sale")
	p.sees("main", "voucher")

	// an exchange: the vest for another one and a whistle
	p.leave(func() { p.keys(input.Enter) })
	p.leave(func() { p.scan(first) })
	p.sees("h1", "Take back")
	p.types("1")
	p.tabTo("#exchange")
	p.leave(func() { p.keys(input.Enter) })
	p.sees("#total-name", "to give back")
	p.sees("#total", "£27.96")
	p.scan(vest.Barcode)
	p.sees("#total", "£6.99")
	p.sees("#total-name", "to pay")
	p.keys(input.F8)
	p.sees("#notes", "exactly £6.99")
	p.leave(func() { p.keys(input.Enter) })
	p.sees("main", "Came back on the same basket")
	p.sees("main", "exchange £27.96")

	// paid by card and cash, and given back to both
	p.leave(func() { p.keys('n') })
	p.scan("5 x " + "Whistle")
	if p.MustHas("#picked .tile, #scan-found button") { // words are offered first
		p.tabTo("#scan-found button, #picked .tile")
		p.keys(input.Enter)
	}
	p.sees(".line", "Whistle")
	p.tabTo(".line input")
	p.types("5")
	p.keys(input.Enter)
	p.sees("#total", "£20.00")
	p.keys(input.F7)
	p.sees("#left", "£20.00")
	p.types("12")
	p.tabTo("[data-way=card]")
	p.keys(input.Enter)
	p.sees("#left", "£8.00")
	p.keys(input.Enter)
	p.sees("#left", "nothing")
	p.leave(func() { p.keys(input.Enter) })
	third := p.number("Sale")
	p.leave(func() { p.keys('b') })
	p.sees("h1", "Take back")
	p.types("5")
	p.ctrlEnter()
	p.sees("[data-done]", "Give back £12.00 to the card and £8.00 in cash")
	assert.NotEmpty(t, second+third)

	// the drawer is short by 1.50
	figures, err := till.ReadDrawerFigures(s.Store.Read(ctx), 2)
	require.NoError(t, err)
	p.open("/register/1/cash-up")
	left := figures.Core().ShouldBe().Sub(testkit.D("1.50"))
	for i, value := range s.Terms(t).Currency.Pieces() {
		n := left.Div(value).Truncate(0)
		left = left.Sub(n.Mul(value))
		p.tabTo(fmt.Sprintf("#d%d", i))
		p.types(n.String())
	}
	p.leave(func() { p.ctrlEnter() })
	p.sees("main", "1.50 short")
	p.accessible()
	s.InStep(t)
}

// TestTheRegisterByThumb sells, holds and changes a line on a phone, with touches alone.
func TestTheRegisterByThumb(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "20", "1.95")
	s.Open(t, 1)
	p := sit(t, serve(t, s), 390, 844).as("tobi")
	p.open("/register/1")
	p.press("#tiles .tile", "Rash vests")
	p.press("#picked .tile", "Tidewater rash vest")
	p.MustElement(`#picked [data-variant="` + itoa(made.Variants[0].ID) + `"]`).MustClick()
	p.sees("#total", "£34.95")
	p.fits()
	p.MustElement(".line .edit").MustClick()
	p.fill(`[data-panel=line] [name=off]`, "10 %")
	p.choose(`[data-panel=line] [name=off_reason_id]`, "End of season")
	p.press("[data-panel=line] button", "Keep")
	p.sees("#total", "£31.45")
	p.fits()
	p.press("[data-show=customer]", "Customer")
	p.fill(`[data-panel=customer] [name=q]`, "Zoë 漢 🏄")
	p.sees(`[data-panel=customer] [name=name]`, "Zoë 漢 🏄")
	p.press("#make-customer", "Make the customer")
	p.sees("#clip", "Zoë 漢 🏄")
	p.press("[data-show=hold]", "Hold")
	p.press("[data-panel=hold] button", "Hold")
	p.sees("#total", "£0.00")
	p.press(".held-slip", "Zoë 漢 🏄")
	p.sees("#total", "£31.45")
	p.press("#cash", "Cash")
	p.fits()
	p.leave(func() { p.press("#notes button", "exactly") })
	p.sees("h1", "Sale Q1-00001")
	p.fits()
	sold, err := till.SaleByNumber(s.Store.Read(context.Background()), "Q1-00001")
	require.NoError(t, err)
	assert.Equal(t, "Zoë 漢 🏄 31.45", sold.Customer+" "+sold.Paid.Of(sale.Cash).StringFixed(2))
	s.InStep(t)
}

// TestARegisterWaitsForAPIN locks, goes on with another person's PIN, and keeps the basket.
func TestARegisterWaitsForAPIN(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "20", "1.95")
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/register/1")
	p.scan(made.Variants[0].Barcode)
	p.sees("#total", "£34.95")
	p.alt('m')
	p.leave(func() { p.press("#lock", "Lock") })
	p.sees("h1", "locked")
	p.accessible()
	p.open("/catalog") // nothing else is open either
	p.sees("h1", "locked")
	p.open("/register/1")
	p.sees("h1", "locked")
	p.press(".choice", "Maren Holt")
	p.fill("#pin", "9999")
	p.keys(input.Enter)
	p.sees("[data-error]", "not the PIN of Maren Holt")
	p.types(testkit.PIN)
	p.leave(func() { p.keys(input.Enter) })
	p.sees("#person", "Maren Holt")
	p.sees("#total", "£34.95")
	p.open("/settings/people") // a PIN is for the register alone
	p.sees("main", "here by PIN")
	p.open("/register/1")
	p.alt('u')
	p.sees(".pin-dialog", "Who is at the register?")
	p.choose(".pin-dialog select", "Tobi Ashdown")
	p.focus(".pin-dialog [name=pin]")
	began := time.Now()
	p.types(testkit.PIN)
	p.leave(func() { p.keys(input.Enter) })
	p.sees("#person", "Tobi Ashdown")
	assert.Less(t, time.Since(began), 3*time.Second)
	p.sees("#total", "£34.95")
}

// TestARegisterLocksItself after a time without a touch; the clock of the page runs fast here.
func TestARegisterLocksItself(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Open(t, 1)
	now, err := office.ReadSettings(s.By(s.Maren))
	require.NoError(t, err)
	in := office.TillSettingsInput{TillSettings: now.Till, Revision: now.TillIs}
	in.LockAfter = "3"
	_, err = office.SaveTill(s.By(s.Maren), in)
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.MustEvalOnNewDocument(`const real = setTimeout; window.setTimeout = (work, after, ...rest) => real(work, after >= 60000 ? after / 600 : after, ...rest);`)
	p.leave(func() { p.open("/register/1") })
	p.sees("h1", "locked")
	p.fill("#pin", testkit.PIN)
	p.leave(func() { p.keys(input.Enter) })
	p.sees("h1", "Register 1")
}

// TestStockIsPutRightWhereItIsSeen: on the stock card, by a clerk with a manager's yes, and on the swing tag.
func TestStockIsPutRightWhereItIsSeen(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	v := made.Variants[0].ID
	s.Stock(t, v, "9", "1.95")
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/stock/" + itoa(v))
	p.MustElement(".put-right-box summary").MustClick()
	p.fill(".put-right [name=quantity]", "7")
	p.press(".put-right button", "Put it right")
	p.sees(".put-right [data-error]", "Say why")
	p.choose(".put-right [name=reason_id]", "Lost")
	p.accessible()
	p.press(".put-right button", "Put it right")
	p.sees(".pin-dialog", "needs a yes")
	p.fill(".pin-dialog [name=pin]", testkit.PIN)
	p.choose(".pin-dialog select", "Maren Holt")
	p.press(".pin-dialog button", "Say yes")
	p.sees("#said", "9 were expected, 7 are there now")
	assert.Equal(t, "7", s.Held(t, v).ForSale()[v].String())
	p.sees("main", "7 on hand 7 available") // every figure of the page is of now
	q := sit(t, p.base, 1280, 800).as("callum")
	q.open("/catalog/" + itoa(made.ID) + "?variant=" + itoa(v))
	q.MustElement("#swingtag .put-right-box summary").MustClick()
	q.choose(".put-right [name=how]", "write on")
	q.fill(".put-right [name=quantity]", "2")
	q.choose(".put-right [name=reason_id]", "Found")
	q.press(".put-right button", "Put it right")
	q.sees("#said", "7 were expected, 9 are there now")
	s.InStep(t)
}

// TestTilesAreArrangedByKeys and hang at the register.
func TestTilesAreArrangedByKeys(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "9", "1.95")
	s.Simple(t, "Whistle", "counted", "4.00")
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/register/tiles")
	p.fill("#new-name", "Every day 漢")
	p.pressed("#new-page button", "Make the page")
	p.choose("[name=category]", "Rash vests")
	p.sees(".arrange", "Rash vests")
	p.fill(".tile-page [name=q]", "whistle")
	p.press(".found-products button", "Whistle")
	p.sees(".arrange .tile:last-child", "Whistle")
	p.focus(".arrange .tile:last-child")
	p.keys(input.ArrowLeft)
	p.sees(".arrange .tile:first-child", "Whistle")
	p.press("[data-save]", "Keep it so")
	p.sees("#said", "is kept")
	p.accessible()
	p.open("/register/1")
	p.press("[role=tab]", "Every day 漢")
	p.sees("[data-tiles]:not([hidden]) .tile:first-child", "Whistle")
	p.press("[data-tiles]:not([hidden]) .tile", "Whistle")
	p.sees(".line", "Whistle")
}

// TestATerminalRefusesARefund: the customer who is still there gets cash by a manager's yes.
func TestATerminalRefusesARefund(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "9", "1.95")
	s.Open(t, 1)
	s.Basket(t, 1, made.Variants[0].ID)
	sold, err := s.Pay(t, 1, "k1", register.TenderInput{Kind: sale.Card, Amount: "34.95"})
	require.NoError(t, err)
	_, err = office.SetDevice(s.By(s.Maren), device.CardTerminal, device.Declines)
	require.NoError(t, err)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/register/1/take-back?sale=" + sold.Number)
	p.types("1")
	p.ctrlEnter()
	p.sees("[data-done]", "puts nothing on that card")
	p.press("[data-done] button", "Give it in cash")
	p.sees(".pin-dialog", "needs a yes")
	p.fill(".pin-dialog [name=pin]", testkit.PIN)
	p.press(".pin-dialog button", "Say yes")
	p.sees("[data-done]", "Give £34.95 in cash")
	s.InStep(t)
}

// TestALostAnswerAndAReload: a return is posted and its answer never comes. The page, opened anew, says that it was
// posted; the same return, sent again, is that one.
func TestALostAnswerAndAReload(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1.00")
	s.Open(t, 1)
	sold := s.Sold(t, v, "5")
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.MustEvalOnNewDocument("delete window.Worker") // the page sends by itself, where its answers can be lost
	back := func() {
		p.open("/register/1/take-back?sale=" + sold.Number)
		p.MustElement(`[data-line="1"] [data-f="quantity"]`)
		p.fill(`[data-line="1"] [data-f="quantity"]`, "2")
	}
	back()
	p.MustEval(`() => { const send = window.fetch; window.fetch = async (...all) => { const answer = await send(...all); if (String(all[0]).endsWith("/returns")) throw new TypeError("lost"); return answer; }; }`)
	p.press("button", "Take back and refund")
	p.sees("#return [data-error]", "does not answer")
	back()
	p.sees("#said", "was posted: Q1-R0001")
	back()
	p.press("button", "Take back and refund")
	p.sees("[data-done]", "Q1-R0001")
	rows, _, err := till.Returns(s.Store.Read(context.Background()), 1)
	require.NoError(t, err)
	require.Len(t, rows, 1)
	back()
	p.press("button", "Take back and refund")
	p.sees("[data-done]", "Q1-R0002") // it was answered by then: this is another one
	s.InStep(t)
}
