package lists_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image/jpeg"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/sheet"
	"itemrack/shop/catalog"
	"itemrack/shop/lists"
	"itemrack/shop/office"
	shopscan "itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
	storelists "itemrack/store/lists"
)

// begin keeps a list and tries it, or reads it in, and waits for the end.
func ran(t *testing.T, s *testkit.Shop, id uint64, dryRun bool) lists.ImportView {
	t.Helper()
	v, err := lists.StartImport(s.By(s.Maren), id, lists.RunImport{DryRun: dryRun, Branch: 1})
	require.NoError(t, err)
	for range 400 {
		if v.State != lists.ImportRunning {
			return v
		}
		time.Sleep(20 * time.Millisecond)
		v, err = lists.Import(s.By(s.Maren), id)
		require.NoError(t, err)
	}
	t.Fatalf("the import did not end: %+v", v.ImportJob)
	return v
}

func begun(t *testing.T, s *testkit.Shop, kind, text string) lists.ImportView {
	t.Helper()
	v, err := lists.BeginImport(s.By(s.Maren), kind, "list.csv", strings.NewReader(text))
	require.NoError(t, err)
	return v
}

const listText = "Item Name;Färbung;Size;Department;EAN;Price;Cost;Qty\nVest;Coral;S;Swim > " +
	"Vests;;34,95;13.95;6\nVest;Coral;M;Swim > Vests;2000000000010;34.95;13.95;\nVest;Coral;L;Swim > " +
	"Vests;;36.95;13.95;2\n"

func TestAListIsTriedMendedAndReadIn(t *testing.T) {
	s := testkit.New(t)
	v := begun(t, s, lists.ImportCatalog, listText)
	assert.Equal(t, []string{"product", "", "size", "category", "barcode", "price", "cost", "opening quantity"},
		v.Match)
	v.Match[1] = "colour"
	v, err := lists.MatchColumns(s.By(s.Maren), v.ID, v.Match)
	require.NoError(t, err)
	v = ran(t, s, v.ID, true)
	assert.Equal(t, []any{lists.ImportTried, 2, 1, 3, 3}, []any{v.State, v.Made, v.Refused, v.Done, v.Total})
	id, err := goods.ProductByName(s.Store.Read(ctx), "Vest")
	require.NoError(t, err)
	assert.Zero(t, id, "a dry run keeps nothing")
	refused, err := storelists.ImportRows(s.Store.Read(ctx), v.ID, lists.RowRefused, 0, 10)
	require.NoError(t, err)
	require.Len(t, refused, 1)
	assert.Equal(t, []any{3, "barcode"}, []any{refused[0].Line, refused[0].Field})
	v = ran(t, s, v.ID, false)
	assert.Equal(t, lists.ImportRefused, v.State, "all or nothing")
	id, _ = goods.ProductByName(s.Store.Read(ctx), "Vest")
	assert.Zero(t, id)

	var mend bytes.Buffer
	require.NoError(t, lists.RefusedRows(s.By(s.Maren), v.ID, sheet.CSV, &mend))
	assert.Contains(t, mend.String(), "why it was refused")
	assert.Contains(t, mend.String(), "The check digit of 2000000000010 is 5, not 0")
	again := begun(t, s, lists.ImportCatalog, strings.Replace(listText, "2000000000010", "2000000000015", 1))
	assert.Equal(t, "colour", again.Match[1], "the matching is remembered")
	again = ran(t, s, again.ID, false)
	assert.Equal(t, []any{lists.ImportDone, 3, "OS-0001"}, []any{again.State, again.Made, again.DocumentNumber})
	_, err = lists.StartImport(s.By(s.Maren), again.ID, lists.RunImport{})
	assert.True(t, fault.Is(err, fault.Conflict), "once")
	s.InStep(t)

	same := ran(t, s,
		begun(t, s, lists.ImportCatalog, strings.Replace(listText, "2000000000010", "2000000000015", 1)).ID, false)
	assert.Equal(t, []any{0, 0, 3}, []any{same.Made, same.Changed, same.Same}, "the same file twice changes nothing")
}

