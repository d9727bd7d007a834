package catalog

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/stock"
)

func axes(spec ...string) []Axis {
	var list []Axis
	for _, s := range spec {
		name, values, _ := strings.Cut(s, ":")
		a := Axis{Name: name}
		for _, v := range strings.Fields(values) {
			a.Values = append(a.Values, Value{Name: v})
		}
		list = append(list, a)
	}
	return list
}

func TestAThirdColourMakesOnlyItsVariants(t *testing.T) {
	before := axes("Colour:Coral Slate Kelp", "Size:S M")
	have := Cells(before)
	require.Len(t, have, 6)
	after := axes("Colour:Coral Slate Kelp Sand Foam Tide", "Size:S M")
	missing := Missing(after, have, []Choice{{"Tide", "S"}})
	assert.Equal(t, []Choice{{"Sand", "S"}, {"Sand", "M"}, {"Foam", "S"}, {"Foam", "M"}, {"Tide", "M"}}, missing)
	assert.Equal(t, []Choice{{}}, Cells(nil))
}

func TestCheckAxes(t *testing.T) {
	assert.NoError(t, CheckAxes(axes("Colour:Coral", "Size:S M")))
	wide := Axis{Name: "Size"}
	for i := range 61 {
		wide.Values = append(wide.Values, Value{Name: fmt.Sprint(i)})
	}
	for name, bad := range map[string][]Axis{
		"four axes": axes("A:1", "B:1", "C:1", "D:1"), "no values": axes("Size:"), "a value twice": axes("Size:M m"), "an axis twice": axes("Size:M", "size:L"),
		"no name": axes(":M"), "too many values": {wide}, "a bad swatch": {{Name: "Colour", Values: []Value{{Name: "Coral", Swatch: "red"}}}},
		"too many cells": {{Name: "A", Values: wide.Values[:60]}, {Name: "B", Values: wide.Values[:11]}},
	} {
		err := CheckAxes(bad)
		require.Error(t, err, name)
		assert.Equal(t, fault.Invalid, fault.Of(err).Kind, name)
	}
}

func TestSKU(t *testing.T) {
	a := axes("Colour:Coral", "Size:M")
	for pattern, want := range map[string]string{"{style}-{colour:3}-{size}": "TWV-COR-M", "{Style}{SIZE}": "TWVM", "plain": "PLAIN", "{colour:40}": "CORAL"} {
		got, err := SKU(pattern, "TWV", a, Choice{"Coral", "M"})
		require.NoError(t, err, pattern)
		assert.Equal(t, want, got)
	}
	for _, pattern := range []string{"{style", "{length}", "{colour:0}", "{colour:x}", "", "a b", strings.Repeat("x", 41)} {
		_, err := SKU(pattern, "TWV", a, Choice{"Coral", "M"})
		assert.Error(t, err, pattern)
	}
	assert.Equal(t, "{style}-{colour:3}-{size}", DefaultPattern(a))
	assert.Equal(t, "TRV", StyleCode("Tidewater rash vest"))
	assert.Equal(t, "WAX", StyleCode("Wax"))
	assert.Equal(t, "ECUME", Letters("Écume"))
	skus := []string{"A-1", "A-1", "B-1", "A-1"}
	Distinct(skus, func(s string) bool { return s == "B-1" || s == "A-1-2" })
	assert.Equal(t, []string{"A-1", "A-1-3", "B-1-2", "A-1-4"}, skus)
}

func FuzzSKU(f *testing.F) {
	f.Add("{style}-{colour:3}", "TWV", "Coral")
	f.Add("{{}", "", "")
	f.Fuzz(func(t *testing.T, pattern, style, value string) {
		sku, err := SKU(pattern, style, axes("Colour:x"), Choice{value})
		if err == nil && (sku == "" || len(sku) > MaxSKU || strings.ContainsAny(sku, " \n")) {
			t.Fatalf("%q is not a SKU", sku)
		}
	})
}

func TestHang(t *testing.T) {
	rack := Hang(axes("Colour:Coral Kelp", "Size:S M"), []Choice{{"Coral", "S"}, {"coral", "m"}, {"Kelp", "S"}})
	assert.Equal(t, []string{"S", "M"}, rack.Columns)
	require.Len(t, rack.Rails, 2)
	assert.Equal(t, 1, rack.Rails[0].Slots[1].Variant)
	assert.Equal(t, NotMade, rack.Rails[1].Slots[1].Variant)
	rack = Hang(axes("Size:S M"), []Choice{{"M"}})
	require.Len(t, rack.Rails, 1)
	assert.Equal(t, []int{NotMade, 0}, []int{rack.Rails[0].Slots[0].Variant, rack.Rails[0].Slots[1].Variant})
	rack = Hang(axes("Colour:Red Blue", "Size:S M", "Length:Short Long"), Cells(axes("Colour:Red Blue", "Size:S M", "Length:Short Long")))
	require.Len(t, rack.Rails, 4)
	assert.Equal(t, "Red · Long", rack.Rails[1].Label)
	assert.Equal(t, Choice{"Red", "M", "Long"}, rack.Rails[1].Slots[1].Choice)
	assert.Equal(t, 0, Hang(nil, []Choice{{}}).Rails[0].Slots[0].Variant)
}

