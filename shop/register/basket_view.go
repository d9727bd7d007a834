package register

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/customers"
	"itemrack/store/goods"
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
	Carried   decimal.Decimal  `json:"carried"`    // of it, its share of what was given off a basket that it was on before
	PriceList string           `json:"price_list"` // that it has its price of; empty where that is the customer's
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
	ListName string            `json:"price_list"` // its name; empty where that is the customer's
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
	// offAccount is what of Refund comes off what is owed for it, and neither pays for anything here nor goes back.
	offAccount decimal.Decimal
	Notes      []decimal.Decimal `json:"notes"`
	Held       []storetill.Held  `json:"held"` // baskets on hold at the branch
	Said       string            `json:"said,omitempty"`
	Line       uint64            `json:"line_id,omitempty"` // the line that was touched
	Before     *decimal.Decimal  `json:"before,omitempty"`  // its quantity before
	Pick       *goods.Found      `json:"pick,omitempty"`    // a product whose variant is to be chosen
	Offers     []goods.Found     `json:"offers,omitempty"`  // products that words found
	Receipt    string            `json:"receipt,omitempty"` // a sale whose receipt was scanned
	Credit     string            `json:"credit,omitempty"`  // a voucher or store credit whose code was scanned
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
func Basket(do deed.Deed, register uint64) (BasketView, error) {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return BasketView{}, err
	}
	return viewBasket(do.Shop, do.Shop.Store.Read(do.Ctx), register)
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
	view.Due = sale.Due(view.Totals, basket.Vouchers, view.Refund.Sub(view.offAccount))
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
	lists, err := otherLists(q, basket)
	if err != nil {
		return err
	}
	if basket.List != basket.Usual {
		view.ListName = lists[basket.List]
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
			Carried:    l.Shared.Of(lines[i].Asked(), set.Minor()),
			PriceList:  lists[l.List],
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

// otherLists are the names of the lists of a basket that are not its customer's.
func otherLists(q store.Q, basket sale.Basket) (map[uint64]string, error) {
	names := map[uint64]string{}
	other := slices.ContainsFunc(basket.Lines, func(l sale.BasketLine) bool { return l.List != 0 })
	if basket.List == basket.Usual && !other {
		return names, nil
	}
	lists, err := prices.PriceLists(q)
	for _, l := range lists {
		if l.ID != basket.Usual {
			names[l.ID] = l.Name
		}
	}
	return names, err
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
