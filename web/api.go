package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"net/url"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/shop"
	"itemrack/store"
)

// read reads a JSON body strictly: an unknown field is an error that names it.
func (c *call) read(into any) error {
	decoder := json.NewDecoder(bytes.NewReader(c.Body()))
	decoder.DisallowUnknownFields()
	if err := decoder.Decode(into); err != nil {
		return fault.Field("body", "", "JSON as in /api/v1/openapi.json", "The request can't be read: %v.", err)
	}
	return nil
}

// answer sends what a deed returned, or its refusal.
func answer[T any](c *call, result T, err error) error {
	if err != nil {
		return err
	}
	return c.JSON(result)
}

// onNumber calls a deed on the numbered thing in the path, with a JSON body.
func onNumber[In, Out any](c *call, param string, deed func(id uint64, in In) (Out, error)) error {
	id, err := c.number(param)
	if err != nil {
		return err
	}
	var in In
	if len(c.Body()) > 0 {
		if err := c.read(&in); err != nil {
			return err
		}
	}
	out, err := deed(id, in)
	return answer(c, out, err)
}

// onBody calls a deed with a JSON body.
func onBody[In, Out any](c *call, deed func(in In) (Out, error)) error {
	var in In
	if err := c.read(&in); err != nil {
		return err
	}
	out, err := deed(in)
	return answer(c, out, err)
}

// none is the body of a deed that takes none.
type none struct{}

func (c *call) q() store.Q { return c.server.shop.Store.Read(c.ctx) }

func (c *call) apiFind() error {
	found, err := c.q().Find(c.Query("q"), 20)
	return answer(c, found, err)
}

// list is a page of a list, and whether there is another.
type list[T any] struct {
	Items []T  `json:"items"`
	More  bool `json:"more"`
}

// listOf is a page of a list, empty rather than null where nothing is in it.
func listOf[T any](rows []T, more bool) list[T] {
	if rows == nil {
		rows = []T{}
	}
	return list[T]{rows, more}
}

func (c *call) apiProduct() error {
	return onNumber(c, "id", func(id uint64, _ none) (store.ProductView, error) {
		return c.q().Product(id, c.who.Branch, c.server.shop.Now())
	})
}

