package catalog

import (
	"github.com/gofiber/fiber/v3"

	corecatalog "itemrack/core/catalog"
	"itemrack/core/staff"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/store/goods"
	"itemrack/store/prices"
	"itemrack/web/kit"
)

// categories is the page of the category tree.
func categories(c *kit.Call) error {
	list, err := shopcatalog.Categories(c.Deed())
	if err != nil {
		return err
	}
	classes, err := prices.TaxClasses(c.Q())
	if err != nil {
		return err
	}
	names := map[uint64]string{}
	for _, class := range classes {
		names[class.ID] = class.Name
	}
	if done, err := kit.AsFile(c, "categories", categoryColumns(names), list); done {
		return err
	}
	var chosen *shopcatalog.CategoryView
	id := fiber.Query[uint64](c.Ctx, "at")
	for i := range list {
		if list[i].ID == id || id == 0 && i == 0 {
			chosen = &list[i]
		}
	}
	return c.Page(
		"categories",
		"Catalog",
		"Categories",
		map[string]any{
			"Rows":       list,
			"Classes":    classes,
			"ClassNames": names,
			"At":         chosen,
			"New":        c.Query("new") != "",
			"Edits":      c.Who.Can(staff.DeedCatalog),
		},
	)
}

// categoryColumns are those of the category tree as a file: what a category says
// itself, and its tax class.
func categoryColumns(classes map[uint64]string) []kit.Column[shopcatalog.CategoryView] {
	return []kit.Column[shopcatalog.CategoryView]{
		kit.Col("category", func(r shopcatalog.CategoryView) any { return r.Path }),
		kit.Col("products", func(r shopcatalog.CategoryView) any { return r.Products }),
		kit.Col("tax class", func(r shopcatalog.CategoryView) any { return classes[r.Settled.TaxClass] }),
		kit.Col("markup %", func(r shopcatalog.CategoryView) any { return kit.Optional(r.Markup) }),
		kit.Col("ending", func(r shopcatalog.CategoryView) any { return kit.Deref(r.Ending) }),
		kit.Col("restock level", func(r shopcatalog.CategoryView) any { return kit.Optional(r.RestockLevel) }),
		kit.Col("tile colour", func(r shopcatalog.CategoryView) any { return r.Colour })}
}

// valueSets is the page of the value sets.
func valueSets(c *kit.Call) error {
	sets, values, err := goods.ValueSets(c.Q())
	if err != nil {
		return err
	}
	type setView struct {
		goods.ValueSet
		Values  []goods.Value
		Colours bool
	}
	var list []setView
	for _, s := range sets {
		list = append(list, setView{s, values[s.ID], corecatalog.IsColour(s.Name)})
	}
	type valueRow struct {
		set   string
		value goods.Value
	}
	var rows []valueRow
	for _, s := range list {
		for _, v := range s.Values {
			rows = append(rows, valueRow{s.Name, v})
		}
	}
	columns := []kit.Column[valueRow]{kit.Col("set", func(r valueRow) any { return r.set }),
		kit.Col("value", func(r valueRow) any { return r.value.Name }),
		kit.Col("swatch", func(r valueRow) any { return r.value.Swatch })}
	if done, err := kit.AsFile(c, "colours-and-sizes", columns, rows); done {
		return err
	}
	return c.Page("value_sets", "Catalog", "Colours and sizes",
		map[string]any{"Sets": list, "Patterns": corecatalog.Patterns, "Edits": c.Who.Can(staff.DeedCatalog)})
}
