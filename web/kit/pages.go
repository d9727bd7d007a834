package kit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html/template"
	"io/fs"
	"net/url"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/store/book"
	"itemrack/store/office"
)

// pageSet is the templates, one set for each page.
type pageSet struct {
	byName    map[string]*template.Template
	fragments *template.Template
}

// Place is a part of the house on the web: its addresses, and the templates,
// modules and styles that lie beside them. One with a key hangs on the rail.
type Place struct {
	Name, Path, Key string
	Deed            staff.Deed
	Pages, API      []Route
	Files           fs.FS
	Funcs           template.FuncMap // what its templates call beside those that all have
}

// view is what a page's template gets.
type view struct {
	Title  string
	Place  string
	Places []Place
	Who    staff.Actor
	CSRF   string
	Shop   string
	Branch string
	// Practice says that what is posted can still be cleared.
	Practice bool
	Data     any
	query    func(name string) string
}

// pagesFor are the templates as they write amounts and moments in a shop of some terms;
// they are parsed when such a shop is first seen.
func (s *Server) pagesFor(set terms.Terms) (*pageSet, error) {
	name := set.Currency.Code + " " + set.Zone.String()
	if have, ok := s.pages.Load(name); ok {
		return have.(*pageSet), nil
	}
	made, err := parsePages(s, set)
	if err != nil {
		return nil, err
	}
	s.pages.Store(name, made)
	return made, nil
}

func parsePages(s *Server, set terms.Terms) (*pageSet, error) {
	funcs := template.FuncMap{
		"static": s.static,
		"module": s.module,
		"ahead":  s.ahead,
		"money":  set.Currency.Format,
		"amount": func(d decimal.Decimal) string {
			return strings.Replace(money.Group(set.Minor().Text(d)), "-", "−", 1)
		},
		"cost":   func(d decimal.Decimal) string { return costFigure(d, set.Currency) },
		"qty":    Quantity,
		"signed": Signed,
		"when":   func(t time.Time) string { return when(t, s.Shop.Now(), set) },
		"since": func(t time.Time) string { // in the middle of a sentence
			return strings.Replace(when(t, s.Shop.Now(), set), "Today", "today", 1)
		},
		"units":            func(d decimal.Decimal) string { return FigureText(&d) },
		"clock":            func(t time.Time) string { return t.In(set.Zone).Format("15:04") },
		"day":              func(t time.Time) string { return t.In(set.Zone).Format("2 Jan 2006") },
		"onDay":            func(day time.Time) string { return onDay(day, s.Shop.Now(), set) },
		"json":             toJSON,
		"add":              func(a, b int) int { return a + b },
		"neg":              func(d decimal.Decimal) decimal.Decimal { return d.Neg() },
		"sub":              func(a, b decimal.Decimal) decimal.Decimal { return a.Sub(b) },
		"lower":            strings.ToLower,
		"permille":         func(n int) string { return decimal.New(int64(n), -1).StringFixed(1) },
		"plural":           plural,
		"shortestPassword": func() int { return staff.ShortestPassword },
		"revision":         revision.Of,
		"swatch":           swatch,
		"list":             func(texts ...string) []string { return texts },
		// a query that is encoded already; the page escapes it for the attribute
		"encoded":  func(query string) template.URL { return template.URL(query) }, //nolint:gosec
		"costText": func(d decimal.Decimal) string { return CostText(d, set.Minor()) },
		"deref":    func(d *decimal.Decimal) string { return FigureText(d) },
		"restock":  catalog.SaidRestock,
		"orNone":   orNone,
		"dict":     dict,
		"in":       func(list []string, text string) bool { return slices.Contains(list, text) },
		"id":       func(id *uint64) uint64 { return *id },
		"is":       func(id *uint64, other uint64) bool { return id != nil && *id == other },
		"text": func(s *string) string {
			switch {
			case s == nil:
				return ""
			case *s == "":
				return "none"
			}
			return *s
		},
		"has":    func(list []uint64, id uint64) bool { return slices.Contains(list, id) },
		"symbol": func() string { return set.Currency.Symbol },
		"minor":  func() money.Minor { return set.Minor() },
		"places": func() int32 { return set.Minor().Places() },
		"bars":   bars,
		// SVG escapes its texts
		"svg": func(p paper.Page, title string) template.HTML { return template.HTML(p.SVG(title)) }, //nolint:gosec
	}
	base := template.New("").Funcs(funcs)
	for _, p := range s.places {
		base.Funcs(p.Funcs)
	}
	for _, p := range s.places {
		parts, err := fs.Glob(p.Files, "*_parts.html")
		if err != nil || len(parts) == 0 {
			continue
		}
		if base, err = base.ParseFS(p.Files, parts...); err != nil {
			return nil, err
		}
	}
	made := &pageSet{byName: map[string]*template.Template{}, fragments: base}
	for _, p := range s.places {
		names, err := fs.Glob(p.Files, "*.html")
		if err != nil {
			return nil, err
		}
		for _, file := range names {
			name := strings.TrimSuffix(file, ".html")
			if strings.HasSuffix(name, "_parts") {
				continue
			}
			one, err := base.Clone()
			if err != nil {
				return nil, err
			}
			if made.byName[name], err = one.ParseFS(p.Files, file); err != nil {
				return nil, fmt.Errorf("page %s: %w", name, err)
			}
		}
	}
	return made, nil
}

