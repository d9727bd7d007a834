package register

import (
	"fmt"
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/customers"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	storetill "itemrack/store/till"
)

// atBasket does something to the basket that a register is at; one is begun where it is at none.
func atBasket(do deed.Deed, register uint64, work func(tx store.Tx, till *storetill.Till) (string, error)) (BasketView,
	error) {
	return deed.Once(do, staff.DeedSell, func(do deed.Deed) (BasketView, error) {
		do.Tx = do.Tx.Steady()
		till, err := openTill(do, register, 0)
		if err != nil {
			return BasketView{}, err
		}
		if err := till.Begin(do.Tx, do.Who.ID, do.Shop.Now()); err != nil {
			return BasketView{}, err
		}
		said, err := work(do.Tx, &till)
		if err != nil {
			return BasketView{}, err
		}
		view, err := viewBasket(do.Shop, do.Tx.Q, register)
		view.Said = said
		return view, err
	})
}

// HoldInput puts a basket by under a name; lines alone, where some are named.
type HoldInput struct {
	Name  string   `json:"name"`
	Lines []uint64 `json:"lines"`
}

// Hold puts the basket of a register by, or some of its lines as a basket of their own, so that
// the register is free. It is taken up again at any register of the branch.
func Hold(do deed.Deed, register uint64, in HoldInput) (BasketView, error) {
	return atBasket(do, register, func(tx store.Tx, till *storetill.Till) (string, error) {
		if err := sale.CheckHold(till.Basket, len(till.Backs), in.Lines); err != nil {
			return "", err
		}
		row, err := storetill.LockBasket(tx, till.BasketID)
		if err != nil {
			return "", err
		}
		name, err := heldName(tx, in.Name, row)
		if err != nil {
			return "", err
		}
		if len(in.Lines) == 0 {
			return "On hold: " + name + ".", putBy(do.In(tx), row, name)
		}
		if _, err := carry(do.In(tx), &row, till.Basket); err != nil {
			return "", err
		}
		now := do.Shop.Now()
		apart := storetill.Basket{RegisterID: till.Register, BranchID: till.Branch, UserID: do.Who.ID, OpenedAt: now,
			PriceListID: row.PriceListID, ListAgreed: row.ListAgreed, CustomerID: row.CustomerID, Note: row.Note, Name: name,
			HeldAt: &now}
		if err := storetill.SaveBasket(tx, &apart); err != nil {
			return "", err
		}
		return fmt.Sprintf("%d of the lines on hold: %s.", len(in.Lines), name),
			storetill.MoveLines(tx, row.ID, apart.ID, in.Lines)
	})
}

// carry writes what is given off a basket onto its lines, so that each keeps its share wherever it goes.
func carry(do deed.Deed, row *storetill.Basket, b sale.Basket) (sale.Basket, error) {
	if b.Off.Kind == sale.NoOff {
		return b, nil
	}
	found, err := goods.Sellables(do.Tx.Q, variantsOf(b.Lines), do.Shop.Now())
	if err != nil {
		return b, err
	}
	b = b.Carried(found)
	row.OffKind, row.OffValue, row.OffReasonID, row.Granted = string(sale.NoOff), decimal.Zero, 0, decimal.Zero
	if err := storetill.SaveBasket(do.Tx, row); err != nil {
		return b, err
	}
	return b, storetill.Carry(do.Tx, row.ID, b.Lines)
}

// putBy puts a basket on hold under a name.
func putBy(do deed.Deed, row storetill.Basket, name string) error {
	now := do.Shop.Now()
	row.Name, row.HeldAt, row.OpenRegisterID, row.UserID = name, &now, nil, do.Who.ID
	return storetill.SaveBasket(do.Tx, &row)
}

// heldName is the name under which a basket is put by: as it is typed, else its customer's, else
// when it was begun.
func heldName(tx store.Tx, typed string, row storetill.Basket) (string, error) {
	name := text.Tidy(typed)
	if text.Len(name) > 60 {
		return "", fault.Field("name", text.Cut(name, 30), "60 characters or fewer", "The name is too long.")
	}
	if name != "" {
		return name, nil
	}
	if row.Name != "" {
		return row.Name, nil
	}
	if row.CustomerID != nil {
		c, err := customers.Read(tx.Q, *row.CustomerID)
		return text.Cut(c.Name, 60), err
	}
	set, err := tx.Terms()
	if err != nil {
		return "", err
	}
	return "Basket of " + row.OpenedAt.In(set.Zone).Format("15:04"), nil
}

