package buying_test

import (
	"bytes"
	"encoding/base64"
	"encoding/csv"
	"io"
	"mime"
	"mime/multipart"
	"net/mail"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/device"
	"itemrack/sheet"
	"itemrack/shop/buying"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
	"itemrack/store/devices"
)

// parsed reads a mail by the libraries of MIME: its head, and its parts by their names.
func parsed(t *testing.T, raw []byte) (mail.Header, map[string][]byte) {
	t.Helper()
	m, err := mail.ReadMessage(bytes.NewReader(raw))
	require.NoError(t, err)
	kind, parameters, err := mime.ParseMediaType(m.Header.Get("Content-Type"))
	require.NoError(t, err)
	require.Equal(t, "multipart/mixed", kind)
	parts := map[string][]byte{}
	for r := multipart.NewReader(m.Body, parameters["boundary"]); ; {
		part, err := r.NextPart()
		if err == io.EOF {
			return m.Header, parts
		}
		require.NoError(t, err)
		data, err := io.ReadAll(part)
		require.NoError(t, err)
		if part.Header.Get("Content-Transfer-Encoding") == "base64" {
			data = decoded(t, data)
		}
		parts[part.FileName()] = data
	}
}

// TestAnOrderIsSent by mail: placed by it, as PDF, CSV and UBL, which read in as the same
// order; changed, it says so and goes again.
func TestAnOrderIsSent(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	supplier := neoprene(t, s)
	draft, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1,
		Note: "By the back door, 漢.",
		Lines: []buying.OrderLineInput{{Variant: vest.Variants[0].ID, Quantity: "6", Price: "64"},
			{Variant: vest.Variants[1].ID, Quantity: "8", Price: "9.5", Discount: "0"}}})
	require.NoError(t, err)
	_, err = office.SetDevice(s.By(s.Maren), device.Mailbox, device.NoAnswer)
	require.NoError(t, err)
	_, err = buying.SendOrder(s.By(s.Maren, "k"), draft.ID, buying.SendInput{})
	require.True(t, fault.Is(err, fault.Refused), "the mailbox does not answer")
	_, err = office.SetDevice(s.By(s.Maren), device.Mailbox, device.Ready)
	require.NoError(t, err)
	_, err = buying.SendOrder(s.By(s.Maren), draft.ID, buying.SendInput{To: "not an address"})
	assert.Equal(t, "to", fault.Of(err).Field)
	sent, err := buying.SendOrder(s.By(s.Maren, "k"), draft.ID, buying.SendInput{})
	require.NoError(t, err)
	assert.Equal(t, corebuying.Placed, sent.State)
	_, err = buying.SendOrder(s.By(s.Maren, "k"), draft.ID, buying.SendInput{})
	require.NoError(t, err, "the same request again")
	mails, err := devices.Mails(s.Store.Read(ctx), 9)
	require.NoError(t, err)
	require.Len(t, mails, 1)
	m, err := devices.ReadMail(s.Store.Read(ctx), mails[0].ID)
	require.NoError(t, err)
	head, parts := parsed(t, m.Raw)
	to, err := head.AddressList("To")
	require.NoError(t, err)
	assert.Equal(t, "orders@northfold.example", to[0].Address)
	assert.Equal(t, "Order P-0001 of Saltmarsh Paddle & Swim", head.Get("Subject"))
	_, err = head.Date()
	require.NoError(t, err)
	assert.NotEmpty(t, head.Get("Message-Id"))
	assert.Contains(t, string(parts[""]), "order P-0001 asks for: 14 units")
	assert.True(t, bytes.HasPrefix(parts["P-0001.pdf"], []byte("%PDF-")))
	rows, err := csv.NewReader(bytes.NewReader(parts["P-0001.csv"])).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 3)

	// the files read in as the same order
	before, lines := readOrder(t, s, draft.ID)
	xlsx, err := buying.OrderSheet(s.By(s.Maren), draft.ID, sheet.XLSX)
	require.NoError(t, err)
	for name, data := range map[string][]byte{"xml": parts["P-0001.xml"], "csv": parts["P-0001.csv"], "xlsx": xlsx} {
		read, err := buying.ReadOrderIn(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1},
			data)
		require.NoError(t, err, name)
		assert.Equal(t, 2, read.Lines)
		assert.Empty(t, read.Unknown)
		again, same := readOrder(t, s, read.ID)
		assert.True(t, before.Net.Equal(again.Net), "%s: %s, was %s", name, again.Net, before.Net)
		require.Len(t, same, 2)
		for i := range same {
			assert.Equal(t, lines[i].VariantID, same[i].VariantID)
			assert.True(t, lines[i].Quantity.Equal(same[i].Quantity) && lines[i].Discount.Equal(same[i].Discount))
		}
	}

	// changed since it was sent, and sent again
	_, err = buying.PutOrderLines(s.By(s.Maren), draft.ID,
		[]buying.OrderLineInput{{Variant: vest.Variants[0].ID, Quantity: "7"}})
	require.NoError(t, err)
	view, _ := readOrder(t, s, draft.ID)
	assert.True(t, view.ChangedAt.After(*view.SentAt))
	_, err = buying.SendOrder(s.By(s.Maren), draft.ID,
		buying.SendInput{To: "ada@northfold.example", Text: "One more, please."})
	require.NoError(t, err)
	mails, err = devices.Mails(s.Store.Read(ctx), 9)
	require.NoError(t, err)
	assert.Equal(t, "ada@northfold.example Order P-0001 of Saltmarsh Paddle & Swim, changed",
		mails[0].Recipient+" "+mails[0].Subject)
	_, err = buying.OrderUBL(s.By(s.Tobi), draft.ID)
	assert.True(t, fault.Is(err, fault.Forbidden), "what things cost is not a clerk's to see")
}

