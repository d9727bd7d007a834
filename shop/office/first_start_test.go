package office_test

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/testkit"
)

var ctx = context.Background()

func TestTheFirstStart(t *testing.T) {
	s := testkit.Bare(t)
	empty, err := office.IsEmpty(ctx, s.Shop)
	require.NoError(t, err)
	assert.True(t, empty)
	start := office.FirstStart{
		Name:       "Saltmarsh",
		Currency:   "EUR",
		WithoutTax: true,
		Branch:     "Quay Shop",
		Manager:    "Maren Holt",
		Login:      "maren",
		Password:   testkit.Password,
		Taxes:      []office.FirstTax{{Name: "Standard", Percent: "19"}, {}, {Name: "Zero", Percent: "0"}},
	}
	for field, spoil := range map[string]func(f *office.FirstStart){"name": func(f *office.FirstStart) { f.Name = " " },
		"currency":       func(f *office.FirstStart) { f.Currency = "XTS" },
		"barcode_prefix": func(f *office.FirstStart) { f.Prefix = "50" },
		"zone":           func(f *office.FirstStart) { f.Zone = "Mars" },
		"branch":         func(f *office.FirstStart) { f.Branch = "" },
		"password":       func(f *office.FirstStart) { f.Password = "short" },
		"login":          func(f *office.FirstStart) { f.Login = "two words" },
		"taxes":          func(f *office.FirstStart) { f.Taxes = nil },
		"costing":        func(f *office.FirstStart) { f.Costing = "guess" },
		"manager":        func(f *office.FirstStart) { f.Manager = "" }} {
		bad := start
		spoil(&bad)
		_, err := office.Begin(ctx, s.Shop, bad)
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	var wait sync.WaitGroup
	var mutex sync.Mutex
	opened := 0
	for range 6 { // several people press it at once
		wait.Add(1)
		go func() {
			defer wait.Done()
			if _, err := office.Begin(context.Background(), s.Shop, start); err == nil {
				mutex.Lock()
				opened++
				mutex.Unlock()
			} else {
				assert.NotNil(t, fault.Of(err), err)
			}
		}()
	}
	wait.Wait()
	assert.Equal(t, 1, opened)
	who, err := office.SignIn(ctx, s.Shop, "127.0.0.1", "maren", testkit.Password)
	require.NoError(t, err)
	settings, err := office.ReadSettings(s.By(who))
	require.NoError(t, err)
	assert.Equal(t, []string{"EUR", "without tax", "moving average", "20"},
		[]string{settings.Currency, settings.Prices, settings.Costing, settings.Ranges[0].Prefix})
	assert.Equal(t, "€", s.Terms(t).Currency.Symbol)
	_, err = prices.SetTaxRate(s.By(who), 1,
		prices.RateInput{Percent: "21", From: s.Now().AddDate(0, 1, 0).Format(time.DateOnly)})
	require.NoError(t, err)
	for _, bad := range []prices.RateInput{{Percent: "21", From: "2001-01-01"}, {Percent: "x"}, {Percent: "101"}} {
		_, err = prices.SetTaxRate(s.By(who), 1, bad)
		assert.Error(t, err, fmt.Sprint(bad))
	}
}
