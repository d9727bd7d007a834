package web

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/xuri/excelize/v2"

	"itemrack/shop/counts"
	"itemrack/shop/lists"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

// TestEmptyPagesSayWhatTheyAreFor opens the lists of a shop with nothing in it.
func TestEmptyPagesSayWhatTheyAreFor(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	c.signIn("maren")
	for path, says := range map[string]string{"/catalog": "The catalog is empty", "/buying": "No delivery yet",
		"/stock": "No stock is kept yet", "/stock/not-for-sale": "Everything on hand is for sale",
		"/counts": "Nothing was counted yet", "/documents": "No document of this kind yet",
		"/drawers": "No drawer was opened yet", "/": "Nothing is below its restock level",
		"/devices": "Nothing was printed yet", "/catalog?q=zzz": "No product has these words"} {
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
	report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(list.String()), 1,
		false)
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
	for path, want := range map[string]int{"/catalog/99": http.StatusNotFound, "/catalog/x": http.StatusNotFound,
		"/stock/99": http.StatusNotFound, "/register/99": http.StatusNotFound,
		"/sales/none": http.StatusNotFound, "/documents/none": http.StatusNotFound, "/counts/99": http.StatusNotFound,
		"/drawers/99": http.StatusNotFound, "/nowhere": http.StatusNotFound,
		"/catalog/new": http.StatusForbidden, "/stock/in-step": http.StatusForbidden,
		"/buying/orders/new": http.StatusForbidden} {
		status, body := c.get(path)
		assert.Equal(t, want, status, path)
		assert.Contains(t, body, "<h1>", path)
		assert.NotContains(t, body, "Error 1", "nothing of the database shows")
	}
	_, body := c.get("/catalog/new")
	assert.Contains(t, body, "Only a manager may change the catalog; Tobi Ashdown is a clerk at the register.")
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
	assert.Contains(t, see("tobi", "/buying"), `href="/buying/new"`)
	assert.NotContains(t, see("tobi", "/buying/orders"), `href="/buying/orders/new"`)
	assert.NotContains(t, see("tobi", "/stock"), `href="/stock/in-step"`)
}

// TestABlindCountHidesWhatIsExpected shows the figure only where it may be seen.
func TestABlindCountHidesWhatIsExpected(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "37", "5")
	page := func(blind bool, branch uint64) string {
		plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: branch, Blind: blind})
		assert.NoError(t, err)
		c := newClient(t, s)
		c.signIn("callum")
		_, body := c.get("/counts/1")
		_, err = counts.SettleCount(s.By(s.Callum), plan.ID,
			counts.SettleInput{Uncounted: "leave"})
		assert.NoError(t, err)
		return body
	}
	assert.NotContains(t, page(true, 1), "of 37")
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	assert.NoError(t, err)
	c := newClient(t, s)
	c.signIn("callum")
	_, body := c.get("/counts/" + fmt.Sprint(plan.ID))
	assert.Contains(t, body, "of 37")
}

// TestTooManyTries slows down somebody who guesses passwords.
func TestTooManyTries(t *testing.T) {
	s := testkit.New(t)
	s.Shop = s.Shop.At(s.Now()) // all of it within one minute
	c := newClient(t, s)
	_, _ = c.get("/login")
	last := 0
	for range 32 {
		last, _ = c.send("POST", "/login", "application/x-www-form-urlencoded",
			url.Values{"login": {"maren"}, "password": {"guess"}, "_csrf": {c.csrf}}.Encode())
	}
	assert.Equal(t, http.StatusForbidden, last)
	_, body := c.send("POST", "/login", "application/x-www-form-urlencoded",
		url.Values{"login": {"maren"}, "password": {testkit.Password}, "_csrf": {c.csrf}}.Encode())
	assert.Contains(t, body, "Too many tries")
	for _, spelled := range []string{"MAREN", " maren", "mar\u200ben", "Maren\u00ad"} {
		_, body = c.send("POST", "/login", "application/x-www-form-urlencoded",
			url.Values{"login": {spelled}, "password": {testkit.Password}}.Encode())
		assert.Contains(t, body, "Too many tries", "%q is the same login", spelled)
	}
	fresh := newClient(t, s)
	fresh.signIn("tobi") // others are not kept out
	for n := range 40 {  // but not everybody may be tried from one address
		_, body = c.send("POST", "/login", "application/x-www-form-urlencoded",
			url.Values{"login": {fmt.Sprint("somebody", n)}, "password": {"guess"}}.Encode())
	}
	assert.Contains(t, body, "Too many tries")
}

