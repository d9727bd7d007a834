package lists

import (
	"io"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/sheet"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// exportBatch is how many products are read at a time.
const exportBatch = 200

// ExportCatalog writes the products of a list, one row for each variant, in the
// columns in which a stock list is read: read in again it changes nothing.
func ExportCatalog(do deed.Deed, filter goods.ListFilter, format sheet.Format, to io.Writer) error {
	if err := do.Who.May(staff.DeedCosts); err != nil { // costs stand in it
		return err
	}
	q := do.Shop.Store.Read(do.Ctx)
	e := &catalogExport{shop: do.Shop, q: q, axes: map[string][2]string{}}
	if err := e.begin(format, to); err != nil {
		return err
	}
	for offset := 0; ; offset += exportBatch {
		ids, err := goods.ProductIDs(q, filter, offset, exportBatch)
		if err != nil {
			return err
		}
		if err := e.batch(ids); err != nil {
			return err
		}
		if len(ids) < exportBatch {
			return e.w.Close()
		}
	}
}

// catalogExport is one export while it runs.
type catalogExport struct {
	shop       *deed.Shop
	q          store.Q
	w          sheet.Writer
	zone       *time.Location
	packs      int
	attributes []string
	lists      []price.List
	columns    []string
	axes       map[string][2]string // the columns of axes, once they are known
}

func (e *catalogExport) begin(format sheet.Format, to io.Writer) error {
	set, err := e.q.Terms()
	if err != nil {
		return err
	}
	e.zone = set.Zone
	for _, c := range catalog.ListColumns {
		if c.Name != "opening quantity" { // stock is not the catalog's
			e.columns = append(e.columns, c.Name)
		}
	}
	if e.packs, err = goods.MostPacks(e.q); err != nil {
		return err
	}
	e.packs = min(e.packs, catalog.MaxPacks)
	for n := 2; n <= e.packs; n++ {
		e.columns = append(e.columns, catalog.PackColumnsOf(n).Names()...)
	}
	axes, err := goods.AxisNames(e.q)
	if err != nil {
		return err
	}
	for _, a := range axes {
		values, swatch := catalog.AxisColumns(a.Name)
		if !slices.Contains(e.columns, values) {
			e.columns = append(e.columns, values)
		}
		if a.Swatches && !slices.Contains(e.columns, swatch) {
			e.columns = append(e.columns, swatch)
		}
	}
	if e.attributes, err = goods.AttributeNames(e.q); err != nil {
		return err
	}
	for _, a := range e.attributes {
		e.columns = append(e.columns, catalog.AttributePrefix+a)
	}
	lists, err := prices.PriceLists(e.q)
	if err != nil {
		return err
	}
	for _, l := range lists {
		if l.ID != price.Regular {
			e.lists = append(e.lists, l)
			e.columns = append(e.columns, catalog.PricePrefix+l.Name, catalog.MorePricesPrefix+l.Name)
		}
	}
	e.w, err = sheet.NewWriter(format, to, e.columns)
	return err
}

// batch writes some products.
func (e *catalogExport) batch(ids []uint64) error {
	views, err := goods.ProductViews(e.q, ids, 0, e.shop.Now())
	if err != nil || len(views) == 0 {
		return err
	}
	attributes, err := goods.AttributesOf(e.q, ids)
	if err != nil {
		return err
	}
	suppliers, err := goods.SuppliersOf(e.q, ids)
	if err != nil {
		return err
	}
	var variants, pictures []uint64
	for _, v := range views {
		variants, pictures = append(variants, shopcatalog.VariantIDs(*v)...), append(pictures, deed.Deref(v.PictureID))
	}
	codes, err := goods.Barcodes(e.q, variants)
	if err != nil {
		return err
	}
	byVariant := map[uint64][]goods.VariantBarcode{}
	for _, c := range codes {
		byVariant[c.VariantID] = append(byVariant[c.VariantID], c)
	}
	parts, err := goods.BundleParts(e.q, variants, 0)
	if err != nil {
		return err
	}
	files, err := goods.PictureNames(e.q, pictures)
	if err != nil {
		return err
	}
	for _, p := range views {
		for _, v := range p.Variants {
			row := e.row(*p, v, suppliers[p.ID], byVariant[v.ID], parts[v.ID])
			row["picture"] = files[deed.Deref(p.PictureID)]
			for _, a := range attributes[p.ID] {
				row[catalog.AttributePrefix+a.Name] = a.Value
			}
			if err := e.write(row); err != nil {
				return err
			}
		}
	}
	return nil
}

func (e *catalogExport) write(row map[string]any) error {
	cells := make([]any, len(e.columns))
	for i, column := range e.columns {
		cells[i] = row[column]
	}
	return e.w.Write(cells)
}

// row is what stands in the columns for one variant.
func (e *catalogExport) row(p goods.ProductView, v goods.VariantView, suppliers []goods.SupplierPart,
	codes []goods.VariantBarcode, parts []goods.PartView) map[string]any {
	row := map[string]any{
		"product":       p.Name,
		"short name":    p.ShortName,
		"style":         p.Style,
		"category":      p.Category.Path,
		"brand":         p.Brand,
		"supplier":      p.Supplier,
		"tracking":      p.Tracking,
		"unit":          p.UnitOf.Name,
		"sku":           v.SKU,
		"discontinued":  p.Discontinued,
		"description":   p.Description,
		"supplier text": p.SupplierText,
		"sku pattern":   p.SKUPattern,
		"cost":          figure(v.OwnCost, p.Cost),
		"restock level": figure(v.OwnRestock, p.RestockLevel),
	}
	if p.OwnTaxClass {
		row["tax class"] = p.TaxClass.Name
	}
	for _, s := range suppliers {
		if s.Usual {
			row["supplier part"] = s.Part
		}
	}
	for i, a := range p.Axes {
		values, swatch := e.axisColumns(a.Name)
		row[values] = v.Choice[i]
		for _, value := range a.Values {
			if value.Name == v.Choice[i] {
				row[swatch] = value.Swatch
			}
		}
	}
	e.prices(row, p, v)
	if p.Content != nil {
		row["content"] = p.Content.String() + " " + p.Measure
	}
	if p.Weight != nil {
		row["weight kg"] = p.Weight.String()
	}
	e.codes(row, p, codes)
	var list []string
	for _, part := range parts {
		list = append(list, part.Quantity.String()+" x "+part.SKU)
	}
	row["parts"] = text.Listed(list)
	return row
}

// axisColumns are the columns of an axis, as the list spells them.
func (e *catalogExport) axisColumns(axis string) (values, swatch string) {
	if found, known := e.axes[axis]; known {
		return found[0], found[1]
	}
	defer func() { e.axes[axis] = [2]string{values, swatch} }()
	values, swatch = catalog.AxisColumns(axis)
	for _, c := range e.columns {
		if text.Same(c, values) {
			values = c
		}
		if text.Same(c, swatch) {
			swatch = c
		}
	}
	return values, swatch
}

// prices are the prices of a variant and its packs on each list.
func (e *catalogExport) prices(row map[string]any, p goods.ProductView, v goods.VariantView) {
	now := e.shop.Now()
	for _, l := range append([]price.List{{ID: price.Regular}}, e.lists...) {
		plain, more := "price", "more prices"
		if l.ID != price.Regular {
			plain, more = catalog.PricePrefix+l.Name, catalog.MorePricesPrefix+l.Name
		}
		if a := p.Pricing.Book.Find(p.Goods(v), l.ID, decimal.New(1, 0), now); a.Source == price.OwnPrice ||
			a.Source == price.ProductPrice {
			row[plain] = a.Amount
		}
		var list []string
		for n, pack := range append([]goods.Pack{{}}, p.Packs...) {
			own, shared := p.Pricing.Rows(p.ID, v.ID, pack.ID)[l.ID], p.Pricing.Rows(p.ID, 0, pack.ID)[l.ID]
			said := catalog.ListPrice{Pack: pack.Name}
			if amount, ok := price.Plain(own, shared, now); ok && pack.ID != 0 {
				if l.ID == price.Regular && n <= e.packs {
					row[catalog.PackColumnsOf(n).Price] = amount
				} else {
					said.Amount = amount
					list = append(list, said.String(e.zone))
				}
			}
			for _, d := range price.Beyond(own, shared, now) {
				said.Dated = d
				list = append(list, said.String(e.zone))
			}
		}
		row[more] = text.Listed(list)
	}
}

// codes are the packs of a variant and the barcodes of it and of them.
func (e *catalogExport) codes(row map[string]any, p goods.ProductView, codes []goods.VariantBarcode) {
	of := map[uint64][]string{}
	for _, c := range codes {
		of[c.PackID] = append(of[c.PackID], c.Code)
	}
	if own := of[0]; len(own) > 0 {
		row["barcode"], row["more barcodes"] = own[0], catalog.ListedCodes(own[1:])
	}
	for i, pack := range p.Packs[:min(len(p.Packs), e.packs)] {
		at := catalog.PackColumnsOf(i + 1)
		row[at.Name], row[at.Factor] = pack.Name, pack.Factor
		row[at.Barcode] = catalog.ListedCodes(of[pack.ID])
	}
}

// figure is a figure of a variant's own, else its product's, without zeros at its
// end; nil for none.
func figure(own, product *decimal.Decimal) any {
	if own == nil {
		own = product
	}
	if own == nil {
		return nil
	}
	return short(*own)
}

// short is a figure without zeros at its end.
func short(d decimal.Decimal) decimal.Decimal {
	plain, err := decimal.NewFromString(strings.TrimSuffix(strings.TrimRight(d.StringFixed(6), "0"), "."))
	if err != nil {
		return d
	}
	return plain
}

// ListColumn is a column that a list of the catalog can show.
type ListColumn struct {
	Code, Name string
	Number     bool
	product    func(goods.ProductRow) any
	variant    func(goods.VariantRow) any
}

func bounds(r goods.ProductRow) any {
	switch {
	case !r.Priced:
		return nil
	case r.PriceMin.Equal(r.PriceMax):
		return r.PriceMin
	}
	return r.PriceMin.StringFixed(2) + "–" + r.PriceMax.StringFixed(2)
}

func maybe(d *decimal.Decimal) any {
	if d == nil {
		return nil
	}
	return *d
}

// CatalogColumns are the columns that a list of the catalog can show, in the
// order they are offered.
var CatalogColumns = []ListColumn{
	{"sku", "SKU", false, nil, func(r goods.VariantRow) any { return r.SKU }},
	{"barcode", "Barcode", false, nil, func(r goods.VariantRow) any { return r.Barcode }},
	{
		"category",
		"Category",
		false,
		func(r goods.ProductRow) any { return r.Category },
		func(r goods.VariantRow) any { return r.Category },
	},
	{
		"supplier",
		"Supplier",
		false,
		func(r goods.ProductRow) any { return r.Supplier },
		func(r goods.VariantRow) any { return r.Supplier },
	},
	{
		"brand",
		"Brand",
		false,
		func(r goods.ProductRow) any { return r.Brand },
		func(r goods.VariantRow) any { return r.Brand },
	},
	{"variants", "Variants", true, func(r goods.ProductRow) any { return r.Variants }, nil},
	{"price", "Price", true, bounds, func(r goods.VariantRow) any { return maybe(r.Price) }},
	{"cost", "Cost", true, nil, func(r goods.VariantRow) any { return maybe(r.Cost) }},
	{
		"margin",
		"Margin %",
		true,
		func(r goods.ProductRow) any { return maybe(r.MarginMin) },
		func(r goods.VariantRow) any { return maybe(r.Margin) },
	},
	{
		"on_hand",
		"On hand",
		true,
		func(r goods.ProductRow) any { return r.OnHand },
		func(r goods.VariantRow) any { return r.OnHand },
	},
	{
		"for_sale",
		"Available",
		true,
		func(r goods.ProductRow) any { return r.ForSale },
		func(r goods.VariantRow) any { return r.ForSale },
	},
	{
		"value",
		"Value",
		true,
		func(r goods.ProductRow) any { return r.Value },
		func(r goods.VariantRow) any { return r.Value },
	},
	{"created", "Made on", false, func(r goods.ProductRow) any { return r.CreatedAt }, nil},
}

// ColumnsFor are the columns that a person may see.
func ColumnsFor(who staff.Actor) []ListColumn {
	if who.Can(staff.DeedCosts) {
		return CatalogColumns
	}
	return slices.DeleteFunc(slices.Clone(CatalogColumns),
		func(c ListColumn) bool { return c.Code == "cost" || c.Code == "margin" || c.Code == "value" })
}

// Of reports whether the column is one of products (0) or of variants (1).
func (c ListColumn) Of(variants bool) bool {
	if variants {
		return c.variant != nil
	}
	return c.product != nil
}

// ProductCell and VariantCell are what stands in the column.
func (c ListColumn) ProductCell(r goods.ProductRow) any { return c.product(r) }

// VariantCell is what stands in the column for a variant.
func (c ListColumn) VariantCell(r goods.VariantRow) any { return c.variant(r) }

// ExportList writes a list of products or variants as it is shown: filtered,
// sorted, in its columns.
func ExportList(do deed.Deed, filter goods.ListFilter, variants bool, columns []ListColumn, format sheet.Format,
	to io.Writer) error {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return err
	}
	heads := []string{"Product"}
	if variants {
		heads = append(heads, "Variant")
	}
	for _, c := range columns {
		heads = append(heads, c.Name)
	}
	w, err := sheet.NewWriter(format, to, heads)
	if err != nil {
		return err
	}
	const batch = 1000
	q := do.Shop.Store.Read(do.Ctx)
	for offset := 0; ; offset += batch {
		n, err := exportPage(q, w, filter, variants, columns, offset, batch)
		if err != nil {
			return err
		}
		if n < batch {
			return w.Close()
		}
	}
}

func exportPage(q store.Q, w sheet.Writer, filter goods.ListFilter, variants bool, columns []ListColumn,
	offset, batch int) (int, error) {
	if variants {
		ids, err := goods.VariantIDs(q, filter, offset, batch)
		if err != nil {
			return 0, err
		}
		rows, err := goods.VariantRows(q, ids)
		for _, r := range rows {
			cells := []any{r.Name, r.Label}
			for _, c := range columns {
				cells = append(cells, c.variant(r))
			}
			if err := w.Write(cells); err != nil {
				return 0, err
			}
		}
		return len(ids), err
	}
	ids, err := goods.ProductIDs(q, filter, offset, batch)
	if err != nil {
		return 0, err
	}
	rows, err := goods.ProductRows(q, ids)
	for _, r := range rows {
		cells := []any{r.Name}
		for _, c := range columns {
			cells = append(cells, c.product(r))
		}
		if err := w.Write(cells); err != nil {
			return 0, err
		}
	}
	return len(ids), err
}
