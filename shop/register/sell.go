package register

import (
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/goods"
	"itemrack/store/office"
	storetill "itemrack/store/till"
)

// SaleLineInput is a line of a sale that is not made through a basket.
type SaleLineInput struct {
	Variant  uint64 `json:"variant_id"`
	Pack     uint64 `json:"pack_id"` // Quantity counts these
	Quantity string `json:"quantity"`
	Serial   string `json:"serial"` // or several, with commas between them
	Lot      string `json:"lot"`    // the lot that is meant, by its number

	Condition string `json:"condition"` // it is sold from; empty is for sale
}

// SaleInput asks for a sale at a register: of its basket, or of Lines when
// there is no basket. Cash is what the customer hands over, Card what the card
// terminal is to charge; Tenders are these and other ways to pay, in their order. What comes back
// on the basket is set off; Refund says how the rest of it is given back.
type SaleInput struct {
	Register uint64          `json:"register_id"`
	Basket   uint64          `json:"basket_id"`
	List     uint64          `json:"price_list_id"` // of Lines; a basket has its own
	Lines    []SaleLineInput `json:"lines"`
	Cash     string          `json:"cash"`
	Card     string          `json:"card"`
	Tenders  []TenderInput   `json:"tenders"`
	Total    string          `json:"total"` // what is due, as it was shown; another one is refused
	Refund   sale.RefundHow  `json:"refund"`
	Approval *deed.Approval  `json:"approval"`
}

// SaleResult is a sale that was posted, and what came back with it. Without a sale, where things
// only came back, Document is 0 and Number that of the first return.
type SaleResult struct {
	Document uint64          `json:"document_id"`
	Number   string          `json:"number"`
	At       time.Time       `json:"at"`
	Total    decimal.Decimal `json:"total"`
	Tax      decimal.Decimal `json:"tax"`
	Handed   decimal.Decimal `json:"handed"`
	Card     decimal.Decimal `json:"card"`
	Change   decimal.Decimal `json:"change"`
	Paid     sale.Payment    `json:"paid"`
	Vouchers []sale.Credit   `json:"vouchers,omitempty"` // that were given
	Returns  []ReturnResult  `json:"returns,omitempty"`
	Printer  string          `json:"printer,omitempty"` // what the printer says when it did not print
}

// selling is a sale while it is posted.
type selling struct {
	deed.Deed // in the transaction that is under way
	by        staff.Actor
	in        SaleInput
	set       terms.Terms
	till      storetill.Till
	ask       *deed.Asking
	given     []sale.Tender // as they were asked for
	at        *storetill.Opening
	as        store.Q        // what the shop was taken to be set to for first
	first     *book.First    // what is sold, where it is held as the transaction begins
	charged   bool           // the cards among them
	held      *stock.Holding // of all that is sold, where it was read first
	number    uint64         // of the sale, once it is taken
	// document is the number of the sale in the database, once it is there.
	document uint64
	slip     *sale.Slip
	printer  string            // the state that it is in
	ready    chan device.Paper // the receipt, laid out while the database writes the sale
}

// Sell posts a sale once, however often it is asked for under the same key. Cards
// are charged before and given back if the sale is refused. The receipt is
// printed after; a printer without paper does not undo the sale.
func Sell(do deed.Deed, in SaleInput) (SaleResult, error) {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return SaleResult{}, err
	}
	p := &selling{Deed: do, in: in}
	var err error
	if p.by, err = deed.Approver(do.Ctx, do.Shop, in.Approval); err != nil {
		return SaleResult{}, err
	}
	if p.byCard() {
		done, err := p.once(p.try)
		if err == nil { // it was posted before
			return done, p.print(&done)
		}
		if !errors.Is(err, errTried) {
			return SaleResult{}, p.refused(err)
		}
		if err := p.charge(); err != nil {
			return SaleResult{}, err
		}
	}
	result, err := p.once(p.post)
	if err != nil {
		if said := fault.Of(err); said != nil && said.Field != deed.KeyField { // not the charges of another sale
			if back := p.uncharge(len(p.given)); back != nil {
				return result, fmt.Errorf("%w; the card could not be given back: %w", err, back)
			}
		}
		return result, err
	}
	if p.document != 0 {
		result.Document = p.document
	}
	for i := range result.Returns {
		result.Returns[i].Owed, result.Returns[i].OwedFor = refundCards(do.Ctx, do.Shop, result.Returns[i])
	}
	return result, p.print(&result)
}

