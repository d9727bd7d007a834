package book

import (
	"fmt"
	"maps"
	"slices"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// With is rows that belong to a document and are written with it: @document stands for
// its number in the database.
type With func(b *db.Batch)

// Post is the one door into the stock book. It takes a document that core has
// computed over a holding from Hold of this same transaction, applies it once
// more to be sure that nothing falls below zero, and writes the document, its
// entries, balances, cost pools and layers, units and postings, and what comes with
// it. It returns the document's number in the database.
func Post(tx db.Tx, held stock.Holding, doc stock.Document, with ...With) (uint64, error) {
	b, after, err := write(tx, held, doc, with)
	if err != nil {
		return 0, err
	}
	id, err := b.RunFor(tx, document)
	if err != nil {
		return 0, posting(doc, err)
	}
	return id, restand(tx, after, doc)
}

// PostLast is Post as the last of a transaction, where it takes no round trip of its own: the document's number in
// the database is then there once that has ended.
func PostLast(tx db.Tx, held stock.Holding, doc stock.Document, into *uint64, with ...With) error {
	b, after, err := write(tx, held, doc, with)
	if err != nil {
		return err
	}
	if stands(after, doc) {
		db.Last(tx, b, document, into)
		return nil
	}
	if *into, err = b.RunFor(tx, document); err != nil {
		return posting(doc, err)
	}
	return restand(tx, after, doc)
}

// document is what stands for the number of a document while it is written.
const document = "@document"

// write applies a document and makes the statements that write it.
func write(tx db.Tx, held stock.Holding, doc stock.Document, with []With) (*db.Batch, stock.Holding, error) {
	held.Undone = doc.Reverses
	if doc.Kind == stock.Count {
		held = held.Settles(doc.Number)
	}
	after, err := held.Apply(doc.Entries)
	if err != nil {
		return nil, after, err
	}
	var reverses any
	if doc.Reverses != 0 {
		reverses = doc.Reverses
	}
	b := new(db.Batch)
	if err := sharePractice(tx.Q, b); err != nil {
		return nil, after, err
	}
	b.Add(
		"INSERT INTO document (kind, number, branch_id, user_id, happened_at, recorded_at, note, reverses_id) "+
			"VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
		doc.Kind, doc.Number, doc.Branch, doc.By, doc.HappenedAt, doc.RecordedAt, doc.Note, reverses)
	b.Add("SET @document = LAST_INSERT_ID()")
	if len(doc.Entries) > 0 {
		if err := postEntries(tx, b, after, doc); err != nil {
			return nil, after, posting(doc, err)
		}
	}
	if len(doc.Postings) > 0 {
		args := make([]any, 0, 2*len(doc.Postings))
		for _, p := range doc.Postings {
			args = append(args, p.Account, p.Amount)
		}
		b.Add(
			db.Values("INSERT INTO ledger_posting (document_id, account, amount) VALUES ", len(doc.Postings),
				"(@document, ?, ?)"),
			args...)
	}
	var changes [][]any
	for _, r := range doc.Revaluations {
		changes = append(changes, []any{r.Of, r.Line, r.Variant, r.By})
	}
	b.AddRows("revaluation", revaluationColumns, changes)
	for _, more := range with {
		more(b)
	}
	return b, after, nil
}

// revaluationColumns are the columns of what a document revalues.
var revaluationColumns = db.Columns("of_document_id", "line", "variant_id", "amount")

// posting says what an error means while a document is written.
func posting(doc stock.Document, err error) error {
	if db.Duplicate(err) && doc.Reverses != 0 {
		return fault.Clash("document", doc.Number, "a document not reversed yet",
			"That document has been reversed already; nothing was posted twice.")
	}
	return fmt.Errorf("write document %s: %w", doc.Number, err)
}

// EntryColumns are the columns of an entry.
var EntryColumns = append(db.Columns("line", "variant_id", "shelf_id", "`condition`", "quantity", "value",
	"quantity_after", "value_after"), db.Column{Name: "lot_id", Default: uint64(0)},
	db.Column{Name: "serial", Default: ""},
	db.Column{Name: "bought", Default: false}, db.Column{Name: "came_on"}, db.Column{Name: "of_document_id"})

// postEntries writes what the entries change; a long document is sent in pieces.
func postEntries(tx db.Tx, b *db.Batch, after stock.Holding, doc stock.Document) error {
	const piece = 1000
	for part := range slices.Chunk(doc.Entries, piece) {
		rows := make([][]any, len(part))
		balances := map[stock.Key]bool{}
		for i, e := range part {
			var of any
			if e.Of != 0 {
				of = e.Of
			}
			rows[i] = []any{e.Line, e.Variant, e.Shelf, e.Condition, e.Quantity, e.Value, e.QuantityAfter, e.ValueAfter, e.Lot,
				e.Serial, e.Bought, db.Day(e.CameOn), of}
			balances[e.Key] = true
		}
		b.AddRows("entry", EntryColumns, rows)
		var args []any
		for _, k := range slices.SortedFunc(maps.Keys(balances), stock.Key.Compare) {
			args = append(args, k.Variant, k.Shelf, k.Lot, k.Condition, after.Balances[k])
		}
		b.Add(
			db.Values("INSERT INTO balance (variant_id, shelf_id, lot_id, `condition`, quantity) VALUES ",
				len(balances), "(?, ?, ?, ?, ?)")+
				" ON DUPLICATE KEY UPDATE quantity = VALUES(quantity)",
			args...)
		if b.Full() {
			if err := b.Run(tx); err != nil {
				return err
			}
		}
	}
	if err := postPools(tx, b, after, doc); err != nil {
		return err
	}
	if err := postLayers(tx, b, after, stock.Touched(doc.Entries)); err != nil {
		return err
	}
	postUnits(b, after, doc)
	return nil
}

// postLayers writes what is left of the layers of some variants; new ones are of
// the document.
func postLayers(tx db.Tx, b *db.Batch, after stock.Holding, variants []uint64) error {
	const piece = 1000
	for part := range slices.Chunk(variants, piece) {
		var args []any
		rows := 0
		fifo := false
		for _, v := range part {
			fifo = fifo || after.Pools[v].Layered()
			for i, l := range after.Pools[v].Layers {
				var document any = l.Document
				if l.Document == 0 {
					document = nil
				}
				args = append(args, v, i, document, l.Line, l.Quantity, l.Value)
				rows++
			}
		}
		if !fifo {
			continue
		}
		b.Add("DELETE FROM cost_layer WHERE variant_id IN (" + db.IDs(part) + ")")
		if rows > 0 {
			b.Add(
				db.Values("INSERT INTO cost_layer (variant_id, position, document_id, line, quantity, value) VALUES ", rows,
					"(?, ?, COALESCE(?, @document), ?, ?, ?)"),
				args...)
		}
		if b.Full() {
			if err := b.Run(tx); err != nil {
				return err
			}
		}
	}
	return nil
}

// postUnits writes where the units are that a document moved.
func postUnits(b *db.Batch, after stock.Holding, doc stock.Document) {
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
		args = append(args, e.Variant, after.Items[e.Variant].Product, e.Serial, state, u.Key.Shelf, u.Key.Lot,
			u.Key.Condition, u.Cost)
	}
	if len(seen) == 0 {
		return
	}
	b.Add(
		db.Values("INSERT INTO unit (variant_id, product_id, number, state, shelf_id, lot_id, `condition`, "+
			"cost) VALUES ", len(seen), "(?, ?, ?, ?, ?, ?, ?, ?)")+
			" ON DUPLICATE KEY UPDATE state = VALUES(state), shelf_id = VALUES(shelf_id), lot_id = VALUES(lot_id), "+
			"`condition` = VALUES(`condition`), cost = VALUES(cost)",
		args...)
}
