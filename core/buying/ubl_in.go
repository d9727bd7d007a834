package buying

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/shopspring/decimal"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"itemrack/core/fault"
	"itemrack/core/money"
)

// The namespaces of what suppliers send (OASIS UBL 2.1).
const (
	ublDespatch = "urn:oasis:names:specification:ubl:schema:xsd:DespatchAdvice-2"
	ublInvoice  = "urn:oasis:names:specification:ubl:schema:xsd:Invoice-2"
)

// Despatch is what a supplier says that it has sent, and for which order of ours.
type Despatch struct {
	Number string
	Order  string
	Lines  []SentLine
}

// SentLine is goods that were sent, with their lot and serial numbers.
type SentLine struct {
	ReadLine
	Lot     string
	Expiry  *time.Time
	Serials []string
}

// Invoice is a supplier's bill as it was read. Charges are what it asks beside the goods, such
// as freight. Currency is the ISO 4217 code of its amounts.
type Invoice struct {
	Number   string
	Order    string
	Currency string
	Day      *time.Time
	Due      *time.Time
	Charges  decimal.Decimal
	Payable  *decimal.Decimal
	Lines    []InvoicedLine
}

// InvoicedLine is a line of a bill that was read: Net is of all its units.
type InvoicedLine struct {
	ReadLine
	Net decimal.Decimal
}

// ublItem is the codes of goods in a line.
type ublItem struct {
	Buyers    string `xml:"BuyersItemIdentification>ID"`
	Sellers   string `xml:"SellersItemIdentification>ID"`
	Standard  string `xml:"StandardItemIdentification>ID"`
	Instances []struct {
		Serial string `xml:"SerialID"`
		Lot    string `xml:"LotIdentification>LotNumberID"`
		Expiry string `xml:"LotIdentification>ExpiryDate"`
	} `xml:"ItemInstance"`
}

func (i ublItem) line(quantity string) (ReadLine, error) {
	return ublLineItem{Quantity: quantity, Item: i}.read()
}

// IsXML reports whether a file begins as XML does, in whatever encoding.
func IsXML(data []byte) bool {
	head, _, _ := transform.Bytes(unicode.BOMOverride(transform.Nop),
		data[:min(len(data), 400)]) // cut in the middle of a sign, it may be
	return bytes.HasPrefix(bytes.TrimSpace(head), []byte("<"))
}

// readUBL reads a document of a namespace into a structure, in whatever encoding it says it is
// in or its first bytes mark (XML 1.0, section 4.3.3).
func readUBL(data []byte, space, what string, into any, root *xml.Name) error {
	decoder := xml.NewDecoder(transform.NewReader(bytes.NewReader(data), unicode.BOMOverride(transform.Nop)))
	decoder.CharsetReader = func(label string, in io.Reader) (io.Reader, error) {
		if strings.HasPrefix(strings.ToLower(label), "utf-16") { // read by its mark, or this would not have been
			return in, nil
		}
		encoding, err := htmlindex.Get(label)
		if err != nil {
			return nil, fmt.Errorf("no encoding is called %q", label)
		}
		return transform.NewReader(in, encoding.NewDecoder()), nil
	}
	err := decoder.Decode(into)
	if err == nil && root.Space == space && root.Local == what {
		return nil
	}
	switch {
	case errors.Is(err, io.EOF):
		err = errors.New("there is no XML in it")
	case err == nil:
		err = fmt.Errorf("its root is %q", root.Local)
	}
	return fault.Field("file", "", "a UBL 2.1 "+what, "The file can't be read as a UBL 2.1 %s: %v.", what, err)
}

// ublDay reads a date of UBL; nil for none.
func ublDay(text string) *time.Time {
	if day, err := time.Parse(time.DateOnly, strings.TrimSpace(text)); err == nil {
		return &day
	}
	return nil
}

// ReadDespatch reads a UBL 2.1 DespatchAdvice.
func ReadDespatch(data []byte) (Despatch, error) {
	var doc struct {
		XMLName xml.Name
		ID      string `xml:"ID"`
		Order   string `xml:"OrderReference>ID"`
		Lines   []struct {
			Quantity string  `xml:"DeliveredQuantity"`
			Order    string  `xml:"OrderLineReference>OrderReference>ID"`
			Item     ublItem `xml:"Item"`
		} `xml:"DespatchLine"`
	}
	if err := readUBL(data, ublDespatch, "DespatchAdvice", &doc, &doc.XMLName); err != nil {
		return Despatch{}, err
	}
	d := Despatch{Number: strings.TrimSpace(doc.ID), Order: strings.TrimSpace(doc.Order)}
	for i, l := range doc.Lines {
		read, err := l.Item.line(l.Quantity)
		if err != nil || i >= mostUBLLines {
			return d, fault.Field("file", l.Quantity, "a UBL 2.1 DespatchAdvice",
				"Line %d of the file can't be read: %v.", i+1, err)
		}
		line := SentLine{ReadLine: read}
		for _, one := range l.Item.Instances {
			if serial := strings.TrimSpace(one.Serial); serial != "" {
				line.Serials = append(line.Serials, serial)
			}
			if lot := strings.TrimSpace(one.Lot); lot != "" {
				line.Lot, line.Expiry = lot, ublDay(one.Expiry)
			}
		}
		if order := strings.TrimSpace(l.Order); d.Order == "" {
			d.Order = order
		}
		d.Lines = append(d.Lines, line)
	}
	return d, nil
}

