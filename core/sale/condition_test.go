package sale_test

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/unit"
)

// TestAPriceInACondition: an amount of its own goes before so many % less; rounded; without either there is none.
func TestAPriceInACondition(t *testing.T) {
	some := func(text string) *decimal.Decimal { p := d(text); return &p }
	v := sale.Sellable{Name: "Vest", Label: "M", In: map[stock.Condition]sale.OwnPrice{
		stock.Seconds: {Percent: some("20")}, "Worn": {Amount: some("5.00")}, "Odd": {},
		"Third off": {Percent: some("33.3333")}}}
	asked := price.Answer{Amount: d("34.95"), Source: price.ProductPrice}
	for c, want := range map[stock.Condition]string{stock.ForSale: "34.95", stock.Seconds: "27.96", "Worn": "5",
		"Third off": "23.3"} {
		got, has := v.PriceIn(c, asked)
		assert.True(t, has, c)
		assert.Equal(t, want, got.String(), c)
	}
	_, has := v.PriceIn("Odd", asked)
	assert.False(t, has)
	_, has = v.PriceIn(stock.Seconds, price.Answer{Source: price.NoPrice})
	assert.False(t, has, "20 % less than nothing is no price")
	got, has := v.PriceIn("Worn", price.Answer{Source: price.NoPrice})
	assert.True(t, has && got.Equal(d("5")))
	assert.NoError(t, v.SoldIn("Worn", 0))
	assert.Error(t, v.SoldIn("Worn", 3), "no packs")
	assert.Error(t, v.SoldIn(stock.ToLookOver, 0))
	assert.Equal(t, "M, Seconds", v.Detail(sale.BasketLine{Condition: stock.Seconds}))
	assert.Equal(t, "M", v.Detail(sale.BasketLine{}))
	assert.Equal(t, "Seconds", sale.Sellable{}.Detail(sale.BasketLine{Condition: stock.Seconds}))
	for _, bad := range []sale.OwnPrice{{Amount: some("-1")}, {Percent: some("101")}, {Percent: some("-0.1")},
		{Amount: some("1.005")}} {
		assert.Error(t, bad.Check(0))
	}
	assert.NoError(t, sale.OwnPrice{Percent: some("100")}.Check(0))
}

// TestLotsThatWerePassedOver: those that expire before the lot that was chosen, at that branch and not past their
// expiry; none where the rule would have taken the same.
func TestLotsThatWerePassedOver(t *testing.T) {
	day := time.Date(2026, 11, 27, 0, 0, 0, 0, time.UTC)
	key := func(shelf, lot uint64) stock.Key {
		return stock.Key{Variant: 1, Shelf: shelf, Lot: lot, Condition: stock.ForSale}
	}
	held := stock.Holding{
		Items:   map[uint64]stock.Item{1: {Name: "Cream", Tracking: stock.ByLot, Unit: unit.Piece}},
		Shelves: map[uint64]stock.Shelf{1: {ID: 1, Branch: 1, Default: true}, 2: {ID: 2, Branch: 2, Default: true}},
		Lots: map[uint64]serial.Lot{1: {ID: 1, Number: "OLD", Expiry: day.AddDate(0, 0, -1)},
			2: {ID: 2, Number: "SOON", Expiry: day},
			3: {ID: 3, Number: "LATE", Expiry: day.AddDate(0, 1, 0)}, 4: {ID: 4, Number: "TOO", Expiry: day.AddDate(0, 1, 0)},
			5: {ID: 5, Number: "AWAY", Expiry: day}},
		Balances: map[stock.Key]decimal.Decimal{key(1, 1): d("1"), key(1, 2): d("1"), key(1, 3): d("1"),
			key(1, 4): d("1"), key(2, 5): d("1")},
	}
	passed := func(lot uint64) string {
		return sale.PassedOver(held, sale.BasketLine{Variant: 1, Lot: lot}, 1, day)
	}
	assert.Equal(t, "Lot SOON, use by 27 Nov 2026", passed(3))
	assert.Equal(t, "Lot SOON, use by 27 Nov 2026", passed(4), "of two that expire together neither is passed over")
	assert.Empty(t, passed(2))
	assert.Empty(t, passed(0), "the rule chose")
}

// TestANumberSaysItsCondition: a number that is sold apart from new is sold so; of two conditions at once neither.
func TestANumberSaysItsCondition(t *testing.T) {
	unitOf := func(c stock.Condition) stock.Unit {
		return stock.Unit{State: serial.InStock, Key: stock.Key{Variant: 1, Shelf: 1, Condition: c}}
	}
	held := stock.Holding{Shelves: map[uint64]stock.Shelf{1: {ID: 1, Branch: 1}}, Units: map[stock.UnitKey]stock.Unit{
		{Variant: 1, Serial: "NEW"}: unitOf(stock.ForSale), {Variant: 1, Serial: "WORN"}: unitOf(stock.Seconds),
		{Variant: 1, Serial: "OUT"}: unitOf(stock.Lent)}}
	v := sale.Sellable{ID: 1, Name: "Board", Tracking: stock.BySerial,
		In: map[stock.Condition]sale.OwnPrice{stock.Seconds: {}}}
	read := func(said stock.Condition, numbers ...string) (stock.Condition, error) {
		return sale.ScannedUnits(held, v, said, numbers, 1)
	}
	got, err := read("", "WORN")
	require.NoError(t, err)
	assert.Equal(t, stock.Seconds, got)
	got, err = read("", "NEW")
	require.NoError(t, err)
	assert.Equal(t, stock.ForSale, sale.BasketLine{Condition: got}.From())
	for _, bad := range [][]string{{"OUT"}, {"NEW", "WORN"}, {"WORN", "NEW"}, {"NONE"}} {
		_, err = read("", bad...)
		assert.Equal(t, "serial", fault.Of(err).Field, bad)
	}
	_, err = read(stock.ForSale, "WORN")
	assert.ErrorContains(t, err, "is Seconds, not for sale")
}
