package register

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/prices"
	"itemrack/store/trade"
)

// BasketLineView is a line of a basket as it is shown. Here is what is for sale
// at the register's branch, Elsewhere at the others.
type BasketLineView struct {
	ID        uint64          `json:"id"`
	Variant   uint64          `json:"variant_id"`
	Product   uint64          `json:"product_id"`
	Name      string          `json:"name"`
	Detail    string          `json:"detail"`
	SKU       string          `json:"sku"`
	Unit      string          `json:"unit"`
	Decimals  int32           `json:"decimals"`
	Tracking  stock.Tracking  `json:"tracking"`
	Pack      string          `json:"pack,omitempty"` // what Quantity counts
	Quantity  decimal.Decimal `json:"quantity"`
	Price     decimal.Decimal `json:"price"`
	Total     decimal.Decimal `json:"total"`
	Serials   []string        `json:"serials"`
	Choices   []string        `json:"choices,omitempty"` // serial numbers for sale here
	Lots      []string        `json:"lots,omitempty"`    // proposed, in words
	Here      decimal.Decimal `json:"here"`
	Elsewhere decimal.Decimal `json:"elsewhere"`
	Short     string          `json:"short,omitempty"` // why it can't be sold as it stands
}

// BasketView is a basket as it is shown: lines and totals are computed by the same
// rules that post the sale. Notes are amounts in cash that the customer may hand over.
type BasketView struct {
	ID       uint64            `json:"id"`
	Register uint64            `json:"register_id"`
	List     uint64            `json:"price_list_id"`
	Lines    []BasketLineView  `json:"lines"`
	Totals   sale.Totals       `json:"totals"`
	Notes    []decimal.Decimal `json:"notes"`
	Said     string            `json:"said,omitempty"`
	Line     uint64            `json:"line_id,omitempty"` // the line that was touched
	Before   *decimal.Decimal  `json:"before,omitempty"`  // its quantity before
	Pick     *goods.Found      `json:"pick,omitempty"`    // a product whose variant is to be chosen
	Offers   []goods.Found     `json:"offers,omitempty"`  // products that words found
	Receipt  string            `json:"receipt,omitempty"` // a sale whose receipt was scanned
}

// Basket reads the basket that a register is at.
func Basket(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64) (BasketView, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return BasketView{}, err
	}
	return viewBasket(s, s.Store.Read(ctx), register)
}

// Change works out the change for the basket that a register is at, or what the cash is
// short of it.
func Change(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64, cash string) (sale.Left, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return sale.Left{}, err
	}
	q := s.Store.Read(ctx)
	set, err := q.Terms()
	if err != nil {
		return sale.Left{}, err
	}
	handed, err := set.Minor().Parse("cash", cash)
	if err != nil {
		return sale.Left{}, err
	}
	view, err := viewBasket(s, q, register)
	return sale.LeftOf(view.Totals.Gross, handed), err
}

