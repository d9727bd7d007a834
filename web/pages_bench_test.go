package web

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"itemrack/demo"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
	"itemrack/web/kit"
)

// BenchmarkPages opens pages of a shop of 100 000 variants and reports, of each, the
// time that half of the looks and that 95 of 100 stay under. The first look is that of
// a program that just started.
func BenchmarkPages(b *testing.B) {
	const variants = 100_000
	ctx := context.Background()
	s := testkit.Bare(b)
	_, err := demo.SetUp(ctx, s.Shop)
	require.NoError(b, err)
	who, err := office.PersonByLogin(ctx, s.Shop, "")
	require.NoError(b, err)
	require.NoError(b, demo.Seed(ctx, s.Shop, who, variants, 26, func(int) {}))
	for _, page := range []struct{ name, path string }{
		{"first look at the catalog", "/catalog"}, {"Today", "/"}, {"catalog", "/catalog"},
		{"catalog by on hand", "/catalog?sort=-on_hand"}, {"catalog by value",
			"/catalog?sort=-value"}, {"catalog by margin", "/catalog?sort=margin"},
		{"variants by on hand", "/catalog?by=variant&sort=-on_hand"}, {"variants by value",
			"/catalog?by=variant&sort=-value"}, {"variants by margin", "/catalog?by=variant&sort=margin"},
		{"catalog with two words", "/catalog?q=tidal+vest"}, {"page 100 of the catalog",
			"/catalog?page=100"}, {"page 400 of the variants", "/catalog?by=variant&page=400"},
		{"stock", "/stock"}, {"page 400 of the stock list", "/stock?page=400"}, {"page 2000 of the stock list",
			"/stock?page=2000"}, {"a product", "/catalog/2500"}, {"a stock card", "/stock/50000"},
		{"documents", "/documents"},
	} {
		b.Run(page.name, func(b *testing.B) {
			c := newClient(b, s) // a program that just started
			c.signIn("maren")
			var took []time.Duration
			for b.Loop() {
				if page.name == "first look at the catalog" {
					b.StopTimer()
					c.app, err = New(s.Shop, kit.Config{})
					require.NoError(b, err)
					b.StartTimer()
				}
				began := time.Now()
				status, _ := c.get(page.path)
				took = append(took, time.Since(began))
				require.Equal(b, http.StatusOK, status)
			}
			slices.Sort(took)
			b.ReportMetric(0, "ns/op")
			for _, p := range []int{50, 95} {
				b.ReportMetric(took[min(len(took)*p/100, len(took)-1)].Seconds()*1000, fmt.Sprintf("p%d-ms", p))
			}
		})
	}
}
