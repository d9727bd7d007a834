package buying_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
)

// TestWhatASupplierSendsBecomesDrafts: its despatch advice a delivery against our order, its
// invoice a bill for what came and what is awaited.
func TestWhatASupplierSendsBecomesDrafts(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	supplier := neoprene(t, s)
	theirs := "NF-1"
	a, b := vest.Variants[0], vest.Variants[1]
	o := ordered(t, s, supplier, buying.OrderLineInput{Variant: a.ID, Quantity: "6", Price: "20", Discount: "0",
		PartNumber: &theirs},
		buying.OrderLineInput{Variant: b.ID, Quantity: "4", Price: "10", Discount: "0"})
	item := func(tag, id string) string {
		return "<Item><" + tag + "><ID>" + id + "</ID></" + tag + "></Item>"
	}
	despatch := `<DespatchAdvice xmlns="urn:oasis:names:specification:ubl:schema:xsd:DespatchAdvice-2"><ID>LS-77</ID><OrderReference><ID>` + o.Number + `</ID></OrderReference>` +
		`<DespatchLine><DeliveredQuantity>4</DeliveredQuantity>` + item("SellersItemIdentification", "NF-1") +
		`</DespatchLine>` +
		`<DespatchLine><DeliveredQuantity>4</DeliveredQuantity>` + item("StandardItemIdentification", b.Barcode) +
		`</DespatchLine>` +
		`<DespatchLine><DeliveredQuantity>1</DeliveredQuantity>` +
		item("StandardItemIdentification", "4000000000006") + `</DespatchLine></DespatchAdvice>`
	came, err := buying.ReadDelivery(s.By(s.Callum), buying.DeliveryInput{Branch: 1}, []byte(despatch))
	require.NoError(t, err)
	_, err = buying.ReadDelivery(s.By(s.Callum), buying.DeliveryInput{Branch: 1}, []byte(despatch))
	assert.ErrorContains(t, err, "LS-77 is a delivery that was begun already", "read twice")
	assert.Equal(t, "2 4000000000006", string(rune('0'+came.Lines))+" "+strings.Join(came.Unknown, " "))
	view, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), came.ID)
	require.NoError(t, err)
	assert.Equal(t, "LS-77", view.SupplierNumber)
	assert.True(t, view.BillLater)
	assert.Equal(t, "20 10", lines[0].Cost.String()+" "+lines[1].Cost.String(), "at what was agreed")
	_, err = buying.PostDelivery(s.By(s.Maren), came.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	_, err = buying.ReadDelivery(s.By(s.Callum), buying.DeliveryInput{Branch: 1},
		[]byte(strings.ReplaceAll(despatch, o.Number, "X")))
	assert.Equal(t, "supplier_id", fault.Of(err).Field)

	invoice := `<Invoice xmlns="urn:oasis:names:specification:ubl:schema:xsd:Invoice-2"><ID>NN-1</ID><IssueDate>2026-11-21</IssueDate>` +
		`<LegalMonetaryTotal><PayableAmount>199.20</PayableAmount></LegalMonetaryTotal>` +
		`<InvoiceLine><InvoicedQuantity>6</InvoicedQuantity><LineExtensionAmount>126.00</LineExtensionAmount>` +
		item("SellersItemIdentification", "NF-1") + `</InvoiceLine>` +
		`<InvoiceLine><InvoicedQuantity>4</InvoicedQuantity><LineExtensionAmount>40.00</LineExtensionAmount>` +
		item("StandardItemIdentification", b.Barcode) + `</InvoiceLine></Invoice>`
	bill, err := buying.ReadBill(s.By(s.Maren), buying.BillInput{Supplier: supplier}, []byte(invoice))
	require.NoError(t, err)
	assert.Equal(t, 3, bill.Lines, "four of a came, two are awaited")
	draft, billed, _, err := storebuying.ReadBill(s.Store.Read(ctx), bill.ID)
	require.NoError(t, err)
	assert.Equal(t, "NN-1 2026-11-21 199.2",
		draft.Number+" "+draft.BilledOn.Format("2006-01-02")+" "+draft.Paper.String())
	assert.Equal(t, []string{"4 84", "2 42", "4 40"}, []string{billed[0].Quantity.String() + " " +
		billed[0].Net.String(), billed[1].Quantity.String() + " " + billed[1].Net.String(),
		billed[2].Quantity.String() + " " + billed[2].Net.String()})
	_, err = buying.PostBill(s.By(s.Maren), bill.ID)
	require.NoError(t, err)
	s.InStep(t)
	again, err := buying.ReadBill(s.By(s.Maren), buying.BillInput{Supplier: supplier},
		[]byte(strings.ReplaceAll(invoice, "NN-1", "NN-2")))
	require.NoError(t, err)
	assert.Equal(t, []string{b.Barcode}, again.NotAwaited, "all of b came and is billed")
	from := strings.Index(invoice, "<InvoiceLine>")
	_, err = buying.ReadBill(s.By(s.Maren), buying.BillInput{Supplier: supplier},
		[]byte(strings.ReplaceAll(invoice[:from], "NN-1", "NN-3")+invoice[strings.LastIndex(invoice,
			"<InvoiceLine>"):]))
	assert.ErrorContains(t, err, "is awaited")
	_, err = buying.ReadBill(s.By(s.Maren), buying.BillInput{Supplier: supplier},
		[]byte(strings.ReplaceAll(invoice, "<IssueDate>",
			"<DocumentCurrencyCode>EUR</DocumentCurrencyCode><IssueDate>")))
	assert.ErrorContains(t, err, "EUR")
}
