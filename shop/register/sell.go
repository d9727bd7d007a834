package register

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/tax"
	coretext "itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/store/trade"
)

// SaleLineInput is a line of a sale that is not made through a basket.
type SaleLineInput struct {
	Variant  uint64 `json:"variant_id"`
	Pack     uint64 `json:"pack_id"` // Quantity counts these
	Quantity string `json:"quantity"`
	Serial   string `json:"serial"`
}

// SaleInput asks for a sale at a register: of its basket, or of Lines when
// there is no basket. Cash is what the customer hands over, Card what the card
// terminal is to charge.
type SaleInput struct {
	Register uint64          `json:"register_id"`
	Basket   uint64          `json:"basket_id"`
	List     uint64          `json:"price_list_id"` // of Lines; a basket has its own
	Lines    []SaleLineInput `json:"lines"`
	Cash     string          `json:"cash"`
	Card     string          `json:"card"`
}

// SaleResult is a sale that was posted.
type SaleResult struct {
	Document uint64          `json:"document_id"`
	Number   string          `json:"number"`
	At       time.Time       `json:"at"`
	Total    decimal.Decimal `json:"total"`
	Tax      decimal.Decimal `json:"tax"`
	Handed   decimal.Decimal `json:"handed"`
	Card     decimal.Decimal `json:"card"`
	Change   decimal.Decimal `json:"change"`
	Printer  string          `json:"printer,omitempty"` // what the printer says when it did not print
}

// sellLine is a line ready to be sold: units is the quantity in base units, parts
// what a bundle takes from stock.
type sellLine struct {
	item   goods.Sellable
	line   sale.Line
	units  decimal.Decimal
	pack   goods.Pack
	serial string
	parts  []goods.PartView
}

// Sell posts a sale once, however often it is asked for under the same key. A
// card is charged before and given back if the sale is refused. The receipt is
// printed after; a printer without paper does not undo the sale.
func Sell(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in SaleInput) (SaleResult, error) {
	cash, card := decimal.Zero, decimal.Zero
	var err error
	if strings.TrimSpace(in.Cash) != "" {
		if cash, err = money.Parse("cash", in.Cash); err != nil {
			return SaleResult{}, err
		}
	}
	if strings.TrimSpace(in.Card) != "" {
		if card, err = money.Parse("card", in.Card); err != nil {
			return SaleResult{}, err
		}
	}
	if err := who.May(staff.DeedSell); err != nil {
		return SaleResult{}, err
	}
	reference := ""
	if card.IsPositive() {
		if key == "" {
			return SaleResult{}, fault.Field("Idempotency-Key", "", "a key of its own for each payment", "A card payment needs a request key, so that it is charged once.")
		}
		reference = fmt.Sprintf("sale/%d/%s", who.ID, key)
		if err := device.Charge(ctx, devices.Of(s.Store), reference, card, s.Now()); err != nil {
			return SaleResult{}, err
		}
	}
	first := false
	result, err := deed.Once(ctx, s, who, staff.DeedSell, key, func(tx store.Tx) (SaleResult, error) {
		first = true
		return postSale(s, tx, who, in, cash, card, reference)
	})
	if err != nil {
		if reference != "" && fault.Of(err) != nil {
			if back := device.Return(context.WithoutCancel(ctx), devices.Of(s.Store), reference); back != nil {
				return result, fmt.Errorf("%w; the card could not be given back: %w", err, back)
			}
		}
		return result, err
	}
	if first {
		result.Printer = printSale(ctx, s, result.Number)
	}
	return result, nil
}