func (c *call) apiMakeProduct() error {
	return onBody(c, func(in shop.NewProduct) (shop.MadeProduct, error) {
		return c.server.shop.MakeProduct(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiAddValues() error {
	return onNumber(c, "id", func(id uint64, in shop.Extension) (shop.MadeProduct, error) {
		return c.server.shop.AddValues(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiSetPrices() error {
	return onNumber(c, "id", func(id uint64, in shop.PriceChange) (shop.PriceResult, error) {
		return c.server.shop.SetPrices(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiMovements() error {
	return onNumber(c, "id", func(id uint64, _ none) (list[store.Movement], error) {
		rows, more, err := c.q().Movements(id, store.MovementFilter{Branch: fiber.Query[uint64](c.Ctx, "branch"), Kind: c.Query("kind"), Before: fiber.Query[uint64](c.Ctx, "before")})
		return listOf(rows, more), err
	})
}

func (c *call) apiPlaces() error {
	return onNumber(c, "id", func(id uint64, _ none) ([]store.Place, error) {
		at, past, err := c.asAt()
		if err != nil || !past {
			rows, read := c.q().Places(id)
			return rows, errors.Join(err, read)
		}
		return c.q().PlacesAt(id, at)
	})
}

func (c *call) apiExplain() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.Explanation, error) {
		return c.server.shop.Explain(c.ctx, c.who, id, c.Params("figure"))
	})
}

func (c *call) apiSaveDelivery() error {
	return onBody(c, func(in shop.DeliveryInput) (shop.DeliveryRef, error) {
		return c.server.shop.SaveDelivery(c.ctx, c.who, c.key(), fiber.Params[uint64](c.Ctx, "id"), in)
	})
}

func (c *call) apiDelivery() error {
	return onNumber(c, "id", func(id uint64, _ none) (map[string]any, error) {
		view, lines, err := c.q().Delivery(id)
		if err != nil {
			return nil, err
		}
		totals, err := shop.DeliveryTotals(view.Delivery, lines)
		return map[string]any{"delivery": view, "lines": lines, "totals": totals}, err
	})
}

func (c *call) apiDropDelivery() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.DeliveryRef, error) {
		return shop.DeliveryRef{ID: id}, c.server.shop.DropDelivery(c.ctx, c.who, id)
	})
}

func (c *call) apiScanDelivery() error {
	return onNumber(c, "id", func(id uint64, in shop.DeliveryScan) (shop.DeliveryScanned, error) {
		return c.server.shop.ScanDelivery(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiPostDelivery() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.Posted, error) {
		return c.server.shop.PostDelivery(c.ctx, c.who, c.key(), id)
	})
}

func (c *call) apiMakeUp() error {
	return onBody(c, func(in shop.KitInput) (shop.Posted, error) {
		return c.server.shop.MakeUpKits(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiBreakUp() error {
	return onBody(c, func(in shop.KitInput) (shop.Posted, error) {
		return c.server.shop.BreakUpKits(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiRegisters() error {
	rows, err := c.q().Registers()
	return answer(c, rows, err)
}

func (c *call) apiOpenDrawer() error {
	return onNumber(c, "id", func(id uint64, in struct {
		Float string `json:"float"`
	}) (shop.DrawerRef, error) {
		return c.server.shop.OpenDrawer(c.ctx, c.who, c.key(), id, in.Float)
	})
}

func (c *call) apiCashUp() error {
	return onNumber(c, "id", func(id uint64, in struct {
		Counted []sale.Denomination `json:"counted"`
	}) (shop.CashUp, error) {
		return c.server.shop.CashUpDrawer(c.ctx, c.who, c.key(), id, in.Counted)
	})
}

func (c *call) apiBasket() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.BasketView, error) { return c.server.shop.Basket(c.ctx, c.who, id) })
}

func (c *call) apiDropBasket() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.BasketView, error) { return c.server.shop.DropBasket(c.ctx, c.who, id) })
}

func (c *call) apiAddToBasket() error {
	return onNumber(c, "id", func(id uint64, in shop.BasketAdd) (shop.BasketView, error) {
		return c.server.shop.AddToBasket(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiChangeBasketLine() error {
	return onNumber(c, "id", func(id uint64, in shop.BasketChange) (shop.BasketView, error) {
		return c.server.shop.ChangeBasketLine(c.ctx, c.who, c.key(), id, fiber.Params[uint64](c.Ctx, "line"), in)
	})
}

func (c *call) apiSell() error {
	return onBody(c, func(in shop.SaleInput) (shop.SaleResult, error) { return c.server.shop.Sell(c.ctx, c.who, c.key(), in) })
}

func (c *call) apiSale() error {
	view, err := c.q().SaleByNumber(c.text("number"))
	return answer(c, view, err)
}

func (c *call) apiReprint() error {
	return answer(c, map[string]string{"printed": c.text("number")}, c.server.shop.Reprint(c.ctx, c.who, c.text("number")))
}

func (c *call) apiTakeBack() error {
	return onBody(c, func(in shop.ReturnInput) (shop.ReturnResult, error) {
		return c.server.shop.TakeBack(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiChangeCondition() error {
	return onBody(c, func(in shop.ChangeInput) (shop.Posted, error) {
		return c.server.shop.ChangeCondition(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiPlanCount() error {
	return onBody(c, func(in shop.CountPlan) (shop.CountRef, error) {
		return c.server.shop.PlanCount(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiCount() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.CountFigures, error) { return c.server.shop.CountStands(c.ctx, id) })
}

func (c *call) apiCountEvent() error {
	return onNumber(c, "id", func(id uint64, in shop.CountInput) (shop.Counted, error) {
		return c.server.shop.Count(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiStrike() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.CountRef, error) {
		return c.server.shop.Strike(c.ctx, c.who, c.key(), id, fiber.Params[uint64](c.Ctx, "event"))
	})
}

func (c *call) apiMoveCount() error {
	return onNumber(c, "id", func(id uint64, in struct {
		State count.State `json:"state"`
	}) (shop.CountRef, error) {
		return c.server.shop.MoveCount(c.ctx, c.who, c.key(), id, in.State)
	})
}

func (c *call) apiSettle() error {
	return onNumber(c, "id", func(id uint64, in shop.SettleInput) (shop.Posted, error) {
		return c.server.shop.SettleCount(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiDocument() error {
	view, err := c.q().Document(c.text("number"))
	if err != nil {
		return err
	}
	entries, err := c.q().EntryViews(view.ID)
	if err != nil {
		return err
	}
	postings, err := c.q().Postings(view.ID)
	return answer(c, map[string]any{"document": view, "entries": entries, "postings": postings}, err)
}

func (c *call) apiReverse() error {
	var in struct {
		Note string `json:"note"`
	}
	if len(c.Body()) > 0 {
		if err := c.read(&in); err != nil {
			return err
		}
	}
	done, err := c.server.shop.Reverse(c.ctx, c.who, c.key(), c.text("number"), in.Note)
	return answer(c, done, err)
}

func (c *call) apiVerify() error {
	checks, err := c.server.shop.Verify(c.ctx, c.who)
	return answer(c, checks, err)
}

func (c *call) apiSetDevice() error {
	return onBody(c, func(in struct {
		State string `json:"state"`
	}) (string, error) {
		return c.server.shop.SetDevice(c.ctx, c.who, c.text("name"), in.State)
	})
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
