package buying_test

import (
	"encoding/xml"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/paper"
)

// wide measures every letter as half its size.
func wide(text string, _ paper.Face, size float64) float64 {
	return float64(len([]rune(text))) * size / 2
}

func anOrder(lines int) buying.Paper {
	wanted := time.Date(2026, 12, 10, 0, 0, 0, 0, time.UTC)
	p := buying.Paper{Shop: "Saltmarsh Paddle & Swim", Branch: "Quay Shop", Number: "P-0142",
		Supplier: "Northfold <Neoprene>", Account: "SPS-2207",
		Day: time.Date(2026, 11, 26, 0, 0, 0, 0,
			time.UTC), Wanted: &wanted, Note: "By the back door & quietly.", Currency: money.CurrencyByCode("GBP")}
	for i := range lines {
		p.Lines = append(p.Lines, buying.PaperLine{Code: "2000000000015", SKU: fmt.Sprint("HWS-", i),
			Theirs: "NF-4312-L", Name: "Headland wetsuit 4/3", Label: "Slate · L",
			Unit: "pc", Pack: "box", Ordered: ordered("40", "12", "18", "8")})
	}
	return p
}

func TestAnOrderOnPaper(t *testing.T) {
	p := anOrder(40)
	pages := p.Pages(wide)
	assert.Len(t, pages, 3)
	said := func(page paper.Page) string {
		var all []string
		for _, s := range page.Shapes {
			assert.LessOrEqual(t, s.Y, page.Height, "nothing hangs below the page")
			if s.Text != "" {
				all = append(all, s.Text)
			}
		}
		return strings.Join(all, "|")
	}
	first, last := said(pages[0]), said(pages[2])
	for _, want := range []string{"Order P-0142", "our number with you: SPS-2207", "wanted by 10 December 2026",
		"By the back door & quietly.", "3 × box + 4 = 40 pc",
		"18.00", "less 8 %", "55.20", "yours NF-4312-L · ours HWS-0", "P-0142 · page 1 of 3"} {
		assert.Contains(t, first, want)
	}
	assert.NotContains(t, first, "In all")
	assert.Contains(t, last, "2208.00|Tax|441.60|In all, GBP|2649.60")
	assert.Len(t, buying.Paper{Currency: money.CurrencyByCode("GBP")}.Pages(wide), 1, "an order of nothing")
	odd := anOrder(1)
	odd.Lines[0].Code = "漢"
	assert.Contains(t, said(odd.Pages(wide)[0]), "漢", "what no barcode holds")
}

// schemaOrder is the order of the elements of the UBL 2.1 schema, as far as an order uses
// them; what is written must follow it.
var schemaOrder = map[string][]string{
	"Order": {"UBLVersionID", "ID", "IssueDate", "Note", "DocumentCurrencyCode", "LineCountNumeric",
		"BuyerCustomerParty", "SellerSupplierParty", "Delivery", "TaxTotal",
		"AnticipatedMonetaryTotal", "OrderLine"},
	"BuyerCustomerParty": {"SupplierAssignedAccountID",
		"Party"}, "SellerSupplierParty": {"Party"}, "Party": {"PartyName"}, "PartyName": {"Name"},
	"Delivery": {"RequestedDeliveryPeriod",
		"DeliveryParty"}, "RequestedDeliveryPeriod": {"EndDate"}, "DeliveryParty": {"PartyName"},
	"TaxTotal": {"TaxAmount"},
	"AnticipatedMonetaryTotal": {"LineExtensionAmount", "TaxExclusiveAmount", "TaxInclusiveAmount",
		"PayableAmount"}, "OrderLine": {"LineItem"},
	"LineItem": {"ID", "Quantity", "LineExtensionAmount", "AllowanceCharge", "Price", "Item"},
	"AllowanceCharge": {"ChargeIndicator", "AllowanceChargeReason", "MultiplierFactorNumeric", "Amount",
		"BaseAmount"},
	"Price": {"PriceAmount", "BaseQuantity"},
	"Item": {"Description", "Name", "BuyersItemIdentification", "SellersItemIdentification",
		"StandardItemIdentification"},
	"BuyersItemIdentification": {"ID"}, "SellersItemIdentification": {"ID"}, "StandardItemIdentification": {"ID"},
}

