package book

import (
	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// Since reads what became of some variants since a document brought them in. What went out
// and was put back by a reversal, or only changed its place, has not gone.
func Since(q db.Q, document uint64, variants []uint64) (map[uint64]stock.Since, error) {
	since := map[uint64]stock.Since{}
	for _, v := range variants {
		since[v] = stock.Since{}
	}
	in := db.IDs(variants)
	return since, db.Read(q,
		db.Part{
			SQL: `SELECT e.variant_id, -SUM(e.quantity), SUBSTRING_INDEX(GROUP_CONCAT(d.number ORDER BY d.id), ',', 1)
				FROM entry e JOIN document d ON d.id = e.document_id LEFT JOIN document x ON x.reverses_id = d.id
				LEFT JOIN document o ON o.id = d.reverses_id
				WHERE e.variant_id IN (` + in + `) AND e.document_id > ? AND e.quantity < 0 AND x.id IS NULL AND
				d.kind <> ? AND (o.id IS NULL OR o.id <= ? AND o.kind <> ?) GROUP BY e.variant_id`,
			Args: []any{document, stock.ConditionChange, document, stock.ConditionChange},
			Row: func(scan func(into ...any) error) error {
				var id uint64
				var s stock.Since
				err := scan(&id, &s.Gone, &s.By)
				since[id] = s
				return err
			},
		},
		db.Part{
			SQL: `SELECT variant_id, quantity, value FROM (SELECT e.variant_id, e.quantity, e.value, ROW_NUMBER() OVER
				(PARTITION BY e.variant_id ORDER BY e.id DESC) AS n FROM entry e LEFT JOIN document x ON x.reverses_id =
				e.document_id WHERE e.variant_id IN (` + in + `) AND e.bought AND e.document_id <> ? AND x.id IS NULL) l
				WHERE n = 1`,
			Args: []any{document},
			Row: func(scan func(into ...any) error) error {
				var id uint64
				var quantity, value decimal.Decimal
				err := scan(&id, &quantity, &value)
				s := since[id]
				if !quantity.IsZero() {
					s.Last = value.DivRound(quantity, money.CostPlaces)
				}
				since[id] = s
				return err
			},
		})
}
