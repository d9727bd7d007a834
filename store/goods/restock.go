package goods

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/unit"
	"itemrack/store/internal/db"
)

// following is a variant whose restock level follows deliveries.
type following struct {
	ID      uint64
	Percent decimal.Decimal
	Unit    string
	After   decimal.Decimal // on hand after the last delivery, or now while none is noted
	Own     bool            // it has a level of its own
}

// Level is the restock level that follows.
func (f following) level() (decimal.Decimal, error) {
	of, err := unit.ByCode(f.Unit)
	return catalog.RestockAt(f.Percent, f.After, of), err
}

const followingSelect = `SELECT v.id, p.restock_percent AS percent, p.unit, COALESCE(v.after_delivery, c.quantity) AS
	after,
	v.own_restock_level IS NOT NULL AS own FROM variant v JOIN product p ON p.id = v.product_id JOIN cost_pool c ON
	c.variant_id = v.id
	WHERE p.restock_percent IS NOT NULL AND `

// FollowDelivery notes what is on hand of some variants after a delivery, and returns the
// restock levels that follow from it.
func FollowDelivery(tx db.Tx, onHand map[uint64]decimal.Decimal) (map[uint64]decimal.Decimal, error) {
	ids := make([]uint64, 0, len(onHand))
	for id := range onHand {
		ids = append(ids, id)
	}
	var rows []following
	if err := db.SQL(tx.Q).Raw(followingSelect+"v.id IN ? ORDER BY v.id",
		append(ids, 0)).Scan(&rows).Error; err != nil || len(rows) == 0 {
		return nil, err
	}
	levels := map[uint64]decimal.Decimal{}
	for i := range rows {
		rows[i].After = onHand[rows[i].ID]
		if rows[i].Own {
			continue
		}
		var err error
		if levels[rows[i].ID], err = rows[i].level(); err != nil {
			return nil, err
		}
	}
	return levels, setFollowing(tx, rows,
		"after_delivery = x.after, v.restock_level = COALESCE(v.own_restock_level, x.level)")
}

// settleFollowing writes the restock levels of products that follow deliveries.
func settleFollowing(tx db.Tx, products []uint64) error {
	var rows []following
	if err := db.SQL(tx.Q).Raw(followingSelect+"v.product_id IN ?", products).Scan(&rows).Error; err != nil {
		return err
	}
	return setFollowing(tx, rows, "restock_level = COALESCE(v.own_restock_level, x.level)")
}

func setFollowing(tx db.Tx, rows []following, set string) error {
	if len(rows) == 0 {
		return nil
	}
	var args []any
	for _, r := range rows {
		level, err := r.level()
		if err != nil {
			return err
		}
		args = append(args, r.ID, r.After, level)
	}
	figures := "SELECT ? AS id, ? AS after, ? AS level" + strings.Repeat(" UNION ALL SELECT ?, ?, ?", len(rows)-1)
	return db.SQL(tx.Q).Exec("UPDATE variant v JOIN ("+figures+") x ON x.id = v.id SET v."+set, args...).Error
}
