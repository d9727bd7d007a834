// Package silhouette draws what the demo shop sells: the outline of a thing in the colours of a
// variant. Its main rule: an outline is a path in a square of 100, drawn once for every colour.
package silhouette

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"strings"

	"golang.org/x/image/vector"

	"itemrack/core/catalog"
)

// Side is how many pixels a picture has on each side.
const Side = 200

// paper is what a thing lies on.
var paper = color.RGBA{0xF4, 0xF2, 0xEC, 0xFF}

// outlines are paths in a square of 100 by the name of a thing: M and L go to a point, C along a
// curve through two others to a third, Z closes. Figures that lie in each other leave holes.
var outlines = map[string]string{
	"wetsuit": "M40 8 L60 8 L64 14 L84 22 L92 54 L83 57 L74 32 L70 52 L72 94 L58 94 L50 60 L42 94 L28 94 L30 52 " +
		"L26 32 L17 57 L8 54 L16 22 L36 14 Z",
	"shorty": "M40 12 L60 12 L66 18 L84 26 L90 44 L80 48 L72 38 L70 56 L73 84 L56 84 L50 64 L44 84 L27 84 L30 " +
		"56 L28 38 L20 48 L10 44 L16 26 L34 18 Z",
	"vest":   "M40 14 C45 20 55 20 60 14 L72 18 L90 66 L78 70 L70 46 L70 88 L30 88 L30 46 L22 70 L10 66 L28 18 Z",
	"top":    "M38 14 C42 26 58 26 62 14 L70 14 L74 36 L72 88 L28 88 L26 36 L30 14 Z",
	"shorts": "M24 22 L76 22 L82 76 L58 80 L50 46 L42 80 L18 76 Z",
	"suit": "M32 10 L40 10 C42 30 58 30 60 10 L68 10 L70 38 C62 54 66 66 76 74 C62 76 56 86 54 92 L46 92 C44 " +
		"86 38 76 24 74 C34 66 38 54 30 38 Z",
	"bikini": "M14 40 C24 32 40 34 48 50 C40 62 22 62 14 40 Z M86 40 C76 32 60 34 52 50 C60 62 78 62 86 40 Z " +
		"M46 46 L54 46 L54 50 L46 50 Z",
	"bottom": "M14 34 C36 42 64 42 86 34 L82 48 C66 52 58 62 54 74 L46 74 C42 62 34 52 18 48 Z",
	"boots":  "M34 10 L58 10 L58 58 C66 66 84 64 88 76 L88 88 L34 88 C30 64 36 40 34 10 Z",
	"gloves": "M36 92 L34 56 C24 50 20 42 16 34 C20 30 24 32 34 44 L34 14 C38 10 42 12 42 16 L44 40 L46 10 C50 " +
		"6 54 8 54 12 L54 40 L58 12 C62 8 66 12 66 16 L64 44 L70 26 C74 24 78 28 76 32 L66 62 L64 92 Z",
	"hood": "M50 10 C76 10 84 34 78 62 C84 72 84 84 78 90 L22 90 C16 84 16 72 22 62 C16 34 24 10 50 10 Z M50 " +
		"26 C38 26 32 40 34 54 C40 64 60 64 66 54 C68 40 62 26 50 26 Z",
	"cap": "M12 64 C10 30 34 18 52 18 C76 18 90 40 88 64 C70 56 34 56 12 64 Z M10 68 C34 60 70 60 90 68 L88 " +
		"74 C66 66 34 66 12 74 Z",
	"hat": "M28 56 C28 30 38 22 50 22 C62 22 72 30 72 56 Z M8 62 C30 54 70 54 92 62 C90 76 70 72 50 72 C30 " +
		"72 10 76 8 62 Z",
	"goggles": "M4 44 L14 40 C24 34 42 36 46 46 L54 46 C58 36 76 34 86 40 L96 44 L96 52 L88 56 C82 70 60 68 54 " +
		"54 L46 54 C40 68 18 70 12 56 L4 52 Z M18 46 C24 42 36 42 40 48 C38 58 22 60 18 46 Z M82 46 C76 42 64 " +
		"42 60 48 C62 58 78 60 82 46 Z",
	"robe": "M40 8 C46 16 54 16 60 8 L74 14 L90 54 L78 58 L72 42 L78 94 L54 94 L50 30 L46 94 L22 94 L28 42 " +
		"L22 58 L10 54 L26 14 Z",
	"towel": "M20 10 L80 10 L80 84 L20 84 Z M20 86 L24 86 L24 94 L20 94 Z M34 86 L38 86 L38 94 L34 94 Z M48 " +
		"86 L52 86 L52 94 L48 94 Z M62 86 L66 86 L66 94 L62 94 Z M76 86 L80 86 L80 94 L76 94 Z",
	"bag":    "M30 26 L70 26 L78 90 L22 90 Z M32 22 L68 22 L68 14 L58 14 L58 18 L42 18 L42 14 L32 14 Z",
	"tote":   "M20 40 L80 40 L86 90 L14 90 Z M32 38 C32 6 68 6 68 38 L62 38 C62 16 38 16 38 38 Z",
	"pouch":  "M22 24 L78 24 L78 84 L22 84 Z M28 14 L72 14 L72 21 L28 21 Z M32 36 L32 74 L68 74 L68 36 Z",
	"bottle": "M40 8 L60 8 L60 20 L56 24 C70 30 72 38 72 46 L72 92 L28 92 L28 46 C28 38 30 30 44 24 L40 20 Z",
	"tube":   "M42 8 L58 8 L58 18 L42 18 Z M34 20 L66 20 L74 88 L26 88 Z M24 90 L76 90 L76 95 L24 95 Z",
	"bar": "M8 34 L14 38 L8 42 L14 46 L8 50 L14 54 L8 58 L14 62 L8 66 L92 66 L86 62 L92 58 L86 54 L92 50 " +
		"L86 46 L92 42 L86 38 L92 34 Z",
	"coil": "M50 16 C74 16 90 30 90 50 C90 70 74 84 50 84 C26 84 10 70 10 50 C10 30 26 16 50 16 Z M50 34 C36 " +
		"34 28 42 28 50 C28 58 36 66 50 66 C64 66 72 58 72 50 C72 42 64 34 50 34 Z M86 66 L96 88 L88 92 L78 72 Z",
	"roll": "M50 14 C70 14 86 30 86 50 C86 70 70 86 50 86 L50 86 L96 86 L96 94 L44 94 C24 92 14 72 14 50 C14 " +
		"30 30 14 50 14 Z M50 34 C41 34 34 41 34 50 C34 59 41 66 50 66 C59 66 66 59 66 50 C66 41 59 34 50 34 Z",
	"board": "M50 4 C64 16 68 42 66 66 C64 84 58 96 50 96 C42 96 36 84 34 66 C32 42 36 16 50 4 Z M42 50 L58 " +
		"50 L58 56 L42 56 Z",
	"paddle": "M74 6 C86 6 92 16 86 28 C80 38 70 38 66 34 L26 88 C30 92 26 98 20 94 C14 98 8 92 14 86 C16 82 " +
		"20 82 22 84 L60 30 C58 18 64 8 74 6 Z",
	"kayak": "M6 14 C14 6 28 12 32 26 L74 68 C88 72 94 86 86 94 C78 98 66 90 66 76 L26 34 C12 32 2 22 6 14 Z",
	"hands": "M26 20 C40 14 48 26 46 46 C46 68 38 84 26 84 C12 84 8 66 10 46 C10 32 14 24 26 20 Z M74 20 C86 " +
		"24 90 32 90 46 C92 66 88 84 74 84 C62 84 54 68 54 46 C52 26 60 14 74 20 Z",
	"fin":   "M14 84 C30 50 52 22 84 12 C72 34 74 62 82 84 Z",
	"float": "M24 14 C40 6 60 6 76 14 L80 92 L20 92 Z",
	"pull": "M20 30 C30 20 42 24 50 36 C58 24 70 20 80 30 C92 44 88 66 76 74 C66 80 56 74 50 64 C44 74 34 80 " +
		"24 74 C12 66 8 44 20 30 Z",
	"buoy": "M50 22 C72 22 84 38 84 56 C84 76 70 90 50 90 C30 90 16 76 16 56 C16 38 28 22 50 22 Z M46 8 L54 " +
		"8 L54 20 L46 20 Z",
	"aid": "M28 12 L40 12 C42 26 58 26 60 12 L72 12 L78 40 L78 90 L54 90 L54 40 L46 40 L46 90 L22 90 L22 40 Z",
	"pump": "M18 12 L82 12 L82 20 L56 20 L56 44 L64 44 L64 88 L80 88 L80 94 L20 94 L20 88 L36 88 L36 44 L44 " +
		"44 L44 20 L18 20 Z",
	"puck": "M16 42 C16 28 84 28 84 42 L84 66 C84 80 16 80 16 66 Z",
	"whistle": "M8 36 L64 36 C80 36 92 46 92 60 C92 74 80 84 66 84 C52 84 42 74 42 62 L42 56 L8 56 Z M66 50 C60 " +
		"50 56 54 56 60 C56 66 60 70 66 70 C72 70 76 66 76 60 C76 54 72 50 66 50 Z",
	"light": "M34 12 L66 12 L70 30 L64 40 L64 92 L36 92 L36 40 L30 30 Z M46 50 L54 50 L54 64 L46 64 Z",
	"watch": "M38 6 L62 6 L64 26 L36 26 Z M36 74 L64 74 L62 94 L38 94 Z M50 28 C63 28 74 38 74 50 C74 62 63 " +
		"72 50 72 C37 72 26 62 26 50 C26 38 37 28 50 28 Z M48 36 L52 36 L52 48 L62 54 L60 58 L48 52 Z",
	"clip": "M38 16 C42 8 58 8 62 16 L72 64 C74 76 62 84 56 74 L50 40 L44 74 C38 84 26 76 28 64 Z",
	"lesson": "M62 10 C68 10 72 14 72 20 C72 26 68 30 62 30 C56 30 52 26 52 20 C52 14 56 10 62 10 Z M48 34 L66 " +
		"34 L74 56 L88 58 L88 66 L68 64 L62 52 L58 66 L72 80 L28 80 L44 60 L46 46 L30 60 L24 54 Z M6 84 C34 92 " +
		"66 92 94 84 C84 98 16 98 6 84 Z",
	"repair": "M70 8 C62 12 58 20 60 30 L18 72 C10 80 20 92 28 84 L70 42 C82 44 92 34 90 22 L78 34 L66 30 L64 18 L76 8 Z",
	"kit": "M30 4 C38 14 40 40 38 64 C36 82 34 94 30 94 C26 94 22 82 20 64 C18 40 22 14 30 4 Z M62 8 C72 6 " +
		"76 20 68 30 L68 94 L62 94 L62 30 C54 22 54 12 62 8 Z M84 60 C90 60 94 66 94 74 C94 84 88 90 82 88 C76 " +
		"84 74 66 84 60 Z",
}

