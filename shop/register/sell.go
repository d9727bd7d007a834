package register

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/unit"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/trade"
)

// SaleLineInput is a line of a sale that is not made through a basket.
type SaleLineInput struct {
	Variant  uint64 `json:"variant_id"`
	Pack     uint64 `json:"pack_id"` // Quantity counts these
	Quantity string `json:"quantity"`
	Serial   string `json:"serial"` // or several, with commas between them
	Lot      string `json:"lot"`    // the lot that is meant, by its number
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
	Total    string          `json:"total"` // as it was shown; another one is refused
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

// selling is a sale while it is posted.
type selling struct {
	shop      *deed.Shop
	who       staff.Actor
	in        SaleInput
	card      decimal.Decimal
	reference string // of the card charge
	slip      *sale.Slip
}

// Sell posts a sale once, however often it is asked for under the same key. A
// card is charged before and given back if the sale is refused. The receipt is
// printed after; a printer without paper does not undo the sale.
func Sell(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in SaleInput) (SaleResult, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return SaleResult{}, err
	}
	p := &selling{shop: s, who: who, in: in}
	if err := p.charge(ctx, key); err != nil {
		return SaleResult{}, err
	}
	result, err := deed.Once(ctx, s, who, staff.DeedSell, key, p.post)
	if err != nil {
		if said := fault.Of(err); p.reference != "" && said != nil && said.Field != deed.KeyField { // not the charge of another sale
			if back := device.Return(context.WithoutCancel(ctx), devices.Of(s.Store), p.reference); back != nil {
				return result, fmt.Errorf("%w; the card could not be given back: %w", err, back)
			}
		}
		return result, err
	}
	return result, p.print(ctx, &result)
}

// print prints the receipt: after the sale, or when it is asked for again and never came out.
func (p *selling) print(ctx context.Context, result *SaleResult) error {
	title := "Sale " + result.Number
	if p.slip == nil { // it was posted before
		out, err := devices.Printed(p.shop.Store.Read(ctx), device.ReceiptPrinter, title)
		if err != nil || out {
			return err
		}
		slip, err := readSlip(ctx, p.shop, result.Number)
		if err != nil {
			return err
		}
		p.slip = &slip
	}
	if err := printSlip(ctx, p.shop, *p.slip, title); err != nil {
		result.Printer = err.Error()
	}
	return nil
}

// charge charges the card, where one is to be.
func (p *selling) charge(ctx context.Context, key string) error {
	if strings.TrimSpace(p.in.Card) == "" {
		return nil
	}
	set, err := p.shop.Store.Read(ctx).Terms()
	if err != nil {
		return err
	}
	if p.card, err = set.Minor().Parse("card", p.in.Card); err != nil || !p.card.IsPositive() {
		return err
	}
	if key == "" {
		return fault.Field("Idempotency-Key", "", "a key of its own for each payment",
			"A card payment needs a request key, so that it is charged once.")
	}
	p.reference = fmt.Sprintf("sale/%d/%s", p.who.ID, key)
	return device.Charge(ctx, devices.Of(p.shop.Store), p.reference, p.card, p.shop.Now())
}

