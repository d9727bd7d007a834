package register

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/customer"
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
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/customers"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	storetill "itemrack/store/till"
)

// BasketLineView is a line of a basket as it is shown. Here is what is for sale
// at the register's branch, Elsewhere at the others, Places where, the nearest first. Total is what
// the customer pays for it, less its share of what is given off the basket.
type BasketLineView struct {
	ID        uint64           `json:"id"`
	Variant   uint64           `json:"variant_id"`
	Product   uint64           `json:"product_id"`
	Name      string           `json:"name"`
	Detail    string           `json:"detail"`
	SKU       string           `json:"sku"`
	Unit      string           `json:"unit"`
	Decimals  int32            `json:"decimals"`
	Tracking  stock.Tracking   `json:"tracking"`
	Pack      string           `json:"pack,omitempty"` // what Quantity counts
	Quantity  decimal.Decimal  `json:"quantity"`
	Price     decimal.Decimal  `json:"price"`
	ListPrice *decimal.Decimal `json:"list_price,omitempty"` // where another price was set
	Why       uint64           `json:"price_reason_id,omitempty"`
	Off       string           `json:"off,omitempty"` // as it is typed: "10 %" or "4.00"
	OffFor    uint64           `json:"off_reason_id,omitempty"`
	OffAmount decimal.Decimal  `json:"off_amount"` // given off the line, its share of the basket's among it
	Note      string           `json:"note,omitempty"`
	Owed      bool             `json:"owed,omitempty"` // its serial number is given later
	Total     decimal.Decimal  `json:"total"`
	Serials   []string         `json:"serials"`
	Choices   []string         `json:"choices,omitempty"` // serial numbers for sale here
	Lots      []string         `json:"lots,omitempty"`    // proposed, in words
	LotID     uint64           `json:"lot_id,omitempty"`  // chosen, or scanned
	LotList   []sale.LotChoice `json:"lot_choices,omitempty"`
	Condition stock.Condition  `json:"condition"` // it is sold from
	// Conditions are those that it can be sold from here, where there are several.
	Conditions []stock.Condition `json:"conditions,omitempty"`
	Here       decimal.Decimal   `json:"here"`
	Elsewhere  decimal.Decimal   `json:"elsewhere"`
	Places     []sale.Place      `json:"places,omitempty"`
	Short      string            `json:"short,omitempty"` // why it can't be sold as it stands
}

// BasketView is a basket as it is shown: lines and totals are computed by the same
// rules that post the sale. Due is what is to be paid, below zero for what is to be given back;
// DueCash is that in cash. Notes are amounts in cash that the customer may hand over.
type BasketView struct {
	ID       uint64            `json:"id"`
	Register uint64            `json:"register_id"`
	List     uint64            `json:"price_list_id"`
	Lines    []BasketLineView  `json:"lines"`
	Backs    []BackView        `json:"backs"`
	Vouchers []decimal.Decimal `json:"vouchers"` // to be given
	Customer *CustomerSlip     `json:"customer"`
	Off      string            `json:"off"` // of the basket, as it is typed
	OffFor   uint64            `json:"off_reason_id"`
	OffShare decimal.Decimal   `json:"off_amount"` // of the basket, in all
	Note     string            `json:"note"`
	Totals   sale.Totals       `json:"totals"`
	Refund   decimal.Decimal   `json:"refund"` // for what comes back
	Due      decimal.Decimal   `json:"due"`
	DueCash  decimal.Decimal   `json:"due_cash"`
	Notes    []decimal.Decimal `json:"notes"`
	Held     []storetill.Held  `json:"held"` // baskets on hold at the branch
	Said     string            `json:"said,omitempty"`
	Line     uint64            `json:"line_id,omitempty"` // the line that was touched
	Before   *decimal.Decimal  `json:"before,omitempty"`  // its quantity before
	Pick     *goods.Found      `json:"pick,omitempty"`    // a product whose variant is to be chosen
	Offers   []goods.Found     `json:"offers,omitempty"`  // products that words found
	Receipt  string            `json:"receipt,omitempty"` // a sale whose receipt was scanned
	Credit   string            `json:"credit,omitempty"`  // a voucher or store credit whose code was scanned
}

// CustomerSlip is a customer as the slip on the basket shows one.
type CustomerSlip struct {
	ID        uint64          `json:"id"`
	Name      string          `json:"name"`
	Code      string          `json:"code"`
	OnAccount bool            `json:"on_account"` // has terms
	Owes      decimal.Decimal `json:"owes"`
	Credit    decimal.Decimal `json:"store_credit"`
	Credits   []sale.Credit   `json:"credits"`
}

