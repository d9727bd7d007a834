package lists

import (
	"io"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// ImportOpeningStock reads an opening stock list in: quantities and costs of what
// is in the catalog, posted as one document. Rows whose code is not known are set
// apart. A dry run tries everything and keeps nothing.
func ImportOpeningStock(do deed.Deed, file io.ReadSeeker, branch uint64, dryRun bool) (ListReport, error) {
	heads, match, err := matched(do.Shop.Store.Read(do.Ctx), file, ImportOpening, catalog.OpeningColumns)
	if err != nil {
		return ListReport{}, err
	}
	var rows []ListResult
	report, err := importOpening(do, file,
		heads,
		match,
		importOptions{
			branch: branch,
			dryRun: dryRun,
			again:  func() { rows = nil },
			sink: func(done []ListResult) error {
				rows = append(rows, done...)
				return nil
			},
		},
	)
	report.Rows, report.Left = rows, notRead(heads, match)
	return report, err
}

func importOpening(do deed.Deed, file io.ReadSeeker, heads []string, match catalog.Matching,
	with importOptions) (ListReport, error) {
	if _, err := catalog.NewOpeningReader(heads, match); err != nil {
		return ListReport{}, err
	}
	if with.dryRun {
		do.Key = ""
	}
	var report ListReport
	result, err := deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (ListReport, error) {
		with.again()
		im := &openingImport{listImport: listImport{Deed: do, with: with}}
		reader, err := catalog.NewOpeningReader(heads, match)
		if err != nil {
			return ListReport{}, err
		}
		if err := im.shelves(); err != nil {
			return ListReport{}, err
		}
		err = eachRecord(file, catalog.MaxListRows, func(line int, record []string, comma bool) error {
			reader.DecimalComma = comma
			return im.push(reader.Row(line, record), record)
		})
		if err != nil {
			return ListReport{}, err
		}
		if err := im.flushOpening(); err != nil {
			return ListReport{}, err
		}
		if err := im.open(); err != nil {
			return ListReport{}, err
		}
		report = im.report
		report.DryRun, report.Opening = with.dryRun, strings.Join(im.numbers, ", ")
		if with.dryRun || report.Refused > 0 {
			return report, deed.ErrTried
		}
		return report, nil
	})
	if err == deed.ErrTried { //nolint:errorlint // it is that very value
		return report, nil
	}
	return result, err
}

// openingImport is one import of opening stock while it runs.
type openingImport struct {
	listImport
	set     terms.Terms
	shelfOf map[string]uint64
	waiting []catalog.OpeningRow
}

func (im *openingImport) shelves() error {
	set, err := im.Tx.Terms()
	if err != nil {
		return err
	}
	im.set = set
	all, err := book.Shelves(im.Tx.Q)
	im.shelfOf = map[string]uint64{}
	for id, shelf := range all {
		if shelf.Branch == im.with.branch {
			im.shelfOf[text.Key(shelf.Name)] = id
		}
	}
	if err == nil && len(im.shelfOf) == 0 {
		err = fault.Missing("branch_id", im.with.branch, "There is no branch %d.", im.with.branch)
	}
	return err
}

func (im *openingImport) push(row catalog.OpeningRow, record []string) error {
	if len(im.waiting) >= rowBatch {
		if err := im.flushOpening(); err != nil {
			return err
		}
	}
	im.waiting = append(im.waiting, row)
	im.records = append(im.records, slices.Clone(record))
	return nil
}

// flushOpening works on the rows that are gathered.
func (im *openingImport) flushOpening() error {
	if len(im.waiting) == 0 {
		return nil
	}
	codes := make([]string, len(im.waiting))
	for i, r := range im.waiting {
		codes[i] = r.Code
	}
	owners, err := goods.ByCodes(im.Tx.Q, codes)
	if err != nil {
		return err
	}
	var ids []uint64
	for _, o := range owners {
		ids = append(ids, o.Variant)
	}
	items, err := goods.Sellables(im.Tx.Q, ids, im.Shop.Now())
	if err != nil {
		return err
	}
	im.results = make([]ListResult, len(im.waiting))
	for i, row := range im.waiting {
		im.results[i] = ListResult{Line: row.Line, SKU: text.Cut(row.Code, 40)}
		refusal := row.Refused
		if refusal == nil {
			owner := owners[goods.CodeKey(row.Code)]
			item, ok := items[owner.Variant]
			if ok {
				im.results[i].Product, im.results[i].Variant = item.Name, item.Label
			}
			refusal = im.take(row, item, owner.Factor, ok)
		}
		im.results[i].Outcome = RowMade
		if refusal != nil {
			im.refuse(i, refusal)
			im.results[i].Record = deed.JSON(im.records[i])
		}
		im.report.count(im.results[i])
	}
	if err := im.with.sink(im.results); err != nil {
		return err
	}
	im.waiting, im.records = im.waiting[:0], im.records[:0]
	if len(im.opening) >= openingBatch {
		return im.open()
	}
	return nil
}

// UnknownCode is the field of a row whose code is of nothing in the catalog; such
// rows are set apart, with "make this product".
const UnknownCode = "code"

// take checks one row against its variant and notes its stock.
func (im *openingImport) take(row catalog.OpeningRow, item goods.Sellable, factor decimal.Decimal,
	known bool) *fault.Error {
	if !known {
		return fault.Missing(UnknownCode, row.Code, "Nothing in the catalog has the code %s.", row.Code)
	}
	q, cost := row.Quantity, row.Cost
	if factor.IsPositive() { // the code is of a pack
		q = q.Mul(factor)
		if cost != nil {
			each := cost.DivRound(factor, money.CostPlaces)
			cost = &each
		}
	}
	if err := item.Unit.Check("quantity", q); err != nil {
		return fault.Of(err)
	}
	o := stock.Opened{
		Variant:  item.ID,
		Name:     item.FullName(),
		Tracking: item.Tracking,
		Quantity: q,
		Cost:     cost,
		Worth:    row.Worth,
		Serials:  row.Serials,
		Lot:      serial.Lot{Number: row.Lot, Expiry: row.Expiry},
		CameOn:   row.CameOn,
	}
	if err := fault.Of(o.Check(im.set.Minor(), im.set.Day(im.Shop.Now()))); err != nil {
		err.Field = columnOf(err.Field)
		return err
	}
	if row.Shelf != "" {
		if o.Shelf = im.shelfOf[text.Key(row.Shelf)]; o.Shelf == 0 {
			return fault.Field("shelf", row.Shelf, "a shelf of the branch", "The branch has no shelf %q.", row.Shelf)
		}
	}
	im.opening = append(im.opening, o)
	return nil
}

// columnOf is what a field is called as a column of a list.
func columnOf(field string) string {
	switch field {
	case "serials":
		return "serial numbers"
	case "came_on":
		return "came on"
	}
	return field
}

// Units is how many units the line comes to, none where it is refused.
func (v OpeningView) Units() decimal.Decimal { return v.opening.Quantity }