// Names of things are found by the first of these words that stands in a product's name.
var things = []struct{ word, outline string }{{"child's wetsuit", "wetsuit"}, {"neoprene vest", "top"},
	{"wetsuit", "wetsuit"},
	{"shorty", "shorty"}, {"sun suit", "shorty"}, {"rash vest", "vest"}, {"long-sleeve", "vest"}, {"jacket",
		"robe"}, {"robe", "robe"},
	{"shorts", "shorts"}, {"swimsuit", "suit"}, {"bikini top", "bikini"}, {"bikini bottom", "bottom"}, {"boots",
		"boots"},
	{"shoes", "boots"}, {"gloves", "gloves"}, {"hood", "hood"}, {"swim cap", "cap"}, {"hat", "hat"}, {"goggles",
		"goggles"},
	{"towel", "towel"}, {"board bag", "bag"}, {"beach bag", "tote"}, {"kit bag", "tote"}, {"dry bag", "bag"}, {"pouch",
		"pouch"},
	{"flask", "bottle"}, {"sun cream", "bottle"}, {"glue", "tube"}, {"energy bar", "bar"}, {"rope", "coil"}, {"leash",
		"coil"},
	{"webbing", "roll"}, {"starter kit", "kit"}, {"hand paddles", "hands"}, {"kayak", "kayak"}, {"paddle watch",
		"watch"},
	{"board repair", "repair"}, {"board pump", "pump"}, {"wax", "puck"}, {"kickboard", "float"}, {"pull buoy", "pull"},
	{"tow buoy", "buoy"}, {"buoyancy", "aid"}, {"fin", "fin"}, {"whistle", "whistle"}, {"light",
		"light"}, {"nose clip", "clip"},
	{"lesson", "lesson"}, {"paddle", "paddle"}, {"board", "board"}}

