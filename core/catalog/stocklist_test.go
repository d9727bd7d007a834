package catalog

import (
	"encoding/csv"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
)

// read reads a list of comma-separated lines, the first its heads.
func read(t testing.TB, text string) []ListRow {
	records, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	reader, err := NewListReader(records[0], Match(records[0], ListColumns, nil))
	require.NoError(t, err)
	reader.Moment = terms.Terms{Zone: time.UTC}.Moment
	var rows []ListRow
	for i, record := range records[1:] {
		rows = append(rows, reader.Row(i+2, record))
	}
	return rows
}

func TestReadAStockList(t *testing.T) {
	rows := read(
		t,
		"Product,Colour,Swatch,Size,Category,Supplier,SKU,Barcode,Price,Cost,Opening quantity,More barcodes,Price: "+
			"Club,Attribute: Material,Content,Pack,Pack factor,Pack barcode,Pack price,Discontinued\n"+
			"Vest,Coral,#d9604c #54646f dots,M,Swim > Vests,Kelpline,,00123,34.95,13.95,6,96385074,31.45,Nylon,200 "+
			"ml,box of 12,12,2000000000015,380,no\n"+
			"Vest,Coral,,L,Swim > Vests,Kelpline,v-l,2000000000022,36.95,13.95,,,,,,,,,,\n",
	)
	for _, r := range rows {
		require.Nil(t, r.Refused)
	}
	first := rows[0]
	assert.Equal(t,
		[]any{"00123", []string{"96385074"}, []string{"Swim", "Vests"}, Choice{"Coral", "M"}, stock.Counted, "6"},
		[]any{first.Barcode, first.MoreBarcodes, first.Category, first.Choice(), first.Kept(), first.Opening.String()})
	pack := first.Packs[0]
	assert.Equal(
		t,
		[]any{"#D9604C #54646F dots", "31.45", "Nylon", "200", "ml", "box of 12", "12", "2000000000015", "380", false},
		[]any{first.Axes[0].Value.Swatch, first.Prices["Club"].String(), first.Attributes["Material"],
			first.Content.String(), first.Measure, pack.Name, pack.Factor.String(), pack.Barcodes[0],
			pack.Price.String(), *first.Discontinued},
	)
	assert.Equal(t, "V-L", rows[1].SKU)
	assert.Nil(t, rows[1].Opening)
	assert.Equal(t, 3, rows[1].Line)
	merged := MergeAxes(read(t, "product,size,price\nA,L,1\nA,S,1\nA,XL,1\n"))
	assert.Equal(t, []Value{{Name: "S"}, {Name: "L"}, {Name: "XL"}}, merged[0].Values)
	merged = MergeAxes(read(t, "product,axis: Finish,price\nA,Zinc,1\nA,Ash,1\n"))
	assert.Equal(t, []any{"Finish", "Zinc"}, []any{merged[0].Name, merged[0].Values[0].Name},
		"other values stay in the file's order")
}

