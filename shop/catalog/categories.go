package catalog

import (
	"fmt"
	"strings"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
	"itemrack/store/prices"
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
	Expiry   string `json:"expiry_days"` // before its expiry from when a lot is told
	Revision string `json:"revision"`    // as it was shown; another one is refused
}

// CategoryView is a category with what holds in it and where that comes from.
type CategoryView struct {
	goods.Category
	Depth    int             `json:"depth"`
	Products int             `json:"products"` // right in it
	Settled  catalog.Settled `json:"-"`
	Revision string          `json:"revision"`
}

// Categories lists the tree.
func Categories(do deed.Deed) ([]CategoryView, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return nil, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	rows, err := goods.Categories(q)
	if err != nil {
		return nil, err
	}
	in, err := goods.ReadInheritance(q)
	if err != nil {
		return nil, err
	}
	counts, err := goods.CategoryProducts(q)
	list := make([]CategoryView, len(rows))
	for i, r := range rows {
		list[i] = CategoryView{r, strings.Count(r.Path, " > "), counts[r.ID], in.SettleCategory(r.ID), revision.Of(r)}
	}
	return list, err
}

// SaveCategory makes a category, or changes the one with a number: its name, its
// place in the tree and what its products take over. Products, prices by rule and
// history go along.
func SaveCategory(do deed.Deed, id uint64, in CategoryInput) (goods.Category, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (goods.Category, error) {
		all, err := goods.LockCategories(do.Tx)
		if err != nil {
			return goods.Category{}, err
		}
		byID := map[uint64]goods.Category{}
		for _, c := range all {
			byID[c.ID] = c
		}
		columns, err := in.columns(do.Tx)
		if err != nil {
			return goods.Category{}, err
		}
		path := columns["name"].(string)
		if in.Parent != 0 {
			parent, ok := byID[in.Parent]
			if !ok {
				return goods.Category{}, fault.Missing("parent_id", in.Parent, "There is no category %d.", in.Parent)
			}
			path = parent.Path + " > " + path
		}
		if text.Len(path) > catalog.LongestPath {
			return goods.Category{}, fault.Field("name", in.Name, "fewer or shorter categories above",
				"The path of the category is too long.")
		}
		columns["path"], columns["parent_id"] = path, deed.Reference(in.Parent)
		if id == 0 {
			row := goods.Category{ParentID: deed.Reference(in.Parent), Name: columns["name"].(string), Path: path}
			for _, c := range all {
				if text.Same(c.Path, path) {
					return row, fault.Clash("name", path, "a name of its own", "There is a category %s already.", path)
				}
			}
			if err := goods.AddCategory(do.Tx, &row); err != nil {
				return row, err
			}
			return row, goods.SaveCategory(do.Tx, row.ID, columns)
		}
		was, ok := byID[id]
		if !ok {
			return goods.Category{}, fault.Missing("category", id, "There is no category %d.", id)
		}
		if err := revision.CheckOf(was.Path, in.Revision, was); err != nil {
			return was, err
		}
		for at := in.Parent; at != 0; at = deed.Deref(byID[at].ParentID) {
			if at == id {
				return was, fault.Refuse("parent_id", path, "a category that is not below it",
					"%s can't lie below itself.", was.Name)
			}
		}
		if err := goods.SaveCategory(do.Tx, id, columns); err != nil {
			return was, err
		}
		if err := movePaths(do.Tx, all, was.Path, path); err != nil {
			return was, err
		}
		was.Path = path
		return was, categoryChanged(do, id)
	})
}

// columns checks what was typed of a category.
func (in CategoryInput) columns(tx store.Tx) (map[string]any, error) {
	name := text.Tidy(strings.ReplaceAll(in.Name, ">", " "))
	if name == "" || text.Len(name) > 80 {
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
	ending, err := price.OptionalEnding(in.Ending, money.Thousandth)
	if err != nil {
		return nil, err
	}
	level, err := number.Optional("restock_level", in.Restock, unit.Kilogram.Parse)
	if err != nil {
		return nil, err
	}
	if in.TaxClass != 0 {
		classes, err := prices.TaxClasses(tx.Q)
		if err != nil {
			return nil, err
		}
		if err := KnownClass("tax_class_id", classes, in.TaxClass); err != nil {
			return nil, err
		}
	}
	days, err := catalog.ParseExpiryDays(in.Expiry, stock.ByLot)
	if err != nil {
		return nil, err
	}
	return map[string]any{
		"expiry_days":   days,
		"name":          name,
		"colour":        swatch.First,
		"tax_class_id":  deed.Reference(in.TaxClass),
		"markup":        markup,
		"ending":        ending,
		"restock_level": level,
	}, nil
}

// movePaths rewrites the paths of what lies below a category.
func movePaths(tx store.Tx, all []goods.Category, from, to string) error {
	if from == to {
		return nil
	}
	for _, c := range all {
		if rest, below := strings.CutPrefix(c.Path, from+" > "); below {
			if err := goods.SaveCategory(tx, c.ID, map[string]any{"path": to + " > " + rest}); err != nil {
				return err
			}
		}
	}
	return nil
}

// categoryChanged brings the products of a category up to date with what they
// take over.
func categoryChanged(do deed.Deed, id uint64) error {
	products, err := goods.ProductsIn(do.Tx.Q, id)
	if err != nil || len(products) == 0 {
		return err
	}
	return resettle(do, products)
}

// resettle brings products up to date with what they take over.
func resettle(do deed.Deed, products []uint64) error {
	classes, err := prices.TaxClasses(do.Tx.Q)
	if err != nil {
		return err
	}
	for start := 0; start < len(products); start += 1000 {
		part := products[start:min(start+1000, len(products))]
		if err := goods.SettleTaxClasses(do.Tx, part, classes[0].ID); err != nil {
			return err
		}
		if err := Settled(do, part); err != nil {
			return err
		}
	}
	return nil
}

// MergeCategory gives the products of a category to another and drops it. What
// lies below it must have moved first.
func MergeCategory(do deed.Deed, id, into uint64) (Changed, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		all, err := goods.LockCategories(do.Tx)
		if err != nil {
			return Changed{}, err
		}
		var from, to goods.Category
		for _, c := range all {
			switch c.ID {
			case id:
				from = c
			case into:
				to = c
			}
			if c.ParentID != nil && *c.ParentID == id {
				return Changed{}, fault.Refuse("category", c.Path, "to move what lies below it first",
					"%s lies below it; move that first.", c.Path)
			}
		}
		if from.ID == 0 || to.ID == 0 || id == into {
			return Changed{}, fault.Missing("into", into, "Say which other category it goes into.")
		}
		counts, err := goods.CategoryProducts(do.Tx.Q)
		if err != nil {
			return Changed{}, err
		}
		if err := goods.MergeCategory(do.Tx, id, into); err != nil {
			return Changed{}, err
		}
		return Changed{into,
			fmt.Sprintf("%s went from %s into %s.", text.Plural(counts[id], "product", "products"), from.Path,
				to.Path)}, categoryChanged(do, into)
	})
}

// DropCategory drops an empty category.
func DropCategory(do deed.Deed, id uint64) (Changed, error) {
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		return Changed{id, "The category is dropped."}, goods.DropCategory(do.Tx, id)
	})
}
