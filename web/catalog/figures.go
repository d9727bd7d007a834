package catalog

import (
	"fmt"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	corecost "itemrack/core/cost"
	"itemrack/core/staff"
	"itemrack/shop/reports"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

// productFigures is what the strip over a product's rack says.
type productFigures struct {
	PriceMin, PriceMax              decimal.Decimal
	OnHand, ForSale, Value, Average decimal.Decimal
	Margin                          string
	Low                             int
}

func figures(c *kit.Call, p goods.ProductView) productFigures {
	var f productFigures
	for i, v := range p.Variants {
		if i == 0 || v.Price.LessThan(f.PriceMin) {
			f.PriceMin = v.Price
		}
		f.PriceMax = decimal.Max(f.PriceMax, v.Price)
		f.OnHand, f.ForSale, f.Value = f.OnHand.Add(v.OnHand), f.ForSale.Add(v.ForSale), f.Value.Add(v.Value)
		if v.Low {
			f.Low++
		}
	}
	f.Average = corecost.Pool{Quantity: f.OnHand, Value: f.Value}.Average()
	if p.Bundle && len(p.Variants) > 0 {
		f.Average = p.Variants[0].Average // of its parts
	}
	f.Margin = p.LeastMargin()
	return f
}

// productStrip is the figures over a product's rack.
func productStrip(c *kit.Call, unit string, f productFigures) []kit.Figure {
	price := c.Money(f.PriceMin, "price, "+c.Terms.Basis.String())
	if !f.PriceMin.Equal(f.PriceMax) {
		price.Amount += "–" + c.Terms.Minor().Text(f.PriceMax)
	}
	stock := []kit.Figure{{Amount: kit.Quantity(unit, f.OnHand), Name: "on hand"},
		{Amount: kit.Quantity(unit, f.ForSale), Name: "available"}}
	if !c.Who.Can(staff.DeedCosts) {
		return append([]kit.Figure{price}, stock...)
	}
	return slices.Concat([]kit.Figure{price, c.Cost(f.Average, "average cost"), {Amount: f.Margin, Name: "margin"}},
		stock,
		[]kit.Figure{c.Worth(f.Value, "stock value")})
}

// CardStrip is the figures over a stock card; three of them explain themselves.
func CardStrip(c *kit.Call, t tagView) []kit.Figure {
	explained := func(f kit.Figure, which string) kit.Figure {
		f.Explain = fmt.Sprintf("/api/v1/variants/%d/explain/%s", t.V.ID, which)
		return f
	}
	unit := t.P.Unit
	available := explained(kit.Figure{Amount: kit.Quantity(unit, t.V.ForSale), Name: "available"},
		reports.FigureAvailable)
	if t.V.Low {
		available.Low = "below " + kit.Quantity(unit, *t.V.RestockLevel)
	}
	available.Name += t.soldApart()
	var coming kit.Figure
	if t.OnOrder.IsPositive() {
		coming = kit.Figure{Amount: kit.Quantity(unit, t.OnOrder), Name: "on order"}
	}
	asked := c.Money(t.V.Price, strings.ToLower(string(t.V.PriceSource)))
	onHand := explained(kit.Figure{Amount: kit.Quantity(unit, t.V.OnHand), Name: "on hand"}, reports.FigureOnHand)
	if !t.Costs {
		return []kit.Figure{onHand, available, coming, asked}
	}
	return []kit.Figure{
		onHand, available, coming,
		explained(c.Cost(t.V.Average, "average cost"), reports.FigureAverage), c.Worth(t.V.Value, "value"),
		asked, {Amount: t.Margin, Name: "margin"}}
}