// TakeUp takes a basket up that is on hold at the branch. The basket that the register is at is
// put by for it, or, where it is said so, made one with it.
func TakeUp(do deed.Deed, register, basket uint64, merge bool) (BasketView, error) {
	return atBasket(do, register, func(tx store.Tx, till *storetill.Till) (string, error) {
		held, err := storetill.LockBasket(tx, basket)
		if err != nil {
			return "", err
		}
		if held.HeldAt == nil || held.BranchID != till.Branch {
			return "", fault.Clash("basket_id", basket, "a basket on hold at this branch",
				"That basket is not on hold here any more.")
		}
		row, err := storetill.LockBasket(tx, till.BasketID)
		if err != nil {
			return "", err
		}
		name := held.Name
		if merge && !empty(till) {
			return merged(do.In(tx), till, &row, &held)
		}
		if empty(till) && row.CustomerID == nil {
			if err := storetill.DropBasket(tx, row.ID); err != nil {
				return "", err
			}
		} else {
			by, err := heldName(tx, "", row)
			if err != nil {
				return "", err
			}
			if err := putBy(do.In(tx), row, by); err != nil {
				return "", err
			}
		}
		held.HeldAt, held.OpenRegisterID, held.RegisterID, held.UserID = nil, &till.Register, till.Register, do.Who.ID
		if err := storetill.SaveBasket(tx, &held); err != nil {
			return "", err
		}
		at, err := storetill.BasketOf(tx.Q, held.ID)
		if err != nil || held.ListAgreed {
			return "Taken up: " + name + ".", err
		}
		said, err := putOnUsual(do.In(tx), held.ID, &at) // its customer may be another by now, or on another list
		return "Taken up: " + name + "." + said, err
	})
}

// merged makes a basket on hold one with the basket of a register: its lines keep what was agreed on them, its
// discount goes along as their shares. A basket of nobody's becomes its customer's.
func merged(do deed.Deed, till *storetill.Till, row, held *storetill.Basket) (string, error) {
	said := "Made one with " + held.Name + "."
	if row.CustomerID == nil && held.CustomerID != nil {
		more, err := putCustomer(do, till, row, *held.CustomerID)
		if err != nil {
			return "", err
		}
		said += " " + more
	}
	onto, err := carry(do, row, till.Basket)
	if err != nil {
		return "", err
	}
	more, err := storetill.BasketOf(do.Tx.Q, held.ID)
	if err != nil {
		return "", err
	}
	if more, err = carry(do, held, more); err != nil {
		return "", err
	}
	lines, note, err := more.Joined(onto)
	if err != nil {
		return "", err
	}
	row.Note = note
	if err := storetill.SaveBasket(do.Tx, row); err != nil {
		return "", err
	}
	if err := storetill.Carry(do.Tx, row.ID, lines); err != nil {
		return "", err
	}
	if err := storetill.MoveLines(do.Tx, held.ID, row.ID, nil); err != nil {
		return "", err
	}
	if slices.ContainsFunc(lines, func(l sale.BasketLine) bool { return l.List != 0 }) {
		said += " What was on it keeps the prices of its list."
	}
	return said, storetill.DropBasket(do.Tx, held.ID)
}

// empty reports whether there is nothing at all on a basket.
func empty(till *storetill.Till) bool { return len(till.Lines)+len(till.Backs)+len(till.Vouchers) == 0 }

