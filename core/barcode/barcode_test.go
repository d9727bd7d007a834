package barcode

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
)

func TestCheckDigit(t *testing.T) {
	for body, want := range map[string]byte{"200000000001": '5', "200000000000": '8', "01234567890": '5',
		"629104150021": '3', "9638507": '4'} {
		assert.Equal(t, string(want), string(CheckDigit(body)), body)
	}
}

func TestParse(t *testing.T) {
	for _, good := range []string{"2000000000015", "012345678905", "96385074", " TWV-COR-M ", "00123", "12345"} {
		got, err := Parse(good)
		require.NoError(t, err, good)
		assert.Equal(t, strings.TrimSpace(good), got)
	}
	_, err := Parse("2000000000010")
	e := fault.Of(err)
	require.NotNil(t, e)
	assert.Equal(t, fault.Invalid, e.Kind)
	assert.Equal(t, "2000000000015", e.Want)
	assert.Contains(t, e.Detail, "is 5, not 0")
	for _, bad := range []string{"", "  ", "naïve", strings.Repeat("9", 49), "a\tb"} {
		_, err := Parse(bad)
		assert.Error(t, err, bad)
	}
}

func TestKeyIsOneForOneThing(t *testing.T) {
	assert.Equal(t, Key("012345678905"), Key("0012345678905"))
	assert.Equal(t, Key("012345678905"), Key("00012345678905"))
	assert.NotEqual(t, Key("00123"), Key("123"))
	assert.Equal(t, Key("twv-cor-m"), Key("TWV-COR-M"))
	rapid.Check(t, func(t *rapid.T) {
		body := rapid.StringMatching(`[0-9]{11}`).Draw(t, "body")
		upc := body + string(CheckDigit(body))
		require.Equal(t, Key(upc), Key("0"+upc))
	})
}

func TestOwn(t *testing.T) {
	code, err := Own("20", 1)
	require.NoError(t, err)
	assert.Equal(t, "2000000000015", code)
	_, err = Parse(code)
	assert.NoError(t, err)
	for _, prefix := range []string{"50", "2", "", "200", "ab", "03"} {
		_, err := Own(prefix, 1)
		assert.Error(t, err, prefix)
	}
	for _, prefix := range []string{"02", "04", "20", "29"} {
		assert.NoError(t, CheckPrefix(prefix))
	}
	_, err = Own("20", 1e10)
	assert.True(t, fault.Is(err, fault.Refused))
}
