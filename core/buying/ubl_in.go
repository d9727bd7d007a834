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

// readUBL reads a document of a namespace into a structure.
func readUBL(data []byte, space, what string, into any, root *xml.Name) error {
	err := xml.NewDecoder(bytes.NewReader(data)).Decode(into)
	if err == nil && root.Space == space {
		return nil
	}
	if err == nil || errors.Is(err, io.EOF) {
		err = fmt.Errorf("its root is %q", root.Local)
	}
	return fault.Field("file", "", "UBL 2.1: "+what, "The file can't be read as %s: %v.", what, err)
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
	if err := readUBL(data, ublDespatch, "a DespatchAdvice", &doc, &doc.XMLName); err != nil {
		return Despatch{}, err
	}
	d := Despatch{Number: strings.TrimSpace(doc.ID), Order: strings.TrimSpace(doc.Order)}
	for i, l := range doc.Lines {
		read, err := l.Item.line(l.Quantity)
		if err != nil || i >= mostUBLLines {
			return d, fault.Field("file", l.Quantity, "a UBL 2.1 DespatchAdvice", "Line %d of the file can't be read: %v.", i+1, err)
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
	if err := readUBL(data, ublInvoice, "an Invoice", &doc, &doc.XMLName); err != nil {
		return Invoice{}, err
	}
	bill := Invoice{Number: strings.TrimSpace(doc.ID), Order: strings.TrimSpace(doc.Order), Currency: strings.TrimSpace(doc.Money), Day: ublDay(doc.Issued), Due: ublDay(doc.Due)}
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