func TestAStockListIsRefusedByRow(t *testing.T) {
	for _, c := range []struct{ row, field, says string }{
		{"Vest,M,1.23E+11,34.95,,,", "barcode", "shortened by a spreadsheet"},
		{"Vest,M,2000000000010,34.95,,,", "barcode", "check digit"},
		{"Vest,M,,abc,,,", "price", "not an amount"},
		{",M,,1,,,", "product", "missing"},
		{"=A1,M,,1,,,", "product", "formula"},
		{strings.Repeat("x", 121) + ",M,,1,,,", "product", "121 characters"},
		{"Vest,M,,1,1.5,2,", "opening quantity", "whole numbers"},
		{"Vest,M,,1,5,,", "cost", "needs its cost"},
		{"Vest,M,,1,1e9,2,", "opening quantity", "not a quantity"},
		{"Vest,M,,1,2,2,serial", "opening quantity", "takes an opening stock list"},
		{"Vest,M,,1,,,sometimes", "tracking", "no tracking"},
	} {
		rows := read(t, "product,size,barcode,price,opening quantity,cost,tracking\n"+c.row+"\n")
		require.NotNil(t, rows[0].Refused, c.row)
		assert.Equal(t, c.field, rows[0].Refused.Field, c.row)
		assert.Contains(t, rows[0].Refused.Detail, c.says)
	}
	for row, field := range map[string]string{"A,maybe,,,": "discontinued", "A,,9 bushels,,": "content",
		"A,,,box,1": "pack factor", "A,,,,12": "pack"} {
		rows := read(t, "product,discontinued,content,pack,pack factor\n"+row+"\n")
		require.NotNil(t, rows[0].Refused, row)
		assert.Equal(t, field, rows[0].Refused.Field, row)
	}
	rows := read(t,
		"product,size,sku,barcode,price\nA,S,X,,1\nA,M,x,,1\nA,S,Y,,1\nB,,Z,012345678905,1\nC,,W,0012345678905,1\nA,,Q,,1\n")
	assert.Nil(t, rows[0].Refused)
	assert.Equal(t, "sku", rows[1].Refused.Field)
	assert.Contains(t, rows[2].Refused.Detail, "line 2 already")
	assert.Equal(t, "barcode", rows[4].Refused.Field, "leading zeros make no other barcode")
	assert.Contains(t, rows[5].Refused.Detail, "varies by")
}

func TestColumnsAreMatchedByNameAndMemory(t *testing.T) {
	heads := []string{"Item Name", "Färbung", "EAN", "price: Club", "axis:Thickness", "Nonsense", "Barcode"}
	match := Match(heads, ListColumns, map[string]string{"färbung": "colour"})
	assert.Equal(t, Matching{"product", "colour", "", "price: Club", "axis: Thickness", "", "barcode"}, match,
		"its own name goes before another")
	assert.NoError(t, match.Check(ListColumns, "product"))
	memory := match.Memory(heads)
	assert.Equal(t, "product", memory["item name"])
	assert.Equal(t, match, Match(heads, ListColumns, memory))
	assert.Error(t, Matching{"sku", ""}.Check(ListColumns, "product"))
	assert.Error(t, Matching{"product", "product"}.Check(ListColumns))
	assert.Error(t, Matching{"product", "zap"}.Check(ListColumns))
	assert.NoError(t, Matching{"product", "axis: " + strings.Repeat("漢", 40)}.Check(ListColumns))
	assert.ErrorContains(t, Matching{"product", "attribute: " + strings.Repeat("漢", 41)}.Check(ListColumns),
		"41 characters")
	assert.Equal(t, "axis: 尺寸", Match([]string{"axis: 尺寸"}, ListColumns,
		map[string]string{plainHead("axis: 色"): "axis: 色"})[0],
		"what a person said of another head of that script does not count")
}

func TestOpeningStockRows(t *testing.T) {
	heads := []string{"SKU", "Qty", "Unit cost", "Batch", "Use by", "Serials", "Bin"}
	reader, err := NewOpeningReader(heads, Match(heads, OpeningColumns, nil))
	require.NoError(t, err)
	row := reader.Row(2, []string{"SUN50", "12.5", "3.10", "K614", "31/12/2027", "ab 1; ab 2", "Wall A"})
	require.Nil(t, row.Refused)
	assert.Equal(t, []any{"12.5", "K614", 2027, []string{"AB1", "AB2"}, "Wall A"},
		[]any{row.Quantity.String(), row.Lot, row.Expiry.Year(), row.Serials, row.Shelf})
	for _, bad := range [][]string{{"", "1", "1"}, {"A", "", "1"}, {"A", "0", "1"}, {"A", "1", ""},
		{"A", "1", "1", "", "soon"}, {"A", "1e9", "1"}, {"1.2E+12", "1", "1"}, {"A", "1", "1", "", "", "X;x"},
		{"A", "1", "1", "", "", "", "", "slipped"}} {
		assert.NotNil(t, reader.Row(3, bad).Refused, "%v", bad)
	}
	_, err = NewOpeningReader(nil, Matching{"code", "cost"})
	assert.Equal(t, "columns", fault.Of(err).Field)
}

