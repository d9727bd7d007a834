package catalog

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/unit"
)

// OpeningRow is one row of an opening stock list: what is on hand of the thing
// with a barcode or SKU, and what one cost. A zero Expiry never expires; without
// a shelf it lies on the branch's default one.
type OpeningRow struct {
	Line     int
	Code     string
	Quantity decimal.Decimal
	Cost     *decimal.Decimal // of one
	Worth    *decimal.Decimal // of all
	Lot      string
	Expiry   time.Time
	Serials  []string
	Shelf    string
	CameOn   time.Time
	Refused  *fault.Error
}

// OpeningReader reads the records of an opening stock list.
type OpeningReader struct {
	DecimalComma bool // the file writes 12,95 and 1.250,50

	columns map[string]int
	bare    []bool // columns without a head
}

// NewOpeningReader reads a list whose columns are matched; it needs a code and a
// quantity; each row then needs a cost or what it is worth.
func NewOpeningReader(heads []string, match Matching) (*OpeningReader, error) {
	if err := match.Check(OpeningColumns, "code", "quantity"); err != nil {
		return nil, err
	}
	r := &OpeningReader{columns: map[string]int{}, bare: bareHeads(heads)}
	for i, name := range match {
		if name != "" {
			r.columns[name] = i
		}
	}
	return r, nil
}

// Row reads one record; the first thing wrong with it is its refusal. Quantities
// are read as finely as any unit; the variant's own unit is held later.
func (r *OpeningReader) Row(line int, record []string) OpeningRow {
	c := &cells{record: record, columns: r.columns, comma: r.DecimalComma}
	c.underHeads(r.bare)
	row := OpeningRow{Line: line, Code: c.text("code", 48), Lot: c.text("lot", 40), Shelf: c.text("shelf", 60)}
	if row.Code == "" {
		c.keep(fault.Field("code", "", "a barcode or SKU", "The row says no barcode or SKU."))
	}
	c.keep(refuseExponent("code", row.Code))
	if q := c.figure("quantity", unit.Kilogram.Parse); q != nil {
		row.Quantity = *q
	}
	if !row.Quantity.IsPositive() {
		c.keep(fault.Field("quantity", row.Quantity, "more than 0", "The row says no quantity."))
	}
	row.Cost, row.Worth = c.figure("cost", money.ParseCost), c.figure("worth", money.ParseCost)
	if row.Cost == nil && row.Worth == nil {
		c.keep(fault.Field("cost", "", "what one cost, or what all of it is worth", "Opening stock needs its cost."))
	}
	if text := c.cell("came on"); text != "" {
		day, err := number.Day("came on", text)
		c.keep(err)
		row.CameOn = day
	}
	if text := c.cell("expiry"); text != "" {
		day, err := number.Day("expiry", text)
		c.keep(err)
		row.Expiry = day
	}
	numbers, err := serial.ReadList(c.cell("serial numbers"))
	c.keep(err)
	row.Serials = numbers
	row.Refused = fault.Of(c.err)
	return row
}
