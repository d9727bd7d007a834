package number

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestNumbersThatReadTwoWaysAreAsked: both readings are named, unless only one can be meant.
func TestNumbersThatReadTwoWaysAreAsked(t *testing.T) {
	for _, c := range []struct {
		typed    string
		decimals int32
		want     string
	}{
		{"1,250", 3, "1250 or 1.25"}, {"1,250", 2, "1250 or 1.25"}, {"1,255", 3, "1255 or 1.255"},
		{"-1,250", 3, "-1250 or -1.25"},
		{"1,255", 2, ""}, {"1,250", 0, ""}, {"1,250.00", 2, ""}, {"1.250,00", 2, ""}, {"1,25", 2, ""}, {"12,500,000", 2, ""},
		{"0,250", 3, ""}, {"1250", 3, ""}, {"1,2500", 4, ""},
	} {
		said := ""
		if grouped, decimal, both := TwoWays(c.typed, c.decimals); both {
			said = grouped + " or " + decimal
		}
		assert.Equal(t, c.want, said, "%s with %d decimals", c.typed, c.decimals)
		assert.Equal(t, c.want == "", Asks("f", c.typed, c.decimals) == nil, c.typed)
	}
	assert.Equal(t, []string{"1250", "1.250", "1250.5"}, []string{InFile("1,250", false), InFile("1,250", true),
		InFile("1.250,5", true)}, "a file says what its marks are")
}
