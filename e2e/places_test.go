package e2e

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
)

// printed reads the text and the barcodes of a PDF back, page by page.
func (p *person) printed(path string) (text, codes string) {
	p.t.Helper()
	dir := p.t.TempDir()
	file := filepath.Join(dir, "paper.pdf")
	require.NoError(p.t, os.WriteFile(file, p.download(path), 0o600))
	words, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(p.t, err)
	require.NoError(p.t, exec.Command("pdftoppm", "-r", "300", "-png", file, filepath.Join(dir, "page")).Run())
	pages, err := filepath.Glob(filepath.Join(dir, "page*.png"))
	require.NoError(p.t, err)
	read, err := exec.Command("zbarimg", append([]string{"-q", "--raw"}, pages...)...).Output()
	var none *exec.ExitError
	if errors.As(err, &none) && none.ExitCode() == 4 { // there is no code on it
		err = nil
	}
	require.NoError(p.t, err)
	return string(words), string(read)
}

// TestGoodsBetweenBranches packs a sending by scans, sends it off, opens it at the other branch by one scan of
// its slip, takes it in short and over, and settles what is left.
func TestGoodsBetweenBranches(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	vest := s.Vest(t)
	m, l := vest.Variants[0], vest.Variants[1]
	s.Stock(t, m.ID, "6", "13.95")
	s.Stock(t, l.ID, "6", "13.95")
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	p.open("/stock/sendings")
	p.accessible()
	p.leave(func() { p.press("form button", "Begin a sending") })
	for range 3 {
		p.scan(m.Barcode)
	}
	p.scan("2 x " + l.Barcode)
	p.sees("#lines", "M")
	p.until(`() => document.querySelectorAll("#lines input").length === 2`)
	p.scan("nobody knows this")
	p.sees("#said", "nobody knows this")
	p.accessible()
	p.fits()
	text, codes := p.printed("/stock/sendings/1/slip")
	assert.Contains(t, text, "Sending S-0001")
	for _, code := range []string{"S-0001", m.Barcode, l.Barcode} {
		assert.Contains(t, codes, code)
	}
	p.leave(func() { p.ctrlEnter() })
	p.sees("main", "On the way")
	assert.Equal(t, "3 3", fmt.Sprint(s.Held(t, m.ID).OnHand(m.ID, 1, stock.ForSale), " ",
		s.Held(t, m.ID).OnHand(m.ID, 2, stock.OnTheWay)))

	// at the other branch: one scan opens it, each scan takes one off the rope
	p.open("/stock")
	p.leave(func() { p.scan("s-0001") })
	for range 2 {
		p.scan(m.Barcode)
	}
	for range 3 {
		p.scan(l.Barcode)
	}
	p.sees("#said", "1 more than sent")
	p.leave(func() { p.press("#take-in", "Take in") })
	p.sees("#lines", "1 short of what left")
	p.sees("#lines", "1 more than sent")
	p.accessible()
	p.press("#lines [data-show]", "settle")
	p.sees("#swingtag", "If they come")
	p.accessible()
	p.leave(func() { p.press("#swingtag form button", "Settle") })
	p.press(`#lines tr[data-variant="`+itoa(l.ID)+`"] [data-show]`, "settle")
	p.sees("#swingtag", "over")
	p.leave(func() { p.press("#swingtag form button", "Settle") })
	p.sees("main", "Settled")
	assert.Equal(t, "3 3", fmt.Sprint(s.Held(t, m.ID).OnHand(m.ID, 2, stock.ForSale), " ",
		s.Held(t, l.ID).OnHand(l.ID, 2, stock.ForSale)))
	s.InStep(t)
}

