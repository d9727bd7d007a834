package text

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTextsAreCountedInCharacters(t *testing.T) {
	assert.Equal(t, 3, Len("é漢🛶"))
	assert.Equal(t, "é漢🛶", Cut("é漢🛶", 3))
	assert.Equal(t, "é漢…", Cut("é漢🛶x", 3))
	assert.Equal(t, "usual", Or(" \t", "usual"))
	assert.Equal(t, "said", Or(" said ", "usual"))
	assert.Equal(t, "a · c", Joined("a", "", "c"))
	assert.Empty(t, Joined("", ""))
}

func TestPlural(t *testing.T) {
	for want, n := range map[string]any{"1 unit": 1, "0 units": uint64(0), "-1 unit": -1, "+1 unit": "+1",
		"−1 unit": "−1", "1.5 units": "1.5",
		"11 units": 11} {
		assert.Equal(t, want, Plural(n, "unit", "units"))
	}
}

func TestTextsThatAPersonCallsTheSameAreTheSame(t *testing.T) {
	for _, pair := range [][2]string{
		{"Coral", "coral "}, {"Cafe\u0301", "Café"}, {"STRASSE", "straße"}, {"FISH", "ﬁsh"}, {"deep  sea",
			"Deep\u00a0Sea"},
		{"re\u200bd", "red"}, {"\ufeffred", "red"}, {"re\u00add", "red"}, {"👩\u200d🚀", "👩🚀"}, {"☀\ufe0f", "☀"},
		{"ΣΊΣΥΦΟΣ", "σίσυφος"}, {"tab\there", "tab here"}, {"\u3164x", "x"},
	} {
		assert.True(t, Same(pair[0], pair[1]), "%q and %q", pair[0], pair[1])
	}
	for _, pair := range [][2]string{
		{"Rose", "Rosé"}, {"E1", "É1"}, {"A1", "Ａ１"}, {"🛶", "🏄"}, {"", "x"}, {"я", "ya"}, {"红", "紅"},
	} {
		assert.False(t, Same(pair[0], pair[1]), "%q and %q", pair[0], pair[1])
	}
	assert.Equal(t, "Café au lait", Tidy(" Cafe\u0301  au\u00a0lait\u200b"))
	assert.Equal(t, "👩\u200d🚀", Tidy("👩\u200d🚀"), "what is seen as one stays one")
	assert.Empty(t, Tidy("\u200b\ufeff \u2800"))
	assert.Equal(t, "x", Tidy("\xffx"))
}

func FuzzKey(f *testing.F) {
	for _, s := range []string{"É1", "ﬁ", "\u200b", "ß", "ǰ", "İ", "\xff", "a\u0301\u0323", "👩\u200d🚀"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		assert.Equal(t, Tidy(s), Tidy(Tidy(s)), "what is tidy stays")
		assert.Equal(t, Key(s), Key(Key(s)), "a key is its own key")
		assert.True(t, Same(s, Tidy(s)))
	})
}

func FuzzList(f *testing.F) {
	for _, typed := range []string{"a; b", `"a;b"; "say ""so"""`, "a\nb\r\nc", `"`, ";;", "\ufeffx", `a "b" c`} {
		f.Add(typed)
	}
	f.Fuzz(func(t *testing.T, typed string) {
		parts := List(typed)
		if again := List(Listed(parts)); !slices.Equal(again, parts) {
			t.Fatalf("%q is %q, written as %q and read as %q", typed, parts, Listed(parts), again)
		}
	})
}

func TestNumbersOfPapersAreComparedInOneWay(t *testing.T) {
	for _, typed := range []string{"77", "７７", " 7\u200b7", "⁷⁷"} {
		assert.Equal(t, "77", NumberKey(typed), "%q", typed)
	}
	assert.NotEqual(t, NumberKey("INV-77"), NumberKey("INV-78"))
	assert.Equal(t, NumberKey("ＩＮＶ-77"), NumberKey("inv-77"))
}
