package silhouette

import (
	"bytes"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/catalog"
)

func TestEveryOutlineIsDrawn(t *testing.T) {
	used := map[string]bool{}
	for _, thing := range things {
		used[thing.outline] = true
		got, ok := Of("Northfold " + thing.word + " 3")
		assert.True(t, ok, thing.word)
		assert.NotEmpty(t, outlines[got], thing.word)
	}
	for name := range outlines {
		assert.True(t, used[name], "%s is of nothing", name)
		data, err := Draw(name, catalog.Swatch{First: "#D9604C", Second: "#22282B", Pattern: catalog.Stripes})
		require.NoError(t, err, name)
		picture, err := png.Decode(bytes.NewReader(data))
		require.NoError(t, err)
		counts := map[[3]uint32]int{}
		for y := range Side {
			for x := range Side {
				r, g, b, _ := picture.At(x, y).RGBA()
				counts[[3]uint32{r >> 8, g >> 8, b >> 8}]++
			}
		}
		filled := counts[[3]uint32{0xD9, 0x60, 0x4C}] + counts[[3]uint32{0x22, 0x28, 0x2B}]
		assert.Greater(t, filled, Side*Side/40, "%s is seen", name)
		assert.Greater(t, counts[[3]uint32{0xF4, 0xF2, 0xEC}], Side*Side/6, "%s leaves room around it", name)
		assert.Positive(t, counts[[3]uint32{0x22, 0x28, 0x2B}], "%s shows the second colour", name)
	}
	_, ok := Of("Umbrella")
	assert.False(t, ok)
	_, err := Draw("umbrella", catalog.Swatch{})
	assert.Error(t, err)
}
