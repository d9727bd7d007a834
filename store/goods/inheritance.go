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

func newInheritance() Inheritance {
	return Inheritance{map[uint64]Category{}, map[uint64]Supplier{}}
}

// inheritanceParts are the queries that read all categories and suppliers, or none where
// a copy is kept.
func inheritanceParts(q db.Q, into *Inheritance) ([]db.Part, error) {
	return db.Copied(q, "inheritance", into, func(into *Inheritance) []db.Part {
		in := newInheritance()
		*into = in
		return []db.Part{
			{
				SQL: "SELECT id, parent_id, name, path, tax_class_id, markup, ending, restock_level FROM category",
				Row: func(scan func(into ...any) error) error {
					var c Category
					err := scan(&c.ID, &c.ParentID, &c.Name, &c.Path, &c.TaxClassID, &c.Markup, &c.Ending,
						&c.RestockLevel)
					in.categories[c.ID] = c
					return err
				},
			},
			{SQL: "SELECT id, name, markup, ending FROM supplier", Row: func(scan func(into ...any) error) error {
				var s Supplier
				err := scan(&s.ID, &s.Name, &s.Markup, &s.Ending)
				in.suppliers[s.ID] = s
				return err
			}},
		}
	})
}

// ReadInheritance reads all categories and suppliers.
func ReadInheritance(q db.Q) (Inheritance, error) {
	var in Inheritance
	parts, err := inheritanceParts(q, &in)
	if err != nil {
		return in, err
	}
	return in, db.Read(q, parts...)
}

// above is the chain from a category to the root, and the supplier.
func (in Inheritance) above(category uint64, supplier *uint64) []catalog.Defaults {
	var chain []catalog.Defaults
	for at := category; at != 0; {
		c, ok := in.categories[at]
		if !ok {
			break
		}
		d := catalog.Defaults{
			Name:    c.Name,
			Markup:  c.Markup,
			Ending:  price.SaidEnding(c.Ending),
			Restock: c.RestockLevel,
		}
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
