package web

import (
	"bufio"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/stock"
	"itemrack/sheet"
	"itemrack/shop"
	"itemrack/store"
)

// listQuery is what an address asks of the list of the catalog.
type listQuery struct {
	Filter   store.ListFilter
	Variants bool
	Columns  []shop.ListColumn
	Shown    []string // codes of the columns
	query    string
}

// usualColumns are shown when nothing is chosen.
var usualColumns = map[bool][]string{false: {"category", "supplier", "variants", "price", "margin", "on_hand"}, true: {"sku", "barcode", "price", "margin", "on_hand"}}

// listOf reads what an address asks of the list of the catalog.
func (c *call) listOf() (listQuery, error) {
	l := listQuery{query: c.query(), Variants: c.Query("by") == "variant", Filter: store.ListFilter{Words: c.Query("q"), Category: fiber.Query[uint64](c.Ctx, "category"), Supplier: fiber.Query[uint64](c.Ctx, "supplier"), Brand: c.Query("brand"),
		Value: c.Query("value"), Attribute: c.Query("attribute"), Tracking: c.Query("tracking"), Discontinued: c.Query("discontinued"), Sort: c.Query("sort"),
		NoBarcode: c.Query("without") == "barcode", NoPicture: c.Query("without") == "picture", NoPrice: c.Query("without") == "price", UnderCost: c.Query("is") == "under cost", Low: c.Query("is") == "low"}}
	for name, into := range map[string]**decimal.Decimal{"price_from": &l.Filter.PriceFrom, "price_to": &l.Filter.PriceTo, "margin_from": &l.Filter.MarginFrom, "margin_to": &l.Filter.MarginTo, "stock_from": &l.Filter.StockFrom, "stock_to": &l.Filter.StockTo} {
		text := strings.TrimSpace(c.Query(name))
		if text == "" {
			continue
		}
		d, ok := number.Parse(text)
		if !ok {
			return l, fault.Field(name, text, "a number", "%q is not a number.", text)
		}
		*into = &d
	}
	l.Shown = usualColumns[l.Variants]
	if chosen := c.Query("columns"); chosen != "" {
		l.Shown = strings.Split(chosen, ",")
	}
	for _, column := range shop.CatalogColumns {
		if slices.Contains(l.Shown, column.Code) && column.Of(l.Variants) {
			l.Columns = append(l.Columns, column)
		}
	}
	return l, store.CheckSort(l.Filter.Sort)
}

// listRow is a row of the list as it is shown.
type listRow struct {
	ID, Variant  uint64
	Name, Label  string
	Picture      uint64
	Discontinued bool
	Tracking     string
	Low, Under   bool
	Cells        []listCell
}

type listCell struct {
	Text   string
	Number bool
	Code   bool
}

// shown writes a cell of a list for people.
func (c *call) shown(column shop.ListColumn, value any, unit string) listCell {
	cell := listCell{Number: column.Number, Code: column.Code == "sku" || column.Code == "barcode"}
	switch v := value.(type) {
	case nil:
		cell.Text = "–"
	case string:
		cell.Text = v
	case int:
		cell.Text = strconv.Itoa(v)
	case time.Time:
		cell.Text = v.In(c.server.shop.Zone).Format("2 Jan 2006")
	case decimal.Decimal:
		switch column.Code {
		case "on_hand", "for_sale":
			cell.Text = quantity(unit, v)
		case "margin":
			cell.Text = strings.Replace(v.StringFixed(1), "-", "−", 1)
		default:
			cell.Text = strings.Replace(money.Group(v.StringFixed(2)), "-", "−", 1)
		}
	default:
		cell.Text = fmt.Sprint(v)
	}
	return cell
}

