package catalog

import (
	"strings"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/store/goods"
)

// BarcodeInput gives a variant, or a pack of it, a barcode. An empty code takes a
// number of the shop's own.
type BarcodeInput struct {
	Code string `json:"code"`
	Pack uint64 `json:"pack_id"`
}

// AddBarcode gives a variant a further barcode, as a scan into its cell does.
func AddBarcode(do deed.Deed, variant uint64, in BarcodeInput) (MadeVariant, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (MadeVariant, error) {
		found, err := goods.Sellables(do.Tx.Q, []uint64{variant}, do.Shop.Now())
		if err != nil {
			return MadeVariant{}, err
		}
		v, ok := found[variant]
		if !ok {
			return MadeVariant{}, fault.Missing("variant", variant, "There is no variant %d.", variant)
		}
		code := in.Code
		if strings.TrimSpace(code) == "" {
			one := []*Planned{{Cells: []cell{{}}}}
			if err := allotBarcodes(do.Tx, one); err != nil {
				return MadeVariant{}, err
			}
			code = one[0].Cells[0].barcodes[0]
		}
		if code, err = barcode.Parse(code); err != nil {
			return MadeVariant{}, err
		}
		if in.Pack != 0 {
			if _, ok := v.Pack(in.Pack); !ok {
				return MadeVariant{}, fault.Missing("pack_id", in.Pack, "%s has no pack %d.", v.Name, in.Pack)
			}
		}
		if err := goods.AddBarcode(do.Tx, variant, deed.Reference(in.Pack), code); err != nil {
			return MadeVariant{}, err
		}
		return MadeVariant{
			ID:      variant,
			Label:   v.Label,
			SKU:     v.SKU,
			Barcode: code,
		}, goods.Reindex(do.Tx, []uint64{v.ProductID})
	})
}

// DropBarcode takes a barcode off a variant.
func DropBarcode(do deed.Deed, variant uint64, code string) (MadeVariant, error) {
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (MadeVariant, error) {
		owner, _, err := goods.Owner(do.Tx.Q, code)
		if err != nil {
			return MadeVariant{}, err
		}
		if owner != variant {
			return MadeVariant{}, fault.Missing("code", code, "The barcode %s is not of this variant.", code)
		}
		if err := goods.DropBarcode(do.Tx, variant, code); err != nil {
			return MadeVariant{}, err
		}
		products, err := goods.ProductsOf(do.Tx.Q, []uint64{variant})
		if err != nil {
			return MadeVariant{}, err
		}
		return MadeVariant{ID: variant, Barcode: code}, goods.Reindex(do.Tx, products)
	})
}
