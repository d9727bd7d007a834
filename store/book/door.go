package book

import (
	"fmt"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// Post is the one door into the stock book. It takes a document that core has
// computed over a holding from Hold of this same transaction, applies it once
// more to be sure that nothing falls below zero, and writes the document, its
// entries, balances, cost pools, units and postings. It returns the document's
// number in the database.
func Post(tx db.Tx, held stock.Holding, doc stock.Document) (uint64, error) {
	if err := sharePractice(tx); err != nil {
		return 0, err
	}
	held.Undone = doc.Reverses
	after, err := held.Apply(doc.Entries)
	if err != nil {
		return 0, err
	}
	row := documentRow{Kind: string(doc.Kind), Number: doc.Number, BranchID: doc.Branch, UserID: doc.By,
		HappenedAt: doc.HappenedAt, RecordedAt: doc.RecordedAt, Note: doc.Note}
	if doc.Reverses != 0 {
		row.ReversesID = &doc.Reverses
	}
	err = db.SQL(tx.Q).Create(&row).Error
	if db.Duplicate(err) && doc.Reverses != 0 {
		return 0, fault.Clash("document", doc.Number, "a document not reversed yet", "That document has been reversed already; nothing was posted twice.")
	}
	if err != nil {
		return 0, fmt.Errorf("write document %s: %w", doc.Number, err)
	}
	if len(doc.Entries) > 0 {
		if err := postEntries(tx, row.ID, after, doc); err != nil {
			return 0, err
		}
	}
	if len(doc.Postings) > 0 {
		sql := db.Values("INSERT INTO ledger_posting (document_id, account, amount) VALUES ", len(doc.Postings), "(?, ?, ?)")
		args := make([]any, 0, 3*len(doc.Postings))
		for _, p := range doc.Postings {
			args = append(args, row.ID, p.Account, p.Amount)
		}
		if err := db.SQL(tx.Q).Exec(sql, args...).Error; err != nil {
			return 0, fmt.Errorf("write postings: %w", err)
		}
	}
	return row.ID, nil
}

type documentRow struct {
	ID         uint64    `json:"id"`
	Kind       string    `json:"kind"`
	Number     string    `json:"number"`
	BranchID   uint64    `json:"branch_id"`
	UserID     uint64    `json:"user_id"`
	HappenedAt time.Time `json:"happened_at"`
	RecordedAt time.Time `json:"recorded_at"`
	Note       string    `json:"note"`
	ReversesID *uint64   `json:"reverses_id"`
}

// postEntries writes what the entries change, one statement for each table.
func postEntries(tx db.Tx, document uint64, after stock.Holding, doc stock.Document) error {
	const batch = 1000
	forSale := after.ForSale()
	for start := 0; start < len(doc.Entries); start += batch {
		part := doc.Entries[start:min(start+batch, len(doc.Entries))]
		args := make([]any, 0, 12*len(part))
		for _, e := range part {
			args = append(args, document, e.Line, e.Variant, e.Shelf, e.Lot, e.Condition, e.Serial, e.Quantity, e.Value, e.Bought, e.QuantityAfter, e.ValueAfter)
		}
		sql := db.Values("INSERT INTO entry (document_id, line, variant_id, shelf_id, lot_id, `condition`, serial, quantity, value, bought, quantity_after, value_after) VALUES ",
			len(part), "(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")
		if err := db.SQL(tx.Q).Exec(sql, args...).Error; err != nil {
			return fmt.Errorf("write entries: %w", err)
		}
		if err := postBalances(tx, after, forSale, part); err != nil {
			return err
		}
	}
	if err := postLayers(tx, document, after, stock.Touched(doc.Entries)); err != nil {
		return err
	}
	return postUnits(tx, after, doc)
}

func postBalances(tx db.Tx, after stock.Holding, forSale map[uint64]decimal.Decimal, entries []stock.Entry) error {
	keys := map[stock.Key]bool{}
	var args []any
	for _, e := range entries {
		if !keys[e.Key] {
			keys[e.Key] = true
			args = append(args, e.Variant, e.Shelf, e.Lot, e.Condition, after.Balances[e.Key])
		}
	}
	sql := db.Values("INSERT INTO balance (variant_id, shelf_id, lot_id, `condition`, quantity) VALUES ", len(keys), "(?, ?, ?, ?, ?)") +
		" ON DUPLICATE KEY UPDATE quantity = VALUES(quantity)"
	if err := db.SQL(tx.Q).Exec(sql, args...).Error; err != nil {
		return fmt.Errorf("write balances: %w", err)
	}
	touched := stock.Touched(entries)
	args = args[:0]
	for _, v := range touched {
		p := after.Pools[v]
		args = append(args, v, p.Quantity, p.Value, p.Last, forSale[v], after.Items[v].Low(forSale[v]))
	}
	sql = db.Values("INSERT INTO cost_pool (variant_id, quantity, value, last_cost, for_sale, low) VALUES ", len(touched), "(?, ?, ?, ?, ?, ?)") +
		" ON DUPLICATE KEY UPDATE quantity = VALUES(quantity), value = VALUES(value), last_cost = VALUES(last_cost), for_sale = VALUES(for_sale), low = VALUES(low)"
	if err := db.SQL(tx.Q).Exec(sql, args...).Error; err != nil {
		return fmt.Errorf("write cost pools: %w", err)
	}
	return nil
}

// postLayers writes what is left of the layers of some variants; new ones are of
// the document.
func postLayers(tx db.Tx, document uint64, after stock.Holding, variants []uint64) error {
	if tx.Costing() != cost.FIFO {
		return nil
	}
	const batch = 1000
	for part := range slices.Chunk(variants, batch) {
		if err := db.SQL(tx.Q).Exec("DELETE FROM cost_layer WHERE variant_id IN ?", part).Error; err != nil {
			return fmt.Errorf("write cost layers: %w", err)
		}
		var args []any
		for _, v := range part {
			for i, l := range after.Pools[v].Settled(document).Layers {
				args = append(args, v, i, l.Document, l.Quantity, l.Value)
			}
		}
		if len(args) == 0 {
			continue
		}
		if err := db.SQL(tx.Q).Exec(db.Values("INSERT INTO cost_layer (variant_id, position, document_id, quantity, value) VALUES ", len(args)/5, "(?, ?, ?, ?, ?)"), args...).Error; err != nil {
			return fmt.Errorf("write cost layers: %w", err)
		}
	}
	return nil
}

func postUnits(tx db.Tx, after stock.Holding, doc stock.Document) error {
	seen := map[stock.UnitKey]bool{}
	var args []any
	for _, e := range doc.Entries {
		name := stock.UnitKey{Variant: e.Variant, Serial: e.Serial}
		if e.Serial == "" || seen[name] {
			continue
		}
		seen[name] = true
		u := after.Units[name]
		state := u.State
		if state == serial.Sold {
			state = doc.Kind.Left()
		}
		args = append(args, e.Variant, e.Serial, state, u.Key.Shelf, u.Key.Lot, u.Key.Condition, u.Cost)
	}
	if len(seen) == 0 {
		return nil
	}
	sql := db.Values("INSERT INTO unit (variant_id, number, state, shelf_id, lot_id, `condition`, cost) VALUES ", len(seen), "(?, ?, ?, ?, ?, ?, ?)") +
		" ON DUPLICATE KEY UPDATE state = VALUES(state), shelf_id = VALUES(shelf_id), lot_id = VALUES(lot_id), `condition` = VALUES(`condition`), cost = VALUES(cost)"
	if err := db.SQL(tx.Q).Exec(sql, args...).Error; err != nil {
		return fmt.Errorf("write units: %w", err)
	}
	return nil
}