// follows holds a document against the order of the schema's elements, their namespaces, and
// that amounts name their currency and quantities their unit.
func follows(t *testing.T, data []byte) {
	t.Helper()
	d := xml.NewDecoder(strings.NewReader(string(data)))
	type level struct {
		name string
		at   int
	}
	var path []level
	for {
		token, err := d.Token()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		switch e := token.(type) {
		case xml.StartElement:
			if len(path) > 0 {
				above := &path[len(path)-1]
				place := -1
				for i, name := range schemaOrder[above.name] {
					if name == e.Name.Local {
						place = i
					}
				}
				require.GreaterOrEqual(t, place, above.at, "%s in %s", e.Name.Local, above.name)
				above.at = place
				_, holds := schemaOrder[e.Name.Local]
				want := "CommonBasicComponents-2"
				if holds {
					want = "CommonAggregateComponents-2"
				}
				require.True(t, strings.HasSuffix(e.Name.Space, want), "%s is in %s", e.Name.Local, e.Name.Space)
			}
			attributes := map[string]string{}
			for _, a := range e.Attr {
				attributes[a.Name.Local] = a.Value
			}
			if strings.HasSuffix(e.Name.Local, "Amount") {
				require.Equal(t, "GBP", attributes["currencyID"], e.Name.Local)
			}
			if strings.HasSuffix(e.Name.Local, "Quantity") {
				require.Equal(t, "C62", attributes["unitCode"], e.Name.Local)
			}
			path = append(path, level{name: e.Name.Local})
		case xml.EndElement:
			path = path[:len(path)-1]
		}
	}
}

// TestAnOrderAsUBL is read back into the same order.
func TestAnOrderAsUBL(t *testing.T) {
	p := anOrder(3)
	p.Lines[1].Discount, p.Lines[1].Theirs, p.Lines[1].Code = d("0"), "", "HWS-1"
	data, err := p.UBL()
	require.NoError(t, err)
	follows(t, data)
	assert.Contains(t, string(data), "Northfold &lt;Neoprene&gt;")
	read, err := buying.ReadUBL(data)
	require.NoError(t, err)
	assert.Equal(t, []string{"P-0142", "By the back door & quietly.", "2026-12-10"},
		[]string{read.Number, read.Note, read.Wanted.Format(time.DateOnly)})
	require.Len(t, read.Lines, 3)
	for i, l := range read.Lines {
		assert.Equal(t, p.Lines[i].SKU, l.SKU)
		assert.Equal(t, p.Lines[i].Theirs, l.Theirs)
		got := buying.Ordered{Quantity: l.Quantity, Factor: l.Factor, Price: *l.Price, Discount: l.Discount}
		assert.True(t, got.Net(pennies).Equal(p.Lines[i].Net(pennies)))
	}
	assert.Equal(t, "2000000000015", read.Lines[0].GTIN)
	assert.Empty(t, read.Lines[1].GTIN, "a SKU is no GTIN")
	for _, bad := range []string{"", "<a/>", "<Order/>", "not xml",
		`<Order xmlns="urn:oasis:names:specification:ubl:schema:xsd:Order-2"><OrderLine><LineItem><Quantity>x</Quantity></LineItem></OrderLine></Order>`} {
		_, err := buying.ReadUBL([]byte(bad))
		require.Error(t, err, bad)
		assert.Equal(t, "file", fault.Of(err).Field)
	}
}

func FuzzReadUBL(f *testing.F) {
	data, err := anOrder(2).UBL()
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data)
	f.Add([]byte(`<Order xmlns="urn:oasis:names:specification:ubl:schema:xsd:Order-2"><ID>1</ID></Order>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		read, err := buying.ReadUBL(data)
		if err != nil {
			return
		}
		for _, l := range read.Lines {
			if l.Quantity.IsNegative() || !l.Factor.IsPositive() || buying.CheckDiscount(l.Discount) != nil {
				t.Fatalf("%+v was taken", l)
			}
		}
	})
}
