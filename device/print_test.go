package device_test

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/datamatrix"
	"github.com/makiuchi-d/gozxing/oned"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	scale "golang.org/x/image/draw"
	"golang.org/x/image/math/f64"

	"itemrack/core/barcode"
	"itemrack/core/buying"
	"itemrack/core/label"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/core/scan"
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
	said, err = exec.Command("pdftoppm", "-r", fmt.Sprint(dpi), "-gray", "-png", file, filepath.Join(folder, "page")).
		CombinedOutput()
	require.NoError(t, err, string(said))
	shots, err := filepath.Glob(filepath.Join(folder, "page*.png"))
	require.NoError(t, err)
	require.Len(t, shots, len(pages))
	return shots
}

// zbar reads every symbol of a picture, with Debian's reader.
func zbar(t *testing.T, shot string) []string {
	t.Helper()
	said, err := exec.Command("zbarimg", "--quiet", "--raw", "-Sdisable", "-Sean13.enable", "-Sean8.enable",
		"-Supca.enable", "-Si25.enable", "-Sqrcode.enable", "-Scode128.enable", shot).
		Output()
	require.NoError(t, err, "no symbol was read from %s", shot)
	return strings.Fields(string(said))
}

// crop cuts the barcode field out of a picture of a label, with white around it.
func crop(t *testing.T, shot string, template label.Template, dpi int) image.Image {
	t.Helper()
	file, err := os.Open(shot)
	require.NoError(t, err)
	defer file.Close()
	picture, _, err := image.Decode(file)
	require.NoError(t, err)
	at := template.Fields[slices.IndexFunc(template.Fields,
		func(f label.Field) bool { return f.Kind == label.Barcode })]
	dots := func(mm float64) int { return int(mm / 25.4 * float64(dpi)) }
	box := image.Rect(dots(at.X), dots(at.Y), dots(at.X+at.W), dots(at.Y+at.H))
	alone := image.NewGray(box.Inset(-20))
	draw.Draw(alone, alone.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(alone, box, picture, box.Min, draw.Src)
	return alone
}

// held calls a reader with the barcode field of a label, held straight and then a
// little askew as a hand holds a scanner, until it reads: readers of matrices miss
// some whose sides are exactly upright.
func held(t *testing.T, shot string, template label.Template, dpi int,
	read func(picture image.Image) (string, bool)) string {
	t.Helper()
	alone := crop(t, shot, template, dpi)
	for degrees := range 6 {
		turned := image.NewGray(alone.Bounds().Inset(-20))
		draw.Draw(turned, turned.Rect, image.White, image.Point{}, draw.Src)
		sin, cos := math.Sincos(float64(degrees) * math.Pi / 180)
		scale.BiLinear.Transform(turned, f64.Aff3{cos, -sin, 0, sin, cos, 0}, alone, alone.Bounds(), draw.Over, nil)
		if said, ok := read(turned); ok {
			return strings.TrimPrefix(said, "\x1d") // FNC1 in front
		}
	}
	t.Fatalf("no symbol was read from %s at %d dpi", template.Code, dpi)
	return ""
}

// dmtx reads a DataMatrix with Debian's reader.
func dmtx(t *testing.T, shot string, template label.Template, dpi int) string {
	t.Helper()
	return held(t, shot, template, dpi, func(picture image.Image) (string, bool) {
		file, err := os.Create(filepath.Join(t.TempDir(), "alone.png"))
		require.NoError(t, err)
		require.NoError(t, png.Encode(file, picture))
		require.NoError(t, file.Close())
		said, err := exec.Command("dmtxread", "-N1", "-m2000", "-G", "29", file.Name()).Output()
		return strings.TrimSpace(string(said)), err == nil
	})
}

// zxing reads the symbol of a label with a reader in Go.
func zxing(t *testing.T, shot string, template label.Template, dpi int) string {
	t.Helper()
	hints := map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_TRY_HARDER: true}
	readers := []gozxing.Reader{oned.NewMultiFormatUPCEANReader(hints), oned.NewCode128Reader(), oned.NewITFReader(),
		qrcode.NewQRCodeReader(), datamatrix.NewDataMatrixReader()}
	return held(t, shot, template, dpi, func(picture image.Image) (string, bool) {
		bitmap, err := gozxing.NewBinaryBitmapFromImage(picture)
		require.NoError(t, err)
		for _, reader := range readers {
			if result, err := reader.Decode(bitmap, hints); err == nil {
				return result.GetText(), true
			}
		}
		return "", false
	})
}

