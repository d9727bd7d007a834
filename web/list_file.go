package web

import (
	"bufio"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/sheet"
	"itemrack/store"
)

// column is a column of a list as a file: its head, and a row's cell in it.
type column[T any] struct {
	head string
	cell func(row T) any
}

// listed serves a list: a page of it on a screen with what else that shows, or,
// where the address asks for a format, all of it as a file.
func listed[T any](c *call, name, place, title string, columns []column[T], read func(q store.Q, page int) ([]T, bool, error), data map[string]any) error {
	if asked := c.Query("format"); asked != "" {
		format, err := sheet.ParseFormat(asked)
		if err != nil {
			return err
		}
		return c.file(name, format, func(w *bufio.Writer) error { return writeList(c.q().Long(), columns, read, format, w) })
	}
	rows, more, err := read(c.q(), c.pageNumber())
	if err != nil {
		return err
	}
	data["Rows"], data["Pager"] = rows, c.pager(more)
	return c.page(name, place, title, data)
}

// asFile sends the rows of a short list as a file, where the address asks for a
// format; it reports whether it did.
func asFile[T any](c *call, name string, columns []column[T], rows []T) (bool, error) {
	asked := c.Query("format")
	if asked == "" {
		return false, nil
	}
	format, err := sheet.ParseFormat(asked)
	if err != nil {
		return true, err
	}
	all := func(store.Q, int) ([]T, bool, error) { return rows, false, nil }
	return true, c.file(name, format, func(w *bufio.Writer) error { return writeList(c.q(), columns, all, format, w) })
}

func writeList[T any](q store.Q, columns []column[T], read func(q store.Q, page int) ([]T, bool, error), format sheet.Format, to *bufio.Writer) error {
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

// inZone is a moment by the shop's clock, as a cell; nil where there is none.
func (c *call) inZone(at *time.Time) any {
	if at == nil {
		return nil
	}
	return at.In(c.server.shop.Zone)
}

// amountCell is an amount as a cell, in whole pence; nil where there is none.
func amountCell(amount *decimal.Decimal) any {
	if amount == nil {
		return nil
	}
	return fixed(*amount, 2)
}

// fixed is a figure with so many decimals, zeros and all.
func fixed(d decimal.Decimal, places int32) decimal.Decimal {
	return decimal.NewFromBigInt(d.Shift(places).Round(0).BigInt(), -places)
}