// post posts the sale: what it needs is read in a few round trips, the number taken
// last, and all rows are written in one.
func (p *selling) post(tx store.Tx) (SaleResult, error) {
	p.slip, tx = nil, tx.Steady()
	set, err := tx.Terms()
	if err != nil {
		return SaleResult{}, err
	}
	till, err := openTill(tx, p.who, p.in.Register, p.in.Basket)
	if err != nil {
		return SaleResult{}, err
	}
	if err := till.Sells(); err != nil {
		return SaleResult{}, err
	}
	if p.in.Basket != 0 && till.BasketID == 0 {
		return SaleResult{}, fault.Clash("basket_id", p.in.Basket, "the basket of this register",
			"That basket has been paid or given up already.")
	}
	lines, found, err := p.lines(tx, till)
	if err != nil {
		return SaleResult{}, err
	}
	totals := sale.Sums(lines)
	if err := sale.CheckShown(p.in.Total, totals.Gross, set.Minor()); err != nil {
		return SaleResult{}, err
	}
	paid, err := p.pay(totals, set.Minor())
	if err != nil {
		return SaleResult{}, err
	}
	variants, serials := sale.Moved(lines)
	held, err := book.HoldKnown(tx, found, variants, serials)
	if err != nil {
		return SaleResult{}, err
	}
	n, err := book.NextNumber(tx, "sale "+till.Code, 1)
	if err != nil {
		return SaleResult{}, err
	}
	now := p.shop.Now()
	draft := stock.NewDraft(
		held,
		stock.Document{
			Kind:       stock.Sale,
			Number:     fmt.Sprintf("%s-%05d", till.Code, n),
			Branch:     till.Branch,
			By:         p.who.ID,
			HappenedAt: now,
			RecordedAt: now,
		},
	)
	taken, err := sale.Sell(draft, till.Branch, set.Day(now), lines, totals, paid)
	if err != nil {
		return SaleResult{}, err
	}
	row := trade.Sale{
		RegisterID:    till.Register,
		DrawerID:      till.Drawer,
		Gross:         totals.Gross,
		Tax:           totals.Tax,
		Handed:        paid.Handed,
		ChangeGiven:   paid.Change,
		Card:          paid.Card,
		CardReference: p.reference,
	}
	posted, err := deed.Post(tx, held, draft, trade.WithSale(row, lines, taken, p.in.Basket))
	if err != nil {
		return SaleResult{}, err
	}
	p.slip = slipOf(set, till, p.who.Name, posted, lines, paid, totals.Gross)
	return SaleResult{
		Document: posted.Document,
		Number:   posted.Number,
		At:       now,
		Total:    totals.Gross,
		Tax:      totals.Tax,
		Handed:   paid.Handed,
		Card:     paid.Card,
		Change:   paid.Change,
	}, nil
}

// lines reads what is to be sold: from the basket at the prices it was scanned at, or
// from the request at the prices of now.
func (p *selling) lines(tx store.Tx, till trade.Till) ([]sale.Selling, map[uint64]goods.Sellable, error) {
	rows := till.Lines
	var ids []uint64
	if p.in.Basket == 0 {
		rows = nil
		for _, l := range p.in.Lines {
			ids = append(ids, l.Variant)
		}
	}
	for _, l := range rows {
		ids = append(ids, l.Variant)
	}
	now := p.shop.Now()
	found, err := goods.Sellables(tx.Q, ids, now)
	if err != nil {
		return nil, nil, err
	}
	if p.in.Basket == 0 {
		for _, l := range p.in.Lines {
			v, ok := found[l.Variant]
			if !ok {
				return nil, nil, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
			}
			typed, err := p.typed(tx, till, v, l, now)
			if err != nil {
				return nil, nil, err
			}
			rows = append(rows, typed...)
		}
	}
	parts, err := goods.Bundled(tx.Q, found)
	if err != nil {
		return nil, nil, err
	}
	lines, err := sale.Ready(rows, found, parts)
	return lines, found, err
}

// typed reads a line of the request, or as many as it takes.
func (p *selling) typed(tx store.Tx, till trade.Till, v goods.Sellable, l SaleLineInput,
	now time.Time) ([]sale.BasketLine, error) {
	numbers, err := serial.Typed(l.Serial)
	if err != nil {
		return nil, err
	}
	lot, err := scanned(p.shop, tx, v, lotSaid{number: l.Lot}, "", till.Branch)
	if err != nil {
		return nil, err
	}
	all, err := v.OneByOne(l.Quantity, numbers)
	if err != nil {
		return nil, err
	}
	rows := make([]sale.BasketLine, len(all))
	for i, one := range all {
		one.Pack, one.Lot = l.Pack, lot
		if rows[i], err = v.Typed(one, p.in.List, now); err != nil {
			return nil, err
		}
	}
	return rows, nil
}