func TestXLSXIsReadAsCSVIs(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	var out bytes.Buffer
	w, err := sheet.NewWriter(sheet.XLSX, &out, []string{"product", "colour", "size", "price", "barcode"})
	require.NoError(t, err)
	require.NoError(t, w.Write([]any{"Tidewater rash vest", "Coral", "S", 34.949999999999996, "00123"}))
	require.NoError(t, w.Write([]any{"Tidewater rash vest", "Coral", "M", "33.00", nil}))
	require.NoError(t, w.Close())
	v, err := lists.BeginImport(s.By(s.Maren), lists.ImportCatalog, "list.xlsx", &out)
	require.NoError(t, err)
	v = ran(t, s, v.ID, false)
	rows, err := storelists.ImportRows(s.Store.Read(ctx), v.ID, "", 0, 5)
	require.NoError(t, err)
	require.Equal(t, []any{lists.ImportDone, 2}, []any{v.State, v.Changed}, "%+v", rows)
	p := s.View(t, made.ID)
	assert.Equal(t, []string{"34.95", "33.00"},
		[]string{p.Variants[0].Price.StringFixed(2), p.Variants[1].Price.StringFixed(2)})
	found, err := goods.Find(s.Store.Read(ctx), "00123", 2)
	require.NoError(t, err)
	assert.Len(t, found, 1, "leading zeros stay")
}

func TestOpeningStockIsReadIn(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	lot, board := s.Simple(t, "Sun cream", "lot", "14.50"), s.Simple(t, "Board", "serial", "549.00")
	p := s.View(t, 2)
	_, err := catalog.SavePack(s.By(s.Maren), p.ID, 0,
		catalog.PackInput{Name: "box of 6", Factor: "6", Barcode: "96385074"})
	require.NoError(t, err)
	text := "SKU,Qty,Unit cost,Lot,Use by,Serials,Shelf\n" + made.Variants[0].SKU + ",4,13.95,,,,Wall A\n" +
		"96385074,2,36.00,K614,2127-06-30,,\n" + s.View(t, 3).Variants[0].SKU + ",2,310,,,BW1;BW2,\nNOWHERE,1,1,,,,\n"
	v := ran(t, s, begun(t, s, lists.ImportOpening, text).ID, true)
	assert.Equal(t, []any{3, 1}, []any{v.Made, v.Refused})
	rows, err := storelists.ImportRows(s.Store.Read(ctx), v.ID, lists.RowRefused, 0, 5)
	require.NoError(t, err)
	assert.Equal(t, lists.UnknownCode, rows[0].Field, "set apart, so that it can be made")
	v = ran(t, s, begun(t, s, lists.ImportOpening, strings.Replace(text, "NOWHERE,1,1,,,,\n", "", 1)).ID, false)
	require.Equal(t, lists.ImportDone, v.State, v.Says)
	assert.Equal(
		t,
		[]string{"4", "12", "2"},
		[]string{s.View(t, made.ID).Variants[0].ForSale.String(), s.View(t, 2).Variants[0].ForSale.String(),
			s.View(t, 3).Variants[0].ForSale.String()},
		"two boxes of 6 are 12",
	)
	assert.Equal(t, "72.00", s.View(t, 2).Variants[0].Value.StringFixed(2))
	s.InStep(t)
	back, err := stockroom.Reverse(s.By(s.Maren), v.DocumentNumber, "practice")
	require.NoError(t, err)
	assert.NotEmpty(t, back.Number)
	s.InStep(t)
	for line, field := range map[string]string{"1,1,,,,": "lot", "1,1,K1,,X,": "serial numbers"} {
		report, err := lists.ImportOpeningStock(s.By(s.Maren),
			strings.NewReader("code,quantity,cost,lot,expiry,serial numbers,shelf\n"+p.Variants[0].SKU+","+line+"\n"),
			1, true)
		require.NoError(t, err)
		require.Equal(t, 1, report.Refused, line)
		assert.Equal(t, field, report.Rows[0].Field, line)
	}
	done, err := lists.OpenStock(s.By(s.Maren, "typed"), lists.OpenStockInput{
		Branch: 1,
		Lines: openingOf(shopscan.GoodsLine{Variant: lot, Quantity: "3", Cost: "5", Lot: "K1"},
			shopscan.GoodsLine{Variant: board, Quantity: "1", Cost: "300", Serials: "BW9"}),
	},
	)
	require.NoError(t, err)
	assert.NotZero(t, done.Document, "the document is named")
	twice, err := lists.OpenStock(s.By(s.Maren, "typed"), lists.OpenStockInput{
		Branch: 1,
		Lines:  openingOf(shopscan.GoodsLine{Variant: lot, Quantity: "3", Cost: "5", Lot: "K1"}),
	},
	)
	require.NoError(t, err)
	assert.Equal(t, done.Number, twice.Number)
	s.InStep(t)
}