func postSale(s *deed.Shop, tx store.Tx, who staff.Actor, in SaleInput, cash, card decimal.Decimal, reference string) (SaleResult, error) {
	register, err := trade.ReadRegister(tx.Q, in.Register)
	if err != nil {
		return SaleResult{}, err
	}
	session, err := trade.ShareDrawer(tx, in.Register)
	if err != nil {
		return SaleResult{}, err
	}
	lines, err := sellLines(s, tx, who, in)
	if err != nil {
		return SaleResult{}, err
	}
	sums := make([]sale.Line, len(lines))
	var variants []uint64
	var serials []string
	for i, l := range lines {
		sums[i] = l.line
		if l.item.Tracking != stock.NotStocked || l.item.Bundle {
			variants = append(variants, l.item.ID)
		}
		for _, p := range l.parts {
			if !p.NotStocked {
				variants = append(variants, p.Variant)
			}
		}
		serials = append(serials, serial.Kept(l.serial)...)
	}
	totals := sale.Sum(sums)
	paid, err := sale.Pay(totals.Gross, cash, card)
	if err != nil {
		return SaleResult{}, err
	}
	held, err := book.Hold(tx, variants, serials)
	if err != nil {
		return SaleResult{}, err
	}
	n, err := book.NextNumber(tx, "sale "+register.Code, 1)
	if err != nil {
		return SaleResult{}, err
	}
	now := s.Now()
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Sale, Number: fmt.Sprintf("%s-%05d", register.Code, n), Branch: register.BranchID, By: who.ID, HappenedAt: now, RecordedAt: now})
	rows := make([]trade.SaleLine, len(lines))
	parts := map[int][]trade.SalePart{}
	cost := decimal.Zero
	for i, l := range lines {
		rows[i] = trade.SaleLine{Line: i + 1, VariantID: l.item.ID, Name: l.item.Name, Detail: l.item.Label, SKU: l.item.SKU, Serials: l.serial,
			Quantity: l.units, Price: l.line.Price, Percent: l.line.Percent, Paid: l.line.Total(), Tax: l.line.Tax(), Pack: l.pack.Name, Factor: decimal.New(1, 0), WithTax: !l.line.Untaxed}
		if l.pack.ID != 0 {
			rows[i].Factor = l.pack.Factor
		}
		want := stock.Want{Line: i + 1, Branch: register.BranchID, Condition: stock.ForSale, Day: s.Today()}
		switch {
		case l.item.Bundle:
			rows[i].Cost, parts[i], err = takeParts(draft, want, l)
		case l.item.Tracking != stock.NotStocked:
			want.Variant, want.Quantity, want.Serials = l.item.ID, l.units, serial.Kept(l.serial)
			rows[i].Cost, err = draft.Take(want)
		}
		if err != nil {
			return SaleResult{}, err
		}
		cost = cost.Add(rows[i].Cost)
	}
	draft.Post(ledger.Cash, paid.Cash())
	draft.Post(ledger.Card, paid.Card)
	draft.Post(ledger.TaxOut, totals.Tax.Neg())
	draft.Post(ledger.Income, totals.Tax.Sub(totals.Gross))
	draft.Post(ledger.CostOfSales, cost)
	draft.Post(ledger.Stock, cost.Neg())
	doc, err := draft.Document()
	if err != nil {
		return SaleResult{}, err
	}
	document, err := book.Post(tx, held, doc)
	if err != nil {
		return SaleResult{}, err
	}
	for i := range rows {
		rows[i].DocumentID = document
	}
	err = trade.AddSale(tx, &trade.Sale{DocumentID: document, RegisterID: in.Register, DrawerID: session, Gross: totals.Gross, Tax: totals.Tax,
		Handed: paid.Handed, ChangeGiven: paid.Change, Card: paid.Card, CardReference: reference})
	if err != nil {
		return SaleResult{}, err
	}
	if err := trade.AddSaleLines(tx, &rows); err != nil {
		return SaleResult{}, err
	}
	for i, list := range parts {
		for n := range list {
			list[n].SaleLineID = rows[i].ID
		}
		if err := trade.AddSaleParts(tx, &list); err != nil {
			return SaleResult{}, err
		}
	}
	if in.Basket != 0 {
		if err := trade.DropBasket(tx, in.Basket); err != nil {
			return SaleResult{}, err
		}
	}
	return SaleResult{Document: document, Number: doc.Number, At: now, Total: totals.Gross, Tax: totals.Tax, Handed: paid.Handed, Card: paid.Card, Change: paid.Change}, nil
}

// takeParts takes a bundle out of stock: kits that are made up, or else what it
// holds. It returns what that was worth.
func takeParts(draft *stock.Draft, want stock.Want, l sellLine) (decimal.Decimal, []trade.SalePart, error) {
	cost := decimal.Zero
	var rows []trade.SalePart
	if l.units.LessThanOrEqual(draft.Holding().OnHand(l.item.ID, want.Branch, stock.ForSale)) {
		want.Variant, want.Quantity = l.item.ID, l.units
		worth, err := draft.Take(want)
		return worth, []trade.SalePart{{VariantID: l.item.ID, Quantity: l.units, Cost: worth}}, err
	}
	numbers := serial.Kept(l.serial)
	for _, p := range l.parts {
		if p.NotStocked {
			continue
		}
		want.Variant, want.Quantity, want.Serials = p.Variant, p.Quantity.Mul(l.units), nil
		if p.Tracking == stock.BySerial {
			for _, n := range numbers {
				if _, ok := draft.Holding().Units[stock.UnitKey{Variant: p.Variant, Serial: n}]; ok {
					want.Serials = append(want.Serials, n)
				}
			}
		}
		worth, err := draft.Take(want)
		if err != nil {
			return cost, nil, err
		}
		cost = cost.Add(worth)
		rows = append(rows, trade.SalePart{VariantID: p.Variant, Quantity: want.Quantity, Cost: worth, Serials: strings.Join(want.Serials, ",")})
	}
	return cost, rows, nil
}

