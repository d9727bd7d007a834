package book

import (
	"slices"

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
			SQL: `SELECT variant_id, -SUM(n), SUBSTRING_INDEX(GROUP_CONCAT(number ORDER BY id), ',', 1) FROM (
				SELECT e.variant_id, d.id, d.number, SUM(e.quantity) AS n
				FROM entry e JOIN document d ON d.id = e.document_id LEFT JOIN document x ON x.reverses_id = d.id
				LEFT JOIN document o ON o.id = d.reverses_id
				WHERE e.variant_id IN (` + in + `) AND e.document_id > ? AND x.id IS NULL AND (o.id IS NULL OR o.id <= ?)
				GROUP BY e.variant_id, d.id HAVING n < 0) gone GROUP BY variant_id`,
			Args: []any{document, document},
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

// Later reads what came in of some variants after documents that brought goods, and was not taken back. What a
// document only moves did not come in.
func Later(q db.Q, documents, variants []uint64) (map[stock.CameKey]decimal.Decimal, error) {
	later := map[stock.CameKey]decimal.Decimal{}
	if len(documents) == 0 || len(variants) == 0 {
		return later, nil
	}
	return later, db.Read(q, db.Part{
		SQL: `SELECT of.id, came.variant_id, SUM(came.n) FROM document of JOIN (
			SELECT e.variant_id, d.id, SUM(e.quantity) AS n FROM entry e JOIN document d ON d.id = e.document_id
			LEFT JOIN document x ON x.reverses_id = d.id
			WHERE e.variant_id IN (` + db.IDs(variants) + `) AND e.document_id > ? AND d.reverses_id IS NULL AND x.id IS NULL
			GROUP BY e.variant_id, d.id HAVING n > 0) came ON came.id > of.id
			WHERE of.id IN (` + db.IDs(documents) + `) GROUP BY of.id, came.variant_id`,
		Args: []any{slices.Min(documents)},
		Row: func(scan func(into ...any) error) error {
			var key stock.CameKey
			var n decimal.Decimal
			err := scan(&key.Document, &key.Variant, &n)
			later[key] = n
			return err
		},
	})
}

// Revalued reads what a document changed of what goods cost that others brought, with all entries of those.
func Revalued(q db.Q, document uint64) ([]stock.Revalued, error) {
	var list []stock.Revalued
	if err := db.Read(q, db.Part{
		SQL: "SELECT of_document_id, line, variant_id, amount FROM revaluation WHERE document_id = ? " +
			"ORDER BY of_document_id, line, variant_id",
		Args: []any{document},
		Row: func(scan func(into ...any) error) error {
			var r stock.Revalued
			err := scan(&r.Of, &r.Line, &r.Variant, &r.By)
			list = append(list, r)
			return err
		},
	}); err != nil {
		return nil, err
	}
	brought := map[uint64][]stock.Entry{}
	for i := range list {
		of := list[i].Of
		if brought[of] == nil {
			var err error
			if brought[of], err = Entries(q, of); err != nil {
				return nil, err
			}
		}
		list[i].Brought = brought[of]
	}
	return list, nil
}
