package catalog

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"slices"
	"strings"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp"

	"itemrack/core/fault"
	"itemrack/core/paper"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/goods"
)

// Bounds of a picture: bytes and pixels that come in, the side that is kept, and the bytes of the small one that lists
// show.
const (
	MostPicture = 20 << 20
	mostPixels  = 60_000_000
	mostSide    = 16_384
	largeSide   = 1600
	mostSmall   = 3 << 10
)

// smallSides and smallQualities are what is tried for the small picture, the best first.
var (
	smallSides     = []int{320, 240, 192, 160, 128, 96, 64, 32}
	smallQualities = []int{86, 75, 62}
)

// ReadPicture checks a picture by decoding it, and encodes it anew: what stood
// beside it in the file, such as where it was taken, is gone. Pictures with holes
// become PNG, others JPEG.
func ReadPicture(name string, data []byte) (goods.Picture, error) {
	if len(data) > MostPicture {
		return goods.Picture{}, fault.Field("picture", name, "20 MB or less", "%s is larger than 20 MB.", name)
	}
	config, kind, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return goods.Picture{}, fault.Field("picture", name, "a JPEG, PNG or WebP picture",
			"%s is not a picture that can be read.", name)
	}
	if config.Width > mostSide || config.Height > mostSide {
		return goods.Picture{}, fault.Field("picture", name, "16384 pixels or fewer on each side",
			"%s has %d × %d pixels.", name, config.Width, config.Height)
	}
	if config.Width <= 0 || config.Height <= 0 || int64(config.Width)*int64(config.Height) > mostPixels {
		return goods.Picture{}, fault.Field("picture", name, "60 megapixels or fewer",
			"%s has %d × %d pixels, which is %d megapixels.", name, config.Width, config.Height,
			int64(config.Width)*int64(config.Height)/1_000_000)
	}
	drawn, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return goods.Picture{}, fault.Field("picture", name, "a whole "+strings.ToUpper(kind)+" file",
			"%s is broken: %v.", name, err)
	}
	drawn = upright(drawn, orientation(data))
	large := scaled(drawn, largeSide)
	p := goods.Picture{}
	if p.Type, p.Data, err = encoded(large); err != nil {
		return p, err
	}
	p.Width, p.Height = large.Bounds().Dx(), large.Bounds().Dy()
	if err = makeSmall(&p, large); err != nil {
		return p, err
	}
	sum := sha256.Sum256(p.Data)
	p.Sum = hex.EncodeToString(sum[:])
	return p, nil
}

// scaled draws a picture no larger than a side, with its proportions.
func scaled(from image.Image, side int) *image.NRGBA {
	b := from.Bounds()
	w, h := b.Dx(), b.Dy()
	if longest := max(w, h); longest > side {
		w, h = max(1, w*side/longest), max(1, h*side/longest)
	}
	to := image.NewNRGBA(image.Rect(0, 0, w, h))
	draw.CatmullRom.Scale(to, to.Rect, from, b, draw.Src, nil)
	return to
}

func encoded(picture *image.NRGBA) (string, []byte, error) {
	var out bytes.Buffer
	if picture.Opaque() {
		err := jpeg.Encode(&out, picture, &jpeg.Options{Quality: smallQualities[0]})
		return "jpeg", out.Bytes(), err
	}
	err := png.Encode(&out, picture)
	return "png", out.Bytes(), err
}

// makeSmall keeps the best small picture that has at most mostSmall bytes. What holes are left in a
// photograph by then are white.
func makeSmall(p *goods.Picture, large *image.NRGBA) error {
	for _, side := range smallSides {
		picture := scaled(large, side)
		for _, attempt := range attempts(picture) {
			var out bytes.Buffer
			kind, err := attempt(&out)
			if err != nil {
				return err
			}
			if out.Len() <= mostSmall {
				p.SmallType, p.Small = kind, out.Bytes()
				p.SmallWidth, p.SmallHeight = picture.Rect.Dx(), picture.Rect.Dy()
				return nil
			}
		}
	}
	return fault.Field("picture", "", "another picture", "No small picture can be made of this one.")
}

// attempts are the ways to write a small picture, the best first: with a palette where it has few colours, as it is
// where it has holes, as a photograph.
func attempts(picture *image.NRGBA) []func(*bytes.Buffer) (string, error) {
	var ways []func(*bytes.Buffer) (string, error)
	asPNG := func(of image.Image) {
		ways = append(ways, func(out *bytes.Buffer) (string, error) {
			return "png", (&png.Encoder{CompressionLevel: png.BestCompression}).Encode(out, of)
		})
	}
	if few := paletted(picture); few != nil {
		asPNG(few)
	}
	if !picture.Opaque() {
		asPNG(picture)
		onWhite := image.NewNRGBA(picture.Rect)
		draw.Draw(onWhite, onWhite.Rect, image.White, image.Point{}, draw.Src)
		draw.Draw(onWhite, onWhite.Rect, picture, picture.Rect.Min, draw.Over)
		if picture.Rect.Dx() > smallSides[len(smallSides)-3] || picture.Rect.Dy() > smallSides[len(smallSides)-3] {
			return ways // holes are kept as long as something can still be seen
		}
		picture = onWhite
	}
	for _, quality := range smallQualities {
		ways = append(ways, func(out *bytes.Buffer) (string, error) {
			return "jpeg", jpeg.Encode(out, picture, &jpeg.Options{Quality: quality})
		})
	}
	return ways
}

