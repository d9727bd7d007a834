package labels_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/shop/labels"
	"itemrack/shop/prices"
	"itemrack/shop/testkit"
)

func TestLabelsSayWhatTheyAreAskedFor(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	_, err := prices.SetPrices(s.By(s.Maren), made.ID, prices.PriceChange{Price: "29.95"})
	require.NoError(t, err)
	text := func(in labels.LabelRequest) string {
		sheet, err := labels.Labels(s.By(s.Tobi), in)
		require.NoError(t, err)
		all := ""
		for _, shape := range sheet.Pages[0].Shapes {
			all += shape.Text + "|"
		}
		return all
	}
	one := []labels.LabelWish{
		{Variant: made.Variants[0].ID, Copies: 1, Lot: "K614", Expiry: "2127-06-30", Serial: "BW1"}}
	shelf := text(labels.LabelRequest{Template: "shelf-a4", Labels: one})
	assert.Contains(t, shelf, "£29.95|")
	assert.Contains(t, shelf, "£34.95|", "the former price, struck through")
	large := text(labels.LabelRequest{Template: "roll-100x50", Labels: one})
	for _, want := range []string{"Lot K614|", "Use by 30 Jun 2127|", "No. BW1|"} {
		assert.Contains(t, large, want)
	}
	club, err := prices.SavePriceList(s.By(s.Maren), 0,
		prices.ListInput{Name: "Club", Kind: "fixed", Amount: "25"})
	require.NoError(t, err)
	assert.Contains(t, text(labels.LabelRequest{List: club.ID, Labels: one}), "£25.00|")

	template, err := labels.LabelTemplate(ctx, s.Shop, "a4-40x25")
	require.NoError(t, err)
	template.Name = "Ours"
	template.Fields = append(template.Fields[:3:3], label.Field{Kind: label.Barcode, X: 0, Y: 9, W: 20, H: 15})
	page, remarks, err := labels.Design(s.By(s.Maren), template, made.Variants[0].ID)
	require.NoError(t, err)
	assert.NotEmpty(t, page.Shapes)
	assert.Contains(t, strings.Join(remarks, " "), "too small", "said in words while it is designed")
	kept, err := labels.SaveLabelTemplate(s.By(s.Maren, "k"), "new", labels.KindOf(template))
	require.NoError(t, err)
	assert.Equal(t, "own-1", kept.Code)
	mine := kept
	mine.Width--
	mine, err = labels.SaveLabelTemplate(s.By(s.Maren), kept.Code, mine)
	require.NoError(t, err)
	assert.NotEqual(t, kept.Revision, mine.Revision)
	kept.Height--
	_, err = labels.SaveLabelTemplate(s.By(s.Maren), kept.Code, kept)
	require.True(t, fault.Is(err, fault.Conflict), "somebody else saved it meanwhile")
	assert.Equal(t, "revision", fault.Of(err).Field)
	shown, err := labels.LabelTemplate(ctx, s.Shop, "own-1")
	require.NoError(t, err)
	assert.Equal(t, mine.Revision, labels.KindOf(shown).Revision, "as it is listed")
	mine.Width++
	_, err = labels.SaveLabelTemplate(s.By(s.Maren), kept.Code, mine)
	require.NoError(t, err, "the one who saw it last goes on")
	_, err = labels.SaveLabelTemplate(s.By(s.Maren), "own-9", mine)
	assert.True(t, fault.Is(err, fault.NotFound), "a kind that was dropped meanwhile is not made again")
	_, err = labels.Labels(s.By(s.Tobi), labels.LabelRequest{Template: "own-1", Labels: one})
	assert.ErrorContains(t, err, "too small")
	_, err = labels.SaveLabelTemplate(s.By(s.Maren), "new", labels.KindOf(template))
	assert.True(t, fault.Is(err, fault.Conflict), "a name of its own")
	_, err = labels.DropLabelTemplate(s.By(s.Maren), "a4-40x25")
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = labels.DropLabelTemplate(s.By(s.Maren), "own-1")
	require.NoError(t, err)
	for _, bad := range []labels.LabelRequest{{Template: "x", Labels: one}, {Labels: one, Skip: 55},
		{Labels: []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: 1, Expiry: "soon"}}}, {}} {
		_, err := labels.Labels(s.By(s.Tobi), bad)
		assert.Error(t, err, "%+v", bad)
	}
}

func TestALabelThatIsTooSmallIsToldWhatHolds(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	_, err := prices.SetPrices(s.By(s.Maren), made.ID, prices.PriceChange{Price: "12345678.95"})
	require.NoError(t, err)
	tag := label.Shipped()[0]
	tag.Name, tag.Fields = "Tiny", []label.Field{{Kind: label.Price, X: 1, Y: 1, W: 8, H: 5, Em: 4}}
	kept, err := labels.SaveLabelTemplate(s.By(s.Maren), "new", labels.KindOf(tag))
	require.NoError(t, err)
	_, err = labels.Labels(s.By(s.Tobi), labels.LabelRequest{Template: kept.Code,
		Labels: []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: 1}}})
	e := fault.Of(err)
	require.NotNil(t, e)
	assert.Contains(t, e.Detail, "£12,345,678.95")
	held := 0
	for _, kind := range label.Shipped() {
		if strings.Contains(e.Want, kind.Name) {
			held++
		}
	}
	assert.Positive(t, held, e.Want)
}