// once posts a sale once: the register is read as that begins, with its basket, or without where the sale is of
// none: a basket that somebody is at there is left alone.
func (p *selling) once(post func(do deed.Deed) (SaleResult, error)) (SaleResult, error) {
	open := func() (SaleResult, error) {
		return deed.OnceAhead(p.Deed, staff.DeedSell, p.at.Ahead(), post)
	}
	p.at = p.opening()
	p.as, p.first = p.ahead()
	if p.first == nil {
		return open()
	}
	p.at.Holding(p.as, p.first)
	done, err := open()
	if errors.Is(err, errOther) {
		p.at, p.first = p.opening(), nil
		return open()
	}
	return done, err
}

func (p *selling) opening() *storetill.Opening {
	if p.in.Basket != 0 {
		return storetill.Open(p.in.Register, p.in.Basket)
	}
	return storetill.OpenAlone(p.in.Register)
}

// ahead is what can be held as the transaction begins: goods that are known to be what is sold, or likely to be, where
// nothing is to be locked before them.
func (p *selling) ahead() (store.Q, *book.First) {
	as, known := p.Shop.Store.LastKnown(p.Ctx)
	if !known || p.in.byCredit() {
		return as, nil
	}
	code, there := storetill.CodeOf(as, p.in.Register)
	if !there {
		return as, nil
	}
	ids := storetill.Remembered(as, p.in.Basket)
	if p.in.Basket == 0 {
		ids = p.in.variants()
	}
	return as, book.FirstOf(as, ids, numbersOf(code))
}

// variants are those of the lines of a request.
func (in SaleInput) variants() []uint64 {
	ids := make([]uint64, len(in.Lines))
	for i, l := range in.Lines {
		ids[i] = l.Variant
	}
	return ids
}

// errOther says that something else is sold than what was held ahead, or in a shop that is set otherwise.
var errOther = errors.New("something else was held")

// post posts what comes back on the basket, and then the sale: what it needs is read in a few
// round trips, and all rows are written in one.
func (p *selling) post(do deed.Deed) (SaleResult, error) {
	p.Tx, p.slip, p.held, p.number, p.document = do.Tx.Steady(), nil, nil, 0, 0
	var err error
	if p.set, err = p.Tx.Terms(); err != nil {
		return SaleResult{}, err
	}
	if !p.charged {
		if p.given, err = p.tenders(); err != nil {
			return SaleResult{}, err
		}
	}
	if p.till, err = p.at.Till(p.Tx); err != nil {
		return SaleResult{}, err
	}
	if err := p.Who.At(p.till.Branch, p.till.At); err != nil {
		return SaleResult{}, err
	}
	if err := p.till.Sells(); err != nil {
		return SaleResult{}, err
	}
	if p.in.Basket == 0 {
		p.till.Basket.List = p.in.List
	} else if p.till.BasketID == 0 {
		return SaleResult{}, fault.Clash("basket_id", p.in.Basket, "the basket of this register",
			"That basket has been paid or given up already.")
	}
	if ids := variantsOf(p.till.Lines); p.first != nil && (!p.Tx.SetAs(p.as) || len(p.till.Backs) > 0 ||
		!p.first.Of(ids) ||
		len(ids)+len(p.in.Lines) == 0) {
		return SaleResult{}, errOther
	}
	lines, found, err := p.lines()
	if err != nil {
		return SaleResult{}, err
	}
	if err := sale.CheckSome(len(lines), len(p.till.Backs), len(p.till.Vouchers)); err != nil {
		return SaleResult{}, err
	}
	p.ask = deed.Asks(p.Shop, p.Who, p.by)
	sold := sale.Due(sale.Sums(lines), p.till.Vouchers, decimal.Zero)
	var result SaleResult
	var kept []sale.Payment
	back := bringing{Deed: p.Deed, ask: p.ask, till: p.till, how: p.in.Refund,
		refunding: sale.Refunding{Due: decimal.Max(sold, decimal.Zero)}}
	if len(p.till.Backs) > 0 {
		if result.Returns, err = back.all(); err != nil {
			return SaleResult{}, err
		}
		for _, r := range result.Returns {
			kept = append(kept, r.Paid)
		}
		result.Number, result.At = result.Returns[0].Number, result.Returns[0].At
	}
	if err := sale.CheckShown(p.in.Total, sold.Sub(back.refund), p.set.Minor()); err != nil {
		return SaleResult{}, err
	}
	if len(lines)+len(p.till.Vouchers) > 0 {
		if err := p.sell(lines, found, sold, sale.Exchanged(kept), &result); err != nil {
			return SaleResult{}, err
		}
	} else if p.till.BasketID != 0 {
		if err := storetill.BasketPaid(p.Tx, p.till.BasketID, result.Returns[0].Document); err != nil {
			return SaleResult{}, err
		}
	}
	if p.ask.Quiet() {
		return result, nil
	}
	document := result.Document
	if document == 0 {
		document = result.Returns[0].Document
	}
	return result, p.ask.Keep(p.Tx, p.till.Register, 0, document)
}

