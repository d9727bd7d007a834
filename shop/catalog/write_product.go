package catalog

import (
	"slices"
	"strings"
	"time"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
	storeprices "itemrack/store/prices"
)

// ValueIDs finds or makes the values of a set, by name in small letters.
func ValueIDs(tx store.Tx, set string, wanted []catalog.Value) (uint64, map[string]uint64, error) {
	row, have, err := goods.KeepValueSet(tx, set)
	if err != nil {
		return 0, nil, err
	}
	ids := map[string]uint64{}
	next := 0
	for _, v := range have {
		ids[text.Key(v.Name)] = v.ID
		next = max(next, v.Position+1)
	}
	var fresh []goods.Value
	for _, v := range wanted {
		if _, ok := ids[text.Key(v.Name)]; ok {
			continue
		}
		ids[text.Key(v.Name)] = 0
		position := next
		if at := slices.Index(catalog.ClothingSizes, strings.ToUpper(v.Name)); at >= 0 {
			position = at
		} else {
			next++
		}
		fresh = append(fresh, goods.Value{ValueSetID: row.ID, Position: position, Name: v.Name, Swatch: v.Swatch})
	}
	if len(fresh) > 0 {
		if err := goods.AddValues(tx, &fresh); err != nil {
			return 0, nil, err
		}
	}
	for _, v := range fresh {
		ids[text.Key(v.Name)] = v.ID
	}
	return row.ID, ids, nil
}

// Write makes new products with their axes, values, cells and prices, in a few
// statements for all of them.
func Write(do deed.Deed, list []*Planned) error {
	now := do.Shop.Now()
	wanted, order := map[string][]catalog.Value{}, []string{}
	products := make([]goods.Product, len(list))
	for i, p := range list {
		p.Row.CreatedAt = now
		products[i] = p.Row
		for _, a := range p.Axes {
			set := a.ValueSet()
			if wanted[set] == nil {
				order = append(order, set)
			}
			wanted[set] = append(wanted[set], a.Values...)
		}
	}
	setIDs, ids := map[string]uint64{}, map[string]map[string]uint64{}
	slices.Sort(order) // locks are taken in one order
	for _, set := range order {
		var err error
		if setIDs[set], ids[set], err = ValueIDs(do.Tx, set, wanted[set]); err != nil {
			return err
		}
	}
	if err := goods.AddProducts(do.Tx, &products); err != nil {
		return err
	}
	var axes []goods.Axis
	var suppliers []goods.ProductSupplier
	var attributes []goods.ProductAttribute
	for i, p := range list {
		p.Row.ID = products[i].ID
		for n, a := range p.Axes {
			axes = append(axes,
				goods.Axis{ProductID: p.Row.ID, Position: n, Name: a.Name, ValueSetID: setIDs[a.ValueSet()]})
		}
		if p.Row.SupplierID != nil {
			suppliers = append(suppliers,
				goods.ProductSupplier{ProductID: p.Row.ID, SupplierID: *p.Row.SupplierID, PartNumber: p.Part})
		}
		for name, value := range p.Attributes {
			if value = strings.TrimSpace(value); value != "" {
				attributes = append(attributes,
					goods.ProductAttribute{ProductID: p.Row.ID, Name: text.Tidy(name), Value: value})
			}
		}
	}
	if len(axes) > 0 {
		if err := goods.AddAxes(do.Tx, &axes); err != nil {
			return err
		}
	}
	if len(attributes) > 0 {
		if err := goods.AddAttributes(do.Tx, &attributes); err != nil {
			return err
		}
	}
	if err := goods.AddSuppliers(do.Tx, suppliers); err != nil {
		return err
	}
	if err := writeAxisValues(do.Tx, list, axes, ids); err != nil {
		return err
	}
	return WriteCells(do, list, now)
}

// writeAxisValues puts the values of new axes on them.
func writeAxisValues(tx store.Tx, list []*Planned, axes []goods.Axis, ids map[string]map[string]uint64) error {
	var values []goods.AxisValue
	n := 0
	for _, p := range list {
		for _, a := range p.Axes {
			p.AxisIDs = append(p.AxisIDs, axes[n].ID)
			for i, v := range a.Values {
				values = append(
					values,
					goods.AxisValue{
						AxisID:   axes[n].ID,
						Position: i,
						ValueID:  ids[a.ValueSet()][text.Key(v.Name)],
					},
				)
			}
			n++
		}
	}
	if len(values) > 0 {
		if err := goods.AddAxisValues(tx, &values); err != nil {
			return err
		}
	}
	n = 0
	for _, p := range list {
		for _, a := range p.Axes {
			var own []uint64
			for range a.Values {
				own = append(own, values[n].ID)
				n++
			}
			p.ValueIDs = append(p.ValueIDs, own)
		}
	}
	return nil
}

