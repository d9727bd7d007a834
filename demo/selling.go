package demo

import (
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	shopregister "itemrack/shop/register"
	"itemrack/shop/stockroom"
	"itemrack/store/book"
	"itemrack/store/goods"
	storetill "itemrack/store/till"
)

// busy is how many sales a weekday sees, Sunday first.
var busy = [7]int{34, 14, 12, 16, 18, 28, 42}

func (h *history) sell(ago int, from, to time.Time, clerk staff.Actor) error {
	weather := 60 + h.rand.IntN(80) // percent: rain keeps people at home, and sun brings them out
	n := busy[from.In(h.set.Zone).Weekday()]*weather/100 + h.rand.IntN(8)
	if ago == 0 {
		n = max(3, n/2)
	}
	step := to.Sub(from) / time.Duration(n+1)
	for i := range n {
		at := from.Add(time.Duration(i+1)*step - time.Duration(h.rand.Int64N(int64(step)/2+1)))
		number, err := h.oneSale(at, clerk)
		if err != nil {
			return err
		}
		if number != "" {
			h.sales = append(h.sales, number)
		}
		if len(h.sales) > 6 && h.rand.IntN(18) == 0 {
			if err := h.oneReturn(at.Add(time.Minute), clerk); err != nil {
				return err
			}
		}
	}
	return nil
}

// oneSale sells one to three things; a refusal (the last one is gone) is part of
// a shop's day.
func (h *history) oneSale(at time.Time, clerk staff.Actor) (string, error) {
	in := shopregister.SaleInput{Register: 1}
	for range 1 + h.rand.IntN(3) {
		line, err := h.oneLine()
		if err != nil {
			return "", err
		}
		if line.Variant != 0 {
			in.Lines = append(in.Lines, line)
		}
	}
	if len(in.Lines) == 0 {
		return "", nil
	}
	then := h.shop.At(at)
	total, err := h.total(in.Lines, at)
	if err != nil {
		return "", err
	}
	key := fmt.Sprintf("demo-%d", at.UnixNano())
	if h.rand.IntN(5) < 2 {
		in.Cash = total.DivRound(decimal.New(10, 0), 0).Add(decimal.New(1, 0)).Mul(decimal.New(10, 0)).StringFixed(2)
	} else {
		in.Card = total.StringFixed(2)
	}
	done, err := shopregister.Sell(deed.By(h.ctx, then, clerk, key), in)
	if fault.Is(err, fault.Refused) {
		return "", nil
	}
	return done.Number, err
}

func (h *history) total(lines []shopregister.SaleLineInput, at time.Time) (decimal.Decimal, error) {
	sum := decimal.Zero
	for _, l := range lines {
		found, err := goods.Sellables(h.shop.Store.Read(h.ctx), []uint64{l.Variant}, at)
		if err != nil {
			return sum, err
		}
		q, err := decimal.NewFromString(l.Quantity)
		if err != nil {
			return sum, err
		}
		sum = sum.Add(sale.Line{Quantity: q, Price: found[l.Variant].Price}.Total())
	}
	return sum, nil
}

// oneLine picks something to sell; cheap things go more often.
func (h *history) oneLine() (shopregister.SaleLineInput, error) {
	if h.rand.IntN(14) == 0 {
		return shopregister.SaleLineInput{Variant: h.by["lesson"], Quantity: "1"}, nil
	}
	g := h.goods[h.rand.IntN(len(h.goods))]
	line := shopregister.SaleLineInput{Variant: g.ID, Quantity: "1"}
	switch g.SKU {
	case "BWB", "TPW":
		if h.rand.IntN(4) > 0 {
			return shopregister.SaleLineInput{}, nil
		}
		units, err := book.Units(h.shop.Store.Read(h.ctx), g.ID, 1)
		if err != nil || len(units) == 0 || units[0].State != "in stock" {
			return shopregister.SaleLineInput{}, err
		}
		line.Serial = units[0].Number
	case "ROP", "WEB":
		line.Quantity = fmt.Sprintf("%d.%02d", 1+h.rand.IntN(6), 25*h.rand.IntN(4))
	case "BAR", "WAX", "SUN":
		line.Quantity = fmt.Sprint(1 + h.rand.IntN(3))
	}
	return line, nil
}

// oneReturn takes one thing of a recent sale back; most of them go for sale
// again after a look.
func (h *history) oneReturn(at time.Time, clerk staff.Actor) error {
	number := h.sales[len(h.sales)-1-h.rand.IntN(6)]
	sold, err := storetill.SaleByNumber(h.shop.Store.Read(h.ctx), number)
	if err != nil {
		return err
	}
	line := sold.Lines[h.rand.IntN(len(sold.Lines))]
	if line.SKU == "LES" || !line.Back.IsZero() || !line.Quantity.Equal(line.Quantity.Truncate(0)) {
		return nil
	}
	then := h.shop.At(at)
	in := shopregister.ReturnInput{Register: 1, Sale: number,
		Lines: []shopregister.ReturnLineInput{{Line: line.Line, Quantity: "1"}}}
	_, err = shopregister.TakeBack(deed.By(h.ctx, then, clerk, ""), in)
	if said := fault.Of(err); said != nil && said.Field == "refund" { // not that much is in the drawer
		in.Refund = sale.ToCredit
		_, err = shopregister.TakeBack(deed.By(h.ctx, then, clerk, ""), in)
	}
	if err != nil || h.rand.IntN(10) == 0 || line.Serials != "" {
		return err
	}
	_, err = stockroom.ChangeCondition(deed.By(h.ctx, h.shop.At(at.Add(20*time.Minute)), clerk, ""), stockroom.ChangeInput{
		Variant:  line.VariantID,
		Branch:   1,
		From:     string(stock.ToLookOver),
		To:       string(stock.ForSale),
		Quantity: "1",
		Note:     "looked over",
	},
	)
	return err
}

// closeDrawer counts what should be there; once it is short by a few coins.
func (h *history) cashUp(ago int, at time.Time, clerk staff.Actor) error {
	then := h.shop.At(at.Add(15 * time.Minute))
	register, err := storetill.ReadRegister(then.Store.Read(h.ctx), 1)
	if err != nil {
		return err
	}
	figures, err := storetill.ReadDrawerFigures(then.Store.Read(h.ctx), register.Drawer)
	if err != nil {
		return err
	}
	left := figures.Core().ShouldBe()
	if ago == 9 {
		left = left.Sub(decimal.New(150, -2))
	}
	var counted []sale.Denomination
	for _, value := range h.set.Currency.Pieces() {
		n := left.Div(value).Truncate(0)
		counted = append(counted, sale.Denomination{Value: value, Count: n.IntPart()})
		left = left.Sub(n.Mul(value))
	}
	_, err = shopregister.CashUpDrawer(deed.By(h.ctx, then, clerk, ""), 1, counted)
	return err
}
