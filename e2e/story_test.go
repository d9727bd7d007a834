package e2e

import (
	"context"
	"errors"
	"io"
	"log"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"testing/iotest"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/customer"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/customers"
	"itemrack/shop/deed"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/till"
)

// TestTheShopsCycle makes a product, labels it, receives it, sells it, takes it
// back, counts it and proves it, in one story.
func TestTheShopsCycle(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Simple(t, "Whistle", "counted", "4.00") // makes the supplier and a category
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.accessible()

	// make it: by keyboard, from the catalog
	p.keys('g')
	p.leave(func() { p.keys('c') })
	p.accessible()
	p.leave(func() { p.keys('n') })
	p.types("Tidewater rash vest")
	p.keys(input.Tab)
	p.types("34.95")
	p.keys(input.Tab)
	p.types("Swim > Rash vests")
	p.keys(input.Tab)
	p.types("Kelpline Textiles")
	p.MustElement(".more-facts summary").MustClick()
	p.fill("#short_name", "Rash vest")
	p.fill("#style", "TWV")
	p.fill(`[data-values="0"]`, "Coral, Slate")
	p.fill(`[data-values="1"]`, "S, M, L")
	p.sees("#rack", "6 variants")
	p.focus(cell("Slate · S"))
	p.keys(input.Space) // Slate is not made in S
	p.sees("#rack", "5 variants")
	p.focus(cell("Coral · L"))
	p.types("36.95") // a digit on a made cell begins a price of its own
	p.keys(input.Enter)
	p.sees(cell("Coral · L"), "36.95")
	p.accessible()
	p.leave(p.ctrlEnter)
	p.sees("h1", "Tidewater rash vest")
	p.sees(".figs", "£34.95–36.95")
	p.sees(".not-made", "not made")
	p.accessible()
	product := p.MustInfo().URL

	// a colour later makes only its variants
	p.leave(func() { p.keys('r') })
	p.MustElement("#value").MustInput("Kelp")
	p.accessible()
	p.leave(func() { p.MustElement("#values button").MustClick() })
	p.sees("tbody", "Kelp")
	view, err := goods.ReadProduct(s.Store.Read(context.Background()), 2, 1, s.Now())
	require.NoError(t, err)
	require.Len(t, view.Variants, 8)
	codes := map[string]string{}
	for _, v := range view.Variants {
		codes[v.Label] = v.Barcode
	}
	coralM := view.Variants[1]
	require.Equal(t, "TWV-COR-M", coralM.SKU)

	// labels, two for each of a rail
	p.leave(func() { p.keys('l') })
	p.MustElement(`.rack-head[data-row="0"]`).MustClick()
	p.types("2")
	p.keys(input.Enter)
	p.sees("#preview", "6 labels on 1 page")
	p.accessible()
	readLabels(t, p, []string{codes["Coral · S"], codes["Coral · M"], codes["Coral · L"]})

	// a delivery, through the rack, and another with freight
	p.receive("K-77", "", "20", "10")
	p.sees("h1", "Delivery D-0001")
	p.sees("section", "Tidewater rash vest Coral · M")
	p.receive("K-78", "5.00", "26", "5")
	p.sees("h1", "Delivery D-0002")
	p.sees("table", "335.00")
	p.accessible()

	// the register: float, scan, quantity, cash with change
	p.keys('g')
	p.leave(func() { p.keys('r') })
	p.accessible()
	p.MustElement("#float-1").MustInput("100.00")
	p.leave(func() { p.keys(input.Enter) })
	p.MustElement("#strip")
	p.scan(coralM.Barcode)
	p.sees("#said", "Tidewater rash vest, Coral · M added.")
	p.sees("#total", "£34.95")
	p.fill(".line input", "4")
	p.sees("#total", "£139.80")
	p.fill(".line input", "1.5")
	p.sees("#form-error", "whole number")
	p.fill(".line input", "4")
	p.sees("#said", "4.")
	p.accessible()
	p.keys(input.F8)
	p.types("100")
	p.keys(input.Enter)
	p.sees("#form-error", "39.80 short")
	p.fill("#handed", "150")
	p.leave(func() { p.keys(input.Enter) })
	p.sees("h1", "Sale Q1-00001")
	p.sees(".change", "£10.20")
	p.sees(".receipt", "Q1-00001")
	p.accessible()
	assert.Equal(t, []string{"Q1-00001"}, readPDF(t, p, "/sales/Q1-00001/receipt.pdf", 203))

	// take one back by the receipt's barcode, then put it for sale
	p.open("/register/1")
	p.leave(func() { p.scan("Q1-00001") })
	p.sees("h2", "Sale Q1-00001")
	p.focus(`[data-f="quantity"]`)
	p.types("1")
	p.accessible()
	p.ctrlEnter()
	p.sees("[data-done]", "Give back £34.95 in cash")
	p.figures(coralM.ID, "12", "11", "£22.3333")
	p.open("/stock/not-for-sale")
	p.accessible()
	p.leave(func() { p.MustElement("[data-next]").MustClick() })
	p.sees(".empty", "Everything on hand is for sale")
	p.figures(coralM.ID, "12", "12", "£22.3333")

	// a count, with a sale in the middle
	p.open("/counts/new")
	p.choose("#category_id", "Swim > Rash vests")
	p.accessible()
	p.leave(func() { p.MustElement("form .first").MustClick() })
	p.focus(cell("Coral · M"))
	p.types("10")
	p.keys(input.Enter)
	p.sees("#said", "10 counted")
	p.scan(coralM.Barcode)
	p.sees("#said", "11 counted")
	s.Sold(t, coralM.ID, "2")
	p.accessible()
	p.leave(func() { p.MustElement("#settling").MustClick() })
	p.sees("#settle", "−1")
	p.sees(".figs", "−£22.33")
	p.MustElement(`[value="leave"]`).MustClick()
	p.accessible()
	p.leave(p.ctrlEnter)
	p.sees(".head", "Closed")
	p.figures(coralM.ID, "9", "9", "£22.3333")

	// the stock card: every movement opens its document, figures explain themselves
	p.accessible()
	p.focus(`[data-explain$="average_cost"]`)
	p.keys('?')
	p.sees(".explained", "Value ÷ quantity")
	p.sees(".explained", "£201.00")
	p.keys(input.Escape)
	p.MustElement(`[data-explain$="on_hand"]`).MustClick()
	p.sees(".explained", "Delivery (2) +15")
	p.sees(".explained", "Shelf count (1) −1")
	p.leave(func() { p.MustElementR("table.walk a", "Shelf count").MustClick() })
	p.sees("h1", "Shelf count SC-0001")
	p.sees("section", "stock loss")
	p.accessible()

	// in step
	p.open("/stock/in-step")
	p.sees("#agrees:not([hidden])", "all agree")
	p.accessible()
	s.InStep(t)
	assert.Contains(t, product, "/catalog/2?made=1")
}

