package web

import (
	"context"
	"database/sql"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
	"itemrack/store"
	"itemrack/web/kit"
)

// line is a way to the database that can be cut.
type line struct {
	mu   sync.Mutex
	at   net.Listener
	open []net.Conn
	cut  bool
}

func lineTo(t *testing.T, host string) *line {
	at, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	l := &line{at: at}
	t.Cleanup(func() { _ = at.Close() })
	go func() {
		for {
			from, err := at.Accept()
			if err != nil {
				return
			}
			to, err := net.Dial("tcp", host)
			l.mu.Lock()
			if err != nil || l.cut {
				_ = from.Close()
				l.mu.Unlock()
				continue
			}
			l.open = append(l.open, from, to)
			l.mu.Unlock()
			go func() { _, _ = io.Copy(to, from) }()
			go func() { _, _ = io.Copy(from, to) }()
		}
	}()
	return l
}

// set cuts the line, or mends it.
func (l *line) set(cut bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.cut = cut
	for _, c := range l.open {
		_ = c.Close()
	}
	l.open = nil
}

func TestWhenTheDatabaseIsAwayItIsSaid(t *testing.T) {
	s := testkit.New(t)
	name := s.DSN[strings.LastIndex(s.DSN, "/")+1:]
	name, _, _ = strings.Cut(name, "?")
	way := lineTo(t, testkit.Host(t))
	db, err := store.Open(store.DSN("itemrack", "itemrack", way.at.Addr().String(), name))
	require.NoError(t, err)
	shop := deed.New(context.Background(), db)
	defer shop.Close()
	token, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	require.NoError(t, err)
	app, err := New(shop, kit.Config{})
	require.NoError(t, err)
	c := &client{t: t, app: app, cookies: map[string]string{}, token: token.Token}
	product := `{"name":"Cap","category":"Swim","tracking":"counted","price":"9"}`
	status, _ := c.get("/api/v1/products")
	require.Equal(t, http.StatusOK, status)
	way.set(true)
	for range 2 {
		status, body := c.json("POST", "/api/v1/products", product, "Idempotency-Key", "cap-1")
		assert.Equal(t, http.StatusServiceUnavailable, status, body)
		assert.Contains(t, body, "database")
		assert.NotContains(t, body, "nothing was changed")
	}
	status, body := c.get("/api/v1/products")
	assert.Equal(t, http.StatusServiceUnavailable, status, body)
	way.set(false)
	assert.Eventually(t, func() bool {
		status, _ := c.json("POST", "/api/v1/products", product, "Idempotency-Key", "cap-1")
		return status == http.StatusOK
	}, 10*time.Second, 100*time.Millisecond, "it comes back by itself")
	status, body = c.json("POST", "/api/v1/products", product, "Idempotency-Key", "cap-1")
	assert.Equal(t, http.StatusOK, status, body)
	s.InStep(t)
}

func TestSalesThatWaitLeaveRoomForOthers(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "200", "5")
	s.Open(t, 1)
	token, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	require.NoError(t, err)
	app, err := New(s.Shop, kit.Config{})
	require.NoError(t, err)
	holder, err := sql.Open("mysql", s.DSN)
	require.NoError(t, err)
	defer holder.Close()
	held, err := holder.Begin()
	require.NoError(t, err)
	var locked uint64
	require.NoError(t, held.QueryRow("SELECT variant_id FROM cost_pool WHERE variant_id = ? FOR UPDATE",
		made.Variants[0].ID).Scan(&locked))
	const many = 60
	answers := make([]int, many)
	var all sync.WaitGroup
	for i := range many {
		all.Go(func() {
			c := &client{t: t, app: app, cookies: map[string]string{}, token: token.Token}
			answers[i], _ = c.json("POST", "/api/v1/sales",
				fmt.Sprintf(`{"register_id":1,"lines":[{"variant_id":%d,"quantity":"1"}],"cash":"40"}`,
					made.Variants[0].ID), "Idempotency-Key", fmt.Sprint("wait-", i))
		})
	}
	time.Sleep(700 * time.Millisecond)
	began := time.Now()
	c := &client{t: t, app: app, cookies: map[string]string{}, token: token.Token}
	status, _ := c.get("/api/v1/products")
	assert.Equal(t, http.StatusOK, status)
	assert.Less(t, time.Since(began), 3*time.Second, "who only looks does not wait behind sixty sales")
	require.NoError(t, held.Rollback())
	all.Wait()
	for _, status := range answers {
		assert.NotEqual(t, http.StatusInternalServerError, status)
	}
	s.InStep(t)
}

func TestOverTLSCookiesStayThere(t *testing.T) {
	s := testkit.New(t)
	for secure, want := range map[bool]bool{true: true, false: false} {
		config := kit.Config{}
		if secure {
			config = kit.Config{Secure: true, Proxies: []string{"0.0.0.0"}}
		}
		app, err := New(s.Shop, config)
		require.NoError(t, err)
		request := httptest.NewRequest("POST", "/login", strings.NewReader("login=maren&password=wrong"))
		request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		request.Header.Set("X-Forwarded-Proto", "https")
		answer, err := app.Test(request, fiber.TestConfig{Timeout: 0})
		require.NoError(t, err)
		_ = answer.Body.Close()
		assert.Equal(t, want, answer.Header.Get("Strict-Transport-Security") != "",
			"a proxy that it is not told of is not believed")
		c := &client{t: t, app: app, cookies: map[string]string{}}
		_, _ = c.get("/login")
		request = httptest.NewRequest("GET", "/login", nil)
		answer, err = app.Test(request, fiber.TestConfig{Timeout: 0})
		require.NoError(t, err)
		_ = answer.Body.Close()
		for _, cookie := range answer.Cookies() {
			assert.Equal(t, want, cookie.Secure, cookie.Name)
			assert.True(t, cookie.HttpOnly, cookie.Name)
		}
	}
}