func read(t *testing.T, text string) []ListRow {
	rows, err := ReadList(strings.NewReader(text))
	require.NoError(t, err)
	return rows
}

func TestReadList(t *testing.T) {
	rows := read(t, "\ufeffProduct;Colour;Size;Category;Supplier;SKU;Barcode;Price;Cost;Opening quantity\r\n"+
		"Vest;Coral;M;Swim > Vests;Kelpline;;00123;34.95;13.95;6\r\n\r\n"+
		"\"Vest\";Coral;L;Swim > Vests;Kelpline;v-l;2000000000015;36.95;13.95;\r\n")
	require.Len(t, rows, 2)
	assert.Equal(t, "00123", rows[0].Barcode)
	assert.Equal(t, []string{"Swim", "Vests"}, rows[0].Category)
	assert.Equal(t, Choice{"Coral", "M"}, rows[0].Choice())
	assert.Equal(t, stock.Counted, rows[0].Tracking)
	assert.Equal(t, "6", rows[0].Opening.String())
	assert.Equal(t, "V-L", rows[1].SKU)
	assert.Nil(t, rows[1].Opening)
	assert.Equal(t, 4, rows[1].Line)
	for _, r := range rows {
		assert.Nil(t, r.Refused)
	}
	merged := MergeAxes(read(t, "product,size,price\nA,L,1\nA,S,1\nA,XL,1\n"))
	assert.Equal(t, []Value{{Name: "S"}, {Name: "L"}, {Name: "XL"}}, merged[0].Values)
	merged = MergeAxes(read(t, "product,colour,price\nA,Zinc,1\nA,Ash,1\n"))
	assert.Equal(t, "Zinc", merged[0].Values[0].Name, "other values stay in the file's order")
}

func TestReadListRefusesByRow(t *testing.T) {
	for _, c := range []struct{ row, field, says string }{
		{"Vest,M,1.23E+11,34.95,,,", "barcode", "shortened by a spreadsheet"},
		{"Vest,M,2000000000010,34.95,,,", "barcode", "check digit"},
		{"Vest,M,,,,,", "price", "missing"},
		{"Vest,M,,abc,,,", "price", "not an amount"},
		{",M,,1,,,", "product", "missing"},
		{"Vest,M,,1,1.5,2,", "opening quantity", "whole numbers"},
		{"Vest,M,,1,5,,", "cost", "needs its cost"},
		{"Vest,M,,1,1e9,2,", "opening quantity", "not a quantity"},
		{"Vest,M,,1,2,2,serial", "opening quantity", "enter a delivery"},
		{"Vest,M,,1,,,sometimes", "tracking", "no tracking"},
	} {
		rows := read(t, "product,size,barcode,price,opening quantity,cost,tracking\n"+c.row+"\n")
		require.Len(t, rows, 1)
		require.NotNil(t, rows[0].Refused, c.row)
		assert.Equal(t, c.field, rows[0].Refused.Field, c.row)
		assert.Contains(t, rows[0].Refused.Detail, c.says)
	}
	rows := read(t, "product,size,sku,barcode,price\nA,S,X,,1\nA,M,x,,1\nA,S,Y,,1\nB,,Z,012345678905,1\nC,,W,0012345678905,1\nA,,Q,,1\n")
	assert.Nil(t, rows[0].Refused)
	assert.Equal(t, "sku", rows[1].Refused.Field)
	assert.Contains(t, rows[2].Refused.Detail, "line 2 already")
	assert.Equal(t, "barcode", rows[4].Refused.Field, "leading zeros make no other barcode")
	assert.Contains(t, rows[5].Refused.Detail, "varies by")
}

func TestReadListRefusesTheFile(t *testing.T) {
	for name, text := range map[string]string{"empty": "", "no price": "product\nA\n", "unknown column": "product,price,zap\nA,1,2\n", "a column twice": "product,price,price\n",
		"an open quote": "product,price\n\"A,1\n", "not UTF-8": "product,price\n\xff\xfe,1\n"} {
		_, err := ReadList(strings.NewReader(text))
		require.Error(t, err, name)
		assert.Equal(t, "file", fault.Of(err).Field, name)
	}
}

func FuzzReadList(f *testing.F) {
	f.Add("product,price\nA,1\n")
	f.Add("product;price;barcode\n\"A\n\";1;2000000000015\n")
	f.Fuzz(func(t *testing.T, text string) {
		rows, err := ReadList(strings.NewReader(text))
		for _, r := range rows {
			if err == nil && r.Refused == nil && (r.Product == "" || r.Price == nil || r.Price.IsNegative()) {
				t.Fatalf("row %+v was let through", r)
			}
		}
	})
}
