package catalog

import (
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/tax"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	storeprices "itemrack/store/prices"
)

// MakeProduct makes a product with its variants, SKUs, barcodes and prices.
func MakeProduct(do deed.Deed, in NewProduct) (MadeProduct, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (MadeProduct, error) {
		return Make(do, in)
	})
}

// Make is MakeProduct within a deed.
func Make(do deed.Deed, in NewProduct) (MadeProduct, error) {
	sets, err := knownValues(do.Tx.Q)
	if err != nil {
		return MadeProduct{}, err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return MadeProduct{}, err
	}
	p, err := in.plan(sets, set.Minor())
	if err != nil {
		return MadeProduct{}, err
	}
	if have, err := goods.ProductByName(do.Tx.Q, p.Row.Name); err != nil || have != 0 {
		if err == nil {
			err = fault.Clash("name", p.Row.Name, "a name of its own", "There is a product %s already.", p.Row.Name)
		}
		return MadeProduct{}, err
	}
	if err := placeProduct(do, &p.Row, in.Category, in.Supplier); err != nil {
		return MadeProduct{}, err
	}
	listed, terms, err := p.land(do.Tx, set.Minor())
	if err != nil {
		return MadeProduct{}, err
	}
	if err := Write(do, []*Planned{p}); err != nil {
		return MadeProduct{}, err
	}
	if err := storebuying.KeepSupplied(do.Tx, p.supplied(listed, terms, in.Part, do.Shop.Now())); err != nil {
		return MadeProduct{}, err
	}
	if p.Row.Bundle {
		if err := SetParts(do.Tx, p.Cells[0].Id, in.Parts); err != nil {
			return MadeProduct{}, err
		}
	}
	if err := addPictures(do.Tx, p.Row.ID, in.Pictures); err != nil {
		return MadeProduct{}, err
	}
	if err := Settled(do, []uint64{p.Row.ID}); err != nil {
		return MadeProduct{}, err
	}
	u, err := unit.ByCode(p.Row.Unit)
	if err != nil {
		return MadeProduct{}, err
	}
	made := p.made()
	made.Document, err = in.OnHand.post(do, p, u)
	return made, err
}

// land makes of the costs that were typed, which are what the supplier lists, what the goods
// are expected to cost with its discount and usual freight. It returns what is listed of
// each cell.
func (p *Planned) land(tx store.Tx, minor money.Minor) ([]*decimal.Decimal, buying.SupplierTerms, error) {
	listed := make([]*decimal.Decimal, len(p.Cells))
	if p.Row.SupplierID == nil {
		return listed, buying.SupplierTerms{}, nil
	}
	from, _, err := goods.ReadSupplier(tx.Q, *p.Row.SupplierID)
	if err != nil || from.Plain() {
		return listed, from.SupplierTerms, err
	}
	expected := func(cost *decimal.Decimal) *decimal.Decimal {
		if cost == nil {
			return nil
		}
		landed := from.ExpectedLanded(*cost, minor)
		return &landed
	}
	for i := range p.Cells {
		if listed[i] = p.Cells[i].Cost; listed[i] == nil {
			listed[i] = p.Row.Cost
		}
		p.Cells[i].Cost = expected(p.Cells[i].Cost)
	}
	p.Row.Cost = expected(p.Row.Cost)
	return listed, from.SupplierTerms, nil
}

// supplied is what the supplier of a product lists its variants at, which are made.
func (p *Planned) supplied(listed []*decimal.Decimal, terms buying.SupplierTerms, part string,
	at time.Time) []storebuying.Supplied {
	var rows []storebuying.Supplied
	for i, price := range listed {
		if price != nil {
			rows = append(rows, storebuying.Supplied{SupplierID: *p.Row.SupplierID, VariantID: p.Cells[i].Id,
				PartNumber: text.Tidy(part), Factor: decimal.New(1, 0),
				Price: *price, Discount: terms.Discount, At: at, Source: "the catalog"})
		}
	}
	return rows
}

// placeProduct finds or makes the category and supplier of a product, and its
// tax class.
func placeProduct(do deed.Deed, row *goods.Product, category, supplier string) error {
	categories, err := goods.Categories(do.Tx.Q)
	if err != nil {
		return err
	}
	path, err := meantCategory(categories, category)
	if err != nil {
		return err
	}
	return PlaceAt(do, row, path, supplier)
}