// paletted is a picture of at most 256 colours with a palette of them, nil for any other.
func paletted(picture *image.NRGBA) *image.Paletted {
	var palette color.Palette
	at := map[color.NRGBA]uint8{}
	made := image.NewPaletted(picture.Rect, nil)
	for i := range made.Pix {
		c := color.NRGBA{R: picture.Pix[4*i], G: picture.Pix[4*i+1], B: picture.Pix[4*i+2], A: picture.Pix[4*i+3]}
		if _, known := at[c]; !known {
			if len(palette) == 256 {
				return nil
			}
			at[c] = uint8(len(palette)) //nolint:gosec // fewer than 256
			palette = append(palette, c)
		}
		made.Pix[i] = at[c]
	}
	made.Palette = palette
	return made
}

// orientation reads how a JPEG is turned (Exif 2.32, tag 0x0112): 1 to 8, 1 when
// it does not say.
func orientation(data []byte) int {
	for at := 2; at+4 < len(data) && data[at] == 0xFF; {
		size := int(data[at+2])<<8 | int(data[at+3])
		if data[at+1] == 0xE1 && at+2+size <= len(data) && bytes.HasPrefix(data[at+4:], []byte("Exif\x00\x00")) {
			return tiffOrientation(data[at+10 : at+2+size])
		}
		if data[at+1] == 0xDA {
			break
		}
		at += 2 + size
	}
	return 1
}

func tiffOrientation(t []byte) int {
	if len(t) < 8 {
		return 1
	}
	number := func(at, n int) int {
		if at < 0 || at+n > len(t) {
			return 0
		}
		v := 0
		for i := range n {
			if t[0] == 'I' {
				v |= int(t[at+i]) << (8 * i)
			} else {
				v = v<<8 | int(t[at+i])
			}
		}
		return v
	}
	directory := number(4, 4)
	for i := range min(number(directory, 2), 100) {
		entry := directory + 2 + 12*i
		if number(entry, 2) == 0x0112 {
			if turned := number(entry+8, 2); turned >= 1 && turned <= 8 {
				return turned
			}
		}
	}
	return 1
}

// upright turns a picture as its orientation says.
func upright(from image.Image, turned int) image.Image {
	if turned == 1 {
		return from
	}
	b := from.Bounds()
	w, h := b.Dx(), b.Dy()
	if turned >= 5 {
		w, h = h, w
	}
	to := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			fx, fy := x, y
			switch turned {
			case 2:
				fx = w - 1 - x
			case 3:
				fx, fy = w-1-x, h-1-y
			case 4:
				fy = h - 1 - y
			case 5:
				fx, fy = y, x
			case 6:
				fx, fy = y, w-1-x
			case 7:
				fx, fy = h-1-y, w-1-x
			case 8:
				fx, fy = h-1-y, x
			}
			to.Set(x, y, from.At(b.Min.X+fx, b.Min.Y+fy))
		}
	}
	return to
}

// AddPicture gives a product a picture.
func AddPicture(do deed.Deed, product uint64, name string, data []byte) (Changed, error) {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return Changed{}, err
	}
	p, err := ReadPicture(text.Or(name, "The picture"), data)
	if err != nil {
		return Changed{}, err
	}
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		if err := goods.LockProduct(do.Tx, product); err != nil {
			return Changed{}, err
		}
		id, err := goods.KeepPicture(do.Tx, p)
		if err != nil {
			return Changed{}, err
		}
		return Changed{id, "The picture is kept."}, goods.AddPictures(do.Tx, product, []uint64{id})
	})
}

// PictureChange drops a picture of a product, lets it stand for the product, or
// gives it to a variant.
type PictureChange struct {
	Do      string `json:"do"` // drop, lead or variant
	Variant uint64 `json:"variant_id"`
}

// ChangePicture changes what a picture of a product is for.
func ChangePicture(do deed.Deed, product, picture uint64, in PictureChange) (Changed, error) {
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		if err := goods.LockProduct(do.Tx, product); err != nil {
			return Changed{}, err
		}
		switch in.Do {
		case "drop":
			return Changed{picture, "The picture is dropped."}, goods.DropPicture(do.Tx, product, picture)
		case "lead":
			return Changed{picture, "The picture stands for the product."}, goods.LeadPicture(do.Tx, product, picture)
		case "variant":
			view, err := goods.ReadProduct(do.Tx.Q, product, 0, do.Shop.Now())
			if err != nil {
				return Changed{}, err
			}
			if _, ok := view.Variant(in.Variant); !ok {
				return Changed{}, fault.Missing("variant_id", in.Variant, "%s has no variant %d.", view.Name,
					in.Variant)
			}
			return Changed{picture,
					"The picture stands for the variant."}, goods.UpdateVariant(do.Tx, in.Variant,
					map[string]any{"picture_id": picture})
		}
		return Changed{}, fault.Field("do", in.Do, "drop, lead or variant", "A picture can't be %q.", in.Do)
	})
}

// CategoryPicture gives a category the picture of its tile.
func CategoryPicture(do deed.Deed, category uint64, name string, data []byte) (Changed, error) {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return Changed{}, err
	}
	p, err := ReadPicture(text.Or(name, "The picture"), data)
	if err != nil {
		return Changed{}, err
	}
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		all, err := goods.LockCategories(do.Tx)
		if err != nil {
			return Changed{}, err
		}
		if !slices.ContainsFunc(all, func(c goods.Category) bool { return c.ID == category }) {
			return Changed{}, fault.Missing("category", category, "There is no category %d.", category)
		}
		id, err := goods.KeepPicture(do.Tx, p)
		if err != nil {
			return Changed{}, err
		}
		return Changed{id, "The picture is kept."}, goods.SaveCategory(do.Tx, category, map[string]any{"picture_id": id})
	})
}

// Printed is a picture as it is printed.
func Printed(p goods.Picture) *paper.Picture {
	return &paper.Picture{Key: p.Sum, Type: p.SmallType, Data: p.Small, Width: p.SmallWidth, Height: p.SmallHeight}
}
