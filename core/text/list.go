package text

import (
	"encoding/csv"
	"strings"
)

// List takes apart a text that names several things, with semicolons or line ends between
// them (RFC 4180 with ";" for the comma): what holds such a sign itself stands in quotation
// marks. Empty parts are left out.
func List(typed string) []string {
	r := csv.NewReader(strings.NewReader(typed))
	r.Comma, r.FieldsPerRecord, r.TrimLeadingSpace, r.LazyQuotes = ';', -1, true, true
	var parts []string
	for record, err := r.Read(); err == nil; record, err = r.Read() {
		for _, part := range record {
			if part = strings.TrimSpace(part); part != "" {
				parts = append(parts, part)
			}
		}
	}
	return parts
}

// Listed writes several things as one text that List takes apart again.
func Listed(parts []string) string {
	cells := make([]string, len(parts))
	for i, part := range parts {
		if cells[i] = part; strings.ContainsAny(part, ";\"\r\n") {
			cells[i] = `"` + strings.ReplaceAll(part, `"`, `""`) + `"`
		}
	}
	return strings.Join(cells, "; ")
}

// Prose is a text of several lines as it is kept: lines end in one way, and around it are no
// blanks.
func Prose(typed string) string {
	return strings.TrimSpace(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(typed))
}
