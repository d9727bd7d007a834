package number

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestParse(t *testing.T) {
	for text, want := range map[string]string{"34.95": "34.95", " 12 ": "12", "1,250.00": "1250", "1.250,00": "1250",
		"1.250.000": "1250000", "1,250": "1250",
		"1,250,000.5": "1250000.5", "12,95": "12.95", "0,085": "0.085", ",5": "0.5", ".5": "0.5", "5.": "5",
		"-3": "-3", "−3,5": "-3.5", "1234,567": "1234.567"} {
		d, ok := Parse(text)
		assert.True(t, ok, text)
		assert.Equal(t, want, d.String(), text)
	}
	for _, text := range []string{"", ",", ".", "-", "1.2.3", "1,25,0", "1,2,3", "12,95,", "1.25,00", "1e9", "0x1F",
		"12 x", "1 250", "NaN", "Inf", "١٢", "1234567890123456789012345678901"} {
		_, ok := Parse(text)
		assert.False(t, ok, text)
	}
}

func TestLocal(t *testing.T) {
	for text, want := range map[string]string{"12,95": "12.95", "5,125": "5.125", "1.250,50": "1250.50",
		"1.250.000": "1250000", "34.95": "34.95", "1.250": "1.250", "1,250.00": "1,250.00", "£ 12,95": "£ 12,95",
		"Coral": "Coral"} {
		assert.Equal(t, want, Local(text), text)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("1,250.00")
	f.Add("12,95")
	f.Fuzz(func(t *testing.T, text string) {
		d, ok := Parse(text)
		if !ok {
			return
		}
		again, ok := Parse(d.String())
		assert.True(t, ok && again.Equal(d), "%q is %s", text, d)
	})
}

func TestDayToCome(t *testing.T) {
	today := time.Date(2026, 11, 27, 0, 0, 0, 0, time.UTC)
	for typed, right := range map[string]bool{"27/11/2026": true, "2026-11-28": true, "26.11.2026": false,
		"2020-02-29": false, "soon": false} {
		_, err := DayToCome("back_by", typed, today)
		assert.Equal(t, right, err == nil, typed)
	}
	_, err := DayToCome("back_by", "26.11.2026", today)
	assert.EqualError(t, err, "26 November 2026 is over.")
}
