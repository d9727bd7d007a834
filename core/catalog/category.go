package catalog

import (
	"strings"

	"itemrack/core/fault"
	"itemrack/core/letters"
	"itemrack/core/text"
)

// PathMark stands between the names of a category's path.
const PathMark = " > "

// LongestPath is how many characters a category's path has at most.
const LongestPath = 400

// SplitPath takes the names of a path apart; blanks around them do not count.
func SplitPath(typed string) []string {
	var path []string
	for _, part := range strings.Split(typed, ">") {
		if part = text.Tidy(part); part != "" {
			path = append(path, part)
		}
	}
	return path
}

// MeantCategory finds the category that a person means among those there are,
// each by its path: a path such as "Swim > Rash vests", a category's name, or
// letters that only one category's name begins with. What is not known comes
// back as a new path.
func MeantCategory(paths []string, said string) ([]string, error) {
	path := SplitPath(said)
	if len(path) == 0 {
		return nil, fault.Field("category", said, "Swim > Rash vests",
			"A product needs a category; it is how reports group later.")
	}
	for _, part := range path {
		if text.Len(part) > 80 {
			return nil, fault.Field("category", said, "80 characters or fewer for each",
				"The name of the category is too long.")
		}
	}
	full := strings.Join(path, PathMark)
	typed := letters.Plain(full)
	var called, begun [][]string
	for _, p := range paths {
		if text.Same(p, full) {
			return SplitPath(p), nil
		}
		if len(path) > 1 {
			continue
		}
		names := SplitPath(p)
		switch name := letters.Plain(names[len(names)-1]); {
		case name == typed:
			called = append(called, names)
		case strings.HasPrefix(name, typed):
			begun = append(begun, names)
		}
	}
	switch {
	case len(called) == 1:
		return called[0], nil
	case len(called) == 0 && len(begun) == 1:
		return begun[0], nil
	}
	return path, nil
}