func TestPicturesComeWithAList(t *testing.T) {
	s := testkit.New(t)
	var picture, archive bytes.Buffer
	require.NoError(t, jpeg.Encode(&picture, testkit.Shot(60, 60, 255), nil))
	z := zip.NewWriter(&archive)
	f, err := z.Create("folder/Vest.JPG")
	require.NoError(t, err)
	_, _ = f.Write(picture.Bytes())
	require.NoError(t, z.Close())
	v := begun(t, s, lists.ImportCatalog,
		"product,category,price,picture\nVest,Swim,9.95,vest.jpg\nCap,Swim,5.00,none.jpg\n")
	v, err = lists.AddImportPictures(s.By(s.Maren), v.ID, &archive)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Pictures)
	v = ran(t, s, v.ID, false)
	require.Equal(t, lists.ImportDone, v.State, v.Says)
	assert.NotNil(t, s.View(t, 1).PictureID)
	assert.Nil(t, s.View(t, 2).PictureID)

	var evil bytes.Buffer
	z = zip.NewWriter(&evil)
	_, err = z.Create("../../etc/shop.jpg")
	require.NoError(t, err)
	require.NoError(t, z.Close())
	next := begun(t, s, lists.ImportCatalog, "product,category,price,picture\nHat,Swim,9.95,shop.jpg\n")
	_, err = lists.AddImportPictures(s.By(s.Maren), next.ID, &evil)
	assert.ErrorContains(t, err, "leads out of it")
	_, err = lists.AddImportPictures(s.By(s.Maren), next.ID, strings.NewReader("no zip"))
	assert.ErrorContains(t, err, "not a ZIP")
}

// endless is a file larger than any list.
type endless struct{ left int }

func (e *endless) Read(into []byte) (int, error) {
	n := min(len(into), e.left)
	if n == 0 {
		return 0, fmt.Errorf("read to its end")
	}
	e.left -= n
	for i := range into[:n] {
		into[i] = 'x'
	}
	return n, nil
}

func TestWhatIsNoListIsSaidInWords(t *testing.T) {
	s := testkit.New(t)
	for name, c := range map[string]struct{ text, says string }{
		"empty": {"", "empty"}, "picture": {"\x89PNG\r\n\x1a\n\x00\x00", "not a table"}, "PDF": {"%PDF-1.7",
			"PDF"}, "old": {"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "old spreadsheet"},
		"broken XLSX": {"PK\x03\x04xxxx", "can't be read"},
	} {
		_, err := lists.BeginImport(s.By(s.Maren), lists.ImportCatalog, name, strings.NewReader(c.text))
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), c.says, name)
	}
	_, err := lists.BeginImport(s.By(s.Maren), lists.ImportCatalog, "200 MB", &endless{200 << 20})
	assert.ErrorContains(t, err, "larger than 150 MB")
	v := begun(t, s, lists.ImportCatalog, "a,b\n1,2\n")
	_, err = lists.MatchColumns(s.By(s.Maren), v.ID, []string{"", ""})
	assert.Equal(t, "columns", fault.Of(err).Field, "it lacks the product")
	_, err = lists.MatchColumns(s.By(s.Maren), v.ID, []string{"product", "product"})
	assert.Error(t, err)
	_, err = lists.MatchColumns(s.By(s.Maren), v.ID, []string{"product"})
	assert.Error(t, err)
	v = begun(t, s, lists.ImportCatalog,
		"product,category,price,cost,opening "+
			"quantity\n=HYPERLINK(1),Swim,1,1,1\nVest,Swim,1,1,1e9\nCap,Swim,=1+1,1,1\n")
	v = ran(t, s, v.ID, true)
	assert.Equal(t, 3, v.Refused)
	_, err = lists.BeginImport(s.By(s.Tobi), lists.ImportCatalog, "x", strings.NewReader("product\nA\n"))
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = lists.BeginImport(s.By(s.Maren), "songs", "x", strings.NewReader("product\nA\n"))
	assert.Error(t, err)
}