// TestShelfThingsShelf moves goods by scans alone: the shelf they come from, the goods, the shelf they go to.
func TestShelfThingsShelf(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	vest := s.Vest(t)
	s.Stock(t, vest.Variants[0].ID, "6", "13.95")
	p := sit(t, serve(t, s), 1280, 800).as("callum")
	p.open("/stock/move")
	p.accessible()
	p.scan("SH-0001")
	p.scan(vest.Variants[0].Barcode)
	p.scan(vest.Variants[0].Barcode)
	p.sees("#said", "2 to move")
	p.scan("SH-0002")
	p.sees("#done", "moved to Wall A")
	assert.Equal(t, "2", s.Held(t, vest.Variants[0].ID).OnShelf(vest.Variants[0].ID, 2, 1, stock.ForSale).String())
	p.scan(vest.Variants[0].Barcode)
	p.scan("SH-0003") // of the other branch
	p.sees("#said", "not a shelf of this branch")
	p.open("/settings/branches")
	p.accessible()
	p.fits()
	p.fill(`form[data-place="shelves"] [name=name]`, "Fenster 漢")
	p.leave(func() { p.press(`form[data-place="shelves"] button`, "Add") })
	p.sees("main", "SH-0004")
	phone := sit(t, p.base, 390, 844).as("callum")
	phone.open("/stock/move")
	phone.fits()
}

// TestAScheduledCountOfTwo: what is due is prepared by one press, two people count it by scans, one row stands
// apart until it is counted again, a serial number is missing. Beside the scans it takes four acts: prepare,
// recount, done counting, settle.
func TestAScheduledCountOfTwo(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	board := s.Simple(t, "Tern board", "serial", "549.00")
	whistle := s.Simple(t, "Whistle", "counted", "4.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "3", Cost: "31",
		Serials: "BW26-0001,BW26-0002,BW26-0003"},
		{Variant: whistle, Quantity: "4", Cost: "1"}}})
	_, err := counts.SaveSchedule(deed.By(ctx, s.Shop, s.Maren, ""), 0,
		counts.ScheduleInput{Name: "Both", Branch: 1, Every: "weeks", N: 1, Person: s.Callum.ID,
			NextOn: time.Now().Format(time.DateOnly)})
	require.NoError(t, err)
	base := serve(t, s)
	p := sit(t, base, 1280, 800).as("callum")
	p.open("/")
	p.sees("#due", "Counts that are yours")
	p.accessible()
	p.leave(func() { p.press("[data-prepare]", "Prepare it") }) // the first act
	_, err = counts.ChangeCounters(deed.By(ctx, s.Shop, s.Callum, ""), 1,
		counts.CountersInput{Counters: []uint64{s.Callum.ID, s.Tobi.ID}})
	require.NoError(t, err)
	p.open("/counts/1")
	other := sit(t, base, 1280, 800).as("tobi")
	other.open("/counts/1")
	items := s.Sellables(t, board, whistle)
	code := items[whistle].Barcode
	for _, number := range []string{"BW26-0001", "BW26-0003"} {
		p.scan(number)
		other.scan(number)
	}
	p.scan("4 x " + code)
	other.scan("3 x " + code)
	other.sees("#said", "3 counted")
	p.sees("#log", "Tobi Ashdown") // the other's rows come in by themselves
	p.accessible()
	p.leave(func() { p.press("#settling", "Done counting") }) // the second
	p.sees(".aparts", "Whistle")
	p.sees("main", "missing: No. BW26-0002")
	p.accessible()
	p.leave(func() { p.press(".apart .act", "Recount") })
	p.scan("4 x " + code)
	p.sees("#said", "4 counted")
	other.open("/counts/1")
	other.scan("4 x " + code)
	other.sees("#said", "4 counted")
	p.leave(func() { p.press("#settling", "Done counting") })
	p.misses("main", "The counters differ")
	p.leave(func() { p.press("#settle button.first", "Settle") }) // and nobody left a row uncounted
	p.sees("main", "Closed")
	p.accessible()
	text, _ := p.printed("/counts/1/settle?format=pdf")
	assert.Contains(t, text, "missing: No. BW26-0002")
	assert.Contains(t, string(p.download("/counts/1/settle?format=csv")), "Whistle")
	assert.Equal(t, "2 4", fmt.Sprint(s.Held(t, board).Pools[board].Quantity, " ",
		s.Held(t, whistle).Pools[whistle].Quantity))
	p.open("/counts/history")
	p.sees("main", "50.0 %")
	p.accessible()
	p.open("/counts/schedules")
	p.accessible()
	p.press("#calendar", "My calendar")
	p.sees("#calendar-said", "/calendar/")
	assert.Contains(t, string(p.download(p.MustElement("#calendar-said a").MustProperty("pathname").Str())),
		"BEGIN:VCALENDAR")
	s.InStep(t)
}