// Of names the outline of a product by its name; false for one that is not drawn.
func Of(product string) (string, bool) {
	for _, t := range things {
		if strings.Contains(strings.ToLower(product), t.word) {
			return t.outline, true
		}
	}
	return "", false
}

// Draw draws an outline in the colours of a swatch, as a PNG.
func Draw(outline string, swatch catalog.Swatch) ([]byte, error) {
	path, ok := outlines[outline]
	if !ok {
		return nil, fmt.Errorf("no outline %q", outline)
	}
	shape, err := raster(path)
	if err != nil {
		return nil, fmt.Errorf("outline %s: %w", outline, err)
	}
	picture := image.NewRGBA(image.Rect(0, 0, Side, Side))
	draw.Draw(picture, picture.Bounds(), image.NewUniform(paper), image.Point{}, draw.Src)
	draw.DrawMask(picture, picture.Bounds(), cloth{rgb(swatch.First), rgb(swatch.Second), swatch.Pattern},
		image.Point{}, shape, image.Point{}, draw.Over)
	var out bytes.Buffer
	err = png.Encode(&out, picture)
	return out.Bytes(), err
}

// raster fills a path; where figures lie in each other they leave a hole.
func raster(path string) (*image.Alpha, error) {
	whole := image.NewAlpha(image.Rect(0, 0, Side, Side))
	for _, figure := range strings.Split(path, "Z") {
		if strings.TrimSpace(figure) == "" {
			continue
		}
		one := image.NewAlpha(whole.Bounds())
		r := vector.NewRasterizer(Side, Side)
		words := strings.Fields(figure)
		for i := 0; i < len(words); {
			command := words[i][0]
			n := map[byte]int{'M': 2, 'L': 2, 'C': 6}[command]
			at := make([]float32, n)
			words[i] = words[i][1:]
			for k := range n {
				if i+k >= len(words) {
					return nil, fmt.Errorf("%q ends early", figure)
				}
				if _, err := fmt.Sscan(words[i+k], &at[k]); err != nil {
					return nil, fmt.Errorf("%q: %w", figure, err)
				}
				at[k] *= Side / 100.0
			}
			switch command {
			case 'M':
				r.MoveTo(at[0], at[1])
			case 'L':
				r.LineTo(at[0], at[1])
			case 'C':
				r.CubeTo(at[0], at[1], at[2], at[3], at[4], at[5])
			default:
				return nil, fmt.Errorf("%q: no command %c", figure, command)
			}
			i += n
		}
		r.ClosePath()
		r.Draw(one, one.Bounds(), image.Opaque, image.Point{})
		for i, a := range one.Pix {
			if b := whole.Pix[i]; b > a {
				whole.Pix[i] = b - a
			} else {
				whole.Pix[i] = a - b
			}
		}
	}
	return whole, nil
}