func TestAnImportThatWasCutOffIsTold(t *testing.T) {
	s := testkit.New(t)
	v := begun(t, s, lists.ImportCatalog, "product,category,price\nVest,Swim,1\n")
	require.NoError(t,
		s.Spoil(fmt.Sprintf("UPDATE import_job SET state = 'running', seen_at = '2020-01-01' WHERE id = %d", v.ID)))
	v, err := lists.Import(s.By(s.Maren), v.ID)
	require.NoError(t, err)
	assert.Equal(t, lists.ImportRefused, v.State)
	assert.Contains(t, v.Says, "nothing was read in")
	v = ran(t, s, v.ID, false)
	assert.Equal(t, lists.ImportDone, v.State, "it can be begun again")
}

// TestTypedOpeningStock types a list with mistakes: each line says its own, the
// others are worked out, and nothing is posted until all are right.
func TestTypedOpeningStock(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t).Variants[0].ID
	cream, watch, lesson := s.Simple(t, "Sun cream", "lot", "9.00"), s.Simple(t, "Paddle watch", "serial",
		"190.00"), s.Simple(t, "Lesson", "not stocked", "35.00")
	lines := openingOf(
		shopscan.GoodsLine{Variant: vest,
			Quantity: "3 x 12 + 4",
			Cost:     "13.955",
		}, shopscan.GoodsLine{Variant: cream, Quantity: "5", Cost: "3", Expiry: "2127-04-30"},
		shopscan.GoodsLine{Variant: watch, Quantity: "2", Cost: "90", Serials: "N1"},
		shopscan.GoodsLine{Variant: lesson,
			Quantity: "1",
			Cost:     "0",
		}, shopscan.GoodsLine{Variant: vest, Quantity: "1.5", Cost: "1"},
		shopscan.GoodsLine{Variant: vest, Quantity: "1"}, shopscan.GoodsLine{Variant: 999, Quantity: "1", Cost: "1"},
		shopscan.GoodsLine{Variant: cream, Quantity: "", Cost: ""},
		shopscan.GoodsLine{Variant: vest,
			Quantity: "1",
			Cost:     "1",
			Lot:      "K1",
		}, shopscan.GoodsLine{Variant: vest, Quantity: "1", Cost: "1", Serials: "N9"},
		shopscan.GoodsLine{Variant: vest, Quantity: "1", Cost: "1e9"},
	)
	tried, worth, err := lists.TryOpening(s.By(s.Maren), lines)
	require.NoError(t, err)
	assert.Equal(t, "558.20", worth.StringFixed(2), "40 at 13.955; the others are not right yet")
	var fields []string
	for i, l := range tried {
		field := ""
		if l.Refused != nil {
			field = l.Refused.Field
		}
		fields = append(fields, field)
		_, err := lists.OpenStock(s.By(s.Maren), lists.OpenStockInput{Branch: 1, Lines: lines[i : i+1]})
		switch {
		case i == 0:
			require.NoError(t, err)
		case field == "":
			assert.Equal(t, "lines", fault.Of(err).Field, "a line without a quantity is none")
		default:
			assert.Equal(t, "lines.0."+field, fault.Of(err).Field)
		}
	}
	assert.Equal(t,
		[]string{"", "lot", "serials", "quantity", "quantity", "cost", "variant_id", "", "lot", "serials",
			"cost"}, fields)
	_, _, err = lists.TryOpening(s.By(s.Tobi), lines)
	assert.True(t, fault.Is(err, fault.Forbidden))

	// what is scanned goes to its line, and nothing is kept
	scan := func(code string, typed []lists.OpeningLine) lists.OpeningScanned {
		out, err := lists.ScanOpening(s.By(s.Maren), lists.OpeningScan{Code: code, Lines: typed})
		require.NoError(t, err, code)
		return out
	}
	sku := s.View(t, 1).Variants[0].SKU
	out := scan(sku, nil)
	out = scan("4 x "+sku, out.Lines)
	require.Len(t, out.Lines, 1)
	assert.Equal(t, "5", out.Lines[0].Quantity)
	assert.Equal(t, "Tidewater rash vest, Coral · S: 5 on hand.", out.Said)
	assert.Equal(t, "Sun cream", scan("cream", out.Lines).Pick.Name)
	_, err = lists.ScanOpening(s.By(s.Maren), lists.OpeningScan{Code: "nothing"})
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = lists.ScanOpening(s.By(s.Maren), lists.OpeningScan{Code: "LES"})
	assert.ErrorContains(t, err, "no stock of its own")

	posted, err := lists.OpenStock(s.By(s.Maren), lists.OpenStockInput{
		Branch: 1,
		Shelf:  2,
		Lines: openingOf(shopscan.GoodsLine{Variant: watch, Quantity: "2", Cost: "90", Serials: "N1, N2"},
			shopscan.GoodsLine{Variant: cream, Quantity: "5", Cost: "3", Lot: "K1", Expiry: "2127-04-30"},
			shopscan.GoodsLine{Variant: cream, Quantity: "6", Cost: "3", Lot: "K2"}),
	},
	)
	require.NoError(t, err)
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	require.Len(t, places, 2)
	assert.Equal(t, "Wall A", places[0].Shelf)
	_, err = lists.OpenStock(s.By(s.Maren), lists.OpenStockInput{Branch: 1, Shelf: 3, Lines: lines[:1]})
	assert.Equal(t, "shelf_id", fault.Of(err).Field, "that shelf is another branch's")
	_, err = stockroom.Reverse(s.By(s.Maren), posted.Number, "practice")
	require.NoError(t, err)
	s.InStep(t)
}

