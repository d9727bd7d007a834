package count

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"

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
	for _, c := range []struct{ reason, variance, want string }{{"", "-1", "loss"}, {"", "1", "found"}, {"damage", "-1", "damage"}} {
		got, err := CheckReason(Reason(c.reason), d(c.variance))
		assert.NoError(t, err)
		assert.Equal(t, c.want, string(got))
	}
	_, err := CheckReason("gremlins", d("-1"))
	assert.Error(t, err)
}
