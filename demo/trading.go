package demo

import (
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	corebuying "itemrack/core/buying"
	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// supplierNamed finds a supplier of the demo.
func (h *history) supplierNamed(name string) (goods.Supplier, error) {
	suppliers, err := goods.Suppliers(h.shop.Store.Read(h.ctx))
	for _, s := range suppliers {
		if s.Name == name {
			return s, err
		}
	}
	return goods.Supplier{}, fmt.Errorf("the demo has no supplier %s: %w", name, err)
}

// order orders lines of a supplier at what they cost, the discount taken off again; it is
// placed, unless it stays a draft.
func (h *history) order(at time.Time, from goods.Supplier, placed bool, lines ...scan.GoodsLine) (uint64, error) {
	in := buying.OrderInput{Supplier: from.ID, Branch: 1}
	hundred := decimal.New(100, 0)
	for _, l := range lines {
		cost, err := decimal.NewFromString(l.Cost)
		if err != nil {
			return 0, err
		}
		asked := cost.Mul(hundred).DivRound(hundred.Sub(from.Discount), 2)
		in.Lines = append(in.Lines, buying.OrderLineInput{Variant: l.Variant, Quantity: l.Quantity,
			Price: asked.String(), Discount: from.Discount.String()})
	}
	then := h.shop.At(at)
	ref, err := buying.MakeOrder(deed.By(h.ctx, then, h.people["maren"], ""), in)
	if err != nil || !placed {
		return ref.ID, err
	}
	_, err = buying.PlaceOrder(deed.By(h.ctx, h.shop.At(at.Add(20*time.Minute)), h.people["maren"], ""), ref.ID)
	return ref.ID, err
}

// arrival is how an order comes in: which of its lines are short or over, whether its bill is
// there, and whether the rest is called off.
type arrival struct {
	number  string
	later   bool
	callOff bool
}

// come takes an order in: a line short, now and then one over.
func (h *history) come(at time.Time, order uint64, lines []scan.GoodsLine, how arrival) error {
	var short []uint64
	for i := range lines {
		lines[i].Cost = "" // as agreed
		n, err := decimal.NewFromString(lines[i].Quantity)
		if err != nil {
			return err
		}
		switch {
		case i%7 == 3 && n.GreaterThan(decimal.New(3, 0)):
			n, short = n.Sub(decimal.New(2, 0)), append(short, lines[i].Variant)
		case i%11 == 5:
			n = n.Add(decimal.New(1, 0))
		}
		lines[i].Quantity = n.String()
	}
	then := h.shop.At(at)
	draft, err := buying.SaveDelivery(deed.By(h.ctx, then, h.people["callum"], ""), 0,
		buying.DeliveryInput{Branch: 1, SupplierNumber: how.number, BillLater: how.later,
			Orders: []uint64{order}, Lines: lines})
	if err != nil {
		return err
	}
	posting := buying.DeliveryPosting{}
	if how.callOff {
		posting.CallOff = short
	}
	by := h.people["callum"]
	if !how.later { // with the goods came their bill, which Maren enters
		by = h.people["maren"]
	}
	if _, err = buying.PostDelivery(deed.By(h.ctx, then, by, ""), draft.ID, posting); err != nil {
		return err
	}
	if how.later {
		h.unbilled = append(h.unbilled, waiting{draft.ID, at.AddDate(0, 0, 3), "B" + how.number})
	}
	return nil
}

// waiting is a delivery whose bill comes on a day.
type waiting struct {
	delivery uint64
	on       time.Time
	number   string
}

// bills enters the bills that come on a day, one line a little dearer and with freight, and
// pays on Mondays what is due, but for what the shop has forgotten of late.
func (h *history) bills(ago int, at time.Time) error {
	then, maren := h.shop.At(at), h.people["maren"]
	for len(h.unbilled) > 0 && !h.unbilled[0].on.After(at) {
		next := h.unbilled[0]
		h.unbilled = h.unbilled[1:]
		view, lines, err := storebuying.ReadDelivery(h.shop.Store.Read(h.ctx), next.delivery)
		if err != nil {
			return err
		}
		in := buying.BillInput{Supplier: *view.SupplierID, Branch: 1, Number: next.number,
			Deliveries: []uint64{next.delivery}, Freight: "14.00"}
		for i, l := range lines {
			line := buying.BillLineInput{DeliveryLine: l.ID, Quantity: l.Quantity.String()}
			if i == 1 && l.Cost != nil {
				line.Each = l.Cost.Mul(decimal.New(104, -2)).Round(2).String()
			}
			in.Lines = append(in.Lines, line)
		}
		draft, err := buying.SaveBill(deed.By(h.ctx, then, maren, ""), 0, in)
		if err != nil {
			return err
		}
		if _, err := buying.PostBill(deed.By(h.ctx, then, maren, ""), draft.ID); err != nil {
			return err
		}
	}
	const forgotten = 9 // days
	if at.Weekday() != time.Monday || ago < forgotten {
		return nil
	}
	due := h.set.Day(at)
	owed, _, err := storebuying.Bills(h.shop.Store.Read(h.ctx), storebuying.BillFilter{DueBy: &due}, 1)
	if err != nil {
		return err
	}
	parts := map[uint64][]buying.PaymentPart{}
	var turn []uint64
	for _, b := range owed {
		if parts[b.SupplierID] == nil {
			turn = append(turn, b.SupplierID)
		}
		parts[b.SupplierID] = append(parts[b.SupplierID], buying.PaymentPart{Bill: b.ID})
	}
	for _, supplier := range turn {
		if _, err := buying.Pay(deed.By(h.ctx, then, maren, ""), buying.PaymentInput{Supplier: supplier,
			Parts: parts[supplier]}); err != nil {
			return err
		}
	}
	return nil
}

// onOrder leaves orders in every state, goods sent back and a bill paid out of the drawer, as
// a shop has them on any day.
func (h *history) onOrder(ago int, at time.Time) error {
	when := func(wanted int) bool { return ago == min(wanted, h.days) }
	const lateFrom, partCame, sentBack, calledOff, stillToCome, draft = 27, 9, 8, 14, 6, 1
	north, err := h.supplierNamed("Northfold Neoprene")
	if err != nil {
		return err
	}
	kelp, err := h.supplierNamed("Kelpline Textiles")
	if err != nil {
		return err
	}
	if when(lateFrom) {
		lines, err := h.some(append(h.styled("NWS", 8), h.styled("NGL", 4)...))
		if err != nil {
			return err
		}
		if h.late, err = h.order(at, north, true, lines...); err != nil {
			return err
		}
	}
	if ago == min(partCame, h.days-1) && h.late != 0 {
		lines, err := h.some(h.styled("NWS", 5))
		if err != nil {
			return err
		}
		if err := h.come(at, h.late, lines, arrival{number: "NN-1233", later: true}); err != nil {
			return err
		}
	}
	if ago == min(sentBack, h.days-1) && h.late != 0 {
		back := buying.SendBackInput{Supplier: north.ID, Branch: 1, Note: "a seam is open",
			Lines: []buying.SendBackLine{{Variant: h.styled("NWS", 1)[0], Quantity: "1"}}}
		if _, err := buying.SendBack(deed.By(h.ctx, h.shop.At(at), h.people["callum"], ""), back); err != nil {
			return err
		}
	}
	if when(calledOff) {
		lines, err := h.some(h.styled("HSW", 3))
		if err != nil {
			return err
		}
		gone, err := h.order(at, kelp, true, lines...)
		if err != nil {
			return err
		}
		off := buying.CallOffInput{Note: "next season's colours instead"}
		if _, err := buying.CallOffOrder(deed.By(h.ctx, h.shop.At(at.Add(time.Hour)), h.people["maren"], ""), gone,
			off); err != nil {
			return err
		}
	}
	if when(stillToCome) {
		lines, err := h.some(h.styled("SRV", 10))
		if err != nil {
			return err
		}
		if _, err := h.order(at, kelp, true, lines...); err != nil {
			return err
		}
	}
	if when(draft) {
		oar, err := h.supplierNamed("Oar & Thole")
		if err != nil {
			return err
		}
		lines, err := h.some(h.styled("PGL", 4))
		if err != nil {
			return err
		}
		if _, err := h.order(at, oar, false, lines...); err != nil {
			return err
		}
		return h.payFromDrawer(at)
	}
	return nil
}

// styled are up to so many variants of a style.
func (h *history) styled(style string, most int) []uint64 {
	var ids []uint64
	for _, g := range h.goods {
		if strings.HasPrefix(g.SKU, style+"-") && len(ids) < most {
			ids = append(ids, g.ID)
		}
	}
	return ids
}

// some is a few of each of some variants, at what they cost the last time.
func (h *history) some(variants []uint64) ([]scan.GoodsLine, error) {
	found, err := goods.Sellables(h.shop.Store.Read(h.ctx), variants, h.shop.Now())
	lines := make([]scan.GoodsLine, len(variants))
	for i, id := range variants {
		cost := found[id].LastCost.Round(2)
		if !cost.IsPositive() {
			cost = decimal.New(10, 0)
		}
		lines[i] = scan.GoodsLine{Variant: id, Quantity: fmt.Sprint(3 + i%4), Cost: cost.String()}
	}
	return lines, err
}

// payFromDrawer pays part of the bill that is due first out of the drawer that is open.
func (h *history) payFromDrawer(at time.Time) error {
	owed, _, err := storebuying.Bills(h.shop.Store.Read(h.ctx), storebuying.BillFilter{Owed: true}, 1)
	if err != nil || len(owed) == 0 {
		return err
	}
	amount := decimal.Min(owed[0].Open, decimal.New(40, 0))
	_, err = buying.Pay(deed.By(h.ctx, h.shop.At(at), h.people["maren"], ""),
		buying.PaymentInput{Supplier: owed[0].SupplierID, From: corebuying.Drawer, Register: 1,
			Parts: []buying.PaymentPart{{Bill: owed[0].ID, Amount: amount.String()}}})
	return err
}
