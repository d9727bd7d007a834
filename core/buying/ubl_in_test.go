package buying_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
)

const despatch = `<?xml version="1.0" encoding="UTF-8"?>
<DespatchAdvice xmlns="urn:oasis:names:specification:ubl:schema:xsd:DespatchAdvice-2"
  xmlns:cac="urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2" xmlns:cbc="urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2">
  <cbc:ID>LS-77</cbc:ID><cbc:IssueDate>2026-11-20</cbc:IssueDate><cac:OrderReference><cbc:ID>P-0001</cbc:ID></cac:OrderReference>
  <cac:DespatchLine><cbc:ID>1</cbc:ID><cbc:DeliveredQuantity unitCode="C62">4</cbc:DeliveredQuantity>
    <cac:Item><cac:SellersItemIdentification><cbc:ID>NF-1</cbc:ID></cac:SellersItemIdentification></cac:Item></cac:DespatchLine>
  <cac:DespatchLine><cbc:ID>2</cbc:ID><cbc:DeliveredQuantity unitCode="C62">2</cbc:DeliveredQuantity>
    <cac:Item><cac:StandardItemIdentification><cbc:ID schemeID="0160">2000000000015</cbc:ID></cac:StandardItemIdentification>
      <cac:ItemInstance><cbc:SerialID>BW1</cbc:SerialID></cac:ItemInstance><cac:ItemInstance><cbc:SerialID>BW2</cbc:SerialID>
        <cac:LotIdentification><cbc:LotNumberID>K614</cbc:LotNumberID><cbc:ExpiryDate>2127-04-30</cbc:ExpiryDate></cac:LotIdentification></cac:ItemInstance></cac:Item></cac:DespatchLine>
</DespatchAdvice>`

const invoice = `<Invoice xmlns="urn:oasis:names:specification:ubl:schema:xsd:Invoice-2"
  xmlns:cac="urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2" xmlns:cbc="urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2">
  <cbc:ID>NN-88213</cbc:ID><cbc:IssueDate>2026-11-21</cbc:IssueDate><cbc:DueDate>2026-12-21</cbc:DueDate>
  <cac:AllowanceCharge><cbc:ChargeIndicator>true</cbc:ChargeIndicator><cbc:Amount currencyID="GBP">12.00</cbc:Amount></cac:AllowanceCharge>
  <cac:LegalMonetaryTotal><cbc:PayableAmount currencyID="GBP">110.40</cbc:PayableAmount></cac:LegalMonetaryTotal>
  <cac:InvoiceLine><cbc:ID>1</cbc:ID><cbc:InvoicedQuantity unitCode="C62">4</cbc:InvoicedQuantity><cbc:LineExtensionAmount currencyID="GBP">80.00</cbc:LineExtensionAmount>
    <cac:Item><cac:SellersItemIdentification><cbc:ID>NF-1</cbc:ID></cac:SellersItemIdentification></cac:Item></cac:InvoiceLine>
</Invoice>`

func TestWhatASupplierSendsIsRead(t *testing.T) {
	d, err := buying.ReadDespatch([]byte(despatch))
	require.NoError(t, err)
	assert.Equal(t, "LS-77 P-0001", d.Number+" "+d.Order)
	require.Len(t, d.Lines, 2)
	assert.Equal(t, "NF-1 4", d.Lines[0].Theirs+" "+d.Lines[0].Quantity.String())
	assert.Equal(t, []string{"BW1", "BW2"}, d.Lines[1].Serials)
	assert.Equal(t, "2000000000015 K614 2127", d.Lines[1].GTIN+" "+d.Lines[1].Lot+" "+d.Lines[1].Expiry.Format("2006"))
	b, err := buying.ReadInvoice([]byte(invoice))
	require.NoError(t, err)
	assert.Equal(t, "NN-88213 12 110.4 80",
		b.Number+" "+b.Charges.String()+" "+b.Payable.String()+" "+b.Lines[0].Net.String())
	assert.Equal(t, "2026-11-21 2026-12-21", b.Day.Format("2006-01-02")+" "+b.Due.Format("2006-01-02"))
	for _, bad := range []string{"", "x", "<Invoice/>", invoice} {
		_, err := buying.ReadDespatch([]byte(bad))
		require.Error(t, err)
		assert.Equal(t, "file", fault.Of(err).Field)
	}
	for _, bad := range []string{"", despatch,
		`<Invoice xmlns="urn:oasis:names:specification:ubl:schema:xsd:Invoice-2"><InvoiceLine><InvoicedQuantity>1</InvoicedQuantity><LineExtensionAmount>-1</LineExtensionAmount></InvoiceLine></Invoice>`,
		`<Invoice xmlns="urn:oasis:names:specification:ubl:schema:xsd:Invoice-2"><AllowanceCharge><ChargeIndicator>false</ChargeIndicator><Amount>1</Amount></AllowanceCharge></Invoice>`} {
		_, err := buying.ReadInvoice([]byte(bad))
		require.Error(t, err)
		assert.Equal(t, "file", fault.Of(err).Field)
	}
}

