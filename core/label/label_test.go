package label

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/paper"
)

// square measures every letter as half its em.
func square(text string, _ paper.Face, size float64) float64 {
	return float64(len([]rune(text))) * size / 2
}

func TestATemplateIsHeldAgainstItsPaper(t *testing.T) {
	good, _ := ByCode(Shipped(), "a4-40x25")
	require.NoError(t, good.Validate())
	for name, spoil := range map[string]func(t *Template){
		"name": func(t *Template) { t.Name = " " }, "width": func(t *Template) { t.Width = 5 },
		"height": func(t *Template) { t.Height = 900 }, "columns": func(t *Template) { t.Sheet.Columns = 6 },
		"rows": func(t *Template) { t.Sheet.Rows = 12 }, "paper": func(t *Template) { t.Sheet.Paper = "A3" },
		"sheet":  func(t *Template) { t.Sheet.Rows = 0 },
		"fields": func(t *Template) { t.Fields = nil },
	} {
		bad := good
		spoil(&bad)
		err := bad.Validate()
		require.Error(t, err, name)
		assert.Equal(t, name, fault.Of(err).Field, err)
	}
	for _, f := range []Field{{Kind: "song", W: 5, H: 5, Em: 2}, {Kind: Name, X: 38, W: 5, H: 5, Em: 2},
		{Kind: Name, W: 5, H: 5}, {Kind: Name, W: 5, H: 5, Em: 2, Align: "left"}, {Kind: Name, W: 0, H: 5, Em: 2}} {
		bad := good
		bad.Fields = []Field{f}
		assert.Error(t, bad.Validate(), "%+v", f)
	}
	data, err := json.Marshal(good)
	require.NoError(t, err)
	again, err := Parse(data)
	require.NoError(t, err)
	assert.Equal(t, good, again)
	_, err = Parse([]byte("{"))
	assert.Error(t, err)
}

func TestWhatIsUnwiseIsSaid(t *testing.T) {
	tag, _ := ByCode(Shipped(), "a4-40x25")
	assert.Empty(t, tag.Remarks())
	tag.Fields = append(tag.Fields, Field{Kind: Text, X: 1, Y: 12, W: 5, H: 3, Em: 2, Words: "Sale"},
		Field{Kind: SKU, X: 2, Y: 2, W: 9, H: 2, Em: 2})
	assert.Equal(
		t,
		[]string{`"name" and "SKU" lie on each other.`,
			`"text" lies in the quiet zone of the barcode; it will not scan.`},
		tag.Remarks(),
	)
}

func TestFieldsSayWhatTheyAreFor(t *testing.T) {
	item := Item{
		Name:   "Vest",
		Values: []AxisValue{{"Color", "Coral"}, {"Size", "M"}, {"Length", "Long"}},
		Lot:    "K614",
		Price:  "£5",
	}
	for kind, want := range map[Kind]string{Values: "Coral · M · Long", Colour: "Coral", Size: "M · Long",
		ShortName: "Vest", Price: "£5", Serial: "", Expiry: ""} {
		assert.Equal(t, want, item.text(Field{Kind: kind}), kind)
	}
	assert.Equal(t, "Lot K614", item.text(Field{Kind: Lot, Words: "Lot "}))
	assert.Equal(t, "", item.text(Field{Kind: Serial, Words: "No. "}), "no words without a number")
}

func TestANameGivesWay(t *testing.T) {
	f := Field{Kind: Name, W: 20, H: 4, Em: 3, X: 1, Y: 1}
	shapes, said, err := f.letters(Item{Name: "Short"}, square)
	require.NoError(t, err)
	assert.Empty(t, said)
	assert.Equal(t, []any{"Short", 3.0}, []any{shapes[0].Text, shapes[0].Size})
	shapes, said, _ = f.letters(Item{Name: "Somewhat longer name", ShortName: "Longer"}, square)
	assert.Equal(t, []any{"Longer", 1}, []any{shapes[0].Text, len(said)})
	shapes, said, _ = f.letters(Item{Name: "Somewhat longer name"}, square)
	assert.Contains(t, shapes[0].Text, "…")
	assert.Contains(t, said[0], "cut")
	f.H = 8 // room for two lines
	shapes, said, _ = f.letters(Item{Name: "Somewhat longer name"}, square)
	assert.Empty(t, said)
	assert.Equal(t, []string{"Somewhat", "longer name"}, []string{shapes[0].Text, shapes[1].Text})
	f = Field{Kind: FormerPrice, W: 20, H: 4, Em: 3, X: 1, Align: paper.End}
	shapes, _, _ = f.letters(Item{FormerPrice: "£39.95"}, square)
	require.Len(t, shapes, 2)
	assert.InDelta(t, 12, shapes[1].X, 1e-9, "struck through from the left of its nine millimetres")
	f = Field{Kind: Values, W: 10, H: 4, Em: 3}
	_, said, err = f.letters(Item{Values: []AxisValue{{"Size", "Extra long"}}}, square)
	require.NoError(t, err)
	assert.Contains(t, said[0], "small")
}

func TestAPriceIsNeverCut(t *testing.T) {
	tag := Template{
		Name:   "Small",
		Width:  20,
		Height: 10,
		Sheet:  Sheet{Paper: Roll, Columns: 1, Rows: 1},
		Fields: []Field{{Kind: Price, W: 10, H: 4, Em: 4}},
	}
	wide := tag
	wide.Name, wide.Fields = "Wide", []Field{{Kind: Price, W: 20, H: 4, Em: 4}}
	kinds := []Template{tag, wide}
	shapes, said, err := tag.Draw(Item{Price: "£12.50"}, square)
	require.NoError(t, err)
	assert.Equal(t, "£12.50", shapes[0].Text)
	assert.Empty(t, said, "a little smaller is not worth a word")
	_, said, err = tag.Draw(Item{Price: "£1,299.00"}, square)
	require.NoError(t, err)
	assert.Contains(t, said[0], "small")
	for _, item := range []Item{{Price: "£1,234,299.00"}, {Price: "1 234 299,00 kr"}} {
		orders := []Order{{Item: item, Copies: 1}}
		_, _, err = tag.Print(orders, 0, square)
		e := fault.Of(err)
		require.NotNil(t, e)
		assert.Contains(t, e.Detail, item.Price)
		assert.Contains(t, e.Want, "type of 1.", "smaller type")
		assert.Equal(t, []string{"Wide"}, Holding(kinds, orders, square), "another kind")
	}
	tag.Fields[0].Em = 1.5
	_, _, err = tag.Draw(Item{Price: strings.Repeat("1", 40)}, square)
	assert.Contains(t, fault.Of(err).Want, "more room", "no type that can be read would do")
	for _, kind := range []Kind{SKU, Part, Lot, Serial, FormerPrice, UnitPrice} {
		tag.Fields[0] = Field{Kind: kind, W: 5, H: 2, Em: 2}
		long := strings.Repeat("8", 30)
		_, _, err = tag.Draw(Item{SKU: long, Part: long, Lot: long, Serial: long, FormerPrice: long, UnitPrice: long},
			square)
		assert.Error(t, err, "%s is a wrong one when it is cut", kind)
	}
}
