package scan

import (
	"testing"

	"itemrack/core/money"
	"itemrack/core/text"
)

func FuzzTries(f *testing.F) {
	for _, code := range []string{"3 x TWV-COR-M", "2812345012349", "(01)02000000000015(17)270630(10)K614", "\x1d01",
		"0.5*R8", "999999 × ×", "é"} {
		f.Add(code, "28", "29")
	}
	f.Fuzz(func(t *testing.T, code, weight, amount string) {
		asked, err := Read(code)
		if err != nil {
			return
		}
		if asked.Each.IsNegative() {
			t.Fatalf("%q asks for %s", code, asked.Each)
		}
		tries := Tries(asked.Code, Scales{weight, amount, money.Hundredth})
		for _, try := range tries {
			if try.Key == "" && text.Tidy(asked.Code) != "" && try.By == ByCode {
				t.Fatalf("%q is looked up as nothing", code)
			}
			if try.Weight != nil && try.Weight.IsNegative() || try.Amount != nil && try.Amount.IsNegative() {
				t.Fatalf("%q weighs %v at %v", code, try.Weight, try.Amount)
			}
		}
		asked.Units(nil, nil)
	})
}
