package register

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/core/scan"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/goods"
	"itemrack/store/office"
	storetill "itemrack/store/till"
)

// ReturnLineInput is what comes back of a line of a sale, and the condition it
// goes into; empty means To look over.
type ReturnLineInput struct {
	Line      int    `json:"line"`
	Quantity  string `json:"quantity"`
	Condition string `json:"condition"`
	Serials   string `json:"serials"`
	Lot       uint64 `json:"lot_id"` // that is meant, of several; the one sold last comes first
	Amount    string `json:"amount"` // without a quantity: money alone, the customer keeps the goods
}

// UnsoldInput is something that comes back without a receipt.
type UnsoldInput struct {
	Variant uint64 `json:"variant_id"`
	sale.Unsold
}

// ReturnInput takes things back at a register: of a sale, or without a receipt. Refund says how
// their money goes back.
type ReturnInput struct {
	Register uint64            `json:"register_id"`
	Sale     string            `json:"sale"`
	Lines    []ReturnLineInput `json:"lines"`
	Unsold   []UnsoldInput     `json:"unsold"`
	Refund   sale.RefundHow    `json:"refund"`
	Customer uint64            `json:"customer_id"` // to whom store credit is given
	Approval *deed.Approval    `json:"approval"`
}

// ReturnResult is a return that was posted: the refund, by cash, card and otherwise.
type ReturnResult struct {
	Document uint64          `json:"document_id"`
	Number   string          `json:"number"`
	At       time.Time       `json:"at"`
	Amount   decimal.Decimal `json:"amount"`
	Cash     decimal.Decimal `json:"cash"`
	Card     decimal.Decimal `json:"card"`
	Paid     sale.Payment    `json:"paid"`               // below zero for what goes back
	Credit   *sale.Credit    `json:"credit"`             // new store credit
	Owed     string          `json:"owed,omitempty"`     // why the card was not given its money yet
	OwedFor  []string        `json:"owed_for,omitempty"` // the references of those refunds
	Printer  string          `json:"printer,omitempty"`
}

// TakeBack takes things back by their sale, or without a receipt. What was sold comes back at the
// cost at which it went out; the refund goes back as it was paid, to the card first, unless
// another way is said.
func TakeBack(do deed.Deed, in ReturnInput) (ReturnResult, error) {
	if err := do.Who.May(staff.DeedReturn); err != nil {
		return ReturnResult{}, err
	}
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return ReturnResult{}, err
	}
	result, err := deed.Once(do, staff.DeedReturn, func(do deed.Deed) (ReturnResult, error) {
		till, err := openTill(do, in.Register, 0)
		if err != nil {
			return ReturnResult{}, err
		}
		if err := till.Sells(); err != nil {
			return ReturnResult{}, err
		}
		till.BasketID, till.Basket = 0, sale.Basket{Customer: in.Customer}
		till.Backs = nil
		for _, l := range in.Lines {
			till.Backs = append(till.Backs, storetill.Back{Sale: text.Or(in.Sale, "-"), Line: l.Line, Quantity: l.Quantity,
				Condition: l.Condition, Serials: l.Serials, Lot: l.Lot, Amount: l.Amount})
		}
		for _, u := range in.Unsold {
			till.Backs = append(till.Backs, backOf(u))
		}
		b := bringing{Deed: do, ask: deed.Asks(do.Shop, do.Who, by), till: till, how: in.Refund}
		all, err := b.all()
		if err != nil {
			return ReturnResult{}, err
		}
		if len(all) != 1 {
			return ReturnResult{}, fault.Field("lines", "", "a quantity on at least one line", "Say how many of what came back.")
		}
		return all[0], b.ask.Keep(do.Tx, till.Register, 0, all[0].Document)
	})
	if err != nil {
		return result, err
	}
	result.Owed, result.OwedFor = refundCards(do.Ctx, do.Shop, result)
	if err := printBack(do.Ctx, do.Shop, result.Number, "Return "+result.Number); err != nil {
		result.Printer = err.Error()
	}
	return result, nil
}

func backOf(u UnsoldInput) storetill.Back {
	return storetill.Back{Variant: u.Variant, Quantity: u.Quantity, Condition: u.Condition, Serials: u.Serial,
		Price: u.Price,
		Cost:  u.Cost}
}

