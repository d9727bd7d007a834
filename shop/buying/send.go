package buying

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/paper"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/sheet"
	"itemrack/shop/deed"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/devices"
	"itemrack/store/goods"
	"itemrack/store/office"
)

// readPaper reads an order as it goes to the supplier.
func readPaper(s *deed.Shop, q store.Q, id uint64) (buying.Paper, error) {
	view, lines, err := storebuying.ReadOrder(q, id)
	if err != nil {
		return buying.Paper{}, err
	}
	supplier, _, err := goods.ReadSupplier(q, view.SupplierID)
	if err != nil {
		return buying.Paper{}, err
	}
	set, err := q.Terms()
	if err != nil {
		return buying.Paper{}, err
	}
	p := buying.Paper{Branch: view.Branch, Number: view.Number, Supplier: supplier.Name,
		Account: supplier.AccountNumber, Day: set.Day(view.CreatedAt),
		Wanted: view.WantedOn, Note: view.Note, Currency: set.Currency}
	if p.Shop, err = office.Setting(q, "shop_name"); err != nil {
		return p, err
	}
	ids := make([]uint64, len(lines))
	for i, l := range lines {
		ids[i] = l.VariantID
	}
	found, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return p, err
	}
	for _, l := range lines {
		v := found[l.VariantID]
		p.Lines = append(p.Lines, buying.PaperLine{Code: text.Or(v.Barcode, v.SKU), SKU: v.SKU, Theirs: l.PartNumber,
			Name: v.Name, Label: v.Label,
			Unit: v.Unit.Code, Pack: l.Pack, Ordered: l.Figures()})
	}
	return p, nil
}

// OrderPages draws an order on A4.
func OrderPages(do deed.Deed, id uint64) ([]paper.Page, error) {
	p, err := orderPaper(do, id)
	return p.Pages(face.Measure), err
}

// OrderUBL writes an order as a UBL 2.1 Order.
func OrderUBL(do deed.Deed, id uint64) ([]byte, error) {
	p, err := orderPaper(do, id)
	if err != nil {
		return nil, err
	}
	return p.UBL()
}

// OrderSheet writes the lines of an order as a table.
func OrderSheet(do deed.Deed, id uint64, format sheet.Format) ([]byte, error) {
	p, err := orderPaper(do, id)
	if err != nil {
		return nil, err
	}
	return asSheet(p, format)
}

// orderPaper reads an order for those who may see what it costs.
func orderPaper(do deed.Deed, id uint64) (buying.Paper, error) {
	if err := do.Who.May(staff.DeedCosts); err != nil {
		return buying.Paper{}, err
	}
	return readPaper(do.Shop, do.Shop.Store.Read(do.Ctx), id)
}

// orderHeads are the columns of an order as a table, which reads in again.
var orderHeads = []string{"sku", "barcode", "their number", "goods", "variant", "quantity", "unit", "pack", "pack of",
	"price", "discount %", "net"}

func asSheet(p buying.Paper, format sheet.Format) ([]byte, error) {
	var out bytes.Buffer
	w, err := sheet.NewWriter(format, &out, orderHeads)
	if err != nil {
		return nil, err
	}
	for _, l := range p.Lines {
		row := []any{l.SKU, l.Code, l.Theirs, l.Name, l.Label, l.Quantity, l.Unit, l.Pack, l.Factor, l.Price,
			l.Discount, l.Net(p.Currency.Minor)}
		if err := w.Write(row); err != nil {
			return nil, err
		}
	}
	err = w.Close()
	return out.Bytes(), err
}

// SendInput says to whom an order goes, and what is said with it.
type SendInput struct {
	To   string `json:"to"` // empty for the supplier's first contact with a mail address
	Text string `json:"text"`
}