// listRows reads a page of the list.
func (c *call) listRows(l listQuery) ([]listRow, bool, error) {
	now := c.server.shop.Now()
	var list []listRow
	if l.Variants {
		rows, more, err := c.q().Variants(l.Filter, c.pageNumber(), now)
		for _, r := range rows {
			row := listRow{ID: r.ProductID, Variant: r.ID, Name: r.Name, Label: r.Label, Picture: r.PictureID, Discontinued: r.Discontinued || r.Retired, Tracking: r.Tracking, Low: r.Low, Under: r.Under}
			for _, column := range l.Columns {
				row.Cells = append(row.Cells, c.shown(column, column.VariantCell(r), r.Unit))
			}
			list = append(list, row)
		}
		return list, more, err
	}
	rows, more, err := c.q().Products(l.Filter, c.pageNumber(), now)
	for _, r := range rows {
		row := listRow{ID: r.ID, Variant: r.Variant, Name: r.Name, Picture: r.PictureID, Discontinued: r.Discontinued, Tracking: r.Tracking, Low: r.Low > 0, Under: r.Under}
		for _, column := range l.Columns {
			if r.Tracking == string(stock.NotStocked) && (column.Code == "on_hand" || column.Code == "value") {
				row.Cells = append(row.Cells, listCell{Text: "–", Number: true})
				continue
			}
			row.Cells = append(row.Cells, c.shown(column, column.ProductCell(r), r.Unit))
		}
		list = append(list, row)
	}
	return list, more, err
}

// found reads a page of the list; when nothing is found, the words that may have
// been meant are searched for.
func (c *call) found(l *listQuery) (rows []listRow, more bool, meant string, err error) {
	if err := c.server.shop.PricesDue(c.ctx); err != nil {
		return nil, false, "", err
	}
	if rows, more, err = c.listRows(*l); err != nil || len(rows) > 0 || l.Filter.Words == "" {
		return rows, more, "", err
	}
	if meant, err = c.q().Meant(l.Filter.Words); err != nil || meant == "" {
		return nil, false, "", err
	}
	l.Filter.Words = meant
	rows, more, err = c.listRows(*l)
	return rows, more, meant, err
}

func (c *call) catalog() error {
	l, err := c.listOf()
	if err != nil {
		return err
	}
	words := l.Filter.Words
	rows, more, meant, err := c.found(&l)
	if err != nil {
		return err
	}
	data := map[string]any{"Rows": rows, "List": l, "Pager": c.pager(more), "Meant": meant, "Words": words, "Query": c.query(), "At": (c.pageNumber() - 1) * store.PageSize}
	if c.Query("fragment") != "" {
		return c.fragment("catalog_rows", data)
	}
	for name, read := range map[string]func() (any, error){
		"Categories": func() (any, error) { return c.q().Categories() },
		"Suppliers":  func() (any, error) { return c.q().Suppliers() },
		"Brands":     func() (any, error) { return c.q().Brands() },
		"Attributes": func() (any, error) { return c.q().AttributeNames() },
		"Views":      func() (any, error) { return c.q().SavedViews(c.who.ID) },
		"Edits":      func() (any, error) { return c.q().BulkEdits(3) },
	} {
		if data[name], err = read(); err != nil {
			return err
		}
	}
	var columns []map[string]any
	for _, column := range shop.CatalogColumns {
		if column.Of(l.Variants) {
			columns = append(columns, map[string]any{"Code": column.Code, "Name": column.Name, "On": slices.Contains(l.Shown, column.Code)})
		}
	}
	data["Columns"], data["Empty"] = columns, len(rows) == 0 && c.query() == ""
	data["Filters"] = c.filters()
	return c.page("catalog", "Catalog", "Catalog", data)
}

// filterNames are the parts of an address that narrow the list, beside words.
var filterNames = []string{"category", "supplier", "brand", "value", "attribute", "tracking", "discontinued", "without", "is", "price_from", "price_to", "margin_from", "margin_to", "stock_from", "stock_to"}

// filters counts what narrows the list.
func (c *call) filters() int {
	n := 0
	for _, name := range filterNames {
		if c.Query(name) != "" && name != "category" && name != "supplier" {
			n++
		}
	}
	return n
}

// query is the address' query without the page and the fragment.
func (c *call) query() string {
	values := url.Values{}
	for _, name := range append([]string{"q", "by", "sort", "columns"}, filterNames...) {
		if value := c.Query(name); value != "" {
			values.Set(name, value)
		}
	}
	return values.Encode()
}

// sortLink is the head of a column, with the address that sorts by it.
type sortLink struct {
	Name, Query, Is string
	Can             bool
}