// bringing is what comes back while it is posted. Refund is what came back but for what comes off an account.
type bringing struct {
	deed.Deed
	ask       *deed.Asking
	till      storetill.Till
	how       sale.RefundHow
	refunding sale.Refunding
	refund    decimal.Decimal
}

// groups puts what comes back together by the sale it was sold on.
func groups(backs []storetill.Back) [][]storetill.Back {
	var list [][]storetill.Back
	for _, b := range backs {
		at := slices.IndexFunc(list,
			func(g []storetill.Back) bool { return scan.Document(g[0].Sale) == scan.Document(b.Sale) })
		if at < 0 {
			list = append(list, []storetill.Back{b})
		} else {
			list[at] = append(list[at], b)
		}
	}
	return list
}

// all posts a return for each sale of which something comes back, and one for what has no receipt.
func (b *bringing) all() ([]ReturnResult, error) {
	if err := sale.CheckHow(b.how); err != nil {
		return nil, err
	}
	set, err := b.Tx.Terms()
	if err != nil {
		return nil, err
	}
	b.refunding.Step = set.Till.CashStep
	var done []ReturnResult
	for _, group := range groups(b.till.Backs) {
		r, err := b.post(group)
		if err != nil {
			return nil, err
		}
		done = append(done, r)
	}
	return done, nil
}

// post posts a return of one sale, or of what has no receipt.
func (b *bringing) post(group []storetill.Back) (ReturnResult, error) {
	var sold storetill.SaleView
	var err error
	if group[0].Sale != "" {
		if sold, err = storetill.LockSale(b.Tx, group[0].Sale); err != nil {
			return ReturnResult{}, err
		}
	}
	n, err := book.NextNumber(b.Tx, "return "+b.till.Code, 1)
	if err != nil {
		return ReturnResult{}, err
	}
	c := coming{shop: b.Shop, q: b.Tx.Q, by: b.Who.ID, branch: b.till.Branch,
		number: fmt.Sprintf("%s-R%04d", b.till.Code, n),
		hold: func(variants []uint64, serials []string) (stock.Holding, error) {
			return book.Hold(b.Tx, variants, serials)
		}}
	r, held, err := c.of(sold, group)
	if err != nil {
		return ReturnResult{}, err
	}
	if b.till.BasketID == 0 { // on a basket it was asked for when it was put there
		if err := askBack(b.Deed, b.ask, r); err != nil {
			return ReturnResult{}, err
		}
	}
	paid, err := b.pay(sold, r.Sum.Amount)
	if err != nil {
		return ReturnResult{}, err
	}
	b.refund = b.refund.Add(r.Sum.Amount).Add(paid.Of(sale.OnAccount))
	if err := deed.CashOut(b.Tx, b.till.Drawer, "refund", paid.Of(sale.Cash).Neg()); err != nil {
		return ReturnResult{}, err
	}
	result := ReturnResult{Number: c.number, Amount: r.Sum.Amount, Cash: paid.Of(sale.Cash).Neg(),
		Card: paid.Of(sale.Card).Neg(),
		Paid: paid}
	customer := deed.Reference(b.till.Customer)
	if customer == nil {
		customer = sold.CustomerID
	}
	whose := customer
	if !paid.Of(sale.OnAccount).IsZero() {
		whose = sold.CustomerID // it comes off the account of whoever bought it
	}
	for i, t := range paid {
		if t.Kind != sale.ByCredit || t.Credit != 0 {
			continue
		}
		code, err := newCode(sale.ByCredit)
		if err != nil {
			return result, err
		}
		paid[i].Code = code
		result.Credit = &sale.Credit{Kind: sale.ByCredit, Code: code, Balance: t.Amount.Neg(), Customer: deed.Deref(customer)}
	}
	if err := r.Post(paid); err != nil {
		return result, err
	}
	row := storetill.SaleReturn{DrawerID: b.till.Drawer, Amount: r.Sum.Amount, Tax: r.Sum.Tax, CustomerID: whose,
		SaleID: deed.Reference(sold.DocumentID)}
	at := b.Shop.Now()
	posted, err := deed.Post(b.Tx, held, r.Draft, storetill.WithReturn(row, r.Rows, paid, result.Credit, at),
		storetill.Opens(b.till.Register, b.Who.ID, at, backOpens(paid)))
	result.Document, result.At = posted.Document, posted.At
	return result, err
}