// TestFourHundredRowsInTheHand counts 400 rows on a phone with the server away for a part of it: nothing that is
// scanned is lost or counts twice, and what was sold meanwhile is not missing.
func TestFourHundredRowsInTheHand(t *testing.T) {
	ctx := context.Background()
	s := testkit.New(t)
	var codes []string
	var ids []uint64
	for product := range 20 {
		var values []catalog.ValueInput
		for n := range 20 {
			values = append(values, catalog.ValueInput{Name: fmt.Sprint(n + 30)})
		}
		made, err := catalog.MakeProduct(deed.By(ctx, s.Shop, s.Maren, ""),
			catalog.NewProduct{Name: fmt.Sprint("Boot ", product), Supplier: "Oar & Thole", Category: "Swim > Boots",
				TaxClass: 1,
				Tracking: "counted", Price: "40", Axes: []catalog.AxisInput{{Name: "Size", Values: values}}})
		require.NoError(t, err)
		for _, v := range made.Variants {
			codes, ids = append(codes, v.Barcode), append(ids, v.ID)
		}
	}
	var lines []scan.GoodsLine
	for _, id := range ids {
		lines = append(lines, scan.GoodsLine{Variant: id, Quantity: "2", Cost: "10"})
	}
	s.Receive(t, buying.DeliveryInput{Supplier: 1, Lines: lines})
	plan, err := counts.PlanCount(deed.By(ctx, s.Shop, s.Callum, ""), counts.CountPlan{Branch: 1, Whole: true})
	require.NoError(t, err)
	require.Equal(t, 400, plan.Rows)
	server := cuttable(t, s)
	p := sit(t, server.base(), 390, 844).as("callum")
	p.open("/counts/hand?count=" + itoa(plan.ID))
	p.until(`() => document.documentElement.dataset.hand === "ready" && document.documentElement.dataset.kept === "yes"`)
	p.accessible()
	all := func(from, to int, times string) {
		p.MustEval(`(codes, times) => { const i = document.getElementById("hand-scan"); for (const code of codes) { i.value = times + code; i.form.requestSubmit(); } }`, codes[from:to], times)
	}
	all(0, 150, "")
	p.until(`() => document.getElementById("hand-progress").textContent.startsWith("150 of")`)
	server.stop()
	all(150, 300, "2 x ")
	p.sees("#hand-line", "the line is down")
	p.handScan(codes[0]) // one more of the first
	p.sees("#hand-tag", "Boot 0")
	p.accessible()
	p.sees("#hand-waiting", "151")
	p.leave(func() { p.MustReload() })
	p.sees("#hand-waiting", "151")
	s.Open(t, 1)
	s.Sold(t, ids[200], "1") // after it was counted, before the shop knows
	server.up()
	p.MustEval(`() => dispatchEvent(new Event("online"))`)
	p.until(`() => document.getElementById("hand-line").hidden && document.getElementById("hand-progress").textContent.startsWith("300 of")`)
	all(300, 400, "2 x ")
	all(1, 150, "")
	p.until(`() => document.getElementById("hand-progress").textContent.startsWith("400 of") && !document.getElementById("hand-done").disabled`)
	p.fits()
	figures, err := counts.CountStands(deed.By(ctx, s.Shop, s.Maren, ""), plan.ID)
	require.NoError(t, err)
	assert.Len(t, figures.Events, 550)
	for _, f := range figures.Rows {
		assert.Equal(t, "2 0", fmt.Sprint(f.Quantity, " ", f.Differs), f.Item.FullName())
	}
	_, err = counts.SettleCount(deed.By(ctx, s.Shop, s.Maren, ""), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	assert.Equal(t, "1", s.Held(t, ids[200]).Pools[ids[200]].Quantity.String())
	s.InStep(t)
}

// TestACountWhileRegistersSell: one held row is refused at the register with its count, the others sell on; M and
// L were mixed up, and are settled as one.
func TestACountWhileRegistersSell(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	vest := s.Vest(t)
	m, l, held := vest.Variants[0], vest.Variants[1], s.Simple(t, "Towel", "counted", "24.00")
	for _, id := range []uint64{m.ID, l.ID, held} {
		s.Stock(t, id, "9", "10")
	}
	still, err := counts.PlanCount(deed.By(ctx, s.Shop, s.Callum, ""), counts.CountPlan{Branch: 1, HeldStill: true,
		Codes: []string{s.Sellables(t, held)[held].SKU}})
	require.NoError(t, err)
	base := serve(t, s)
	s.Open(t, 1)
	till := sit(t, base, 1280, 800).as("tobi")
	till.open("/register/1")
	till.scan(s.Sellables(t, held)[held].Barcode)
	till.sees("#basket", "is being counted in "+still.Number)

	p := sit(t, base, 1280, 800).as("callum")
	p.open("/counts/new")
	p.accessible()
	p.fits()
	p.choose("#category_id", "Swim > Rash vests")
	p.leave(func() { p.press("#plan button.first", "Begin") })
	p.MustElement(".rack")
	p.scan("8 x " + m.Barcode)
	p.sees("#said", "8 counted")
	for i, v := range []uint64{m.ID, l.ID} { // two registers sell on meanwhile
		if i == 1 {
			s.Open(t, 2)
		}
		_, err := register.Sell(deed.By(ctx, s.Shop, s.Tobi, ""), register.SaleInput{Register: uint64(i + 1), Cash: "100",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
		require.NoError(t, err)
	}
	p.scan("9 x " + l.Barcode) // 8 are left of 9
	p.sees("#said", "9 counted")
	p.open("/counts/2?by=list")
	p.accessible()
	p.leave(func() { p.press("#settling", "Done counting") })
	p.sees(".swap", "net 0")
	p.accessible()
	p.MustElement(".swap input").MustClick()
	p.MustElement("[name=uncounted]").MustClick()
	p.leave(func() { p.press("#settle button.first", "Settle") })
	p.sees("main", "mix-up")
	assert.Equal(t, "7 9", fmt.Sprint(s.Held(t, m.ID).Pools[m.ID].Quantity, " ", s.Held(t, l.ID).Pools[l.ID].Quantity))
	boss := sit(t, base, 1280, 800).as("maren")
	boss.open("/counts/" + itoa(still.ID))
	boss.MustElement(".more-of-count summary").MustClick()
	boss.accessible()
	boss.leave(func() { boss.press("#release", "Let all rows move") })
	till.open("/register/1")
	till.misses("#basket", "is being counted")
	text, codes := p.printed("/counts/" + itoa(still.ID) + "/sheet")
	assert.Contains(t, text, "page 1 of 1")
	assert.Contains(t, text, "Towel")
	assert.Contains(t, strings.Fields(codes), still.Number)
	s.InStep(t)
}

// TestSecondsAtTheRegister: the label of a vest that is Seconds, at its price, beside a new one; the line says
// which, and can be put right; the receipt's page tells them apart.
func TestSecondsAtTheRegister(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	vest := s.Vest(t).Variants[0]
	s.Stock(t, vest.ID, "4", "10")
	_, err := stockroom.ChangeCondition(deed.By(ctx, s.Shop, s.Tobi, ""), stockroom.ChangeInput{Variant: vest.ID,
		Branch: 1, From: "For sale", To: "Seconds", Quantity: "2"})
	require.NoError(t, err)
	base := serve(t, s)
	s.Open(t, 1)
	boss := sit(t, base, 1280, 800).as("maren")
	boss.open("/stock/" + itoa(vest.ID))
	boss.sees("main", "+ 2 Seconds")
	boss.MustElement("form.apart [name=price]").MustInput("30 %")
	boss.leave(func() { boss.press("form.apart button", "Save") })
	boss.sees("form.apart", "24.47")
	boss.accessible()
	_, codes := boss.printed("/labels/pdf?condition=Seconds&template=a4-40x25&n=" + itoa(vest.ID) + ":1")
	p := sit(t, base, 1280, 800).as("tobi")
	p.open("/register/1")
	require.NotEmpty(t, strings.Fields(codes))
	p.scan(strings.Fields(codes)[0])
	p.sees("#basket", "Seconds")
	p.sees("#basket", "24.47")
	p.scan(vest.Barcode)
	p.sees("#basket", "34.95")
	p.choose("#basket li:nth-child(2) select", "as Seconds")
	p.misses("#basket", "34.95")
	p.choose("#basket li:nth-child(2) select", "as new")
	p.sees("#basket", "34.95")
	p.accessible()
}
