package buying

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/text"
)

// The namespaces of UBL 2.1 (OASIS, Universal Business Language).
const (
	ublOrder = "urn:oasis:names:specification:ubl:schema:xsd:Order-2"
	ublCAC   = "urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2"
	ublCBC   = "urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2"
)

// CheckCurrency refuses a document whose amounts are in another currency than the shop's; one
// that says none is taken to be in the shop's.
func CheckCurrency(code string, shop money.Currency) error {
	if code == "" || code == shop.Code {
		return nil
	}
	return fault.Field("file", code, "a file with amounts in "+shop.Code,
		"The file's amounts are in %s, and the shop's books in %s.", code, shop.Code)
}

// unitCodes are the units by UN/ECE Recommendation 20.
var unitCodes = map[string]string{"pc": "C62", "m": "MTR", "kg": "KGM"}

// UBL writes the order as a UBL 2.1 Order, its elements in the order of the schema.
func (p Paper) UBL() ([]byte, error) {
	var out bytes.Buffer
	out.WriteString(xml.Header)
	w := &ublWriter{to: &out, currency: p.Currency.Code, places: p.Currency.Minor.Places()}
	w.begin(fmt.Sprintf(`Order xmlns=%q xmlns:cac=%q xmlns:cbc=%q`, ublOrder, ublCAC, ublCBC))
	w.text("cbc:UBLVersionID", "2.1")
	w.text("cbc:ID", p.Number)
	w.text("cbc:IssueDate", p.Day.Format(time.DateOnly))
	w.text("cbc:Note", p.Note)
	w.text("cbc:DocumentCurrencyCode", p.Currency.Code)
	w.text("cbc:LineCountNumeric", fmt.Sprint(len(p.Lines)))
	w.begin("cac:BuyerCustomerParty")
	w.text("cbc:SupplierAssignedAccountID", p.Account)
	w.party(p.Shop)
	w.end("cac:BuyerCustomerParty")
	w.begin("cac:SellerSupplierParty")
	w.party(p.Supplier)
	w.end("cac:SellerSupplierParty")
	w.begin("cac:Delivery")
	if p.Wanted != nil {
		w.begin("cac:RequestedDeliveryPeriod")
		w.text("cbc:EndDate", p.Wanted.Format(time.DateOnly))
		w.end("cac:RequestedDeliveryPeriod")
	}
	w.begin("cac:DeliveryParty")
	w.begin("cac:PartyName")
	w.text("cbc:Name", p.Branch)
	w.end("cac:PartyName")
	w.end("cac:DeliveryParty")
	w.end("cac:Delivery")
	t := p.Totals()
	w.begin("cac:TaxTotal")
	w.amount("cbc:TaxAmount", t.Tax)
	w.end("cac:TaxTotal")
	w.begin("cac:AnticipatedMonetaryTotal")
	w.amount("cbc:LineExtensionAmount", t.Net)
	w.amount("cbc:TaxExclusiveAmount", t.Net)
	w.amount("cbc:TaxInclusiveAmount", t.Gross)
	w.amount("cbc:PayableAmount", t.Gross)
	w.end("cac:AnticipatedMonetaryTotal")
	for i, l := range p.Lines {
		w.line(i+1, l, p)
	}
	w.end("Order")
	return out.Bytes(), w.err
}

// ublWriter writes elements; the first error stays.
type ublWriter struct {
	to       *bytes.Buffer
	currency string
	places   int32
	err      error
}

func (w *ublWriter) begin(tag string) { w.to.WriteString("<" + tag + ">") }
func (w *ublWriter) end(tag string)   { w.to.WriteString("</" + tag + ">\n") }

// text writes an element with a text; an empty one is left out, as UBL wants.
func (w *ublWriter) text(tag, text string) { w.with(tag, "", text) }

func (w *ublWriter) with(tag, attributes, text string) {
	if text == "" || w.err != nil {
		return
	}
	w.to.WriteString("<" + tag + attributes + ">")
	w.err = xml.EscapeText(w.to, []byte(text))
	w.end(tag)
}

func (w *ublWriter) amount(tag string, amount decimal.Decimal) {
	w.with(tag, fmt.Sprintf(" currencyID=%q", w.currency), amount.StringFixed(w.places))
}

func (w *ublWriter) party(name string) {
	w.begin("cac:Party")
	w.begin("cac:PartyName")
	w.text("cbc:Name", name)
	w.end("cac:PartyName")
	w.end("cac:Party")
}

func (w *ublWriter) id(tag, attributes, id string) {
	if id == "" {
		return
	}
	w.begin(tag)
	w.with("cbc:ID", attributes, id)
	w.end(tag)
}

// line writes a line: units at a price for so many of them, less an allowance.
func (w *ublWriter) line(n int, l PaperLine, p Paper) {
	unit := fmt.Sprintf(" unitCode=%q", unitCodes[l.Unit])
	net := l.Net(p.Currency.Minor)
	w.begin("cac:OrderLine")
	w.begin("cac:LineItem")
	w.text("cbc:ID", fmt.Sprint(n))
	w.with("cbc:Quantity", unit, l.Quantity.String())
	w.amount("cbc:LineExtensionAmount", net)
	if l.Discount.IsPositive() {
		full := l.Ordered
		full.Discount = decimal.Zero
		w.begin("cac:AllowanceCharge")
		w.text("cbc:ChargeIndicator", "false")
		w.text("cbc:AllowanceChargeReason", "Discount")
		w.text("cbc:MultiplierFactorNumeric", l.Discount.Div(hundred).String())
		w.amount("cbc:Amount", full.Net(p.Currency.Minor).Sub(net))
		w.amount("cbc:BaseAmount", full.Net(p.Currency.Minor))
		w.end("cac:AllowanceCharge")
	}
	w.begin("cac:Price")
	w.with("cbc:PriceAmount", fmt.Sprintf(" currencyID=%q", w.currency), l.Price.String())
	w.with("cbc:BaseQuantity", unit, l.Factor.String())
	w.end("cac:Price")
	w.begin("cac:Item")
	w.text("cbc:Description", l.Label)
	w.text("cbc:Name", l.Name)
	w.id("cac:BuyersItemIdentification", "", l.SKU)
	w.id("cac:SellersItemIdentification", "", l.Theirs)
	if barcode.GTIN(l.Code) {
		w.id("cac:StandardItemIdentification", ` schemeID="0160"`, l.Code)
	}
	w.end("cac:Item")
	w.end("cac:LineItem")
	w.end("cac:OrderLine")
}