// receive enters a delivery of Coral M through the rack.
func (p *person) receive(number, freight, cost, quantity string) {
	p.t.Helper()
	p.open("/buying/new")
	p.choose("#supplier_id", "Kelpline Textiles")
	p.fill("#supplier_number", number)
	if freight != "" {
		p.fill("#extra", freight)
	}
	p.sees("#saved", "nothing kept yet") // there is nothing in it
	p.focus("#scan")
	p.types("tidewater")
	p.keys(input.Enter)
	p.sees("#deliver-rack h2", "Tidewater rash vest")
	p.fill("#rack-cost", cost)
	p.focus("#deliver-rack " + cell("Coral · M"))
	p.types(quantity)
	p.keys(input.Enter)
	p.sees("#sums", quantity+" units")
	p.sees("#saved", "draft, kept")
	p.accessible()
	p.leave(func() { p.MustElement("#post").MustClick() })
}

// figures holds the stock card's on hand, available and average cost.
func (p *person) figures(variant uint64, onHand, available, average string) {
	p.t.Helper()
	p.open("/stock/" + itoa(variant))
	assert.Equal(p.t, onHand, p.text(`[data-explain$="on_hand"] b`))
	assert.Equal(p.t, available, p.text(`[data-explain$="available"] b`))
	assert.Equal(p.t, average, p.text(`[data-explain$="average_cost"] b`))
}

// readLabels prints the labels that are on screen and reads them with a reader.
func readLabels(t *testing.T, p *person, want []string) {
	t.Helper()
	href := p.MustElement("#pdf").MustAttribute("href")
	for _, dpi := range []int{203, 300} {
		assert.ElementsMatch(t, want, readPDF(t, p, *href, dpi), "at %d dpi", dpi)
	}
}

