package demo

import (
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/customer"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/shop/customers"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	shopregister "itemrack/shop/register"
	"itemrack/store/goods"
	storeoffice "itemrack/store/office"
	storetill "itemrack/store/till"
)

// known are the customers of the demo shop. Phones are of the range that is kept for fiction; the
// last one may pay later.
var known = []customer.Facts{{Name: "Ada Penrose", Mail: "ada.penrose@example.com", Phone: "01632 960101"},
	{Name: "Bram Okafor", Mail: "bram.okafor@example.com", Phone: "01632 960117", Note: "Left-handed paddle"},
	{Name: "Cécile Marchetti", Mail: "cecile@example.com"}, {Name: "Dilys Thorne", Phone: "01632 960133"},
	{Name: "Łukasz Wren", Mail: "lukasz.wren@example.com"}, {Name: "Mei 美 Tanaka", Phone: "01632 960149"},
	{Name: "Ottoline Grey", Mail: "ottoline@example.com", Phone: "01632 960150"},
	{Name: "Piet Vanderhaven", Phone: "01632 960166"},
	{Name: "Rosalind Achterberg-Montgomery", Mail: "r.a.montgomery@example.com"},
	{Name: "Saltmarsh Swim School", Mail: "office@example.com", Phone: "01632 960180",
		Address: "3 Slipway Row\nSaltmarsh", DaysToPay: new(14)}}

// makeCustomers makes the customers, and says how far it is from branch to branch.
func (h *history) makeCustomers(at time.Time) error {
	then, maren := h.shop.At(at), h.people["maren"]
	for _, facts := range known {
		made, err := customers.Make(deed.By(h.ctx, then, maren, ""), customers.Input{Facts: facts})
		if err != nil {
			return err
		}
		h.customers = append(h.customers, made.ID)
	}
	for _, way := range []office.WayInput{{From: 1, To: 2, Minutes: new(12)}, {From: 1, To: 3, Minutes: new(25)},
		{From: 2, To: 3, Minutes: new(30)}} {
		if _, err := office.SaveWay(deed.By(h.ctx, then, maren, ""), way); err != nil {
			return err
		}
	}
	return h.hangTiles(then)
}

// hangTiles makes a page of tiles for what sells every day.
func (h *history) hangTiles(then *deed.Shop) error {
	page := shopregister.TilePageInput{Name: "Every day"}
	var variants []uint64
	for _, sku := range []string{"lesson", "BAR", "SUN", "WAX", "BWB"} {
		variants = append(variants, h.by[sku])
	}
	found, err := goods.Sellables(then.Store.Read(h.ctx), variants, then.Now())
	if err != nil {
		return err
	}
	for _, id := range variants {
		page.Tiles = append(page.Tiles, storetill.Tile{Product: found[id].ProductID})
	}
	_, err = shopregister.SaveTiles(deed.By(h.ctx, then, h.people["maren"], ""), 0, page)
	return err
}

// till is a register of the history at a moment.
type till struct {
	*history
	shop   *deed.Shop
	clerk  staff.Actor
	key    string
	basket shopregister.BasketView
}

func (h *history) till(at time.Time, clerk staff.Actor) *till {
	return &till{history: h, shop: h.shop.At(at), clerk: clerk, key: fmt.Sprintf("demo-till-%d", at.UnixNano())}
}

// add puts something on the basket; what is gone meanwhile is left out.
func (t *till) add(sku, quantity string) error {
	view, err := shopregister.AddToBasket(deed.By(t.ctx, t.shop, t.clerk, ""), 1,
		shopregister.BasketAdd{Variant: t.by[sku], Quantity: quantity})
	t.basket = view
	return err
}

// agree puts a customer, and a discount with its reason, on the basket.
func (t *till) agree(customer uint64, off string) error {
	in := shopregister.BasketFacts{}
	if customer != 0 {
		in.Customer = &customer
	}
	if off != "" {
		in.Off = &off
		reasons, err := storeoffice.Reasons(t.shop.Store.Read(t.ctx))
		if err != nil {
			return err
		}
		for _, r := range reasons {
			if r.Kind == reason.GivenOff && r.Name == "Regular customer" {
				in.OffFor = r.ID
			}
		}
	}
	view, err := shopregister.Agree(deed.By(t.ctx, t.shop, t.clerk, ""), 1, in)
	t.basket = view
	return err
}