// pay works out how the total is paid.
func (p *selling) pay(totals sale.Totals, minor money.Minor) (sale.Payment, error) {
	cash := decimal.Zero
	var err error
	if strings.TrimSpace(p.in.Cash) != "" {
		if cash, err = minor.Parse("cash", p.in.Cash); err != nil {
			return sale.Payment{}, err
		}
	}
	return sale.Pay(totals.Gross, cash, p.card, minor)
}

// slipOf is the receipt of a sale that was just posted.
func slipOf(set terms.Terms, till trade.Till, clerk string, posted deed.Posted, lines []sale.Selling, paid sale.Payment,
	gross decimal.Decimal) *sale.Slip {
	slip := &sale.Slip{
		Shop:     till.Shop,
		Branch:   till.At,
		Register: till.Name,
		Clerk:    clerk,
		Number:   posted.Number,
		At:       posted.At.In(set.Zone),
		Practice: till.Practice,
		Currency: set.Currency,
		Gross:    gross,
		Handed:   paid.Handed,
		Change:   paid.Change,
		Card:     paid.Card,
	}
	for _, l := range lines {
		slip.Lines = append(
			slip.Lines,
			sale.SlipLine{
				Line:    l.Sum,
				Name:    l.Name,
				Detail:  l.Label,
				Serials: l.Serial,
				Pack:    l.Pack.Name,
				Unit:    l.Unit,
				Units:   l.Units,
				Factor:  l.Pack.Factor,
				Paid:    l.Sum.Total(),
			},
		)
	}
	return slip
}

// printSlip prints a receipt.
func printSlip(ctx context.Context, s *deed.Shop, slip sale.Slip, title string) error {
	return device.Print(ctx, devices.Of(s.Store), device.ReceiptPrinter, title,
		[]paper.Page{slip.Receipt().Page(face.Measure)}, s.Now())
}

// Reprint prints the receipt of a sale again.
func Reprint(ctx context.Context, s *deed.Shop, who staff.Actor, number string) error {
	if err := who.May(staff.DeedSell); err != nil {
		return err
	}
	slip, err := readSlip(ctx, s, number)
	if err != nil {
		return err
	}
	return printSlip(ctx, s, slip, "Sale "+slip.Number+", again")
}

// Receipt draws the receipt of a sale.
func Receipt(ctx context.Context, s *deed.Shop, number string) (paper.Page, error) {
	slip, err := readSlip(ctx, s, number)
	return slip.Receipt().Page(face.Measure), err
}

// readSlip reads the receipt of a sale.
func readSlip(ctx context.Context, s *deed.Shop, number string) (sale.Slip, error) {
	q := s.Store.Read(ctx)
	v, err := trade.SaleByNumber(q, number)
	if err != nil {
		return sale.Slip{}, err
	}
	set, err := q.Terms()
	if err != nil {
		return sale.Slip{}, err
	}
	slip := sale.Slip{
		Branch:   v.Branch,
		Register: v.Register,
		Clerk:    v.Clerk,
		Number:   v.Number,
		At:       v.HappenedAt.In(set.Zone),
		Currency: set.Currency,
		Gross:    v.Gross,
		Handed:   v.Handed,
		Change:   v.ChangeGiven,
		Card:     v.Card,
	}
	if slip.Shop, err = office.Setting(q, "shop_name"); err != nil {
		return slip, err
	}
	if slip.Practice, err = book.Practising(q); err != nil {
		return slip, err
	}
	for _, l := range v.Lines {
		of, err := unit.ByCode(l.Unit)
		if err != nil {
			return slip, err
		}
		slip.Lines = append(
			slip.Lines,
			sale.SlipLine{
				Line: sale.Line{
					Quantity: l.Quantity.Div(l.Factor),
					Price:    l.Price,
					Percent:  l.Percent,
					Untaxed:  !l.WithTax,
					Minor:    set.Minor(),
				},
				Name:    l.Name,
				Detail:  l.Detail,
				Serials: l.Serials,
				Pack:    l.Pack,
				Unit:    of,
				Units:   l.Quantity,
				Factor:  l.Factor,
				Paid:    l.Paid,
			},
		)
	}
	return slip, nil
}
