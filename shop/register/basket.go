package register

import (
	"context"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/tax"
	coretext "itemrack/core/text"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
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

// BasketView is a basket as it is shown: lines and totals are computed by the
// same rules that post the sale.
type BasketView struct {
	ID       uint64           `json:"id"`
	Register uint64           `json:"register_id"`
	List     uint64           `json:"price_list_id"`
	Lines    []BasketLineView `json:"lines"`
	Totals   sale.Totals      `json:"totals"`
	Said     string           `json:"said,omitempty"`
	Line     uint64           `json:"line_id,omitempty"` // the line that was touched
	Before   *decimal.Decimal `json:"before,omitempty"`  // its quantity before
	Pick     *goods.Found     `json:"pick,omitempty"`    // a product whose variant is to be chosen
	Offers   []goods.Found    `json:"offers,omitempty"`  // products that words found
	Receipt  string           `json:"receipt,omitempty"` // a sale whose receipt was scanned
}

// Basket reads the basket that a register is at.
func Basket(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64) (BasketView, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return BasketView{}, err
	}
	q := s.Store.Read(ctx)
	t, err := trade.CurrentBasket(q, register)
	if err != nil {
		return BasketView{}, err
	}
	return viewBasket(s, q, t, register)
}

func viewBasket(s *deed.Shop, q store.Q, t trade.Basket, register uint64) (BasketView, error) {
	basket := t.ID
	view := BasketView{ID: basket, Register: register, List: max(t.PriceListID, price.Regular), Lines: []BasketLineView{}, Totals: sale.Sum(nil)}
	if basket == 0 {
		return view, nil
	}
	at, err := trade.ReadRegister(q, register)
	if err != nil {
		return view, err
	}
	lines, err := trade.BasketLines(q, basket)
	if err != nil {
		return view, err
	}
	ids := make([]uint64, len(lines))
	for i, l := range lines {
		ids[i] = l.VariantID
	}
	found, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return view, err
	}
	parts, err := bundledIn(q, found, at.BranchID)
	if err != nil {
		return view, err
	}
	look := ids
	for _, list := range parts {
		for _, p := range list {
			look = append(look, p.Variant)
		}
	}
	held, err := book.Look(q, look)
	if err != nil {
		return view, err
	}
	classes, err := prices.TaxClasses(q)
	if err != nil {
		return view, err
	}
	percent := tax.Percents(classes, s.Now())
	var sums []sale.Line
	asked := map[uint64]decimal.Decimal{}
	for _, l := range lines {
		v := found[l.VariantID]
		line := sale.Line{Quantity: l.Quantity, Price: l.Price, Percent: percent[v.TaxClass], Untaxed: q.Basis() == tax.Without}
		sums = append(sums, line)
		units, pack := l.Quantity, ""
		if l.PackID != nil {
			if p, ok := v.Pack(*l.PackID); ok {
				units, pack = l.Quantity.Mul(p.Factor), p.Name
			}
		}
		row := BasketLineView{ID: l.ID, Variant: v.ID, Product: v.ProductID, Name: v.Name, Detail: v.Label, SKU: v.SKU, Unit: v.Unit.Code, Decimals: v.Unit.Decimals,
			Tracking: v.Tracking, Pack: pack, Quantity: l.Quantity, Price: l.Price, Total: line.Total(), Serials: serial.Kept(l.Serials)}
		asked[v.ID] = asked[v.ID].Add(units)
		if v.Bundle {
			bundleStock(s, &row, held, at.BranchID, parts[v.ID])
		} else {
			lineStock(s, &row, held, at.BranchID, asked[v.ID])
		}
		view.Lines = append(view.Lines, row)
	}
	view.Totals = sale.Sum(sums)
	return view, nil
}

