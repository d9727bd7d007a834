package buying_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
)

// TestGoodsInPacks: 8 boxes of 12 for 144.00 are 96 at 1.50; 8 boxes of 12 and 4 loose are 100.
func TestGoodsInPacks(t *testing.T) {
	p, err := buying.ReadPacked("8", "12", "", "", "144.00", pennies)
	require.NoError(t, err)
	assert.Equal(t, "96 1.5", p.Units().String()+" "+p.One().String())
	p, err = buying.ReadPacked("8", "12", "4", "9", "", pennies)
	require.NoError(t, err)
	assert.Equal(t, "100 9", p.Units().String()+" "+p.One().String())
	p, err = buying.ReadPacked("", "", "3", "", "", pennies)
	require.NoError(t, err)
	assert.Equal(t, "3", p.Units().String())
	assert.Nil(t, p.One())
	for _, bad := range [][]string{{"8", "", "", "", "", "pack_of"}, {"1", "0", "", "", "", "pack_of"},
		{"1.5", "12", "", "", "", "packs"}, {"", "", "-1", "", "", "loose"},
		{"", "", "1", "x", "", "cost"}, {"", "", "1", "", "1.005", "total"}, {"", "-3", "", "", "", "pack_of"}} {
		_, err := buying.ReadPacked(bad[0], bad[1], bad[2], bad[3], bad[4], pennies)
		require.NotNil(t, fault.Of(err), "%v", bad)
		assert.Equal(t, bad[5], fault.Of(err).Field, "%v", bad)
	}
}