func TestFormulaMarksComeOff(t *testing.T) {
	for cell, want := range map[string]string{" x ": "x", "'=A1": "=A1", "'-10 % wax": "-10 % wax",
		"'quoted'": "'quoted'", "'": "'"} {
		assert.Equal(t, want, Typed(cell))
	}
	for _, text := range []string{"=A1", "'=A1", "''-x", "'s Rope", "@home", "+1", "-", "'", "x", ""} {
		assert.Equal(t, text, Typed(Marked(text)))
	}
	assert.Equal(t, "x", Marked("x"))
}

func FuzzListReader(f *testing.F) {
	f.Add("A", "1", "2000000000015", "#D9604C")
	f.Add("=A", "1E+9", "1.23E+11", "x")
	f.Fuzz(func(t *testing.T, product, price, code, swatch string) {
		match := Matching{"product", "price", "barcode", "swatch", "colour"}
		reader, err := NewListReader(match, match)
		if err != nil {
			t.Fatal(err)
		}
		r := reader.Row(2, []string{product, price, code, swatch, "Coral"})
		if r.Refused == nil && (r.Product == "" || utf8.RuneCountInString(r.Product) > 120 || r.Price != nil &&
			r.Price.IsNegative()) {
			t.Fatalf("row %+v was let through", r)
		}
	})
}

func TestRowsThatContradictEachOtherAreRefused(t *testing.T) {
	for column, pair := range map[string][2]string{"category": {"Swim", "Surf"}, "brand": {"Kelpline", "Oar"},
		"supplier": {"A", "B"}, "supplier part": {"1", "2"}, "tax class": {"Standard", "Zero"}, "unit": {"piece", "kg"},
		"tracking": {"counted", "lot"}, "description": {"Warm", "Cold"}, "discontinued": {"yes", "no"},
		"content": {"1 l", "2 l"}, "short name": {"Rash", "Vest"}, "style": {"TWV", "TVW"}, "attribute: Cut": {"slim",
			"wide"}} {
		rows := read(t, "product,size,"+column+"\nVest,S,"+pair[0]+"\nVest,M,\nVest,L,"+pair[1]+"\n")
		assert.Nil(t, rows[1].Refused, "an empty cell says nothing: %s", column)
		require.NotNil(t, rows[2].Refused, column)
		assert.Equal(t, column, rows[2].Refused.Field)
		assert.Contains(t, rows[2].Refused.Detail, "Line 2")
	}
	rows := read(t, "product,size,brand,category,attribute: Cut\nVest,S,,,\nVest,M,Kelpline,Swim > "+
		"Vests,slim\nVEST,L,KELPLINE,swim>vests,Slim\n")
	for _, r := range rows {
		assert.Nil(t, r.Refused)
	}
	head := Head(rows)
	assert.Equal(t, []any{"Kelpline", []string{"Swim", "Vests"}, "slim"},
		[]any{head.Brand, head.Category, head.Attributes["Cut"]})
	assert.Nil(t, rows[0].Attributes, "the row itself stays")
}

func TestWhatStandsUnderNoHeadIsSaid(t *testing.T) {
	reader, err := NewListReader([]string{"product", " ", "price"}, Matching{"product", "", "price"})
	require.NoError(t, err)
	assert.Nil(t, reader.Row(2, []string{"Rope", "", "3", " ", ""}).Refused)
	for _, record := range [][]string{{"Rope, blue", "x", "3"}, {"Rope", "", "3", "4.00"}, {"Rope", "", "3", "", "漢"}} {
		refused := reader.Row(3, record).Refused
		require.NotNil(t, refused, record)
		assert.Contains(t, refused.Detail, "no head")
	}
}