// sell posts the sale itself: of sold that is due, kept is paid by what came back.
func (p *selling) sell(lines []sale.Selling, found map[uint64]goods.Sellable, sold decimal.Decimal,
	kept sale.Payment, result *SaleResult) error {
	till, totals := p.till, sale.Sums(lines)
	paid, err := p.paid(sold.Sub(kept.Sum()))
	if err != nil {
		return err
	}
	paid = append(kept, paid...)
	held, err := p.hold(lines, found)
	if err != nil {
		return err
	}
	reasons, whys, err := p.reasons(till.Basket)
	if err != nil {
		return err
	}
	given, err := newVouchers(till.Vouchers)
	if err != nil {
		return err
	}
	now, number := p.Shop.Now(), fmt.Sprintf("%s-%05d", till.Code, p.number)
	draft := stock.NewDraft(
		held,
		stock.Document{
			Kind:       stock.Sale,
			Number:     number,
			Branch:     till.Branch,
			By:         p.Who.ID,
			HappenedAt: now,
			RecordedAt: now,
		},
	)
	taken, err := sale.Sell(draft, till.Branch, p.set.Day(now), till.Basket, lines, paid, reasons)
	if err != nil {
		return err
	}
	if err := p.agreed(lines); err != nil {
		return err
	}
	if under := sale.UnderCost(lines, taken, p.set.Till.AskBelowCost); len(under) > 0 {
		if err := p.ask.May(staff.DeedBelowCost, text.Listed(under)+" below cost"); err != nil {
			return err
		}
	}
	row := storetill.Sold{Sale: storetill.Sale{RegisterID: till.Register, DrawerID: till.Drawer, Gross: totals.Gross,
		Tax:        totals.Tax,
		CustomerID: deed.Reference(till.Customer), OffWhy: whys[till.Off.Reason], Note: till.Note,
		Vouchers: sold.Sub(totals.Gross)}, Lines: lines, Taken: taken, Whys: whys, Paid: paid, Vouchers: given,
		BasketID: till.BasketID, At: now}
	slip, err := p.slipOf(number, row)
	if err != nil {
		return err
	}
	if p.printer, err = devices.StateOf(p.Tx.Q, device.ReceiptPrinter); err != nil {
		return err
	}
	p.layOut(slip)
	with := []book.With{storetill.WithSale(row), storetill.Opens(till.Register, p.Who.ID, now, posted(paid))}
	if p.ask.Quiet() {
		err = deed.PostLast(p.Tx, held, draft, &p.document, with...)
	} else {
		var done deed.Posted
		done, err = deed.Post(p.Tx, held, draft, with...)
		p.document = done.Document
	}
	if err != nil {
		return err
	}
	result.Document, result.Number, result.At = p.document, number, now
	result.Total, result.Tax, result.Paid, result.Vouchers = sold, totals.Tax, paid, given
	result.Handed, result.Card, result.Change = paid.Handed(), paid.Of(sale.Card), paid.Change()
	return nil
}

// agreed asks for a yes where, with all that became of the basket since, more is given off, or another price asked,
// than somebody who may said yes to.
func (p *selling) agreed(lines []sale.Selling) error {
	for _, wanted := range p.till.Wants(lines, p.set.Till.OffLimit) {
		if err := p.ask.May(wanted.Deed, wanted.What); err != nil {
			return err
		}
	}
	return nil
}

// posted says why a drawer opens for a payment: because cash goes into it; empty where it stays shut.
func posted(paid sale.Payment) string {
	for _, t := range paid {
		if t.Kind == sale.Cash {
			return "sale"
		}
	}
	return ""
}

