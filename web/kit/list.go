package kit

import (
	"bufio"
	"fmt"
	"html/template"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/staff"
	"itemrack/sheet"
	"itemrack/store"
)

// FilterNames are the parts of an address that narrow the list, beside words.
var FilterNames = []string{"category", "supplier", "brand", "value", "attribute", "tracking", "discontinued", "without",
	"is", "price_from", "price_to", "margin_from", "margin_to", "stock_from", "stock_to"}

// Column is a column of a list as a file: its head, and a row's cell in it.
type Column[T any] struct {
	head  string
	cell  func(row T) any
	costs bool
}

// Col is a column with its head, and a row's cell in it.
func Col[T any](head string, cell func(row T) any) Column[T] {
	return Column[T]{head: head, cell: cell}
}

// CostCol is a column for those who may see costs.
func CostCol[T any](head string, cell func(row T) any) Column[T] { return Column[T]{head, cell, true} }

// columnsFor are the columns that a person may see.
func columnsFor[T any](c *Call, columns []Column[T]) []Column[T] {
	if c.Who.Can(staff.DeedCosts) {
		return columns
	}
	return slices.DeleteFunc(slices.Clone(columns), func(col Column[T]) bool { return col.costs })
}

// Listed serves a list: a page of it on a screen with what else that shows, or,
// where the address asks for a format, all of it as a file.
func Listed[T any](c *Call, name, place, title string, columns []Column[T],
	read func(q store.Q, page int) ([]T, bool, error), data map[string]any) error {
	if asked := c.Query("format"); asked != "" {
		format, err := sheet.ParseFormat(asked)
		if err != nil {
			return err
		}
		q, shown := c.Q().Long(), columnsFor(c, columns)
		return c.File(name, format, func(w *bufio.Writer) error { return writeList(q, shown, read, format, w) })
	}
	rows, more, err := read(c.Q(), c.PageNumber())
	if err != nil {
		return err
	}
	data["Rows"], data["Pager"] = rows, c.Pager(more)
	return c.Page(name, place, title, data)
}

// AsFile sends the rows of a short list as a file, where the address asks for a
// format; it reports whether it did.
func AsFile[T any](c *Call, name string, columns []Column[T], rows []T) (bool, error) {
	asked := c.Query("format")
	if asked == "" {
		return false, nil
	}
	format, err := sheet.ParseFormat(asked)
	if err != nil {
		return true, err
	}
	all := func(store.Q, int) ([]T, bool, error) { return rows, false, nil }
	q, shown := c.Q(), columnsFor(c, columns)
	return true, c.File(name, format, func(w *bufio.Writer) error { return writeList(q, shown, all, format, w) })
}

func writeList[T any](q store.Q, columns []Column[T], read func(q store.Q, page int) ([]T, bool, error),
	format sheet.Format, to *bufio.Writer) error {
	heads := make([]string, len(columns))
	for i, column := range columns {
		heads[i] = column.head
	}
	out, err := sheet.NewWriter(format, to, heads)
	if err != nil {
		return err
	}
	for page := 1; ; page++ {
		rows, more, err := read(q, page)
		if err != nil {
			return err
		}
		for _, row := range rows {
			cells := make([]any, len(columns))
			for i, column := range columns {
				cells[i] = column.cell(row)
			}
			if err := out.Write(cells); err != nil {
				return err
			}
		}
		if !more {
			return out.Close()
		}
	}
}

// InZone is a moment by the shop's clock, as a cell; nil where there is none.
func (c *Call) InZone(at *time.Time) any {
	if at == nil {
		return nil
	}
	return at.In(c.Terms.Zone)
}

// Amount is an amount as a cell, with the decimals of the currency.
func (c *Call) Amount(amount decimal.Decimal) any { return Fixed(amount, c.Terms.Minor().Places()) }

// AmountOf is an amount as a cell; nil where there is none.
func (c *Call) AmountOf(amount *decimal.Decimal) any {
	if amount == nil {
		return nil
	}
	return c.Amount(*amount)
}

// Fixed is a figure with so many decimals, zeros and all.
func Fixed(d decimal.Decimal, places int32) decimal.Decimal {
	return decimal.NewFromBigInt(d.Shift(places).Round(0).BigInt(), -places)
}

// PageNumber is the page of a list that is asked for, from 1.
func (c *Call) PageNumber() int { return max(1, min(fiber.Query(c.Ctx, "page", 1), 100_000)) }

// Escaped is a text as it stands in a query.
func Escaped(text string) string { return template.URLQueryEscaper(text) }

// pager is the links to the pages before and after.
type pager struct{ Before, After string }

func (c *Call) Pager(more bool) pager { return c.PagerAt(c.PageNumber(), more) }

// PagerAt is Pager on a page that is not the one that the address says.
func (c *Call) PagerAt(at int, more bool) pager {
	link := func(n int) string {
		q := []string{fmt.Sprint("page=", n)}
		for _, name := range append([]string{"q", "kind", "by", "at", "sort", "columns", "change", "branch",
			"condition"}, FilterNames...) {
			if value := c.Query(name); value != "" {
				q = append(q, name+"="+template.URLQueryEscaper(value))
			}
		}
		return "?" + strings.Join(q, "&")
	}
	p := pager{}
	if at > 1 {
		p.Before = link(at - 1)
	}
	if more {
		p.After = link(at + 1)
	}
	return p
}

// List is a page of a list, and whether there is another.
type List[T any] struct {
	Items []T  `json:"items"`
	More  bool `json:"more"`
}

// ListOf is a page of a list, empty rather than null where nothing is in it.
func ListOf[T any](rows []T, more bool) List[T] {
	if rows == nil {
		rows = []T{}
	}
	return List[T]{rows, more}
}
