package web

import (
	"fmt"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/shop"
)

// figure is a number with its name; Explain is the address that says what it is
// made of. One without an amount is left out.
type figure struct {
	Amount, Name, Explain, Low string
}

// money is a figure that is an amount.
func (c *call) money(amount decimal.Decimal, name string) figure {
	return figure{Amount: c.server.shop.Currency.Format(amount), Name: name}
}

// cost is a figure that is a unit cost, to 2 or 4 decimals.
func (c *call) cost(amount decimal.Decimal, name string) figure {
	return figure{Amount: c.server.shop.Currency.Symbol + amount.StringFixed(costPlaces(amount)), Name: name}
}

// costText is a cost as it is typed: all its digits, two decimals at least.
func costText(cost decimal.Decimal) string {
	places := int32(2)
	for places < money.CostPlaces && !cost.Equal(cost.Round(places)) {
		places++
	}
	return cost.StringFixed(places)
}

// productStrip is the figures over a product's rack.
func (c *call) productStrip(unit string, f productFigures) []figure {
	price := c.money(f.PriceMin, "price, "+c.q().Basis().String())
	if !f.PriceMin.Equal(f.PriceMax) {
		price.Amount += "–" + f.PriceMax.StringFixed(2)
	}
	return []figure{price, c.cost(f.Average, "average cost"), {Amount: f.Margin, Name: "margin"}, {Amount: quantity(unit, f.OnHand), Name: "on hand"},
		{Amount: quantity(unit, f.ForSale), Name: "available"}, c.money(f.Value, "stock value")}
}

// cardStrip is the figures over a stock card; three of them explain themselves.
func (c *call) cardStrip(t tagView) []figure {
	explained := func(f figure, which string) figure {
		f.Explain = fmt.Sprintf("/api/v1/variants/%d/explain/%s", t.V.ID, which)
		return f
	}
	unit := t.P.Unit
	available := explained(figure{Amount: quantity(unit, t.V.ForSale), Name: "available"}, shop.FigureAvailable)
	if t.V.Low {
		available.Low = "below " + quantity(unit, *t.V.RestockLevel)
	}
	return []figure{explained(figure{Amount: quantity(unit, t.V.OnHand), Name: "on hand"}, shop.FigureOnHand), available,
		explained(c.cost(t.V.Average, "average cost"), shop.FigureAverage), c.money(t.V.Value, "value"),
		c.money(t.V.Price, strings.ToLower(string(t.V.PriceSource))), {Amount: t.Margin, Name: "margin"}}
}
