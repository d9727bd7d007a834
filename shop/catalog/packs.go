package catalog

import (
	"slices"
	"strings"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// PackInput is a pack as it is typed, with its barcode on one variant and its
// price on the Regular list where they are given.
type PackInput struct {
	Name    string `json:"name"`
	Factor  string `json:"factor"`
	Bought  bool   `json:"bought"` // the product is bought in it
	Barcode string `json:"barcode"`
	Variant uint64 `json:"variant_id"`
	Price   string `json:"price"`

	Revision string `json:"revision"` // of the pack that was shown
}

// SavePack makes a pack of a product, or changes the one with a number.
func SavePack(do deed.Deed, product, id uint64, in PackInput) (goods.Pack, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (goods.Pack, error) {
		return KeepPack(do, product, id, in)
	})
}

// KeepPack is SavePack within a deed.
func KeepPack(do deed.Deed, product, id uint64, in PackInput) (goods.Pack, error) {
	view, err := LockProduct(do, product)
	if err != nil {
		return goods.Pack{}, err
	}
	if err := catalog.CheckPack(in.Name, view.Name, stock.Tracking(view.Tracking)); err != nil {
		return goods.Pack{}, err
	}
	p := goods.Pack{ID: id, ProductID: product, Name: text.Tidy(in.Name), Bought: in.Bought}
	if p.Name == "" || text.Len(p.Name) > 40 {
		return p, fault.Field("name", in.Name, "box of 12", "A pack needs a name of 1 to 40 characters.")
	}
	if p.Factor, err = view.UnitOf.Parse("factor", in.Factor); err != nil {
		return p, err
	}
	if err := catalog.CheckFactor("factor", p.Factor); err != nil {
		return p, err
	}
	if id != 0 {
		at := slices.IndexFunc(view.Packs, func(have goods.Pack) bool { return have.ID == id })
		if at < 0 {
			return p, fault.Missing("pack", id, "%s has no pack %d.", view.Name, id)
		}
		if err := revision.CheckIs(view.Packs[at].Name, in.Revision, view.Packs[at].Revision); err != nil {
			return p, err
		}
	}
	if err := goods.SavePack(do.Tx, &p); err != nil {
		return p, err
	}
	return p.Revised(), packExtras(do, view, p, in)
}

func packExtras(do deed.Deed, view goods.ProductView, p goods.Pack, in PackInput) error {
	if strings.TrimSpace(in.Barcode) != "" {
		variant := in.Variant
		if variant == 0 && len(view.Variants) == 1 {
			variant = view.Variants[0].ID
		}
		if _, ok := view.Variant(variant); !ok {
			return fault.Field("variant_id", in.Variant, "one of its variants",
				"Say which variant of %s the barcode is of.", view.Name)
		}
		code, err := barcode.Parse(in.Barcode)
		if err != nil {
			return err
		}
		if err := goods.AddBarcode(do.Tx, variant, &p.ID, code); err != nil {
			return err
		}
	}
	if strings.TrimSpace(in.Price) != "" {
		amount, err := view.Pricing.Book.Minor.Parse("price", in.Price)
		if err != nil {
			return err
		}
		if err := prices.SetPrice(do.Tx, prices.Price{ProductID: view.ID, PackID: &p.ID, FromAt: do.Shop.Now(),
			Amount: amount,
			UserID: &do.Who.ID}); err != nil {
			return err
		}
	}
	return goods.Reindex(do.Tx, []uint64{view.ID})
}

// DropPack drops a pack; what was sold in it keeps its name.
func DropPack(do deed.Deed, product, id uint64) (Changed, error) {
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		packs, err := goods.Packs(do.Tx.Q, []uint64{product})
		if err != nil {
			return Changed{}, err
		}
		if !slices.ContainsFunc(packs[product], func(p goods.Pack) bool { return p.ID == id }) {
			return Changed{}, fault.Missing("pack", id, "There is no pack %d.", id)
		}
		return Changed{id, "The pack is dropped."}, goods.DropPack(do.Tx, id)
	})
}