// cloth is a swatch as a picture without an end.
type cloth struct {
	first, second color.RGBA
	pattern       catalog.Pattern
}

// ColorModel is that of RGBA.
func (c cloth) ColorModel() color.Model { return color.RGBAModel }

// Bounds are those of a picture.
func (c cloth) Bounds() image.Rectangle { return image.Rect(0, 0, Side, Side) }

// At is the colour at a place: the second one where the pattern has it.
func (c cloth) At(x, y int) color.Color {
	second := false
	switch c.pattern {
	case catalog.TwoTone:
		second = y > Side/2
	case catalog.Stripes:
		second = y/10%2 == 1
	case catalog.Dots:
		dx, dy := x%20-10, y%20-10
		second = dx*dx+dy*dy < 18
	case catalog.Check:
		second = x/12%2 == y/12%2
	}
	if second {
		return c.second
	}
	return c.first
}

// rgb reads "#D9604C"; without a colour a thing is of rail steel.
func rgb(code string) color.RGBA {
	c := color.RGBA{0x6B, 0x77, 0x80, 0xFF}
	if _, err := fmt.Sscanf(code, "#%02X%02X%02X", &c.R, &c.G, &c.B); err != nil {
		return color.RGBA{0x6B, 0x77, 0x80, 0xFF}
	}
	return c
}
