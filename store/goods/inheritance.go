package goods

import (
	"itemrack/core/catalog"
	"itemrack/core/price"
	"itemrack/store/internal/db"
)

// Inheritance is what products take over from their categories and suppliers.
type Inheritance struct {
	categories map[uint64]Category
	suppliers  map[uint64]Supplier
}

// ReadInheritance reads all categories and suppliers.
func ReadInheritance(q db.Q) (Inheritance, error) {
	in := Inheritance{map[uint64]Category{}, map[uint64]Supplier{}}
	categories, err := Categories(q)
	if err != nil {
		return in, err
	}
	for _, c := range categories {
		in.categories[c.ID] = c
	}
	suppliers, err := Suppliers(q)
	for _, s := range suppliers {
		in.suppliers[s.ID] = s
	}
	return in, err
}

// above is the chain from a category to the root, and the supplier.
func (in Inheritance) above(category uint64, supplier *uint64) []catalog.Defaults {
	var chain []catalog.Defaults
	for at := category; at != 0; {
		c, ok := in.categories[at]
		if !ok {
			break
		}
		d := catalog.Defaults{Name: c.Name, Markup: c.Markup, Ending: price.SaidEnding(c.Ending), Restock: c.RestockLevel}
		if c.TaxClassID != nil {
			d.TaxClass = *c.TaxClassID
		}
		chain = append(chain, d)
		at = 0
		if c.ParentID != nil {
			at = *c.ParentID
		}
	}
	if supplier != nil {
		if s, ok := in.suppliers[*supplier]; ok {
			chain = append(chain, catalog.Defaults{Name: s.Name, Markup: s.Markup, Ending: price.SaidEnding(s.Ending)})
		}
	}
	return chain
}