// Basket reads the basket that a register is at.
func Basket(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64) (BasketView, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return BasketView{}, err
	}
	return viewBasket(s, s.Store.Read(ctx), register)
}

// viewBasket works out the basket that a register is at, as it is shown.
func viewBasket(s *deed.Shop, q store.Q, register uint64) (BasketView, error) {
	set, err := q.Terms()
	if err != nil {
		return BasketView{}, err
	}
	at, err := storetill.ReadAt(q, register)
	if err != nil {
		return BasketView{}, err
	}
	return viewAt(s, q, set, register, at, nil)
}

// viewAt works out a basket that was read, as it is shown; stand is what was read of its goods
// already, nil where that was not.
func viewAt(s *deed.Shop, q store.Q, set terms.Terms, register uint64, at storetill.At,
	stand *book.Standing) (BasketView, error) {
	basket := at.Basket
	storetill.Remember(q, at.ID, variantsOf(basket.Lines))
	view := BasketView{ID: at.ID, Register: register, List: basket.List, Lines: []BasketLineView{},
		Notes:  []decimal.Decimal{},
		Totals: sale.Sum(nil), Backs: []BackView{}, Vouchers: append([]decimal.Decimal{}, basket.Vouchers...), Held: at.Held,
		Note: basket.Note, Off: basket.Off.Says(set.Minor()), OffFor: basket.Off.Reason}
	var err error
	if basket.Customer != 0 {
		if view.Customer, err = slipFor(q, basket.Customer); err != nil {
			return view, err
		}
	}
	if len(basket.Lines) > 0 {
		if err := viewLines(s, q, set, &view, basket, at.Around, stand); err != nil {
			return view, err
		}
	}
	if len(at.Backs) > 0 {
		if err := viewBacks(s, q, &view, at.Backs, at.Branch); err != nil {
			return view, err
		}
	}
	view.Due = sale.Due(view.Totals, basket.Vouchers, view.Refund)
	view.DueCash = sale.Rounded(view.Due, set.Till.CashStep)
	if view.Due.IsPositive() {
		view.Notes = set.Currency.Notes(view.DueCash)
	}
	return view, nil
}

// viewLines works out the lines of a basket and what they come to.
func viewLines(s *deed.Shop, q store.Q, set terms.Terms, view *BasketView, basket sale.Basket, at storetill.Around,
	stand *book.Standing) error {
	ids := variantsOf(basket.Lines)
	if stand == nil {
		read, err := book.Stand(q, ids, s.Now())
		if err != nil {
			return err
		}
		stand = &read
	}
	found, held := stand.Goods, stand.Held
	parts, err := goods.Bundled(q, found)
	if err != nil {
		return err
	}
	for _, list := range parts {
		for _, p := range list {
			ids = append(ids, p.Variant)
		}
	}
	if len(parts) > 0 {
		if held, err = book.Look(q, ids); err != nil {
			return err
		}
	}
	lines := sale.Priced(basket, found)
	day := set.Day(s.Now())
	needs := sale.NewNeeds(held, at.Branch, day)
	for i, l := range basket.Lines {
		v := found[l.Variant]
		units, pack, err := v.Units(l)
		there := sale.Supplied(v, l, units, parts[v.ID], needs)
		if err != nil {
			there.Short = err.Error()
		}
		row := BasketLineView{
			ID:         l.ID,
			Variant:    v.ID,
			Product:    v.ProductID,
			Name:       v.Name,
			Detail:     v.Detail(l),
			Condition:  l.From(),
			Conditions: v.SoldHere(held, l, at.Branch),
			SKU:        v.SKU,
			Unit:       v.Unit.Code,
			Decimals:   v.Unit.Decimals,
			Tracking:   v.Tracking,
			Pack:       pack.Name,
			Quantity:   l.Quantity,
			Price:      l.Price,
			ListPrice:  l.ListPrice,
			Why:        l.Why,
			Off:        l.Off.Says(set.Minor()),
			OffFor:     l.Off.Reason,
			OffAmount:  lines[i].Off,
			Note:       l.Note,
			Owed:       l.Owed,
			Total:      lines[i].Total(),
			Serials:    serial.Kept(l.Serial),
			Choices:    there.Choices,
			Lots:       there.Lots,
			LotID:      l.Lot,
			Here:       there.Here,
			Elsewhere:  there.Elsewhere,
			Places:     named(at, there.Places),
			Short:      there.Short,
		}
		if v.Tracking == stock.ByLot {
			row.LotList = sale.LotsAt(held, v.ID, at.Branch, l.From(), day)
		}
		if there.Numbered {
			row.Tracking = stock.BySerial // its number is chosen on the line
		}
		view.Lines = append(view.Lines, row)
	}
	view.Totals = sale.Sum(lines)
	view.OffShare = sale.SharedOff(basket, found)
	return nil
}