// SendOrder sends a placed order to its supplier by mail, as PDF, CSV and UBL; a draft is
// placed by it.
func SendOrder(do deed.Deed, id uint64, in SendInput) (OrderRef, error) {
	state, err := devices.Of(do.Shop.Store).DeviceState(do.Ctx, device.Mailbox)
	if err != nil {
		return OrderRef{}, err
	}
	if state != device.Ready {
		return OrderRef{}, fault.Refuse("mailbox", state, "to try again later",
			"The mailbox does not answer. Nothing was sent.")
	}
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		o, err := lockOrder(do.Tx, do.Who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if o.PlacedAt == nil {
			if err := o.place(do); err != nil {
				return OrderRef{}, err
			}
		}
		_, contacts, err := goods.ReadSupplier(do.Tx.Q, o.SupplierID)
		if err != nil {
			return OrderRef{}, err
		}
		to := strings.TrimSpace(in.To)
		for _, c := range contacts {
			to = text.Or(to, c.Mail)
		}
		if to == "" {
			return OrderRef{}, fault.Field("to", "", "an address such as orders@example.com",
				"Nobody at the supplier has a mail address yet. To whom does it go?")
		}
		if text.Len(in.Text) > 4000 {
			return OrderRef{}, fault.Field("text", text.Cut(in.Text, 60), "4000 characters or fewer",
				"The text is too long.")
		}
		raw, subject, err := o.letter(do, to, in.Text)
		if err != nil {
			return OrderRef{}, err
		}
		now := do.Shop.Now()
		if err := devices.KeepMail(do.Tx, devices.Mail{At: now, Recipient: to, Subject: subject, Raw: raw}); err != nil {
			return OrderRef{}, err
		}
		o.SentAt = &now
		if err := o.note(do, "Sent", "to "+to); err != nil {
			return OrderRef{}, err
		}
		err = o.keep(do.Tx)
		return refOf(o.Order), err
	})
}

// letter composes the mail of an order.
func (o *openOrder) letter(do deed.Deed, to, words string) ([]byte, string, error) {
	p, err := readPaper(do.Shop, do.Tx.Q, o.ID)
	if err != nil {
		return nil, "", err
	}
	pdf, err := device.PDF("Order "+p.Number, p.Pages(face.Measure))
	if err != nil {
		return nil, "", err
	}
	table, err := asSheet(p, sheet.CSV)
	if err != nil {
		return nil, "", err
	}
	ubl, err := p.UBL()
	if err != nil {
		return nil, "", err
	}
	subject := fmt.Sprintf("Order %s of %s", p.Number, p.Shop)
	if o.SentAt != nil {
		subject += ", changed"
	}
	body := text.Or(text.Prose(words), fmt.Sprintf("Please send us what order %s asks for: %s, %s.\n\n%s, %s",
		p.Number, text.Plural(p.Totals().Units, "unit", "units"), p.Currency.Format(p.Totals().Net),
		p.Shop, p.Branch))
	raw, err := device.Compose(device.Letter{From: p.Shop, To: to, Subject: subject, Text: body,
		ID: fmt.Sprintf("%s.%d", p.Number, o.Revision), At: do.Shop.Now(),
		Files: []device.File{{Name: p.Number + ".pdf", Type: "application/pdf", Data: pdf},
			{Name: p.Number + ".csv", Type: "text/csv; charset=utf-8", Data: table},
			{Name: p.Number + ".xml", Type: "application/xml", Data: ubl}}})
	return raw, subject, err
}

// ReadIn is what became of an order that was read from a file: the draft, and the lines whose
// codes do not tell one variant here.
type ReadIn struct {
	OrderRef
	Lines   int      `json:"lines"`
	Unknown []string `json:"unknown"`
}

// ReadOrderIn begins an order with the lines of a file: UBL, CSV or XLSX. Goods are found by
// their barcode, SKU, or the supplier's number; those that are not known are listed, and the
// others ordered.
func ReadOrderIn(do deed.Deed, in OrderInput, data []byte) (ReadIn, error) {
	read, err := readOrderFile(data)
	if err != nil {
		return ReadIn{}, err
	}
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (ReadIn, error) {
		set, err := do.Tx.Terms()
		if err != nil {
			return ReadIn{}, err
		}
		if err := buying.CheckCurrency(read.Currency, set.Currency); err != nil {
			return ReadIn{}, err
		}
		if in.WantedOn == "" && read.Wanted != nil {
			in.WantedOn = read.Wanted.Format("2006-01-02")
		}
		in.Note = text.Or(in.Note, text.Cut(read.Note, 500))
		o, err := beginOrder(do, in)
		if err != nil {
			return ReadIn{}, err
		}
		lines, unknown, err := o.known(do.Tx, read.Lines)
		if err != nil {
			return ReadIn{}, err
		}
		if len(lines) == 0 {
			return ReadIn{}, nothingKnown(unknown)
		}
		if err := putLines(do, &o, lines); err != nil {
			return ReadIn{}, err
		}
		return ReadIn{refOf(o.Order), len(lines), unknown}, storebuying.SaveOrder(do.Tx, &o.Order)
	})
}