// readPDF fetches a PDF as the person is signed in, and reads its symbols.
func readPDF(t *testing.T, p *person, path string, dpi int) []string {
	t.Helper()
	bytes := p.MustEval(`path => fetch(path).then(r => r.arrayBuffer()).then(b => Array.from(new Uint8Array(b)))`,
		path).
		Arr()
	data := make([]byte, len(bytes))
	for i, b := range bytes {
		data[i] = byte(b.Int())
	}
	file := filepath.Join(t.TempDir(), "file.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	out, err := exec.Command("pdftoppm", "-r", itoa(uint64(dpi)), "-png", file, file).CombinedOutput()
	require.NoError(t, err, string(out))
	shots, err := filepath.Glob(file + "*.png")
	require.NoError(t, err)
	var codes []string
	for _, shot := range shots {
		read, err := exec.Command("zbarimg", "--quiet", "--raw", "-Sdisable", "-Sean13.enable", "-Scode128.enable",
			shot).
			Output()
		require.NoError(t, err)
		codes = append(codes, strings.Fields(string(read))...)
	}
	return codes
}

// TestRegisterOnAPhone sells with a thumb at 390 px.
func TestRegisterOnAPhone(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[1].ID, "3", "13.95")
	p := sit(t, serve(t, s), 390, 844).as("tobi")
	p.open("/register")
	p.fits()
	p.MustElement("#float-1").MustInput("50")
	p.leave(func() { p.MustElement("#float-1 ~ button").MustClick() })
	p.fits()
	p.MustElementR(".tile", "Rash vests").MustClick()
	p.MustElementR("#picked .tile", "Tidewater").MustClick()
	p.MustElement("#picked " + cell("Coral · M")).MustClick()
	p.sees("#total", "£34.95")
	p.fits()
	p.accessible()
	p.leave(func() { p.MustElement("#card").MustClick() })
	p.sees("h1", "Sale Q1-00001")
	p.fits()
	p.accessible()
	s.InStep(t)
}

// TestDoublePressAndLostAnswer presses twice, and loses answers on the way: that to a scan and that to a sale.
func TestDoublePressAndLostAnswer(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "10", "1")
	s.Open(t, 1)
	base, asked := lossy(t, serve(t, s), "/lines", "/sales")
	p := sit(t, base, 1280, 800).as("tobi")
	p.open("/register/1")
	p.scan("w") // too short for a scanner: nothing happens
	p.focus("#scan")
	p.types("W")
	p.keys(input.Enter)
	p.sees("#total", "£4.00") // the only product that begins so, and its only variant
	assert.EqualValues(t, 4, asked("/lines"), "two answers to the scan were lost; then its variant was put on")
	p.leave(func() {
		p.MustEval(`() => { const b = document.getElementById('card'); b.click(); b.click(); b.click(); }`)
	})
	p.sees("h1", "Sale Q1-00001")
	assert.EqualValues(t, 3, asked("/sales"), "two answers were lost")
	rows, _, err := book.Documents(s.Store.Read(context.Background()), "Sale", 1)
	require.NoError(t, err)
	assert.Len(t, rows, 1, "posted once")
	s.InStep(t)
}

// TestAScanWhenTheWorkerIsGone scans where the worker stops in the middle of the day: the page goes on without it
// within a second, and what was under way is done once.
func TestAScanWhenTheWorkerIsGone(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	m := s.Vest(t).Variants[1]
	s.Stock(t, m.ID, "10", "13.95")
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800)
	p.MustEvalOnNewDocument(`const Real = Worker;
		window.Worker = class extends Real { constructor(...all) { super(...all); window.theWorker = this; } };`)
	p.as("tobi")
	p.open("/register/1")
	p.scan(m.Barcode)
	p.sees("#total", "34.95")
	p.MustEval("() => theWorker.terminate()")
	began := time.Now()
	p.scan(m.Barcode)
	p.sees("#total", "69.90")
	assert.Less(t, time.Since(began), 1500*time.Millisecond)
	p.scan(m.Barcode)
	p.sees("#total", "104.85")
	basket, err := register.Basket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	assert.Equal(t, "3", basket.Lines[0].Quantity.String())
}

// TestAScanWithoutAWorker scans where the worker that makes the requests can't be had.
func TestAScanWithoutAWorker(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "10", "1")
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.MustEvalOnNewDocument(`const Real = Worker;
		window.Worker = class extends Real { constructor(url, how) { super(url + ".none", how); } };`)
	p.open("/register/1")
	p.focus("#scan")
	p.types(s.View(t, 1).Variants[0].SKU)
	p.keys(input.Enter)
	p.sees("#total", "£4.00")
}

