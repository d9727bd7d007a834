package label

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/paper"
)

// TestShelfLabelsFitTheirSheets: fourteen on a sheet, nothing beyond its label, however long a name is.
func TestShelfLabelsFitTheirSheets(t *testing.T) {
	wide := func(text string, _ paper.Face, size float64) float64 { return float64(len([]rune(text))) * size * 0.6 }
	var labels []ShelfLabel
	for n := range 15 {
		labels = append(labels, ShelfLabel{Name: strings.Repeat("Wall 漢 ", n+1), Branch: "Quay Shop",
			Code: fmt.Sprintf("SH-%04d", n)})
	}
	pages, err := ShelfSheets(labels, wide)
	require.NoError(t, err)
	require.Len(t, pages, 2)
	for _, page := range pages {
		for _, s := range page.Shapes {
			width := s.W
			if s.Text != "" && s.Anchor == paper.Start {
				width = wide(s.Text, s.Face, s.Size)
			}
			assert.LessOrEqual(t, s.X+width, 210.0-7, "%q", s.Text)
			assert.Less(t, s.Y, 290.0)
		}
	}
	texts := 0
	for _, s := range pages[1].Shapes {
		if s.Text != "" {
			texts++
		}
	}
	assert.Equal(t, 3, texts, "the fifteenth begins a sheet")
	_, err = ShelfSheets([]ShelfLabel{{Name: "x", Code: "漢"}}, wide)
	assert.Error(t, err, "no Code 128 holds that")
}