// backOpens says why a drawer opens for a return; empty where no cash goes out.
func backOpens(paid sale.Payment) string {
	if posted(paid) != "" {
		return "return"
	}
	return ""
}

// pay works out how a refund goes back, and asks whether it may go in cash though it was not paid so.
func (b *bringing) pay(sold storetill.SaleView, amount decimal.Decimal) (sale.Payment, error) {
	set, err := b.Tx.Terms()
	if err != nil {
		return nil, err
	}
	var left []sale.Tender
	if sold.DocumentID != 0 {
		if left, err = storetill.LeftOf(b.Tx.Q, sold.DocumentID); err != nil {
			return nil, err
		}
		exact, given, err := storetill.CashBack(b.Tx.Q, sold.DocumentID)
		if err != nil {
			return nil, err
		}
		b.refunding.After(exact, given)
	}
	if b.refunding.MoreInCash(amount, left, b.how) {
		if err := b.ask.May(staff.DeedRefundCash, set.Currency.Format(amount)+" back in cash"); err != nil {
			return nil, err
		}
	}
	return b.refunding.Of(amount, left, b.how), nil
}

// coming works out what comes back: for a document with a number, or, without one, to be shown.
type coming struct {
	shop   *deed.Shop
	q      store.Q
	by     uint64
	branch uint64
	number string
	hold   func(variants []uint64, serials []string) (stock.Holding, error)
}

// of reads what a return of a sale needs, or of what has no receipt, and works it out.
func (c coming) of(sold storetill.SaleView, group []storetill.Back) (*sale.Returning, stock.Holding, error) {
	if sold.Reversed {
		return nil, stock.Holding{}, fault.Refuse("sale", sold.Number, "a sale that stands",
			"Sale %s was made void; there is nothing to take back.", sold.Number)
	}
	var variants []uint64
	var numbers []string
	for _, l := range sold.Lines {
		variants = append(variants, l.VariantID)
		for _, p := range l.Parts {
			variants = append(variants, p.VariantID)
		}
		numbers = append(numbers, serial.Kept(l.Serials)...)
	}
	for _, b := range group {
		if b.Variant != 0 {
			variants = append(variants, b.Variant)
		}
		list, err := serial.ReadList(b.Serials)
		if err != nil {
			return nil, stock.Holding{}, err
		}
		numbers = append(numbers, list...)
	}
	held, err := c.hold(variants, numbers)
	if err != nil {
		return nil, held, err
	}
	r, err := c.begin(sold, held)
	if err != nil {
		return nil, held, err
	}
	for _, b := range group {
		if sold.DocumentID != 0 {
			err = r.Take(sale.Back{Line: b.Line, Quantity: b.Quantity, Condition: b.Condition, Serials: b.Serials,
				Lot: b.Lot, Amount: b.Amount})
		} else {
			err = c.unsold(r, b)
		}
		if err != nil {
			return nil, held, err
		}
	}
	return r, held, nil
}

// begin begins the document of a return.
func (c coming) begin(sold storetill.SaleView, held stock.Holding) (*sale.Returning, error) {
	set, err := c.q.Terms()
	if err != nil {
		return nil, err
	}
	out, err := storetill.LotsOut(c.q, sold.DocumentID)
	if err != nil {
		return nil, err
	}
	lines, err := sold.SoldLines(out, set.Minor())
	if err != nil {
		return nil, err
	}
	gone, err := storetill.Gone(c.q, sold.DocumentID)
	if err != nil {
		return nil, err
	}
	for i := range lines {
		lines[i].Gone = gone
	}
	now := stock.NotBefore(c.shop.Now(), sold.HappenedAt)
	note := "without a receipt"
	if sold.Number != "" {
		note = "of sale " + sold.Number
	}
	head := stock.Document{Kind: stock.Return, Number: c.number, Branch: c.branch, By: c.by, HappenedAt: now,
		RecordedAt: now,
		Note:       note}
	r := &sale.Returning{Number: sold.Number, Lines: lines, Draft: stock.NewDraft(held, head), Day: set.Day(now),
		Minor: set.Minor()}
	if r.Shelf, err = held.Where(c.branch); err != nil && len(held.Shelves) > 0 {
		return nil, err
	}
	return r, nil
}

