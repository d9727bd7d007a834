package catalog

import (
	"bufio"
	"errors"
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
	corenumber "itemrack/core/number"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/sheet"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
	"itemrack/shop/prices"
	"itemrack/store"
	"itemrack/store/goods"
	storelists "itemrack/store/lists"
	"itemrack/web/kit"
)

// listQuery is what an address asks of the list of the catalog.
type listQuery struct {
	Filter   goods.ListFilter
	Variants bool
	Columns  []lists.ListColumn
	Shown    []string // codes of the columns
	query    string
}

// usualColumns are shown when nothing is chosen.
var usualColumns = map[bool][]string{
	false: {"category", "supplier", "variants", "price", "margin", "on_hand"},
	true:  {"sku", "barcode", "price", "margin", "on_hand"},
}

// listOf reads what an address asks of the list of the catalog.
func listOf(c *kit.Call) (listQuery, error) {
	l := listQuery{
		query:    query(c),
		Variants: c.Query("by") == "variant",
		Filter: goods.ListFilter{
			Words:        c.Query("q"),
			Category:     fiber.Query[uint64](c.Ctx, "category"),
			Supplier:     fiber.Query[uint64](c.Ctx, "supplier"),
			Brand:        c.Query("brand"),
			Value:        c.Query("value"),
			Attribute:    c.Query("attribute"),
			Tracking:     c.Query("tracking"),
			Discontinued: c.Query("discontinued"),
			Sort:         c.Query("sort"),
			NoBarcode:    c.Query("without") == "barcode",
			NoPicture:    c.Query("without") == "picture",
			NoPrice:      c.Query("without") == "price",
			UnderCost:    c.Query("is") == "under cost",
			Low:          c.Query("is") == "low",
		},
	}
	for name, into := range map[string]**decimal.Decimal{"price_from": &l.Filter.PriceFrom,
		"price_to": &l.Filter.PriceTo, "margin_from": &l.Filter.MarginFrom, "margin_to": &l.Filter.MarginTo,
		"stock_from": &l.Filter.StockFrom, "stock_to": &l.Filter.StockTo} {
		text := strings.TrimSpace(c.Query(name))
		if text == "" {
			continue
		}
		d, ok := corenumber.Parse(text)
		if !ok {
			return l, fault.Field(name, text, "a number", "%q is not a number.", text)
		}
		*into = &d
	}
	if !c.Who.Can(staff.DeedCosts) { // nor can they be found out by filters
		l.Filter.UnderCost, l.Filter.MarginFrom, l.Filter.MarginTo = false, nil, nil
		if by := strings.TrimPrefix(l.Filter.Sort, "-"); by == "margin" || by == "value" {
			l.Filter.Sort = ""
		}
	}
	l.Shown = usualColumns[l.Variants]
	if chosen := c.Query("columns"); chosen != "" {
		l.Shown = strings.Split(chosen, ",")
	}
	for _, column := range lists.ColumnsFor(c.Who) {
		if slices.Contains(l.Shown, column.Code) && column.Of(l.Variants) {
			l.Columns = append(l.Columns, column)
		}
	}
	return l, goods.CheckSort(l.Filter.Sort)
}