// reasons reads the reasons that a basket gives, and what they are called.
func (p *selling) reasons(b sale.Basket) ([]reason.Reason, map[uint64]string, error) {
	used := b.Off.Reason != 0
	for _, l := range b.Lines {
		used = used || l.Off.Reason != 0 || l.Shared.Reason != 0 || l.Why != 0
	}
	if !used {
		return nil, nil, nil
	}
	list, err := office.Reasons(p.Tx.Q)
	names := map[uint64]string{}
	for _, r := range list {
		names[r.ID] = r.Name
	}
	return list, names, err
}

// newVouchers makes the vouchers that a basket gives.
func newVouchers(amounts []decimal.Decimal) ([]sale.Credit, error) {
	list := make([]sale.Credit, len(amounts))
	for i, amount := range amounts {
		code, err := newCode(sale.ByVoucher)
		if err != nil {
			return nil, err
		}
		list[i] = sale.Credit{Kind: sale.ByVoucher, Code: code, Balance: amount}
	}
	return list, nil
}

// newCode makes a code that nobody can guess.
func newCode(kind sale.TenderKind) (string, error) {
	var random [8]byte
	if _, err := rand.Read(random[:]); err != nil {
		return "", err
	}
	return sale.CreditCode(kind, binary.BigEndian.Uint64(random[:])), nil
}

// lines reads what is to be sold: from the basket at the prices it was scanned at, or
// from the request at the prices of now.
func (p *selling) lines() ([]sale.Selling, map[uint64]goods.Sellable, error) {
	ids := variantsOf(p.till.Lines)
	if p.in.Basket == 0 {
		ids = p.in.variants()
	}
	now := p.Shop.Now()
	found, err := p.goods(ids, now)
	if err != nil {
		return nil, nil, err
	}
	if p.in.Basket == 0 {
		for _, l := range p.in.Lines {
			v, ok := found[l.Variant]
			if !ok {
				return nil, nil, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
			}
			typed, err := p.typed(v, l, now)
			if err != nil {
				return nil, nil, err
			}
			p.till.Lines = append(p.till.Lines, typed...)
		}
	}
	parts, err := goods.Bundled(p.Tx.Q, found)
	if err != nil {
		return nil, nil, err
	}
	lines, err := sale.Ready(p.till.Basket, found, parts)
	return lines, found, err
}

// goods reads what is to be sold. Where it is simply counted, and nothing else is locked or posted before it, it is
// held in the same round trip.
func (p *selling) goods(ids []uint64, now time.Time) (map[uint64]goods.Sellable, error) {
	first := p.first
	if first == nil && len(p.till.Backs) == 0 && !p.in.byCredit() {
		if first = book.FirstOf(p.Tx.Q, ids, numbersOf(p.till.Code)); first != nil {
			if err := first.Read(p.Tx.Q); err != nil {
				return nil, err
			}
		}
	}
	if first != nil {
		held, n, found, err := first.Take(p.Tx.Q, now)
		if p.number = n; err != nil || found != nil {
			p.held = &held
			return found, err
		}
	}
	return goods.Sellables(p.Tx.Q, ids, now)
}

// numbersOf is the range that the sales of the register of a code have their numbers of.
func numbersOf(code string) string { return "sale " + code }

// hold holds what is sold, if it is not held yet, and takes the number of the sale.
func (p *selling) hold(lines []sale.Selling,
	found map[uint64]goods.Sellable) (stock.Holding, error) {
	if p.held != nil {
		return *p.held, nil
	}
	variants, serials := sale.Moved(lines)
	return book.HoldNumbered(p.Tx, found, variants, serials, numbersOf(p.till.Code), &p.number)
}

// typed reads a line of the request, or as many as it takes.
func (p *selling) typed(v goods.Sellable, l SaleLineInput,
	now time.Time) ([]sale.BasketLine, error) {
	numbers, err := serial.Typed(l.Serial)
	if err != nil {
		return nil, err
	}
	said, err := scanned(p.Deed, v, lotSaid{number: l.Lot},
		sale.Adding{Serial: numbers, Condition: stock.Condition(l.Condition)}, p.till.Branch)
	if err != nil {
		return nil, err
	}
	all, err := v.OneByOne(l.Quantity, numbers)
	if err != nil {
		return nil, err
	}
	rows := make([]sale.BasketLine, len(all))
	for i, one := range all {
		one.Pack, one.Lot, one.Condition = l.Pack, said.Lot, said.Condition
		if rows[i], err = v.Typed(one, p.in.List, now); err != nil {
			return nil, err
		}
	}
	return rows, nil
}
