package register

import (
	"fmt"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/scan"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	readScan "itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	storetill "itemrack/store/till"
)

// BackInput puts something that comes back on the basket: of a line of a sale, or without a receipt.
type BackInput struct {
	Sale      string         `json:"sale"`
	Line      int            `json:"line"`
	Variant   uint64         `json:"variant_id"`
	Quantity  string         `json:"quantity"`
	Condition string         `json:"condition"`
	Serials   string         `json:"serials"`
	Price     string         `json:"price"`
	Cost      string         `json:"cost"`
	Lot       uint64         `json:"lot_id"`
	Amount    string         `json:"amount"`
	Approval  *deed.Approval `json:"approval"`
}

// BringBack puts something that comes back on the basket of a register, to be exchanged or refunded
// with it.
func BringBack(do deed.Deed, register uint64, in []BackInput) (BasketView, error) {
	if err := do.Who.May(staff.DeedReturn); err != nil {
		return BasketView{}, err
	}
	var by staff.Actor
	for _, one := range in {
		if one.Approval != nil && by.ID == 0 {
			var err error
			if by, err = deed.Approver(do.Ctx, do.Shop, one.Approval); err != nil {
				return BasketView{}, err
			}
		}
	}
	return atBasket(do, register, func(tx store.Tx, till *storetill.Till) (string, error) {
		if err := till.Sells(); err != nil {
			return "", err
		}
		ask, put := deed.Asks(do.Shop, do.Who, by), 0
		for _, one := range in {
			if strings.TrimSpace(one.Quantity+one.Amount) == "" {
				continue
			}
			back := storetill.Back{Sale: one.Sale, Line: one.Line, Variant: one.Variant, Quantity: one.Quantity,
				Condition: one.Condition, Serials: one.Serials, Price: one.Price, Cost: one.Cost, Lot: one.Lot,
				Amount: one.Amount}
			document, err := putBack(do.In(tx), ask, till, &back)
			if err != nil {
				return "", err
			}
			if err := storetill.AddBack(tx, till.BasketID, document, back); err != nil {
				return "", err
			}
			till.Backs = append(till.Backs, back)
			put++
		}
		if put == 0 {
			return "", fault.Field("lines", "", "a quantity on at least one line", "Say how many of what came back.")
		}
		return fmt.Sprintf("%d back on the basket.", put), ask.Keep(tx, till.Register, till.BasketID, 0)
	})
}

// putBack works out what comes back with all that is on the basket already, so that nothing comes
// back twice, and returns the document of its sale.
func putBack(do deed.Deed, ask *deed.Asking, till *storetill.Till, back *storetill.Back) (uint64, error) {
	var sold storetill.SaleView
	group := []storetill.Back{*back}
	if back.Sale != "" {
		var err error
		if sold, err = storetill.SaleByNumber(do.Tx.Q, back.Sale); err != nil {
			return 0, err
		}
		back.Sale = sold.Number
		for _, l := range sold.Lines {
			if l.Line == back.Line {
				back.Variant = l.VariantID
			}
		}
		group = append(backsOf(till.Backs, sold.Number), *back)
	}
	r, _, err := look(do.Shop, do.Tx.Q, till.Branch).of(sold, group)
	if err != nil {
		return 0, err
	}
	if back.Sale != "" && strings.TrimSpace(back.Quantity) != "" {
		return sold.DocumentID, nil
	}
	return sold.DocumentID, askBack(do, ask, r)
}

// askBack asks for a yes to what comes back without a receipt, and to money for goods that the customer keeps.
func askBack(do deed.Deed, ask *deed.Asking, r *sale.Returning) error {
	set, err := do.Tx.Terms()
	if err != nil {
		return err
	}
	for _, wanted := range r.Wants(set.Currency) {
		if err := ask.May(wanted.Deed, wanted.What); err != nil {
			return err
		}
	}
	return nil
}

// backsOf are those of what comes back that were sold on a sale.
func backsOf(backs []storetill.Back, number string) []storetill.Back {
	var list []storetill.Back
	for _, b := range backs {
		if scan.Document(b.Sale) == number {
			list = append(list, b)
		}
	}
	return list
}

// look works out what comes back to be shown, without a lock or a number.
func look(s *deed.Shop, q store.Q, branch uint64) coming {
	return coming{shop: s, q: q, branch: branch, hold: func(variants []uint64, serials []string) (stock.Holding, error) {
		return book.Known(q, variants, serials)
	}}
}

// DropBack takes something that comes back off the basket of a register.
func DropBack(do deed.Deed, register, back uint64) (BasketView, error) {
	return atBasket(do.Under(""), register, func(tx store.Tx, till *storetill.Till) (string, error) {
		there, err := storetill.DropBack(tx, till.BasketID, back)
		if err == nil && !there {
			err = fault.Missing("back", back, "That is not on the basket any more.")
		}
		return "Taken off.", err
	})
}

// BackView is something that comes back on a basket, as it is shown.
type BackView struct {
	ID        uint64          `json:"id"`
	Sale      string          `json:"sale"`
	Name      string          `json:"name"`
	Detail    string          `json:"detail"`
	Quantity  decimal.Decimal `json:"quantity"`
	Condition string          `json:"condition"`
	Serials   []string        `json:"serials"`
	Amount    decimal.Decimal `json:"amount"`
	Short     string          `json:"short,omitempty"` // why it can't come back as it stands
}

