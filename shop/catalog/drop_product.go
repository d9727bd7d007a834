package catalog

import (
	"fmt"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/staff"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// DropProduct drops a product that never had stock or sales.
func DropProduct(do deed.Deed, product uint64) (Changed, error) {
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		view, err := LockProduct(do, product)
		if err != nil {
			return Changed{}, err
		}
		moved, err := goods.HasEntries(do.Tx.Q, VariantIDs(view))
		if err != nil {
			return Changed{}, err
		}
		if moved {
			return Changed{}, fault.Refuse("product", view.Name, "to discontinue it",
				"%s has had stock or sales; it can be discontinued, and not dropped.", view.Name)
		}
		if err := book.Forget(do.Tx, VariantIDs(view)); err != nil {
			return Changed{}, err
		}
		if err := goods.DropVariants(do.Tx, VariantIDs(view)); err != nil {
			return Changed{}, err
		}
		if err := book.ForgetProduct(do.Tx, product); err != nil {
			return Changed{}, err
		}
		return Changed{product, view.Name + " is dropped."}, goods.DropProduct(do.Tx, product)
	})
}

// Successor is a product that takes over the name and barcodes of another, with
// another tracking or unit.
type Successor struct {
	Tracking string `json:"tracking"`
	Unit     string `json:"unit"`
}

// Succeed makes a new product with the name, rack and barcodes of one whose stock
// has moved, so that its tracking or unit can be another. The old one is
// discontinued and keeps its history under its name with a number.
func Succeed(do deed.Deed, product uint64, in Successor) (MadeProduct, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (MadeProduct, error) {
		if err := goods.LockProduct(do.Tx, product); err != nil {
			return MadeProduct{}, err
		}
		old, err := goods.ReadProduct(do.Tx.Q, product, 0, do.Shop.Now())
		if err != nil {
			return MadeProduct{}, err
		}
		if in.Tracking == "" {
			in.Tracking = old.Tracking
		}
		u, err := unit.ByCode(in.Unit)
		if err != nil {
			return MadeProduct{}, err
		}
		if in.Tracking == old.Tracking && u.Code == old.Unit {
			return MadeProduct{}, fault.Field("tracking", in.Tracking, "another tracking or unit",
				"That is what %s has already.", old.Name)
		}
		if _, err := (NewProduct{Name: old.Name, Tracking: in.Tracking,
			Unit: u.Code}).head(money.Hundredth); err != nil {
			return MadeProduct{}, err
		}
		name := old.Name
		for n := 2; ; n++ {
			retired := fmt.Sprintf("%s (before, %d)", name[:min(len(name), 100)], n-1)
			have, err := goods.ProductByName(do.Tx.Q, retired)
			if err != nil {
				return MadeProduct{}, err
			}
			if have == 0 {
				if err := goods.UpdateProduct(do.Tx, product, map[string]any{"name": retired,
					"discontinued": true}); err != nil {
					return MadeProduct{}, err
				}
				break
			}
		}
		p := &Planned{Row: old.Product, Axes: old.Axes}
		p.Row.ID, p.Row.Name, p.Row.Tracking, p.Row.Unit, p.Row.Discontinued, p.Row.Words = 0, name, in.Tracking,
			u.Code, false, ""
		for _, v := range old.Variants {
			c := cell{choice: v.Choice, Sku: v.SKU, Cost: v.OwnCost, Restock: v.OwnRestock}
			if v.PriceSource == "own price" {
				c.Price = &v.Price
			} else if p.Price == nil && v.PriceSource == "product's price" {
				p.Price = &v.Price
			}
			p.Cells = append(p.Cells, c)
		}
		if err := Write(do, []*Planned{p}); err != nil {
			return MadeProduct{}, err
		}
		for i, v := range old.Variants {
			if err := goods.MoveBarcodes(do.Tx, v.ID, p.Cells[i].Id); err != nil {
				return MadeProduct{}, err
			}
			p.Cells[i].barcodes = []string{v.Barcode}
		}
		return p.made(), Settled(do, []uint64{product, p.Row.ID})
	})
}