// lineStock fills in what is here and elsewhere, the lots or numbers that will
// be taken, and what is in the way of selling.
func lineStock(s *deed.Shop, row *BasketLineView, held stock.Holding, branch uint64, asked decimal.Decimal) {
	if row.Tracking == stock.NotStocked {
		return
	}
	row.Here = held.OnHand(row.Variant, branch, stock.ForSale)
	row.Elsewhere = held.OnHand(row.Variant, 0, stock.ForSale).Sub(row.Here)
	if row.Tracking == stock.BySerial {
		for name, u := range held.Units {
			if name.Variant == row.Variant && u.Key.Condition == stock.ForSale && held.Shelves[u.Key.Shelf].Branch == branch {
				row.Choices = append(row.Choices, name.Serial)
			}
		}
		slices.Sort(row.Choices)
		if len(row.Serials) == 0 {
			row.Short = "Choose its serial number."
		}
		return
	}
	takes, err := held.Pick(stock.Want{Variant: row.Variant, Branch: branch, Condition: stock.ForSale, Quantity: asked, Day: s.Today()})
	if err != nil {
		row.Short = err.Error()
		return
	}
	for _, t := range takes {
		if lot, ok := held.Lots[t.Key.Lot]; ok {
			text := "Lot " + lot.Number
			if !lot.Expiry.IsZero() {
				text += ", use by " + lot.Expiry.Format("2 Jan 2006")
			}
			row.Lots = append(row.Lots, text)
		}
	}
}

// bundledIn reads what is in the bundles among some variants.
func bundledIn(q store.Q, found map[uint64]goods.Sellable, branch uint64) (map[uint64][]goods.PartView, error) {
	var bundles []uint64
	for _, v := range found {
		if v.Bundle {
			bundles = append(bundles, v.ID)
		}
	}
	return goods.BundleParts(q, bundles, branch)
}

// bundleStock fills in how many of a bundle are made up or its parts allow here,
// and the serial numbers to choose from.
func bundleStock(s *deed.Shop, row *BasketLineView, held stock.Holding, branch uint64, parts []goods.PartView) {
	here, all := make([]catalog.Part, len(parts)), make([]catalog.Part, len(parts))
	need := 0
	for i, p := range parts {
		here[i], all[i] = p.Part, p.Part
		here[i].Available = p.Here
		if p.Tracking != stock.BySerial {
			continue
		}
		need++
		for name, u := range held.Units {
			if name.Variant == p.Variant && u.Key.Condition == stock.ForSale && held.Shelves[u.Key.Shelf].Branch == branch {
				row.Choices = append(row.Choices, name.Serial)
			}
		}
	}
	slices.Sort(row.Choices)
	if need > 0 {
		row.Tracking = stock.BySerial // its number is chosen on the line
	}
	made := held.OnHand(row.Variant, branch, stock.ForSale)
	row.Here = made.Add(catalog.Available(here))
	row.Elsewhere = decimal.Max(decimal.Zero, held.OnHand(row.Variant, 0, stock.ForSale).Add(catalog.Available(all)).Sub(row.Here))
	switch {
	case row.Here.LessThan(row.Quantity):
		row.Short = "Its parts are not all here."
	case len(row.Serials) < need:
		row.Short = "Choose its serial number."
	}
}

// BasketAdd adds to a basket: by Variant, or by Code as it was scanned or typed
// ("12 x 2000000000015" takes twelve).
type BasketAdd struct {
	Code     string           `json:"code"`
	Variant  uint64           `json:"variant_id"`
	Pack     uint64           `json:"pack_id"`
	Quantity string           `json:"quantity"`
	Serial   string           `json:"serial"`
	amount   *decimal.Decimal // on a label of the shop's scale
}

// AddToBasket scans or picks something onto the basket of a register. Words
// that find products come back as offers; nothing is added then.
func AddToBasket(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register uint64, in BasketAdd) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (BasketView, error) {
		at, err := trade.ReadRegister(tx.Q, register)
		if err != nil {
			return BasketView{}, err
		}
		if at.Drawer == 0 {
			return BasketView{}, fault.Refuse("register", register, "an open drawer", "The drawer of %s is not open. Open it with its float first.", at.Name)
		}
		t, err := trade.OpenBasket(tx, register, who.ID, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		if in.Variant == 0 {
			done, view, err := resolve(s, tx, &in, t, register)
			if err != nil || done {
				return view, err
			}
		}
		line, before, said, err := addLine(s, tx, t, in)
		if err != nil {
			return BasketView{}, err
		}
		view, err := viewBasket(s, tx.Q, t, register)
		view.Said, view.Line, view.Before = said, line, &before
		return view, err
	})
}

