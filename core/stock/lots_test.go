package stock

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/serial"
)

func TestAPriceCutByDaysLeft(t *testing.T) {
	for left, want := range map[int]string{31: "0", 30: "20", 16: "20", 15: "40", 8: "40", 7: "60", 0: "60", -1: "0"} {
		assert.Equal(t, want, Cut(left, 30).String(), left)
	}
	lot := serial.Lot{Expiry: today.AddDate(0, 0, 10)}
	assert.Equal(t, 10, DaysLeft(lot, today))
	assert.Equal(t, -1, DaysLeft(lot, today.AddDate(0, 0, 11)))
}

func TestALotIsTakenOutOfSale(t *testing.T) {
	draft := stockedUp(t)
	before := worth(draft.Holding())
	q, err := draft.TakeLotOut(1, cream, may, quay, ForScrap, today)
	require.NoError(t, err)
	assert.Equal(t, "32", q.String())
	assert.Equal(t, "50", draft.Holding().ForSale()[cream].String(), "the other lot is sold on")
	assert.True(t, before.Equal(worth(draft.Holding())))
	q, err = draft.TakeLotOut(1, cream, may, boathouse, ForScrap, today)
	require.NoError(t, err)
	assert.True(t, q.IsZero(), "none is there")
	_, err = draft.TakeLotOut(1, cream, june, quay, ForSale, today)
	assert.Error(t, err)
}

// TestSidesOfWhatLiesThere: what is sold apart from new, and what is not sold; what is on the way is neither.
func TestSidesOfWhatLiesThere(t *testing.T) {
	apart, other := Sides(map[string]decimal.Decimal{"For sale": d("9"), "Seconds": d("2"), "Worn": d("1"),
		"Lent": d("3"), "Gone": d("4"),
		"On the way": d("7")}, []ConditionFacts{{Name: ForSale, Sold: true}, {Name: Seconds, Sold: true},
		{Name: "Worn", Sold: true, Closed: true},
		{Name: Lent}})
	assert.Equal(t, "3 7", apart.String()+" "+other.String())
}