// sample is an item that fills every field.
func sample(t *testing.T, code string) label.Item {
	t.Helper()
	shot := image.NewRGBA(image.Rect(0, 0, 60, 40))
	for i := range shot.Pix {
		shot.Pix[i] = byte(i % 251)
	}
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, shot))
	return label.Item{
		Name:        "Tidewater rash vest",
		ShortName:   "Rash vest",
		Values:      []label.AxisValue{{Axis: "Colour", Value: "Coral"}, {Axis: "Size", Value: "M"}},
		SKU:         "TWV-COR-M",
		Price:       "£34.95",
		FormerPrice: "£39.95",
		UnitPrice:   "£34.95 / pc",
		Part:        "KT-1180",
		Barcode:     code,
		Lot:         "K614",
		Expiry:      time.Date(2027, 6, 30, 0, 0, 0, 0, time.UTC),
		Serial:      "BW26-01184",
		Picture:     &paper.Picture{Key: "shot", Type: "png", Data: out.Bytes(), Width: 60, Height: 40},
	}
}

// codes is a number for each symbology.
var codes = map[barcode.Symbology]string{
	barcode.AsEAN13:      "2000000000015",
	barcode.AsEAN8:       "96385074",
	barcode.AsUPCA:       "012345678905",
	barcode.AsITF14:      "12000000000012",
	barcode.AsCode128:    "TWV-COR-M",
	barcode.AsQR:         "2000000000015",
	barcode.AsDataMatrix: "2000000000015",
}

// one is a template with one symbol of a kind, a label to the page, so that each
// page is read by itself.
func one(from label.Template, kind barcode.Symbology) label.Template {
	from.Sheet = label.Sheet{Paper: label.Roll}
	fields := append([]label.Field{}, from.Fields...)
	for i := range fields {
		if fields[i].Kind == label.Barcode {
			fields[i].Symbol = kind
		}
	}
	from.Fields = fields
	return from
}

// TestEveryTemplateWithEverySymbolIsRead prints each kind of label with each
// symbol, at the resolutions of label printers, and has two readers read it; a
// symbol that the label is too small for is refused in words.
func TestEveryTemplateWithEverySymbolIsRead(t *testing.T) {
	refused := 0
	for at, template := range label.Shipped() {
		require.NoError(t, template.Validate(), template.Code)
		assert.Empty(t, template.Remarks(), template.Code)
		for i, kind := range barcode.Symbologies {
			item := sample(t, codes[kind])
			pages, _, err := one(template, kind).Print([]label.Order{{Item: item, Copies: 1}}, 0, face.Measure)
			if err != nil {
				refused++
				assert.Contains(t, err.Error(), "is too small", "%s as %s", template.Code, kind)
				continue
			}
			// what is read at the coarser resolution of usual printers is read at the finer; each kind is tried there, too
			resolutions := []int{203}
			if (i+at)%len(barcode.Symbologies) < 2 {
				resolutions = append(resolutions, 300)
			}
			for _, dpi := range resolutions {
				shot := rasterise(t, pages, dpi)[0]
				want := codes[kind]
				if kind == barcode.AsDataMatrix {
					want = "01020000000000151727063010K614\x1d21BW26-01184"
					assert.Equal(t, want, dmtx(t, shot, template, dpi), "%s at %d dpi", template.Code, dpi)
				} else {
					assert.Equal(t, []string{barcode.Key(want)}, keys(zbar(t, shot)), "%s as %s at %d dpi",
						template.Code, kind, dpi)
				}
				assert.Equal(t, barcode.Key(want), barcode.Key(zxing(t, shot, template, dpi)), "%s as %s at %d dpi",
					template.Code, kind, dpi)
			}
		}
	}
	assert.Positive(t, refused, "an EAN-13 can't stand on 25 mm")
	assert.Less(t, refused, 20)
}

// keys are the forms in which numbers are compared: UPC-A is read as EAN-13.
func keys(list []string) []string {
	for i := range list {
		list[i] = barcode.Key(list[i])
	}
	return list
}