// sellLines reads what is to be sold: from the basket at the prices it was
// scanned at, or from the request at the prices of now.
func sellLines(s *deed.Shop, tx store.Tx, who staff.Actor, in SaleInput) ([]sellLine, error) {
	var rows []trade.BasketLine
	if in.Basket != 0 {
		t, err := trade.LockBasket(tx, in.Basket)
		if err != nil {
			return nil, err
		}
		if t.RegisterID != in.Register {
			return nil, fault.Clash("basket_id", in.Basket, "the basket of this register", "That basket has been paid or given up already.")
		}
		if rows, err = trade.BasketLines(tx.Q, in.Basket); err != nil {
			return nil, err
		}
	}
	ids := make([]uint64, 0, len(rows)+len(in.Lines))
	for _, r := range rows {
		ids = append(ids, r.VariantID)
	}
	if in.Basket == 0 {
		for _, l := range in.Lines {
			ids = append(ids, l.Variant)
		}
	}
	if len(ids) == 0 {
		return nil, fault.Field("lines", "", "at least one line", "The basket is empty.")
	}
	found, err := goods.Sellables(tx.Q, ids, s.Now())
	if err != nil {
		return nil, err
	}
	if in.Basket == 0 {
		if rows, err = typedLines(s, in, found); err != nil {
			return nil, err
		}
	}
	classes, err := prices.TaxClasses(tx.Q)
	if err != nil {
		return nil, err
	}
	var bundles []uint64
	for _, v := range found {
		if v.Bundle {
			bundles = append(bundles, v.ID)
		}
	}
	parts, err := goods.BundleParts(tx.Q, bundles, 0)
	if err != nil {
		return nil, err
	}
	percent := tax.Percents(classes, s.Now())
	lines := make([]sellLine, len(rows))
	for i, r := range rows {
		v := found[r.VariantID]
		lines[i] = sellLine{item: v, serial: r.Serials, parts: parts[v.ID], units: r.Quantity, line: sale.Line{Quantity: r.Quantity, Price: r.Price, Percent: percent[v.TaxClass], Untaxed: tx.Basis() == tax.Without}}
		if r.PackID != nil {
			pack, ok := v.Pack(*r.PackID)
			if !ok {
				return nil, fault.Refuse("lines", v.FullName(), "a pack that is there", "A pack of %s was dropped meanwhile. Take the line off.", v.FullName())
			}
			lines[i].pack, lines[i].units = pack, r.Quantity.Mul(pack.Factor)
		}
	}
	return lines, nil
}

func typedLines(s *deed.Shop, in SaleInput, found map[uint64]goods.Sellable) ([]trade.BasketLine, error) {
	rows := make([]trade.BasketLine, len(in.Lines))
	for i, l := range in.Lines {
		v, ok := found[l.Variant]
		if !ok {
			return nil, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
		}
		line := trade.BasketLine{VariantID: v.ID, PackID: deed.Reference(l.Pack), Serials: l.Serial, PricedAt: s.Now()}
		var err error
		if line.Quantity, err = lineQuantity(v, line.PackID, l.Quantity); err != nil {
			return nil, err
		}
		if !line.Quantity.IsPositive() {
			return nil, fault.Field("quantity", l.Quantity, "more than 0", "A quantity of nothing can't be sold.")
		}
		if err := priceLine(v, &line, max(in.List, price.Regular)); err != nil {
			return nil, err
		}
		rows[i] = line
	}
	return rows, nil
}

// lineQuantity reads how many of a variant, or of packs of it, a line has.
func lineQuantity(v goods.Sellable, pack *uint64, text string) (decimal.Decimal, error) {
	of := v.Unit
	if pack != nil {
		if _, ok := v.Pack(*pack); !ok {
			return decimal.Zero, fault.Missing("pack_id", *pack, "%s has no pack %d.", v.FullName(), *pack)
		}
		of = unit.Piece
	}
	q, err := of.Parse("quantity", text)
	if err == nil && (v.Tracking == stock.BySerial || v.Bundle) && q.GreaterThan(decimal.New(1, 0)) {
		err = fault.Field("quantity", text, "1", "%s is sold one by one: a line for each.", v.FullName())
	}
	return q, err
}

