package web

import (
	"errors"
	"net/url"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/buying"
	"itemrack/core/count"
	"itemrack/core/ledger"
	"itemrack/core/sale"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) q() store.Q { return c.server.shop.Store.Read(c.ctx) }

func apiFind(c *call) ([]store.Found, error) { return c.q().Find(c.Query("q"), 20) }

func apiProduct(c *call, id uint64) (store.ProductView, error) {
	return c.q().Product(id, c.who.Branch, c.server.shop.Now())
}

func apiMakeProduct(c *call, in shop.NewProduct) (shop.MadeProduct, error) {
	return c.server.shop.MakeProduct(c.ctx, c.who, c.key(), in)
}

func apiAddValues(c *call, id uint64, in shop.Extension) (shop.MadeProduct, error) {
	return c.server.shop.AddValues(c.ctx, c.who, c.key(), id, in)
}

func apiSetPrices(c *call, id uint64, in shop.PriceChange) (shop.PriceResult, error) {
	return c.server.shop.SetPrices(c.ctx, c.who, c.key(), id, in)
}

func apiMovements(c *call, id uint64) (list[store.Movement], error) {
	rows, more, err := c.q().Movements(id, store.MovementFilter{Branch: fiber.Query[uint64](c.Ctx, "branch"), Kind: c.Query("kind"), Before: fiber.Query[uint64](c.Ctx, "before")})
	return listOf(rows, more), err
}

func apiPlaces(c *call, id uint64) ([]store.Place, error) {
	at, past, err := c.asAt()
	if err != nil || !past {
		rows, read := c.q().Places(id)
		return rows, errors.Join(err, read)
	}
	return c.q().PlacesAt(id, at)
}

func apiExplain(c *call, id uint64) (shop.Explanation, error) {
	return c.server.shop.Explain(c.ctx, c.who, id, c.Params("figure"))
}

func apiSaveDelivery(c *call, in shop.DeliveryInput) (shop.DeliveryRef, error) {
	return c.server.shop.SaveDelivery(c.ctx, c.who, c.key(), fiber.Params[uint64](c.Ctx, "id"), in)
}

// deliveryAnswer is a delivery with its lines and what they come to.
type deliveryAnswer struct {
	Delivery store.DeliveryView   `json:"delivery"`
	Lines    []store.DeliveryLine `json:"lines"`
	Totals   buying.Totals        `json:"totals"`
}

func apiDelivery(c *call, id uint64) (deliveryAnswer, error) {
	view, lines, err := c.q().Delivery(id)
	if err != nil {
		return deliveryAnswer{}, err
	}
	totals, err := shop.DeliveryTotals(view.Delivery, lines)
	return deliveryAnswer{view, lines, totals}, err
}

func apiDropDelivery(c *call, id uint64) (shop.DeliveryRef, error) {
	return shop.DeliveryRef{ID: id}, c.server.shop.DropDelivery(c.ctx, c.who, id)
}

func apiScanDelivery(c *call, id uint64, in shop.DeliveryScan) (shop.DeliveryScanned, error) {
	return c.server.shop.ScanDelivery(c.ctx, c.who, c.key(), id, in)
}

func apiPostDelivery(c *call, id uint64) (shop.Posted, error) {
	return c.server.shop.PostDelivery(c.ctx, c.who, c.key(), id)
}

func apiMakeUp(c *call, in shop.KitInput) (shop.Posted, error) {
	return c.server.shop.MakeUpKits(c.ctx, c.who, c.key(), in)
}

func apiBreakUp(c *call, in shop.KitInput) (shop.Posted, error) {
	return c.server.shop.BreakUpKits(c.ctx, c.who, c.key(), in)
}

func apiRegisters(c *call) ([]store.RegisterView, error) { return c.q().Registers() }

type floatInput struct {
	Float string `json:"float"`
}

func apiOpenDrawer(c *call, id uint64, in floatInput) (shop.DrawerRef, error) {
	return c.server.shop.OpenDrawer(c.ctx, c.who, c.key(), id, in.Float)
}

type countedInput struct {
	Counted []sale.Denomination `json:"counted"`
}

func apiCashUp(c *call, id uint64, in countedInput) (shop.CashUp, error) {
	return c.server.shop.CashUpDrawer(c.ctx, c.who, c.key(), id, in.Counted)
}

