package lists

import (
	"errors"
	"slices"
	"strings"
	"time"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store/goods"
	storelists "itemrack/store/lists"
	storeprices "itemrack/store/prices"
)

// What becomes of a row of a list.
const (
	RowMade    = "made"
	RowChanged = "changed"
	RowSame    = "same"
	RowRefused = "refused"
)

// ListResult is what becomes of one row: for a change what from and to, for a
// refusal the field and what would be right.
type ListResult = storelists.ImportRow

// ListReport is what became of a list. Opening is the documents that took the
// opening stock in. Left are the columns of the file that were not read.
type ListReport struct {
	Made    int          `json:"made"`
	Changed int          `json:"changed"`
	Same    int          `json:"same"`
	Refused int          `json:"refused"`
	Opening string       `json:"opening,omitempty"`
	DryRun  bool         `json:"dry_run"`
	Left    []string     `json:"columns_not_read"`
	Rows    []ListResult `json:"rows"`
}

func (r *ListReport) count(row ListResult) {
	switch row.Outcome {
	case RowMade:
		r.Made++
	case RowChanged:
		r.Changed++
	case RowSame:
		r.Same++
	case RowRefused:
		r.Refused++
	}
}

// ImportRows is ImportList for rows from any source; every row is in the report.
func ImportRows(do deed.Deed, source rowSource, branch uint64, dryRun bool) (ListReport, error) {
	var rows []ListResult
	report, err := importRows(do, source,
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
	report.Rows = rows
	return report, err
}

// importOptions are how a list is read in: Again is called before each try, Sink
// with what became of the rows.
type importOptions struct {
	branch   uint64
	dryRun   bool
	again    func()
	sink     listSink
	pictures func(name string) (uint64, error) // finds or keeps a picture; nil when there are none
}

func importRows(do deed.Deed, source rowSource, with importOptions) (ListReport, error) {
	if with.dryRun {
		do.Key = ""
	}
	var report ListReport
	result, err := deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (ListReport, error) {
		with.again()
		im := &listImport{Deed: do, with: with}
		if err := im.run(source); err != nil {
			return ListReport{}, err
		}
		report = im.report
		report.DryRun, report.Opening = with.dryRun, strings.Join(im.numbers, ", ")
		if with.dryRun || report.Refused > 0 {
			return report, deed.ErrTried
		}
		return report, nil
	})
	if errors.Is(err, deed.ErrTried) {
		return report, nil
	}
	return result, err
}

// The sizes in which rows are worked on, so that a list of any length takes
// little memory.
const (
	rowBatch     = 2000
	mostBatch    = 20_000
	openingBatch = 10_000
)

// listImport is one import while it runs.
type listImport struct {
	deed.Deed
	with    importOptions
	report  ListReport
	zone    *time.Location
	classes map[string]uint64
	lists   map[string]uint64
	rows    []catalog.ListRow
	results []ListResult
	records [][]string
	opening []stock.Opened
	numbers []string
	bundles []bundled
	places  map[string]goods.Product
	// owners are the variants that codes of the gathered rows belong to, by the codes' keys;
	// ownerNames are their names.
	owners     map[string]uint64
	ownerNames map[uint64][2]string
}

func (im *listImport) run(source rowSource) error {
	set, err := im.Tx.Terms()
	if err != nil {
		return err
	}
	im.zone = set.Zone
	classes, err := storeprices.TaxClasses(im.Tx.Q)
	if err != nil {
		return err
	}
	im.classes, im.lists, im.places = map[string]uint64{}, map[string]uint64{}, map[string]goods.Product{}
	for _, c := range classes {
		im.classes[text.Key(c.Name)] = c.ID
	}
	lists, err := storeprices.PriceLists(im.Tx.Q)
	if err != nil {
		return err
	}
	for _, l := range lists {
		im.lists[text.Key(l.Name)] = l.ID
	}
	err = source(func(row catalog.ListRow, record []string) error {
		if n := len(im.rows); n >= rowBatch && !text.Same(im.rows[n-1].Product, row.Product) || n >= mostBatch {
			if err := im.flush(); err != nil {
				return err
			}
		}
		im.rows = append(im.rows, row)
		var kept []string
		if row.Refused != nil || record != nil {
			kept = slices.Clone(record)
		}
		im.records = append(im.records, kept)
		return nil
	})
	if err != nil {
		return err
	}
	if err := im.flush(); err != nil {
		return err
	}
	if err := im.makeBundles(); err != nil {
		return err
	}
	return im.open()
}

