package shop

import (
	"context"
	"errors"
	"io"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/stock"
	"itemrack/store"
)

// What becomes of a row of a stock list.
const (
	RowMade    = "made"
	RowChanged = "changed"
	RowSame    = "same"
	RowRefused = "refused"
)

// ListResult is what becomes of one row: for a change what from and to, for a
// refusal the field and what would be right.
type ListResult struct {
	Line    int    `json:"line"`
	Product string `json:"product"`
	Variant string `json:"variant"`
	SKU     string `json:"sku"`
	Outcome string `json:"outcome"`
	Detail  string `json:"detail,omitempty"`
	Field   string `json:"field,omitempty"`
	Want    string `json:"want,omitempty"`
}

// ListReport is what became of a stock list. Opening is the document that took
// the opening stock in.
type ListReport struct {
	Made    int          `json:"made"`
	Changed int          `json:"changed"`
	Same    int          `json:"same"`
	Refused int          `json:"refused"`
	Opening string       `json:"opening,omitempty"`
	DryRun  bool         `json:"dry_run"`
	Rows    []ListResult `json:"rows"`
}

// errDryRun rolls a dry run back after everything was tried.
var errDryRun = errors.New("dry run")

// ImportList reads a stock list in: products with their variants, prices and
// opening stock, which is posted as one document at a branch. A dry run tries
// everything and keeps nothing. One refused row keeps all from being imported.
func (s *Shop) ImportList(ctx context.Context, who Actor, key string, file io.Reader, branch uint64, dryRun bool) (ListReport, error) {
	rows, err := catalog.ReadList(file)
	if err != nil {
		return ListReport{}, err
	}
	if dryRun {
		key = ""
	}
	return s.ImportRows(ctx, who, key, rows, branch, dryRun)
}

// ImportRows is ImportList for rows that are read already.
func (s *Shop) ImportRows(ctx context.Context, who Actor, key string, rows []catalog.ListRow, branch uint64, dryRun bool) (ListReport, error) {
	var report ListReport
	result, err := once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (ListReport, error) {
		im := &listImport{shop: s, tx: tx, rows: rows, results: make([]ListResult, len(rows))}
		if err := im.run(who, branch); err != nil {
			return ListReport{}, err
		}
		report = im.report()
		report.DryRun = dryRun
		if dryRun || report.Refused > 0 {
			return report, errDryRun
		}
		return report, nil
	})
	if errors.Is(err, errDryRun) {
		return report, nil
	}
	return result, err
}

// listImport is one import while it runs.
type listImport struct {
	shop     *Shop
	tx       store.Tx
	rows     []catalog.ListRow
	results  []ListResult
	classes  map[string]uint64
	fallback uint64
	opening  []opening
	number   string
}

type opening struct {
	variant  uint64
	quantity decimal.Decimal
	cost     decimal.Decimal
}