// ReadInvoice reads a UBL 2.1 Invoice.
func ReadInvoice(data []byte) (Invoice, error) {
	var doc struct {
		XMLName xml.Name
		ID      string `xml:"ID"`
		Issued  string `xml:"IssueDate"`
		Due     string `xml:"DueDate"`
		Money   string `xml:"DocumentCurrencyCode"`
		Order   string `xml:"OrderReference>ID"`
		Charges []struct {
			Charge string `xml:"ChargeIndicator"`
			Amount string `xml:"Amount"`
		} `xml:"AllowanceCharge"`
		Payable string `xml:"LegalMonetaryTotal>PayableAmount"`
		Lines   []struct {
			Quantity string  `xml:"InvoicedQuantity"`
			Net      string  `xml:"LineExtensionAmount"`
			Item     ublItem `xml:"Item"`
		} `xml:"InvoiceLine"`
	}
	if err := readUBL(data, ublInvoice, "Invoice", &doc, &doc.XMLName); err != nil {
		return Invoice{}, err
	}
	bill := Invoice{Number: strings.TrimSpace(doc.ID), Order: strings.TrimSpace(doc.Order),
		Currency: strings.TrimSpace(doc.Money), Day: ublDay(doc.Issued), Due: ublDay(doc.Due)}
	wrong := func(what, value string) error {
		return fault.Field("file", value, "a UBL 2.1 Invoice", "%s of the file can't be read: %q.", what, value)
	}
	for _, c := range doc.Charges {
		amount, err := figure(c.Amount)
		if err != nil || amount.IsNegative() || strings.TrimSpace(c.Charge) != "true" {
			return bill, wrong("A charge, or an allowance on the whole,", c.Amount)
		}
		bill.Charges = bill.Charges.Add(amount)
	}
	if strings.TrimSpace(doc.Payable) != "" {
		payable, err := figure(doc.Payable)
		if err != nil || payable.IsNegative() {
			return bill, wrong("What is payable", doc.Payable)
		}
		bill.Payable = &payable
	}
	for i, l := range doc.Lines {
		read, err := l.Item.line(l.Quantity)
		if err != nil || i >= mostUBLLines {
			return bill, wrong(fmt.Sprintf("Line %d", i+1), l.Quantity)
		}
		net, err := figure(l.Net)
		if err != nil || net.IsNegative() {
			return bill, wrong(fmt.Sprintf("Line %d", i+1), l.Net)
		}
		bill.Lines = append(bill.Lines, InvoicedLine{read, net})
	}
	return bill, nil
}

// BilledPart is a part of a line of a bill that was read: of the goods that came at place At,
// or, where At is negative, of what an order awaits.
type BilledPart struct {
	At       int
	Quantity decimal.Decimal
	Net      decimal.Decimal
}

// Placed puts a line of a bill that was read on what came of its goods and is not billed, in
// their order. What is beyond that goes on what an order awaits, if one does, else on the last
// of what came, where it shows. The net is shared by units, to the minor unit. Goods that
// neither came nor are awaited have no place: nil.
func (l InvoicedLine) Placed(came []decimal.Decimal, awaited bool, minor money.Minor) []BilledPart {
	var parts []BilledPart
	left := l.Quantity
	for i, unbilled := range came {
		if q := decimal.Min(left, unbilled); q.IsPositive() {
			parts, left = append(parts, BilledPart{At: i, Quantity: q}), left.Sub(q)
		}
	}
	switch {
	case left.IsPositive() && awaited:
		parts = append(parts, BilledPart{At: -1, Quantity: left})
	case left.IsPositive() && len(parts) > 0:
		parts[len(parts)-1].Quantity = parts[len(parts)-1].Quantity.Add(left)
	}
	units := make([]decimal.Decimal, len(parts))
	for i, p := range parts {
		units[i] = p.Quantity
	}
	for i, net := range minor.Split(l.Net, units) {
		parts[i].Net = net
	}
	return parts
}
