package register

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/scan"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/customers"
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

// TenderInput is one way to pay: Code is that of a voucher or store credit.
type TenderInput struct {
	Kind   sale.TenderKind `json:"kind"`
	Amount string          `json:"amount"`
	Code   string          `json:"code"`
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
	shop    *deed.Shop
	who, by staff.Actor
	in      SaleInput
	key     string
	given   []sale.Tender // as they were asked for
	at      *storetill.Opening
	as      store.Q        // what the shop was taken to be set to for first
	first   *book.First    // what is sold, where it is held as the transaction begins
	charged bool           // the cards among them
	held    *stock.Holding // of all that is sold, where it was read first
	number  uint64         // of the sale, once it is taken
	// document is the number of the sale in the database, once it is there.
	document uint64
	slip     *sale.Slip
	printer  string            // the state that it is in
	ready    chan device.Paper // the receipt, laid out while the database writes the sale
}

// Sell posts a sale once, however often it is asked for under the same key. Cards
// are charged before and given back if the sale is refused. The receipt is
// printed after; a printer without paper does not undo the sale.
func Sell(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in SaleInput) (SaleResult, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return SaleResult{}, err
	}
	p := &selling{shop: s, who: who, in: in, key: key}
	var err error
	if p.by, err = deed.Approver(ctx, s, in.Approval); err != nil {
		return SaleResult{}, err
	}
	if p.byCard() {
		done, err := p.once(ctx, p.try)
		if err == nil { // it was posted before
			return done, p.print(ctx, &done)
		}
		if !errors.Is(err, errTried) {
			return SaleResult{}, p.refused(ctx, err)
		}
		if err := p.charge(ctx); err != nil {
			return SaleResult{}, err
		}
	}
	result, err := p.once(ctx, p.post)
	if err != nil {
		if said := fault.Of(err); said != nil && said.Field != deed.KeyField { // not the charges of another sale
			if back := p.uncharge(ctx, len(p.given)); back != nil {
				return result, fmt.Errorf("%w; the card could not be given back: %w", err, back)
			}
		}
		return result, err
	}
	if p.document != 0 {
		result.Document = p.document
	}
	for i := range result.Returns {
		result.Returns[i].Owed, result.Returns[i].OwedFor = refundCards(ctx, s, result.Returns[i])
	}
	return result, p.print(ctx, &result)
}

// print prints the receipt: after the sale, or when it is asked for again and never came out.
func (p *selling) print(ctx context.Context, result *SaleResult) error {
	if result.Document == 0 {
		for _, r := range result.Returns {
			if err := printBack(ctx, p.shop, r.Number, "Return "+r.Number); err != nil {
				result.Printer = err.Error()
			}
		}
		return nil
	}
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
		if p.printer, err = devices.Of(p.shop.Store).DeviceState(ctx, device.ReceiptPrinter); err != nil {
			return err
		}
		p.layOut(&slip)
	}
	if err := device.PrintIn(ctx, devices.Of(p.shop.Store), device.ReceiptPrinter, p.printer, title, <-p.ready,
		p.shop.Now()); err != nil {
		result.Printer = err.Error()
	}
	return nil
}

// layOut begins to lay the receipt out.
func (p *selling) layOut(slip *sale.Slip) {
	ready := make(chan device.Paper, 1)
	p.slip, p.ready = slip, ready
	go func() {
		laid, err := device.PaperOf([]paper.Page{slip.Receipt().Page(face.Measure)})
		if err != nil { // only figures that are none can't be written
			slog.Error("a receipt can't be laid out", "number", slip.Number, "err", err)
		}
		ready <- laid
	}()
}