// TestAnOrderIsReadFromAList of the supplier's numbers; what nobody knows is listed.
func TestAnOrderIsReadFromAList(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	supplier := neoprene(t, s)
	theirs := "NF-1"
	ordered(t, s, supplier, buying.OrderLineInput{Variant: vest.Variants[0].ID, Quantity: "1", Price: "20",
		PartNumber: &theirs})
	read := func(text string) (buying.ReadIn, error) {
		return buying.ReadOrderIn(s.By(s.Maren), buying.OrderInput{Supplier: supplier, Branch: 1},
			[]byte(text))
	}
	in, err := read("Their number;SKU;Quantity;Price;Discount %\nnf-1;;4;19,50;5\n;" + vest.Variants[1].SKU +
		";2;;\n;NOWHERE;3;;\n;" + vest.Variants[1].SKU + ";1;;\n")
	require.NoError(t, err)
	assert.Equal(t, []string{"NOWHERE"}, in.Unknown)
	_, lines := readOrder(t, s, in.ID)
	require.Len(t, lines, 2)
	assert.Equal(t, "4 19.5 5", lines[0].Quantity.String()+" "+lines[0].Price.String()+" "+lines[0].Discount.String())
	assert.Equal(t, "3", lines[1].Quantity.String(), "two lines of the same goods are one")
	for _, bad := range []string{"sku,price\nA,1\n", "sku,quantity\n" + vest.Variants[0].SKU + ",many\n",
		"sku,quantity\nNOWHERE,1\n", "", "<a/>"} {
		_, err := read(bad)
		require.Error(t, err, bad)
		require.NotNil(t, fault.Of(err), "%q: %v", bad, err)
	}
	_, err = read("sku,quantity\n" + vest.Variants[0].SKU + ",many\n")
	assert.True(t, strings.HasPrefix(err.Error(), "Line 2"), err.Error())
}

func decoded(t *testing.T, data []byte) []byte {
	t.Helper()
	out, err := io.ReadAll(base64.NewDecoder(base64.StdEncoding,
		bytes.NewReader(bytes.ReplaceAll(data, []byte("\r\n"), nil))))
	require.NoError(t, err)
	return out
}
