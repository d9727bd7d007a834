package catalog

import (
	"slices"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/text"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestSwatches(t *testing.T) {
	for text, want := range map[string]string{"": "", "#d9604c": "#D9604C", "#D9604C  #54646F": "#D9604C #54646F",
		"#D9604C #54646F Stripes": "#D9604C #54646F stripes"} {
		s, err := ParseSwatch(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, s.String())
	}
	two, _ := ParseSwatch("#D9604C #54646F")
	assert.Equal(t, TwoTone, two.Pattern)
	for _, bad := range []string{"red", "#12345", "#D9604C plaid", "#D9604C #54646F plaid", "#D9604C #54646F dots x"} {
		_, err := ParseSwatch(bad)
		assert.Error(t, err, bad)
	}
}

func TestValuesAsTheyAreTyped(t *testing.T) {
	colours := []Value{{Name: "Coral", Swatch: "#D9604C"}, {Name: "Slate"}, {Name: "Sand"}, {Name: "Kelp"}}
	var sizes []Value
	for _, s := range ClothingSizes {
		sizes = append(sizes, Value{Name: s})
	}
	names := func(list []Value) (names []string) {
		for _, v := range list {
			names = append(names, v.Name)
		}
		return names
	}
	read := func(typed string, known []Value) []string {
		list, err := ParseValues(typed, known)
		require.NoError(t, err, typed)
		return names(list)
	}
	for typed, want := range map[string][]string{
		"co sl ke":               {"Coral", "Slate", "Kelp"},
		"co, Deep  sea,sl,":      {"Coral", "Deep sea", "Slate"},
		"deep sea":               {"deep sea"},
		"coral, CORAL, co":       {"Coral"},
		"":                       nil,
		`"s", "co", sl`:          {"s", "co", "Slate"},
		"Rose, Rosé, Ro\u200bse": {"Rose", "Rosé"},
	} {
		assert.Equal(t, want, read(typed, colours), typed)
	}
	_, err := ParseValues("sl, s, k", colours)
	require.Equal(t, "axes", fault.Of(err).Field, "two begin with s")
	assert.Contains(t, fault.Of(err).Detail, "Slate or Sand")
	coral, _ := ParseValues("co", colours)
	assert.Equal(t, "#D9604C", coral[0].Swatch)
	more := append(slices.Clone(colours), Value{Name: "Coral and slate"}, Value{Name: "Deep sea"},
		Value{Name: "Deeper"})
	assert.Equal(t, []string{"Coral", "Slate", "Kelp", "Sand"}, read("co, sl, ke, sa", more),
		"the one all others begin with")
	assert.Equal(t, []string{"Coral and slate"}, read("coral a", more))
	assert.Equal(t, []string{"Deep sea"}, read("deep", more), "the whole first word")
	_, err = ParseValues("dee", more)
	assert.Error(t, err)
	for typed, want := range map[string][]string{
		"xs-xxl": {"XS", "S", "M", "L", "XL", "XXL"}, "s": {"S"}, "m-l, 6-8": {"M", "L", "6", "7", "8"},
		"xxl-xs": {"XS", "S", "M", "L", "XL", "XXL"}, "XS S M": {"XS", "S",
			"M"}, `"6-8"`: {"6-8"}, "9'6-10'2": {"9'6-10'2"},
		"36-42": {"36", "37", "38", "39", "40", "41", "42"}, "42–40": {"40", "41", "42"}, "1-9000": {"1-9000"},
	} {
		assert.Equal(t, want, read(typed, sizes), typed)
	}
}

func TestWhatAProductTakesOver(t *testing.T) {
	fifty, ten, three := d("50"), d("110"), d("3")
	end := price.Ending{Step: d("1"), End: d("0.95"), Way: price.Nearest}
	s := Settle(
		[]Defaults{{Name: "Tidewater rash vest"}, {Name: "Rash vests", Markup: &ten},
			{Name: "Swim", Markup: &fifty, TaxClass: 1, Restock: &three}, {Name: "Kelpline Textiles", Ending: &end},
			{Name: "the shop", TaxClass: 2}},
	)
	assert.Equal(t, []any{"110", "Rash vests", false}, []any{s.Markup.String(), s.MarkupFrom, s.MarkupIsHere})
	assert.Equal(t, []any{uint64(1), "Swim"}, []any{s.TaxClass, s.TaxFrom})
	assert.Equal(t, []any{"3", "Swim", "Kelpline Textiles"}, []any{s.Restock.String(), s.RestockFrom, s.EndingFrom})
	assert.Equal(t, "cost + 110 %, nearest 0.95 at every 1", s.Rule().String(nil))
	own := Settle([]Defaults{{Name: "Vest", Markup: &fifty}, {Markup: &ten}})
	assert.True(t, own.MarkupIsHere)
	assert.Equal(t, price.NoRule, Settle(nil).Rule().Kind)
}

func TestBundles(t *testing.T) {
	parts := []Part{{Name: "Board", Quantity: d("1"), Available: d("3"), Cost: d("310")},
		{Name: "Leash", Quantity: d("2"), Available: d("5"), Cost: d("4.5")},
		{Name: "Lesson", Quantity: d("1"), NotStocked: true}}
	assert.Equal(t, "2", Available(parts).String(), "five leashes make two pairs")
	assert.Equal(t, "319", BundleCost(parts).String())
	assert.Equal(t, "0", Available(nil).String())
	parts[0].Available = d("-1")
	assert.Equal(t, "0", Available(parts).String())
	assert.NoError(t, CheckParts(parts))
	assert.Error(t, CheckParts(nil))
	assert.Error(t, CheckParts([]Part{{Name: "x"}}))
}

func FuzzParseValues(f *testing.F) {
	f.Add("co, s-x")
	f.Fuzz(func(t *testing.T, typed string) {
		seen := map[string]bool{}
		list, _ := ParseValues(typed, []Value{{Name: "Coral"}, {Name: "S"}, {Name: "Sand"}, {Name: "XL"}})
		for _, v := range list {
			if v.Name == "" || seen[text.Key(v.Name)] {
				t.Fatalf("%q gives %q twice or empty", typed, v.Name)
			}
			seen[text.Key(v.Name)] = true
		}
	})
}
