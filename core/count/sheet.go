package count

import (
	"itemrack/core/paper"
	"itemrack/core/stock"
)

// Sheet is a count on paper, for one counter: what is counted by shelf, with boxes for packs and loose ones
// and the numbers to tick. Expected stands on it where the count is not blind.
type Sheet struct {
	Shop, Number, Branch, Scope, Counter, Note string
	Blind                                      bool
	Rows                                       []SheetRow
}

// SheetRow is a row on a sheet. Shelf is where its goods lie; Pack what the pack of its goods holds, empty
// for none.
type SheetRow struct {
	Shelf, Code, Name, Label, SKU, Lot, Pack, Expected string
	Condition                                          stock.Condition
	Numbers                                            []string
}

// Listing lays a sheet out, its rows in the order in which they are given, with a caption for each shelf.
func (s Sheet) Listing() paper.Listing {
	l := paper.Listing{Shop: s.Shop, Title: "Count " + s.Number, Code: s.Number,
		Says: []string{s.Scope + ", " + s.Branch, s.Note},
		Foot: s.Number + " · counted by ______________________"}
	if s.Counter != "" {
		l.Says = append([]string{"for " + s.Counter}, l.Says...)
		l.Foot = s.Number + " · " + s.Counter
	}
	l.Columns = []paper.ListingColumn{{Head: "Goods", X: paper.NameX}}
	if !s.Blind {
		l.Columns = append(l.Columns, paper.ListingColumn{Head: "Book", X: 148, W: 16, Right: true})
	}
	l.Columns = append(l.Columns, paper.ListingColumn{Head: "Packs", X: 172, W: 20, Right: true, Boxed: true},
		paper.ListingColumn{Head: "Loose", X: 195, W: 20, Right: true, Boxed: true})
	shelf := ""
	for _, r := range s.Rows {
		if r.Shelf != shelf {
			l.Rows = append(l.Rows, paper.ListingRow{Head: r.Shelf})
			shelf = r.Shelf
		}
		row := paper.ListingRow{Code: r.Code, Name: r.Name, Under: []string{r.Label, r.SKU}, Ticks: r.Numbers}
		if r.Lot != "" {
			row.Under[1] += " · lot " + r.Lot
		}
		if r.Condition != stock.ForSale {
			row.Under[1] += " · " + string(r.Condition)
		}
		if r.Pack != "" {
			row.Under = append(row.Under, "a pack is "+r.Pack)
		}
		if !s.Blind {
			row.Cells = append(row.Cells, r.Expected)
		}
		row.Cells = append(row.Cells, "", "")
		l.Rows = append(l.Rows, row)
	}
	return l
}

// Report is what a count came to on paper.
type Report struct {
	Shop, Number, Branch, Scope, Closed string
	Sums                                []string
	Rows                                []ReportRow
}

// ReportRow is a row of the report of a count that differs.
type ReportRow struct {
	Name, Label, Lot, Expected, Counted, Differs, Value, Reason string
	Condition                                                   stock.Condition
	Missing                                                     []string
}

// Listing lays a report out.
func (r Report) Listing() paper.Listing {
	l := paper.Listing{Shop: r.Shop, Title: "Count " + r.Number,
		Says: append([]string{r.Scope + ", " + r.Branch, r.Closed}, r.Sums...),
		Foot: r.Number, Columns: []paper.ListingColumn{{Head: "Goods", X: paper.NameX},
			{Head: "Expected", X: 128, W: 18, Right: true},
			{Head: "Counted", X: 146, W: 18, Right: true}, {Head: "Variance", X: 164, W: 18, Right: true},
			{Head: "Value", X: 195, W: 28, Right: true}}}
	for _, row := range r.Rows {
		under := row.Label
		if row.Lot != "" {
			under += " · lot " + row.Lot
		}
		if row.Condition != stock.ForSale {
			under += " · " + string(row.Condition)
		}
		line := paper.ListingRow{Name: row.Name, Under: []string{under, row.Reason},
			Cells: []string{row.Expected, row.Counted, row.Differs, row.Value}}
		for _, n := range row.Missing {
			line.Under = append(line.Under, "missing: No. "+n)
		}
		l.Rows = append(l.Rows, line)
	}
	return l
}
