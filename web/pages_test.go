package web

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"itemrack/shop"
	"itemrack/shop/testkit"
)

// TestEmptyPagesSayWhatTheyAreFor opens the lists of a shop with nothing in it.
func TestEmptyPagesSayWhatTheyAreFor(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	c.signIn("maren")
	for path, says := range map[string]string{"/catalog": "The catalog is empty", "/buying": "No delivery yet", "/stock": "No stock is kept yet", "/stock/not-for-sale": "Everything on hand is for sale",
		"/counts": "Nothing was counted yet", "/documents": "No document of this kind yet", "/drawers": "No drawer was opened yet", "/": "Nothing is below its restock level", "/devices": "Nothing was printed yet", "/catalog?q=zzz": "No product has these words"} {
		status, body := c.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		assert.Contains(t, body, says, path)
	}
}

// TestListsArePaged walks the pages of a list and keeps the filter on the way.
func TestListsArePaged(t *testing.T) {
	s := testkit.New(t)
	var list strings.Builder
	list.WriteString("product,category,price,cost,opening quantity\n")
	for _, a := range "ABCDEFGHIJ" {
		for _, b := range "ABCDEFGHIJKL" {
			list.WriteString("Thing " + string(a) + string(b) + ",Swim,1.00,0.50,1\n")
		}
	}
	report, err := s.ImportList(context.Background(), s.Maren, "", strings.NewReader(list.String()), 1, false)
	assert.NoError(t, err)
	assert.Equal(t, 120, report.Made)
	c := newClient(t, s)
	c.signIn("tobi")
	for _, path := range []string{"/catalog", "/stock"} {
		_, body := c.get(path + "?q=thing")
		assert.Contains(t, body, "?page=2&amp;q=thing", path)
		assert.NotContains(t, body, `rel="prev"`)
		assert.Equal(t, 50, strings.Count(body, `">Thing `)+strings.Count(body, "<span>Thing "), path)
		_, body = c.get(path + "?q=thing&page=3")
		assert.Contains(t, body, "?page=2&amp;q=thing", path)
		assert.NotContains(t, body, `rel="next"`)
		assert.Equal(t, 20, strings.Count(body, `">Thing `)+strings.Count(body, "<span>Thing "), path)
		for _, odd := range []string{"0", "-3", "x", "99999999999"} {
			status, _ := c.get(path + "?page=" + odd)
			assert.Contains(t, []int{http.StatusOK}, status, odd)
		}
	}
}

// TestRefusalsOnPages shows a sentence, the status and what would be right.
func TestRefusalsOnPages(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	c := newClient(t, s)
	c.signIn("tobi")
	for path, want := range map[string]int{"/catalog/99": http.StatusNotFound, "/catalog/x": http.StatusNotFound, "/stock/99": http.StatusNotFound, "/register/99": http.StatusNotFound,
		"/sales/none": http.StatusNotFound, "/documents/none": http.StatusNotFound, "/counts/99": http.StatusNotFound, "/drawers/99": http.StatusNotFound, "/nowhere": http.StatusNotFound,
		"/catalog/new": http.StatusForbidden, "/stock/in-step": http.StatusForbidden, "/buying/new": http.StatusForbidden} {
		status, body := c.get(path)
		assert.Equal(t, want, status, path)
		assert.Contains(t, body, "<h1>", path)
		assert.NotContains(t, body, "Error 1", "nothing of the database shows")
	}
	_, body := c.get("/catalog/new")
	assert.Contains(t, body, "takes the role manager; Tobi Ashdown has register")
}

// TestWhatARoleDoesNotSee leaves out what a person may not do.
func TestWhatARoleDoesNotSee(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "2", "5")
	see := func(login, path string) string {
		c := newClient(t, s)
		c.signIn(login)
		_, body := c.get(path)
		return body
	}
	assert.Contains(t, see("maren", "/catalog"), `href="/catalog/new"`)
	assert.NotContains(t, see("tobi", "/catalog"), `href="/catalog/new"`)
	assert.Contains(t, see("tobi", "/"), `href="/register"`)
	assert.NotContains(t, see("callum", "/"), `href="/register"`)
	assert.Contains(t, see("maren", "/documents/D-0001"), `id="reverse"`)
	assert.NotContains(t, see("callum", "/documents/D-0001"), `id="reverse"`)
	assert.Contains(t, see("callum", "/buying"), `href="/buying/new"`)
	assert.NotContains(t, see("tobi", "/buying"), `href="/buying/new"`)
	assert.NotContains(t, see("tobi", "/stock"), `href="/stock/in-step"`)
}

// TestABlindCountHidesWhatIsExpected shows the figure only where it may be seen.
func TestABlindCountHidesWhatIsExpected(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "37", "5")
	page := func(blind bool, branch uint64) string {
		plan, err := s.PlanCount(context.Background(), s.Callum, "", shop.CountPlan{Branch: 1, Category: branch, Blind: blind})
		assert.NoError(t, err)
		c := newClient(t, s)
		c.signIn("callum")
		_, body := c.get("/counts/1")
		_, err = s.SettleCount(context.Background(), s.Callum, "", plan.ID, shop.SettleInput{Uncounted: "leave"})
		assert.NoError(t, err)
		return body
	}
	assert.NotContains(t, page(true, 1), "of 37")
	plan, err := s.PlanCount(context.Background(), s.Callum, "", shop.CountPlan{Branch: 1, Category: 1})
	assert.NoError(t, err)
	c := newClient(t, s)
	c.signIn("callum")
	_, body := c.get("/counts/" + fmt.Sprint(plan.ID))
	assert.Contains(t, body, "of 37")
}

// TestTooManyTries slows down somebody who guesses passwords.
func TestTooManyTries(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	_, _ = c.get("/login")
	last := 0
	for range 32 {
		last, _ = c.send("POST", "/login", "application/x-www-form-urlencoded", url.Values{"login": {"maren"}, "password": {"guess"}, "_csrf": {c.csrf}}.Encode())
	}
	assert.Equal(t, http.StatusForbidden, last)
	_, body := c.send("POST", "/login", "application/x-www-form-urlencoded", url.Values{"login": {"maren"}, "password": {testkit.Password}, "_csrf": {c.csrf}}.Encode())
	assert.Contains(t, body, "Too many tries")
	fresh := newClient(t, s)
	fresh.signIn("tobi") // others are not kept out
}