// WriteCells makes the cells of products that are there with their axes and
// values: variants, cost pools, barcodes and prices.
func WriteCells(do deed.Deed, list []*Planned, now time.Time) error {
	if err := distinctSKUs(do.Tx, list); err != nil {
		return err
	}
	var variants []goods.Variant
	for _, p := range list {
		for _, c := range p.Cells {
			v := goods.Variant{
				ProductID:       p.Row.ID,
				SKU:             c.Sku,
				Label:           c.choice.Label(),
				RestockLevel:    c.Restock,
				OwnRestockLevel: c.Restock,
				Cost:            c.Cost,
				ListPrice:       c.Price,
			}
			if v.RestockLevel == nil {
				v.RestockLevel = p.Row.RestockLevel
			}
			if v.ListPrice == nil {
				v.ListPrice = p.Price
			}
			for i, to := range []**uint64{&v.Value1ID, &v.Value2ID, &v.Value3ID}[:len(c.choice)] {
				at := slices.IndexFunc(p.Axes[i].Values,
					func(x catalog.Value) bool { return text.Same(x.Name, c.choice[i]) })
				if at < 0 {
					return fault.Field("choice", c.choice.Label(), "values of the axes", "%s has no %s %q.", p.Row.Name,
						p.Axes[i].Name, c.choice[i])
				}
				*to = &p.ValueIDs[i][at]
			}
			variants = append(variants, v)
		}
	}
	if err := goods.NewVariants(do.Tx, variants); err != nil {
		return err
	}
	if err := allotBarcodes(do.Tx, list); err != nil {
		return err
	}
	var barcodes []goods.Barcode
	var prices []storeprices.Price
	n := 0
	for _, p := range list {
		if p.Price != nil {
			prices = append(prices,
				storeprices.Price{ProductID: p.Row.ID, PriceListID: price.Regular, FromAt: now, Amount: *p.Price})
		}
		for i := range p.Cells {
			c := &p.Cells[i]
			c.Id = variants[n].ID
			n++
			for _, code := range c.barcodes {
				barcodes = append(barcodes, goods.Barcode{VariantID: c.Id, Code: code, CodeKey: barcode.Key(code)})
			}
			if c.Price != nil {
				id := c.Id
				prices = append(
					prices,
					storeprices.Price{
						ProductID:   p.Row.ID,
						VariantID:   &id,
						PriceListID: price.Regular,
						FromAt:      now,
						Amount:      *c.Price,
					},
				)
			}
		}
	}
	if err := writeBarcodes(do.Tx, barcodes); err != nil {
		return err
	}
	if len(prices) == 0 {
		return nil
	}
	return storeprices.AddPrices(do.Tx, &prices)
}

// writeBarcodes writes barcodes; one that somebody has names its owner.
func writeBarcodes(tx store.Tx, list []goods.Barcode) error {
	seen := map[string]bool{}
	for _, b := range list {
		if seen[b.CodeKey] {
			return fault.Field("barcode", b.Code, "each barcode once", "The barcode %s is given twice.", b.Code)
		}
		seen[b.CodeKey] = true
	}
	return goods.AddBarcodes(tx, &list)
}

// distinctSKUs gives each cell a SKU that nothing else has.
func distinctSKUs(tx store.Tx, list []*Planned) error {
	var skus []string
	for _, p := range list {
		for _, c := range p.Cells {
			skus = append(skus, c.Sku)
		}
	}
	taken, err := goods.TakenSKUs(tx.Q, skus)
	if err != nil {
		return err
	}
	catalog.Distinct(skus, func(sku string) bool { return taken[barcode.Key(sku)] })
	n := 0
	for _, p := range list {
		for i := range p.Cells {
			p.Cells[i].Sku = skus[n]
			n++
		}
	}
	return nil
}

// allotBarcodes gives a number of the shop's own to each cell without a barcode.
func allotBarcodes(tx store.Tx, list []*Planned) error {
	var need []*cell
	used := map[string]bool{}
	for _, p := range list {
		for i := range p.Cells {
			c := &p.Cells[i]
			if len(c.barcodes) == 0 {
				need = append(need, c)
			}
			for _, code := range c.barcodes {
				used[barcode.Key(code)] = true
			}
		}
	}
	for len(need) > 0 {
		r, next, count, err := goods.TakeNumbers(tx, uint64(len(need)))
		if err != nil {
			return err
		}
		codes, keys := make([]string, count), make([]string, count)
		for i := range codes {
			if codes[i], err = barcode.Own(r.Prefix, next+uint64(i)); err != nil {
				return err
			}
			keys[i] = barcode.Key(codes[i])
		}
		owned, err := goods.Taken(tx.Q, keys)
		if err != nil {
			return err
		}
		for i := range codes {
			if owned[keys[i]] == 0 && !used[keys[i]] {
				need[0].barcodes = []string{codes[i]}
				need = need[1:]
			}
		}
	}
	return nil
}