// once posts a sale once: the register is read as that begins, with its basket, or without where the sale is of
// none: a basket that somebody is at there is left alone.
func (p *selling) once(ctx context.Context, post func(tx store.Tx) (SaleResult, error)) (SaleResult, error) {
	open := func() (SaleResult, error) {
		return deed.OnceAhead(ctx, p.shop, p.who, staff.DeedSell, p.key, p.at.Ahead(), post)
	}
	p.at = p.opening()
	p.as, p.first = p.ahead(ctx)
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
func (p *selling) ahead(ctx context.Context) (store.Q, *book.First) {
	as, known := p.shop.Store.LastKnown(ctx)
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

// byCredit reports whether a voucher or store credit pays for some of it.
func (in SaleInput) byCredit() bool {
	return slices.ContainsFunc(in.ways(), func(t TenderInput) bool { return t.Code != "" })
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

// ways are the ways to pay in their order, as they were asked for.
func (in SaleInput) ways() []TenderInput {
	all := slices.Clone(in.Tenders)
	if strings.TrimSpace(in.Card) != "" {
		all = append(all, TenderInput{Kind: sale.Card, Amount: in.Card})
	}
	if strings.TrimSpace(in.Cash) != "" {
		all = append(all, TenderInput{Kind: sale.Cash, Amount: in.Cash})
	}
	return all
}

// tenders reads how it is paid; each card gets a reference of its own, so that it is charged once.
func (p *selling) tenders(set terms.Terms, key string) ([]sale.Tender, error) {
	var given []sale.Tender
	cards := 0
	for _, in := range p.in.ways() {
		way, err := in.read(set.Minor())
		if err != nil {
			return nil, err
		}
		t := way.Tender
		if way.All {
			return nil, fault.Field(sale.TenderField(t.Kind), "", "an amount", "Say how much is paid by %s.", t.Kind)
		}
		if t.Kind == sale.Card && t.Amount.IsPositive() {
			if key == "" {
				return nil, fault.Field("Idempotency-Key", "", "a key of its own for each payment",
					"A card payment needs a request key, so that it is charged once.")
			}
			t.Reference = fmt.Sprintf("sale/%d/%s", p.who.ID, key)
			if cards++; cards > 1 {
				t.Reference += fmt.Sprintf("/%d", cards)
			}
		}
		given = append(given, t)
	}
	return given, nil
}

// read reads a way to pay as it is typed; without an amount it takes what is left.
func (in TenderInput) read(minor money.Minor) (sale.Way, error) {
	way := sale.Way{Tender: sale.Tender{Kind: in.Kind}, All: strings.TrimSpace(in.Amount) == ""}
	var err error
	if way.Kind == sale.ByVoucher || way.Kind == sale.ByCredit {
		if way.Kind, way.Code, err = sale.ReadCredit(in.Code); err != nil {
			return way, err
		}
	}
	if way.All {
		return way, nil
	}
	if way.Amount, err = minor.Parse(sale.TenderField(way.Kind), in.Amount); err != nil {
		return way, err
	}
	if way.Amount.IsNegative() {
		return way, fault.Field(sale.TenderField(way.Kind), in.Amount, "0 or more", "Nobody pays less than nothing.")
	}
	return way, nil
}

// LeftToPay works out what is left of the basket of a register after ways to pay, which are only
// tried: one without an amount takes what is left.
func LeftToPay(ctx context.Context, s *deed.Shop, who staff.Actor, register uint64,
	tries []TenderInput) (sale.Left, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return sale.Left{}, err
	}
	q := s.Store.Read(ctx)
	set, err := q.Terms()
	if err != nil {
		return sale.Left{}, err
	}
	ways := make([]sale.Way, len(tries))
	for i, in := range tries {
		if ways[i], err = in.read(set.Minor()); err != nil {
			return sale.Left{}, err
		}
		if ways[i].Code == "" {
			continue
		}
		c, err := storetill.ReadVoucher(q, ways[i].Code)
		if err != nil {
			return sale.Left{}, err
		}
		if err := c.Use(ways[i].Amount, set.Minor()); err != nil {
			return sale.Left{}, err
		}
		for _, other := range ways[:i] {
			if other.Code == c.Code {
				return sale.Left{}, fault.Refuse("voucher", c.Code, "another one", "%s is among them already.", c.Code)
			}
		}
		ways[i].OnIt = &c.Balance
	}
	view, err := viewBasket(s, q, register)
	if err != nil {
		return sale.Left{}, err
	}
	return sale.Try(view.Due, ways, set.Till.CashStep, set.Minor())
}

// errTried says that a sale could be posted.
var errTried = errors.New("it can be sold")

// byCard reports whether a card pays for some of it.
func (p *selling) byCard() bool {
	return slices.ContainsFunc(p.in.ways(), func(t TenderInput) bool { return t.Kind == sale.Card })
}

// try works the sale out and keeps nothing of it: a card is only charged for what can be sold.
func (p *selling) try(tx store.Tx) (SaleResult, error) {
	if _, err := p.post(tx); err != nil {
		return SaleResult{}, err
	}
	return SaleResult{}, errTried
}

// refused gives back, where a sale is refused, what was charged for it when it was asked for before.
func (p *selling) refused(ctx context.Context, err error) error {
	said := fault.Of(err)
	if said == nil || said.Field == deed.KeyField {
		return err
	}
	for i := range p.given {
		before, lost := devices.Of(p.shop.Store).Charged(ctx, p.given[i].Reference)
		if lost != nil {
			return fmt.Errorf("%w; whether a card was charged is not known: %w", err, lost)
		}
		if p.given[i].Reference != "" && before {
			if back := device.Return(context.WithoutCancel(ctx), devices.Of(p.shop.Store), p.given[i].Reference); back != nil {
				return fmt.Errorf("%w; the card could not be given back: %w", err, back)
			}
		}
	}
	return err
}

// charge charges the cards. Where one is declined those before it are given back; where the
// terminal gives no answer they stay charged until it is asked again under the same key.
func (p *selling) charge(ctx context.Context) error {
	set, err := p.shop.Store.Read(ctx).Terms()
	if err != nil {
		return err
	}
	if p.given, err = p.tenders(set, p.key); err != nil {
		return err
	}
	p.charged = true
	for i, t := range p.given {
		if t.Reference == "" {
			continue
		}
		err := device.Charge(ctx, devices.Of(p.shop.Store), t.Reference, t.Amount, p.shop.Now())
		if said := fault.Of(err); said != nil && said.Field != device.NoAnswerField {
			if back := p.uncharge(ctx, i); back != nil {
				return fmt.Errorf("%w; the card before could not be given back: %w", err, back)
			}
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// uncharge gives back what the first so many cards were charged.
func (p *selling) uncharge(ctx context.Context, first int) error {
	var all error
	for _, t := range p.given[:first] {
		if t.Reference != "" {
			all = errors.Join(all, device.Return(context.WithoutCancel(ctx), devices.Of(p.shop.Store), t.Reference))
		}
	}
	return all
}

// post posts what comes back on the basket, and then the sale: what it needs is read in a few
// round trips, and all rows are written in one.
func (p *selling) post(tx store.Tx) (SaleResult, error) {
	p.slip, p.held, p.number, p.document, tx = nil, nil, 0, 0, tx.Steady()
	set, err := tx.Terms()
	if err != nil {
		return SaleResult{}, err
	}
	if !p.charged {
		if p.given, err = p.tenders(set, p.key); err != nil {
			return SaleResult{}, err
		}
	}
	till, err := p.at.Till(tx)
	if err != nil {
		return SaleResult{}, err
	}
	if err := p.who.At(till.Branch, till.At); err != nil {
		return SaleResult{}, err
	}
	if err := till.Sells(); err != nil {
		return SaleResult{}, err
	}
	if p.in.Basket == 0 {
		till.Basket.List = p.in.List
	} else if till.BasketID == 0 {
		return SaleResult{}, fault.Clash("basket_id", p.in.Basket, "the basket of this register",
			"That basket has been paid or given up already.")
	}
	if ids := variantsOf(till.Lines); p.first != nil && (!tx.SetAs(p.as) || len(till.Backs) > 0 || !p.first.Of(ids) ||
		len(ids)+len(p.in.Lines) == 0) {
		return SaleResult{}, errOther
	}
	lines, found, err := p.lines(tx, &till)
	if err != nil {
		return SaleResult{}, err
	}
	if err := sale.CheckSome(len(lines), len(till.Backs), len(till.Vouchers)); err != nil {
		return SaleResult{}, err
	}
	ask := deed.Asks(p.shop, p.who, p.by)
	totals := sale.Sums(lines)
	sold := sale.Due(totals, till.Vouchers, decimal.Zero)
	var result SaleResult
	back := bringing{shop: p.shop, who: p.who, ask: ask, till: till, how: p.in.Refund, sold: sold}
	if len(till.Backs) > 0 {
		if result.Returns, err = back.all(tx); err != nil {
			return SaleResult{}, err
		}
		result.Number, result.At = result.Returns[0].Number, result.Returns[0].At
	}
	if err := sale.CheckShown(p.in.Total, sold.Sub(back.refund), set.Minor()); err != nil {
		return SaleResult{}, err
	}
	if len(lines)+len(till.Vouchers) > 0 {
		if err := p.sell(tx, set, till, lines, totals, found, ask, sold, back.kept, &result); err != nil {
			return SaleResult{}, err
		}
	} else if till.BasketID != 0 {
		if err := storetill.BasketPaid(tx, till.BasketID, result.Returns[0].Document); err != nil {
			return SaleResult{}, err
		}
	}
	if ask.Quiet() {
		return result, nil
	}
	document := result.Document
	if document == 0 {
		document = result.Returns[0].Document
	}
	return result, ask.Keep(tx, till.Register, 0, document)
}

// sell posts the sale itself: of sold that is due, kept is paid by what came back.
func (p *selling) sell(tx store.Tx, set terms.Terms, till storetill.Till, lines []sale.Selling, totals sale.Totals,
	found map[uint64]goods.Sellable,
	ask *deed.Asking, sold, kept decimal.Decimal, result *SaleResult) error {
	paid, err := p.paid(tx, set, till, ask, sold.Sub(kept))
	if err != nil {
		return err
	}
	if kept.IsPositive() {
		paid = append(sale.Payment{{Kind: sale.Exchange, Amount: kept}}, paid...)
	}
	held, err := p.hold(tx, till, lines, found)
	if err != nil {
		return err
	}
	reasons, whys, err := p.reasons(tx, till.Basket)
	if err != nil {
		return err
	}
	given, err := newVouchers(till.Vouchers)
	if err != nil {
		return err
	}
	now, number := p.shop.Now(), fmt.Sprintf("%s-%05d", till.Code, p.number)
	draft := stock.NewDraft(
		held,
		stock.Document{
			Kind:       stock.Sale,
			Number:     number,
			Branch:     till.Branch,
			By:         p.who.ID,
			HappenedAt: now,
			RecordedAt: now,
		},
	)
	taken, err := sale.Sell(draft, till.Branch, set.Day(now), till.Basket, lines, paid, reasons)
	if err != nil {
		return err
	}
	if err := p.givenOff(tx, set, till, lines, ask); err != nil {
		return err
	}
	if under := sale.UnderCost(lines, taken, set.Till.AskBelowCost); len(under) > 0 {
		if err := ask.May(staff.DeedBelowCost, text.Listed(under)+" below cost"); err != nil {
			return err
		}
	}
	row := storetill.Sold{Sale: storetill.Sale{RegisterID: till.Register, DrawerID: till.Drawer, Gross: totals.Gross,
		Tax:        totals.Tax,
		CustomerID: deed.Reference(till.Customer), OffWhy: whys[till.Off.Reason], Note: till.Note,
		Vouchers: sold.Sub(totals.Gross)}, Lines: lines, Taken: taken, Whys: whys, Paid: paid, Vouchers: given,
		BasketID: till.BasketID, At: now}
	slip, err := slipOf(tx, set, till, p.who.Name, number, row)
	if err != nil {
		return err
	}
	if p.printer, err = devices.StateOf(tx.Q, device.ReceiptPrinter); err != nil {
		return err
	}
	p.layOut(slip)
	with := []book.With{storetill.WithSale(row), storetill.Opens(till.Register, p.who.ID, now, posted(paid))}
	if ask.Quiet() {
		err = deed.PostLast(tx, held, draft, &p.document, with...)
	} else {
		var done deed.Posted
		done, err = deed.Post(tx, held, draft, with...)
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

// givenOff asks for a yes where, with all that became of the basket since, more is given off than
// everybody may give, and nobody said yes to a discount on it.
func (p *selling) givenOff(tx store.Tx, set terms.Terms, till storetill.Till, lines []sale.Selling,
	ask *deed.Asking) error {
	if p.who.Can(staff.DeedOffMore) || !sale.GivenBeyond(lines, set.Till.OffLimit) {
		return nil
	}
	n, err := office.ApprovedOn(tx.Q, till.BasketID, string(staff.DeedOffMore))
	if err != nil || n > 0 {
		return err
	}
	return ask.May(staff.DeedOffMore, "What is given off this basket")
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
func (p *selling) reasons(tx store.Tx, b sale.Basket) ([]reason.Reason, map[uint64]string, error) {
	used := b.Off.Reason != 0
	for _, l := range b.Lines {
		used = used || l.Off.Reason != 0 || l.Why != 0
	}
	if !used {
		return nil, nil, nil
	}
	list, err := office.Reasons(tx.Q)
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

// paid settles what is due with what was given: vouchers and store credit must have it, and only a
// customer with terms pays later.
func (p *selling) paid(tx store.Tx, set terms.Terms, till storetill.Till, ask *deed.Asking,
	due decimal.Decimal) (sale.Payment, error) {
	given := slices.Clone(p.given)
	for i := range given {
		t := &given[i]
		switch t.Kind {
		case sale.ByVoucher, sale.ByCredit:
			c, err := storetill.LockVoucher(tx, t.Code)
			if err != nil {
				return nil, err
			}
			asked := t.Amount
			for _, other := range given[:i] { // the same one twice
				if other.Credit == c.ID {
					asked = asked.Add(other.Amount)
				}
			}
			if err := c.Use(asked, set.Minor()); err != nil {
				return nil, err
			}
			t.Credit = c.ID
		case sale.OnAccount:
			if !t.Amount.IsPositive() {
				continue
			}
			if err := p.onAccount(tx, till, ask); err != nil {
				return nil, err
			}
		}
	}
	return sale.Pay(due, given, set.Till.CashStep, set.Minor())
}

// onAccount refuses to let somebody pay later who has no terms.
func (p *selling) onAccount(tx store.Tx, till storetill.Till, ask *deed.Asking) error {
	if till.Customer == 0 {
		return fault.Refuse("account", "", "a customer with terms on the basket",
			"On account needs a customer on the basket who has terms.")
	}
	c, err := customers.Read(tx.Q, till.Customer)
	if err != nil {
		return err
	}
	if c.DaysToPay == nil {
		return fault.Refuse("account", c.Name, "another way to pay, or terms for the customer",
			"%s has no terms: nothing can be put on account.", c.Name)
	}
	return ask.May(staff.DeedAccount, "On account for "+c.Name)
}

// lines reads what is to be sold: from the basket at the prices it was scanned at, or
// from the request at the prices of now.
func (p *selling) lines(tx store.Tx, till *storetill.Till) ([]sale.Selling, map[uint64]goods.Sellable, error) {
	ids := variantsOf(till.Lines)
	if p.in.Basket == 0 {
		ids = p.in.variants()
	}
	now := p.shop.Now()
	found, err := p.goods(tx, *till, ids, now)
	if err != nil {
		return nil, nil, err
	}
	if p.in.Basket == 0 {
		for _, l := range p.in.Lines {
			v, ok := found[l.Variant]
			if !ok {
				return nil, nil, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
			}
			typed, err := p.typed(tx, *till, v, l, now)
			if err != nil {
				return nil, nil, err
			}
			till.Lines = append(till.Lines, typed...)
		}
	}
	parts, err := goods.Bundled(tx.Q, found)
	if err != nil {
		return nil, nil, err
	}
	lines, err := sale.Ready(till.Basket, found, parts)
	return lines, found, err
}

// goods reads what is to be sold. Where it is simply counted, and nothing else is locked or posted before it, it is
// held in the same round trip.
func (p *selling) goods(tx store.Tx, till storetill.Till, ids []uint64, now time.Time) (map[uint64]goods.Sellable, error) {
	first := p.first
	if first == nil && len(till.Backs) == 0 && !p.in.byCredit() {
		if first = book.FirstOf(tx.Q, ids, numbersOf(till.Code)); first != nil {
			if err := first.Read(tx.Q); err != nil {
				return nil, err
			}
		}
	}
	if first != nil {
		held, n, found, err := first.Take(tx.Q, now)
		if p.number = n; err != nil || found != nil {
			p.held = &held
			return found, err
		}
	}
	return goods.Sellables(tx.Q, ids, now)
}

// numbersOf is the range that the sales of the register of a code have their numbers of.
func numbersOf(code string) string { return "sale " + code }

// hold holds what is sold, if it is not held yet, and takes the number of the sale.
func (p *selling) hold(tx store.Tx, till storetill.Till, lines []sale.Selling,
	found map[uint64]goods.Sellable) (stock.Holding, error) {
	if p.held != nil {
		return *p.held, nil
	}
	variants, serials := sale.Moved(lines)
	return book.HoldNumbered(tx, found, variants, serials, numbersOf(till.Code), &p.number)
}

// typed reads a line of the request, or as many as it takes.
func (p *selling) typed(tx store.Tx, till storetill.Till, v goods.Sellable, l SaleLineInput,
	now time.Time) ([]sale.BasketLine, error) {
	numbers, err := serial.Typed(l.Serial)
	if err != nil {
		return nil, err
	}
	said, err := scanned(p.shop, tx, v, lotSaid{number: l.Lot},
		sale.Adding{Serial: numbers, Condition: stock.Condition(l.Condition)}, till.Branch)
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

// slipOf is the receipt of a sale that is about to be posted.
func slipOf(tx store.Tx, set terms.Terms, till storetill.Till, clerk, number string, sold storetill.Sold) (*sale.Slip, error) {
	slip := &sale.Slip{
		Shop:     till.Shop,
		Branch:   till.At,
		Register: till.Name,
		Clerk:    clerk,
		Number:   number,
		At:       sold.At.In(set.Zone),
		Practice: till.Practice,
		Currency: set.Currency,
		Gross:    sold.Gross,
		Why:      sold.OffWhy,
		Paid:     sold.Paid,
		Note:     sold.Note,
	}
	if till.Customer != 0 && set.Till.NameOnReceipts {
		c, err := customers.Read(tx.Q, till.Customer)
		if err != nil {
			return nil, err
		}
		slip.Customer = c.Name
	}
	for _, v := range sold.Vouchers {
		slip.Vouchers = append(slip.Vouchers, sale.SlipVoucher{Code: v.Code, Amount: v.Balance})
	}
	for _, l := range sold.Lines {
		slip.Lines = append(
			slip.Lines,
			sale.SlipLine{
				Line:    l.Sum,
				Name:    l.Name,
				Detail:  l.Detail(l.BasketLine),
				Serials: l.Serial,
				Pack:    l.Pack.Name,
				Unit:    l.Unit,
				Units:   l.Units,
				Factor:  l.Pack.Factor,
				Paid:    l.Sum.Total(),
				Own:     l.Own,
				Why:     sold.Whys[l.Off.Reason],
				Note:    l.Note,
				Owed:    l.Owed,
			},
		)
	}
	return slip, nil
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

// The papers of a sale.
const (
	SmallPaper = ""
	A4Paper    = "a4"
	GiftPaper  = "gift"
)

// Papers draws the receipt of a sale: small, on A4, or as a gift receipt without prices.
func Papers(ctx context.Context, s *deed.Shop, number, kind string) ([]paper.Page, error) {
	slip, err := readSlip(ctx, s, number)
	if err != nil {
		return nil, err
	}
	switch kind {
	case A4Paper:
		return slip.Receipt().Sheets(face.Measure), nil
	case GiftPaper:
		return []paper.Page{slip.Gift().Page(face.Measure)}, nil
	}
	return []paper.Page{slip.Receipt().Page(face.Measure)}, nil
}

// PrintGift prints a gift receipt of a sale.
func PrintGift(ctx context.Context, s *deed.Shop, who staff.Actor, number string) error {
	if err := who.May(staff.DeedSell); err != nil {
		return err
	}
	pages, err := Papers(ctx, s, number, GiftPaper)
	if err != nil {
		return err
	}
	return device.Print(ctx, devices.Of(s.Store), device.ReceiptPrinter, "Gift receipt "+scan.Document(number),
		pages, s.Now())
}

// MailInput is where a receipt goes.
type MailInput struct {
	To string `json:"to"`
}

// Mailed says where a receipt went.
type Mailed struct {
	To string `json:"to"`
}

// MailReceipt sends the receipt of a sale by mail, as PDF; to its customer where no address is said.
func MailReceipt(ctx context.Context, s *deed.Shop, who staff.Actor, number string, in MailInput) (Mailed, error) {
	if err := who.May(staff.DeedSell); err != nil {
		return Mailed{}, err
	}
	q := s.Store.Read(ctx)
	v, err := storetill.SaleByNumber(q, number)
	if err != nil {
		return Mailed{}, err
	}
	to := text.Tidy(in.To)
	if to == "" && v.CustomerID != nil {
		c, err := customers.Read(q, *v.CustomerID)
		if err != nil {
			return Mailed{}, err
		}
		to = c.Mail
	}
	if to == "" {
		return Mailed{}, fault.Field("to", "", "an address such as name@example.com", "Say where the receipt goes.")
	}
	slip, err := readSlip(ctx, s, number)
	if err != nil {
		return Mailed{}, err
	}
	data, err := device.PDF("Sale "+v.Number, slip.Receipt().Sheets(face.Measure))
	if err != nil {
		return Mailed{}, err
	}
	now := s.Now()
	source, err := device.Compose(device.Letter{From: slip.Shop, To: to, Subject: "Your receipt " + v.Number +
		" from " + slip.Shop,
		Text: "Thank you. Your receipt is attached; bring it along if anything is to come back.\n\n" + slip.Shop +
			", " + slip.Branch,
		ID: fmt.Sprintf("%s.%d", v.Number, now.UnixMicro()), At: now,
		Files: []device.File{{Name: v.Number + ".pdf", Type: "application/pdf", Data: data}}})
	if err != nil {
		return Mailed{}, err
	}
	return Mailed{to}, sendMail(ctx, s, to, "Your receipt "+v.Number, source)
}

// readSlip reads the receipt of a sale.
func readSlip(ctx context.Context, s *deed.Shop, number string) (sale.Slip, error) {
	q := s.Store.Read(ctx)
	v, err := storetill.SaleByNumber(q, number)
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
		Why:      v.OffWhy,
		Paid:     v.Paid,
		Note:     v.Note,
	}
	if set.Till.NameOnReceipts {
		slip.Customer = v.Customer
	}
	if slip.Shop, err = office.Setting(q, "shop_name"); err != nil {
		return slip, err
	}
	if slip.Practice, err = book.Practising(q); err != nil {
		return slip, err
	}
	for _, g := range v.Given {
		slip.Vouchers = append(slip.Vouchers, sale.SlipVoucher{Code: g.Code, Amount: g.Balance})
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
					Off:      l.Off,
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
				Own:     l.OwnOff,
				Why:     l.OffWhy,
				Note:    l.Note,
				Owed:    l.Owed,
			},
		)
	}
	return slip, nil
}
