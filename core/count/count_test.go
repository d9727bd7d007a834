package count

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/stock"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

var row = RowKey{Variant: 1, Condition: stock.ForSale}

func event(q, onHand string) Event {
	return Event{Row: row, Quantity: d(q), OnHand: d(onHand), At: time.Unix(0, 0)}
}

func only(events []Event, now string) Row {
	return Rows([]RowKey{row}, events, map[RowKey]decimal.Decimal{row: d(now)})[0]
}

func TestSoldAfterCounting(t *testing.T) {
	// 20 on hand, counted 18, 3 sold since: the book says 17 now
	r := only([]Event{event("18", "20")}, "17")
	assert.Equal(t, "-2", r.Variance().String())
	assert.Equal(t, "15", d("17").Add(r.Variance()).String())
	assert.False(t, r.Moved)
}

func TestSoldBeforeCounting(t *testing.T) {
	assert.True(t, only([]Event{event("10", "10")}, "10").Variance().IsZero())
}

func TestTenScansAndATypedTen(t *testing.T) {
	var events []Event
	for range 10 {
		events = append(events, event("1", "20"))
	}
	events = append(events, event("10", "20"))
	assert.Equal(t, "20", only(events, "20").Quantity.String())
	events[10].Struck = true
	assert.Equal(t, "10", only(events, "20").Quantity.String())
}

func TestBlankIsNotZero(t *testing.T) {
	r := only(nil, "7")
	assert.False(t, r.Counted)
	assert.True(t, r.Variance().IsZero())
	r = only([]Event{event("0", "7")}, "7")
	assert.True(t, r.Counted)
	assert.Equal(t, "-7", r.Variance().String())
	struck := event("3", "7")
	struck.Struck = true
	assert.False(t, only([]Event{struck}, "7").Counted)
}

func TestMovedWhileCounted(t *testing.T) {
	assert.True(t, only([]Event{event("5", "10"), event("4", "9")}, "9").Moved)
}

func TestScannedWithoutBeingPlanned(t *testing.T) {
	other := RowKey{Variant: 2, Condition: stock.ForSale}
	rows := Rows([]RowKey{row}, []Event{{Row: other, Serial: "A1", Quantity: d("1")}}, nil)
	assert.Len(t, rows, 2)
	assert.Equal(t, []string{"A1"}, rows[1].Serials)
	assert.Equal(t, []string{"A2", "A3"}, Unscanned([]string{"A3", "A1", "A2"}, rows[1].Serials))
}

func TestReasons(t *testing.T) {
	for _, c := range []struct{ reason, variance, want string }{{"", "-1", "loss"}, {"", "1", "found"},
		{"damage", "-1", "damage"}} {
		got, err := CheckReason(Reason(c.reason), d(c.variance))
		assert.NoError(t, err)
		assert.Equal(t, c.want, string(got))
	}
	_, err := CheckReason("gremlins", d("-1"))
	assert.Error(t, err)
}

// TestARowThatMovedHasTwoReadings: 19 there, 10 counted, 2 sold, 9 counted.
func TestARowThatMovedHasTwoReadings(t *testing.T) {
	key := RowKey{Variant: 1, Condition: stock.ForSale}
	event := func(counted, there string) Event { return Event{Row: key, Quantity: d(counted), OnHand: d(there)} }
	row := Rows([]RowKey{key}, []Event{event("10", "19"), event("9", "17")},
		map[RowKey]decimal.Decimal{key: d("17")})[0]
	assert.True(t, row.Moved)
	assert.Equal(t, "0 2", row.ByFirst().String()+" "+row.Variance().String())
	for by, want := range map[Reading]string{ByFirst: "0", ByLast: "2", NotYet: "0"} {
		read, err := row.read(by, "Rope")
		require.NoError(t, err)
		assert.Equal(t, want, read.Variance().String(), by)
	}
	_, err := row.read("", "Rope")
	assert.Equal(t, "readings", fault.Of(err).Field, "it asks")
	still := Rows([]RowKey{key}, []Event{event("10", "19"), event("9", "19")}, nil)[0]
	assert.False(t, still.Moved)
	_, err = still.read("", "Rope")
	assert.NoError(t, err)
	struck := Rows(nil, []Event{{Row: key, Quantity: d("1"), Struck: true}}, nil)
	assert.Empty(t, struck)
	assert.False(t, Row{}.Stands(false), "a row outside of the plan goes with its last entry")
	assert.True(t, Row{}.Stands(true) && Row{Counted: true}.Stands(false))
}