// named says what places are called and how far they are, the nearest first.
func named(a storetill.Around, list []sale.Place) []sale.Place {
	for i := range list {
		list[i].Name = a.Name(list[i].Branch)
		if minutes, known := a.Minutes(list[i].Branch); known {
			list[i].Minutes = minutes
		}
	}
	sale.Nearest(list)
	return list
}

// slipFor reads a customer as the slip on the basket shows one.
func slipFor(q store.Q, id uint64) (*CustomerSlip, error) {
	c, err := customers.Read(q, id)
	if err != nil {
		return nil, err
	}
	slip := &CustomerSlip{ID: c.ID, Name: c.Name, Code: c.Code(), OnAccount: c.DaysToPay != nil, Credits: []sale.Credit{}}
	if slip.Owes, err = customers.Owes(q, c.ID); err != nil {
		return nil, err
	}
	all, err := storetill.VouchersOf(q, c.ID)
	for _, v := range all {
		if v.State() == sale.CreditGiven {
			slip.Credits = append(slip.Credits, v)
			slip.Credit = slip.Credit.Add(v.Balance)
		}
	}
	return slip, err
}

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
}

// AddToBasket scans or picks something onto the basket of a register. Words
// that find products come back as offers; nothing is added then.
func AddToBasket(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register uint64,
	in BasketAdd) (BasketView, error) {
	at, looked := storetill.Open(register, 0), in.Variant == 0 && !sale.IsCredit(in.Code)
	var asking scan.Asking
	as, known := s.Store.LastKnown(ctx)
	if looked && known { // what is wrong with it is said below
		asking, _ = scan.Ask(as, in.Code, 20)
		at.Scanned(asking.Lookup)
	}
	return deed.OnceAhead(ctx, s, who, staff.DeedSell, key, at.Ahead(), func(tx store.Tx) (BasketView, error) {
		tx = tx.Steady()
		var err error
		if looked && (asking.Lookup == nil || !tx.SetAs(as)) {
			if asking, err = scan.Ask(tx.Q, in.Code, 20); err != nil {
				return BasketView{}, err
			}
		}
		till, err := at.Till(tx)
		if err != nil {
			return BasketView{}, err
		}
		if err := who.At(till.Branch, till.At); err != nil {
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
			return forCredit(s, tx, register, in.Code)
		}
		if variant == 0 {
			meant, err := asking.Meaning(tx.Q)
			if err != nil {
				return BasketView{}, err
			}
			if id, ok := customer.Card(in.Code); ok && len(meant.Found) == 0 {
				return forCustomer(s, tx, &till, who, id)
			}
			if !meant.One() {
				return meantAt(s, tx, register, meant)
			}
			if variant, add, err = meant.Adding(add); err != nil {
				return BasketView{}, err
			}
			lot = lotSaid{meant.Found[0].Lot, meant.Found[0].Expiry}
		}
		known, err := see(s, tx, till, append(variantsOf(till.Lines), variant))
		if err != nil {
			return BasketView{}, err
		}
		v, ok := known.Goods[variant]
		if !ok {
			return BasketView{}, fault.Missing("variant_id", variant, "There is no variant %d.", variant)
		}
		if add, err = scanned(s, tx, v, lot, add, till.Branch); err != nil {
			return BasketView{}, err
		}
		if err := till.Begin(tx, who.ID, s.Now()); err != nil {
			return BasketView{}, err
		}
		return addAll(s, tx, till, v, add, known)
	})
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
func forCredit(s *deed.Shop, tx store.Tx, register uint64, typed string) (BasketView, error) {
	_, code, err := sale.ReadCredit(typed)
	if err != nil {
		return BasketView{}, err
	}
	if _, err := storetill.ReadVoucher(tx.Q, code); err != nil {
		return BasketView{}, err
	}
	view, err := viewBasket(s, tx.Q, register)
	view.Credit = code
	return view, err
}

// addAll puts something into a basket: one line, or as many as it takes.
func addAll(s *deed.Shop, tx store.Tx, till storetill.Till, v goods.Sellable, add sale.Adding,
	known seen) (BasketView, error) {
	all, err := v.OneByOne(add.Quantity, add.Serial)
	if err != nil {
		return BasketView{}, err
	}
	for _, one := range all[:len(all)-1] {
		one.Pack, one.Lot, one.Amount, one.Condition = add.Pack, add.Lot, add.Amount, add.Condition
		touched, err := till.Add(v, one, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		if touched.Line.ID, err = storetill.KeepLine(tx, till.BasketID, touched.Line); err != nil {
			return BasketView{}, err
		}
		till.Lines = append(till.Lines, touched.Line)
	}
	last := all[len(all)-1]
	last.Pack, last.Lot, last.Amount, last.Condition = add.Pack, add.Lot, add.Amount, add.Condition
	touched, err := till.Add(v, last, s.Now())
	if err != nil {
		return BasketView{}, err
	}
	if len(all) > 1 {
		touched.Says = fmt.Sprintf("%s: %d added.", v.FullName(), len(all))
	}
	return keepSeen(s, tx, till, touched, known)
}

// lotSaid is a lot as a code, or a person, says it.
type lotSaid struct {
	number string
	expiry *time.Time
}

// scanned finds the lot that was said and the condition of serial numbers, and refuses one, or numbers, that
// can't be sold here.
func scanned(s *deed.Shop, tx store.Tx, v goods.Sellable, lot lotSaid, add sale.Adding,
	branch uint64) (sale.Adding, error) {
	var expiry time.Time
	if lot.expiry != nil {
		expiry = *lot.expiry
	}
	if lot.number == "" && expiry.IsZero() && (add.Serial == "" || v.Tracking != stock.BySerial) {
		return add, nil
	}
	set, err := tx.Terms()
	if err != nil {
		return add, err
	}
	numbers := serial.Kept(add.Serial)
	held, err := book.Known(tx.Q, []uint64{v.ID}, numbers)
	if err != nil {
		return add, err
	}
	if add.Condition, err = sale.ScannedUnits(held, v, add.Condition, numbers, branch); err != nil {
		return add, err
	}
	from := sale.BasketLine{Condition: add.Condition}.From()
	add.Lot, err = sale.ScannedLot(held, v, from, lot.number, expiry, branch, set.Day(s.Now()))
	return add, err
}

// openTill reads a register for a deed of somebody who works there.
func openTill(tx store.Tx, who staff.Actor, register, basket uint64) (storetill.Till, error) {
	till, err := storetill.OpenTill(tx, register, basket)
	if err != nil {
		return till, err
	}
	return till, who.At(till.Branch, till.At)
}

// keep writes what became of a line and shows the basket, which is what the till knows with that line.
func keep(s *deed.Shop, tx store.Tx, till storetill.Till, touched sale.Touched) (BasketView, error) {
	known, err := see(s, tx, till, variantsOf(till.With(touched.Line).Lines))
	if err != nil {
		return BasketView{}, err
	}
	return keepSeen(s, tx, till, touched, known)
}

// seen is what is read to show a basket: how its goods stand, and what is around its register.
type seen struct {
	book.Standing
	around *storetill.Around
}

// see reads what is needed to show a basket with these goods, in one round trip.
func see(s *deed.Shop, tx store.Tx, till storetill.Till, variants []uint64) (seen, error) {
	around, parts, err := storetill.AroundAt(tx.Q, till.Branch)
	if err != nil {
		return seen{}, err
	}
	stand, err := book.Stand(tx.Q, variants, s.Now(), parts...)
	return seen{stand, around}, err
}

// keepSeen is keep where what is needed to show the basket was read.
func keepSeen(s *deed.Shop, tx store.Tx, till storetill.Till, touched sale.Touched, known seen) (BasketView, error) {
	line, err := storetill.KeepLine(tx, till.BasketID, touched.Line)
	if err != nil {
		return BasketView{}, err
	}
	set, err := tx.Terms()
	if err != nil {
		return BasketView{}, err
	}
	touched.Line.ID = line
	view, err := viewAt(s, tx.Q, set, till.Register,
		storetill.At{ID: till.BasketID, Basket: till.With(touched.Line), Backs: till.Backs,
			Around: *known.around}, &known.Standing)
	view.Said, view.Line, view.Before = touched.Says, line, &touched.Before
	return view, err
}

// meantAt shows the basket with what a code that is not of one variant may have meant.
func meantAt(s *deed.Shop, tx store.Tx, register uint64, meant scan.Scanned) (BasketView, error) {
	view, err := viewBasket(s, tx.Q, register)
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

// PutOnList puts a basket on a price list: its lines cost what they cost there, at
// the moment they were scanned.
func PutOnList(ctx context.Context, s *deed.Shop, who staff.Actor, key string,
	register, list uint64) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (BasketView, error) {
		tx = tx.Steady()
		till, err := openTill(tx, who, register, 0)
		if err != nil {
			return BasketView{}, err
		}
		lists, err := prices.PriceLists(tx.Q)
		if err != nil {
			return BasketView{}, err
		}
		at := slices.IndexFunc(lists, func(l price.List) bool { return l.ID == list })
		if at < 0 {
			return BasketView{}, fault.Missing("price_list_id", list, "There is no price list %d.", list)
		}
		ids := make([]uint64, len(till.Lines))
		for i, l := range till.Lines {
			ids[i] = l.Variant
		}
		found, err := goods.Sellables(tx.Q, ids, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		lines, err := till.PutOn(list, found)
		if err != nil {
			return BasketView{}, err
		}
		if err := till.Begin(tx, who.ID, s.Now()); err != nil {
			return BasketView{}, err
		}
		if err := storetill.PutOn(tx, till.BasketID, list, lines); err != nil {
			return BasketView{}, err
		}
		view, err := viewBasket(s, tx.Q, register)
		view.Said = "At the prices of " + lists[at].Name + "."
		return view, err
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
func ChangeBasketLine(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register, line uint64,
	in BasketChange) (BasketView, error) {
	by, err := deed.Approver(ctx, s, in.Approval)
	if err != nil {
		return BasketView{}, err
	}
	return deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (BasketView, error) {
		tx = tx.Steady()
		till, err := openTill(tx, who, register, 0)
		if err != nil {
			return BasketView{}, err
		}
		l, err := till.Line(line)
		if err != nil {
			return BasketView{}, err
		}
		found, err := goods.Sellables(tx.Q, []uint64{l.Variant}, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		v := found[l.Variant]
		ask := deed.Asks(s, who, by)
		change, err := in.read(tx, ask, v, l)
		if err != nil {
			return BasketView{}, err
		}
		touched, err := till.Change(v, line, change)
		if err != nil {
			return BasketView{}, err
		}
		if in.Lot != nil && *in.Lot != 0 {
			if err := lotHere(s, tx, v, touched.Line, till.Branch); err != nil {
				return BasketView{}, err
			}
		}
		if err := ask.Keep(tx, till.Register, till.BasketID, 0); err != nil {
			return BasketView{}, err
		}
		return keep(s, tx, till, touched)
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
		off, err := readOff(set, ask, reasons, *in.Off, in.OffFor, v.FullName(), sale.Asked(v, l, out))
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

// readOff reads a discount on an amount, with its reason, and asks for one that is beyond what
// everybody may give.
func readOff(set terms.Terms, ask *deed.Asking, reasons []reason.Reason, typed string, why uint64, what string,
	amount decimal.Decimal) (sale.Off, error) {
	off, err := sale.ReadOff(typed, set.Minor())
	if err != nil || off.Kind == sale.NoOff {
		return off, err
	}
	r, err := reason.Find(reasons, reason.GivenOff, why)
	if err != nil {
		return off, fault.Of(err).In("off_reason_id")
	}
	off.Reason = r.ID
	if err := off.Fits(amount, set.Minor()); err != nil {
		return off, err
	}
	if off.Beyond(set.Till.OffLimit, amount, set.Minor()) {
		said := off.Says(set.Minor()) + " off " + what
		ask.Note(staff.DeedOffMore, said)
		return off, ask.May(staff.DeedOffMore, said)
	}
	return off, nil
}

// lotHere refuses a lot that can't be sold at a branch.
func lotHere(s *deed.Shop, tx store.Tx, v goods.Sellable, l sale.BasketLine, branch uint64) error {
	set, err := tx.Terms()
	if err != nil {
		return err
	}
	held, err := book.Look(tx.Q, []uint64{v.ID})
	if err != nil {
		return err
	}
	for _, choice := range sale.LotsAt(held, v.ID, branch, l.From(), set.Day(s.Now())) {
		if choice.ID == l.Lot {
			return nil
		}
	}
	return fault.Refuse("lot_id", l.Lot, "a lot that is for sale here", "That lot of %s is not for sale here.",
		v.FullName())
}

// DropBasket gives up the basket of a register.
func DropBasket(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, "", func(tx store.Tx) (BasketView, error) {
		tx = tx.Steady()
		if _, err := openTill(tx, who, register, 0); err != nil {
			return BasketView{}, err
		}
		t, err := storetill.CurrentBasket(tx.Q, register)
		if err != nil {
			return BasketView{}, err
		}
		if t.ID != 0 {
			if err := storetill.DropBasket(tx, t.ID); err != nil {
				return BasketView{}, err
			}
		}
		return viewBasket(s, tx.Q, register)
	})
}
