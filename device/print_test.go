package device_test

import (
	"fmt"
	"image"
	_ "image/png" // pages come back as PNG
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/oned"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/barcode"
	"itemrack/core/label"
	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/device"
	"itemrack/device/face"
)

// rasterise prints pages as PDF, checks it, and returns a PNG of each page.
func rasterise(t *testing.T, pages []paper.Page, dpi int) []string {
	t.Helper()
	pdf, err := device.PDF("test", pages)
	require.NoError(t, err)
	folder := t.TempDir()
	file := filepath.Join(folder, "labels.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	said, err := exec.Command("qpdf", "--check", file).CombinedOutput()
	require.NoError(t, err, string(said))
	said, err = exec.Command("pdftoppm", "-r", fmt.Sprint(dpi), "-png", file, filepath.Join(folder, "page")).CombinedOutput()
	require.NoError(t, err, string(said))
	shots, err := filepath.Glob(filepath.Join(folder, "page*.png"))
	require.NoError(t, err)
	require.Len(t, shots, len(pages))
	return shots
}

// zbar reads every symbol of a picture, with Debian's reader.
func zbar(t *testing.T, shot string) []string {
	t.Helper()
	said, err := exec.Command("zbarimg", "--quiet", "--raw", "-Sdisable", "-Sean13.enable", "-Scode128.enable", shot).Output()
	require.NoError(t, err, "no symbol was read from %s", shot)
	return strings.Fields(string(said))
}

func items() []label.Item {
	list := []label.Item{
		{Name: "Tidewater rash vest", Detail: "Coral · M", Price: "£34.95", Barcode: "2000000000015"},
		{Name: "A very long name of a thing that no label of forty millimetres could ever hold", ShortName: "Long thing", Detail: "Harbour green · XXL", Price: "£1,234.95", Barcode: "2099999999998"},
		{Name: "Board wax", Price: "£4.50", Barcode: "012345678905"},
		{Name: "Rope 8 mm", Price: "£1.80", Barcode: "ROPE-8"},
	}
	return list
}

func TestEveryLabelIsRead(t *testing.T) {
	for _, layout := range label.Layouts {
		for _, dpi := range []int{203, 300} {
			t.Run(fmt.Sprintf("%s at %d dpi", layout.Code, dpi), func(t *testing.T) {
				for _, item := range items() {
					pages, _, err := label.Sheet(layout, []label.Order{{Item: item, Copies: 3}}, face.Measure)
					require.NoError(t, err)
					want := item.Barcode
					if len(want) == 12 {
						want = "0" + want // UPC-A prints as EAN-13
					}
					var got []string
					for _, shot := range rasterise(t, pages, dpi) {
						got = append(got, zbar(t, shot)...)
						if layout.PerPage() == 1 {
							assert.Equal(t, want, zxing(t, shot))
						}
					}
					assert.NotEmpty(t, got)
					for _, g := range got {
						assert.Equal(t, want, g)
					}
					if layout.PerPage() == 1 {
						assert.Len(t, got, 3)
					}
				}
			})
		}
	}
}

// zxing reads the symbol of a picture with a reader in Go.
func zxing(t *testing.T, shot string) string {
	t.Helper()
	file, err := os.Open(shot)
	require.NoError(t, err)
	defer file.Close()
	picture, _, err := image.Decode(file)
	require.NoError(t, err)
	bitmap, err := gozxing.NewBinaryBitmapFromImage(picture)
	require.NoError(t, err)
	hints := map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_TRY_HARDER: true}
	result, err := oned.NewMultiFormatUPCEANReader(hints).Decode(bitmap, hints)
	if err != nil {
		result, err = oned.NewCode128Reader().Decode(bitmap, hints)
	}
	require.NoError(t, err, shot)
	return result.GetText()
}

