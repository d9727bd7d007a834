package e2e

import (
	"context"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/barcode"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// handScan types a code into the scan line of the page for the hand, as a scanner does.
func (p *person) handScan(code string) {
	p.t.Helper()
	p.MustElement("#hand-scan")
	p.MustEval(`code => { const i = document.getElementById("hand-scan"); i.value = code; i.form.requestSubmit(); }`,
		code)
}

// download reads a file as the page would get it.
func (p *person) download(path string) []byte {
	p.t.Helper()
	got, err := p.Evaluate(rod.Eval(`async path => {
		const bytes = new Uint8Array(await (await fetch(path)).arrayBuffer());
		let text = "";
		for (const b of bytes) text += String.fromCharCode(b);
		return btoa(text);
	}`, path).ByPromise())
	require.NoError(p.t, err)
	data, err := base64.StdEncoding.DecodeString(got.Value.Str())
	require.NoError(p.t, err)
	return data
}

// TestTheHandGoesOnWithoutALine takes a delivery in on a phone while the server is away for a while:
// nothing that is scanned is lost, each step counts once, and the page is loaded anew without a server.
func TestTheHandGoesOnWithoutALine(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	vest := s.Vest(t)
	v := func(n int) string { return vest.Variants[n].Barcode }
	in := buying.OrderInput{Supplier: 1, Branch: 1}
	for n, quantity := range []string{"5", "4", "12"} {
		in.Lines = append(in.Lines, buying.OrderLineInput{Variant: vest.Variants[n].ID, Quantity: quantity,
			Price: "20"})
	}
	order, err := buying.MakeOrder(deed.By(ctx, s.Shop, s.Maren, ""), in)
	require.NoError(t, err)
	_, err = buying.PlaceOrder(deed.By(ctx, s.Shop, s.Maren, ""), order.ID)
	require.NoError(t, err)
	server := cuttable(t, s)
	p := sit(t, server.base(), 390, 844).as("callum")
	p.open("/buying")
	p.leave(func() { p.press("a.act", "In the hand") })
	p.until(`() => document.documentElement.dataset.kept === "yes"`)
	p.accessible()
	p.handScan(order.Number)
	p.sees("#hand-title", "P-0001")
	p.sees("#hand-rest", "0 of 12")
	p.handScan("SH-0002")
	p.sees("#hand-shelf", "2")
	p.handScan(v(0))
	p.sees("#hand-tag", "5 of 5 as ordered")
	p.handScan(v(0))
	p.sees("#hand-tag", "2 of 5")
	assert.Equal(t, 2, p.MustEval(`() => document.querySelectorAll(".mini.full").length`).Int(),
		"two hangers are filled")
	p.accessible()
	p.fits()

	server.stop()
	p.handScan(v(0))
	p.sees("#hand-line", "the line is down")
	p.handScan(v(1))
	p.handScan("2099000000019") // which nobody knows
	p.handScan("3 x " + v(2))
	p.sees("#hand-waiting", "4")
	p.sees("#hand-tag", "1 step waits")
	p.accessible()
	p.leave(func() { p.MustReload() })
	p.sees("#hand-waiting", "4")
	p.sees("#hand-title", "P-0001")
	for range 2 {
		p.MustEval(`() => document.querySelector('[aria-label="One more"]').click()`)
	}
	p.sees("#hand-waiting", "6")
	p.sees("#hand-tag", "3 steps wait")

	server.up()
	p.sees("#hand-refused", "Nothing here is called 2099000000019")
	p.until(`() => document.getElementById("hand-line").hidden`)
	p.sees("#hand-tag", "5 of 12")
	p.sees("#hand-rest", "3 of 5")
	p.sees("#hand-rest", "4 of 4")
	p.accessible()
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	got := map[uint64]string{}
	for _, l := range lines {
		got[l.VariantID] = l.Quantity.String()
	}
	assert.Equal(t, map[uint64]string{vest.Variants[0].ID: "3", vest.Variants[1].ID: "4", vest.Variants[2].ID: "5"},
		got, "each step once")
	p.press("#hand-next", "Review")
	p.sees("#review-body", "1 of what was scanned or typed was not taken")
	p.press("#hand-aside", "Back to scanning")
	p.press("#hand-refused .act", "Set aside")
	p.until(`() => document.getElementById("hand-refused").hidden`)
	p.sees("#hand-next", "9 stay to come")
}

// TestBuyingAsOneStory: three products are ordered on their racks and mailed, labels printed from the order; the
// page in the hand scans half while the line is cut; the rest as ordered less two; the bill is dearer, part
// of it is paid from the drawer, two go back, and their credit comes. Book, owed and labels are right.
func TestBuyingAsOneStory(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	vest := s.Vest(t)
	var codes []string
	var ids []uint64
	for _, name := range []string{"Swim cap", "Dry bag"} {
		made, err := catalog.MakeProduct(deed.By(ctx, s.Shop, s.Maren, ""), catalog.NewProduct{Name: name, Category: "Swim",
			Supplier: "Kelpline Textiles", TaxClass: 1,
			Tracking: "counted", Price: "18"})
		require.NoError(t, err)
		codes, ids = append(codes, made.Variants[0].Barcode), append(ids, made.Variants[0].ID)
	}
	_, err := buying.SaveSupplier(deed.By(ctx, s.Shop, s.Maren, ""), 1,
		buying.SupplierInput{Name: "Kelpline Textiles", DaysToPay: "30", Revision: 1,
			Contacts: []goods.SupplierContact{{Mail: "orders@kelpline.example"}}})
	require.NoError(t, err)
	s.Open(t, 1)
	server := cuttable(t, s)
	p := sit(t, server.base(), 1280, 800).as("maren")
	p.open("/buying/orders/new?supplier=1")
	p.leave(func() { p.press("form .act.first", "Begin the order") })
	for name, order := range map[string][]string{"Tidewater rash vest": {"10", "4", "4"}, "Swim cap": {"5", "10"},
		"Dry bag": {"20", "6"}} {
		p.press("[data-open]", name)
		p.sees("#order-rack h2", name)
		p.fill("#rack-price", order[0])
		p.focus("#order-rack .rack-cell")
		for _, quantity := range order[1:] {
			p.types(quantity)
			p.keys(input.Enter)
		}
		p.sees("#saved", "kept")
	}
	p.sees("#order-sums", "£250.00") // 8 × 10, 10 × 5, 6 × 20
	p.leave(p.ctrlEnter)
	p.MustElementR("summary", "Send").MustClick()
	p.leave(func() { p.press("#send .act.first", "Send it") })
	p.sees(".thread", "to orders@kelpline.example")
	p.leave(func() { p.types("l") })
	p.sees("#preview", "24 labels")

	hand := sit(t, server.base(), 390, 844).as("tobi") // who sees no costs
	hand.open("/buying/hand")
	hand.MustWait(`() => document.documentElement.dataset.kept === "yes"`)
	hand.handScan("P-0001")
	hand.sees("#hand-title", "P-0001")
	hand.handScan(vest.Variants[0].Barcode)
	hand.sees("#hand-tag", "4 of 4")
	server.stop()
	hand.handScan("7 x " + codes[0])
	hand.handScan(codes[0])
	hand.sees("#hand-waiting", "2")
	server.up()
	hand.sees("#hand-tag", "8 of 10")
	hand.press("#hand-all", "All as ordered")
	hand.sees("#hand-rest", "6 of 6")
	hand.sees("#hand-rest", "4 of 4")
	hand.press("#hand-next", "Review")
	hand.sees("#review-body", "2 of 10")
	hand.accessible()
	hand.fits()
	hand.press("#hand-next", "Take in 22")
	hand.sees("#done-title", "D-0001 is in stock")
	for _, told := range []string{"£", "250", "10.00"} {
		assert.NotContains(t, hand.text("main"), told, "a clerk sees no costs")
	}
	s.InStep(t)

	p.open("/buying/bills/new?supplier=1")
	p.fill("#number", "KT-77")
	p.leave(func() { p.press("#bill-new .act.first", "Begin the bill") })
	p.fill(`[name="lines.0.each"]`, "11")
	p.keys(input.Tab)
	p.sees("#lines", "dearer than agreed by 4.00")
	p.leave(p.ctrlEnter)
	p.sees("main", "owed, due")
	p.leave(func() { p.types("p") })
	p.MustElement("#from").MustSelect("out of the drawer of Register 1")
	p.fill("[data-amount]", "60")
	p.keys(input.Tab)
	p.leave(p.ctrlEnter)
	p.open("/buying/back?supplier=1")
	p.scan(codes[1])
	p.sees("#said", "1 go back")
	p.scan(codes[1])
	p.sees("#said", "2 go back")
	p.leave(p.ctrlEnter)
	p.sees("h1", "Back to supplier BS-0001")
	p.open("/buying/bills")
	p.sees(".credit", "40.00")
	p.fill(`.credit [name="number"]`, "CN-9")
	p.leave(func() { p.press(".credit .act", "It came") })
	p.sees("main", "No supplier owes us a credit note")
	bills, _, err := storebuying.Bills(s.Store.Read(ctx), storebuying.BillFilter{Supplier: 1}, 1)
	require.NoError(t, err)
	owed := decimal.Zero
	for _, b := range bills {
		owed = owed.Add(b.Open)
	}
	// 4 at 11.00, 4 at 10.00, 8 at 5.00, 6 at 20.00 are 244.00 and 48.80 tax, less 60.00 paid, less 40.00 and 8.00 tax
	assert.Equal(t, "184.80", owed.StringFixed(2))
	order, _, err := storebuying.ReadOrder(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Equal(t, "Part in 2", string(order.State)+" "+order.ToCome.String())
	held := s.Held(t, ids[1])
	assert.Equal(t, "4 80", held.Pools[ids[1]].Quantity.String()+" "+held.Pools[ids[1]].Value.String())
	s.InStep(t)
}

// TestTheCameraScans plays labels that we printed to the camera: EAN-13, Code 128, QR and GS1
// DataMatrix are read, and what is held still is scanned once.
func TestTheCameraScans(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	vest := s.Vest(t)
	order, err := buying.MakeOrder(deed.By(ctx, s.Shop, s.Maren, ""), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{{Variant: vest.Variants[5].ID, Quantity: "2", Price: "20"}}})
	require.NoError(t, err)
	_, err = buying.PlaceOrder(deed.By(ctx, s.Shop, s.Maren, ""), order.ID)
	require.NoError(t, err)
	base := serve(t, s)
	maren := sit(t, base, 1280, 800).as("maren")
	label := func(template string, n int) string {
		return fmt.Sprintf("/labels/pdf?template=%s&n=%d:1", template, vest.Variants[n].ID)
	}
	qr, err := barcode.EncodeAs(barcode.AsQR, vest.Variants[2].Barcode)
	require.NoError(t, err)
	film := filepath.Join(t.TempDir(), "labels.y4m")
	play(t, film, printed(t, maren.download(label("roll-40x25", 0)), "-r", "300"),
		printed(t, maren.download(label("roll-25x15", 1)), "-r", "400"),
		modules(qr.Rows, 10),
		printed(t, maren.download("/buying/orders/1/as/pdf"), "-r", "200", "-x", "960", "-y", "90", "-W", "560", "-H",
			"130"))

	folder := t.TempDir()
	l := launcher.New().Bin("/usr/bin/chromium-headless-shell").Headless(true).NoSandbox(true).Leakless(false).UserDataDir(folder).
		Set("disable-background-networking").Set("disable-component-update").Set("disable-sync").Set("no-first-run").Set("disable-gpu").
		Set("disable-extensions").Set("proxy-server", "127.0.0.1:9").Set("proxy-bypass-list", "127.0.0.1").
		Set("use-fake-ui-for-media-stream").Set("use-fake-device-for-media-stream").Set("use-file-for-fake-video-capture",
		film)
	address, err := l.Launch()
	require.NoError(t, err)
	filmed := rod.New().ControlURL(address)
	require.NoError(t, filmed.Connect())
	t.Cleanup(func() { _ = filmed.Close(); l.Kill(); l.Cleanup() })
	others := browser
	browser = filmed
	p := sit(t, base, 390, 844)
	browser = others
	p.as("callum")
	p.open("/buying/hand")
	p.until(`() => document.documentElement.dataset.hand === "ready"`)
	p.MustElement("#hand-camera").MustClick()
	p.sees("#hand-title", "P-0001")
	for n := range 3 {
		p.sees(".hand-row span, #hand-tag", vest.Variants[n].Label)
	}
	p.accessible()
	p.fits()
	p.MustElement("#hand-camera").MustClick()
	p.until(`() => document.getElementById("hand-view").hidden`)
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	for _, l := range lines {
		assert.LessOrEqual(t, l.Quantity.IntPart(), int64(2), "held still for a second, and read ten times in it")
	}
	assert.Len(t, lines, 3)
}

// printed is a page of a PDF as a picture.
func printed(t *testing.T, pdf []byte, how ...string) image.Image {
	t.Helper()
	folder := t.TempDir()
	file := filepath.Join(folder, "page.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	said, err := exec.Command("pdftoppm", append(how, "-png", "-f", "1", "-l", "1", "-singlefile", file,
		filepath.Join(folder, "page"))...).CombinedOutput()
	require.NoError(t, err, string(said))
	data, err := os.Open(filepath.Join(folder, "page.png"))
	require.NoError(t, err)
	defer data.Close()
	picture, err := png.Decode(data)
	require.NoError(t, err)
	return picture
}