func TestListsOfCodes(t *testing.T) {
	for cell, want := range map[string][]string{
		"4006381333931; AB 12":                  {"4006381333931", "AB 12"},
		"AB 12":                                 {"AB 12"},
		"4006381333931, 96385074 2000000000015": {"4006381333931", "96385074", "2000000000015"},
		`"A;1"; "say ""so"""`:                   {"A;1", `say "so"`},
		"'=A1; B":                               {"=A1", "B"},
	} {
		row := read(t, "product,more barcodes\nX,\""+strings.ReplaceAll(cell, `"`, `""`)+"\"\n")[0]
		assert.Nil(t, row.Refused, cell)
		assert.Equal(t, want, row.MoreBarcodes, cell)
		again := read(t, "product,more barcodes\nX,\""+strings.ReplaceAll(Marked(ListedCodes(want)), `"`,
			`""`)+"\"\n")[0]
		assert.Equal(t, want, again.MoreBarcodes, cell)
	}
}

func TestPricesBesideThePlainOne(t *testing.T) {
	row := read(t, "product,unit,more prices,more prices: Club\nRope,m,30.00 from 6; 38 from 2026-12-24 09:00; "+
		"36.5 from 2.5 from 2026-12-24 09:00 ;17.40 from 2 per coil per sea,30 from 1 per coil\n")[0]
	require.Nil(t, row.Refused)
	var said []string
	for _, p := range row.MorePrices {
		said = append(said, p.List+"|"+p.String(time.UTC))
	}
	assert.Equal(t, []string{"|30 from 6", "|38 from 2026-12-24 09:00", "|36.5 from 2.5 from 2026-12-24 09:00",
		"|17.4 from 2 per coil per sea", "Club|30 per coil"}, said)
	for _, bad := range []string{"30", "x from 6", "30 from", "30 from 6 from 7", "30 from soon", "-1 from 6"} {
		row := read(t, "product,more prices\nRope,\""+strings.ReplaceAll(bad, `"`, `""`)+"\"\n")[0]
		require.NotNil(t, row.Refused, bad)
		assert.Equal(t, "more prices", row.Refused.Field)
	}
}

func FuzzMorePrices(f *testing.F) {
	for _, cell := range []string{"30 from 6", "38 from 2026-12-24 09:00 per box of 12", "1 from 1 from 1", "5 per ",
		"1,5 from 2", " from "} {
		f.Add(cell)
	}
	f.Fuzz(func(t *testing.T, cell string) {
		heads := []string{"product", "more prices"}
		reader, err := NewListReader(heads, Matching(heads))
		if err != nil {
			t.Fatal(err)
		}
		reader.Moment = terms.Terms{Zone: time.UTC}.Moment
		row := reader.Row(2, []string{"Rope", cell})
		if row.Refused != nil {
			return
		}
		var said []string
		for _, p := range row.MorePrices {
			said = append(said, p.String(time.UTC))
		}
		again := reader.Row(3, []string{"Cord", Marked(text.Listed(said))})
		if again.Refused != nil || len(again.MorePrices) != len(row.MorePrices) {
			t.Fatalf("%q is %q, and that %+v", cell, said, again)
		}
		for i, p := range row.MorePrices {
			if !p.Same(again.MorePrices[i]) {
				t.Fatalf("%q is %+v, and again %+v", cell, p, again.MorePrices[i])
			}
		}
	})
}

func FuzzSwatch(f *testing.F) {
	for _, typed := range []string{"#d9604c", "#D9604C #54646F", "#D9604C #54646F dots", "#12345", "red",
		"#D9604C  #54646F none"} {
		f.Add(typed)
	}
	f.Fuzz(func(t *testing.T, typed string) {
		s, err := ParseSwatch(typed)
		if err != nil {
			return
		}
		if again, err := ParseSwatch(s.String()); err != nil || again != s {
			t.Fatalf("%q is %+v, and again %+v (%v)", typed, s, again, err)
		}
	})
}
