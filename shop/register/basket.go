package register

import (
	"fmt"
	"time"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/sale"
	corescan "itemrack/core/scan"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store/book"
	"itemrack/store/goods"
	storetill "itemrack/store/till"
)

// BasketAdd adds to a basket: by Variant, or by Code as it was scanned or typed
// ("12 x 2000000000015" takes twelve).
type BasketAdd struct {
	Code     string `json:"code"`
	Variant  uint64 `json:"variant_id"`
	Pack     uint64 `json:"pack_id"`
	Quantity string `json:"quantity"`
	Serial   string `json:"serial"` // or several, with commas between them
	Lot      string `json:"lot"`    // the lot that is meant, by its number

	Condition string `json:"condition"` // it is sold from; empty is for sale
	// Line is the line that "12 x" alone is for; without one it is that which came last.
	Line uint64 `json:"line_id"`
}

// AddToBasket scans or picks something onto the basket of a register. Words
// that find products come back as offers; nothing is added then.
func AddToBasket(do deed.Deed, register uint64, in BasketAdd) (BasketView, error) {
	if alone, err := corescan.Read(in.Code); err == nil && alone.Alone() && in.Variant == 0 {
		return countLine(do, register, in.Line, alone.Times)
	}
	at, looked := storetill.Open(register, 0), in.Variant == 0 && !sale.IsCredit(in.Code)
	var asking scan.Asking
	as, known := do.Shop.Store.LastKnown(do.Ctx)
	if looked && known { // what is wrong with it is said below
		asking, _ = scan.Ask(as, in.Code, 20)
		at.Scanned(asking.Lookup)
	}
	return deed.OnceAhead(do, staff.DeedSell, at.Ahead(), func(do deed.Deed) (BasketView, error) {
		do.Tx = do.Tx.Steady()
		var err error
		if looked && (asking.Lookup == nil || !do.Tx.SetAs(as)) {
			if asking, err = scan.Ask(do.Tx.Q, in.Code, 20); err != nil {
				return BasketView{}, err
			}
		}
		till, err := at.Till(do.Tx)
		if err != nil {
			return BasketView{}, err
		}
		if err := asShown(do, till); err != nil {
			return BasketView{}, err
		}
		if err := till.Sells(); err != nil {
			return BasketView{}, err
		}
		add := sale.Adding{Pack: in.Pack, Quantity: in.Quantity, Condition: stock.Condition(in.Condition)}
		if add.Serial, err = serial.Typed(in.Serial); err != nil {
			return BasketView{}, err
		}
		variant, lot := in.Variant, lotSaid{number: in.Lot}
		if variant == 0 && sale.IsCredit(in.Code) {
			return forCredit(do, register, in.Code)
		}
		if variant == 0 {
			meant, err := asking.Meaning(do.Tx.Q)
			if err != nil {
				return BasketView{}, err
			}
			if id, ok := customer.Card(in.Code); ok && len(meant.Found) == 0 {
				return forCustomer(do, &till, id)
			}
			if !meant.One() {
				return meantAt(do, register, meant)
			}
			if variant, add, err = meant.Adding(add); err != nil {
				return BasketView{}, err
			}
			lot = lotSaid{meant.Found[0].Lot, meant.Found[0].Expiry}
		}
		known, err := see(do, till, append(variantsOf(till.Lines), variant))
		if err != nil {
			return BasketView{}, err
		}
		v, ok := known.Goods[variant]
		if !ok {
			return BasketView{}, fault.Missing("variant_id", variant, "There is no variant %d.", variant)
		}
		if add, err = scanned(do, v, lot, add, till.Branch); err != nil {
			return BasketView{}, err
		}
		if err := till.Begin(do.Tx, do.Who.ID, do.Shop.Now()); err != nil {
			return BasketView{}, err
		}
		return addAll(do, till, v, add, known)
	})
}