func TestEverySheetIsRead(t *testing.T) {
	for _, template := range label.Shipped() {
		if template.Sheet.Paper == label.Roll {
			continue
		}
		var orders []label.Order
		var want []string
		for n := range template.PerPage() + 2 { // a reader names each number once, so each label has its own
			code, err := barcode.Own("20", uint64(n*7919))
			require.NoError(t, err)
			orders = append(orders, label.Order{Item: sample(t, code), Copies: 1})
			want = append(want, barcode.Key(code))
		}
		const skip = 5
		pages, _, err := template.Print(orders, skip, face.Measure)
		require.NoError(t, err)
		require.Len(t, pages, 2, template.Code)
		shots := rasterise(t, pages, 300)
		first := template.PerPage() - skip
		assert.ElementsMatch(t, want[:first], keys(zbar(t, shots[0])), template.Code)
		assert.ElementsMatch(t, want[first:], keys(zbar(t, shots[1])), template.Code)
		file, err := os.Open(shots[0])
		require.NoError(t, err)
		config, _, err := image.DecodeConfig(file)
		require.NoError(t, err)
		require.NoError(t, file.Close())
		width, height := 210.0, 297.0
		if template.Sheet.Paper == label.Letter {
			width, height = 215.9, 279.4
		}
		assert.InDelta(t, width/25.4*300, config.Width, 1, template.Code)
		assert.InDelta(t, height/25.4*300, config.Height, 1, template.Code)
	}
}

func TestNothingLeavesTheLabel(t *testing.T) {
	long := sample(t, "2099999999998")
	long.Name, long.Price = "A very long name of a thing that no label of forty millimetres could ever hold in one "+
		"line", "£1,234.95"
	long.Values = []label.AxisValue{{Axis: "Colour", Value: "Harbour green"}, {Axis: "Size", Value: "XXL"}}
	for _, template := range label.Shipped() {
		for _, item := range []label.Item{sample(t, "2000000000015"), long,
			{Name: "Board wax", Price: "£4.50", Barcode: "012345678905"},
			{Name: "Rope 8 mm", Price: "£1.80", Barcode: "R8"}} {
			shapes, remarks, err := template.Draw(item, face.Measure)
			if err != nil {
				assert.Equal(t, "roll-25x15", template.Code, "only a number of digits stands in a DataMatrix: %v", err)
				continue
			}
			seen := ""
			for _, s := range shapes {
				width, left := s.W, s.X
				if s.Text != "" {
					width = face.Measure(s.Text, s.Face, s.Size)
					switch s.Anchor {
					case paper.Middle:
						left -= width / 2
					case paper.End:
						left -= width
					}
					seen += s.Text + " "
				}
				assert.GreaterOrEqual(t, left, -0.001, "%s %+v", template.Code, s)
				assert.LessOrEqual(t, left+width, template.Width+0.001, "%s %+v", template.Code, s)
				assert.LessOrEqual(t, s.Y+s.H, template.Height+0.001, "%s %+v", template.Code, s)
			}
			for _, v := range item.Values {
				assert.Contains(t, seen, v.Value, "%s: size and colour stand whole", template.Code)
			}
			if item.Name == long.Name && template.Code == "a4-40x25" {
				assert.Contains(t, strings.Join(remarks, " "), "short name")
			}
		}
	}
	small, _ := label.ByCode(label.Shipped(), "")
	_, _, err := small.Draw(label.Item{Name: "x", Barcode: strings.Repeat("LONG-CODE-", 4)}, face.Measure)
	assert.ErrorContains(t, err, "too small")
	_, _, err = small.Draw(
		label.Item{
			Name:    "x",
			Values:  []label.AxisValue{{Axis: "Colour", Value: strings.Repeat("Very long colour ", 9)}},
			Price:   "£1.00",
			Barcode: "2000000000015",
		},
		face.Measure,
	)
	assert.ErrorContains(t, err, "never cut")
	_, remarks, err := small.Draw(label.Item{Name: "x"}, face.Measure)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(remarks, " "), "no barcode")
}

func TestBoundsOfAPrint(t *testing.T) {
	sheet, _ := label.ByCode(label.Shipped(), "")
	item := sample(t, "2000000000015")
	for copies, says := range map[int]string{0: "how many labels", -1: "10,000", 10_001: "10,000"} {
		_, _, err := sheet.Print([]label.Order{{Item: item, Copies: copies}}, 0, face.Measure)
		assert.ErrorContains(t, err, says)
	}
	for _, skip := range []int{-1, 55} {
		_, _, err := sheet.Print([]label.Order{{Item: item, Copies: 1}}, skip, face.Measure)
		assert.ErrorContains(t, err, "can't begin")
	}
	_, ok := label.ByCode(label.Shipped(), "a5")
	assert.False(t, ok)
}