// sorting makes the head of a column: the first click sorts names rising and
// figures falling, the next turns that round.
func sorting(l listQuery, code, name string, number bool) sortLink {
	if store.CheckSort(code) != nil {
		return sortLink{Name: name}
	}
	link := sortLink{Name: name, Can: true}
	next := code
	if number {
		next = "-" + code
	}
	switch l.Filter.Sort {
	case code:
		link.Is, next = "ascending", "-"+code
	case "-" + code:
		link.Is, next = "descending", code
	}
	values, _ := url.ParseQuery(l.query)
	values.Set("sort", next)
	link.Query = values.Encode()
	return link
}

// exportCatalog sends the list as a file: as it is shown, or whole in the columns
// of a stock list, which can be read in again.
func (c *call) exportCatalog() error {
	l, err := c.listOf()
	if err != nil {
		return err
	}
	format, err := sheet.ParseFormat(c.Query("format"))
	if err != nil {
		return err
	}
	who, s, ctx := c.who, c.server.shop, c.ctx
	if c.Query("as") == "list" {
		return c.file("catalog-list", format, func(w *bufio.Writer) error {
			return s.ExportList(ctx, who, l.Filter, l.Variants, l.Columns, format, w)
		})
	}
	return c.file("catalog", format, func(w *bufio.Writer) error { return s.ExportCatalog(ctx, who, l.Filter, format, w) })
}

// file sends a file that is written while it is sent away.
func (c *call) file(name string, format sheet.Format, write func(w *bufio.Writer) error) error {
	c.Set(fiber.HeaderContentType, format.Type())
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="%s.%s"`, name, format))
	w := bufio.NewWriterSize(c.Response().BodyWriter(), 64<<10)
	if err := write(w); err != nil {
		c.Response().Reset()
		return err
	}
	return w.Flush()
}

func apiProducts(c *call) (list[store.ProductRow], error) { return pageOf(c, store.Q.Products) }

func apiVariants(c *call) (list[store.VariantRow], error) { return pageOf(c, store.Q.Variants) }

// pageOf reads a page of the catalog's list for a program.
func pageOf[T any](c *call, read func(q store.Q, f store.ListFilter, page int, now time.Time) ([]T, bool, error)) (list[T], error) {
	l, err := c.listOf()
	if err != nil {
		return list[T]{}, err
	}
	if err := c.server.shop.PricesDue(c.ctx); err != nil {
		return list[T]{}, err
	}
	rows, more, err := read(c.q(), l.Filter, c.pageNumber(), c.server.shop.Now())
	return listOf(rows, more), err
}

// bulkInput is a bulk change of the products ticked, or of all that a list holds.
type bulkInput struct {
	shop.BulkChange
	Query   string `json:"query"` // of the list, when all of it is meant
	Preview bool   `json:"preview"`
}

func apiBulk(c *call, in bulkInput) (shop.BulkResult, error) {
	if in.Query != "" {
		ids, err := c.listed(in.Query)
		if err != nil {
			return shop.BulkResult{}, err
		}
		in.Products = ids
	}
	if in.Preview {
		result, err := c.server.shop.PreviewBulk(c.ctx, c.who, in.BulkChange)
		result.Rows = result.Rows[:min(len(result.Rows), 200)]
		return result, err
	}
	return c.server.shop.ChangeBulk(c.ctx, c.who, c.key(), in.BulkChange)
}

// listed finds all products of a list by the query of its address.
func (c *call) listed(query string) ([]uint64, error) {
	if len(query) > 2000 {
		return nil, fault.Field("query", query[:40], "2,000 characters or fewer", "The list can't be read.")
	}
	args := c.RequestCtx().QueryArgs()
	args.Parse(strings.TrimPrefix(query, "?"))
	l, err := c.listOf()
	if err != nil {
		return nil, err
	}
	l.Filter.Sort = ""
	return c.q().ProductIDs(l.Filter, 0, 20_001, c.server.shop.Now())
}

func apiUndoBulk(c *call, id uint64) (shop.BulkResult, error) {
	return c.server.shop.UndoBulk(c.ctx, c.who, c.key(), id)
}

func apiSaveView(c *call, in shop.ViewInput) (bool, error) {
	return c.server.shop.SaveView(c.ctx, c.who, in)
}

func apiDropView(c *call, id uint64) (bool, error) {
	return c.server.shop.DropView(c.ctx, c.who, id)
}
