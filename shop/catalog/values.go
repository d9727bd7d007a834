package catalog

import (
	"fmt"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/goods"
)

// ValueInSet is a value of a set as it is typed.
type ValueInSet struct {
	Name     string `json:"name"`
	Swatch   string `json:"swatch"`
	Position int    `json:"position"`
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// ValueSaved says what became of a value, and of which revision it is now.
type ValueSaved struct {
	Changed
	Revision string `json:"revision"`
}

// RenameValue renames a value everywhere it is used and gives it a swatch. Old
// labels scan as before, and old receipts keep the old name.
func RenameValue(do deed.Deed, id uint64, in ValueInSet) (ValueSaved, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (ValueSaved, error) {
		have, err := goods.LockValue(do.Tx, id)
		if err != nil {
			return ValueSaved{}, err
		}
		if err := revision.CheckOf(have.Name, in.Revision, have); err != nil {
			return ValueSaved{}, err
		}
		name := text.Tidy(in.Name)
		if name == "" || text.Len(name) > catalog.MostValue {
			return ValueSaved{}, fault.Field("name", in.Name, "1 to 60 characters",
				"A value needs a name of 1 to 60 characters.")
		}
		swatch, err := catalog.ParseSwatch(in.Swatch)
		if err != nil {
			return ValueSaved{}, err
		}
		if in.Position < 0 || in.Position > catalog.MostPosition {
			return ValueSaved{}, fault.Field("position", in.Position, "0 to 9,999", "There is no place %d.", in.Position)
		}
		have.Name, have.Swatch, have.Position = name, swatch.String(), in.Position
		products, err := goods.RenameValue(do.Tx, have)
		if err != nil {
			return ValueSaved{}, err
		}
		says := fmt.Sprintf("%s is saved; %s it.", name, text.Plural(len(products), "product has", "products have"))
		return ValueSaved{Changed{id, says}, revision.Of(have)}, goods.Reindex(do.Tx, products)
	})
}

// AddToSet adds values to a value set, made if it is new.
func AddToSet(do deed.Deed, set string, list []ValueInput) (Changed, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		name := text.Tidy(set)
		if name == "" || text.Len(name) > 60 {
			return Changed{}, fault.Field("set", set, "1 to 60 characters",
				"A value set needs a name of 1 to 60 characters.")
		}
		var values []catalog.Value
		for _, v := range list {
			swatch, err := catalog.ParseSwatch(v.Swatch)
			if err != nil {
				return Changed{}, err
			}
			value := catalog.Value{Name: text.Tidy(v.Name), Swatch: swatch.String()}
			if value.Name == "" || text.Len(value.Name) > catalog.MostValue {
				return Changed{}, fault.Field("name", v.Name, "1 to 60 characters",
					"A value needs a name of 1 to 60 characters.")
			}
			values = append(values, value)
		}
		id, _, err := ValueIDs(do.Tx, name, values)
		return Changed{id, fmt.Sprintf("%s is saved.", name)}, err
	})
}

// DropValue drops a value of a set that no product has.
func DropValue(do deed.Deed, id uint64) (Changed, error) {
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		return Changed{id, "The value is dropped."}, goods.DropValue(do.Tx, id)
	})
}
