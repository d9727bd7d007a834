package shop

import (
	"context"
	"io"
	"maps"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/text"
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
		im.results[i] = ListResult{Line: row.Line, SKU: text.Cut(row.Code, 40)}
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
	o := opening{variant: item.ID, quantity: q, cost: cost, serials: row.Serials, lot: store.Lot{Number: row.Lot, Expiry: row.Expiry}}
	if err := o.check(item); err != nil {
		if err.Field == "serials" {
			err.Field = "serial numbers" // as the column is called
		}
		return err
	}
	if row.Shelf != "" {
		if o.shelf = im.shelfOf[strings.ToLower(row.Shelf)]; o.shelf == 0 {
			return fault.Field("shelf", row.Shelf, "a shelf of the branch", "The branch has no shelf %q.", row.Shelf)
		}
	}
	im.opening = append(im.opening, o)
	return nil
}

// check holds lot and serial numbers against the tracking of the product.
func (o opening) check(item store.Sellable) *fault.Error {
	switch {
	case item.Tracking == stock.NotStocked:
		return fault.Refuse("code", item.SKU, "a product with stock", "%s has no stock: it is a service.", item.FullName())
	case item.Tracking == stock.ByLot && o.lot.Number == "":
		return fault.Field("lot", "", "its lot number", "%s is kept by lot, and no lot is given.", item.FullName())
	case item.Tracking != stock.ByLot && o.lot.Number != "":
		return fault.Field("lot", o.lot.Number, "nothing", "%s is not kept by lot.", item.FullName())
	case item.Tracking == stock.BySerial && !o.quantity.Equal(decimal.New(int64(len(o.serials)), 0)):
		return fault.Field("serials", len(o.serials), o.quantity.String()+" numbers", "%s needs a serial number for each of the %s.", item.FullName(), o.quantity)
	case item.Tracking != stock.BySerial && len(o.serials) > 0:
		return fault.Field("serials", o.serials[0], "nothing", "%s has no serial numbers.", item.FullName())
	}
	return nil
}

// value is quantity × cost, rounded.
func (o opening) value() decimal.Decimal { return money.Round(o.quantity.Mul(o.cost)) }

// OpenStockInput is opening stock of a branch that is typed: what lies on a shelf,
// its default one for 0.
type OpenStockInput struct {
	Branch uint64      `json:"branch_id"`
	Shelf  uint64      `json:"shelf_id"`
	Lines  []GoodsLine `json:"lines"`
}

// OpenStock posts opening stock that was typed, as one document. A refusal names
// the line in its field: "lines.0.quantity".
func (s *Shop) OpenStock(ctx context.Context, who Actor, key string, in OpenStockInput) (Posted, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Posted, error) {
		im := &openingImport{listImport: listImport{shop: s, tx: tx, who: who, with: importOptions{branch: in.Branch}}}
		if err := im.shelves(); err != nil {
			return Posted{}, err
		}
		if in.Shelf != 0 && !slices.Contains(slices.Collect(maps.Values(im.shelfOf)), in.Shelf) {
			return Posted{}, fault.Missing("shelf_id", in.Shelf, "The branch has no shelf %d.", in.Shelf)
		}
		lines, err := s.readOpening(tx.Q, in.Lines)
		if err != nil {
			return Posted{}, err
		}
		for i, l := range lines {
			if l.Refused != nil {
				return Posted{}, inLine(i, l.Refused)
			}
			if l.opening.quantity.IsPositive() {
				l.opening.shelf = in.Shelf
				im.opening = append(im.opening, l.opening)
			}
		}
		if len(im.opening) == 0 {
			return Posted{}, fault.Field("lines", "", "a quantity on at least one line", "Say what is on hand.")
		}
		name, err := s.postOpening(tx, who, in.Branch, im.opening)
		return Posted{Number: name, At: s.Now()}, err
	})
}

// OpeningView is a typed line of opening stock, worked out: Refused says why it
// can't be posted.
type OpeningView struct {
	GoodsLine
	Item    store.Sellable
	Value   decimal.Decimal // quantity × cost, as it will be posted
	Refused *fault.Error
	opening opening
}

// Units is how many units the line comes to, none where it is refused.
func (v OpeningView) Units() decimal.Decimal { return v.opening.quantity }

// TryOpening works typed lines of opening stock out, and what they are worth
// together.
func (s *Shop) TryOpening(ctx context.Context, who Actor, in []GoodsLine) ([]OpeningView, decimal.Decimal, error) {
	worth := decimal.Zero
	if err := who.May(DeedCatalog); err != nil {
		return nil, worth, err
	}
	lines, err := s.readOpening(s.Store.Read(ctx), in)
	for _, l := range lines {
		worth = worth.Add(l.Value)
	}
	return lines, worth, err
}

// readOpening reads typed lines, each by itself: one that is wrong leaves the
// others as they are. A line without a quantity is none.
func (s *Shop) readOpening(q store.Q, in []GoodsLine) ([]OpeningView, error) {
	ids := make([]uint64, len(in))
	for i, l := range in {
		ids[i] = l.Variant
	}
	items, err := q.Sellables(ids, s.Now())
	if err != nil {
		return nil, err
	}
	lines := make([]OpeningView, len(in))
	for i, l := range in {
		lines[i] = OpeningView{GoodsLine: l, Item: items[l.Variant]}
		if strings.TrimSpace(l.Quantity) == "" {
			continue
		}
		o, err := readOpeningLine(lines[i].Item, l)
		if err != nil {
			if lines[i].Refused = fault.Of(err); lines[i].Refused == nil {
				return nil, err
			}
			continue
		}
		lines[i].opening, lines[i].Value = o, o.value()
	}
	return lines, nil
}

func readOpeningLine(item store.Sellable, l GoodsLine) (opening, error) {
	o := opening{variant: item.ID}
	if item.ID == 0 {
		return o, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
	}
	var err error
	if o.quantity, err = item.Unit.Parse("quantity", l.Quantity); err != nil {
		return o, err
	}
	if strings.TrimSpace(l.Cost) == "" {
		return o, fault.Field("cost", "", "what one cost; 0 if it cost nothing", "%s: the cost of one is missing.", item.FullName())
	}
	if o.cost, err = money.ParseCost("cost", l.Cost); err != nil {
		return o, err
	}
	row := store.DeliveryLine{LotNumber: strings.TrimSpace(l.Lot)}
	if err := readTracking(&row, item, l); err != nil {
		return o, err
	}
	o.lot.Number, o.serials = row.LotNumber, serial.Kept(row.Serials)
	if row.Expiry != nil {
		o.lot.Expiry = *row.Expiry
	}
	if err := o.check(item); err != nil {
		return o, err
	}
	return o, nil
}