// TestTenThousandLabels holds that a season's labels are one file.
func TestTenThousandLabels(t *testing.T) {
	sheet, _ := label.ByCode(label.Shipped(), "")
	var orders []label.Order
	for n := range 1000 {
		code, err := barcode.Own("20", uint64(n*7919))
		require.NoError(t, err)
		orders = append(orders, label.Order{Item: sample(t, code), Copies: 10})
	}
	began := time.Now()
	pages, _, err := sheet.Print(orders, 0, face.Measure)
	require.NoError(t, err)
	pdf, err := device.PDF("labels", pages)
	require.NoError(t, err)
	t.Logf("10,000 labels: %d pages, %.1f MB, %s", len(pages), float64(len(pdf))/1e6,
		time.Since(began).Round(time.Millisecond))
	assert.Len(t, pages, 182)
	file := filepath.Join(t.TempDir(), "labels.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	said, err := exec.Command("qpdf", "--check", file).CombinedOutput()
	require.NoError(t, err, string(said))
	assert.Contains(t, string(said), "No syntax or stream encoding errors")
}

func TestReceiptBarcodeIsRead(t *testing.T) {
	r := sale.Receipt{
		Shop:   "Saltmarsh Paddle & Swim",
		Branch: "Quay Shop",
		Title:  "Sale Q1-00318",
		Number: "Q1-00318",
		Under:  []string{"20 Nov 2026 10:42"},
		Lines: []sale.ReceiptLine{
			{
				Name:   "A name so long that it runs into the second line of the receipt",
				Detail: "Coral · M",
				Amount: "34.95",
			},
		},
		Sums: []sale.ReceiptSum{{Label: "Total", Amount: "£34.95", Large: true}},
		Foot: "Keep this.",
	}
	page := r.Page(face.Measure)
	assert.Equal(t, []string{"Q1-00318"}, zbar(t, rasterise(t, []paper.Page{page}, 203)[0]))
	svg := page.SVG("Receipt <1>")
	assert.Contains(t, svg, `aria-label="Receipt &lt;1&gt;"`)
	assert.Contains(t, svg, "Saltmarsh Paddle &amp; Swim")
}

// TestTheBarcodesOfAnOrderAreRead: that of its number, and one for each line.
func TestTheBarcodesOfAnOrderAreRead(t *testing.T) {
	p := buying.Paper{Shop: "Saltmarsh Paddle & Swim", Branch: "Quay Shop", Number: "P-0142",
		Supplier: "Northfold Neoprene", Day: time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC),
		Currency: money.CurrencyByCode("GBP")}
	want := []string{"P-0142"}
	for i := range 3 {
		code, err := barcode.Own("20", uint64(i+1))
		require.NoError(t, err)
		want = append(want, code)
		p.Lines = append(p.Lines, buying.PaperLine{Code: code, SKU: "HWS-SLA-L", Name: "Headland wetsuit 4/3",
			Label: "Slate · L", Unit: "pc",
			Ordered: buying.Ordered{Quantity: decimal.New(6, 0), Factor: decimal.New(1, 0), Price: decimal.New(64, 0),
				Discount: decimal.New(8, 0)}})
	}
	p.Lines = append(p.Lines, buying.PaperLine{Code: "TWV-COR-M", SKU: "TWV-COR-M", Name: "Vest", Unit: "pc",
		Ordered: buying.Ordered{Factor: decimal.New(1, 0)}})
	want = append(want, "TWV-COR-M")
	pages := p.Pages(face.Measure)
	require.Len(t, pages, 1)
	assert.ElementsMatch(t, want, zbar(t, rasterise(t, pages, 300)[0]))
}

// TestShelfLabelsAreReadBack prints labels of shelves and reads their codes.
func TestShelfLabelsAreReadBack(t *testing.T) {
	var labels []label.ShelfLabel
	var want []string
	for _, id := range []uint64{1, 42, 123456} {
		labels = append(labels, label.ShelfLabel{Name: "Back room B6, ß 漢", Branch: "Quay Shop",
			Code: scan.ShelfCode(id)})
		want = append(want, scan.ShelfCode(id))
	}
	pages, err := label.ShelfSheets(labels, face.Measure)
	require.NoError(t, err)
	read := zbar(t, rasterise(t, pages, 200)[0])
	slices.Sort(read)
	slices.Sort(want)
	assert.Equal(t, want, read)
}
