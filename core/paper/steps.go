package paper

import (
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"
)

// Point is a level from a moment on.
type Point struct {
	At    time.Time
	Level decimal.Decimal
}

// Steps draws levels over time as the path of an SVG in a box, from the first
// point to the end: a level holds until the next. Notch is the height of a mark
// such as a restock level, below 0 when there is none.
func Steps(points []Point, end time.Time, mark *decimal.Decimal, width, height float64) (path string, notch float64) {
	most := decimal.New(1, 0)
	for _, p := range points {
		most = decimal.Max(most, p.Level)
	}
	if mark != nil {
		most = decimal.Max(most, *mark)
	}
	y := func(level decimal.Decimal) float64 {
		share := level.DivRound(most, 4).InexactFloat64()
		return height - 2 - share*(height-6)
	}
	notch = -1
	if mark != nil && mark.IsPositive() {
		notch = y(*mark)
	}
	if len(points) == 0 {
		return "", notch
	}
	began, span := points[0].At, end.Sub(points[0].At).Seconds()
	var b strings.Builder
	for i, p := range points {
		x := width
		if span > 0 {
			x = width * p.At.Sub(began).Seconds() / span
		}
		if i == 0 {
			fmt.Fprintf(&b, "M%.1f %.1f", x, y(p.Level))
			continue
		}
		fmt.Fprintf(&b, "H%.1fV%.1f", x, y(p.Level))
	}
	fmt.Fprintf(&b, "H%.1f", width)
	return b.String(), notch
}
