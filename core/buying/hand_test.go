package buying_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/stock"
)

// TestStepsInTheHand counts goods of which 5 are outstanding and so many stand elsewhere.
func TestStepsInTheHand(t *testing.T) {
	for _, c := range []struct {
		what        buying.Step
		had         buying.Got
		typed       string
		others      string
		want, refus string
	}{
		{buying.StepNumber, buying.Got{Quantity: d("5"), How: buying.Proposed}, "3", "0", "3", ""},
		{buying.StepNumber, buying.Got{Quantity: d("1")}, "4", "2", "2", ""},
		{buying.StepNumber, buying.Got{}, "1", "2", "", "2 or more"},
		{buying.StepMore, buying.Got{Quantity: d("2")}, "1", "9", "3", ""},
		{buying.StepMore, buying.Got{Quantity: d("5"), How: buying.Proposed}, "-1", "0", "4", ""},
		{buying.StepMore, buying.Got{Quantity: d("0")}, "-1", "0", "", "0 or more"},
		{buying.StepWhole, buying.Got{Quantity: d("1")}, "0", "0", "5 as ordered", ""},
		{buying.StepWhole, buying.Got{Quantity: d("1")}, "0", "2", "3 as ordered", ""},
		{buying.StepWhole, buying.Got{Quantity: d("7")}, "0", "6", "7", ""},
	} {
		got, err := c.what.Count(c.had, d(c.typed), d(c.others), d("5"))
		if c.refus != "" {
			require.NotNil(t, fault.Of(err), c)
			assert.Equal(t, c.refus, fault.Of(err).Want)
			continue
		}
		require.NoError(t, err, c)
		said := got.Quantity.String()
		if got.How != buying.Counted {
			said += " " + string(got.How)
		}
		assert.Equal(t, c.want, said, c)
	}
	assert.NoError(t, buying.StepAll.Check())
	assert.Equal(t, "what", fault.Of(buying.Step("juggle").Check()).Field)
	for typed, want := range map[string]string{"-2": "-1 2", " −1": "-1 1", "3": "1 3", "--1": "-1 -1"} {
		sign, digits := buying.Signed(typed)
		assert.Equal(t, want, sign.String()+" "+digits, typed)
	}
}

// TestWhatTheHandShows: hangers while they are few, and what is still to be said.
func TestWhatTheHandShows(t *testing.T) {
	for _, c := range []struct{ of, got, hangers, verdict string }{{"5", "3", "5 3", ""}, {"5", "6", "6 6", "over"},
		{"7", "1", "0 0", ""}, {"0", "2", "2 2", "over"},
		{"2.5", "1", "0 0", ""}, {"5", "1.5", "0 0", ""}, {"5", "0", "5 0", ""}} {
		p := buying.Progress{Outstanding: d(c.of), Got: d(c.got)}
		all, filled := p.Hangers()
		assert.Equal(t, c.hangers, fmt.Sprint(all, " ", filled), c)
		assert.Equal(t, c.verdict, p.Verdict(true, true), c)
	}
	p := buying.Progress{Got: d("1")}
	assert.Equal(t, "not ordered", p.Verdict(false, true))
	assert.Empty(t, p.Verdict(false, false), "without orders nothing is over")
	assert.Equal(t, "lot", buying.StillAsks(stock.ByLot, d("1"), false, d("0")))
	assert.Equal(t, "numbers", buying.StillAsks(stock.BySerial, d("2"), true, d("1")))
	for _, none := range []string{buying.StillAsks(stock.ByLot, d("1"), true, d("0")),
		buying.StillAsks(stock.BySerial, d("2"), true, d("2")),
		buying.StillAsks(stock.Counted, d("2"), false, d("0")), buying.StillAsks(stock.ByLot, d("0"), false, d("0"))} {
		assert.Empty(t, none)
	}
}