// openingOf are lines of opening stock with nothing but what deliveries say, too.
func openingOf(lines ...shopscan.GoodsLine) []lists.OpeningLine {
	list := make([]lists.OpeningLine, len(lines))
	for i, l := range lines {
		list[i].GoodsLine = l
	}
	return list
}

func TestOpeningStockKnowsItsWorthAndItsDays(t *testing.T) {
	s := testkit.Planned(t, fifo())
	vest := s.Vest(t).Variants[0].ID
	line := func(quantity, cost, worth, on string) lists.OpeningLine {
		l := lists.OpeningLine{Worth: worth, CameOn: on}
		l.Variant, l.Quantity, l.Cost = vest, quantity, cost
		return l
	}
	for field, bad := range map[string]lists.OpeningLine{"cost": line("2", "", "", ""),
		"worth": line("2", "3", "7", ""), "came_on": line("2", "3", "", "2199-01-01")} {
		_, err := lists.OpenStock(s.By(s.Maren), lists.OpenStockInput{Branch: 1,
			Lines: []lists.OpeningLine{bad}})
		assert.Equal(t, "lines.0."+field, fault.Of(err).Field)
	}
	posted, err := lists.OpenStock(s.By(s.Maren), lists.OpenStockInput{Branch: 1, Lines: []lists.OpeningLine{
		line("3", "9", "", ""), line("7", "", "22", "01.02.2026"), line("2", "5", "10.00", "2025-12-31")}})
	require.NoError(t, err)
	pool := s.Held(t, vest).Pools[vest]
	var layers []string
	for _, l := range pool.Layers {
		layers = append(layers, l.Quantity.String()+" for "+l.Value.String())
	}
	assert.Equal(t, []string{"2 for 10", "7 for 22", "3 for 27"}, layers, "the order of the days is that of the layers")
	doc, err := book.Document(s.Store.Read(ctx), posted.Number)
	require.NoError(t, err)
	entries, err := book.EntryViews(s.Store.Read(ctx), doc.ID)
	require.NoError(t, err)
	assert.Equal(t, "2025-12-31", entries[0].CameOn.Format(time.DateOnly))
	assert.Nil(t, entries[2].CameOn)

	sku := s.View(t, 1).Variants[0].SKU
	file := "sku;quantity;worth;came on\n" + sku + ";4;22,00;31.12.2025\n" + sku + ";1;5,00;01.01.2199\n"
	report, err := lists.ImportOpeningStock(s.By(s.Maren), strings.NewReader(file), 1, true)
	require.NoError(t, err)
	assert.Equal(t, []any{1, 1, "came on"}, []any{report.Made, report.Refused, report.Rows[1].Field}, "%+v",
		report.Rows)
	s.InStep(t)
}

// fifo is the plan of a shop that values its stock first in, first out.
func fifo() office.Layout {
	plan := testkit.Plan
	plan.Costing = string(cost.FIFO)
	return plan
}
