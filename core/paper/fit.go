package paper

import "strings"

// Fit returns the largest size from size down to least, in steps of 0.1 mm, at
// which text is no wider than width, and whether there is one.
func Fit(measure Measure, text string, face Face, size, least, width float64) (float64, bool) {
	for ; size >= least-1e-9; size -= 0.1 {
		if measure(text, face, size) <= width {
			return size, true
		}
	}
	return least, false
}

// Cut shortens a text with an ellipsis until it fits.
func Cut(measure Measure, text string, face Face, size, width float64) string {
	if measure(text, face, size) <= width {
		return text
	}
	runes := []rune(text)
	for n := len(runes) - 1; n > 0; n-- {
		if cut := strings.TrimRight(string(runes[:n]), " ") + "…"; measure(cut, face, size) <= width {
			return cut
		}
	}
	return "…"
}

// Wrap breaks a text between words into lines no wider than width. A single
// word that is wider is broken inside.
func Wrap(measure Measure, text string, face Face, size, width float64) []string {
	var lines []string
	line := ""
	for _, word := range strings.Fields(text) {
		next := strings.TrimSpace(line + " " + word)
		if line != "" && measure(next, face, size) > width {
			lines = append(lines, line)
			next = word
		}
		for measure(next, face, size) > width && len([]rune(next)) > 1 {
			runes := []rune(next)
			n := len(runes) - 1
			for n > 1 && measure(string(runes[:n]), face, size) > width {
				n--
			}
			lines = append(lines, string(runes[:n]))
			next = string(runes[n:])
		}
		line = next
	}
	return append(lines, line)
}

// Bars draws a row of modules as rectangles of height h, each run of ink one
// rectangle; x is of the first module, quiet zones not counted.
func Bars(modules []bool, x, y, module, h float64) []Shape {
	var shapes []Shape
	for i := 0; i < len(modules); {
		run := i
		for run < len(modules) && modules[run] == modules[i] {
			run++
		}
		if modules[i] {
			shapes = append(shapes, Shape{X: x + float64(i)*module, Y: y, W: float64(run-i) * module, H: h})
		}
		i = run
	}
	return shapes
}

// Matrix draws rows of square modules, each run of ink one rectangle; x and y are
// of the first module, quiet zones not counted.
func Matrix(rows [][]bool, x, y, module float64) []Shape {
	var shapes []Shape
	for i, row := range rows {
		shapes = append(shapes, Bars(row, x, y+float64(i)*module, module, module)...)
	}
	return shapes
}
