package prices

import (
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/tax"
	shopprices "itemrack/shop/prices"
	storeprices "itemrack/store/prices"
	"itemrack/web/kit"
)

// prices is the page of price lists, and tax classes.
func prices(c *kit.Call) error {
	lists, err := shopprices.Lists(c.Q())
	if err != nil {
		return err
	}
	classes, err := storeprices.TaxClasses(c.Q())
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
	if done, err := pricesFile(c, lists, rules, classes); done {
		return err
	}
	return c.Page(
		"prices",
		"Prices",
		"Prices",
		map[string]any{
			"Lists":   lists,
			"Rules":   rules,
			"Classes": classes,
			"Now":     c.Shop.Now(),
			"Basis":   c.Terms.Basis.String(),
			"Regular": price.Regular,
			"Edits":   c.Who.Can(staff.DeedPrices),
			"Settles": c.Who.Can(staff.DeedSettings),
		},
	)
}

// pricesFile sends one of the lists of the page of prices as a file.
func pricesFile(c *kit.Call, lists []shopprices.ListView, rules map[uint64]string, classes []tax.Class) (bool, error) {
	switch c.Query("list") {
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
		return kit.AsFile(c, "tax-classes", []kit.Column[rateRow]{
			kit.Col("tax class", func(r rateRow) any { return r.class }),
			kit.Col("percent", func(r rateRow) any { return r.rate.Percent }),
			kit.Col("from", func(r rateRow) any { return c.InZone(&r.rate.From) })}, rows)
	}
	return kit.AsFile(c, "price-lists", []kit.Column[shopprices.ListView]{
		kit.Col("price list", func(r shopprices.ListView) any { return r.Name }),
		kit.Col("rule", func(r shopprices.ListView) any { return rules[r.ID] })}, lists)
}
