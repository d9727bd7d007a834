package catalog

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
)

func TestTheCategoryThatIsMeant(t *testing.T) {
	paths := []string{"Paddle", "Paddle > Boards", "Paddle > Board care", "Shore", "Shore > Bags", "Swim",
		"Swim > Rash vests", "Swim > Été", "Sale > Bags"}
	for text, want := range map[string]string{
		"Swim > Rash vests":   "Swim > Rash vests",
		"swim>rash  VESTS":    "Swim > Rash vests", // as it is written there
		"rash":                "Swim > Rash vests", // one begins so
		"ete":                 "Swim > Été",
		"swim":                "Swim",
		"boards":              "Paddle > Boards", // the whole name goes before a beginning
		"board":               "board",           // two begin so: it is a new one
		"bags":                "bags",            // two are called so
		"Hats":                "Hats",
		"Swim > Caps > Silly": "Swim > Caps > Silly",
		" > Swim > ":          "Swim",
	} {
		got, err := MeantCategory(paths, text)
		require.NoError(t, err, text)
		assert.Equal(t, want, strings.Join(got, PathMark), text)
	}
	for _, bad := range []string{"", " > ", strings.Repeat("x", 81)} {
		_, err := MeantCategory(paths, bad)
		require.Error(t, err, bad)
		assert.Equal(t, "category", fault.Of(err).Field)
	}
	none, err := MeantCategory(nil, "Swim > Hats")
	require.NoError(t, err)
	assert.Equal(t, []string{"Swim", "Hats"}, none)
}