// lossy stands between browsers and a server. Of what is posted to paths that end in one of endings, the first answer
// is lost wholly and the second from its middle on; asked tells how often there was an answer.
func lossy(t testing.TB, base string, endings ...string) (address string, asked func(ending string) int64) {
	to, err := url.Parse(base)
	require.NoError(t, err)
	count := map[string]*atomic.Int64{}
	for _, e := range endings {
		count[e] = new(atomic.Int64)
	}
	proxy := httptest.NewServer(&httputil.ReverseProxy{
		ErrorLog: log.New(io.Discard, "", 0),
		Rewrite:  func(r *httputil.ProxyRequest) { r.SetURL(to); r.Out.Host = r.In.Host },
		ModifyResponse: func(r *http.Response) error {
			for _, e := range endings {
				if r.Request.Method != http.MethodPost || !strings.HasSuffix(r.Request.URL.Path, e) {
					continue
				}
				switch count[e].Add(1) {
				case 1:
					panic(http.ErrAbortHandler)
				case 2:
					half := io.LimitReader(r.Body, 20)
					r.Body = io.NopCloser(io.MultiReader(half, iotest.ErrReader(errors.New("the line is cut"))))
				}
			}
			return nil
		},
	})
	t.Cleanup(proxy.Close)
	return proxy.URL, func(ending string) int64 { return count[ending].Load() }
}

// TestEveryPageIsAccessible opens each page of the shop, in both themes.
func TestEveryPageIsAccessible(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	m := made.Variants[1].ID
	s.Stock(t, m, "10", "13.95")
	s.Receive(
		t,
		buying.DeliveryInput{
			Lines: []scan.GoodsLine{
				{Variant: s.Simple(t, "Board", "serial", "549.00"), Quantity: "2", Cost: "310", Serials: "A1,A2"}},
		},
	)
	s.Receive(
		t,
		buying.DeliveryInput{
			Lines: []scan.GoodsLine{
				{
					Variant:  s.Simple(t, "Sun cream", "lot", "14.50"),
					Quantity: "5",
					Cost:     "6",
					Lot:      "K1",
					Expiry:   "2127-04-30",
				},
			},
		},
	)
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: m, Quantity: "1"}}})
	require.NoError(t, err)
	s.Open(t, 1)
	sold := s.Sold(t, m, "2")
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     sold.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	_, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "A1"})
	require.NoError(t, err)
	count, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), count.ID,
		counts.CountInput{Variant: m, Quantity: "7"})
	require.NoError(t, err)
	sending, err := stockroom.BeginSending(s.By(s.Maren), stockroom.SendingInput{From: 1, To: 2})
	require.NoError(t, err)
	_, err = stockroom.PutInSending(s.By(s.Maren), sending.ID,
		stockroom.SendingPut{Variant: m, Quantity: "1"})
	require.NoError(t, err)
	returned, voucher := registerPages(t, s, m, sold.Number)
	pages := append([]string{"/", "/locked", "/register/approvals", "/register/tiles", "/vouchers", "/vouchers/" +
		voucher, "/customers",
		"/customers/new", "/customers/1", "/customers?q=nobody", "/returns/" + returned, "/settings/reasons", "/me",
		"/register/1?show=basket", "/register/1?show=customer", "/register/1?show=hold", "/register/1?show=make",
		"/register/1?show=ways", "/register/1?show=cash", "/register/1?show=line", "/register/1/take-back?variant=" + itoa(m),
		"/buying", "/buying/new", "/buying/" + itoa(draft.ID),
		"/register", "/register/1", "/register/2", "/register/1/take-back?sale=" +
			sold.Number, "/register/1/take-back?sale=nope", "/register/1/cash-up", "/drawers", "/drawers/1",
		"/sales/" + sold.Number, "/stock", "/stock?at=2026-11-01T10:00", "/stock/opening", "/stock/2", "/stock/7",
		"/stock/8",
		"/stock/not-for-sale", "/stock/lots", "/stock/movements", "/stock?by=rack", "/settings/conditions",
		"/stock/2?at=2026-11-01T10:00", "/labels?variants=2&condition=Seconds", "/stock/in-step", "/stock/sendings",
		"/stock/sendings/1", "/stock/move", "/settings/branches", "/counts", "/counts/new",
		"/counts/schedules", "/counts/history", "/counts/hand", "/counts/1", "/counts/1?by=list", "/counts/1/settle",
		"/documents", "/documents/D-0001", "/documents/" + sold.Number, "/devices", "/nowhere"}, buyingPages(t, s, m)...)
	everyPage(t, serve(t, s), pages)
}