// known finds the goods of lines that were read. Lines of the same goods are one.
func (o *openOrder) known(tx store.Tx, read []buying.ReadLine) ([]OrderLineInput, []string, error) {
	whose, unknown, err := owners(tx.Q, o.SupplierID, read)
	if err != nil {
		return nil, nil, err
	}
	at := map[uint64]int{}
	var lines []OrderLineInput
	for n, l := range read {
		variant := whose[n]
		if variant == 0 {
			continue
		}
		line := OrderLineInput{Variant: variant, Quantity: l.Quantity.String()}
		if l.Discount.IsPositive() {
			line.Discount = l.Discount.String()
		}
		if l.Price != nil { // of the pack that the file has, or of one
			line.Price = l.Price.DivRound(l.Factor, money.CostPlaces).String()
			single := uint64(0)
			line.Pack = &single
		}
		if l.Theirs != "" {
			line.PartNumber = &l.Theirs
		}
		if i, twice := at[variant]; twice {
			before, _ := decimal.NewFromString(lines[i].Quantity) // it was one
			lines[i].Quantity = before.Add(l.Quantity).String()
			continue
		}
		at[variant] = len(lines)
		lines = append(lines, line)
	}
	return lines, unknown, nil
}

// readOrderFile reads an order as UBL, CSV or XLSX.
func readOrderFile(data []byte) (buying.Read, error) {
	if buying.IsXML(data) {
		return buying.ReadUBL(data)
	}
	var read buying.Read
	file, err := sheet.Open(bytes.NewReader(data))
	if err != nil {
		return read, err
	}
	defer file.Close()
	at := map[string]int{}
	for n := 0; ; n++ {
		line, record, err := file.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return read, err
		}
		if n == 0 {
			for i, head := range record {
				at[strings.TrimSpace(text.Key(head))] = i
			}
			if _, ok := at["quantity"]; !ok {
				return read, fault.Field("file", "", "columns sku or barcode or their number, and quantity",
					"The file has no column “quantity”.")
			}
			continue
		}
		l, err := readOrderRow(record, at, file.DecimalComma())
		if err != nil {
			if refusal := fault.Of(err); refusal != nil {
				err = refusal.About(fmt.Sprintf("Line %d", line))
			}
			return read, err
		}
		if l.Quantity.IsPositive() {
			read.Lines = append(read.Lines, l)
		}
	}
	return read, nil
}

// readOrderRow reads one row of a table.
func readOrderRow(record []string, at map[string]int, comma bool) (buying.ReadLine, error) {
	cell := func(name string) string {
		i, ok := at[name]
		if !ok || i >= len(record) {
			return ""
		}
		return strings.TrimSpace(record[i])
	}
	local := func(name string) string { return number.InFile(cell(name), comma) }
	l := buying.ReadLine{SKU: cell("sku"), GTIN: cell("barcode"), Theirs: cell("their number"),
		Factor: decimal.New(1, 0)}
	var err error
	amount := func(field string, parse func(field, text string) (decimal.Decimal, error)) *decimal.Decimal {
		if err != nil {
			return nil
		}
		var d *decimal.Decimal
		d, err = number.Optional(field, local(field), parse)
		return d
	}
	l.Quantity = number.OrZero(amount("quantity", money.ParseCost))
	l.Price = amount("price", money.ParseCost)
	l.Discount = number.OrZero(amount("discount %", price.ParsePercent))
	if of := amount("pack of", money.ParseCost); of != nil && of.IsPositive() {
		l.Factor = *of
	}
	return l, err
}
