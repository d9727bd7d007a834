package catalog

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestSmallPicturesAreSmall holds what lists show to 3 kB, whatever is on it: few colours, a slope, noise; with holes
// and without.
func TestSmallPicturesAreSmall(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 11))
	noise := func() uint8 { return uint8(random.UintN(256)) }
	for _, c := range []struct {
		name    string
		of      func(x, y int) color.NRGBA
		kind    string
		atLeast int
	}{
		{"two colours", func(x, y int) color.NRGBA {
			if (x-400)*(x-400)+(y-300)*(y-300) < 90_000 {
				return color.NRGBA{R: 11, G: 106, B: 93, A: 255}
			}
			return color.NRGBA{R: 250, G: 247, B: 241, A: 255}
		}, "jpeg", 240},
		{"a slope", func(x, y int) color.NRGBA {
			return color.NRGBA{R: uint8(x / 4), G: uint8(y / 3), B: 90, A: 255}
		}, "jpeg", 240},
		{"noise", func(int, int) color.NRGBA {
			return color.NRGBA{R: noise(), G: noise(), B: noise(), A: 255}
		}, "jpeg", 64},
		{"holes", func(x, y int) color.NRGBA {
			if (x/100+y/100)%2 == 0 {
				return color.NRGBA{}
			}
			return color.NRGBA{R: 125, G: 42, B: 77, A: 255}
		}, "png", 240},
		{"noise with holes", func(x, _ int) color.NRGBA {
			return color.NRGBA{R: noise(), G: noise(), B: noise(), A: uint8(x / 4)}
		}, "jpeg", 32},
	} {
		drawn := image.NewNRGBA(image.Rect(0, 0, 800, 600))
		for y := range 600 {
			for x := range 800 {
				drawn.SetNRGBA(x, y, c.of(x, y))
			}
		}
		var file bytes.Buffer
		require.NoError(t, png.Encode(&file, drawn))
		p, err := ReadPicture("it.png", file.Bytes())
		require.NoError(t, err, c.name)
		assert.LessOrEqual(t, len(p.Small), 3<<10, c.name)
		assert.Equal(t, c.kind, p.SmallType, c.name)
		assert.GreaterOrEqual(t, p.SmallWidth, c.atLeast, c.name)
		config, kind, err := image.DecodeConfig(bytes.NewReader(p.Small))
		require.NoError(t, err, c.name)
		assert.Equal(t, []any{p.SmallType, p.SmallWidth, p.SmallHeight}, []any{kind, config.Width, config.Height}, c.name)
	}
}
