package shop

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/sheet"
	"itemrack/store"
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
type ListResult = store.ImportRow

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

// errDryRun rolls a dry run back after everything was tried.
var errDryRun = errors.New("dry run")

// rowSource pushes the rows of a list, with their records, from the first on;
// it can be run again.
type rowSource func(push func(row catalog.ListRow, record []string) error) error

// listSink takes what became of some rows.
type listSink func(done []ListResult) error

// ImportList reads a stock list in: products with their variants, prices and
// opening stock, which is posted at a branch. A dry run tries everything and
// keeps nothing. One refused row keeps all from being imported.
func (s *Shop) ImportList(ctx context.Context, who Actor, key string, file io.ReadSeeker, branch uint64, dryRun bool) (ListReport, error) {
	heads, match, err := matched(s.Store.Read(ctx), file, ImportCatalog, catalog.ListColumns)
	if err != nil {
		return ListReport{}, err
	}
	source, err := listRows(file, match)
	if err != nil {
		return ListReport{}, err
	}
	report, err := s.ImportRows(ctx, who, key, source, branch, dryRun)
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
			return fault.Field("file", n, fmt.Sprintf("%d rows or fewer", most), "The file has more than %d rows.", most)
		}
		if err := take(line, record, r.DecimalComma()); err != nil {
			return err
		}
	}
}

