package sale_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/stock"
)

// TestAFullBasketStillCounts what is on it: only another line is one too many.
func TestAFullBasketStillCounts(t *testing.T) {
	s := shopOf("10.00", "5.00")
	amount := d("3.00")
	for id, v := range s.found {
		v.In = map[stock.Condition]sale.OwnPrice{"Seconds": {Amount: &amount}}
		s.found[id] = v
	}
	b := s.basket(sale.Off{}, "1")
	b.Lines[0].Condition, b.Lines[0].Price = "Seconds", amount
	line := b.Lines[0]
	line.Note = "by itself"
	for len(b.Lines) < sale.MostLines {
		line.ID++
		b.Lines = append(b.Lines, line)
	}
	touched, err := b.Add(s.found[1], sale.Adding{Condition: "Seconds"}, day)
	require.NoError(t, err)
	assert.Equal(t, "2", touched.Line.Quantity.String())
	_, err = b.Add(s.found[2], sale.Adding{Condition: "Seconds"}, day)
	assert.True(t, fault.Is(err, fault.Refused))
}
