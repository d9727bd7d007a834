package barcode_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"itemrack/core/barcode"
)

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

func TestACheckDigitCatchesAWrongDigit(t *testing.T) {
	r := chance(6)
	for range 1500 {
		body := make([]byte, []int{7, 11, 12, 13}[r.IntN(4)])
		for i := range body {
			body[i] = byte('0' + r.IntN(10))
		}
		right := ""
		for digit := byte('0'); digit <= '9'; digit++ {
			if _, err := barcode.Parse(string(body) + string(digit)); err == nil {
				require.Empty(t, right, "one check digit is right for %s", body)
				right = string(body) + string(digit)
			}
		}
		require.NotEmpty(t, right, string(body))
		at := r.IntN(len(right))
		wrong := right[:at] + string('0'+(right[at]-'0'+byte(1+r.IntN(9)))%10) + right[at+1:]
		_, err := barcode.Parse(wrong)
		require.Error(t, err, "%s for %s", wrong, right)
	}
}
