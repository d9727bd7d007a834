package price

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
)

// Way is the direction in which an ending moves a price.
type Way string

// The ways to an ending.
const (
	Nearest Way = "nearest"
	Up      Way = "up"
	Down    Way = "down"
)

// Ending is how prices look: a multiple of Step, plus End. Step 1, End 0.95 gives
// 40.95, 41.95; step 10, End 9 gives 819, 829; step 0.05, End 0 gives multiples
// of 0.05. A zero Step leaves prices as they are.
type Ending struct {
	Step decimal.Decimal `json:"step"`
	End  decimal.Decimal `json:"end"`
	Way  Way             `json:"way"`
}

// None reports whether the ending leaves prices as they are.
func (e Ending) None() bool { return !e.Step.IsPositive() }

// Check returns an error when there can be no such ending.
func (e Ending) Check(minor money.Minor) error {
	if e.Step.IsZero() && e.End.IsZero() {
		return nil
	}
	if err := minor.Check("step", e.Step); err != nil {
		return err
	}
	if err := minor.Check("end", e.End); err != nil {
		return err
	}
	if !e.Step.IsPositive() || !e.End.LessThan(e.Step) {
		return fault.Field("end", e.End, "less than the step", "An ending of %s does not fit a step of %s.", e.End,
			e.Step)
	}
	if e.Way != Nearest && e.Way != Up && e.Way != Down {
		return fault.Field("way", e.Way, "nearest, up or down", "There is no way %q to an ending.", e.Way)
	}
	return nil
}

// Apply gives an amount its ending, rounded to the minor unit; a tie goes up. An
// ending never gives zero or less: then the least price with that ending comes
// back, and true to mark it.
func (e Ending) Apply(amount decimal.Decimal, minor money.Minor) (decimal.Decimal, bool) {
	if e.None() {
		return minor.Round(amount), false
	}
	below := amount.Sub(e.End).Div(e.Step).Floor().Mul(e.Step).Add(e.End)
	above := below
	if !below.Equal(amount) {
		above = below.Add(e.Step)
	}
	chosen := below
	switch e.Way {
	case Up:
		chosen = above
	case Down:
	default:
		if !amount.Sub(below).LessThan(above.Sub(amount)) {
			chosen = above
		}
	}
	if chosen.IsPositive() {
		return minor.Round(chosen), false
	}
	if chosen = e.End; !chosen.IsPositive() {
		chosen = e.Step
	}
	return minor.Round(chosen), true
}

// String writes the ending for people: "nearest 0.95 at every 1".
func (e Ending) String() string {
	if e.None() {
		return "no ending"
	}
	return string(e.Way) + " " + e.End.String() + " at every " + e.Step.String()
}

// Text writes the ending as it is typed and kept: "1/0.95/nearest", or nothing.
func (e Ending) Text() string {
	if e.None() {
		return ""
	}
	return e.Step.String() + "/" + e.End.String() + "/" + string(e.Way)
}

// ParseEnding reads what Text writes: step, ending and way with strokes between
// them, the way being nearest where it is left out.
func ParseEnding(text string, minor money.Minor) (Ending, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return Ending{}, nil
	}
	parts := strings.Split(text, "/")
	wrong := fault.Field("ending", text, "step/ending/way, such as 1/0.95/nearest", "%q is no ending.", text)
	if len(parts) < 2 || len(parts) > 3 {
		return Ending{}, wrong
	}
	e := Ending{Way: Nearest}
	var err error
	if e.Step, err = minor.Parse("ending", parts[0]); err != nil {
		return Ending{}, wrong
	}
	if e.End, err = minor.Parse("ending", parts[1]); err != nil {
		return Ending{}, wrong
	}
	if len(parts) == 3 {
		e.Way = Way(strings.TrimSpace(parts[2]))
	}
	return e, e.Check(minor)
}

// SaidEnding reads an ending as it is kept; nil where none is said.
func SaidEnding(text *string) *Ending {
	if text == nil {
		return nil
	}
	e, err := ParseEnding(*text, money.Thousandth)
	if err != nil {
		return nil // it was checked before it was kept
	}
	return &e
}

// OptionalEnding reads an ending that may be left empty; "none" says that there is none,
// whatever would be taken over.
func OptionalEnding(text string, minor money.Minor) (*string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return nil, nil
	}
	if strings.EqualFold(text, "none") {
		none := ""
		return &none, nil
	}
	e, err := ParseEnding(text, minor)
	kept := e.Text()
	return &kept, err
}
