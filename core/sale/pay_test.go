package sale_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/sale"
)

func TestChangeIsWhatIsLeftOfTheTotal(t *testing.T) {
	left := sale.LeftOf(d("19.98"), d("20"))
	require.NotNil(t, left.Change)
	assert.Equal(t, "0.02", left.Change.String())
	assert.Nil(t, left.Short)
	left = sale.LeftOf(d("19.98"), d("10.005"))
	require.NotNil(t, left.Short)
	assert.Equal(t, "9.975", left.Short.String(), "in dinar too")
	assert.Nil(t, left.Change)
	assert.Equal(t, "0", sale.LeftOf(d("5"), d("5.00")).Change.String())
}

func TestOnlyTheTotalThatWasShownIsPaid(t *testing.T) {
	total := d("19.98")
	require.NoError(t, sale.CheckShown("", total, money.Hundredth), "a program that never showed one")
	require.NoError(t, sale.CheckShown(" 19.98 ", total, money.Hundredth))
	require.NoError(t, sale.CheckShown("19.980", total, money.Hundredth))
	said := fault.Of(sale.CheckShown("10.00", total, money.Hundredth))
	require.NotNil(t, said)
	assert.Equal(t, "total", said.Field)
	assert.Equal(t, fault.Conflict, said.Kind)
	require.Error(t, sale.CheckShown("ten", total, money.Hundredth))
}