// ToTakeBack is what a scan means that may come back: a sale, or a variant without a receipt, with
// its serial number and what is given back for each where nothing else is said.
type ToTakeBack struct {
	Sale    string           `json:"sale"`
	Variant uint64           `json:"variant_id"`
	Name    string           `json:"name"`
	Serial  string           `json:"serial"`
	Lowest  *decimal.Decimal `json:"lowest"` // of the last 90 days; null where there is none
	Offers  []goods.Found    `json:"offers"`
}

// FindBack finds what may come back by a receipt's number, a serial number, or a code or words of
// goods that have no receipt.
func FindBack(do deed.Deed, typed string) (ToTakeBack, error) {
	none := ToTakeBack{Offers: []goods.Found{}}
	if err := do.Who.May(staff.DeedReturn); err != nil {
		return none, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	meant, err := readScan.Read(q, typed, 20)
	if err != nil {
		return none, err
	}
	for _, f := range meant.Found {
		if f.Kind == "document" && f.Name == string(stock.Sale) {
			none.Sale = f.Code
			return none, nil
		}
	}
	if !meant.One() {
		if len(meant.Found) == 0 || meant.Found[0].Kind != "product" && meant.Found[0].Kind != "variant" {
			return none, fault.Missing("sale", typed, "There is no sale %s, and no product is called so.", typed)
		}
		none.Offers = meant.Found
		return none, nil
	}
	f := meant.Found[0]
	if f.Serial != "" {
		if none.Sale, err = storetill.SaleOfNumber(q, f.ID, f.Serial); err != nil || none.Sale != "" {
			none.Serial = f.Serial
			return none, err
		}
	}
	return withoutReceipt(do.Shop, q, f.ID, f.Serial)
}

// WithoutReceipt is a variant that comes back without a receipt.
func WithoutReceipt(do deed.Deed, variant uint64) (ToTakeBack, error) {
	if err := do.Who.May(staff.DeedReturn); err != nil {
		return ToTakeBack{}, err
	}
	return withoutReceipt(do.Shop, do.Shop.Store.Read(do.Ctx), variant, "")
}

// LotsBack lists, for each line of a sale that took several lots, those that may come back.
func LotsBack(do deed.Deed, v storetill.SaleView) (map[int][]sale.LotChoice, error) {
	if err := do.Who.May(staff.DeedReturn); err != nil {
		return nil, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	out, err := storetill.LotsOut(q, v.DocumentID)
	if err != nil || len(out) == 0 {
		return nil, err
	}
	var variants []uint64
	for _, lots := range out {
		for _, o := range lots {
			variants = append(variants, o.Variant)
		}
	}
	held, err := book.Look(q, variants)
	if err != nil {
		return nil, err
	}
	return sale.LotsBack(out, held), nil
}

// withoutReceipt is a variant that comes back without a receipt.
func withoutReceipt(s *deed.Shop, q store.Q, variant uint64, number string) (ToTakeBack, error) {
	back := ToTakeBack{Variant: variant, Serial: number, Offers: []goods.Found{}}
	found, err := goods.Sellables(q, []uint64{variant}, s.Now())
	if err != nil {
		return back, err
	}
	v, ok := found[variant]
	if !ok {
		return back, fault.Missing("variant_id", variant, "There is no variant %d.", variant)
	}
	back.Name = v.FullName()
	back.Lowest, err = lowestOf(s, q, v)
	return back, err
}

// viewBacks works out what comes back on a basket, and what is given back for it.
func viewBacks(s *deed.Shop, q store.Q, view *BasketView, backs []storetill.Back, branch uint64) error {
	ids := make([]uint64, len(backs))
	for i, b := range backs {
		ids[i] = b.Variant
	}
	found, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return err
	}
	for _, group := range groups(backs) {
		var sold storetill.SaleView
		if group[0].Sale != "" {
			if sold, err = storetill.SaleByNumber(q, group[0].Sale); err != nil {
				return err
			}
		}
		before := decimal.Zero
		for i, b := range group {
			row := BackView{ID: b.ID, Sale: b.Sale, Name: found[b.Variant].Name, Detail: found[b.Variant].Label,
				Condition: text.Or(b.Condition, string(stock.ToLookOver)), Serials: serial.Kept(b.Serials)}
			r, _, err := look(s, q, branch).of(sold, group[:i+1])
			switch {
			case fault.Of(err) != nil:
				row.Short = err.Error()
			case err != nil:
				return err
			default:
				last := r.Rows[len(r.Rows)-1]
				row.Quantity, row.Amount, row.Serials = last.Quantity, r.Sum.Amount.Sub(before), last.Serials
				before = r.Sum.Amount
			}
			view.Backs = append(view.Backs, row)
		}
		view.Refund = view.Refund.Add(before)
		if sold.DocumentID == 0 {
			continue
		}
		left, err := storetill.LeftOf(q, sold.DocumentID)
		if err != nil {
			return err
		}
		off := new(sale.Refunding).Of(before, left, sale.AsPaid).Of(sale.OnAccount).Neg()
		view.offAccount = view.offAccount.Add(off)
	}
	return nil
}
