package labels_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/labels"
	"itemrack/shop/testkit"
)

func TestLabels(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	sheet, err := labels.Labels(s.By(s.Tobi), labels.LabelRequest{
		Labels: []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: 50},
			{Variant: made.Variants[2].ID, Copies: 10}},
	},
	)
	require.NoError(t, err)
	assert.Len(t, sheet.Pages, 2)
	assert.Equal(t, 60, sheet.Count)
	svg := sheet.Pages[1].SVG("x")
	assert.Contains(t, svg, "£36.95")
	assert.Contains(t, svg, "Coral · L")
	_, err = labels.Labels(s.By(s.Tobi), labels.LabelRequest{Labels: []labels.LabelWish{{Variant: 999, Copies: 1}}})
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = labels.Labels(s.By(s.Tobi),
		labels.LabelRequest{Labels: []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: -1}}})
	assert.Equal(t, "copies", fault.Of(err).Field)
}