// Quantity writes a quantity with the decimals of its unit.
func Quantity(code string, q decimal.Decimal) string {
	u, err := unit.ByCode(code)
	if err != nil || code == "" {
		return strings.Replace(q.String(), "-", "−", 1)
	}
	return u.Format(q)
}

// Signed writes a quantity with its sign.
func Signed(code string, q decimal.Decimal) string {
	if q.IsPositive() {
		return "+" + Quantity(code, q)
	}
	return Quantity(code, q)
}

// when writes a moment as a colleague would: the time today, else the day.
func when(t, at time.Time, set terms.Terms) string {
	local, now := t.In(set.Zone), at.In(set.Zone)
	switch {
	case local.Format(time.DateOnly) == now.Format(time.DateOnly):
		return "Today " + local.Format("15:04")
	case local.Year() == now.Year():
		return local.Format("2 Jan 15:04")
	}
	return local.Format("2 Jan 2006")
}

// onDay writes a day without an hour; one of another year with its year.
func onDay(day, now time.Time, set terms.Terms) string {
	if day.Year() == now.In(set.Zone).Year() {
		return day.Format("Mon 2 Jan")
	}
	return day.Format("2 Jan 2006")
}

func toJSON(v any) (template.JS, error) {
	data, err := json.Marshal(v)
	return template.JS(data), err //nolint:gosec // json.Marshal escapes what could end a script
}

// dict gives a template several values under names.
func dict(pairs ...any) (map[string]any, error) {
	if len(pairs)%2 != 0 {
		return nil, fmt.Errorf("dict: %d values make no pairs", len(pairs))
	}
	m := map[string]any{}
	for i := 0; i < len(pairs); i += 2 {
		m[fmt.Sprint(pairs[i])] = pairs[i+1]
	}
	return m, nil
}

// Page shows a page in the layout.
func (c *Call) Page(name, at, title string, data any) error {
	v := view{
		Title: title,
		Place: at,
		Who:   c.Who,
		CSRF:  pageToken(sessionOf(c.Ctx)),
		Data:  c.shown(data),
		query: func(name string) string { return c.Query(name) },
	}
	for _, p := range c.server.places {
		if p.Key != "" && c.Who.Can(p.Deed) {
			v.Places = append(v.Places, p)
		}
	}
	if c.Who.ID != 0 {
		branches, err := office.AllBranches(c.Q())
		if err != nil {
			return err
		}
		if v.Practice, err = book.Practising(c.Q()); err != nil {
			return err
		}
		for _, b := range branches {
			if b.ID == c.Who.Branch {
				v.Branch = b.Name
			}
		}
	}
	pages, err := c.server.pagesFor(c.Terms)
	if err != nil {
		return err
	}
	return c.send(pages.byName[name], "layout", v)
}

// Fragment sends a part of a page.
func (c *Call) Fragment(name string, data any) error {
	pages, err := c.server.pagesFor(c.Terms)
	if err != nil {
		return err
	}
	return c.send(pages.fragments, name, c.shown(data))
}

// shown is what of a page's data the person may see.
func (c *Call) shown(data any) any {
	if c.Who.Can(staff.DeedCosts) {
		return data
	}
	return masked(data)
}

func (c *Call) send(t *template.Template, name string, data any) error {
	var out bytes.Buffer
	if err := t.ExecuteTemplate(&out, name, data); err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, fiber.MIMETextHTMLCharsetUTF8)
	return c.Ctx.Send(out.Bytes())
}

// Query is a part of the address that a page was asked with.
func (v view) Query(name string) string { return v.query(name) }

// Filtered is the address' filters, to put another part behind.
func (v view) Filtered() template.URL {
	filters := url.Values{}
	for _, name := range []string{"q", "kind", "at", "branch", "condition", "category", "supplier", "brand", "is",
		"person", "reason", "from", "to"} {
		if value := v.query(name); value != "" {
			filters.Set(name, value)
		}
	}
	if len(filters) == 0 {
		return ""
	}
	return template.URL(filters.Encode() + "&") //nolint:gosec // it is encoded
}

// Can reports whether the person may do a deed, by its name.
func (v view) Can(deed string) bool { return v.Who.Can(staff.Deed(deed)) }

// plural is text.Plural of a number that may be kept by its place.
func plural(n any, one, many string) string {
	if v := reflect.ValueOf(n); v.Kind() == reflect.Pointer && !v.IsNil() {
		n = v.Elem().Interface()
	}
	return text.Plural(n, one, many)
}
