package lists

import (
	"slices"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/text"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// packing is the packs of a product while its rows are read in. Codes are the barcodes of its
// variants, by variant and key, with the pack they are of (0 for the unit).
type packing struct {
	product  uint64
	tracking string
	have     []goods.Pack
	codes    map[uint64]map[string]uint64
}

// find finds a pack by its name.
func (p *packing) find(name string) (goods.Pack, bool) {
	at := slices.IndexFunc(p.have, func(have goods.Pack) bool { return text.Same(have.Name, name) })
	if at < 0 {
		return goods.Pack{}, name == ""
	}
	return p.have[at], true
}

// pack makes or changes the packs of a row with their barcodes, and says what it changed.
func (im *listImport) pack(to *packing, variant uint64, row catalog.ListRow) ([]string, error) {
	var said []string
	for n, wanted := range row.Packs {
		columns := catalog.PackColumnsOf(n + 1)
		p, ok := to.find(wanted.Name)
		if err := catalog.CheckPack(wanted.Name, row.Product, stock.Tracking(to.tracking)); err != nil {
			return nil, err
		}
		switch {
		case !ok && wanted.Factor == nil:
			return nil, fault.Field(columns.Factor, "", "how many are in it",
				"The pack %s does not say how many are in it.",
				wanted.Name)
		case !ok:
			p = goods.Pack{ProductID: to.product, Name: wanted.Name, Factor: *wanted.Factor, Bought: true}
			if err := goods.SavePack(im.Tx, &p); err != nil {
				return nil, err
			}
			to.have = append(to.have, p)
			said = append(said, "pack "+p.Name+" made")
		case wanted.Factor != nil && !wanted.Factor.Equal(p.Factor):
			said = append(said, columns.Factor+" "+p.Factor.String()+" → "+wanted.Factor.String())
			p.ProductID, p.Factor = to.product, *wanted.Factor
			if err := goods.SavePack(im.Tx, &p); err != nil {
				return nil, err
			}
			to.have[slices.IndexFunc(to.have, func(have goods.Pack) bool { return have.ID == p.ID })] = p
		}
		for _, code := range wanted.Barcodes {
			of, stands := to.codes[variant][barcode.Key(code)]
			if stands && of == p.ID {
				continue
			}
			if stands {
				return nil, fault.Clash(columns.Barcode, code, "a barcode of its own",
					"%s stands for another pack, or for "+
						"one, of the same variant.", code)
			}
			if err := goods.AddBarcode(im.Tx, variant, &p.ID, code); err != nil {
				return nil, err
			}
			said = append(said, columns.Barcode+" "+code+" added")
		}
	}
	return said, nil
}

// beside are the prices that a row gives beside the plain ones of its variant: those of its
// packs, from quantities on, and those to come.
func beside(row catalog.ListRow) []catalog.ListPrice {
	list := slices.Clone(row.MorePrices)
	for _, p := range row.Packs {
		if p.Price != nil {
			list = append(list, catalog.ListPrice{Pack: p.Name, Dated: price.Dated{Amount: *p.Price}})
		}
	}
	return list
}

// list is the number of the price list of a price.
func (im *listImport) list(wanted catalog.ListPrice) uint64 {
	if wanted.List == "" {
		return price.Regular
	}
	return im.lists[text.Key(wanted.List)]
}

// priceRow is a price as it is kept, of a variant or, without one, of its product.
func (im *listImport) priceRow(to *packing, variant *uint64, wanted catalog.ListPrice) (prices.Price, error) {
	now := im.Shop.Now()
	row := prices.Price{
		ProductID:    to.product,
		VariantID:    variant,
		PriceListID:  im.list(wanted),
		FromAt:       now,
		FromQuantity: wanted.From,
		Amount:       wanted.Amount,
		UserID:       &im.Who.ID,
	}
	column := "more prices"
	if wanted.List != "" {
		column = catalog.MorePricesPrefix + wanted.List
	}
	pack, ok := to.find(wanted.Pack)
	if !ok {
		return row, fault.Field(column, wanted.Pack, "a pack of the product", "There is no pack %q.", wanted.Pack)
	}
	if pack.ID != 0 {
		row.PackID = &pack.ID
	}
	if !wanted.Since.IsZero() {
		row.FromAt, row.Later = wanted.Since, true
		if !wanted.Since.After(now) {
			return row, fault.Field(column, wanted.String(im.zone), "a moment to come, or none for now",
				"A price can't begin in the past: what was sold was sold.")
		}
	}
	return row, nil
}

// newPrices are the prices of a new product beside the plain ones: its own where all rows give
// them, else the variant's.
func (im *listImport) newPrices(to *packing, p *shopcatalog.Planned, rows []catalog.ListRow) ([]prices.Price, error) {
	var list []prices.Price
	shared := map[string]bool{}
	for n, row := range rows {
		for _, wanted := range beside(row) {
			variant := &p.Cells[n].Id
			if !slices.ContainsFunc(rows, func(other catalog.ListRow) bool {
				return !slices.ContainsFunc(beside(other), func(o catalog.ListPrice) bool { return o.Same(wanted) })
			}) {
				key := wanted.List + "\x1f" + wanted.String(im.zone)
				if shared[key] {
					continue
				}
				variant, shared[key] = nil, true
			}
			r, err := im.priceRow(to, variant, wanted)
			if err != nil {
				return nil, err
			}
			list = append(list, r)
		}
	}
	return list, nil
}

// updatePrices sets what a row says beside the plain prices of a variant that is there, and
// says it.
func (im *listImport) updatePrices(to *packing, view goods.ProductView, variant uint64,
	row catalog.ListRow) ([]string, error) {
	var said []string
	for _, wanted := range beside(row) {
		list := im.list(wanted)
		if pack, ok := to.find(wanted.Pack); ok && price.Stands(view.Pricing.Rows(view.ID, variant, pack.ID)[list],
			view.Pricing.Rows(view.ID, 0, pack.ID)[list], wanted.Dated, im.Shop.Now()) {
			continue
		}
		of := &variant
		if len(view.Variants) == 1 {
			of = nil
		}
		r, err := im.priceRow(to, of, wanted)
		if err != nil {
			return nil, err
		}
		if err := prices.SetPrice(im.Tx, r); err != nil {
			return nil, err
		}
		said = append(said, "price "+wanted.String(im.zone))
	}
	return said, nil
}