// TestListsAsFiles takes each list as a file: the rows that the filter shows,
// every page of them, with cells of their kind.
func TestListsAsFiles(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[1].ID, "3", "13.95")
	s.Stock(t, s.Simple(t, "=Whistle", "counted", "4.00"), "1200", "1")
	s.Open(t, 1)
	for range 60 {
		s.Sold(t, made.Variants[1].ID+5, "1")
	}
	sold := s.Sold(t, made.Variants[1].ID, "1")
	_, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     sold.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	assert.NoError(t, err)
	_, err = counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	assert.NoError(t, err)
	c := newClient(t, s)
	c.signIn("maren")
	rows := func(path string) [][]string {
		status, body := c.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		all, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(body, "\ufeff"))).ReadAll()
		assert.NoError(t, err, path)
		return all
	}
	stock := rows("/stock?format=csv")
	assert.Len(t, stock, 1+7)
	assert.Equal(t, []string{"'=Whistle", "", "WHI", "1140", "1140", "0", "0", "0", "pc", "1", "1140", "no"}, stock[1],
		"a name is no formula")
	assert.Len(t, rows("/stock?q=tidewater&format=csv"), 1+6)
	sales := rows("/documents?kind=Sale&format=csv")
	assert.Len(t, sales, 1+61, "every page of them")
	assert.Equal(t, []string{sold.Number, "Sale", "Quay Shop", "Tobi Ashdown"},
		[]string{sales[1][0], sales[1][1], sales[1][3], sales[1][4]})
	at, err := time.ParseInLocation("2006-01-02 15:04:05", sales[1][2], s.Terms(t).Zone)
	assert.NoError(t, err)
	assert.WithinDuration(t, s.Now(), at, time.Minute, "by the shop's clock")
	assert.Equal(t,
		[]string{"Tidewater rash vest", "Coral · M", "TWV-COR-M", "To look over", "Quay Shop", "", "", "1", "13.95"},
		rows("/stock/not-for-sale?format=csv")[1][:9])
	deliveries := rows("/buying?format=csv")
	assert.Equal(t, []string{"D-0002", "1200", "1200"}, []string{deliveries[1][0], deliveries[1][5], deliveries[1][6]})
	assert.Len(t, rows("/counts?format=csv"), 1+1)
	assert.Equal(t, "100", rows("/drawers?format=csv")[1][6])
	moves := rows(fmt.Sprintf("/stock/%d?format=csv", made.Variants[1].ID))
	assert.Equal(t, []string{"Return", "Sale", "Delivery"}, []string{moves[1][2], moves[2][2], moves[3][2]})
	assert.Equal(t, []string{"-1", "-13.95", "2", "27.9"}, moves[2][9:])
	assert.Equal(
		t,
		[][]string{{"category", "products", "tax class", "markup %", "ending", "restock level", "tile colour"},
			{"Swim", "0", "", "", "", "", ""}, {"Swim > Rash vests", "1", "", "", "", "", ""}},
		rows("/catalog/categories?format=csv")[:3],
	)
	values := rows("/catalog/values?format=csv")
	assert.Contains(t, values, []string{"Colour", "Coral", "#D9604C"})
	assert.Contains(t, values, []string{"Size", "M", ""})
	assert.Equal(t, [][]string{{"price list", "rule"}, {"Regular", "no rule"}}, rows("/prices?format=csv"))
	assert.Len(t, rows("/buying/suppliers?format=csv"), 1+2)
	assert.Equal(t, []string{"Standard", "20", "2000-01-01"}, rows("/prices?list=taxes&format=csv")[1])
	_, body := c.get("/documents?format=xlsx")
	book, err := excelize.OpenReader(strings.NewReader(body))
	assert.NoError(t, err)
	raw, err := book.GetCellValue("Sheet1", "C2", excelize.Options{RawCellValue: true})
	assert.NoError(t, err)
	assert.Regexp(t, `^4\d{4}\.\d`, raw, "a moment, not a text")
	status, body := c.get("/stock?format=pdf")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "csv or xlsx")
}
