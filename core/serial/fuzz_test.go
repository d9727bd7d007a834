package serial

import (
	"slices"
	"testing"

	"itemrack/core/text"
)

func FuzzReadList(f *testing.F) {
	for _, typed := range []string{"ab 12, AB12", "A;B\nC", "É1\u200b", "\uff21", ",,,", "ß ẞ", "a\r\nb"} {
		f.Add(typed)
	}
	f.Fuzz(func(t *testing.T, typed string) {
		numbers, err := ReadList(typed)
		if err != nil {
			return
		}
		kept := Keep(numbers)
		if !slices.Equal(Kept(kept), numbers) && len(numbers) > 0 {
			t.Fatalf("%q is kept as %q", numbers, kept)
		}
		again, err := ReadList(kept)
		if err != nil || !slices.Equal(again, numbers) {
			t.Fatalf("%q is read as %q, and that as %q (%v)", typed, numbers, again, err)
		}
		for _, n := range numbers {
			if n != Normal(n) || text.Len(n) > 40 {
				t.Fatalf("%q is not normal", n)
			}
		}
	})
}