// PlaceAt is placeProduct for a whole category path.
func PlaceAt(do deed.Deed, row *goods.Product, path []string, supplier string) error {
	in, err := goods.KeepCategory(do.Tx, path)
	if err != nil {
		return err
	}
	row.CategoryID = in.ID
	row.SupplierID = nil
	if name := text.Tidy(supplier); name != "" {
		if text.Len(name) > 120 {
			return fault.Field("supplier", supplier, "120 characters or fewer", "The supplier's name is too long.")
		}
		from, err := goods.KeepSupplier(do.Tx, name)
		if err != nil {
			return err
		}
		row.SupplierID = &from.ID
	}
	return taxClasses(do, row)
}

// taxClasses checks the tax classes of a product, and finds the one it takes over.
func taxClasses(do deed.Deed, row *goods.Product) error {
	classes, err := storeprices.TaxClasses(do.Tx.Q)
	if err != nil {
		return err
	}
	if row.BuyTaxClassID != nil {
		if err := KnownClass("buy_tax_class_id", classes, *row.BuyTaxClassID); err != nil {
			return err
		}
	}
	if row.OwnTaxClass {
		return KnownClass("tax_class_id", classes, row.TaxClassID)
	}
	inherited, err := goods.ReadInheritance(do.Tx.Q)
	if err != nil {
		return err
	}
	if row.TaxClassID = inherited.Settle(*row).TaxClass; row.TaxClassID == 0 && len(classes) > 0 {
		row.TaxClassID = classes[0].ID
	}
	return nil
}

// Settled brings what is worked out of a product up to date: the level that
// holds, its price now and the words it is found by.
func Settled(do deed.Deed, products []uint64) error {
	if err := goods.SettleRestock(do.Tx, products); err != nil {
		return err
	}
	if err := book.Restand(do.Tx, products, do.Shop.Now()); err != nil {
		return err
	}
	return goods.Reindex(do.Tx, products)
}

func (p *Planned) made() MadeProduct {
	made := MadeProduct{ID: p.Row.ID, Name: p.Row.Name, Variants: make([]MadeVariant, len(p.Cells))}
	for i, c := range p.Cells {
		made.Variants[i] = MadeVariant{ID: c.Id, Label: c.choice.Label(), SKU: c.Sku, Barcode: c.barcodes[0]}
	}
	return made
}

// ProductPreview is what making a product would make: the cells with their SKUs,
// the category it would be in and the price that holds where none is typed.
type ProductPreview struct {
	Axes     []catalog.Axis
	Cells    []PreviewCell
	Category string
	NewIn    bool // the category would be made
	Price    price.Answer
	Margin   string
	Markup   string
	Settled  catalog.Settled
	Landed   *decimal.Decimal // what one is expected to cost, where that is not the cost as typed
}

// PreviewCell is a cell that would be made.
type PreviewCell struct {
	Choice catalog.Choice
	SKU    string
	Price  decimal.Decimal
}

// PreviewProduct works out what MakeProduct would make, by the same plan.
func PreviewProduct(do deed.Deed, in NewProduct) (ProductPreview, error) {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return ProductPreview{}, err
	}
	if strings.TrimSpace(in.Name) == "" {
		in.Name = "New product"
	}
	q := do.Shop.Store.Read(do.Ctx)
	sets, err := knownValues(q)
	if err != nil {
		return ProductPreview{}, err
	}
	set, err := q.Terms()
	if err != nil {
		return ProductPreview{}, err
	}
	p, err := in.plan(sets, set.Minor())
	if err != nil {
		return ProductPreview{}, err
	}
	preview := ProductPreview{Axes: p.Axes}
	suggested, err := Suggest(do, PriceQuestion{
		Category: in.Category,
		Supplier: in.Supplier,
		TaxClass: in.TaxClass,
		Cost:     in.Cost,
		Price:    in.Price,
		Markup:   in.Markup,
		Ending:   in.Ending,
	},
	)
	if err != nil {
		return ProductPreview{}, err
	}
	preview.Category, preview.NewIn, preview.Settled = suggested.Category, suggested.NewCategory, suggested.settled
	preview.Price = price.Answer{Amount: suggested.Price, Standing: suggested.stands, Source: price.ByRule}
	preview.Margin, preview.Markup, preview.Landed = suggested.Margin, suggested.Markup, suggested.Landed
	for _, c := range p.Cells {
		one := PreviewCell{Choice: c.choice, SKU: c.Sku, Price: suggested.Price}
		if c.Price != nil {
			one.Price = *c.Price
		}
		preview.Cells = append(preview.Cells, one)
	}
	return preview, nil
}

// KnownClass returns an error when there is no such tax class.
func KnownClass(field string, classes []tax.Class, id uint64) error {
	var names []string
	for _, c := range classes {
		if c.ID == id {
			return nil
		}
		names = append(names, fmt.Sprintf("%d (%s)", c.ID, c.Name))
	}
	return fault.Field(field, id, strings.Join(names, ", "), "There is no tax class %d.", id)
}
