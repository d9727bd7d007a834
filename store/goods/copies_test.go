package goods_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

var ctx = context.Background()

// TestACopyOfGoodsIsNeverOld changes everything that copies are kept of, behind the back of the program that keeps
// them: what it gives is what a transaction reads that keeps none.
func TestACopyOfGoodsIsNeverOld(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	v := made.Variants[0].ID
	s.Stock(t, v, "5", "13.95")
	float := s.Simple(t, "Paddle float", "counted", "12.00")
	ids := []uint64{v, float, made.Variants[1].ID}
	same := func(after string) {
		t.Helper()
		for range 2 { // as it was kept, and as it is kept now
			kept, err := goods.Sellables(s.Store.Read(ctx), ids, s.Now())
			require.NoError(t, err)
			var read map[uint64]goods.Sellable
			require.NoError(t, s.Store.Do(ctx, func(tx db.Tx) error {
				read, err = goods.Sellables(tx.Q, ids, s.Now())
				return err
			}))
			require.Equal(t, read, kept, "%s", after)
		}
	}
	same("nothing")
	p := fmt.Sprint(made.ID)
	for _, change := range []string{
		"UPDATE product SET name = 'Gezeiten-Weste ß 漢' WHERE id = " + p,
		"UPDATE product SET markup = 150, cost = 11 WHERE id = " + p,
		"UPDATE product SET tax_class_id = 2 WHERE id = " + p,
		"UPDATE product SET tracking = 'lot' WHERE id = " + p,
		"UPDATE variant SET label = 'Coral, small', sku = 'CS-1' WHERE id = ?",
		"UPDATE variant SET cost = 9, restock_level = 3, list_price = 41 WHERE id = ?",
		"INSERT INTO price (product_id, from_at, amount, from_quantity, price_list_id) VALUES (" + p +
			", '2020-01-01', 29.95, 6, 1)",
		"UPDATE price SET amount = 17.5 WHERE product_id = " + p,
		"DELETE FROM price WHERE from_quantity = 6",
		"INSERT INTO pack (product_id, name, name_key, factor) VALUES (" + p + ", 'Box', 'box', 12)",
		"UPDATE pack SET factor = 10 WHERE name = 'Box'",
		"DELETE FROM pack WHERE name = 'Box'",
		"DELETE FROM barcode WHERE variant_id = ?",
		"INSERT INTO barcode (variant_id, code, code_key) VALUES (?, '2000000000008', '2000000000008')",
		"UPDATE barcode SET code = '2000000000015', code_key = '2000000000015' WHERE variant_id = ?",
		"INSERT INTO condition_price (variant_id, `condition`, amount) VALUES (?, 'Seconds', 9.5)",
		"UPDATE condition_price SET amount = 8 WHERE variant_id = ?",
		"DELETE FROM condition_price WHERE variant_id = ?",
		fmt.Sprintf("INSERT INTO bundle_part (bundle_id, variant_id, quantity) VALUES (%d, ?, 2)", float),
		"DELETE FROM bundle_part WHERE variant_id = ?",
		"UPDATE cost_pool SET quantity = 4, value = 50, last_cost = 12.5, cost = 12.5 WHERE variant_id = ?",
		"UPDATE category SET markup = 80",
		"UPDATE supplier SET markup = 90, ending = '.99'",
		"UPDATE tax_rate SET percent = 19",
		"UPDATE stock_condition SET percent = 35 WHERE name = 'Seconds'",
		"UPDATE setting SET value = 'without tax' WHERE name = 'prices'",
		"UPDATE setting SET value = 'JPY' WHERE name = 'currency'",
		fmt.Sprintf("DELETE FROM barcode WHERE variant_id = %d", float),
	} {
		require.NoError(t, s.Spoil(strings.ReplaceAll(change, "?", fmt.Sprint(v))), change)
		same(change)
	}

	err := s.Store.Do(ctx, func(tx db.Tx) error {
		if err := db.SQL(tx.Q).Exec("UPDATE variant SET label = 'Never' WHERE id = ?", v).Error; err != nil {
			return err
		}
		found, err := goods.Sellables(tx.Steady().Q, ids, s.Now()) // keeps a copy of what is taken back
		assert.Equal(t, "Never", found[v].Label)
		return errors.Join(err, errors.New("taken back"))
	})
	require.ErrorContains(t, err, "taken back")
	same("a change that was taken back")
	require.NoError(t, s.Spoil(fmt.Sprintf("UPDATE variant SET label = 'Now' WHERE id = %d", v)))
	same("a change after one that was taken back")
}