// FilterOf is how an address filters the catalog, and that address' query.
func FilterOf(c *kit.Call) (goods.ListFilter, string, error) {
	l, err := listOf(c)
	return l.Filter, l.query, err
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
func shown(c *kit.Call, column lists.ListColumn, value any, unit string) listCell {
	cell := listCell{Number: column.Number, Code: column.Code == "sku" || column.Code == "barcode"}
	switch v := value.(type) {
	case nil:
		cell.Text = "–"
	case string:
		cell.Text = v
	case int:
		cell.Text = strconv.Itoa(v)
	case time.Time:
		cell.Text = v.In(c.Terms.Zone).Format("2 Jan 2006")
	case decimal.Decimal:
		switch column.Code {
		case "on_hand", "for_sale":
			cell.Text = kit.Quantity(unit, v)
		case "margin":
			cell.Text = strings.Replace(v.StringFixed(1), "-", "−", 1)
		default:
			cell.Text = strings.Replace(money.Group(c.Terms.Minor().Text(v)), "-", "−", 1)
		}
	default:
		cell.Text = fmt.Sprint(v)
	}
	return cell
}

// listRows reads a page of the list.
func listRows(c *kit.Call, l listQuery) ([]listRow, bool, error) {
	var list []listRow
	if l.Variants {
		rows, more, err := goods.Variants(c.Q(), l.Filter, c.PageNumber())
		for _, r := range rows {
			row := listRow{
				ID:           r.ProductID,
				Variant:      r.ID,
				Name:         r.Name,
				Label:        r.Label,
				Picture:      r.PictureID,
				Discontinued: r.Discontinued || r.Retired,
				Tracking:     r.Tracking,
				Low:          r.Low,
				Under:        r.Under && c.Who.Can(staff.DeedCosts),
			}
			for _, column := range l.Columns {
				row.Cells = append(row.Cells, shown(c, column, column.VariantCell(r), r.Unit))
			}
			list = append(list, row)
		}
		return list, more, err
	}
	rows, more, err := goods.Products(c.Q(), l.Filter, c.PageNumber())
	for _, r := range rows {
		row := listRow{
			ID:           r.ID,
			Variant:      r.Variant,
			Name:         r.Name,
			Picture:      r.PictureID,
			Discontinued: r.Discontinued,
			Tracking:     r.Tracking,
			Low:          r.Low > 0,
			Under:        r.Under && c.Who.Can(staff.DeedCosts),
		}
		for _, column := range l.Columns {
			if r.Tracking == string(stock.NotStocked) && (column.Code == "on_hand" || column.Code == "value") {
				row.Cells = append(row.Cells, listCell{Text: "–", Number: true})
				continue
			}
			row.Cells = append(row.Cells, shown(c, column, column.ProductCell(r), r.Unit))
		}
		list = append(list, row)
	}
	return list, more, err
}

// found reads a page of the list; when nothing is found, the words that may have
// been meant are searched for.
func found(c *kit.Call, l *listQuery) (rows []listRow, more bool, meant string, err error) {
	if err := errors.Join(prices.PricesDue(c.Until, c.Shop), counts.Unlock(c.Until, c.Shop)); err != nil {
		return nil, false, "", err
	}
	if rows, more, err = listRows(c, *l); err != nil || len(rows) > 0 || l.Filter.Words == "" {
		return rows, more, "", err
	}
	if meant, err = goods.Meant(c.Q(), l.Filter.Words); err != nil || meant == "" {
		return nil, false, "", err
	}
	l.Filter.Words = meant
	rows, more, err = listRows(c, *l)
	return rows, more, meant, err
}

func catalog(c *kit.Call) error {
	l, err := listOf(c)
	if err != nil {
		return err
	}
	words := l.Filter.Words
	rows, more, meant, err := found(c, &l)
	if err != nil {
		return err
	}
	data := map[string]any{
		"Rows":  rows,
		"List":  l,
		"Pager": c.Pager(more),
		"Meant": meant,
		"Words": words,
		"Query": query(c),
		"At":    (c.PageNumber() - 1) * store.PageSize,
	}
	if c.Query("fragment") != "" {
		return c.Fragment("catalog_rows", data)
	}
	for name, read := range map[string]func() (any, error){
		"Categories": func() (any, error) { return goods.Categories(c.Q()) },
		"Suppliers":  func() (any, error) { return goods.Suppliers(c.Q()) },
		"Brands":     func() (any, error) { return goods.Brands(c.Q()) },
		"Attributes": func() (any, error) { return goods.AttributeNames(c.Q()) },
		"Views":      func() (any, error) { return storelists.SavedViews(c.Q(), c.Who.ID) },
		"Edits":      func() (any, error) { return storelists.BulkEdits(c.Q(), 3) },
	} {
		if data[name], err = read(); err != nil {
			return err
		}
	}
	var columns []map[string]any
	for _, column := range lists.ColumnsFor(c.Who) {
		if column.Of(l.Variants) {
			columns = append(columns,
				map[string]any{"Code": column.Code, "Name": column.Name, "On": slices.Contains(l.Shown, column.Code)})
		}
	}
	data["Columns"], data["Empty"] = columns, len(rows) == 0 && query(c) == ""
	data["Filters"] = filters(c)
	return c.Page("catalog", "Catalog", "Catalog", data)
}

// filters counts what narrows the list.
func filters(c *kit.Call) int {
	n := 0
	for _, name := range kit.FilterNames {
		if c.Query(name) != "" && name != "category" && name != "supplier" {
			n++
		}
	}
	return n
}

// query is the address' query without the page and the fragment.
func query(c *kit.Call) string {
	values := url.Values{}
	for _, name := range append([]string{"q", "by", "sort", "columns"}, kit.FilterNames...) {
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
	if goods.CheckSort(code) != nil {
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
func exportCatalog(c *kit.Call) error {
	l, err := listOf(c)
	if err != nil {
		return err
	}
	format, err := sheet.ParseFormat(c.Query("format"))
	if err != nil {
		return err
	}
	who, s, ctx := c.Who, c.Shop, c.Until
	if c.Query("as") == "list" || !c.Who.Can(staff.DeedCosts) {
		return c.File("catalog-list", format, func(w *bufio.Writer) error {
			return lists.ExportList(deed.By(ctx, s, who, ""), l.Filter, l.Variants, l.Columns, format, w)
		})
	}
	return c.File("catalog", format,
		func(w *bufio.Writer) error { return lists.ExportCatalog(deed.By(ctx, s, who, ""), l.Filter, format, w) })
}

func apiProducts(c *kit.Call) (kit.List[goods.ProductRow], error) { return pageOf(c, goods.Products) }

func apiVariants(c *kit.Call) (kit.List[goods.VariantRow], error) { return pageOf(c, goods.Variants) }

// pageOf reads a page of the catalog's list for a program.
func pageOf[T any](c *kit.Call,
	read func(q store.Q, f goods.ListFilter, page int) ([]T, bool, error)) (kit.List[T], error) {
	l, err := listOf(c)
	if err != nil {
		return kit.List[T]{}, err
	}
	if err := errors.Join(prices.PricesDue(c.Until, c.Shop), counts.Unlock(c.Until, c.Shop)); err != nil {
		return kit.List[T]{}, err
	}
	rows, more, err := read(c.Q(), l.Filter, c.PageNumber())
	return kit.ListOf(rows, more), err
}

// bulkInput is a bulk change of the products ticked, or of all that a list holds.
type bulkInput struct {
	shopcatalog.BulkChange
	Query   string `json:"query"` // of the list, when all of it is meant
	Preview bool   `json:"preview"`
}

func apiBulk(c *kit.Call, in bulkInput) (shopcatalog.BulkResult, error) {
	if in.Query != "" {
		ids, err := listed(c, in.Query)
		if err != nil {
			return shopcatalog.BulkResult{}, err
		}
		in.Products = ids
	}
	if in.Preview {
		result, err := shopcatalog.PreviewBulk(c.Deed(), in.BulkChange)
		result.Rows = result.Rows[:min(len(result.Rows), 200)]
		return result, err
	}
	return shopcatalog.ChangeBulk(c.Deed(), in.BulkChange)
}

// listed finds all products of a list by the query of its address.
func listed(c *kit.Call, query string) ([]uint64, error) {
	if len(query) > 2000 {
		return nil, fault.Field("query", query[:40], "2,000 characters or fewer", "The list can't be read.")
	}
	args := c.RequestCtx().QueryArgs()
	args.Parse(strings.TrimPrefix(query, "?"))
	l, err := listOf(c)
	if err != nil {
		return nil, err
	}
	l.Filter.Sort = ""
	return goods.ProductIDs(c.Q(), l.Filter, 0, 20_001)
}

func apiUndoBulk(c *kit.Call, id uint64) (shopcatalog.BulkResult, error) {
	return shopcatalog.UndoBulk(c.Deed(), id)
}

func apiSaveView(c *kit.Call, in shopcatalog.ViewInput) (bool, error) {
	return shopcatalog.SaveView(c.Deed(), in)
}

func apiDropView(c *kit.Call, id uint64) (bool, error) {
	return shopcatalog.DropView(c.Deed(), id)
}