// modules draws a symbol, each module so many pixels wide.
func modules(rows [][]bool, size int) image.Image {
	const quiet = 4
	all := image.NewGray(image.Rect(0, 0, (len(rows[0])+2*quiet)*size, (len(rows)+2*quiet)*size))
	draw.Draw(all, all.Bounds(), image.White, image.Point{}, draw.Src)
	for y, row := range rows {
		for x, dark := range row {
			if dark {
				at := image.Rect((x+quiet)*size, (y+quiet)*size, (x+quiet+1)*size, (y+quiet+1)*size)
				draw.Draw(all, at, image.Black, image.Point{}, draw.Src)
			}
		}
	}
	return all
}

// play writes a film (YUV4MPEG2, 5 pictures a second) that shows each picture for 1.2 seconds, with 1.6 seconds
// of nothing after it.
func play(t *testing.T, file string, pictures ...image.Image) {
	t.Helper()
	const width, height, held, apart = 640, 480, 6, 8
	film, err := os.Create(file)
	require.NoError(t, err)
	defer film.Close()
	_, err = fmt.Fprintf(film, "YUV4MPEG2 W%d H%d F5:1 Ip A1:1 C420jpeg\n", width, height)
	require.NoError(t, err)
	show := func(picture image.Image, times int) {
		frame := image.NewGray(image.Rect(0, 0, width, height))
		draw.Draw(frame, frame.Bounds(), image.NewUniform(color.Gray{Y: 225}), image.Point{}, draw.Src)
		if picture != nil {
			size := picture.Bounds().Size()
			corner := image.Pt((width-size.X)/2, (height-size.Y)/2)
			draw.Draw(frame, image.Rectangle{Min: corner, Max: corner.Add(size)}, picture, picture.Bounds().Min,
				draw.Src)
		}
		plain := make([]byte, width*height/2) // no colour
		for i := range plain {
			plain[i] = 128
		}
		for range times {
			for _, part := range [][]byte{[]byte("FRAME\n"), frame.Pix, plain} {
				_, err := film.Write(part)
				require.NoError(t, err)
			}
		}
	}
	for _, picture := range pictures {
		show(picture, held)
		show(nil, apart)
	}
}