func (im *listImport) report() ListReport {
	r := ListReport{Rows: im.results, Opening: im.number}
	for _, row := range im.results {
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
	return r
}

func (im *listImport) refuse(i int, e *fault.Error) {
	im.results[i].Outcome, im.results[i].Detail, im.results[i].Field, im.results[i].Want = RowRefused, e.Detail, e.Field, e.Want
}

func (im *listImport) run(who Actor, branch uint64) error {
	classes, err := im.tx.TaxClasses()
	if err != nil {
		return err
	}
	im.classes = map[string]uint64{}
	for i, c := range classes {
		im.classes[strings.ToLower(c.Name)] = c.ID
		if i == 0 {
			im.fallback = c.ID
		}
	}
	var order []string
	groups := map[string][]int{}
	for i, row := range im.rows {
		im.results[i] = ListResult{Line: row.Line, Product: row.Product, Variant: row.Choice().Label(), SKU: row.SKU}
		if row.Refused != nil {
			im.refuse(i, row.Refused)
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
	const batch = 500 // products at a time
	for start := 0; start < len(order); start += batch {
		if err := im.runBatch(order[start:min(start+batch, len(order))], groups); err != nil {
			return err
		}
	}
	return im.open(who, branch)
}

// refuseTaken refuses rows whose barcode or SKU belongs to another variant.
func (im *listImport) refuseTaken() error {
	var keys, skus []string
	for _, row := range im.rows {
		if row.Barcode != "" {
			keys = append(keys, barcode.Key(row.Barcode))
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
	if err != nil {
		return err
	}
	for i, row := range im.rows {
		if row.Refused != nil {
			continue
		}
		for _, c := range []struct {
			field, value string
			owner        uint64
		}{{"barcode", row.Barcode, owners[barcode.Key(row.Barcode)]}, {"sku", row.SKU, taken[row.SKU]}} {
			if c.owner == 0 || c.value == "" {
				continue
			}
			name, label, err := im.tx.VariantName(c.owner)
			if err != nil {
				return err
			}
			if !strings.EqualFold(name, row.Product) || !strings.EqualFold(label, row.Choice().Label()) {
				im.rows[i].Refused = fault.Clash(c.field, c.value, "one that is free", "%s belongs to %s.", c.value, store.FullName(name, label))
				im.refuse(i, im.rows[i].Refused)
				break
			}
		}
	}
	return nil
}

func (im *listImport) runBatch(names []string, groups map[string][]int) error {
	known, err := im.tx.ProductsByName(names)
	if err != nil {
		return err
	}
	var fresh []*planned
	from := map[*planned][]int{}
	for _, name := range names {
		var list []int
		for _, i := range groups[name] {
			if im.rows[i].Refused == nil {
				list = append(list, i)
			}
		}
		if len(list) == 0 {
			continue
		}
		if id := known[name]; id != 0 {
			if err := im.update(id, list); err != nil {
				return err
			}
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
		fresh = append(fresh, p)
		from[p] = list
	}
	if len(fresh) == 0 {
		return nil
	}
	if err := im.shop.write(im.tx, fresh); err != nil {
		return err
	}
	for _, p := range fresh {
		im.finish(p, from[p])
	}
	return nil
}

// finish notes what was made and the opening stock that goes with it.
func (im *listImport) finish(p *planned, list []int) {
	for n, i := range list {
		im.results[i].Outcome, im.results[i].SKU = RowMade, p.cells[n].sku
		im.wantOpening(i, p.cells[n].id)
	}
}

func (im *listImport) wantOpening(i int, variant uint64) {
	if row := im.rows[i]; row.Opening != nil && row.Opening.IsPositive() && row.Cost != nil {
		im.opening = append(im.opening, opening{variant, *row.Opening, *row.Cost})
	}
}

// plan works out a new product from its rows. Its price is the one that most of
// its rows have; the others have their own.
func (im *listImport) plan(list []int) (*planned, error) {
	rows := make([]catalog.ListRow, len(list))
	for n, i := range list {
		rows[n] = im.rows[i]
	}
	first := rows[0]
	if len(first.Category) == 0 {
		return nil, fault.Field("category", "", "Swim > Rash vests", "%s has no category.", first.Product)
	}
	class, err := im.taxClass(first)
	if err != nil {
		return nil, err
	}
	category, err := im.tx.Category(first.Category)
	if err != nil {
		return nil, err
	}
	p := &planned{row: store.Product{Name: first.Product, Style: first.Style, CategoryID: category.ID, TaxClassID: class,
		Unit: first.Unit.Code, Tracking: string(first.Tracking)}, axes: catalog.MergeAxes(rows)}
	if p.row.SupplierID, err = im.supplier(first.Supplier); err != nil {
		return nil, err
	}
	if err := catalog.CheckAxes(p.axes); err != nil {
		return nil, err
	}
	p.usual()
	usual := mostCommon(rows)
	p.price = &usual
	return p, p.take(rows)
}

// take makes a cell of each row.
func (p *planned) take(rows []catalog.ListRow) error {
	for _, row := range rows {
		c := cell{choice: row.Choice(), sku: row.SKU, barcode: row.Barcode, restock: row.Restock}
		if c.sku == "" {
			sku, err := catalog.SKU(p.row.SKUPattern, p.row.Style, p.axes, c.choice)
			if err != nil {
				return err
			}
			c.sku = sku
		}
		if p.price == nil || !row.Price.Equal(*p.price) {
			c.price = row.Price
		}
		p.cells = append(p.cells, c)
	}
	return nil
}

func (im *listImport) taxClass(row catalog.ListRow) (uint64, error) {
	if row.TaxClass == "" {
		return im.fallback, nil
	}
	if id := im.classes[strings.ToLower(row.TaxClass)]; id != 0 {
		return id, nil
	}
	return 0, fault.Field("tax class", row.TaxClass, "a tax class of the shop", "There is no tax class %q.", row.TaxClass)
}

func (im *listImport) supplier(name string) (*uint64, error) {
	if name == "" {
		return nil, nil
	}
	row, err := im.tx.Supplier(name)
	return &row.ID, err
}

func mostCommon(rows []catalog.ListRow) decimal.Decimal {
	counts, best := map[string]int{}, rows[0].Price
	for _, r := range rows {
		counts[r.Price.StringFixed(2)]++
		if counts[r.Price.StringFixed(2)] > counts[best.StringFixed(2)] {
			best = r.Price
		}
	}
	return *best
}

// update changes a product that is there: new variants are made, and price,
// barcode, restock level, category and supplier follow the file.
func (im *listImport) update(id uint64, list []int) error {
	if err := im.tx.LockProduct(id); err != nil {
		return err
	}
	view, err := im.tx.Product(id, 0, im.shop.Now())
	if err != nil {
		return err
	}
	first := im.rows[list[0]]
	changes, err := im.updateHead(view, first)
	if err != nil {
		return err
	}
	at := map[string]store.VariantView{}
	for _, v := range view.Variants {
		at[v.Choice.Key()] = v
	}
	var add []int
	for _, i := range list {
		row := im.rows[i]
		if e := cantChange(view, row); e != nil {
			im.refuse(i, e)
			continue
		}
		have, ok := at[row.Choice().Key()]
		if !ok {
			add = append(add, i)
			continue
		}
		said, err := im.updateVariant(view, have, row)
		if e := fault.Of(err); e != nil {
			im.refuse(i, e)
			continue
		}
		if err != nil {
			return err
		}
		im.results[i].SKU = have.SKU
		im.results[i].Outcome, im.results[i].Detail = RowSame, ""
		if said = append(slices.Clone(changes), said...); len(said) > 0 {
			im.results[i].Outcome, im.results[i].Detail = RowChanged, strings.Join(said, "; ")
		}
	}
	return im.addRows(view, add)
}

// cantChange names what a file may not change of a product that is there.
func cantChange(view store.ProductView, row catalog.ListRow) *fault.Error {
	if string(row.Tracking) != view.Tracking {
		return fault.Refuse("tracking", row.Tracking, view.Tracking, "%s is %s; tracking can't be changed by a list.", view.Name, view.Tracking)
	}
	if row.Unit.Code != view.Unit {
		return fault.Refuse("unit", row.Unit.Code, view.Unit, "%s is kept in %s; the unit can't be changed by a list.", view.Name, view.Unit)
	}
	names := make([]string, len(view.Axes))
	for i, a := range view.Axes {
		names[i] = a.Name
	}
	for i, v := range row.Axes {
		if len(row.Axes) != len(names) || !strings.EqualFold(names[i], v.Axis) {
			return fault.Refuse("product", row.Product, strings.Join(names, ", "), "%s varies by %q, not by what this row gives.", view.Name, strings.Join(names, ", "))
		}
	}
	if len(row.Axes) != len(names) {
		return fault.Refuse("product", row.Product, strings.Join(names, ", "), "%s varies by %q; this row says nothing of that.", view.Name, strings.Join(names, ", "))
	}
	return nil
}

func (im *listImport) updateHead(view store.ProductView, row catalog.ListRow) ([]string, error) {
	columns := map[string]any{}
	var said []string
	if path := strings.Join(row.Category, " > "); path != "" && !strings.EqualFold(path, view.Category.Path) {
		category, err := im.tx.Category(row.Category)
		if err != nil {
			return nil, err
		}
		columns["category_id"] = category.ID
		said = append(said, "category "+view.Category.Path+" → "+path)
	}
	if row.Supplier != "" && !strings.EqualFold(row.Supplier, view.Supplier) {
		supplier, err := im.supplier(row.Supplier)
		if err != nil {
			return nil, err
		}
		columns["supplier_id"] = *supplier
		said = append(said, "supplier "+view.Supplier+" → "+row.Supplier)
	}
	if len(columns) == 0 {
		return nil, nil
	}
	return said, im.tx.UpdateProduct(view.ID, columns)
}

func (im *listImport) updateVariant(view store.ProductView, have store.VariantView, row catalog.ListRow) ([]string, error) {
	var said []string
	if !row.Price.Equal(have.Price) {
		if err := im.tx.SetPrice(view.ID, &have.ID, *row.Price, im.shop.Now()); err != nil {
			return nil, err
		}
		said = append(said, "price "+have.Price.StringFixed(2)+" → "+row.Price.StringFixed(2))
	}
	if row.SKU != "" && row.SKU != have.SKU {
		if err := im.tx.SetSKU(have.ID, row.SKU); err != nil {
			return nil, err
		}
		said = append(said, "SKU "+have.SKU+" → "+row.SKU)
	}
	if row.Barcode != "" {
		owner, _, err := im.tx.Owner(row.Barcode)
		if err != nil {
			return nil, err
		}
		if owner == 0 {
			if err := im.tx.AddBarcode(have.ID, row.Barcode); err != nil {
				return nil, err
			}
			said = append(said, "barcode "+row.Barcode+" added")
		}
	}
	if row.Restock != nil && (have.RestockLevel == nil || !row.Restock.Equal(*have.RestockLevel)) {
		if err := im.tx.SetRestockLevel(have.ID, row.Restock); err != nil {
			return nil, err
		}
		said = append(said, "restock level "+row.Restock.String())
	}
	return said, nil
}

// addRows makes the variants that a product lacks, with new values of its axes
// where the rows bring some.
func (im *listImport) addRows(view store.ProductView, list []int) error {
	if len(list) == 0 {
		return nil
	}
	rows := make([]catalog.ListRow, len(list))
	for n, i := range list {
		rows[n] = im.rows[i]
	}
	p := &planned{row: view.Product, axes: view.Axes, axisIDs: view.AxisIDs, valueIDs: view.ValueIDs}
	for _, a := range catalog.MergeAxes(rows) {
		at := slices.IndexFunc(p.axes, func(x catalog.Axis) bool { return strings.EqualFold(x.Name, a.Name) })
		var fresh []ValueInput
		for _, v := range a.Values {
			if !slices.ContainsFunc(p.axes[at].Values, func(x catalog.Value) bool { return strings.EqualFold(x.Name, v.Name) }) {
				fresh = append(fresh, ValueInput{v.Name, v.Swatch})
			}
		}
		if len(fresh) > 0 {
			if err := addAxisValues(im.tx, p, []AxisInput{{a.Name, fresh}}); err != nil {
				return err
			}
		}
	}
	if err := p.take(rows); err != nil {
		return err
	}
	for i := range p.cells { // the variant follows the product's price where they agree
		if len(view.Variants) > 0 && view.Variants[0].PriceSource != "own price" && p.cells[i].price.Equal(view.Variants[0].Price) {
			p.cells[i].price = nil
		}
	}
	if err := im.shop.writeCells(im.tx, []*planned{p}, im.shop.Now()); err != nil {
		return err
	}
	im.finish(p, list)
	return nil
}

// open posts the opening stock of the variants that were made, as one document.
func (im *listImport) open(who Actor, branch uint64) error {
	if len(im.opening) == 0 {
		return nil
	}
	variants := make([]uint64, len(im.opening))
	for i, o := range im.opening {
		variants[i] = o.variant
	}
	held, err := im.tx.Hold(variants, nil)
	if err != nil {
		return err
	}
	shelf, err := held.Where(branch)
	if err != nil {
		return err
	}
	if im.number, err = number(im.tx, "OS"); err != nil {
		return err
	}
	now := im.shop.Now()
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Opening, Number: im.number, Branch: branch, By: who.ID, HappenedAt: now, RecordedAt: now})
	for i, o := range im.opening {
		value := o.quantity.Mul(o.cost).Round(2)
		if err := draft.Bring(i+1, stock.Key{Variant: o.variant, Shelf: shelf, Condition: stock.ForSale}, o.quantity, value, nil); err != nil {
			return err
		}
		draft.Post(ledger.Stock, value)
		draft.Post(ledger.Opening, value.Neg())
	}
	doc, err := draft.Document()
	if err != nil {
		return err
	}
	_, err = im.tx.Post(held, doc)
	return err
}
