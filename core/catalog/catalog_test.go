package catalog

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
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
		"four axes": axes("A:1", "B:1", "C:1",
			"D:1"), "no values": axes("Size:"), "a value twice": axes("Size:M m"),
		"an axis twice": axes("Size:M", "size:L"),
		"no name":       axes(":M"), "too many values": {wide}, "a bad swatch": {{Name: "Colour",
			Values: []Value{{Name: "Coral", Swatch: "red"}}}},
		"a long name": axes(strings.Repeat("漢", 41) + ":M"), "a long value": axes("Size:" + strings.Repeat("漢", 61)),
		"too many cells": {{Name: "A", Values: wide.Values[:60]}, {Name: "B", Values: wide.Values[:11]}},
	} {
		err := CheckAxes(bad)
		require.Error(t, err, name)
		assert.Equal(t, fault.Invalid, fault.Of(err).Kind, name)
	}
}

func TestSKUsOfOddAxes(t *testing.T) {
	odd := []Axis{{Name: "Größe: EU", Values: []Value{{Name: "42"}}},
		{Name: strings.Repeat("漢", 40), Values: []Value{{Name: "Red"}}},
		{Name: "{x}", Values: []Value{{Name: "红"}, {Name: "绿"}}}}
	pattern := DefaultPattern(odd)
	assert.Equal(t, "{style}-{1:3}-{2:3}-{3}", pattern)
	sku, err := SKU(pattern, "TWV", odd, Choice{"42", "Red", "绿"})
	require.NoError(t, err)
	assert.Equal(t, "TWV-42-RED-2", sku)
}

func TestSKU(t *testing.T) {
	a := axes("Colour:Coral", "Size:M")
	for pattern, want := range map[string]string{"{style}-{colour:3}-{size}": "TWV-COR-M", "{Style}{SIZE}": "TWVM",
		"plain": "PLAIN", "{colour:40}": "CORAL"} {
		got, err := SKU(pattern, "TWV", a, Choice{"Coral", "M"})
		require.NoError(t, err, pattern)
		assert.Equal(t, want, got)
	}
	for _, pattern := range []string{"{style", "{length}", "{colour:0}", "{colour:x}", "", "a b",
		strings.Repeat("x", 41)} {
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
	rack = Hang(axes("Colour:Red Blue", "Size:S M", "Length:Short Long"),
		Cells(axes("Colour:Red Blue", "Size:S M", "Length:Short Long")))
	require.Len(t, rack.Rails, 4)
	assert.Equal(t, "Red · Long", rack.Rails[1].Label)
	assert.Equal(t, Choice{"Red", "M", "Long"}, rack.Rails[1].Slots[1].Choice)
	assert.Equal(t, 0, Hang(nil, []Choice{{}}).Rails[0].Slots[0].Variant)
}
