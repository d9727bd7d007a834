package office_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	storeoffice "itemrack/store/office"
)

// TestWhatIsOldIsTrimmed: results of requests and what was printed are kept for 30 days, drafts with something in them
// for ever; a request that comes again within that time is still done once.
func TestWhatIsOldIsTrimmed(t *testing.T) {
	ctx := context.Background()
	s := testkit.New(t)
	m := s.Vest(t).Variants[1]
	s.Stock(t, m.ID, "50", "13.95")
	s.Open(t, 1)
	in := register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: m.ID, Quantity: "1"}}, Cash: "50"}
	first, err := register.Sell(s.By(s.Tobi, "pay"), in)
	require.NoError(t, err)
	empty := s.DraftFor(t)
	full, err := buying.SaveDelivery(s.By(s.Maren), 0, buying.DeliveryInput{Supplier: 1, Branch: 1, Note: "tomorrow"})
	require.NoError(t, err)
	_, err = buying.ScanDelivery(s.By(s.Callum), full.ID, buying.DeliveryScan{Code: m.Barcode})
	require.NoError(t, err)
	require.NoError(t, s.Spoil(`INSERT INTO request_key (k, created_at) SELECT CONCAT('old ', seq), NOW() - INTERVAL 400 DAY
		FROM seq_1_to_450`))
	trim := func(now time.Time) (rounds int) {
		for more := true; more; rounds++ {
			more, err = storeoffice.Trim(ctx, s.Store, now)
			require.NoError(t, err)
			require.Less(t, rounds, 10)
		}
		return rounds
	}
	there := func(table string) string {
		n, err := s.AskedAll("SELECT COUNT(*) FROM " + table)
		require.NoError(t, err)
		return n[0]
	}
	keys := there("request_key WHERE k NOT LIKE 'old %'")
	assert.Equal(t, 3, trim(s.Now()), "in steps of 200")
	assert.Equal(t, keys, there("request_key"), "those of today stay")
	assert.NotEqual(t, "0", there("print_job"))
	again, err := register.Sell(s.By(s.Tobi, "pay"), in)
	require.NoError(t, err)
	assert.Equal(t, first.Number, again.Number)

	trim(s.Now().Add(storeoffice.Kept + time.Hour))
	assert.Equal(t, "0", there("request_key"))
	assert.Equal(t, "0", there("print_job"))
	assert.Equal(t, "0", there(fmt.Sprintf("delivery WHERE id = %d", empty)))
	assert.Equal(t, "1", there(fmt.Sprintf("delivery WHERE id = %d", full.ID)), "something is in it")
	assert.Equal(t, "1", there("sale"))
	s.InStep(t)
}
