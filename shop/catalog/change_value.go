package catalog

import (
	"fmt"
	"slices"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// ValueChange drops or retires a value of a product's axis.
type ValueChange struct {
	Axis  string `json:"axis"`
	Value string `json:"value"`
	Do    string `json:"do"` // drop, retire or restore
}

// ChangeValue drops a value of a product's axis with its variants, or retires it:
// then it is no longer bought, and sells until it is gone. One with stock or
// sales can't be dropped.
func ChangeValue(do deed.Deed, product uint64, in ValueChange) (Changed, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		view, err := LockProduct(do, product)
		if err != nil {
			return Changed{}, err
		}
		axis := slices.IndexFunc(view.Axes, func(a catalog.Axis) bool { return text.Same(a.Name, in.Axis) })
		if axis < 0 {
			return Changed{}, fault.Missing("axis", in.Axis, "%s does not vary by %q.", view.Name, in.Axis)
		}
		value := slices.IndexFunc(view.Axes[axis].Values,
			func(v catalog.Value) bool { return text.Same(v.Name, in.Value) })
		if value < 0 {
			return Changed{}, fault.Missing("value", in.Value, "%s has no %s %q.", view.Name, in.Axis, in.Value)
		}
		id, name := view.ValueIDs[axis][value], view.Axes[axis].Values[value].Name
		switch in.Do {
		case "retire", "restore":
			says := name + " is retired: it is no longer bought, and sells until it is gone."
			if in.Do == "restore" {
				says = name + " is bought again."
			}
			return Changed{product, says}, goods.RetireAxisValue(do.Tx, id, in.Do == "retire")
		case "drop":
			return dropValue(do, view, axis, id, name)
		}
		return Changed{}, fault.Field("do", in.Do, "drop, retire or restore", "A value can't be %q.", in.Do)
	})
}

func dropValue(do deed.Deed, view goods.ProductView, axis int, id uint64, name string) (Changed, error) {
	var gone []uint64
	for _, v := range view.Variants {
		if len(v.Choice) > axis && v.Choice[axis] == name {
			gone = append(gone, v.ID)
		}
	}
	if len(gone) == len(view.Variants) {
		return Changed{}, fault.Refuse("value", name, "a value that leaves variants", "%s would have no variant left.",
			view.Name)
	}
	moved, err := goods.HasEntries(do.Tx.Q, gone)
	if err != nil {
		return Changed{}, err
	}
	if moved {
		return Changed{}, fault.Refuse("value", name, "to retire it",
			"%s in %s has had stock or sales; it can be retired, and not dropped.", view.Name, name)
	}
	if err := book.Forget(do.Tx, gone); err != nil {
		return Changed{}, err
	}
	if err := goods.DropVariants(do.Tx, gone); err != nil {
		return Changed{}, err
	}
	if err := goods.DropAxisValue(do.Tx, id); err != nil {
		return Changed{}, err
	}
	return Changed{view.ID,
			fmt.Sprintf("%s is dropped, with %s.", name, text.Plural(len(gone), "variant", "variants"))},
		Settled(do, []uint64{view.ID})
}
