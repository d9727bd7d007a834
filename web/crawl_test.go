package web

import (
	"context"
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/demo"
	"itemrack/shop/testkit"
)

var (
	hrefs   = regexp.MustCompile(`href="(/[^"#]*)`)
	numbers = regexp.MustCompile(`[0-9]+|[A-Z]{1,3}[0-9]*-[A-Z]*[0-9]+`)
)

// kindOf is what addresses have in common that differ only by what they are about.
func kindOf(address string) string {
	at, err := url.Parse(address)
	if err != nil {
		return address
	}
	var asked []string
	for name := range at.Query() {
		asked = append(asked, name)
	}
	return numbers.ReplaceAllString(at.Path, "N") + "?" + strings.Join(asked, "&")
}

// TestTheDemoShop looks at a shop that has a history of four days.
func TestTheDemoShop(t *testing.T) {
	s := testkit.Bare(t)
	_, err := demo.Load(context.Background(), s.Shop, 4, 26, func(int) {})
	require.NoError(t, err)
	t.Run("answers are as described", func(t *testing.T) { answersAreAsDescribed(t, s) })
	t.Run("every link leads somewhere", func(t *testing.T) { everyLinkLeadsSomewhere(t, s) })
}

// everyLinkLeadsSomewhere follows the links of a shop that has a history, from Today
// on, three of each kind: each leads to a page or a file, and together they reach the
// pages that there are.
func everyLinkLeadsSomewhere(t *testing.T, s *testkit.Shop) {
	t.Helper()
	c := newClient(t, s)
	c.signIn("maren")
	const each = 3
	seen, kinds, reached := map[string]bool{}, map[string]int{}, map[string]bool{}
	next := []string{"/"}
	for len(next) > 0 {
		address := next[0]
		next = next[1:]
		kind := kindOf(address)
		if seen[address] || kinds[kind] >= each || strings.HasPrefix(address, "/static/") {
			continue
		}
		seen[address] = true
		kinds[kind]++
		status, body := c.get(address)
		if status != http.StatusSeeOther { // a draft that is posted leads to its document
			assert.Equal(t, http.StatusOK, status, "%s: %s", address, cut(body))
		}
		reached[strings.TrimSuffix(kind, "?")] = true
		if !strings.HasPrefix(body, "<!doctype html>") {
			continue
		}
		assert.Empty(t, invalid(body), "%s is no right HTML", address)
		for _, m := range hrefs.FindAllStringSubmatch(body, -1) {
			next = append(next, html.UnescapeString(m[1]))
		}
	}
	for _, page := range []string{"/catalog", "/catalog/N", "/catalog/N/edit", "/stock", "/stock/N",
		"/stock/not-for-sale", "/stock/in-step", "/documents", "/documents/N", "/buying", "/buying/N",
		"/register", "/register/N", "/register/N/take-back", "/drawers", "/drawers/N", "/sales/N",
		"/sales/N/receipt.pdf", "/counts", "/counts/N", "/labels", "/settings", "/devices"} {
		assert.True(t, reached[page], "no link leads to %s", page)
	}
}

// cut is the beginning of a page that failed.
func cut(body string) string { return body[:min(len(body), 300)] }
