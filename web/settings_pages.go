package web

import (
	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/tax"
	"itemrack/shop"
	"itemrack/store"
)

// start is the page of an empty shop.
func (c *call) start() error {
	if err := c.empty(); err != nil {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/login")
	}
	return c.page("start", "", "Open the shop", map[string]any{"Currencies": money.Currencies, "Costings": cost.Methods})
}

func (c *call) settings() error {
	s, err := c.server.shop.Settings(c.ctx, c.who)
	if err != nil {
		return err
	}
	branches, err := c.q().Branches()
	if err != nil {
		return err
	}
	documents, _, err := c.q().Documents("", 1)
	if err != nil {
		return err
	}
	data := map[string]any{"S": s, "Branches": branches, "Begun": len(documents) > 0}
	if s.Practice {
		if data["Practised"], err = c.q().Practised(); err != nil {
			return err
		}
	}
	return c.page("settings", "", "Settings", data)
}

// categories is the page of the category tree.
func (c *call) categories() error {
	list, err := c.server.shop.Categories(c.ctx, c.who)
	if err != nil {
		return err
	}
	classes, err := c.q().TaxClasses()
	if err != nil {
		return err
	}
	names := map[uint64]string{}
	for _, class := range classes {
		names[class.ID] = class.Name
	}
	if done, err := asFile(c, "categories", categoryColumns(names), list); done {
		return err
	}
	var chosen *shop.CategoryView
	id := fiber.Query[uint64](c.Ctx, "at")
	for i := range list {
		if list[i].ID == id || id == 0 && i == 0 {
			chosen = &list[i]
		}
	}
	return c.page("categories", "Catalog", "Categories", map[string]any{"Rows": list, "Classes": classes, "ClassNames": names, "At": chosen, "New": c.Query("new") != "", "Edits": c.who.Can(shop.DeedCatalog)})
}

// categoryColumns are those of the category tree as a file: what a category says
// itself, and its tax class.
func categoryColumns(classes map[uint64]string) []column[shop.CategoryView] {
	return []column[shop.CategoryView]{{"category", func(r shop.CategoryView) any { return r.Path }}, {"products", func(r shop.CategoryView) any { return r.Products }}, {"tax class", func(r shop.CategoryView) any { return classes[r.Settled.TaxClass] }},
		{"markup %", func(r shop.CategoryView) any { return optional(r.Markup) }}, {"ending", func(r shop.CategoryView) any { return deref(r.Ending) }}, {"restock level", func(r shop.CategoryView) any { return optional(r.RestockLevel) }}, {"tile colour", func(r shop.CategoryView) any { return r.Colour }}}
}

// optional is a figure as a cell; nil where there is none.
func optional(d *decimal.Decimal) any {
	if d == nil {
		return nil
	}
	return *d
}

func deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// valueSets is the page of the value sets.
func (c *call) valueSets() error {
	sets, values, err := c.q().ValueSets()
	if err != nil {
		return err
	}
	type setView struct {
		store.ValueSet
		Values  []store.Value
		Colours bool
	}
	var list []setView
	for _, s := range sets {
		list = append(list, setView{s, values[s.ID], catalog.IsColour(s.Name)})
	}
	type valueRow struct {
		set   string
		value store.Value
	}
	var rows []valueRow
	for _, s := range list {
		for _, v := range s.Values {
			rows = append(rows, valueRow{s.Name, v})
		}
	}
	columns := []column[valueRow]{{"set", func(r valueRow) any { return r.set }}, {"value", func(r valueRow) any { return r.value.Name }}, {"swatch", func(r valueRow) any { return r.value.Swatch }}}
	if done, err := asFile(c, "colours-and-sizes", columns, rows); done {
		return err
	}
	return c.page("value_sets", "Catalog", "Colours and sizes", map[string]any{"Sets": list, "Patterns": catalog.Patterns, "Edits": c.who.Can(shop.DeedCatalog)})
}

// prices is the page of price lists, tax classes and suppliers' markups.
func (c *call) prices() error {
	lists, err := c.q().PriceLists()
	if err != nil {
		return err
	}
	classes, err := c.q().TaxClasses()
	if err != nil {
		return err
	}
	suppliers, err := c.q().Suppliers()
	if err != nil {
		return err
	}
	names := map[uint64]string{}
	for _, l := range lists {
		names[l.ID] = l.Name
	}
	rules := map[uint64]string{}
	for _, l := range lists {
		rules[l.ID] = l.Rule.String(names)
	}
	if done, err := c.pricesFile(lists, rules, classes, suppliers); done {
		return err
	}
	return c.page("prices", "Prices", "Prices", map[string]any{"Lists": lists, "Rules": rules, "Classes": classes, "Suppliers": suppliers, "Now": c.server.shop.Now(), "Basis": c.q().Basis().String(), "Regular": price.Regular,
		"Edits": c.who.Can(shop.DeedPrices), "Settles": c.who.Can(shop.DeedSettings)})
}

// pricesFile sends one of the lists of the page of prices as a file.
func (c *call) pricesFile(lists []price.List, rules map[uint64]string, classes []tax.Class, suppliers []store.Supplier) (bool, error) {
	switch c.Query("list") {
	case "suppliers":
		return asFile(c, "suppliers", []column[store.Supplier]{{"supplier", func(r store.Supplier) any { return r.Name }}, {"markup %", func(r store.Supplier) any { return optional(r.Markup) }}, {"ending", func(r store.Supplier) any { return deref(r.Ending) }}}, suppliers)
	case "taxes":
		type rateRow struct {
			class string
			rate  tax.Rate
		}
		var rows []rateRow
		for _, class := range classes {
			for _, rate := range class.Rates {
				rows = append(rows, rateRow{class.Name, rate})
			}
		}
		return asFile(c, "tax-classes", []column[rateRow]{{"tax class", func(r rateRow) any { return r.class }}, {"percent", func(r rateRow) any { return r.rate.Percent }}, {"from", func(r rateRow) any { return c.inZone(&r.rate.From) }}}, rows)
	}
	return asFile(c, "price-lists", []column[price.List]{{"price list", func(r price.List) any { return r.Name }}, {"rule", func(r price.List) any { return rules[r.ID] }}}, lists)
}

// imports is the page on which lists are read in.
func (c *call) imports() error {
	jobs, err := c.q().ImportJobs(10)
	if err != nil {
		return err
	}
	branches, err := c.q().Branches()
	if err != nil {
		return err
	}
	return c.page("imports", "Catalog", "Read a list in", map[string]any{"Jobs": jobs, "Branches": branches, "Kind": c.Query("kind", shop.ImportCatalog)})
}

func (c *call) importPage() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	view, err := c.server.shop.Import(c.ctx, c.who, id)
	if err != nil {
		return err
	}
	branches, err := c.q().Branches()
	if err != nil {
		return err
	}
	return c.page("import", "Catalog", "Read in "+view.Name, map[string]any{"V": view, "Branches": branches})
}

// quickEntry is the page on which one thing after another is made by keyboard.
func (c *call) quickEntry() error {
	data, err := c.productChoices()
	if err != nil {
		return err
	}
	return c.page("quick", "Catalog", "Quick entry", data)
}
