package lists

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/sheet"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
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

// rowSource pushes the rows of a list, with their records, from the first on;
// it can be run again.
type rowSource func(push func(row catalog.ListRow, record []string) error) error

// listSink takes what became of some rows.
type listSink func(done []ListResult) error

// ImportList reads a stock list in: products with their variants, prices and
// opening stock, which is posted at a branch. A dry run tries everything and
// keeps nothing. One refused row keeps all from being imported.
func ImportList(ctx context.Context, s *deed.Shop, who staff.Actor, key string, file io.ReadSeeker, branch uint64,
	dryRun bool) (ListReport, error) {
	heads, match, err := matched(s.Store.Read(ctx), file, ImportCatalog, catalog.ListColumns)
	if err != nil {
		return ListReport{}, err
	}
	set, err := s.Store.Read(ctx).Terms()
	if err != nil {
		return ListReport{}, err
	}
	source, err := listRows(file, heads, match, set)
	if err != nil {
		return ListReport{}, err
	}
	report, err := ImportRows(ctx, s, who, key, source, branch, dryRun)
	report.Left = notRead(heads, match)
	return report, err
}

// notRead lists the heads that no column was found for.
func notRead(heads []string, match catalog.Matching) []string {
	left := []string{}
	for i, h := range heads {
		if match[i] == "" && strings.TrimSpace(h) != "" {
			left = append(left, h)
		}
	}
	return left
}

// readHeads reads the first row of a table.
func readHeads(file io.ReadSeeker) ([]string, error) {
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	r, err := sheet.Open(file)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	_, heads, err := r.Next()
	if errors.Is(err, io.EOF) {
		err = fault.Field("file", "", "a head line and rows below it", "The file is empty.")
	}
	return slices.Clone(heads), err
}

// eachRecord reads the records of a table below its heads.
func eachRecord(file io.ReadSeeker, most int, take func(line int, record []string, decimalComma bool) error) error {
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	r, err := sheet.Open(file)
	if err != nil {
		return err
	}
	defer r.Close()
	if _, _, err := r.Next(); err != nil {
		return err
	}
	for n := 0; ; n++ {
		line, record, err := r.Next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if n == most {
			return fault.Field("file", n, fmt.Sprintf("%d rows or fewer", most), "The file has more than %d rows.",
				most)
		}
		if err := take(line, record, r.DecimalComma()); err != nil {
			return err
		}
	}
}

// listRows reads the rows of a file whose columns are matched.
func listRows(file io.ReadSeeker, heads []string, match catalog.Matching, set terms.Terms) (rowSource, error) {
	if _, err := catalog.NewListReader(heads, match); err != nil {
		return nil, err
	}
	return func(push func(catalog.ListRow, []string) error) error {
		reader, err := catalog.NewListReader(heads, match)
		if err != nil {
			return err
		}
		return eachRecord(file, catalog.MaxListRows, func(line int, record []string, comma bool) error {
			reader.DecimalComma, reader.Minor, reader.Moment = comma, set.Minor(), set.Moment
			return push(reader.Row(line, record), record)
		})
	}, nil
}

// RowsOf is a source of rows that are read already.
func RowsOf(rows []catalog.ListRow) func(push func(catalog.ListRow, []string) error) error {
	return func(push func(catalog.ListRow, []string) error) error {
		for _, r := range rows {
			if err := push(r, nil); err != nil {
				return err
			}
		}
		return nil
	}
}