// countLine sets how many a line of the basket has, by a number that was scanned or typed without a code; 0 is the line
// that came last.
func countLine(do deed.Deed, register, line uint64, times string) (BasketView, error) {
	if line == 0 {
		_, basket, _, err := storetill.Lines(do.Shop.Store.Read(do.Ctx), register)
		if err != nil {
			return BasketView{}, err
		}
		if len(basket.Lines) == 0 {
			return BasketView{}, fault.Refuse("code", times, "a code beside it", "There is nothing on the basket yet of which "+
				"there could be %s.", times)
		}
		line = basket.Lines[len(basket.Lines)-1].ID
	}
	view, err := ChangeBasketLine(do, register, line, BasketChange{Quantity: times})
	view.Line = line
	return view, err
}

// variantsOf are the variants of lines.
func variantsOf(lines []sale.BasketLine) []uint64 {
	ids := make([]uint64, len(lines))
	for i, l := range lines {
		ids[i] = l.Variant
	}
	return ids
}

// forCredit shows the basket with the voucher or store credit whose code was scanned: it pays.
func forCredit(do deed.Deed, register uint64, typed string) (BasketView, error) {
	_, code, err := sale.ReadCredit(typed)
	if err != nil {
		return BasketView{}, err
	}
	if _, err := storetill.ReadVoucher(do.Tx.Q, code); err != nil {
		return BasketView{}, err
	}
	view, err := viewBasket(do.Shop, do.Tx.Q, register)
	view.Credit = code
	return view, err
}

// addAll puts something into a basket: one line, or as many as it takes.
func addAll(do deed.Deed, till storetill.Till, v goods.Sellable, add sale.Adding, known seen) (BasketView, error) {
	all, err := v.OneByOne(add.Quantity, add.Serial)
	if err != nil {
		return BasketView{}, err
	}
	for _, one := range all[:len(all)-1] {
		one.Pack, one.Lot, one.Amount, one.Condition = add.Pack, add.Lot, add.Amount, add.Condition
		touched, err := till.Add(v, one, do.Shop.Now())
		if err != nil {
			return BasketView{}, err
		}
		if touched.Line.ID, err = storetill.KeepLine(do.Tx, till.BasketID, touched.Line); err != nil {
			return BasketView{}, err
		}
		till.Lines = append(till.Lines, touched.Line)
	}
	last := all[len(all)-1]
	last.Pack, last.Lot, last.Amount, last.Condition = add.Pack, add.Lot, add.Amount, add.Condition
	touched, err := till.Add(v, last, do.Shop.Now())
	if err != nil {
		return BasketView{}, err
	}
	if len(all) > 1 {
		touched.Says = fmt.Sprintf("%s: %d added.", v.FullName(), len(all))
	}
	return keepSeen(do, till, touched, known)
}

// lotSaid is a lot as a code, or a person, says it.
type lotSaid struct {
	number string
	expiry *time.Time
}

// scanned finds the lot that was said and the condition of serial numbers, and refuses one, or numbers, that
// can't be sold here.
func scanned(do deed.Deed, v goods.Sellable, lot lotSaid, add sale.Adding, branch uint64) (sale.Adding, error) {
	var expiry time.Time
	if lot.expiry != nil {
		expiry = *lot.expiry
	}
	if lot.number == "" && expiry.IsZero() && (add.Serial == "" || v.Tracking != stock.BySerial) {
		return add, nil
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return add, err
	}
	numbers := serial.Kept(add.Serial)
	held, err := book.Known(do.Tx.Q, []uint64{v.ID}, numbers)
	if err != nil {
		return add, err
	}
	if add.Condition, err = sale.ScannedUnits(held, v, add.Condition, numbers, branch); err != nil {
		return add, err
	}
	from := sale.BasketLine{Condition: add.Condition}.From()
	add.Lot, err = sale.ScannedLot(held, v, from, lot.number, expiry, branch, set.Day(do.Shop.Now()))
	return add, err
}

// openTill reads a register for a deed of somebody who works there, and was shown the basket that it is at.
func openTill(do deed.Deed, register, basket uint64) (storetill.Till, error) {
	till, err := storetill.OpenTill(do.Tx, register, basket)
	if err != nil {
		return till, err
	}
	return till, asShown(do, till)
}