func apiBasket(c *call, id uint64) (shop.BasketView, error) {
	return c.server.shop.Basket(c.ctx, c.who, id)
}

func apiDropBasket(c *call, id uint64) (shop.BasketView, error) {
	return c.server.shop.DropBasket(c.ctx, c.who, id)
}

func apiAddToBasket(c *call, id uint64, in shop.BasketAdd) (shop.BasketView, error) {
	return c.server.shop.AddToBasket(c.ctx, c.who, c.key(), id, in)
}

func apiChangeBasketLine(c *call, id uint64, in shop.BasketChange) (shop.BasketView, error) {
	return c.server.shop.ChangeBasketLine(c.ctx, c.who, c.key(), id, fiber.Params[uint64](c.Ctx, "line"), in)
}

func apiSell(c *call, in shop.SaleInput) (shop.SaleResult, error) {
	return c.server.shop.Sell(c.ctx, c.who, c.key(), in)
}

func apiSale(c *call) (store.SaleView, error) { return c.q().SaleByNumber(c.text("number")) }

// printed says what was printed again.
type printed struct {
	Printed string `json:"printed"`
}

func apiReprint(c *call) (printed, error) {
	return printed{c.text("number")}, c.server.shop.Reprint(c.ctx, c.who, c.text("number"))
}

func apiTakeBack(c *call, in shop.ReturnInput) (shop.ReturnResult, error) {
	return c.server.shop.TakeBack(c.ctx, c.who, c.key(), in)
}

func apiChangeCondition(c *call, in shop.ChangeInput) (shop.Posted, error) {
	return c.server.shop.ChangeCondition(c.ctx, c.who, c.key(), in)
}

func apiPlanCount(c *call, in shop.CountPlan) (shop.CountRef, error) {
	return c.server.shop.PlanCount(c.ctx, c.who, c.key(), in)
}

func apiCount(c *call, id uint64) (shop.CountFigures, error) {
	return c.server.shop.CountStands(c.ctx, id)
}

func apiCountEvent(c *call, id uint64, in shop.CountInput) (shop.Counted, error) {
	return c.server.shop.Count(c.ctx, c.who, c.key(), id, in)
}

func apiStrike(c *call, id uint64) (shop.CountRef, error) {
	return c.server.shop.Strike(c.ctx, c.who, c.key(), id, fiber.Params[uint64](c.Ctx, "event"))
}

type stateInput struct {
	State count.State `json:"state"`
}

func apiMoveCount(c *call, id uint64, in stateInput) (shop.CountRef, error) {
	return c.server.shop.MoveCount(c.ctx, c.who, c.key(), id, in.State)
}

func apiSettle(c *call, id uint64, in shop.SettleInput) (shop.Posted, error) {
	return c.server.shop.SettleCount(c.ctx, c.who, c.key(), id, in)
}

// documentAnswer is a document with what stands in it.
type documentAnswer struct {
	Document store.DocumentView `json:"document"`
	Entries  []store.EntryView  `json:"entries"`
	Postings []ledger.Posting   `json:"postings"`
}

func apiDocument(c *call) (documentAnswer, error) {
	var out documentAnswer
	var err error
	if out.Document, err = c.q().Document(c.text("number")); err != nil {
		return out, err
	}
	if out.Entries, err = c.q().EntryViews(out.Document.ID); err != nil {
		return out, err
	}
	out.Postings, err = c.q().Postings(out.Document.ID)
	return out, err
}

// noteInput is why something is done.
type noteInput struct {
	Note string `json:"note"`
}

func apiReverse(c *call, in noteInput) (shop.Posted, error) {
	return c.server.shop.Reverse(c.ctx, c.who, c.key(), c.text("number"), in.Note)
}

func apiVerify(c *call) ([]store.Check, error) { return c.server.shop.Verify(c.ctx, c.who) }

type deviceInput struct {
	State string `json:"state"`
}

func apiSetDevice(c *call, in deviceInput) (string, error) {
	return c.server.shop.SetDevice(c.ctx, c.who, c.text("name"), in.State)
}

// text reads a text in the path, copied: Fiber takes its memory back after the
// request.
func (c *call) text(name string) string {
	raw := c.Params(name)
	if plain, err := url.PathUnescape(raw); err == nil {
		return string([]byte(plain))
	}
	return string([]byte(raw))
}
