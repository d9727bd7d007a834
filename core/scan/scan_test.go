package scan

import (
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestANumberBeforeTheTimesSign(t *testing.T) {
	for scanned, want := range map[string]string{
		"2000000000015": " 1 2000000000015", "12 x 2000000000015": "12 12 2000000000015", "3×AB": "3 3 AB",
		"1.5 * rope": "1.5 1.5 rope",
		"12":         " 1 12", "x12": " 1 x12", "12 x ": "12 12 ", "x 12": "12 12 ",
		"2000000000015 x 12": "12 12 2000000000015", "rope x 1,5": "1,5 1.5 rope", "Board x2": "2 2 Board",
		"\u200b2000000000015\u2060": " 1 2000000000015", "\u00a0AB\ufeff": " 1 AB", "(01)02\x1d10K": " 1 (01)02\x1d10K",
		"1,5 x rope": "1,5 1.5 rope", "AX": " 1 AX", "a x b": " 1 a x b", " 7 X  a b ": "7 7 a b",
	} {
		a, err := Read(scanned)
		require.NoError(t, err)
		assert.Equal(t, want, a.Times+" "+a.Each.String()+" "+a.Code, scanned)
		assert.Equal(t, a.Code == "", a.Alone(), scanned)
	}
	_, err := Read("1,250 x rope")
	assert.ErrorContains(t, err, "1250 or as 1.25")
}

// said writes ways in one line.
func said(tries []Try) string {
	var list []string
	for _, t := range tries {
		s := string(t.By) + "=" + t.Key
		if t.Lot != "" {
			s += " lot " + t.Lot
		}
		if !t.Expiry.IsZero() {
			s += " until " + t.Expiry.Format(time.DateOnly)
		}
		if t.Serial != "" {
			s += " No. " + t.Serial
		}
		if t.Weight != nil {
			s += " weighs " + t.Weight.String()
		}
		if t.Amount != nil {
			s += " costs " + t.Amount.String()
		}
		list = append(list, s)
	}
	return strings.Join(list, "; ")
}

// TestTheOrderOfLookingUp reads as the rule: barcode or SKU before serial number,
// then what a code has inside it, documents last.
func TestTheOrderOfLookingUp(t *testing.T) {
	scales := Scales{Weight: "21", Price: "22"}
	for code, want := range map[string]string{
		"ab 12":        "code=AB 12; serial number=AB12; document=AB 12",
		"012345678905": "code=00012345678905; serial number=012345678905; document=012345678905",
		"2112345012506": "code=02112345012506; serial number=2112345012506; " +
			"code=02112345000008 weighs 1.25; document=2112345012506",
		"2212345012503": "code=02212345012503; serial number=2212345012503; " +
			"code=02212345000005 costs 12.5; document=2212345012503",
	} {
		assert.Equal(t, want, said(Tries(code, scales)), code)
	}
	assert.Contains(t, said(Tries("(01)04012345678901(17)270430(10)L7(21)ab1", scales)),
		"code=04012345678901 lot L7 until 2027-04-30 No. AB1")
	assert.Empty(t, Tries("", scales))
	assert.Empty(t, Tries(strings.Repeat("漢", Longest+1), scales))
	assert.Len(t, Tries(strings.Repeat("漢", Longest), scales), 3, "characters are counted, not bytes")
}

func TestUnitsOfAScan(t *testing.T) {
	a, err := Read("3 x box")
	require.NoError(t, err)
	twelve, half := decimal.New(12, 0), decimal.New(5, -1)
	assert.Equal(t, "3 36 1.5",
		a.Units(nil, nil).String()+" "+a.Units(&twelve, nil).String()+" "+a.Units(nil, &half).String())
}

// TestShelvesAndNumbers: what the label of a shelf says, and which codes may be the serial number of goods.
func TestShelvesAndNumbers(t *testing.T) {
	for _, id := range []uint64{1, 42, 123456} {
		got, ok := Shelf(" " + strings.ToLower(ShelfCode(id)))
		assert.True(t, ok)
		assert.Equal(t, id, got)
	}
	for _, code := range []string{"SH-", "SH-0", "SH-x", "SH 0001", "XSH-0001", "SH-99999999999999999999", ""} {
		_, ok := Shelf(code)
		assert.False(t, ok, code)
	}
	for code, may := range map[string]bool{"BW26-0100": true, "ab 12": true, "7": true, "2000000000015": false,
		"(01)02000000000015(21)X": false, "": false,
		strings.Repeat("9", 41): false, "漢-7": true} {
		assert.Equal(t, may, CouldNumber(code), code)
	}
}
