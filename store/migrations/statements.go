package migrations

import "strings"

// statements takes the statements of a file apart: each ends with a semicolon at the
// end of a line. Lines of remarks are left out.
func statements(file string) []string {
	var list []string
	var b strings.Builder
	for _, line := range strings.Split(file, "\n") {
		if strings.HasPrefix(line, "--") || strings.TrimSpace(line) == "" {
			continue
		}
		b.WriteString(line + "\n")
		if text, ends := strings.CutSuffix(strings.TrimSpace(b.String()), ";"); ends {
			list = append(list, text)
			b.Reset()
		}
	}
	return list
}