// flush works on the rows that are gathered.
func (im *listImport) flush() error {
	if len(im.rows) == 0 {
		return nil
	}
	im.results = make([]ListResult, len(im.rows))
	var order []string
	groups := map[string][]int{}
	for i, row := range im.rows {
		im.results[i] = ListResult{Line: row.Line, Product: row.Product, Variant: row.Choice().Label(), SKU: row.SKU}
		if row.Refused == nil {
			im.rows[i].Refused = im.unknown(row)
		}
		if im.rows[i].Refused != nil {
			im.refuse(i, im.rows[i].Refused)
			continue
		}
		name := text.Key(row.Product)
		if groups[name] == nil {
			order = append(order, name)
		}
		groups[name] = append(groups[name], i)
	}
	if err := im.refuseTaken(); err != nil {
		return err
	}
	if err := im.runBatch(order, groups); err != nil {
		return err
	}
	for i := range im.results {
		im.report.count(im.results[i])
		if im.results[i].Outcome == RowRefused {
			im.results[i].Record = deed.JSON(im.records[i])
		}
	}
	if err := im.with.sink(im.results); err != nil {
		return err
	}
	im.rows, im.records = im.rows[:0], im.records[:0]
	if len(im.opening) >= openingBatch {
		return im.open()
	}
	return nil
}

// unknown refuses a row that names a tax class or price list there is not.
func (im *listImport) unknown(row catalog.ListRow) *fault.Error {
	if row.TaxClass != "" && im.classes[text.Key(row.TaxClass)] == 0 {
		return fault.Field("tax class", row.TaxClass, "a tax class of the shop", "There is no tax class %q.",
			row.TaxClass)
	}
	for name := range row.Prices {
		if im.lists[text.Key(name)] == 0 {
			return fault.Field(catalog.PricePrefix+name, name, "a price list of the shop", "There is no price list %q.",
				name)
		}
	}
	for _, p := range row.MorePrices {
		if p.List != "" && im.lists[text.Key(p.List)] == 0 {
			return fault.Field(catalog.MorePricesPrefix+p.List, p.List, "a price list of the shop",
				"There is no price list %q.", p.List)
		}
	}
	return nil
}

func (im *listImport) refuse(i int, e *fault.Error) {
	r := &im.results[i]
	r.Outcome, r.Detail, r.Field, r.Want = RowRefused, e.Detail, e.Field, e.Want
}

// refuseTaken refuses rows whose barcode or SKU belongs to another variant.
func (im *listImport) refuseTaken() error {
	var keys []string
	for _, row := range im.rows {
		for _, code := range append(shopcatalog.CodesOf(row), packCodes(row)...) {
			keys = append(keys, barcode.Key(code))
		}
		if row.SKU != "" {
			keys = append(keys, barcode.Key(row.SKU))
		}
	}
	im.owners = nil
	owners, err := goods.Taken(im.Tx.Q, keys)
	if err != nil || len(owners) == 0 {
		return err
	}
	var ids []uint64
	for _, id := range owners {
		ids = append(ids, id)
	}
	names, err := goods.VariantNames(im.Tx.Q, ids)
	if err != nil {
		return err
	}
	im.owners, im.ownerNames = owners, names
	for i, row := range im.rows {
		if row.Refused != nil {
			continue
		}
		if e := im.claimed(row, func(owner uint64) bool { return text.Same(names[owner][0], row.Product) }); e != nil {
			im.rows[i].Refused = e
			im.refuse(i, e)
		}
	}
	return nil
}

// claimed refuses a row one of whose codes belongs to a variant that is not its own.
func (im *listImport) claimed(row catalog.ListRow, its func(owner uint64) bool) *fault.Error {
	claim := func(field, value string) *fault.Error {
		owner := im.owners[barcode.Key(value)]
		if value == "" || owner == 0 || its(owner) {
			return nil
		}
		return fault.Clash(field, value, "one that is free", "%s belongs to %s.", value,
			catalog.FullName(im.ownerNames[owner][0], im.ownerNames[owner][1]))
	}
	if e := claim("sku", row.SKU); e != nil {
		return e
	}
	for _, code := range append(shopcatalog.CodesOf(row), packCodes(row)...) {
		if e := claim("barcode", code); e != nil {
			return e
		}
	}
	return nil
}

// packCodes are the barcodes of the packs of a row.
func packCodes(row catalog.ListRow) []string {
	var codes []string
	for _, p := range row.Packs {
		codes = append(codes, p.Barcodes...)
	}
	return codes
}
