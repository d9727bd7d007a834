package lists

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/core/text"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store/goods"
	storeprices "itemrack/store/prices"
)

// bundled is a bundle whose parts are looked up once all rows are read.
type bundled struct {
	variant uint64
	parts   []catalog.ListPart
	name    string
}

func (im *listImport) runBatch(names []string, groups map[string][]int) error {
	knownNames, err := goods.ProductsByName(im.Tx.Q, names)
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
	return shopcatalog.Settled(im.Deed, append(touched, changed...))
}

func (im *listImport) makeFresh(fresh []*shopcatalog.Planned, from map[*shopcatalog.Planned][]int) error {
	if err := shopcatalog.Write(im.Deed, fresh); err != nil {
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
	return storeprices.AddPrices(im.Tx, &prices)
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
			FromAt:      im.Shop.Now(),
			UserID:      &im.Who.ID,
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
	if err := shopcatalog.PlaceAt(im.Deed, row, first.Category, first.Supplier); err != nil {
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
	done, err := deed.PostOpening(im.Deed, im.with.branch, im.opening)
	im.opening = im.opening[:0]
	im.numbers = append(im.numbers, done.Number)
	return err
}

// makeBundles looks the parts of bundles up, once everything is there.
func (im *listImport) makeBundles() error {
	for _, b := range im.bundles {
		var parts []shopcatalog.PartInput
		for _, p := range b.parts {
			found, err := goods.Find(im.Tx.Q, p.Code, 2)
			if err != nil {
				return err
			}
			if len(found) != 1 || found[0].Kind != "variant" {
				return fault.Field("parts", p.Code, "the SKU or barcode of a part", "%s: there is no part %s.", b.name,
					p.Code)
			}
			parts = append(parts, shopcatalog.PartInput{Variant: found[0].ID, Quantity: p.Quantity})
		}
		if err := shopcatalog.SetParts(im.Tx, b.variant, parts); err != nil {
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
	return goods.AddPictures(im.Tx, product, ids)
}