// TestStepsStayForWhoMadeThem: what was counted without a line by one person is not posted by the next who signs in,
// who is told whose it is and goes on; it is posted when the first one signs in again.
func TestStepsStayForWhoMadeThem(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	m := s.Vest(t).Variants[1]
	s.Stock(t, m.ID, "10", "13.95")
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Whole: true})
	require.NoError(t, err)
	server := cuttable(t, s)
	p := sit(t, server.base(), 390, 844).as("callum")
	hand := "/counts/hand?count=" + itoa(plan.ID)
	p.open(hand)
	p.until(`() => document.documentElement.dataset.hand === "ready" && document.documentElement.dataset.kept === "yes"`)
	p.handScan(m.Barcode)
	p.sees("#hand-tag", "1 counted")
	server.stop()
	p.handScan("2 x " + m.Barcode)
	p.sees("#hand-waiting", "1")
	require.NoError(t, p.SetCookies(nil)) // the session is over meanwhile
	server.up()
	p.MustEval(`() => dispatchEvent(new Event("online"))`)
	p.sees("dialog", "Sign in again")
	p.MustElement(`dialog [name="login"]`).MustInput("maren")
	p.MustElement(`dialog [name="password"]`).MustInput(testkit.Password)
	p.press("dialog button", "Sign in and go on")
	p.sees("#hand-line", "1 step of Callum Reeve stays on this device")
	p.accessible()
	p.leave(func() { p.press("#hand-line button", "Leave them and go on") })
	p.sees("#hand-line", "1 step of Callum Reeve waits here until they sign in")
	p.until(`() => document.documentElement.dataset.hand === "ready"`)
	p.handScan(m.Barcode)
	p.sees("#hand-tag", "2 counted")
	stands, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	assert.Equal(t, "2", stands.Rows[0].Quantity.String(), "one of each; not what Callum did without a line")
	require.NoError(t, p.SetCookies(nil))
	p.as("callum")
	p.open(hand)
	p.sees("#hand-tag", "4 counted")
	stands, err = counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	assert.Equal(t, "4", stands.Rows[0].Quantity.String())
}