// pay pays the basket, with what is said and the rest in cash.
func (t *till) pay(tenders ...shopregister.TenderInput) (shopregister.SaleResult, error) {
	left, err := shopregister.LeftToPay(deed.By(t.ctx, t.shop, t.clerk, ""), 1, tenders)
	if err != nil {
		return shopregister.SaleResult{}, err
	}
	if !left.Done {
		tenders = append(tenders, shopregister.TenderInput{Kind: sale.Cash, Amount: left.InCash.StringFixed(2)})
	}
	for i, w := range left.Ways {
		tenders[i].Amount = w.Amount.StringFixed(2)
	}
	return shopregister.Sell(deed.By(t.ctx, t.shop, t.clerk, t.key), shopregister.SaleInput{Register: 1,
		Basket: t.basket.ID, Tenders: tenders})
}

// atRegister plays what happens at a register besides plain sales.
func (h *history) atRegister(ago int, at time.Time, clerk staff.Actor) error {
	who := h.customers[ago%len(h.customers)]
	t := h.till(at, clerk)
	if err := t.add("lesson", "1"); err != nil {
		return err
	}
	off := ""
	if ago%3 == 0 {
		off = "5 %"
	}
	if err := t.agree(who, off); err != nil {
		return err
	}
	if ago%4 == 1 { // somebody buys a voucher as well
		view, err := shopregister.AddVoucher(deed.By(h.ctx, t.shop, clerk, ""), 1, shopregister.VoucherInput{Amount: "25.00"})
		if err != nil {
			return err
		}
		t.basket = view
	}
	var ways []shopregister.TenderInput
	switch {
	case ago%4 == 3 && len(h.vouchers) > 0:
		ways = append(ways, shopregister.TenderInput{Kind: sale.ByVoucher, Code: h.vouchers[0]})
		h.vouchers = h.vouchers[1:]
	case who == h.customers[len(h.customers)-1]:
		ways = append(ways, shopregister.TenderInput{Kind: sale.OnAccount})
	}
	done, err := t.pay(ways...)
	if err != nil {
		return err
	}
	for _, v := range done.Vouchers {
		h.vouchers = append(h.vouchers, v.Code)
	}
	if ago%7 == 2 {
		if err := h.takeOut(at.Add(time.Minute), "6.40", "Small expense", "milk and stamps"); err != nil {
			return err
		}
	}
	if ago%10 == 4 { // brought back, and kept as store credit
		sold, err := storetill.SaleByNumber(h.shop.Store.Read(h.ctx), done.Number)
		if err != nil {
			return err
		}
		_, err = shopregister.TakeBack(deed.By(h.ctx, h.shop.At(at.Add(2*time.Minute)), clerk, ""),
			shopregister.ReturnInput{Register: 1,
				Sale: sold.Number, Refund: sale.ToCredit, Lines: []shopregister.ReturnLineInput{{Line: 1, Quantity: "1"}}})
		if err != nil {
			return err
		}
	}
	if ago == 0 {
		return h.putBy(at.Add(3*time.Minute), clerk)
	}
	return nil
}

// takeOut takes cash out of the drawer for a reason.
func (h *history) takeOut(at time.Time, amount, why, note string) error {
	reasons, err := storeoffice.Reasons(h.shop.Store.Read(h.ctx))
	if err != nil {
		return err
	}
	in := shopregister.MoveInput{Kind: sale.TakenOut, Amount: amount, Note: note}
	for _, r := range reasons {
		if r.Kind == reason.TakenOut && r.Name == why {
			in.Reason = r.ID
		}
	}
	_, err = shopregister.MoveCash(deed.By(h.ctx, h.shop.At(at), h.people["tobi"], ""), 1, in)
	return err
}

// putBy puts a basket on hold today.
func (h *history) putBy(at time.Time, clerk staff.Actor) error {
	t := h.till(at, clerk)
	for _, g := range h.goods {
		if g.ForSale.GreaterThan(decimal.New(3, 0)) && g.Unit == "pc" && g.SKU != "BWB" && g.SKU != "TPW" {
			if err := t.add(g.SKU, "1"); err != nil {
				return err
			}
			break
		}
	}
	if err := t.agree(h.customers[0], ""); err != nil {
		return err
	}
	_, err := shopregister.Hold(deed.By(h.ctx, t.shop, clerk, ""), 1, shopregister.HoldInput{})
	return err
}
