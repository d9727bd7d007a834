package barcode

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
)

func TestEncodeByTheLengthOfItsNumber(t *testing.T) {
	s, err := Encode("2000000000015")
	require.NoError(t, err)
	assert.Equal(t, AsEAN13, s.Kind)
	require.True(t, s.Linear())
	assert.Len(t, s.Rows[0], 95)
	assert.Equal(t, 113, s.Width())
	// guards: 101 at both ends, 01010 in the middle
	assert.Equal(t, []bool{true, false, true}, s.Rows[0][:3])
	assert.Equal(t, []bool{true, false, true}, s.Rows[0][92:])
	assert.Equal(t, []bool{false, true, false, true, false}, s.Rows[0][45:50])
	for code, want := range map[string]Symbology{"96385074": AsEAN8, "012345678905": AsUPCA, "00012345678905": AsEAN13,
		"12000000000012": AsITF14, "Q1-00318": AsCode128, "12345": AsCode128} {
		s, err := Encode(code)
		require.NoError(t, err, code)
		assert.Equal(t, want, s.Kind, code)
	}
	upc, err := Encode("012345678905")
	require.NoError(t, err)
	ean, err := EncodeAs(AsEAN13, "0012345678905")
	require.NoError(t, err)
	assert.Equal(t, ean.Rows, upc.Rows, "UPC-A is EAN-13 with a leading zero")
	assert.Equal(t, "012345678905", upc.Text)
}

func TestEncodeAsRefusesWhatItCanNotHold(t *testing.T) {
	for _, c := range []struct {
		kind Symbology
		text string
	}{{AsEAN8, "2000000000015"}, {AsEAN13, "12000000000012"}, {AsEAN13, "TWV"}, {AsUPCA, "2000000000015"}, {AsITF14,
		"2000000000010"}, {AsCode128, "ü"}, {AsQR, ""}, {AsDataMatrix, "TWV"}, {"Runes", "1"}} {
		_, err := EncodeAs(c.kind, c.text)
		require.Error(t, err, c.kind)
		assert.Equal(t, fault.Invalid, fault.Of(err).Kind, c.kind)
	}
	s, err := EncodeAs(AsITF14, "2000000000015")
	require.NoError(t, err)
	assert.Equal(t, "02000000000015", s.Text)
}

func TestDataMatrixStandsInItsFrame(t *testing.T) {
	s, err := EncodeAs(AsDataMatrix, "(01)02000000000015")
	require.NoError(t, err)
	require.Len(t, s.Rows, 16)
	for i, row := range s.Rows {
		assert.True(t, row[0], "solid left side, row %d", i)
		assert.Equal(t, i%2 == 1, row[15], "broken right side, row %d", i)
		assert.True(t, s.Rows[15][i], "solid lower side")
		assert.Equal(t, i%2 == 0, s.Rows[0][i], "broken upper side")
	}
	assert.Equal(t, 18, s.Width())
	assert.Equal(t, "0102000000000015", s.Text)
}

func TestElementStrings(t *testing.T) {
	day := time.Date(2027, 6, 30, 0, 0, 0, 0, time.UTC)
	want := Elements{GTIN: "02000000000015", Lot: "K614", Expiry: day, Serial: "BW26-01184"}
	for _, text := range []string{"(01)02000000000015(17)270630(10)K614(21)BW26-01184",
		"]d20102000000000015172706301" + "0K614\x1d21BW26-01184",
		"\x1d010200000000001510K614\x1d21BW26-01184\x1d17270600",
		"(01)02000000000015(11)260101(21)BW26-01184(17)270630(10)K614"} {
		got, err := ParseElements(text)
		require.NoError(t, err, "%q", text)
		assert.Equal(t, want, got, "%q", text)
		assert.True(t, IsElements(text), "%q", text)
	}
	assert.Equal(t, "0102000000000015"+"17270630"+"10K614\x1d"+"21BW26-01184", want.String())
	for text, says := range map[string]string{"": "empty", "(01)02000000000010": "is 5, not 0",
		"(01)123": "wrong length", "(01)02000000000015(17)271332": "no date", "(99)x": "not known",
		"(01)02000000000015(01)02000000000015": "twice", "(10)": "wrong length", "(30)x": "digits only",
		"(01)02000000000015 (10)a b": "wrong length"} {
		_, err := ParseElements(text)
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), says, text)
	}
	assert.False(t, IsElements("2000000000015"))
	assert.False(t, IsElements("TWV-COR-M"))
	_, err := ElementsOf("TWV", "", time.Time{}, "")
	assert.Error(t, err)
	old, err := ParseElements("(17)770228")
	require.NoError(t, err)
	assert.Equal(t, 1977, old.Expiry.Year())
}

func TestElementsComeBackAsTheyWere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		body := rapid.StringMatching(`[0-9]{13}`).Draw(t, "body")
		e := Elements{
			GTIN:   body + string(CheckDigit(body)),
			Lot:    rapid.StringMatching(`[A-Z0-9/-]{0,20}`).Draw(t, "lot"),
			Serial: rapid.StringMatching(`[A-Z0-9-]{0,20}`).Draw(t, "serial"),
		}
		if rapid.Bool().Draw(t, "expires") {
			e.Expiry = time.Date(2026+rapid.IntRange(0, 40).Draw(t, "years"), 2, 28, 0, 0, 0, 0, time.UTC)
		}
		got, err := ParseElements(e.String())
		require.NoError(t, err)
		require.Equal(t, e, got)
	})
}

func TestWeightInANumber(t *testing.T) {
	e := Embedded{Prefix: "28", Decimals: 3}
	body := "281234501250"
	item, weight, ok := e.Split(body + string(CheckDigit(body)))
	require.True(t, ok)
	assert.Equal(t, "1.25", weight.String())
	_, err := Parse(item)
	assert.NoError(t, err)
	assert.Equal(t, "281234500000", item[:12])
	for _, other := range []string{"2000000000015", "28123450125", "2812345012500", "TWV"} {
		_, _, ok = e.Split(other)
		assert.False(t, ok, other)
	}
	assert.NoError(t, CheckEmbedded("scale_prefix", "", "20"))
	assert.NoError(t, CheckEmbedded("scale_prefix", "28", "20"))
	for _, bad := range []string{"20", "50", "2", "2a"} {
		assert.Error(t, CheckEmbedded("scale_prefix", bad, "20"), bad)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("2000000000015")
	f.Add("00123")
	f.Fuzz(func(t *testing.T, text string) {
		code, err := Parse(text)
		if err != nil {
			return
		}
		if again, err := Parse(code); err != nil || again != code || Key(code) != Key(again) {
			t.Fatalf("%q became %q and then %q: %v", text, code, again, err)
		}
		if _, err := Encode(code); err != nil {
			t.Fatalf("%q was let through and can't be drawn: %v", code, err)
		}
	})
}

func FuzzParseElements(f *testing.F) {
	f.Add("(01)02000000000015(17)270630(10)K614(21)BW26")
	f.Add("]d2010200000000001510K\x1d21B")
	f.Fuzz(func(t *testing.T, text string) {
		e, err := ParseElements(text)
		if err != nil || e == (Elements{}) {
			return
		}
		again, err := ParseElements(e.String())
		if err != nil || again != e {
			t.Fatalf("%q became %+v and then %+v: %v", text, e, again, err)
		}
	})
}
