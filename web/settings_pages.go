package web

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/money"
	"itemrack/core/price"
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
	var chosen *shop.CategoryView
	id := fiber.Query[uint64](c.Ctx, "at")
	for i := range list {
		if list[i].ID == id || id == 0 && i == 0 {
			chosen = &list[i]
		}
	}
	return c.page("categories", "Catalog", "Categories", map[string]any{"Rows": list, "Classes": classes, "ClassNames": names, "At": chosen, "New": c.Query("new") != "", "Edits": c.who.Can(shop.DeedCatalog)})
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
	return c.page("prices", "Prices", "Prices", map[string]any{"Lists": lists, "Rules": rules, "Classes": classes, "Suppliers": suppliers, "Now": c.server.shop.Now(), "Basis": c.q().Basis().String(), "Regular": price.Regular,
		"Edits": c.who.Can(shop.DeedPrices), "Settles": c.who.Can(shop.DeedSettings)})
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
