package shop

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/store"
)

// ImportOpeningStock reads an opening stock list in: quantities and costs of what
// is in the catalog, posted as one document. Rows whose code is not known are set
// apart. A dry run tries everything and keeps nothing.
func (s *Shop) ImportOpeningStock(ctx context.Context, who Actor, key string, file io.ReadSeeker, branch uint64, dryRun bool) (ListReport, error) {
	heads, match, err := matched(s.Store.Read(ctx), file, ImportOpening, catalog.OpeningColumns)
	if err != nil {
		return ListReport{}, err
	}
	var rows []ListResult
	report, err := s.importOpening(ctx, who, key, file, match, importOptions{branch: branch, dryRun: dryRun, again: func() { rows = nil }, sink: func(done []ListResult) error {
		rows = append(rows, done...)
		return nil
	}})
	report.Rows, report.Left = rows, notRead(heads, match)
	return report, err
}

func (s *Shop) importOpening(ctx context.Context, who Actor, key string, file io.ReadSeeker, match catalog.Matching, with importOptions) (ListReport, error) {
	if _, err := catalog.NewOpeningReader(match); err != nil {
		return ListReport{}, err
	}
	if with.dryRun {
		key = ""
	}
	var report ListReport
	result, err := once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (ListReport, error) {
		with.again()
		im := &openingImport{listImport: listImport{shop: s, tx: tx, with: with, who: who}}
		reader, err := catalog.NewOpeningReader(match)
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
			return report, errDryRun
		}
		return report, nil
	})
	if err == errDryRun { //nolint:errorlint // it is that very value
		return report, nil
	}
	return result, err
}

// openingImport is one import of opening stock while it runs.
type openingImport struct {
	listImport
	shelfOf map[string]uint64
	waiting []catalog.OpeningRow
}

func (im *openingImport) shelves() error {
	all, err := im.tx.Shelves()
	im.shelfOf = map[string]uint64{}
	for id, shelf := range all {
		if shelf.Branch == im.with.branch {
			im.shelfOf[strings.ToLower(shelf.Name)] = id
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
	owners, err := im.tx.ByCodes(codes)
	if err != nil {
		return err
	}
	var ids []uint64
	for _, o := range owners {
		ids = append(ids, o.Variant)
	}
	items, err := im.tx.Sellables(ids, im.shop.Now())
	if err != nil {
		return err
	}
	im.results = make([]ListResult, len(im.waiting))
	for i, row := range im.waiting {
		im.results[i] = ListResult{Line: row.Line, SKU: cut(row.Code, 40)}
		refusal := row.Refused
		if refusal == nil {
			owner := owners[store.CodeKey(row.Code)]
			item, ok := items[owner.Variant]
			if ok {
				im.results[i].Product, im.results[i].Variant = item.Name, item.Label
			}
			refusal = im.take(row, item, owner.Factor, ok)
		}
		im.results[i].Outcome = RowMade
		if refusal != nil {
			im.refuse(i, refusal)
			im.results[i].Record = toJSON(im.records[i])
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
func (im *openingImport) take(row catalog.OpeningRow, item store.Sellable, factor decimal.Decimal, known bool) *fault.Error {
	if !known {
		return fault.Missing(UnknownCode, row.Code, "Nothing in the catalog has the code %s.", row.Code)
	}
	q, cost := row.Quantity, row.Cost
	if factor.IsPositive() { // the code is of a pack
		q, cost = q.Mul(factor), cost.DivRound(factor, 6)
	}
	if err := item.Unit.Check("quantity", q); err != nil {
		return fault.Of(err)
	}
	o := opening{variant: item.ID, quantity: q, cost: cost, serials: row.Serials}
	switch {
	case item.Tracking == stock.Untracked:
		return fault.Refuse("code", row.Code, "a product with stock", "%s has no stock: it is a service.", item.FullName())
	case item.Tracking == stock.ByLot && row.Lot == "":
		return fault.Field("lot", "", "its lot number", "%s is kept by lot; the row says none.", item.FullName())
	case item.Tracking != stock.ByLot && row.Lot != "":
		return fault.Field("lot", row.Lot, "an empty cell", "%s is not kept by lot.", item.FullName())
	case item.Tracking == stock.BySerial && !q.Equal(decimal.New(int64(len(row.Serials)), 0)):
		return fault.Field("serial numbers", len(row.Serials), q.String()+" numbers", "%s needs a serial number for each of the %s.", item.FullName(), q)
	case item.Tracking != stock.BySerial && len(row.Serials) > 0:
		return fault.Field("serial numbers", row.Serials[0], "an empty cell", "%s has no serial numbers.", item.FullName())
	}
	o.lot = store.Lot{Number: row.Lot, Expiry: row.Expiry}
	if row.Shelf != "" {
		if o.shelf = im.shelfOf[strings.ToLower(row.Shelf)]; o.shelf == 0 {
			return fault.Field("shelf", row.Shelf, "a shelf of the branch", "The branch has no shelf %q.", row.Shelf)
		}
	}
	im.opening = append(im.opening, o)
	return nil
}

// OpeningLine is one line of opening stock that is typed.
type OpeningLine struct {
	Variant  uint64 `json:"variant_id"`
	Quantity string `json:"quantity"`
	Cost     string `json:"cost"`
	Lot      string `json:"lot"`
	Expiry   string `json:"expiry"`
	Serials  string `json:"serials"`
}

// OpenStockInput is opening stock of a branch that is typed.
type OpenStockInput struct {
	Branch uint64        `json:"branch_id"`
	Lines  []OpeningLine `json:"lines"`
}

// OpenStock posts opening stock that was typed, as one document.
func (s *Shop) OpenStock(ctx context.Context, who Actor, key string, in OpenStockInput) (Posted, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Posted, error) {
		ids := make([]uint64, len(in.Lines))
		for i, l := range in.Lines {
			ids[i] = l.Variant
		}
		items, err := tx.Sellables(ids, s.Now())
		if err != nil {
			return Posted{}, err
		}
		im := &openingImport{listImport: listImport{shop: s, tx: tx, who: who, with: importOptions{branch: in.Branch}}}
		if err := im.shelves(); err != nil {
			return Posted{}, err
		}
		reader, err := catalog.NewOpeningReader(catalog.Matching{"code", "quantity", "cost", "lot", "expiry", "serial numbers"})
		if err != nil {
			return Posted{}, err
		}
		for i, l := range in.Lines {
			item, ok := items[l.Variant]
			row := reader.Row(i+1, []string{fmt.Sprint(l.Variant), l.Quantity, l.Cost, l.Lot, l.Expiry, l.Serials})
			if row.Refused != nil {
				return Posted{}, row.Refused
			}
			if refusal := im.take(row, item, decimal.Zero, ok); refusal != nil {
				return Posted{}, refusal
			}
		}
		if len(im.opening) == 0 {
			return Posted{}, fault.Field("lines", "", "at least one line", "Say what is on hand.")
		}
		name, err := s.postOpening(tx, who, in.Branch, im.opening)
		return Posted{Number: name, At: s.Now()}, err
	})
}
