package counts_test

import (
	"fmt"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/demo"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
	storecounts "itemrack/store/counts"
)

// BenchmarkTwentyThousandRows counts a shop of 20 000 rows: eight people scan at once, at four servers on one
// database; then it is settled as one document. It reports how long half and 95 of 100 scans took, a page of
// the rows, and settling.
func BenchmarkTwentyThousandRows(b *testing.B) {
	s := testkit.Bare(b)
	_, err := demo.SetUp(ctx, s.Shop)
	require.NoError(b, err)
	maren, err := office.PersonByLogin(ctx, s.Shop, "maren")
	require.NoError(b, err)
	require.NoError(b, demo.Seed(ctx, s.Shop, maren, 20_000, 7, func(int) {}))
	servers := []*deed.Shop{s.Shop, s.Beside(b), s.Beside(b), s.Beside(b)}
	for b.Loop() {
		plan, err := counts.PlanCount(s.By(maren), counts.CountPlan{Branch: 1, Whole: true})
		require.NoError(b, err)
		rows, err := storecounts.CountRows(s.Store.Read(ctx), plan.ID)
		require.NoError(b, err)
		const each = 250
		took := make([]time.Duration, 8*each)
		var all sync.WaitGroup
		for n := range 8 {
			all.Go(func() {
				for i := range each {
					began := time.Now()
					_, err := counts.Count(deed.By(ctx, servers[n%4], maren, fmt.Sprint("scan-", n, "-", i)), plan.ID,
						counts.CountInput{Variant: rows[(n*each+i)*len(rows)/(8*each)].VariantID,
							Lot:       rows[(n*each+i)*len(rows)/(8*each)].LotID,
							Condition: rows[(n*each+i)*len(rows)/(8*each)].Condition, Quantity: "1"})
					took[n*each+i] = time.Since(began)
					assert.NoError(b, err)
				}
			})
		}
		all.Wait()
		slices.Sort(took)
		b.ReportMetric(float64(plan.Rows), "rows")
		b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "scan-p50-ms")
		b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "scan-p95-ms")
		began := time.Now()
		_, err = counts.ReadPage(s.By(maren), plan.ID, counts.CountPage{Page: 3, Size: 120})
		require.NoError(b, err)
		b.ReportMetric(float64(time.Since(began).Milliseconds()), "page-ms")
		began = time.Now()
		_, err = counts.CountStands(s.By(maren), plan.ID)
		require.NoError(b, err)
		b.ReportMetric(time.Since(began).Seconds(), "stands-s")
		began = time.Now()
		_, err = counts.SettleCount(s.By(maren), plan.ID, counts.SettleInput{Uncounted: "zero"})
		require.NoError(b, err)
		b.ReportMetric(time.Since(began).Seconds(), "settle-s")
	}
	b.ReportMetric(0, "ns/op")
}
