package face

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/paper"
)

// TestAnySignIsDrawn: by its face, as an outline of another, or as a box; what is never seen takes no room.
func TestAnySignIsDrawn(t *testing.T) {
	for _, c := range []struct {
		text     string
		outlines int
	}{
		{"Größe", 0}, {"漢字", 2}, {"🏄", 1}, {"Ω Ж ש", 3}, {"☃", 1}, {"\U0010FFFD", 1}, {"a\u200db\ufe0f", 0}, {"👍🏽", 1},
		{"€", 0},
	} {
		for name := range Files {
			parts := Parts(c.text, name, 4)
			outlines, width := 0, 0.0
			for _, p := range parts {
				if p.Outline != nil {
					outlines++
					assert.NotEmpty(t, p.Outline, "%q in %s", c.text, name)
				}
				width += p.Width
			}
			if c.text != "Ω Ж ש" { // of these a face may have some
				assert.Equal(t, c.outlines, outlines, "%q in %s", c.text, name)
			}
			assert.InDelta(t, Measure(c.text, name, 4), width, 1e-9, "%q in %s", c.text, name)
			assert.Positive(t, width, "%q in %s", c.text, name)
		}
	}
	assert.Equal(t, "M קית", seen("M תיק"), "from right to left")
	assert.Equal(t, boxed.advance, signOf('\U0010FFFD').advance)
	require.Greater(t, len(signOf('🏄').segments), 10)
	assert.InDelta(t, Measure("ab", paper.Text, 4), Measure("a\u200db\ufe0f", paper.Text, 4), 1e-9)
}
