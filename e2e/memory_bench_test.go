package e2e

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"itemrack/demo"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

// pagesOpened are pages that are opened once each while memory is watched.
var pagesOpened = []string{"/", "/catalog", "/catalog?by=variant&sort=-value", "/catalog/2500", "/stock",
	"/stock?page=2000", "/stock/50000", "/stock/lots", "/stock/movements", "/stock/not-for-sale", "/documents", "/buying",
	"/prices", "/counts", "/counts/history", "/register", "/register/1", "/drawers", "/customers", "/labels", "/devices"}

// BenchmarkMemory sells each of the 100 000 variants of the generator's shop once, three at a time and in any order,
// through the program as it is built, opens its pages and takes its catalog and movements as files. It reports how much
// memory was resident at the most: while it sold, while pages were opened, and while files were sent.
func BenchmarkMemory(b *testing.B) {
	const variants = 100_000
	ctx := context.Background()
	s := testkit.Bare(b)
	_, err := demo.SetUp(ctx, s.Shop)
	require.NoError(b, err)
	who, err := office.PersonByLogin(ctx, s.Shop, "maren")
	require.NoError(b, err)
	require.NoError(b, demo.Seed(ctx, s.Shop, who, variants, 26, func(int) {}))
	token, err := office.MakeToken(s.By(who), office.TokenInput{Name: "bench"})
	require.NoError(b, err)
	_, err = register.OpenDrawer(s.By(who), 1, "100")
	require.NoError(b, err)
	server := run(b, build(b), s.DSN, freePort(b))
	most := watched(b, server.Process.Pid)
	for b.Loop() {
		var wait sync.WaitGroup
		turn := rand.Perm(variants)
		next, sold := new(atomic.Int64), new(atomic.Int64)
		for range 4 {
			wait.Go(func() {
				for {
					at := int(next.Add(3)) - 3
					if at >= variants-2 {
						return
					}
					body := fmt.Sprintf(`{"register_id":1,"cash":"100000","lines":[{"variant_id":%d,"quantity":"1"},`+
						`{"variant_id":%d,"quantity":"1"},{"variant_id":%d,"quantity":"1"}]}`, turn[at]+1, turn[at+1]+1, turn[at+2]+1)
					if asked(server.address+"/api/v1/sales", token.Token, body) == http.StatusOK {
						sold.Add(1)
					}
				}
			})
		}
		wait.Wait()
		require.Greater(b, sold.Load(), int64(variants/6), "what is not here is refused, the rest is sold")
		b.ReportMetric(most(), "MB-selling")
		for _, path := range pagesOpened {
			require.Equal(b, http.StatusOK, asked(server.address+path, token.Token, ""), path)
		}
		b.ReportMetric(most(), "MB-pages")
		for _, path := range []string{"/catalog/export?format=csv", "/stock/movements?format=csv"} {
			require.Equal(b, http.StatusOK, asked(server.address+path, token.Token, ""), path)
		}
		b.ReportMetric(most(), "MB-files")
	}
	b.ReportMetric(0, "ns/op")
}

// asked sends a request, reads its answer to the end and returns its status; 0 for none.
func asked(address, token, body string) int {
	method := http.MethodGet
	if body != "" {
		method = http.MethodPost
	}
	request, err := http.NewRequest(method, address, bytes.NewBufferString(body))
	if err != nil {
		return 0
	}
	request.Header.Set("Authorization", "Bearer "+token)
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return 0
	}
	defer answer.Body.Close()
	if _, err := io.Copy(io.Discard, answer.Body); err != nil {
		return 0
	}
	return answer.StatusCode
}

// watched watches how much memory of a process is resident, in MB, and gives what says how much that was at the most
// since it was asked last.
func watched(b *testing.B, pid int) (most func() float64) {
	b.Helper()
	var kept atomic.Int64
	end := make(chan struct{})
	b.Cleanup(func() { close(end) })
	look := func() {
		data, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", pid))
		if err != nil {
			return
		}
		words := bytes.Fields(data)
		if len(words) < 2 {
			return
		}
		if pages, err := strconv.ParseInt(string(words[1]), 10, 64); err == nil {
			kept.Store(max(kept.Load(), pages*int64(os.Getpagesize())))
		}
	}
	go func() {
		for {
			select {
			case <-end:
				return
			case <-time.After(20 * time.Millisecond):
				look()
			}
		}
	}()
	return func() float64 {
		look()
		return float64(kept.Swap(0)) / (1 << 20)
	}
}