// listRows reads the rows of a file whose columns are matched.
func listRows(file io.ReadSeeker, match catalog.Matching) (rowSource, error) {
	if _, err := catalog.NewListReader(match); err != nil {
		return nil, err
	}
	return func(push func(catalog.ListRow, []string) error) error {
		reader, err := catalog.NewListReader(match)
		if err != nil {
			return err
		}
		return eachRecord(file, catalog.MaxListRows, func(line int, record []string, comma bool) error {
			reader.DecimalComma = comma
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
func (s *Shop) ImportRows(ctx context.Context, who Actor, key string, source rowSource, branch uint64, dryRun bool) (ListReport, error) {
	var rows []ListResult
	report, err := s.importRows(ctx, who, key, source, importOptions{branch: branch, dryRun: dryRun, again: func() { rows = nil }, sink: func(done []ListResult) error {
		rows = append(rows, done...)
		return nil
	}})
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

func (s *Shop) importRows(ctx context.Context, who Actor, key string, source rowSource, with importOptions) (ListReport, error) {
	if with.dryRun {
		key = ""
	}
	var report ListReport
	result, err := once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (ListReport, error) {
		with.again()
		im := &listImport{shop: s, tx: tx, with: with, who: who}
		if err := im.run(source); err != nil {
			return ListReport{}, err
		}
		report = im.report
		report.DryRun, report.Opening = with.dryRun, strings.Join(im.numbers, ", ")
		if with.dryRun || report.Refused > 0 {
			return report, errDryRun
		}
		return report, nil
	})
	if errors.Is(err, errDryRun) {
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
	shop    *Shop
	tx      store.Tx
	who     Actor
	with    importOptions
	report  ListReport
	classes map[string]uint64
	lists   map[string]uint64
	rows    []catalog.ListRow
	results []ListResult
	records [][]string
	opening []opening
	numbers []string
	bundles []bundled
	places  map[string]store.Product
}

type opening struct {
	variant  uint64
	quantity decimal.Decimal
	cost     decimal.Decimal
	lot      store.Lot
	serials  []string
	shelf    uint64
}

// bundled is a bundle whose parts are looked up once all rows are read.
type bundled struct {
	variant uint64
	parts   []catalog.ListPart
	name    string
}

func (im *listImport) run(source rowSource) error {
	classes, err := im.tx.TaxClasses()
	if err != nil {
		return err
	}
	im.classes, im.lists, im.places = map[string]uint64{}, map[string]uint64{}, map[string]store.Product{}
	for _, c := range classes {
		im.classes[strings.ToLower(c.Name)] = c.ID
	}
	lists, err := im.tx.PriceLists()
	if err != nil {
		return err
	}
	for _, l := range lists {
		im.lists[strings.ToLower(l.Name)] = l.ID
	}
	err = source(func(row catalog.ListRow, record []string) error {
		if n := len(im.rows); n >= rowBatch && !strings.EqualFold(im.rows[n-1].Product, row.Product) || n >= mostBatch {
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
		name := strings.ToLower(row.Product)
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
			im.results[i].Record = toJSON(im.records[i])
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
	if row.TaxClass != "" && im.classes[strings.ToLower(row.TaxClass)] == 0 {
		return fault.Field("tax class", row.TaxClass, "a tax class of the shop", "There is no tax class %q.", row.TaxClass)
	}
	for name := range row.Prices {
		if im.lists[strings.ToLower(name)] == 0 {
			return fault.Field(catalog.PricePrefix+name, name, "a price list of the shop", "There is no price list %q.", name)
		}
	}
	return nil
}

func (im *listImport) refuse(i int, e *fault.Error) {
	r := &im.results[i]
	r.Outcome, r.Detail, r.Field, r.Want = RowRefused, e.Detail, e.Field, e.Want
}

// codesOf are the barcodes of a row.
func codesOf(row catalog.ListRow) []string {
	var codes []string
	if row.Barcode != "" {
		codes = append(codes, row.Barcode)
	}
	return append(codes, row.MoreBarcodes...)
}

// refuseTaken refuses rows whose barcode or SKU belongs to another variant.
func (im *listImport) refuseTaken() error {
	var keys, skus []string
	for _, row := range im.rows {
		for _, code := range append(codesOf(row), row.PackBarcode) {
			if code != "" {
				keys = append(keys, barcode.Key(code))
			}
		}
		if row.SKU != "" {
			skus = append(skus, row.SKU)
		}
	}
	owners, err := im.tx.TakenBarcodes(keys)
	if err != nil {
		return err
	}
	taken, err := im.tx.TakenSKUs(skus)
	if err != nil || len(owners)+len(taken) == 0 {
		return err
	}
	var ids []uint64
	for _, id := range owners {
		ids = append(ids, id)
	}
	for _, id := range taken {
		ids = append(ids, id)
	}
	names, err := im.tx.VariantNames(ids)
	if err != nil {
		return err
	}
	for i, row := range im.rows {
		if row.Refused != nil {
			continue
		}
		claims := []struct {
			field, value string
			owner        uint64
		}{{"sku", row.SKU, taken[row.SKU]}, {"pack barcode", row.PackBarcode, owners[barcode.Key(row.PackBarcode)]}}
		for _, code := range codesOf(row) {
			claims = append(claims, struct {
				field, value string
				owner        uint64
			}{"barcode", code, owners[barcode.Key(code)]})
		}
		for _, c := range claims {
			if c.owner == 0 || c.value == "" {
				continue
			}
			if name := names[c.owner]; !strings.EqualFold(name[0], row.Product) || !strings.EqualFold(name[1], row.Choice().Label()) {
				im.rows[i].Refused = fault.Clash(c.field, c.value, "one that is free", "%s belongs to %s.", c.value, catalog.FullName(name[0], name[1]))
				im.refuse(i, im.rows[i].Refused)
				break
			}
		}
	}
	return nil
}

func (im *listImport) runBatch(names []string, groups map[string][]int) error {
	knownNames, err := im.tx.ProductsByName(names)
	if err != nil {
		return err
	}
	var old, touched []uint64
	var fresh []*planned
	from := map[*planned][]int{}
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
			touched = append(touched, p.row.ID)
		}
	}
	changed, err := im.updateAll(old, lists)
	if err != nil {
		return err
	}
	return im.shop.settled(im.tx, append(touched, changed...))
}

func (im *listImport) makeFresh(fresh []*planned, from map[*planned][]int) error {
	if err := im.shop.write(im.tx, fresh); err != nil {
		return err
	}
	var prices []store.Price
	for _, p := range fresh {
		im.finish(p, from[p])
		rows := im.rowsOf(from[p])
		first := rows[0]
		if first.Pack != "" {
			for n, row := range rows {
				if _, err := im.pack(p.row.ID, p.cells[n].id, nil, row); err != nil {
					return err
				}
			}
		}
		prices = append(prices, im.listPrices(p, rows)...)
		if len(first.Parts) > 0 {
			im.bundles = append(im.bundles, bundled{p.cells[0].id, first.Parts, first.Product})
		}
		if err := im.picture(p.row.ID, 0, rows); err != nil {
			return err
		}
	}
	if len(prices) == 0 {
		return nil
	}
	return im.tx.AddPrices(&prices)
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
func (im *listImport) listPrices(p *planned, rows []catalog.ListRow) []store.Price {
	var prices []store.Price
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
		row := store.Price{ProductID: p.row.ID, PriceListID: im.lists[strings.ToLower(name)], FromAt: im.shop.Now(), UserID: &im.who.ID}
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
			id := p.cells[n].id
			row.VariantID, row.Amount = &id, amount
			prices = append(prices, row)
		}
	}
	return prices
}

// finish notes what was made and the opening stock that goes with it.
func (im *listImport) finish(p *planned, list []int) {
	for n, i := range list {
		im.results[i].Outcome, im.results[i].SKU = RowMade, p.cells[n].sku
		if im.rows[i].Price == nil && p.price == nil {
			im.results[i].Detail = "without a price of its own"
		}
		im.wantOpening(i, p.cells[n].id)
	}
}

func (im *listImport) wantOpening(i int, variant uint64) {
	if row := im.rows[i]; row.Opening != nil && row.Opening.IsPositive() && row.Cost != nil {
		im.opening = append(im.opening, opening{variant: variant, quantity: *row.Opening, cost: *row.Cost})
	}
}

// plan works out a new product from its rows. Its price, cost and restock level
// are those that most of its rows have; the others have their own.
func (im *listImport) plan(list []int) (*planned, error) {
	rows := im.rowsOf(list)
	first := rows[0]
	row := store.Product{Name: first.Product, ShortName: first.ShortName, Style: first.Style, SKUPattern: first.SKUPattern, Brand: first.Brand, Description: first.Description, SupplierText: first.SupplierText,
		Unit: first.UnitOf().Code, Tracking: string(first.Kept()), Content: first.Content, Measure: first.Measure, Bundle: len(first.Parts) > 0, OwnTaxClass: first.TaxClass != "", TaxClassID: im.classes[strings.ToLower(first.TaxClass)]}
	if row.Bundle {
		row.Tracking = string(stock.NotStocked)
	}
	if first.Discontinued != nil {
		row.Discontinued = *first.Discontinued
	}
	if len(first.Category) == 0 {
		return nil, fault.Field("category", "", "Swim > Rash vests", "%s has no category.", first.Product)
	}
	p := &planned{row: row, axes: catalog.MergeAxes(rows), part: first.Part, attributes: first.Attributes}
	if err := catalog.CheckAxes(p.axes); err != nil {
		return nil, err
	}
	if row.Bundle && len(rows) > 1 {
		return nil, fault.Field("parts", first.Product, "one row for a bundle", "%s is a bundle; it can't vary.", first.Product)
	}
	p.usual()
	p.price = mostCommon(rows, func(r catalog.ListRow) *decimal.Decimal { return r.Price })
	p.row.Cost = mostCommon(rows, func(r catalog.ListRow) *decimal.Decimal { return r.Cost })
	p.row.RestockLevel = mostCommon(rows, func(r catalog.ListRow) *decimal.Decimal { return r.Restock })
	if err := p.take(rows); err != nil {
		return nil, err
	}
	for i, c := range p.cells {
		if c.cost != nil && p.row.Cost != nil && c.cost.Equal(*p.row.Cost) {
			p.cells[i].cost = nil
		}
		if c.restock != nil && p.row.RestockLevel != nil && c.restock.Equal(*p.row.RestockLevel) {
			p.cells[i].restock = nil
		}
	}
	return p, im.place(&p.row, first)
}

// place finds or makes the category and supplier of a new product and its tax
// class, each pair once.
func (im *listImport) place(row *store.Product, first catalog.ListRow) error {
	key := strings.ToLower(strings.Join(first.Category, " > ") + "\x1f" + first.Supplier + "\x1f" + first.TaxClass)
	if known, ok := im.places[key]; ok {
		row.CategoryID, row.SupplierID, row.TaxClassID = known.CategoryID, known.SupplierID, known.TaxClassID
		return nil
	}
	if err := im.shop.placeAt(im.tx, row, first.Category, first.Supplier); err != nil {
		return err
	}
	im.places[key] = *row
	return nil
}

// take makes a cell of each row.
func (p *planned) take(rows []catalog.ListRow) error {
	for _, row := range rows {
		c := cell{choice: row.Choice(), sku: row.SKU, barcodes: codesOf(row), restock: row.Restock, cost: row.Cost}
		if c.sku == "" {
			sku, err := catalog.SKU(p.row.SKUPattern, p.row.Style, p.axes, c.choice)
			if err != nil {
				return err
			}
			c.sku = sku
		}
		if row.Price != nil && (p.price == nil || !row.Price.Equal(*p.price)) {
			c.price = row.Price
		}
		p.cells = append(p.cells, c)
	}
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
	number, err := im.shop.postOpening(im.tx, im.who, im.with.branch, im.opening)
	im.opening = im.opening[:0]
	im.numbers = append(im.numbers, number)
	return err
}

// postOpening posts opening stock as one document.
func (s *Shop) postOpening(tx store.Tx, who Actor, branch uint64, list []opening) (string, error) {
	variants := make([]uint64, len(list))
	var serials []string
	for i, o := range list {
		variants[i] = o.variant
		serials = append(serials, o.serials...)
	}
	held, err := tx.Hold(variants, serials)
	if err != nil {
		return "", err
	}
	shelf, err := held.Where(branch)
	if err != nil {
		return "", err
	}
	name, err := nextNumber(tx, "OS")
	if err != nil {
		return "", err
	}
	now := s.Now()
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Opening, Number: name, Branch: branch, By: who.ID, HappenedAt: now, RecordedAt: now})
	for i, o := range list {
		value := o.value()
		key := stock.Key{Variant: o.variant, Shelf: shelf, Condition: stock.ForSale}
		if o.shelf != 0 {
			key.Shelf = o.shelf
		}
		if o.lot.Number != "" {
			lot, err := tx.Lot(o.variant, o.lot.Number, o.lot.Expiry)
			if err != nil {
				return "", err
			}
			key.Lot = lot.ID
		}
		if err := draft.Bring(i+1, key, o.quantity, value, o.serials); err != nil {
			return "", err
		}
		draft.Post(ledger.Stock, value)
		draft.Post(ledger.Opening, value.Neg())
	}
	doc, err := draft.Document()
	if err != nil {
		return "", err
	}
	_, err = tx.Post(held, doc)
	return name, err
}

// makeBundles looks the parts of bundles up, once everything is there.
func (im *listImport) makeBundles() error {
	for _, b := range im.bundles {
		var parts []PartInput
		for _, p := range b.parts {
			found, err := im.tx.Find(p.Code, 2)
			if err != nil {
				return err
			}
			if len(found) != 1 || found[0].Kind != "variant" {
				return fault.Field("parts", p.Code, "the SKU or barcode of a part", "%s: there is no part %s.", b.name, p.Code)
			}
			parts = append(parts, PartInput{found[0].ID, p.Quantity})
		}
		if err := setParts(im.tx, b.variant, parts); err != nil {
			return err
		}
	}
	return nil
}

// pack makes or changes the pack of a row, and says what it changed.
func (im *listImport) pack(product, variant uint64, have []store.Pack, row catalog.ListRow) ([]string, error) {
	if row.Pack == "" {
		return nil, nil
	}
	var said []string
	if have == nil {
		packs, err := im.tx.Packs([]uint64{product})
		if err != nil {
			return nil, err
		}
		have = packs[product]
	}
	at := slices.IndexFunc(have, func(p store.Pack) bool { return strings.EqualFold(p.Name, row.Pack) })
	var p store.Pack
	switch {
	case at >= 0:
		p = have[at]
		if row.Factor != nil && !row.Factor.Equal(p.Factor) {
			said = append(said, "pack factor "+p.Factor.String()+" → "+row.Factor.String())
			p.Factor = *row.Factor
			if err := im.tx.SavePack(&p); err != nil {
				return nil, err
			}
		}
	case row.Factor == nil:
		return nil, fault.Field("pack factor", "", "how many are in it", "The pack %s does not say how many are in it.", row.Pack)
	default:
		p = store.Pack{ProductID: product, Name: row.Pack, Factor: *row.Factor, Bought: true}
		if err := im.tx.SavePack(&p); err != nil {
			return nil, err
		}
		said = append(said, "pack "+row.Pack+" made")
	}
	if row.PackBarcode != "" {
		owner, _, err := im.tx.Owner(row.PackBarcode)
		if err != nil {
			return nil, err
		}
		if owner == 0 {
			if err := im.tx.AddBarcode(variant, &p.ID, row.PackBarcode); err != nil {
				return nil, err
			}
			said = append(said, "pack barcode "+row.PackBarcode+" added")
		}
	}
	if row.PackPrice != nil {
		now, err := im.tx.PackPrice(product, p.ID, im.shop.Now())
		if err != nil {
			return nil, err
		}
		if now == nil || !now.Equal(*row.PackPrice) {
			if err := im.tx.SetPrice(store.Price{ProductID: product, PackID: &p.ID, PriceListID: price.Regular, FromAt: im.shop.Now(), Amount: *row.PackPrice, UserID: &im.who.ID}); err != nil {
				return nil, err
			}
			said = append(said, "pack price "+row.PackPrice.StringFixed(2))
		}
	}
	return said, nil
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
	return im.tx.AddPictures(product, ids)
}
