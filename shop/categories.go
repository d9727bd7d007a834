package shop

import (
	"context"
	"fmt"
	"strings"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/unit"
	"itemrack/store"
)

// CategoryInput is a category as it is typed. What is left empty comes from the
// category above; an ending "none" says that there is to be none.
type CategoryInput struct {
	Parent   uint64 `json:"parent_id"`
	Name     string `json:"name"`
	Colour   string `json:"colour"`
	TaxClass uint64 `json:"tax_class_id"`
	Markup   string `json:"markup"`
	Ending   string `json:"ending"`
	Restock  string `json:"restock_level"`
}

// CategoryView is a category with what holds in it and where that comes from.
type CategoryView struct {
	store.Category
	Depth    int             `json:"depth"`
	Products int             `json:"products"` // right in it
	Settled  catalog.Settled `json:"-"`
}

// Categories lists the tree.
func (s *Shop) Categories(ctx context.Context, who Actor) ([]CategoryView, error) {
	if err := who.May(DeedLook); err != nil {
		return nil, err
	}
	q := s.Store.Read(ctx)
	rows, err := q.Categories()
	if err != nil {
		return nil, err
	}
	in, err := q.Inheritance()
	if err != nil {
		return nil, err
	}
	counts, err := q.CategoryProducts()
	list := make([]CategoryView, len(rows))
	for i, r := range rows {
		list[i] = CategoryView{r, strings.Count(r.Path, " > "), counts[r.ID], in.SettleCategory(r.ID)}
	}
	return list, err
}

// SaveCategory makes a category, or changes the one with a number: its name, its
// place in the tree and what its products take over. Products, prices by rule and
// history go along.
func (s *Shop) SaveCategory(ctx context.Context, who Actor, key string, id uint64, in CategoryInput) (store.Category, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (store.Category, error) {
		all, err := tx.LockCategories()
		if err != nil {
			return store.Category{}, err
		}
		byID := map[uint64]store.Category{}
		for _, c := range all {
			byID[c.ID] = c
		}
		columns, err := in.columns(tx)
		if err != nil {
			return store.Category{}, err
		}
		path := columns["name"].(string)
		if in.Parent != 0 {
			parent, ok := byID[in.Parent]
			if !ok {
				return store.Category{}, fault.Missing("parent_id", in.Parent, "There is no category %d.", in.Parent)
			}
			path = parent.Path + " > " + path
		}
		if len(path) > 400 {
			return store.Category{}, fault.Field("name", in.Name, "fewer or shorter categories above", "The path of the category is too long.")
		}
		columns["path"], columns["parent_id"] = path, reference(in.Parent)
		if id == 0 {
			row := store.Category{ParentID: reference(in.Parent), Name: columns["name"].(string), Path: path}
			for _, c := range all {
				if strings.EqualFold(c.Path, path) {
					return row, fault.Clash("name", path, "a name of its own", "There is a category %s already.", path)
				}
			}
			if err := tx.AddCategory(&row); err != nil {
				return row, err
			}
			return row, tx.SaveCategory(row.ID, columns)
		}
		was, ok := byID[id]
		if !ok {
			return store.Category{}, fault.Missing("category", id, "There is no category %d.", id)
		}
		for at := in.Parent; at != 0; at = deref(byID[at].ParentID) {
			if at == id {
				return was, fault.Refuse("parent_id", path, "a category that is not below it", "%s can't lie below itself.", was.Name)
			}
		}
		if err := tx.SaveCategory(id, columns); err != nil {
			return was, err
		}
		if err := movePaths(tx, all, was.Path, path); err != nil {
			return was, err
		}
		was.Path = path
		return was, s.categoryChanged(tx, id)
	})
}

// columns checks what was typed of a category.
func (in CategoryInput) columns(tx store.Tx) (map[string]any, error) {
	name := strings.Join(strings.Fields(strings.ReplaceAll(in.Name, ">", " ")), " ")
	if name == "" || len(name) > 80 {
		return nil, fault.Field("name", in.Name, "1 to 80 characters", "A category needs a name of 1 to 80 characters.")
	}
	swatch, err := catalog.ParseSwatch(in.Colour)
	if err != nil {
		return nil, fault.Field("colour", in.Colour, "#2F5D73", "%q is not a colour.", in.Colour)
	}
	markup, err := number.Optional("markup", in.Markup, price.ParsePercent)
	if err != nil {
		return nil, err
	}
	ending, err := optionalEnding(in.Ending)
	if err != nil {
		return nil, err
	}
	level, err := number.Optional("restock_level", in.Restock, unit.Kilogram.Parse)
	if err != nil {
		return nil, err
	}
	if in.TaxClass != 0 {
		classes, err := tx.TaxClasses()
		if err != nil {
			return nil, err
		}
		if err := knownClass("tax_class_id", classes, in.TaxClass); err != nil {
			return nil, err
		}
	}
	return map[string]any{"name": name, "colour": swatch.First, "tax_class_id": reference(in.TaxClass), "markup": markup, "ending": ending, "restock_level": level}, nil
}

// movePaths rewrites the paths of what lies below a category.
func movePaths(tx store.Tx, all []store.Category, from, to string) error {
	if from == to {
		return nil
	}
	for _, c := range all {
		if rest, below := strings.CutPrefix(c.Path, from+" > "); below {
			if err := tx.SaveCategory(c.ID, map[string]any{"path": to + " > " + rest}); err != nil {
				return err
			}
		}
	}
	return nil
}