// unsold takes something back that has no receipt.
func (c coming) unsold(r *sale.Returning, b storetill.Back) error {
	found, err := goods.Sellables(c.q, []uint64{b.Variant}, c.shop.Now())
	if err != nil {
		return err
	}
	v, ok := found[b.Variant]
	if !ok {
		return fault.Missing("variant_id", b.Variant, "There is no variant %d.", b.Variant)
	}
	lowest, err := lowestOf(c.shop, c.q, v)
	if err != nil {
		return err
	}
	numbers, err := serial.ReadList(b.Serials)
	if err != nil {
		return err
	}
	sold := ""
	for _, n := range numbers {
		if sold, err = storetill.SaleOfNumber(c.q, v.ID, n); err != nil || sold != "" {
			break
		}
	}
	if err != nil {
		return err
	}
	return r.TakeUnsold(v, sale.Unsold{Quantity: b.Quantity, Price: b.Price, Cost: b.Cost, Serial: b.Serials,
		Condition: b.Condition}, lowest, sold)
}

// lowestOf is the lowest price of the last 90 days: what the regular list asks, and what it was
// sold for; nil where there is none.
func lowestOf(s *deed.Shop, q store.Q, v goods.Sellable) (*decimal.Decimal, error) {
	lowest, err := storetill.Lowest(q, v.ID, s.Now().AddDate(0, 0, -sale.LowestDays))
	if err != nil {
		return nil, err
	}
	return v.LowestOf(lowest, s.Now()), nil
}

// refundCards has the terminal give the cards of a return their money. What it does not give
// stands on Today until it does.
func refundCards(ctx context.Context, s *deed.Shop, r ReturnResult) (said string, owed []string) {
	n := 0
	for _, t := range r.Paid {
		if t.Kind != sale.Card {
			continue
		}
		reference := "return/" + r.Number
		if n++; n > 1 {
			reference += fmt.Sprintf("/%d", n)
		}
		err := device.Refund(context.WithoutCancel(ctx), devices.Of(s.Store), reference, t.Amount.Neg(), s.Now())
		if err != nil {
			said = err.Error() + " The card is given its money from Today."
			owed = append(owed, reference)
		}
	}
	return said, owed
}

// ReturnPaper draws the slip of a return.
func ReturnPaper(ctx context.Context, s *deed.Shop, number string) (paper.Page, error) {
	q := s.Store.Read(ctx)
	v, err := storetill.ReturnByNumber(q, number)
	if err != nil {
		return paper.Page{}, err
	}
	set, err := q.Terms()
	if err != nil {
		return paper.Page{}, err
	}
	slip := sale.Slip{Branch: v.Branch, Register: v.Register, Clerk: v.Clerk, Number: v.Number,
		At:       v.HappenedAt.In(set.Zone),
		Currency: set.Currency, Paid: v.Paid, Gross: v.Amount}
	if slip.Shop, err = office.Setting(q, "shop_name"); err != nil {
		return paper.Page{}, err
	}
	if slip.Practice, err = book.Practising(q); err != nil {
		return paper.Page{}, err
	}
	for _, l := range v.Lines {
		slip.Lines = append(slip.Lines, sale.SlipLine{Name: l.Name, Detail: l.Detail, Serials: l.Serials, Units: l.Quantity,
			Paid: l.Amount})
	}
	return slip.Returned(v.Sale).Page(face.Measure), nil
}

// printBack prints the slip of a return.
func printBack(ctx context.Context, s *deed.Shop, number, title string) error {
	page, err := ReturnPaper(ctx, s, number)
	if err != nil {
		return err
	}
	return device.Print(ctx, devices.Of(s.Store), device.ReceiptPrinter, title, []paper.Page{page}, s.Now())
}