// Read is an order that was read from a file: what is asked for, by which codes. Price is of
// Factor units, before Discount percent. Currency is the ISO 4217 code of its amounts, if it says one.
type Read struct {
	Number   string
	Currency string
	Note     string
	Wanted   *time.Time
	Lines    []ReadLine
}

// ReadLine is one line of an order that was read. Codes are those it may be known by: GTIN,
// SKU, the supplier's number.
type ReadLine struct {
	GTIN, SKU, Theirs string
	Quantity          decimal.Decimal
	Price             *decimal.Decimal
	Factor            decimal.Decimal
	Discount          decimal.Decimal
}

// Code is what a line that was read calls its goods: our SKU, else the barcode, else theirs.
func (l ReadLine) Code() string {
	return text.Or(text.Or(text.Or(l.SKU, l.GTIN), l.Theirs), "a line without a code")
}

// ublLineItem is what is read of a line.
type ublLineItem struct {
	Quantity string `xml:"Quantity"`
	Price    struct {
		Amount string `xml:"PriceAmount"`
		Base   string `xml:"BaseQuantity"`
	} `xml:"Price"`
	Allowances []struct {
		Charge string `xml:"ChargeIndicator"`
		Factor string `xml:"MultiplierFactorNumeric"`
	} `xml:"AllowanceCharge"`
	Item ublItem `xml:"Item"`
}

// mostUBLLines bounds the lines of an order that is read.
const mostUBLLines = 10_000

// ReadUBL reads a UBL 2.1 Order.
func ReadUBL(data []byte) (Read, error) {
	var doc struct {
		XMLName  xml.Name
		ID       string   `xml:"ID"`
		Notes    []string `xml:"Note"`
		Currency string   `xml:"DocumentCurrencyCode"`
		Wanted   string   `xml:"Delivery>RequestedDeliveryPeriod>EndDate"`
		Lines    []struct {
			Item ublLineItem `xml:"LineItem"`
		} `xml:"OrderLine"`
	}
	wrong := func(why string, args ...any) error {
		return fault.Field("file", "", "a UBL 2.1 Order", "The file can't be read as an order: "+why+".", args...)
	}
	if err := readUBL(data, ublOrder, "Order", &doc, &doc.XMLName); err != nil {
		return Read{}, err
	}
	if len(doc.Lines) > mostUBLLines {
		return Read{}, wrong("it has more than %d lines", mostUBLLines)
	}
	r := Read{Number: strings.TrimSpace(doc.ID), Currency: strings.TrimSpace(doc.Currency),
		Note: strings.Join(doc.Notes, "\n")}
	if day, err := time.Parse(time.DateOnly, strings.TrimSpace(doc.Wanted)); err == nil {
		r.Wanted = &day
	}
	for i, l := range doc.Lines {
		line, err := l.Item.read()
		if err != nil {
			return r, wrong("line %d: %v", i+1, err)
		}
		r.Lines = append(r.Lines, line)
	}
	return r, nil
}

func (l ublLineItem) read() (ReadLine, error) {
	line := ReadLine{GTIN: strings.TrimSpace(l.Item.Standard), SKU: strings.TrimSpace(l.Item.Buyers),
		Theirs: strings.TrimSpace(l.Item.Sellers),
		Factor: decimal.New(1, 0)}
	var err error
	if line.Quantity, err = figure(l.Quantity); err != nil || line.Quantity.IsNegative() {
		return line, fmt.Errorf("%q is no quantity", l.Quantity)
	}
	if strings.TrimSpace(l.Price.Amount) != "" {
		price, err := figure(l.Price.Amount)
		if err != nil || price.IsNegative() {
			return line, fmt.Errorf("%q is no price", l.Price.Amount)
		}
		line.Price = &price
	}
	if strings.TrimSpace(l.Price.Base) != "" {
		if line.Factor, err = figure(l.Price.Base); err != nil || !line.Factor.IsPositive() {
			return line, fmt.Errorf("%q is no base quantity", l.Price.Base)
		}
	}
	for _, a := range l.Allowances {
		if strings.TrimSpace(a.Charge) != "false" || strings.TrimSpace(a.Factor) == "" {
			continue
		}
		factor, err := figure(a.Factor)
		if err != nil || CheckDiscount(factor.Mul(hundred)) != nil {
			return line, fmt.Errorf("%q is no discount", a.Factor)
		}
		line.Discount = factor.Mul(hundred)
	}
	return line, nil
}

// longestFigure bounds a figure in a file.
const longestFigure = 30

func figure(text string) (decimal.Decimal, error) {
	text = strings.TrimSpace(text)
	if len(text) > longestFigure || strings.ContainsAny(text, "eE") {
		return decimal.Zero, fmt.Errorf("%q is no figure", text)
	}
	return decimal.NewFromString(text)
}
