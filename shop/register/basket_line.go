package register

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	storetill "itemrack/store/till"
)

// PutOnList puts a basket on a price list: its lines cost what they cost there, at
// the moment they were scanned. Another than its customer's, or the regular one, wants a yes.
func PutOnList(do deed.Deed, register, list uint64, approval *deed.Approval) (BasketView, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, approval)
	if err != nil {
		return BasketView{}, err
	}
	return atBasket(do, register, func(tx store.Tx, till *storetill.Till) (string, error) {
		lists, err := prices.PriceLists(tx.Q)
		if err != nil {
			return "", err
		}
		at := slices.IndexFunc(lists, func(l price.List) bool { return l.ID == list })
		if at < 0 {
			return "", fault.Missing("price_list_id", list, "There is no price list %d.", list)
		}
		row, err := storetill.LockBasket(tx, till.BasketID)
		if err != nil {
			return "", err
		}
		ask, other := deed.Asks(do.Shop, do.Who, by), list != till.Usual
		if other {
			if err := ask.May(staff.DeedPrice, "This basket at the prices of "+lists[at].Name); err != nil {
				return "", err
			}
		}
		row.ListAgreed = other
		if err := storetill.SaveBasket(tx, &row); err != nil {
			return "", err
		}
		found, err := goods.Sellables(tx.Q, variantsOf(till.Lines), do.Shop.Now())
		if err != nil {
			return "", err
		}
		lines, err := till.PutOn(list, found)
		if err != nil {
			return "", err
		}
		till.List = list
		for i, l := range lines {
			lines[i] = found[l.Variant].Agreed(till.Basket, l)
		}
		if err := storetill.PutOn(tx, till.BasketID, list, lines); err != nil {
			return "", err
		}
		return "At the prices of " + lists[at].Name + ".", ask.Keep(tx, till.Register, till.BasketID, 0)
	})
}

// BasketChange changes a line: a quantity of 0 removes it, what is left out stays. Off is typed as
// "10 %" or "4.00", empty for none; Price is another price than the list's, empty for the list's.
type BasketChange struct {
	Quantity  string         `json:"quantity"`
	Serial    *string        `json:"serial"`
	Lot       *uint64        `json:"lot_id"`
	Note      *string        `json:"note"`
	Off       *string        `json:"off"`
	OffFor    uint64         `json:"off_reason_id"`
	Price     *string        `json:"price"`
	Why       uint64         `json:"price_reason_id"`
	Owed      *bool          `json:"owed"`
	Condition *string        `json:"condition"`
	Approval  *deed.Approval `json:"approval"` // of somebody who may, where the person may not
}

// ChangeBasketLine changes a line of the basket that a register is at.
func ChangeBasketLine(do deed.Deed, register, line uint64, in BasketChange) (BasketView, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return BasketView{}, err
	}
	return deed.Once(do, staff.DeedSell, func(do deed.Deed) (BasketView, error) {
		do.Tx = do.Tx.Steady()
		till, err := openTill(do, register, 0)
		if err != nil {
			return BasketView{}, err
		}
		l, err := till.Line(line)
		if err != nil {
			return BasketView{}, err
		}
		found, err := goods.Sellables(do.Tx.Q, []uint64{l.Variant}, do.Shop.Now())
		if err != nil {
			return BasketView{}, err
		}
		v := found[l.Variant]
		ask := deed.Asks(do.Shop, do.Who, by)
		change, err := in.read(do.Tx, ask, v, l)
		if err != nil {
			return BasketView{}, err
		}
		touched, err := till.Change(v, line, change)
		if err != nil {
			return BasketView{}, err
		}
		if in.Serial != nil && touched.Line.Serial != "" {
			if touched.Line, err = numbersHere(do, v, touched.Line, till.Branch); err != nil {
				return BasketView{}, err
			}
		}
		if in.Lot != nil && *in.Lot != 0 {
			if err := lotHere(do, v, touched.Line, till.Branch); err != nil {
				return BasketView{}, err
			}
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return BasketView{}, err
		}
		if wanted, yes := v.Wants(till.Basket, touched.Line, set.Till.OffLimit); yes {
			if ask.Quiet() { // else the yes is for the line as it is now
				if err := ask.May(wanted.Deed, wanted.What); err != nil {
					return BasketView{}, err
				}
				ask.Note(wanted.Deed, wanted.What)
			}
			touched.Line = v.Agreed(till.Basket, touched.Line)
		}
		if err := ask.Keep(do.Tx, till.Register, till.BasketID, 0); err != nil {
			return BasketView{}, err
		}
		return keep(do, till, touched)
	})
}

