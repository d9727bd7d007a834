package prices

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/core/price"
	"itemrack/core/tax"
	"itemrack/shop/catalog"
	shopprices "itemrack/shop/prices"
	storeprices "itemrack/store/prices"
	"itemrack/web/kit"
)

func apiSetPrices(c *kit.Call, id uint64, in shopprices.PriceChange) (shopprices.PriceResult, error) {
	return shopprices.SetPrices(c.Deed(), id, in)
}

func apiDropLaterPrices(c *kit.Call, id uint64, in shopprices.DropPrice) (shopprices.PriceResult, error) {
	return shopprices.DropLaterPrices(c.Deed(), id, in)
}

func apiWhyPrice(c *kit.Call, id uint64) ([]shopprices.WhyPrice, error) {
	return shopprices.ExplainPrice(c.Deed(), id, c.Query("quantity"), c.Query("at"))
}

func apiSuggest(c *kit.Call, in catalog.PriceQuestion) (catalog.PriceSuggestion, error) {
	return catalog.Suggest(c.Deed(), in)
}

func apiPriceLists(c *kit.Call) ([]shopprices.ListView, error) { return shopprices.Lists(c.Q()) }

func apiSavePriceList(c *kit.Call, in shopprices.ListInput) (price.List, error) {
	return shopprices.SavePriceList(c.Deed(), fiber.Params[uint64](c.Ctx, "id"), in)
}

func apiDropPriceList(c *kit.Call, id uint64) (bool, error) {
	return shopprices.DropPriceList(c.Deed(), id)
}

func apiSetTaxRate(c *kit.Call, id uint64, in shopprices.RateInput) (bool, error) {
	return shopprices.SetTaxRate(c.Deed(), id, in)
}

func apiDropLaterRates(c *kit.Call, id uint64) (bool, error) {
	return shopprices.DropLaterRates(c.Deed(), id)
}

func apiTaxClasses(c *kit.Call) ([]tax.Class, error) { return storeprices.TaxClasses(c.Q()) }
