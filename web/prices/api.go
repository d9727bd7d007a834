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
	return shopprices.SetPrices(c.Until, c.Shop, c.Who, c.Key(), id, in)
}

func apiDropLaterPrices(c *kit.Call, id uint64, in shopprices.DropPrice) (shopprices.PriceResult, error) {
	return shopprices.DropLaterPrices(c.Until, c.Shop, c.Who, c.Key(), id, in)
}

func apiWhyPrice(c *kit.Call, id uint64) ([]shopprices.WhyPrice, error) {
	return shopprices.ExplainPrice(c.Until, c.Shop, c.Who, id, c.Query("quantity"), c.Query("at"))
}

func apiSuggest(c *kit.Call, in catalog.PriceQuestion) (catalog.PriceSuggestion, error) {
	return catalog.Suggest(c.Until, c.Shop, c.Who, in)
}

func apiPriceLists(c *kit.Call) ([]shopprices.ListView, error) { return shopprices.Lists(c.Q()) }

func apiSavePriceList(c *kit.Call, in shopprices.ListInput) (price.List, error) {
	return shopprices.SavePriceList(c.Until, c.Shop, c.Who, c.Key(), fiber.Params[uint64](c.Ctx, "id"), in)
}

func apiDropPriceList(c *kit.Call, id uint64) (bool, error) {
	return shopprices.DropPriceList(c.Until, c.Shop, c.Who, id)
}

func apiSetTaxRate(c *kit.Call, id uint64, in shopprices.RateInput) (bool, error) {
	return shopprices.SetTaxRate(c.Until, c.Shop, c.Who, c.Key(), id, in)
}

func apiDropLaterRates(c *kit.Call, id uint64) (bool, error) {
	return shopprices.DropLaterRates(c.Until, c.Shop, c.Who, id)
}

func apiTaxClasses(c *kit.Call) ([]tax.Class, error) { return storeprices.TaxClasses(c.Q()) }