func TestSheetOfLabelsInExactMillimetres(t *testing.T) {
	var orders []label.Order
	var want []string
	for n := range 60 { // a reader names each number once, so each label has its own
		code, err := barcode.Own("20", uint64(n*7919))
		require.NoError(t, err)
		orders = append(orders, label.Order{Item: label.Item{Name: "Tidewater rash vest", Detail: "Coral · M", Price: "£34.95", Barcode: code}, Copies: 1})
		want = append(want, code)
	}
	pages, _, err := label.Sheet(label.Layouts[0], orders, face.Measure)
	require.NoError(t, err)
	require.Len(t, pages, 2, "60 labels on sheets of 55")
	shots := rasterise(t, pages, 300)
	assert.ElementsMatch(t, want[:55], zbar(t, shots[0]))
	assert.ElementsMatch(t, want[55:], zbar(t, shots[1]))
	file, err := os.Open(shots[0])
	require.NoError(t, err)
	defer file.Close()
	config, _, err := image.DecodeConfig(file)
	require.NoError(t, err)
	assert.InDelta(t, 210/25.4*300, config.Width, 1)
	assert.InDelta(t, 297/25.4*300, config.Height, 1)
}

func TestNothingLeavesTheLabel(t *testing.T) {
	for _, item := range items() {
		shapes, _, err := label.Draw(item, label.Small, face.Measure)
		require.NoError(t, err)
		seen := false
		for _, s := range shapes {
			width := s.W
			left := s.X
			if s.Text != "" {
				width = face.Measure(s.Text, s.Face, s.Size)
				switch s.Anchor {
				case paper.Middle:
					left -= width / 2
				case paper.End:
					left -= width
				}
				seen = seen || s.Text == item.Detail
			}
			assert.GreaterOrEqual(t, left, 0.0, "%+v", s)
			assert.LessOrEqual(t, left+width, 40.001, "%+v", s)
			assert.LessOrEqual(t, s.Y+s.H, 25.0)
		}
		assert.True(t, seen || item.Detail == "", "size and colour stand whole")
	}
	_, remarks, err := label.Draw(items()[1], label.Small, face.Measure)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(remarks, " "), "short name")
	_, _, err = label.Draw(label.Item{Name: "x", Barcode: strings.Repeat("LONG-CODE-", 5)}, label.Small, face.Measure)
	assert.ErrorContains(t, err, "too thin")
	_, _, err = label.Draw(label.Item{Name: "x", Detail: strings.Repeat("Very long colour ", 9), Price: "£1.00", Barcode: "2000000000015"}, label.Small, face.Measure)
	assert.ErrorContains(t, err, "never cut")
}

func TestSheetBounds(t *testing.T) {
	_, _, err := label.Sheet(label.Layouts[0], []label.Order{{Item: items()[0], Copies: 0}}, face.Measure)
	assert.ErrorContains(t, err, "how many labels")
	_, _, err = label.Sheet(label.Layouts[0], []label.Order{{Item: items()[0], Copies: 10_001}}, face.Measure)
	assert.Error(t, err)
	_, err = label.LayoutByCode("a5")
	assert.Error(t, err)
}

func TestReceiptBarcodeIsRead(t *testing.T) {
	r := sale.Receipt{Shop: "Saltmarsh Paddle & Swim", Branch: "Quay Shop", Title: "Sale Q1-00318", Number: "Q1-00318", Under: []string{"20 Nov 2026 10:42"},
		Lines: []sale.ReceiptLine{{Name: "A name so long that it runs into the second line of the receipt", Detail: "Coral · M", Amount: "34.95"}},
		Sums:  []sale.ReceiptSum{{Label: "Total", Amount: "£34.95", Large: true}}, Foot: "Keep this."}
	page := r.Page(face.Measure)
	assert.Equal(t, []string{"Q1-00318"}, zbar(t, rasterise(t, []paper.Page{page}, 203)[0]))
	svg := page.SVG("Receipt <1>")
	assert.Contains(t, svg, `aria-label="Receipt &lt;1&gt;"`)
	assert.Contains(t, svg, "Saltmarsh Paddle &amp; Swim")
}
