package catalog

import (
	"bytes"
	"image"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
)

// turned is a JPEG that says how it is turned.
func turned(f testing.TB, how byte) []byte {
	var out bytes.Buffer
	require.NoError(f, jpeg.Encode(&out, image.NewGray(image.Rect(0, 0, 3, 2)), nil))
	exif := []byte("\xff\xe1\x00\x22Exif\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00" +
		string(how) + "\x00\x00\x00\x00\x00\x00\x00")
	return append(append(out.Bytes()[:2:2], exif...), out.Bytes()[2:]...)
}

func FuzzPicture(f *testing.F) {
	for how := range byte(10) {
		f.Add(turned(f, how))
	}
	var drawn bytes.Buffer
	require.NoError(f, png.Encode(&drawn, image.NewGray(image.Rect(0, 0, 2, 2))))
	f.Add(drawn.Bytes())
	f.Add([]byte("RIFF\x1a\x00\x00\x00WEBPVP8L"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if how := orientation(data); how < 1 || how > 8 {
			t.Fatalf("turned %d", how)
		}
		if config, _, err := image.DecodeConfig(bytes.NewReader(data)); err == nil &&
			config.Width*config.Height > 1<<20 {
			return // large ones are drawn well, and slowly
		}
		p, err := ReadPicture("it", data)
		if err != nil {
			if fault.Of(err) == nil {
				t.Fatalf("%v is no sentence for people", err)
			}
			return
		}
		kept, _, err := image.DecodeConfig(bytes.NewReader(p.Data))
		if err != nil || kept.Width != p.Width || kept.Height != p.Height {
			t.Fatalf("kept %d × %d as %v (%v)", p.Width, p.Height, kept, err)
		}
	})
}

func TestAPictureStandsUpright(t *testing.T) {
	for how := byte(1); how <= 8; how++ {
		p, err := ReadPicture("it", turned(t, how))
		require.NoError(t, err)
		require.Equal(t, how >= 5, p.Width < p.Height, "turned %d", how)
	}
}