func FuzzReadInvoice(f *testing.F) {
	f.Add([]byte(invoice))
	f.Add([]byte(despatch))
	f.Fuzz(func(t *testing.T, data []byte) {
		if b, err := buying.ReadInvoice(data); err == nil {
			for _, l := range b.Lines {
				if l.Net.IsNegative() || l.Quantity.IsNegative() {
					t.Fatalf("%+v was taken", l)
				}
			}
		}
		_, _ = buying.ReadDespatch(data)
	})
}

// TestWhereALineOfABillGoes: on what came, the earliest first, then on what is awaited; what is
// beyond both shows on the last that came; the net is lost nowhere, in yen either.
func TestWhereALineOfABillGoes(t *testing.T) {
	d := decimal.RequireFromString
	line := func(quantity, net string) buying.InvoicedLine {
		return buying.InvoicedLine{ReadLine: buying.ReadLine{SKU: "VEST-M", Quantity: d(quantity)}, Net: d(net)}
	}
	for _, c := range []struct {
		line    buying.InvoicedLine
		came    []decimal.Decimal
		awaited bool
		minor   money.Minor
		want    string
	}{
		{line("4", "80.00"), []decimal.Decimal{d("4")}, false, money.Hundredth, "0:4=80"},
		{line("3", "10.00"), []decimal.Decimal{d("0"), d("1"), d("5")}, true, money.Hundredth, "1:1=3.33 2:2=6.67"},
		{line("3", "100"), []decimal.Decimal{d("1"), d("1")}, true, money.CurrencyByCode("JPY").Minor,
			"0:1=34 1:1=33 -1:1=33"},
		{line("5", "50.00"), []decimal.Decimal{d("2"), d("2")}, false, money.Hundredth, "0:2=20 1:3=30"},
		{line("5", "50.00"), nil, true, money.Hundredth, "-1:5=50"},
		{line("5", "50.00"), []decimal.Decimal{d("0")}, false, money.Hundredth, ""},
		{line("2", "0"), []decimal.Decimal{d("1"), d("1")}, false, money.Hundredth, "0:1=0 1:1=0"},
	} {
		got := ""
		for _, p := range c.line.Placed(c.came, c.awaited, c.minor) {
			got += fmt.Sprintf(" %d:%s=%s", p.At, p.Quantity, p.Net)
		}
		assert.Equal(t, c.want, strings.TrimSpace(got))
	}
	assert.NoError(t, buying.CheckCurrency("", money.CurrencyByCode("GBP")))
	assert.NoError(t, buying.CheckCurrency("GBP", money.CurrencyByCode("GBP")))
	assert.Equal(t, "file", fault.Of(buying.CheckCurrency("EUR", money.CurrencyByCode("GBP"))).Field)
}

// TestAFileIsReadInItsEncoding: with a mark at its beginning, or as it says; orders as well.
func TestAFileIsReadInItsEncoding(t *testing.T) {
	file := func(encoding string) string {
		return `<?xml version="1.0" encoding="` + encoding + `"?>` + strings.ReplaceAll(invoice, "NN-88213", "NNÜ-1")
	}
	wide := func(order encoding.Encoding, text string) string {
		out, err := order.NewEncoder().String(text)
		require.NoError(t, err)
		return out
	}
	for name, data := range map[string]string{
		"plain": file("utf-8"), "marked": "\ufeff" + file("UTF-8"), "says nothing": strings.ReplaceAll(invoice,
			"NN-88213", "NNÜ-1"),
		"Latin": wide(charmap.ISO8859_1, file("ISO-8859-1")), "Windows": wide(charmap.Windows1252,
			file("windows-1252")),
		"wide": wide(unicode.UTF16(unicode.LittleEndian, unicode.UseBOM),
			file("UTF-16")), "wide, the other way": wide(unicode.UTF16(unicode.BigEndian, unicode.UseBOM),
			file("utf-16")),
	} {
		bill, err := buying.ReadInvoice([]byte(data))
		require.NoError(t, err, name)
		assert.Equal(t, "NNÜ-1", bill.Number, name)
		assert.True(t, buying.IsXML([]byte(data)), name)
	}
	_, err := buying.ReadInvoice([]byte(file("utf-8")[:300]))
	assert.ErrorContains(t, err, "can't be read as a UBL 2.1 Invoice")
	_, err = buying.ReadInvoice([]byte(file("klingon")))
	assert.ErrorContains(t, err, "klingon")
	_, err = buying.ReadInvoice([]byte("a list of goods"))
	assert.ErrorContains(t, err, "no XML")
	assert.False(t, buying.IsXML([]byte("sku,quantity\n<b>,1\n")))
	assert.False(t, buying.IsXML(nil))
	assert.Equal(t, "a line without a code", buying.ReadLine{}.Code())
	assert.Equal(t, "SKU-1", buying.ReadLine{SKU: "SKU-1", Theirs: "T"}.Code())
	order, err := buying.ReadUBL([]byte(wide(charmap.ISO8859_1,
		`<?xml version="1.0" encoding="iso-8859-1"?><Order xmlns="urn:oasis:names:specification:ubl:schema:xsd:Order-2"><ID>Ö-1</ID></Order>`)))
	require.NoError(t, err)
	assert.Equal(t, "Ö-1", order.Number)
	_, err = buying.ReadUBL([]byte(invoice))
	assert.ErrorContains(t, err, `its root is "Invoice"`)
}