// read reads what is typed on a line, and asks for what the person may not do alone.
func (in BasketChange) read(tx store.Tx, ask *deed.Asking, v goods.Sellable, l sale.BasketLine) (sale.Change, error) {
	set, err := tx.Terms()
	if err != nil {
		return sale.Change{}, err
	}
	out := sale.Change{Quantity: text.Or(in.Quantity, ""), Lot: in.Lot, Note: in.Note, Owed: in.Owed}
	if in.Condition != nil {
		from := stock.Condition(*in.Condition)
		out.Condition = &from
	}
	if in.Serial != nil {
		kept, err := serial.Typed(*in.Serial)
		if err != nil {
			return out, err
		}
		out.Serial = &kept
	}
	if in.Off == nil && in.Price == nil {
		return out, nil
	}
	reasons, err := office.Reasons(tx.Q)
	if err != nil {
		return out, err
	}
	if in.Price != nil {
		if out.Price, out.Why, err = in.priced(set, ask, reasons, v); err != nil {
			return out, err
		}
	}
	if in.Off != nil {
		off, err := readOff(set, reasons, *in.Off, in.OffFor, sale.Asked(v, l, out))
		if err != nil {
			return out, err
		}
		out.Off = &off
	}
	return out, nil
}

// priced reads another price than the list's; -1 takes it back.
func (in BasketChange) priced(set terms.Terms, ask *deed.Asking, reasons []reason.Reason,
	v goods.Sellable) (*decimal.Decimal, uint64, error) {
	none := decimal.New(-1, 0)
	if strings.TrimSpace(*in.Price) == "" {
		return &none, 0, nil
	}
	p, err := set.Minor().Parse("price", *in.Price)
	if err != nil {
		return nil, 0, err
	}
	if p.IsNegative() {
		return nil, 0, fault.Field("price", *in.Price, "0 or more", "A price can't be below nothing.")
	}
	why, err := reason.Find(reasons, reason.Price, in.Why)
	if err != nil {
		return nil, 0, fault.Of(err).In("price_reason_id")
	}
	return &p, why.ID, ask.May(staff.DeedPrice, v.FullName()+" at "+set.Currency.Format(p))
}

// readOff reads a discount on an amount, with its reason.
func readOff(set terms.Terms, reasons []reason.Reason, typed string, why uint64, amount decimal.Decimal) (sale.Off,
	error) {
	off, err := sale.ReadOff(typed, set.Minor())
	if err != nil || off.Kind == sale.NoOff {
		return off, err
	}
	r, err := reason.Find(reasons, reason.GivenOff, why)
	if err != nil {
		return off, fault.Of(err).In("off_reason_id")
	}
	off.Reason = r.ID
	return off, off.Fits(amount, set.Minor())
}

// numbersHere refuses serial numbers on a line that can't be sold at a branch.
func numbersHere(do deed.Deed, v goods.Sellable, l sale.BasketLine, branch uint64) (sale.BasketLine, error) {
	numbers := serial.Kept(l.Serial)
	held, err := book.Known(do.Tx.Q, []uint64{v.ID}, numbers)
	if err != nil {
		return l, err
	}
	_, err = sale.ScannedUnits(held, v, l.From(), numbers, branch)
	return l, err
}

// lotHere refuses a lot that can't be sold at a branch.
func lotHere(do deed.Deed, v goods.Sellable, l sale.BasketLine, branch uint64) error {
	set, err := do.Tx.Terms()
	if err != nil {
		return err
	}
	held, err := book.Look(do.Tx.Q, []uint64{v.ID})
	if err != nil {
		return err
	}
	for _, choice := range sale.LotsAt(held, v.ID, branch, l.From(), set.Day(do.Shop.Now())) {
		if choice.ID == l.Lot {
			return nil
		}
	}
	return fault.Refuse("lot_id", l.Lot, "a lot that is for sale here", "That lot of %s is not for sale here.",
		v.FullName())
}