// viewBasket works out the basket that a register is at, as it is shown.
func viewBasket(s *deed.Shop, q store.Q, register uint64) (BasketView, error) {
	view := BasketView{Register: register, Lines: []BasketLineView{}, Notes: []decimal.Decimal{}, Totals: sale.Sum(nil)}
	set, err := q.Terms()
	if err != nil {
		return view, err
	}
	var basket sale.Basket
	if view.ID, basket, err = trade.Lines(q, register); err != nil {
		return view, err
	}
	view.List = basket.List
	if len(basket.Lines) == 0 {
		return view, nil
	}
	at, err := trade.ReadRegister(q, register)
	if err != nil {
		return view, err
	}
	ids := make([]uint64, len(basket.Lines))
	for i, l := range basket.Lines {
		ids[i] = l.Variant
	}
	found, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return view, err
	}
	parts, err := goods.Bundled(q, found)
	if err != nil {
		return view, err
	}
	for _, list := range parts {
		for _, p := range list {
			ids = append(ids, p.Variant)
		}
	}
	held, err := book.Look(q, ids)
	if err != nil {
		return view, err
	}
	var sums []sale.Line
	needs := sale.NewNeeds(held, at.BranchID, set.Day(s.Now()))
	for _, l := range basket.Lines {
		v := found[l.Variant]
		line := v.Line(l)
		sums = append(sums, line)
		units, pack, err := v.Units(l)
		there := sale.Supplied(v, l, units, parts[v.ID], needs)
		if err != nil {
			there.Short = err.Error()
		}
		row := BasketLineView{
			ID:        l.ID,
			Variant:   v.ID,
			Product:   v.ProductID,
			Name:      v.Name,
			Detail:    v.Label,
			SKU:       v.SKU,
			Unit:      v.Unit.Code,
			Decimals:  v.Unit.Decimals,
			Tracking:  v.Tracking,
			Pack:      pack.Name,
			Quantity:  l.Quantity,
			Price:     l.Price,
			Total:     line.Total(),
			Serials:   serial.Kept(l.Serial),
			Choices:   there.Choices,
			Lots:      there.Lots,
			Here:      there.Here,
			Elsewhere: there.Elsewhere,
			Short:     there.Short,
		}
		if there.Numbered {
			row.Tracking = stock.BySerial // its number is chosen on the line
		}
		view.Lines = append(view.Lines, row)
	}
	view.Totals = sale.Sum(sums)
	view.Notes = set.Currency.Notes(view.Totals.Gross)
	return view, nil
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
}

// AddToBasket scans or picks something onto the basket of a register. Words
// that find products come back as offers; nothing is added then.
func AddToBasket(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register uint64,
	in BasketAdd) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (BasketView, error) {
		tx = tx.Steady()
		till, err := openTill(tx, who, register, 0)
		if err != nil {
			return BasketView{}, err
		}
		if err := till.Sells(); err != nil {
			return BasketView{}, err
		}
		add := sale.Adding{Pack: in.Pack, Quantity: in.Quantity}
		if add.Serial, err = serial.Typed(in.Serial); err != nil {
			return BasketView{}, err
		}
		variant, lot := in.Variant, lotSaid{number: in.Lot}
		if variant == 0 {
			meant, err := scan.Read(tx.Q, in.Code, 20)
			if err != nil {
				return BasketView{}, err
			}
			if !meant.One() {
				return meantAt(s, tx, register, meant)
			}
			if variant, add, err = meant.Adding(add); err != nil {
				return BasketView{}, err
			}
			lot = lotSaid{meant.Found[0].Lot, meant.Found[0].Expiry}
		}
		found, err := goods.Sellables(tx.Q, []uint64{variant}, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		v, ok := found[variant]
		if !ok {
			return BasketView{}, fault.Missing("variant_id", variant, "There is no variant %d.", variant)
		}
		if add.Lot, err = scanned(s, tx, v, lot, add.Serial, till.Branch); err != nil {
			return BasketView{}, err
		}
		if err := till.Begin(tx, who.ID, s.Now()); err != nil {
			return BasketView{}, err
		}
		return addAll(s, tx, till, v, add)
	})
}