// asShown refuses a deed at a register to who does not work there, or was shown another basket than it is at.
func asShown(do deed.Deed, till storetill.Till) error {
	if err := do.Who.At(till.Branch, till.At); err != nil || do.Shown == nil {
		return err
	}
	return sale.CheckBasket(till.Name, *do.Shown, till.BasketID, till.By == do.Who.ID)
}

// keep writes what became of a line and shows the basket, which is what the till knows with that line.
func keep(do deed.Deed, till storetill.Till, touched sale.Touched) (BasketView, error) {
	known, err := see(do, till, variantsOf(till.With(touched.Line).Lines))
	if err != nil {
		return BasketView{}, err
	}
	return keepSeen(do, till, touched, known)
}

// seen is what is read to show a basket: how its goods stand, and what is around its register.
type seen struct {
	book.Standing
	around *storetill.Around
}

// see reads what is needed to show a basket with these goods, in one round trip.
func see(do deed.Deed, till storetill.Till, variants []uint64) (seen, error) {
	around, parts, err := storetill.AroundAt(do.Tx.Q, till.Branch)
	if err != nil {
		return seen{}, err
	}
	stand, err := book.Stand(do.Tx.Q, variants, do.Shop.Now(), parts...)
	return seen{stand, around}, err
}

// keepSeen is keep where what is needed to show the basket was read.
func keepSeen(do deed.Deed, till storetill.Till, touched sale.Touched, known seen) (BasketView, error) {
	line, err := storetill.KeepLine(do.Tx, till.BasketID, touched.Line)
	if err != nil {
		return BasketView{}, err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return BasketView{}, err
	}
	touched.Line.ID = line
	view, err := viewAt(do.Shop, do.Tx.Q, set, till.Register,
		storetill.At{ID: till.BasketID, Basket: till.With(touched.Line), Backs: till.Backs,
			Around: *known.around}, &known.Standing)
	view.Said, view.Line, view.Before = touched.Says, line, &touched.Before
	return view, err
}

// meantAt shows the basket with what a code that is not of one variant may have meant.
func meantAt(do deed.Deed, register uint64, meant scan.Scanned) (BasketView, error) {
	view, err := viewBasket(do.Shop, do.Tx.Q, register)
	if err != nil {
		return view, err
	}
	switch found := meant.Found; {
	case len(found) == 0:
		return view, fault.Missing("code", meant.Code, "Nothing here is called %s.", meant.Code)
	case found[0].Kind == "document" && found[0].Name == string(stock.Sale):
		view.Receipt = found[0].Code
	case found[0].Paper() && found[0].Kind != "order":
		return view, fault.Refuse("code", meant.Code, "a product", "%s is a document, not a product.", meant.Code)
	case found[0].Kind == "order" || found[0].Kind == "shelf":
		_, err = meant.Meant()
		return view, err
	case len(found) == 1 && found[0].Kind == "product":
		view.Pick = &found[0]
	default:
		view.Offers = found
	}
	return view, nil
}

// DropBasket gives up the basket of a register.
func DropBasket(do deed.Deed, register uint64) (BasketView, error) {
	return deed.Once(do.Under(""), staff.DeedSell, func(do deed.Deed) (BasketView, error) {
		do.Tx = do.Tx.Steady()
		till, err := openTill(do, register, 0)
		if err != nil && (till.BasketID != 0 || fault.Of(err) == nil || fault.Of(err).Field != "basket_id") {
			return BasketView{}, err // but one that is gone already is what was asked for
		}
		t, err := storetill.CurrentBasket(do.Tx.Q, register)
		if err != nil {
			return BasketView{}, err
		}
		if t.ID != 0 {
			if err := storetill.DropBasket(do.Tx, t.ID); err != nil {
				return BasketView{}, err
			}
		}
		return viewBasket(do.Shop, do.Tx.Q, register)
	})
}