// priceLine puts the price on a line that its list has for its quantity, as it
// was when the line was first scanned.
func priceLine(v goods.Sellable, line *trade.BasketLine, list uint64) error {
	a := v.PriceOf(list, line.PackID, line.Quantity, line.PricedAt)
	if a.Source == price.NoPrice {
		return fault.Refuse("variant_id", v.SKU, "a price", "%s has no price yet.", v.FullName())
	}
	line.Price = a.Amount
	return nil
}

// printSale prints a receipt and returns what the printer says if it does not.
func printSale(ctx context.Context, s *deed.Shop, number string) string {
	page, err := Receipt(ctx, s, number)
	if err == nil {
		err = device.Print(ctx, devices.Of(s.Store), device.ReceiptPrinter, "Sale "+number, []paper.Page{page}, s.Now())
	}
	if err != nil {
		return err.Error()
	}
	return ""
}

// Reprint prints the receipt of a sale again.
func Reprint(ctx context.Context, s *deed.Shop, who staff.Actor, number string) error {
	if err := who.May(staff.DeedSell); err != nil {
		return err
	}
	page, err := Receipt(ctx, s, number)
	if err != nil {
		return err
	}
	return device.Print(ctx, devices.Of(s.Store), device.ReceiptPrinter, "Sale "+number+", again", []paper.Page{page}, s.Now())
}

// Receipt draws the receipt of a sale.
func Receipt(ctx context.Context, s *deed.Shop, number string) (paper.Page, error) {
	q := s.Store.Read(ctx)
	v, err := trade.SaleByNumber(q, number)
	if err != nil {
		return paper.Page{}, err
	}
	name, err := office.Setting(q, "shop_name")
	if err != nil {
		return paper.Page{}, err
	}
	r := sale.Receipt{Shop: name, Branch: v.Branch, Title: "Sale " + v.Number, Number: v.Number,
		Under: []string{v.HappenedAt.In(s.Zone).Format("2 Jan 2006 15:04") + " · " + v.Clerk + " · " + v.Register}, Foot: "Keep this to bring anything back."}
	practising, err := book.Practising(q)
	if err != nil {
		return paper.Page{}, err
	}
	if practising {
		r.Title, r.Foot = "Practice · "+r.Title, "Practice: nothing was sold."
	}
	var lines []sale.Line
	for _, l := range v.Lines {
		counted := l.Quantity.Div(l.Factor)
		lines = append(lines, sale.Line{Quantity: counted, Price: l.Price, Percent: l.Percent, Untaxed: !l.WithTax})
		u, err := unit.ByCode(l.Unit)
		if err != nil {
			return paper.Page{}, err
		}
		detail := l.Detail
		if l.Serials != "" {
			detail = coretext.Joined(detail, "No. "+l.Serials)
		}
		switch {
		case l.Pack != "":
			detail = coretext.Joined(detail, counted.String()+" × "+l.Pack+", "+l.Price.StringFixed(2)+" each")
		case !l.Quantity.Equal(decimal.New(1, 0)):
			detail = coretext.Joined(detail, u.Format(l.Quantity)+" × "+l.Price.StringFixed(2))
		}
		if !l.WithTax {
			detail = coretext.Joined(detail, "and tax")
		}
		r.Lines = append(r.Lines, sale.ReceiptLine{Name: l.Name, Detail: detail, Amount: money.Group(l.Paid.StringFixed(2))})
	}
	totals := sale.Sum(lines)
	r.Sums = append(r.Sums, sale.ReceiptSum{Label: "Total", Amount: s.Currency.Format(v.Gross), Large: true})
	if v.Handed.IsPositive() {
		r.Sums = append(r.Sums, sale.ReceiptSum{Label: "Cash", Amount: money.Group(v.Handed.StringFixed(2))}, sale.ReceiptSum{Label: "Change", Amount: money.Group(v.ChangeGiven.StringFixed(2))})
	}
	if v.Card.IsPositive() {
		r.Sums = append(r.Sums, sale.ReceiptSum{Label: "Card", Amount: money.Group(v.Card.StringFixed(2))})
	}
	for _, rate := range totals.Rates {
		r.Sums = append(r.Sums, sale.ReceiptSum{Label: "Tax " + rate.Percent.String() + " % in " + money.Group(rate.Gross.StringFixed(2)), Amount: money.Group(rate.Tax.StringFixed(2))})
	}
	return r.Page(face.Measure), nil
}
