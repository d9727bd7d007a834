package device

import (
	"image"
	_ "image/png" // what pdftoppm writes
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/paper"
)

// TestAPDFHoldsAnySign draws names in many scripts, each in a row of its own, and looks whether there is ink in it.
func TestAPDFHoldsAnySign(t *testing.T) {
	names := []string{"Größe M", "漢字", "🏄", "תיק", "Жилет", "ᚠ", "\U0010FFFD", "👩\u200d👧"}
	page := paper.Page{Width: 60, Height: float64(10 * len(names))}
	for i, name := range names {
		page.Shapes = append(page.Shapes, paper.Shape{X: 30, Y: float64(10*i) + 7, Text: name, Face: paper.Text, Size: 5,
			Anchor: paper.Middle})
	}
	data, err := PDF("Order 🏄", []paper.Page{page})
	require.NoError(t, err)
	dir := t.TempDir()
	file := filepath.Join(dir, "it.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	require.NoError(t, exec.Command("qpdf", "--check", file).Run())
	require.NoError(t, exec.Command("pdftoppm", "-r", "100", "-png", "-singlefile", file, filepath.Join(dir, "it")).Run())
	drawn, err := os.Open(filepath.Join(dir, "it.png"))
	require.NoError(t, err)
	defer drawn.Close()
	picture, _, err := image.Decode(drawn)
	require.NoError(t, err)
	rows := picture.Bounds().Dy() / len(names)
	for i, name := range names {
		ink := 0
		for y := i * rows; y < (i+1)*rows; y++ {
			for x := range picture.Bounds().Dx() {
				if r, _, _, _ := picture.At(x, y).RGBA(); r < 0x8000 {
					ink++
				}
			}
		}
		assert.Greater(t, ink, 15, "there is nothing of %q", name)
	}
	if to := os.Getenv("ITEMRACK_KEEP_PDF"); to != "" {
		require.NoError(t, os.WriteFile(to, data, 0o600))
	}
}
