package labels_test

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/catalog"
	shoplabels "itemrack/shop/labels"
	"itemrack/shop/testkit"
)

var ctx = context.Background()

func TestAPictureOnTileTagAndLabel(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	drawn := image.NewNRGBA(image.Rect(0, 0, 60, 90))
	for y := range 90 {
		for x := range 60 {
			drawn.Set(x, y, color.NRGBA{R: uint8(4 * x), G: uint8(2 * y), B: 90, A: 255})
		}
	}
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, drawn))
	_, err := catalog.AddPicture(s.By(s.Maren), made.ID, "vest.png", file.Bytes())
	require.NoError(t, err)
	_, err = catalog.CategoryPicture(s.By(s.Maren), 1, "tile.png", file.Bytes())
	require.NoError(t, err)
	_, err = catalog.CategoryPicture(s.By(s.Maren), 99, "tile.png", file.Bytes())
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = catalog.CategoryPicture(s.By(s.Maren), 1, "tile.png", []byte("GIF89a"))
	assert.NotNil(t, fault.Of(err))
	labels := func(template string) int {
		sheet, err := shoplabels.Labels(s.By(s.Tobi), shoplabels.LabelRequest{
			Template: template,
			Labels:   []shoplabels.LabelWish{{Variant: made.Variants[0].ID, Copies: 2}},
		},
		)
		require.NoError(t, err)
		pictures := 0
		for _, shape := range sheet.Pages[0].Shapes {
			if shape.Picture != nil {
				pictures++
			}
		}
		return pictures
	}
	assert.Equal(t, 2, labels("tag-a4"), "a swing tag has it, once a label")
	assert.Zero(t, labels("a4-40x25"))
	p := s.View(t, made.ID)
	require.NotNil(t, p.PictureID)
	_, err = catalog.ChangePicture(s.By(s.Maren), made.ID, *p.PictureID, catalog.PictureChange{Do: "drop"})
	require.NoError(t, err)
	assert.Nil(t, s.View(t, made.ID).PictureID)
	assert.Zero(t, labels("tag-a4"))
}
