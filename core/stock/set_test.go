package stock

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"itemrack/core/ledger"
	"itemrack/core/serial"
)

// TestASoldNumberIsNotWrittenOn: what was sold comes back by its sale, and not out of nowhere.
func TestASoldNumberIsNotWrittenOn(t *testing.T) {
	for number, right := range map[string]bool{"A1": false, "A2": true} {
		held := empty()
		held.Units[UnitKey{board, "A1"}] = Unit{Key: at(board, floor), State: serial.Sold}
		draft := NewDraft(held, Document{Kind: StockSet, Branch: quay})
		_, _, err := draft.Put(Putting{How: WriteOn, Variant: board, Branch: quay, Condition: ForSale, Quantity: "1",
			Serials: []string{number}, Account: ledger.StockLoss, Day: today})
		assert.Equal(t, right, err == nil, "%s: %v", number, err)
	}
}
