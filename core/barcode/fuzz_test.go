package barcode

import "testing"

func FuzzScale(f *testing.F) {
	for _, code := range []string{"2812345012349", "2900001012340", "28", "2812345012340", "２812345012349"} {
		f.Add("28", code, int32(3))
	}
	f.Fuzz(func(t *testing.T, prefix, code string, decimals int32) {
		if CheckEmbedded("prefix", prefix, "20") != nil || decimals < 0 || decimals > 5 {
			return
		}
		item, amount, ok := Embedded{Prefix: prefix, Decimals: decimals}.Split(code)
		if !ok {
			return
		}
		if _, err := Parse(item); err != nil || len(item) != 13 || item[:7] != code[:7] || amount.IsNegative() ||
			!amount.Shift(decimals).IsInteger() {
			t.Fatalf("%q is %s of %q (%v)", code, amount, item, err)
		}
	})
}