// categoryChanged brings the products of a category up to date with what they
// take over.
func (s *Shop) categoryChanged(tx store.Tx, id uint64) error {
	products, err := tx.ProductsIn(id)
	if err != nil || len(products) == 0 {
		return err
	}
	return s.resettle(tx, products)
}

// resettle brings products up to date with what they take over.
func (s *Shop) resettle(tx store.Tx, products []uint64) error {
	classes, err := tx.TaxClasses()
	if err != nil {
		return err
	}
	for start := 0; start < len(products); start += 1000 {
		part := products[start:min(start+1000, len(products))]
		if err := tx.SettleTaxClasses(part, classes[0].ID); err != nil {
			return err
		}
		if err := s.settled(tx, part); err != nil {
			return err
		}
	}
	return nil
}

// MergeCategory gives the products of a category to another and drops it. What
// lies below it must have moved first.
func (s *Shop) MergeCategory(ctx context.Context, who Actor, key string, id, into uint64) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		all, err := tx.LockCategories()
		if err != nil {
			return Changed{}, err
		}
		var from, to store.Category
		for _, c := range all {
			switch c.ID {
			case id:
				from = c
			case into:
				to = c
			}
			if c.ParentID != nil && *c.ParentID == id {
				return Changed{}, fault.Refuse("category", c.Path, "to move what lies below it first", "%s lies below it; move that first.", c.Path)
			}
		}
		if from.ID == 0 || to.ID == 0 || id == into {
			return Changed{}, fault.Missing("into", into, "Say which other category it goes into.")
		}
		counts, err := tx.CategoryProducts()
		if err != nil {
			return Changed{}, err
		}
		if err := tx.MergeCategory(id, into); err != nil {
			return Changed{}, err
		}
		return Changed{into, fmt.Sprintf("%d products went from %s into %s.", counts[id], from.Path, to.Path)}, s.categoryChanged(tx, into)
	})
}

// DropCategory drops an empty category.
func (s *Shop) DropCategory(ctx context.Context, who Actor, id uint64) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, "", func(tx store.Tx) (Changed, error) {
		return Changed{id, "The category is dropped."}, tx.DropCategory(id)
	})
}

// SupplierDefaults are what a supplier's products take over.
type SupplierDefaults struct {
	Markup string `json:"markup"`
	Ending string `json:"ending"`
}

// SaveSupplierDefaults changes what a supplier's products take over where their
// category says nothing.
func (s *Shop) SaveSupplierDefaults(ctx context.Context, who Actor, key string, id uint64, in SupplierDefaults) (Changed, error) {
	return once(ctx, s, who, DeedPrices, key, func(tx store.Tx) (Changed, error) {
		markup, err := number.Optional("markup", in.Markup, price.ParsePercent)
		if err != nil {
			return Changed{}, err
		}
		ending, err := optionalEnding(in.Ending)
		if err != nil {
			return Changed{}, err
		}
		if err := tx.SaveSupplier(id, markup, ending); err != nil {
			return Changed{}, err
		}
		products, err := tx.ProductIDs(store.ListFilter{Supplier: id}, 0, 1_000_000, s.Now())
		if err != nil {
			return Changed{}, err
		}
		return Changed{id, "Saved."}, tx.Reprice(products, s.Now())
	})
}

// ValueInSet is a value of a set as it is typed.
type ValueInSet struct {
	Name     string `json:"name"`
	Swatch   string `json:"swatch"`
	Position int    `json:"position"`
}

// RenameValue renames a value everywhere it is used and gives it a swatch. Old
// labels scan as before, and old receipts keep the old name.
func (s *Shop) RenameValue(ctx context.Context, who Actor, key string, id uint64, in ValueInSet) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		name := strings.Join(strings.Fields(in.Name), " ")
		if name == "" || len(name) > 60 {
			return Changed{}, fault.Field("name", in.Name, "1 to 60 characters", "A value needs a name of 1 to 60 characters.")
		}
		swatch, err := catalog.ParseSwatch(in.Swatch)
		if err != nil {
			return Changed{}, err
		}
		products, err := tx.RenameValue(id, name, swatch.String(), in.Position)
		if err != nil {
			return Changed{}, err
		}
		return Changed{id, fmt.Sprintf("%s is saved; %d products have it.", name, len(products))}, tx.Reindex(products)
	})
}

// AddToSet adds values to a value set, made if it is new.
func (s *Shop) AddToSet(ctx context.Context, who Actor, key string, set string, list []ValueInput) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		name := strings.Join(strings.Fields(set), " ")
		if name == "" || len(name) > 60 {
			return Changed{}, fault.Field("set", set, "1 to 60 characters", "A value set needs a name of 1 to 60 characters.")
		}
		var values []catalog.Value
		for _, v := range list {
			swatch, err := catalog.ParseSwatch(v.Swatch)
			if err != nil {
				return Changed{}, err
			}
			value := catalog.Value{Name: strings.Join(strings.Fields(v.Name), " "), Swatch: swatch.String()}
			if value.Name == "" || len(value.Name) > 60 {
				return Changed{}, fault.Field("name", v.Name, "1 to 60 characters", "A value needs a name of 1 to 60 characters.")
			}
			values = append(values, value)
		}
		id, _, err := valueIDs(tx, name, values)
		return Changed{id, fmt.Sprintf("%s is saved.", name)}, err
	})
}

// DropValue drops a value of a set that no product has.
func (s *Shop) DropValue(ctx context.Context, who Actor, id uint64) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, "", func(tx store.Tx) (Changed, error) {
		return Changed{id, "The value is dropped."}, tx.DropValue(id)
	})
}