// MoveTo moves the basket of a register to another one of the branch.
func MoveTo(do deed.Deed, register, to uint64) (BasketView, error) {
	return deed.Once(do, staff.DeedSell, func(do deed.Deed) (BasketView, error) {
		first, second := min(register, to), max(register, to)
		tills := map[uint64]storetill.Till{}
		for _, id := range []uint64{first, second} {
			at := do
			if id == to {
				at.Shown = nil // the basket that was shown is the one that moves
			}
			till, err := openTill(at, id, 0)
			if err != nil {
				return BasketView{}, err
			}
			tills[id] = till
		}
		from, other := tills[register], tills[to]
		if from.Branch != other.Branch || register == to {
			return BasketView{}, fault.Field("register_id", to, "another register of the branch",
				"A basket moves to another register of its own branch.")
		}
		if from.BasketID == 0 || empty(&from) {
			return BasketView{}, fault.Refuse("register_id", to, "something on the basket", "There is nothing to move.")
		}
		if !empty(&other) {
			return BasketView{}, fault.Clash("register_id", to, "to put that one on hold first",
				"%s is at a basket of its own.", other.Name)
		}
		if other.BasketID != 0 {
			if err := storetill.DropBasket(do.Tx, other.BasketID); err != nil {
				return BasketView{}, err
			}
		}
		row, err := storetill.LockBasket(do.Tx, from.BasketID)
		if err != nil {
			return BasketView{}, err
		}
		row.RegisterID, row.OpenRegisterID = to, &to
		if err := storetill.SaveBasket(do.Tx, &row); err != nil {
			return BasketView{}, err
		}
		view, err := viewBasket(do.Shop, do.Tx.Q, register)
		view.Said = "Moved to " + other.Name + "."
		return view, err
	})
}

// BasketFacts is what is agreed on a basket as a whole: nil leaves what is there. Off is typed as
// "10 %" or "4.00".
type BasketFacts struct {
	Customer *uint64        `json:"customer_id"` // 0 takes the customer off
	Off      *string        `json:"off"`
	OffFor   uint64         `json:"off_reason_id"`
	Note     *string        `json:"note"`
	Approval *deed.Approval `json:"approval"`
}

// Agree changes what is agreed on the basket of a register as a whole.
func Agree(do deed.Deed, register uint64, in BasketFacts) (BasketView, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return BasketView{}, err
	}
	return atBasket(do, register, func(tx store.Tx, till *storetill.Till) (string, error) {
		ask := deed.Asks(do.Shop, do.Who, by)
		row, err := storetill.LockBasket(tx, till.BasketID)
		if err != nil {
			return "", err
		}
		said := ""
		if in.Note != nil {
			if row.Note, err = sale.ReadNote(*in.Note); err != nil {
				return "", err
			}
			said = "Noted."
		}
		if in.Off != nil {
			if err := giveOff(do.In(tx), ask, till, &row, *in.Off, in.OffFor); err != nil {
				return "", err
			}
			said = "Nothing is given off the basket."
			if off := till.Off; off.Kind != sale.NoOff {
				set, err := tx.Terms()
				if err != nil {
					return "", err
				}
				said = off.Says(set.Minor()) + " off the basket."
			}
		}
		if err := storetill.SaveBasket(tx, &row); err != nil {
			return "", err
		}
		if in.Customer != nil {
			if said, err = putCustomer(do.In(tx), till, &row, *in.Customer); err != nil {
				return "", err
			}
		}
		return said, ask.Keep(tx, till.Register, till.BasketID, 0)
	})
}

// giveOff reads a discount on all of a basket, and asks for one that is beyond what everybody may give and what was
// said yes to before.
func giveOff(do deed.Deed, ask *deed.Asking, till *storetill.Till, row *storetill.Basket, typed string,
	why uint64) error {
	set, err := do.Tx.Terms()
	if err != nil {
		return err
	}
	reasons, err := office.Reasons(do.Tx.Q)
	if err != nil {
		return err
	}
	found, err := goods.Sellables(do.Tx.Q, variantsOf(till.Lines), do.Shop.Now())
	if err != nil {
		return err
	}
	asked := sale.AskedFor(till.Basket, found)
	off, err := readOff(set, reasons, typed, why, asked)
	if err != nil {
		return err
	}
	if of := off.Of(asked, set.Minor()); off.Beyond(set.Till.OffLimit, asked, set.Minor()) && of.GreaterThan(row.Granted) {
		what := off.Says(set.Minor()) + " off the basket"
		if err := ask.May(staff.DeedOffMore, what); err != nil {
			return err
		}
		ask.Note(staff.DeedOffMore, what)
		row.Granted = of
	}
	till.Off, row.OffKind, row.OffValue, row.OffReasonID = off, string(off.Kind), off.Value, off.Reason
	return nil
}