// addAll puts something into a basket: one line, or as many as it takes.
func addAll(s *deed.Shop, tx store.Tx, till trade.Till, v goods.Sellable, add sale.Adding) (BasketView, error) {
	all, err := v.OneByOne(add.Quantity, add.Serial)
	if err != nil {
		return BasketView{}, err
	}
	for _, one := range all[:len(all)-1] {
		one.Pack, one.Lot, one.Amount = add.Pack, add.Lot, add.Amount
		touched, err := till.Add(v, one, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		if touched.Line.ID, err = trade.KeepLine(tx, till.BasketID, touched.Line); err != nil {
			return BasketView{}, err
		}
		till.Lines = append(till.Lines, touched.Line)
	}
	last := all[len(all)-1]
	last.Pack, last.Lot, last.Amount = add.Pack, add.Lot, add.Amount
	touched, err := till.Add(v, last, s.Now())
	if err != nil {
		return BasketView{}, err
	}
	if len(all) > 1 {
		touched.Says = fmt.Sprintf("%s: %d added.", v.FullName(), len(all))
	}
	return keep(s, tx, till, touched)
}

// lotSaid is a lot as a code, or a person, says it.
type lotSaid struct {
	number string
	expiry *time.Time
}

// scanned finds the lot that was said, and refuses one, or serial numbers, that can't be
// sold here.
func scanned(s *deed.Shop, tx store.Tx, v goods.Sellable, lot lotSaid, numbers string, branch uint64) (uint64, error) {
	var expiry time.Time
	if lot.expiry != nil {
		expiry = *lot.expiry
	}
	if lot.number == "" && expiry.IsZero() && (numbers == "" || v.Tracking != stock.BySerial) {
		return 0, nil
	}
	set, err := tx.Terms()
	if err != nil {
		return 0, err
	}
	held, err := book.Known(tx.Q, []uint64{v.ID}, serial.Kept(numbers))
	if err != nil {
		return 0, err
	}
	for _, n := range serial.Kept(numbers) {
		if err := sale.ScannedUnit(held, v, n, branch); err != nil {
			return 0, err
		}
	}
	return sale.ScannedLot(held, v, lot.number, expiry, branch, set.Day(s.Now()))
}

// openTill reads a register for a deed of somebody who works there.
func openTill(tx store.Tx, who staff.Actor, register, basket uint64) (trade.Till, error) {
	till, err := trade.OpenTill(tx, register, basket)
	if err != nil {
		return till, err
	}
	return till, who.At(till.Branch, till.At)
}

// keep writes what became of a line and shows the basket.
func keep(s *deed.Shop, tx store.Tx, till trade.Till, touched sale.Touched) (BasketView, error) {
	line, err := trade.KeepLine(tx, till.BasketID, touched.Line)
	if err != nil {
		return BasketView{}, err
	}
	view, err := viewBasket(s, tx.Q, till.Register)
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
	case found[0].Kind == "document":
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
		if err := trade.PutOn(tx, till.BasketID, list, lines); err != nil {
			return BasketView{}, err
		}
		view, err := viewBasket(s, tx.Q, register)
		view.Said = "At the prices of " + lists[at].Name + "."
		return view, err
	})
}

// BasketChange changes a line: a quantity of 0 removes it.
type BasketChange struct {
	Quantity string  `json:"quantity"`
	Serial   *string `json:"serial"`
}

// ChangeBasketLine changes the quantity or serial number of a line.
func ChangeBasketLine(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register, line uint64,
	in BasketChange) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (BasketView, error) {
		tx = tx.Steady()
		till, err := openTill(tx, who, register, 0)
		if err != nil {
			return BasketView{}, err
		}
		var ids []uint64
		for _, l := range till.Lines {
			if l.ID == line {
				ids = append(ids, l.Variant)
			}
		}
		found, err := goods.Sellables(tx.Q, ids, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		var v goods.Sellable
		for _, one := range found {
			v = one
		}
		if in.Serial != nil {
			kept, err := serial.Typed(*in.Serial)
			if err != nil {
				return BasketView{}, err
			}
			in.Serial = &kept
		}
		touched, err := till.Change(v, line, text.Or(in.Quantity, ""), in.Serial)
		if err != nil {
			return BasketView{}, err
		}
		return keep(s, tx, till, touched)
	})
}

// DropBasket gives up the basket of a register.
func DropBasket(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, "", func(tx store.Tx) (BasketView, error) {
		tx = tx.Steady()
		if _, err := openTill(tx, who, register, 0); err != nil {
			return BasketView{}, err
		}
		t, err := trade.CurrentBasket(tx.Q, register)
		if err != nil {
			return BasketView{}, err
		}
		if t.ID != 0 {
			if err := trade.DropBasket(tx, t.ID); err != nil {
				return BasketView{}, err
			}
		}
		return viewBasket(s, tx.Q, register)
	})
}
