package register

import (
	"github.com/gofiber/fiber/v3"

	coresale "itemrack/core/sale"
	shopregister "itemrack/shop/register"
	"itemrack/store/trade"
	"itemrack/web/kit"
)

func apiRegisters(c *kit.Call) ([]trade.RegisterView, error) { return trade.Registers(c.Q()) }

type floatInput struct {
	Float string `json:"float"`
}

func apiOpenDrawer(c *kit.Call, id uint64, in floatInput) (shopregister.DrawerRef, error) {
	return shopregister.OpenDrawer(c.Until, c.Shop, c.Who, c.Key(), id, in.Float)
}

type countedInput struct {
	Counted []coresale.Denomination `json:"counted"`
}

func apiCashUp(c *kit.Call, id uint64, in countedInput) (shopregister.CashUp, error) {
	return shopregister.CashUpDrawer(c.Until, c.Shop, c.Who, c.Key(), id, in.Counted)
}

func apiBasket(c *kit.Call, id uint64) (shopregister.BasketView, error) {
	return shopregister.Basket(c.Until, c.Shop, c.Who, id)
}

func apiChange(c *kit.Call, id uint64) (coresale.Left, error) {
	return shopregister.Change(c.Until, c.Shop, c.Who, id, c.Query("cash"))
}

func apiDropBasket(c *kit.Call, id uint64) (shopregister.BasketView, error) {
	return shopregister.DropBasket(c.Until, c.Shop, c.Who, id)
}

func apiAddToBasket(c *kit.Call, id uint64, in shopregister.BasketAdd) (shopregister.BasketView, error) {
	return shopregister.AddToBasket(c.Until, c.Shop, c.Who, c.Key(), id, in)
}

func apiChangeBasketLine(c *kit.Call, id uint64, in shopregister.BasketChange) (shopregister.BasketView, error) {
	return shopregister.ChangeBasketLine(c.Until, c.Shop, c.Who, c.Key(), id, fiber.Params[uint64](c.Ctx, "line"), in)
}

func apiSell(c *kit.Call, in shopregister.SaleInput) (shopregister.SaleResult, error) {
	return shopregister.Sell(c.Until, c.Shop, c.Who, c.Key(), in)
}

func apiSale(c *kit.Call) (trade.SaleView, error) { return trade.SaleByNumber(c.Q(), c.Text("number")) }

// printed says what was printed again.
type printed struct {
	Printed string `json:"printed"`
}

func apiReprint(c *kit.Call) (printed, error) {
	return printed{c.Text("number")}, shopregister.Reprint(c.Until, c.Shop, c.Who, c.Text("number"))
}

func apiTakeBack(c *kit.Call, in shopregister.ReturnInput) (shopregister.ReturnResult, error) {
	return shopregister.TakeBack(c.Until, c.Shop, c.Who, c.Key(), in)
}

type basketListInput struct {
	List uint64 `json:"price_list_id"`
}

func apiBasketList(c *kit.Call, id uint64, in basketListInput) (shopregister.BasketView, error) {
	return shopregister.PutOnList(c.Until, c.Shop, c.Who, c.Key(), id, in.List)
}

func apiSales(c *kit.Call, page int) ([]trade.SaleRow, bool, error) { return trade.Sales(c.Q(), page) }

func apiDrawers(c *kit.Call, page int) ([]trade.DrawerRow, bool, error) {
	return trade.Drawers(c.Q(), page)
}