// putCustomer puts a customer on a basket, at the prices of the customer's list; 0 takes the
// customer off. Without a list of its own the prices are the regular ones.
func putCustomer(do deed.Deed, till *storetill.Till, row *storetill.Basket, id uint64) (string, error) {
	said := "The basket is nobody's."
	if id == 0 {
		row.CustomerID, till.Usual = nil, price.Regular
	} else {
		c, err := customers.Read(do.Tx.Q, id)
		if err != nil {
			return "", err
		}
		if c.ForgottenAt != nil {
			return "", fault.Refuse("customer_id", id, "a customer who is there", "That customer was forgotten.")
		}
		if row.CustomerID != nil && *row.CustomerID == id {
			return "For " + c.Name + ".", nil
		}
		row.CustomerID, said, till.Usual = &c.ID, "For "+c.Name+".", max(c.List(), price.Regular)
	}
	row.ListAgreed, row.PriceListID = false, till.Usual
	if err := storetill.SaveBasket(do.Tx, row); err != nil {
		return "", err
	}
	more, err := putOnUsual(do, till.BasketID, &till.Basket)
	return said + more, err
}

// putOnUsual puts a basket on its usual list, and says so where that is another.
func putOnUsual(do deed.Deed, id uint64, b *sale.Basket) (string, error) {
	other := slices.ContainsFunc(b.Lines, func(l sale.BasketLine) bool { return l.List != 0 })
	if b.List == b.Usual && !other {
		return "", nil
	}
	lists, err := prices.PriceLists(do.Tx.Q)
	if err != nil {
		return "", err
	}
	said := ""
	for _, l := range lists {
		if l.ID == b.Usual {
			said = " At the prices of " + l.Name + "."
		}
	}
	found, err := goods.Sellables(do.Tx.Q, variantsOf(b.Lines), do.Shop.Now())
	if err != nil {
		return "", err
	}
	lines, err := b.PutOn(b.Usual, found)
	if err != nil {
		return "", err
	}
	b.List = b.Usual
	for _, l := range lines {
		*b = b.With(l)
	}
	return said, storetill.PutOn(do.Tx, id, b.Usual, lines)
}

// forCustomer puts a customer on the basket whose card was scanned.
func forCustomer(do deed.Deed, till *storetill.Till, id uint64) (BasketView, error) {
	if err := till.Begin(do.Tx, do.Who.ID, do.Shop.Now()); err != nil {
		return BasketView{}, err
	}
	row, err := storetill.LockBasket(do.Tx, till.BasketID)
	if err != nil {
		return BasketView{}, err
	}
	said, err := putCustomer(do, till, &row, id)
	if err != nil {
		return BasketView{}, err
	}
	view, err := viewBasket(do.Shop, do.Tx.Q, till.Register)
	view.Said = said
	return view, err
}

// VoucherInput is a voucher that is to be given.
type VoucherInput struct {
	Amount string `json:"amount"`
}

// AddVoucher puts a voucher on the basket of a register: it is given when the basket is paid.
func AddVoucher(do deed.Deed, register uint64, in VoucherInput) (BasketView, error) {
	return atBasket(do, register, func(tx store.Tx, till *storetill.Till) (string, error) {
		if err := till.Sells(); err != nil {
			return "", err
		}
		set, err := tx.Terms()
		if err != nil {
			return "", err
		}
		amount, err := set.Minor().Parse("amount", in.Amount)
		if err != nil {
			return "", err
		}
		if err := sale.CheckVoucher(amount, len(till.Vouchers), set.Minor()); err != nil {
			return "", err
		}
		return "A voucher of " + set.Currency.Format(amount) + ".", storetill.AddVoucher(tx, till.BasketID, amount)
	})
}

// DropVoucher takes the nth voucher, from 0, off the basket of a register.
func DropVoucher(do deed.Deed, register uint64, n int) (BasketView, error) {
	return atBasket(do.Under(""), register, func(tx store.Tx, till *storetill.Till) (string, error) {
		if n < 0 || n >= len(till.Vouchers) {
			return "", fault.Missing("voucher", n, "That voucher is not on the basket any more.")
		}
		return "The voucher is taken off.", storetill.DropVoucher(tx, till.BasketID, n)
	})
}