// resolve finds what a code means. It is done when nothing can be added yet.
func resolve(s *deed.Shop, tx store.Tx, in *BasketAdd, basket trade.Basket, register uint64) (bool, BasketView, error) {
	scan, err := shopscan.ReadScan(tx.Q, in.Code, 20)
	if err != nil {
		return true, BasketView{}, err
	}
	code, found := scan.Code, scan.Found
	if scan.One() {
		in.Variant, in.Serial, in.amount = found[0].ID, found[0].Serial, found[0].Amount
		if scan.Times != "" {
			in.Quantity = scan.Times
		}
		if found[0].Pack != nil {
			in.Pack = *found[0].Pack // the line counts packs
		}
		if found[0].Quantity != nil {
			in.Quantity = scan.Units.String()
		}
		if in.amount != nil && scan.Times != "" {
			return true, BasketView{}, fault.Field("code", in.Code, "each label by itself", "Scan each of the scale's labels by itself.")
		}
		return false, BasketView{}, nil
	}
	view, err := viewBasket(s, tx.Q, basket, register)
	if err != nil {
		return true, view, err
	}
	switch {
	case len(found) == 0:
		return true, view, fault.Missing("code", code, "Nothing here is called %s.", code)
	case found[0].Kind == "document" && found[0].Name == string(stock.Sale):
		view.Receipt = found[0].Code
	case found[0].Kind == "document":
		return true, view, fault.Refuse("code", code, "a product", "%s is a document, not a product.", code)
	case len(found) == 1 && found[0].Kind == "product":
		view.Pick = &found[0]
	default:
		view.Offers = found
	}
	return true, view, nil
}

func addLine(s *deed.Shop, tx store.Tx, basket trade.Basket, in BasketAdd) (line uint64, before decimal.Decimal, said string, err error) {
	found, err := goods.Sellables(tx.Q, []uint64{in.Variant}, s.Now())
	if err != nil {
		return 0, before, "", err
	}
	v, ok := found[in.Variant]
	if !ok {
		return 0, before, "", fault.Missing("variant_id", in.Variant, "There is no variant %d.", in.Variant)
	}
	row := trade.BasketLine{BasketID: basket.ID, VariantID: v.ID, PackID: deed.Reference(in.Pack), Serials: in.Serial, PricedAt: s.Now()}
	if row.Quantity, err = lineQuantity(v, row.PackID, coretext.Or(in.Quantity, "1")); err != nil {
		return 0, before, "", err
	}
	if !row.Quantity.IsPositive() {
		return 0, before, "", fault.Field("quantity", in.Quantity, "1 or more", "A quantity of nothing can't be sold.")
	}
	if err := priceLine(v, &row, basket.PriceListID); err != nil && in.amount == nil {
		return 0, before, "", err
	}
	if in.amount != nil {
		row.Labelled = true
		if row.Quantity, row.Price, err = sale.Labelled(*in.amount, row.Price, v.Unit); err != nil {
			return 0, before, "", err
		}
	}
	lines, err := trade.BasketLines(tx.Q, basket.ID)
	if err != nil {
		return 0, before, "", err
	}
	if len(lines) >= 200 {
		return 0, before, "", fault.Refuse("basket", len(lines), "200 lines or fewer", "The basket is full: it has 200 lines.")
	}
	for _, l := range lines {
		if in.Serial != "" && l.VariantID == v.ID && l.Serials == in.Serial {
			return 0, before, "", fault.Clash("serial", in.Serial, "each number once", "%s No. %s is on the basket already.", v.FullName(), in.Serial)
		}
		if l.VariantID != v.ID || deed.Deref(l.PackID) != in.Pack || v.Tracking == stock.BySerial || v.Bundle || l.Labelled || row.Labelled {
			continue
		}
		again := l // a dated price that began since it was scanned makes a line of its own
		if again.PricedAt = s.Now(); priceLine(v, &again, basket.PriceListID) != nil || !again.Price.Equal(l.Price) {
			continue
		}
		before = l.Quantity
		if l.Quantity, err = lineQuantity(v, l.PackID, l.Quantity.Add(row.Quantity).String()); err != nil {
			return 0, before, "", err
		}
		if err := priceLine(v, &l, basket.PriceListID); err != nil {
			return 0, before, "", err
		}
		return l.ID, before, v.FullName() + ": now " + counted(v, l) + ".", trade.SaveBasketLine(tx, l)
	}
	err = trade.AddBasketLine(tx, &row)
	said = v.FullName() + " added."
	if row.PackID != nil {
		said = v.FullName() + ": " + counted(v, row) + " added."
	}
	return row.ID, before, said, err
}

