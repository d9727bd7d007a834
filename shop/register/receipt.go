package register

import (
	"context"
	"fmt"
	"log/slog"

	"itemrack/core/fault"
	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/core/scan"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/customers"
	"itemrack/store/devices"
	"itemrack/store/office"
	storetill "itemrack/store/till"
)

// print prints the receipt: after the sale, or when it is asked for again and never came out.
func (p *selling) print(result *SaleResult) error {
	if result.Document == 0 {
		for _, r := range result.Returns {
			if err := printBack(p.Ctx, p.Shop, r.Number, "Return "+r.Number); err != nil {
				result.Printer = err.Error()
			}
		}
		return nil
	}
	title := "Sale " + result.Number
	if p.slip == nil { // it was posted before
		out, err := devices.Printed(p.Shop.Store.Read(p.Ctx), device.ReceiptPrinter, title)
		if err != nil || out {
			return err
		}
		slip, err := readSlip(p.Ctx, p.Shop, result.Number)
		if err != nil {
			return err
		}
		if p.printer, err = devices.Of(p.Shop.Store).DeviceState(p.Ctx, device.ReceiptPrinter); err != nil {
			return err
		}
		p.layOut(&slip)
	}
	if err := device.PrintIn(p.Ctx, devices.Of(p.Shop.Store), device.ReceiptPrinter, p.printer, title, <-p.ready,
		p.Shop.Now()); err != nil {
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

// slipOf is the receipt of a sale that is about to be posted.
func (p *selling) slipOf(number string, sold storetill.Sold) (*sale.Slip, error) {
	slip := &sale.Slip{
		Shop:     p.till.Shop,
		Branch:   p.till.At,
		Register: p.till.Name,
		Clerk:    p.Who.Name,
		Number:   number,
		At:       sold.At.In(p.set.Zone),
		Practice: p.till.Practice,
		Currency: p.set.Currency,
		Gross:    sold.Gross,
		Why:      sold.OffWhy,
		Paid:     sold.Paid,
		Note:     sold.Note,
	}
	if p.till.Customer != 0 && p.set.Till.NameOnReceipts {
		c, err := customers.Read(p.Tx.Q, p.till.Customer)
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
func Reprint(do deed.Deed, number string) error {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return err
	}
	slip, err := readSlip(do.Ctx, do.Shop, number)
	if err != nil {
		return err
	}
	return printSlip(do.Ctx, do.Shop, slip, "Sale "+slip.Number+", again")
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
func PrintGift(do deed.Deed, number string) error {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return err
	}
	pages, err := Papers(do.Ctx, do.Shop, number, GiftPaper)
	if err != nil {
		return err
	}
	return device.Print(do.Ctx, devices.Of(do.Shop.Store), device.ReceiptPrinter, "Gift receipt "+scan.Document(number),
		pages, do.Shop.Now())
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
func MailReceipt(do deed.Deed, number string, in MailInput) (Mailed, error) {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return Mailed{}, err
	}
	q := do.Shop.Store.Read(do.Ctx)
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
	slip, err := readSlip(do.Ctx, do.Shop, number)
	if err != nil {
		return Mailed{}, err
	}
	data, err := device.PDF("Sale "+v.Number, slip.Receipt().Sheets(face.Measure))
	if err != nil {
		return Mailed{}, err
	}
	now := do.Shop.Now()
	source, err := device.Compose(device.Letter{From: slip.Shop, To: to, Subject: "Your receipt " + v.Number +
		" from " + slip.Shop,
		Text: "Thank you. Your receipt is attached; bring it along if anything is to come back.\n\n" + slip.Shop +
			", " + slip.Branch,
		ID: fmt.Sprintf("%s.%d", v.Number, now.UnixMicro()), At: now,
		Files: []device.File{{Name: v.Number + ".pdf", Type: "application/pdf", Data: data}}})
	if err != nil {
		return Mailed{}, err
	}
	return Mailed{to}, sendMail(do.Ctx, do.Shop, to, "Your receipt "+v.Number, source)
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