// ImportRows is ImportList for rows from any source; every row is in the report.
func ImportRows(ctx context.Context, s *deed.Shop, who staff.Actor, key string, source rowSource, branch uint64,
	dryRun bool) (ListReport, error) {
	var rows []ListResult
	report, err := importRows(
		ctx,
		s,
		who,
		key,
		source,
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

func importRows(ctx context.Context, s *deed.Shop, who staff.Actor, key string, source rowSource,
	with importOptions) (ListReport, error) {
	if with.dryRun {
		key = ""
	}
	var report ListReport
	result, err := deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (ListReport, error) {
		with.again()
		im := &listImport{shop: s, tx: tx, with: with, who: who}
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
	shop    *deed.Shop
	tx      store.Tx
	who     staff.Actor
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

// bundled is a bundle whose parts are looked up once all rows are read.
type bundled struct {
	variant uint64
	parts   []catalog.ListPart
	name    string
}

func (im *listImport) run(source rowSource) error {
	set, err := im.tx.Terms()
	if err != nil {
		return err
	}
	im.zone = set.Zone
	classes, err := storeprices.TaxClasses(im.tx.Q)
	if err != nil {
		return err
	}
	im.classes, im.lists, im.places = map[string]uint64{}, map[string]uint64{}, map[string]goods.Product{}
	for _, c := range classes {
		im.classes[text.Key(c.Name)] = c.ID
	}
	lists, err := storeprices.PriceLists(im.tx.Q)
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
	owners, err := goods.Taken(im.tx.Q, keys)
	if err != nil || len(owners) == 0 {
		return err
	}
	var ids []uint64
	for _, id := range owners {
		ids = append(ids, id)
	}
	names, err := goods.VariantNames(im.tx.Q, ids)
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

func (im *listImport) runBatch(names []string, groups map[string][]int) error {
	knownNames, err := goods.ProductsByName(im.tx.Q, names)
	if err != nil {
		return err
	}
	var old, touched []uint64
	var fresh []*shopcatalog.Planned
	from := map[*shopcatalog.Planned][]int{}
	lists := map[uint64][]int{}
	for _, name := range names {
		list := slices.DeleteFunc(groups[name], func(i int) bool { return im.rows[i].Refused != nil })
		if len(list) == 0 {
			continue
		}
		if id := knownNames[name]; id != 0 {
			old, lists[id] = append(old, id), list
			continue
		}
		p, err := im.plan(list)
		if e := fault.Of(err); e != nil {
			for _, i := range list {
				im.refuse(i, e)
			}
			continue
		}
		if err != nil {
			return err
		}
		fresh, from[p] = append(fresh, p), list
	}
	if len(fresh) > 0 {
		if err := im.makeFresh(fresh, from); err != nil {
			return err
		}
		for _, p := range fresh {
			touched = append(touched, p.Row.ID)
		}
	}
	changed, err := im.updateAll(old, lists)
	if err != nil {
		return err
	}
	return shopcatalog.Settled(im.shop, im.tx, append(touched, changed...))
}

func (im *listImport) makeFresh(fresh []*shopcatalog.Planned, from map[*shopcatalog.Planned][]int) error {
	if err := shopcatalog.Write(im.shop, im.tx, fresh); err != nil {
		return err
	}
	var prices []storeprices.Price
	for _, p := range fresh {
		im.finish(p, from[p])
		rows := im.rowsOf(from[p])
		first := rows[0]
		packed := &packing{product: p.Row.ID, tracking: p.Row.Tracking}
		for n, row := range rows {
			if _, err := im.pack(packed, p.Cells[n].Id, row); err != nil {
				return err
			}
		}
		more, err := im.newPrices(packed, p, rows)
		if err != nil {
			return err
		}
		prices = append(prices, more...)
		prices = append(prices, im.listPrices(p, rows)...)
		if len(first.Parts) > 0 {
			im.bundles = append(im.bundles, bundled{p.Cells[0].Id, first.Parts, first.Product})
		}
		if err := im.picture(p.Row.ID, 0, rows); err != nil {
			return err
		}
	}
	if len(prices) == 0 {
		return nil
	}
	return storeprices.AddPrices(im.tx, &prices)
}

func (im *listImport) rowsOf(list []int) []catalog.ListRow {
	rows := make([]catalog.ListRow, len(list))
	for n, i := range list {
		rows[n] = im.rows[i]
	}
	return rows
}

// listPrices are the prices of a new product on other lists: its own where most
// rows agree, else the variant's.
func (im *listImport) listPrices(p *shopcatalog.Planned, rows []catalog.ListRow) []storeprices.Price {
	var prices []storeprices.Price
	names := map[string]bool{}
	for _, r := range rows {
		for name := range r.Prices {
			names[name] = true
		}
	}
	for name := range names {
		usual := mostCommon(rows, func(r catalog.ListRow) *decimal.Decimal {
			if amount, ok := r.Prices[name]; ok {
				return &amount
			}
			return nil
		})
		row := storeprices.Price{
			ProductID:   p.Row.ID,
			PriceListID: im.lists[text.Key(name)],
			FromAt:      im.shop.Now(),
			UserID:      &im.who.ID,
		}
		everywhere := !slices.ContainsFunc(rows, func(r catalog.ListRow) bool { _, ok := r.Prices[name]; return !ok })
		if everywhere {
			row.Amount = *usual
			prices = append(prices, row)
		}
		for n, r := range rows {
			amount, ok := r.Prices[name]
			if !ok || everywhere && amount.Equal(*usual) {
				continue
			}
			id := p.Cells[n].Id
			row.VariantID, row.Amount = &id, amount
			prices = append(prices, row)
		}
	}
	return prices
}

// finish notes what was made and the opening stock that goes with it.
func (im *listImport) finish(p *shopcatalog.Planned, list []int) {
	for n, i := range list {
		im.results[i].Outcome, im.results[i].SKU = RowMade, p.Cells[n].Sku
		if im.rows[i].Price == nil && p.Price == nil {
			im.results[i].Detail = "without a price of its own"
		}
		im.wantOpening(i, p.Cells[n].Id)
	}
}

func (im *listImport) wantOpening(i int, variant uint64) {
	if row := im.rows[i]; row.Opening != nil && row.Opening.IsPositive() && row.Cost != nil {
		im.opening = append(im.opening, stock.Opened{Variant: variant, Name: row.Product, Tracking: stock.Counted,
			Quantity: *row.Opening, Cost: row.Cost})
	}
}

// plan works out a new product from its rows. Its price, cost and restock level
// are those that most of its rows have; the others have their own.
func (im *listImport) plan(list []int) (*shopcatalog.Planned, error) {
	rows := im.rowsOf(list)
	first := catalog.Head(rows)
	row := goods.Product{
		Name:         first.Product,
		ShortName:    first.ShortName,
		Style:        first.Style,
		SKUPattern:   first.SKUPattern,
		Brand:        first.Brand,
		Description:  first.Description,
		SupplierText: first.SupplierText,
		Unit:         first.UnitOf().Code,
		Tracking:     string(first.Kept()),
		Content:      first.Content,
		Measure:      first.Measure,
		Weight:       first.Weight,
		Bundle:       len(first.Parts) > 0,
		OwnTaxClass:  first.TaxClass != "",
		TaxClassID:   im.classes[text.Key(first.TaxClass)],
	}
	if row.Bundle {
		row.Tracking = string(stock.NotStocked)
	}
	if first.Discontinued != nil {
		row.Discontinued = *first.Discontinued
	}
	if len(first.Category) == 0 {
		return nil, fault.Field("category", "", "Swim > Rash vests", "%s has no category.", first.Product)
	}
	p := &shopcatalog.Planned{Row: row, Axes: catalog.MergeAxes(rows), Part: first.Part, Attributes: first.Attributes}
	if err := catalog.CheckAxes(p.Axes); err != nil {
		return nil, err
	}
	if row.Bundle && len(rows) > 1 {
		return nil, fault.Field("parts", first.Product, "one row for a bundle", "%s is a bundle; it can't vary.",
			first.Product)
	}
	p.Usual()
	p.Price = mostCommon(rows, func(r catalog.ListRow) *decimal.Decimal { return r.Price })
	p.Row.Cost = mostCommon(rows, func(r catalog.ListRow) *decimal.Decimal { return r.Cost })
	p.Row.RestockLevel = mostCommon(rows, func(r catalog.ListRow) *decimal.Decimal { return r.Restock })
	if err := p.Take(rows); err != nil {
		return nil, err
	}
	for i, c := range p.Cells {
		if c.Cost != nil && p.Row.Cost != nil && c.Cost.Equal(*p.Row.Cost) {
			p.Cells[i].Cost = nil
		}
		if c.Restock != nil && p.Row.RestockLevel != nil && c.Restock.Equal(*p.Row.RestockLevel) {
			p.Cells[i].Restock = nil
		}
	}
	return p, im.place(&p.Row, first)
}

// place finds or makes the category and supplier of a new product and its tax
// class, each pair once.
func (im *listImport) place(row *goods.Product, first catalog.ListRow) error {
	key := text.Key(strings.Join(first.Category, " > ")) + "\x1f" + text.Key(first.Supplier) + "\x1f" +
		text.Key(first.TaxClass)
	if known, ok := im.places[key]; ok {
		row.CategoryID, row.SupplierID, row.TaxClassID = known.CategoryID, known.SupplierID, known.TaxClassID
		return nil
	}
	if err := shopcatalog.PlaceAt(im.shop, im.tx, row, first.Category, first.Supplier); err != nil {
		return err
	}
	im.places[key] = *row
	return nil
}

// mostCommon is the figure that most rows have; nil when none has one.
func mostCommon(rows []catalog.ListRow, figure func(catalog.ListRow) *decimal.Decimal) *decimal.Decimal {
	counts := map[string]int{}
	var best *decimal.Decimal
	most := 0
	for _, r := range rows {
		if f := figure(r); f != nil {
			counts[f.String()]++
			if counts[f.String()] > most {
				best, most = f, counts[f.String()]
			}
		}
	}
	return best
}

// open posts the opening stock that was gathered, as one document.
func (im *listImport) open() error {
	if len(im.opening) == 0 {
		return nil
	}
	number, err := deed.PostOpening(im.shop, im.tx, im.who, im.with.branch, im.opening)
	im.opening = im.opening[:0]
	im.numbers = append(im.numbers, number)
	return err
}

// makeBundles looks the parts of bundles up, once everything is there.
func (im *listImport) makeBundles() error {
	for _, b := range im.bundles {
		var parts []shopcatalog.PartInput
		for _, p := range b.parts {
			found, err := goods.Find(im.tx.Q, p.Code, 2)
			if err != nil {
				return err
			}
			if len(found) != 1 || found[0].Kind != "variant" {
				return fault.Field("parts", p.Code, "the SKU or barcode of a part", "%s: there is no part %s.", b.name,
					p.Code)
			}
			parts = append(parts, shopcatalog.PartInput{Variant: found[0].ID, Quantity: p.Quantity})
		}
		if err := shopcatalog.SetParts(im.tx, b.variant, parts); err != nil {
			return err
		}
	}
	return nil
}

// picture gives a product the picture that its rows name, when pictures came
// with the list.
func (im *listImport) picture(product, have uint64, rows []catalog.ListRow) error {
	if im.with.pictures == nil {
		return nil
	}
	var ids []uint64
	for _, r := range rows {
		if r.Picture == "" {
			continue
		}
		id, err := im.with.pictures(r.Picture)
		if err != nil {
			return err
		}
		if id != 0 && !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	if len(ids) == 0 || len(ids) == 1 && ids[0] == have {
		return nil
	}
	return goods.AddPictures(im.tx, product, ids)
}