// registerPages fills what a register shows: a customer on the basket, one on hold, a line with a
// discount, something that comes back, a voucher, a page of tiles, and a return without a receipt.
func registerPages(t *testing.T, s *testkit.Shop, variant uint64, sold string) (returned, voucher string) {
	t.Helper()
	ctx := context.Background()
	who, err := customers.Make(deed.By(ctx, s.Shop, s.Tobi, ""),
		customers.Input{Facts: customer.Facts{Name: "Ada Penrose", Mail: "ada@example.com"}})
	require.NoError(t, err)
	_, err = register.SaveTiles(deed.By(ctx, s.Shop, s.Maren, ""), 0,
		register.TilePageInput{Name: "Every day", Tiles: []till.Tile{{Category: 1}, {Product: 1}}})
	require.NoError(t, err)
	s.Open(t, 2)
	_, err = register.AddVoucher(deed.By(ctx, s.Shop, s.Tobi, ""), 2, register.VoucherInput{Amount: "25"})
	require.NoError(t, err)
	done, err := s.Pay(t, 2, "voucher")
	require.NoError(t, err)
	back, err := register.TakeBack(deed.By(ctx, s.Shop, s.Tobi, ""), register.ReturnInput{Register: 2,
		Refund: sale.ToCredit, Customer: who.ID,
		Unsold:   []register.UnsoldInput{{Variant: variant, Unsold: sale.Unsold{Quantity: "1"}}},
		Approval: testkit.Yes(s.Maren)})
	require.NoError(t, err)
	s.Basket(t, 2, variant)
	_, err = register.Hold(deed.By(ctx, s.Shop, s.Tobi, ""), 2,
		register.HoldInput{Name: "Mr Ellis with a name that is long"})
	require.NoError(t, err)
	line := s.Basket(t, 1, variant).Line
	off, note := "10 %", "for the club"
	_, err = register.ChangeBasketLine(deed.By(ctx, s.Shop, s.Tobi, ""), 1, line, register.BasketChange{Off: &off,
		Note:   &note,
		OffFor: s.Why(t, reason.GivenOff, "End of season")})
	require.NoError(t, err)
	_, err = register.Agree(deed.By(ctx, s.Shop, s.Tobi, ""), 1, register.BasketFacts{Customer: &who.ID})
	require.NoError(t, err)
	_, err = register.BringBack(deed.By(ctx, s.Shop, s.Tobi, ""), 1,
		[]register.BackInput{{Sale: sold, Line: 1, Quantity: "1"}})
	require.NoError(t, err)
	return back.Number, done.Vouchers[0].Code
}

// everyPage opens each page and looks at it in both themes, and opens it on a phone. What the dark theme changes is the
// contrast.
func everyPage(t *testing.T, base string, pages []string) {
	t.Helper()
	p := sit(t, base, 1280, 800)
	look := func(path string) {
		p.open(path)
		p.accessible()
		p.fits()
		p.MustEval("() => { document.documentElement.dataset.bsTheme = 'dark'; }")
		p.accessible("color-contrast")
		p.MustSetViewport(390, 844, 1, true)
		p.fits()
		p.MustSetViewport(1280, 800, 1, false)
	}
	look("/login")
	p.as("maren")
	for _, path := range pages {
		look(path)
	}
}

// TestSignInAndOut refuses a wrong password, keeps what was typed, and comes
// back to the page that was asked for.
func TestSignInAndOut(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	p := sit(t, serve(t, s), 1280, 800)
	p.open("/stock")
	p.sees("h1", "Item Rack")
	p.MustElement("#login").MustInput("maren")
	p.MustElement("#password").MustInput("wrong")
	p.leave(func() { p.keys(input.Enter) })
	p.sees(".refused", "do not belong together")
	p.sees("#login", "maren")
	p.MustElement("#password").MustInput(testkit.Password)
	p.leave(func() { p.keys(input.Enter) })
	p.sees("h1", "Stock")
	p.MustElement(".who summary").MustClick()
	p.leave(func() { p.MustElementR(".who-menu button", "Sign out").MustClick() })
	p.open("/stock")
	p.sees("h1", "Item Rack")
}
