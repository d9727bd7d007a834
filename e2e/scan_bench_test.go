package e2e

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"itemrack/demo"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

// watch notes, in the page, how long it is from the Enter of a scan until its line is drawn, and until it is
// shown: in the first frame after that.
const watch = `() => {
	window.took = [];
	window.drawn = [];
	let began = 0;
	document.addEventListener("keydown", (event) => { if (event.key === "Enter") began = performance.now(); }, true);
	new MutationObserver(() => {
		if (!began) return;
		const from = began;
		began = 0;
		window.drawn.push(performance.now() - from);
		requestAnimationFrame(() => window.took.push(performance.now() - from));
	}).observe(document.getElementById("basket"), { childList: true });
}`

// BenchmarkScanToLine scans with real key events into the basket of a shop of 100 000 variants and
// reports how long it is until the line is shown, for half of the scans and for 99 of 100. A basket is
// given up after ten lines.
func BenchmarkScanToLine(b *testing.B) {
	ctx := context.Background()
	s := testkit.Bare(b)
	_, err := demo.SetUp(ctx, s.Shop)
	require.NoError(b, err)
	who, err := office.PersonByLogin(ctx, s.Shop, "maren")
	require.NoError(b, err)
	require.NoError(b, demo.Seed(ctx, s.Shop, who, 100_000, 26, func(int) {}))
	_, err = register.OpenDrawer(deed.By(ctx, s.Shop, who, ""), 1, "100")
	require.NoError(b, err)
	var codes []string
	for page := 1; page <= 400; page += 8 {
		rows, _, err := goods.Variants(s.Store.Read(ctx), goods.ListFilter{}, page)
		require.NoError(b, err)
		for _, v := range rows[:min(4, len(rows))] {
			codes = append(codes, v.Barcode)
		}
	}
	p := sit(b, serve(b, s), 1280, 800).as("tobi")
	p.open("/register/1")
	p.MustEval(watch)
	n := 0
	for b.Loop() {
		time.Sleep(120 * time.Millisecond) // a hand is no faster
		p.types(codes[n%len(codes)])
		p.keys(input.Enter)
		n++
		p.until(`n => window.took.length >= n`, n)
		if n%10 == 0 {
			b.StopTimer()
			_, err := register.DropBasket(deed.By(ctx, s.Shop, who, ""), 1)
			require.NoError(b, err)
			b.StartTimer()
		}
	}
	b.ReportMetric(0, "ns/op")
	for list, unit := range map[string]string{"took": "ms", "drawn": "drawn-ms"} {
		var times []float64
		for _, v := range p.MustEval("list => window[list]", list).Arr() {
			times = append(times, v.Num())
		}
		times = times[min(5, len(times)-1):] // the first ones warm up what keeps statements and pages
		slices.Sort(times)
		for _, at := range []int{50, 95, 99} {
			b.ReportMetric(times[min(len(times)*at/100, len(times)-1)], fmt.Sprintf("p%d-%s", at, unit))
		}
	}
}
