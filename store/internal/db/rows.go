package db

import (
	"strings"

	"github.com/shopspring/decimal"
)

// Column is a column of rows that are written together, with what its table takes by itself where a row says
// nothing of it: Always for a column that every row says.
type Column struct {
	Name    string
	Default any
}

// Always is the default of a column that has none.
var Always any = new(struct{})

// Columns are columns without defaults.
func Columns(names ...string) []Column {
	list := make([]Column, len(names))
	for i, name := range names {
		list[i] = Column{name, Always}
	}
	return list
}

// AddRows adds a statement that writes rows of a document, which has a value for each column. What is by default in
// all of them is left out: most columns say something about few rows, and reading them takes the server longer than
// writing them.
func (b *Batch) AddRows(table string, columns []Column, rows [][]any) {
	if len(rows) == 0 {
		return
	}
	text := "INSERT INTO " + table + " (document_id"
	said := make([]bool, len(columns))
	n := 0
	for i, c := range columns {
		for _, row := range rows {
			said[i] = said[i] || !isDefault(row[i], c.Default)
		}
		if said[i] {
			text += ", " + c.Name
			n++
		}
	}
	args := make([]any, 0, n*len(rows))
	for _, row := range rows {
		for i, v := range row {
			if said[i] {
				args = append(args, v)
			}
		}
	}
	b.Add(Values(text+") VALUES ", len(rows), "(@document"+strings.Repeat(", ?", n)+")"), args...)
}

// isDefault reports whether a value is what a table takes by itself.
func isDefault(v, usual any) bool {
	switch v := v.(type) {
	case decimal.Decimal:
		usual, ok := usual.(decimal.Decimal)
		return ok && v.Equal(usual)
	case *decimal.Decimal:
		return v == nil && usual == nil
	case *string:
		return v == nil && usual == nil
	}
	return v == usual
}