// counted writes how many a line has: "3", "2 × box of 12".
func counted(v goods.Sellable, l trade.BasketLine) string {
	if l.PackID != nil {
		pack, _ := v.Pack(*l.PackID)
		return l.Quantity.String() + " × " + pack.Name
	}
	return v.Unit.Format(l.Quantity)
}

// PutOnList puts a basket on a price list: its lines cost what they cost there, at
// the moment they were scanned.
func PutOnList(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register, list uint64) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (BasketView, error) {
		t, err := trade.OpenBasket(tx, register, who.ID, s.Now())
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
		lines, err := trade.BasketLines(tx.Q, t.ID)
		if err != nil {
			return BasketView{}, err
		}
		var ids []uint64
		for _, l := range lines {
			ids = append(ids, l.VariantID)
		}
		found, err := goods.Sellables(tx.Q, ids, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		for _, l := range lines {
			if l.Labelled {
				continue // what its label says
			}
			if err := priceLine(found[l.VariantID], &l, list); err != nil {
				return BasketView{}, err
			}
			if err := trade.SaveBasketLine(tx, l); err != nil {
				return BasketView{}, err
			}
		}
		if err := trade.SetBasketList(tx, t.ID, list); err != nil {
			return BasketView{}, err
		}
		t.PriceListID = list
		view, err := viewBasket(s, tx.Q, t, register)
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
func ChangeBasketLine(ctx context.Context, s *deed.Shop, who staff.Actor, key string, register, line uint64, in BasketChange) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (BasketView, error) {
		t, err := trade.OpenBasket(tx, register, who.ID, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		lines, err := trade.BasketLines(tx.Q, t.ID)
		if err != nil {
			return BasketView{}, err
		}
		at := slices.IndexFunc(lines, func(l trade.BasketLine) bool { return l.ID == line })
		if at < 0 {
			return BasketView{}, fault.Missing("line", line, "That line is not on the basket any more.")
		}
		row := lines[at]
		found, err := goods.Sellables(tx.Q, []uint64{row.VariantID}, s.Now())
		if err != nil {
			return BasketView{}, err
		}
		v := found[row.VariantID]
		before := row.Quantity
		if strings.TrimSpace(in.Quantity) != "" {
			if row.Quantity, err = lineQuantity(v, row.PackID, in.Quantity); err != nil {
				return BasketView{}, err
			}
			row.Labelled = false
			if err := priceLine(v, &row, t.PriceListID); err != nil {
				return BasketView{}, err
			}
		}
		if in.Serial != nil {
			row.Serials = strings.TrimSpace(*in.Serial)
			for _, l := range lines {
				if l.ID != row.ID && l.VariantID == row.VariantID && row.Serials != "" && l.Serials == row.Serials {
					return BasketView{}, fault.Clash("serial", row.Serials, "each number once", "%s No. %s is on the basket already.", v.FullName(), row.Serials)
				}
			}
		}
		if err := trade.SaveBasketLine(tx, row); err != nil {
			return BasketView{}, err
		}
		view, err := viewBasket(s, tx.Q, t, register)
		view.Line, view.Before, view.Said = row.ID, &before, v.FullName()+": "+counted(v, row)+"."
		if row.Quantity.IsZero() {
			view.Said = v.FullName() + " taken off."
		}
		return view, err
	})
}

// DropBasket gives up the basket of a register.
func DropBasket(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64) (BasketView, error) {
	return deed.Once(ctx, s, who, staff.DeedSell, "", func(tx store.Tx) (BasketView, error) {
		t, err := trade.CurrentBasket(tx.Q, register)
		if err != nil {
			return BasketView{}, err
		}
		if t.ID != 0 {
			if err := trade.DropBasket(tx, t.ID); err != nil {
				return BasketView{}, err
			}
		}
		return viewBasket(s, tx.Q, trade.Basket{}, register)
	})
}
