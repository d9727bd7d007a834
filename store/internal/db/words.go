package db

import (
	"strings"
)

// Values repeats the placeholders of one row n times after head.
func Values(head string, n int, one string) string {
	return head + strings.TrimSuffix(strings.Repeat(one+", ", n), ", ")
}

// Like escapes what LIKE would take as a pattern.
func Like(text string) string {
	return strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(text)
}
