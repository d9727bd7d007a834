package lists

import (
	"archive/zip"
	"bytes"
	"image"
	"image/png"
	"testing"

	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
)

func FuzzPictures(f *testing.F) {
	var drawn, file bytes.Buffer
	require.NoError(f, png.Encode(&drawn, image.NewGray(image.Rect(0, 0, 2, 2))))
	archive := zip.NewWriter(&file)
	for _, name := range []string{"vest.png", "folder/Größe.PNG", "__MACOSX/._vest.png", "empty.png"} {
		w, err := archive.Create(name)
		require.NoError(f, err)
		_, err = w.Write(drawn.Bytes())
		require.NoError(f, err)
	}
	require.NoError(f, archive.Close())
	f.Add(file.Bytes(), "vest.png")
	f.Add(file.Bytes()[40:], "größe.png")
	f.Add([]byte("PK\x05\x06"+string(make([]byte, 18))), "../x")
	f.Fuzz(func(t *testing.T, data []byte, name string) {
		z := &zipPictures{files: map[string]*zip.File{}}
		err := z.list(bytes.NewReader(data), int64(len(data)))
		if err == nil {
			_, _, err = z.read(name)
		}
		if err != nil && fault.Of(err) == nil {
			t.Fatalf("%v is no sentence for people", err)
		}
	})
}
