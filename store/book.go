package store

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/unit"
)

// never is the expiry of a lot that does not expire.
var never = time.Date(9999, 12, 31, 0, 0, 0, 0, time.UTC)

// Hold locks the cost pools and balances of some variants, in key order, and
// returns what is on hand of them. Nothing else can move them until the
// transaction ends. Units are those of the named serial numbers and, for each
// serial-numbered variant, those in stock.
func (tx Tx) Hold(variants []uint64, serials []string) (stock.Holding, error) {
	return tx.holding(variants, serials, " FOR UPDATE")
}

// Look is Hold without the locks: for previews and proposals, which posting
// computes again.
func (q Q) Look(variants []uint64) (stock.Holding, error) { return q.holding(variants, nil, "") }

func (q Q) holding(variants []uint64, serials []string, lock string) (stock.Holding, error) {
	ids := slices.Compact(slices.Sorted(slices.Values(variants)))
	h := stock.Holding{Items: map[uint64]stock.Item{}, Pools: map[uint64]cost.Pool{}, Balances: map[stock.Key]decimal.Decimal{},
		Lots: map[uint64]serial.Lot{}, Units: map[stock.UnitKey]stock.Unit{}}
	if len(ids) == 0 {
		return h, nil
	}
	shelves, err := q.Shelves()
	if err != nil {
		return h, err
	}
	h.Shelves = shelves
	if err := q.holdItems(&h, ids); err != nil {
		return h, err
	}
	if err := q.holdBalances(&h, ids, lock); err != nil {
		return h, err
	}
	if err := q.holdLayers(&h, ids, lock); err != nil {
		return h, err
	}
	if err := q.holdLots(&h, ids); err != nil {
		return h, err
	}
	return h, q.holdUnits(&h, ids, serials)
}

// Shelves returns every shelf of the shop by its number.
func (q Q) Shelves() (map[uint64]stock.Shelf, error) {
	var rows []Shelf
	if err := q.db.Raw("SELECT id, branch_id, name, is_default FROM shelf").Scan(&rows).Error; err != nil {
		return nil, err
	}
	shelves := make(map[uint64]stock.Shelf, len(rows))
	for _, r := range rows {
		shelves[r.ID] = stock.Shelf{ID: r.ID, Branch: r.BranchID, Name: r.Name, Default: r.IsDefault}
	}
	return shelves, nil
}

func (q Q) holdItems(h *stock.Holding, ids []uint64) error {
	var rows []struct {
		ID                          uint64
		Name, Label, Tracking, Unit string
		RestockLevel                *decimal.Decimal
	}
	err := q.db.Raw("SELECT v.id, p.name, v.label, IF(p.bundle, 'counted', p.tracking) AS tracking, p.unit, v.restock_level FROM variant v JOIN product p ON p.id = v.product_id WHERE v.id IN ?", ids).Scan(&rows).Error
	if err != nil {
		return err
	}
	for _, r := range rows {
		u, err := unit.ByCode(r.Unit)
		if err != nil {
			return err
		}
		h.Items[r.ID] = stock.Item{Name: catalog.FullName(r.Name, r.Label), Tracking: stock.Tracking(r.Tracking), Unit: u, Restock: r.RestockLevel}
	}
	for _, id := range ids {
		if _, ok := h.Items[id]; !ok {
			return fault.Missing("variant", id, "There is no variant %d.", id)
		}
	}
	return nil
}

func (q Q) holdBalances(h *stock.Holding, ids []uint64, lock string) error {
	var rows []struct {
		VariantID           uint64
		PoolQuantity, Value decimal.Decimal
		LastCost            decimal.Decimal
		ShelfID             *uint64
		LotID               uint64
		Condition           string
		Quantity            decimal.Decimal
	}
	err := q.db.Raw(`SELECT p.variant_id, p.quantity AS pool_quantity, p.value, p.last_cost, b.shelf_id, b.lot_id, b.condition, b.quantity
		FROM cost_pool p LEFT JOIN balance b ON b.variant_id = p.variant_id
		WHERE p.variant_id IN ? ORDER BY p.variant_id, b.shelf_id, b.lot_id, b.condition`+lock, ids).Scan(&rows).Error
	if err != nil {
		return err
	}
	for _, r := range rows {
		h.Pools[r.VariantID] = cost.Of(r.PoolQuantity, r.Value, r.LastCost)
		if r.ShelfID != nil {
			h.Balances[stock.Key{Variant: r.VariantID, Shelf: *r.ShelfID, Lot: r.LotID, Condition: stock.Condition(r.Condition)}] = r.Quantity
		}
	}
	return nil
}

// holdLayers reads the layers of a shop that values its stock by FIFO. Units with
// serial numbers have a cost of their own and no layers.
func (q Q) holdLayers(h *stock.Holding, ids []uint64, lock string) error {
	if q.Costing() != cost.FIFO {
		return nil
	}
	var rows []layerRow
	if err := q.db.Raw("SELECT variant_id, document_id, quantity, value FROM cost_layer WHERE variant_id IN ? ORDER BY variant_id, position"+lock, ids).Scan(&rows).Error; err != nil {
		return err
	}
	layers := map[uint64][]cost.Layer{}
	for _, r := range rows {
		layers[r.VariantID] = append(layers[r.VariantID], cost.Layer{Document: r.DocumentID, Quantity: r.Quantity, Value: r.Value})
	}
	for _, id := range ids {
		if pool := h.Pools[id]; h.Items[id].Tracking != stock.BySerial {
			pool.Method, pool.Layers = cost.FIFO, layers[id]
			h.Pools[id] = pool
		}
	}
	return nil
}

type layerRow struct {
	VariantID, DocumentID uint64
	Quantity, Value       decimal.Decimal
}

// tracked picks the variants that are kept in a way.
func tracked(h *stock.Holding, ids []uint64, how stock.Tracking) []uint64 {
	var list []uint64
	for _, id := range ids {
		if h.Items[id].Tracking == how {
			list = append(list, id)
		}
	}
	return list
}

func (q Q) holdLots(h *stock.Holding, ids []uint64) error {
	ids = tracked(h, ids, stock.ByLot)
	if len(ids) == 0 {
		return nil
	}
	var rows []Lot
	if err := q.db.Raw("SELECT id, variant_id, number, expiry FROM lot WHERE variant_id IN ?", ids).Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		h.Lots[r.ID] = r.core()
	}
	return nil
}

func (l Lot) core() serial.Lot {
	lot := serial.Lot{ID: l.ID, Number: l.Number}
	if l.Expiry.Before(never) {
		lot.Expiry = l.Expiry
	}
	return lot
}

func (q Q) holdUnits(h *stock.Holding, ids []uint64, serials []string) error {
	ids = tracked(h, ids, stock.BySerial)
	if len(ids) == 0 {
		return nil
	}
	where := "variant_id IN ? AND (state = ?"
	args := []any{ids, serial.InStock}
	if len(serials) > 0 {
		where += " OR number IN ?"
		args = append(args, serials)
	}
	var rows []struct {
		VariantID, ShelfID, LotID uint64
		Number, State, Condition  string
		Cost                      decimal.Decimal
	}
	if err := q.db.Raw("SELECT variant_id, number, state, shelf_id, lot_id, `condition`, cost FROM unit WHERE "+where+")", args...).Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		h.Units[stock.UnitKey{Variant: r.VariantID, Serial: r.Number}] = stock.Unit{State: serial.State(r.State), Cost: r.Cost,
			Key: stock.Key{Variant: r.VariantID, Shelf: r.ShelfID, Lot: r.LotID, Condition: stock.Condition(r.Condition)}}
	}
	return nil
}

// Lot returns the lot of a variant with a number and expiry (zero for none),
// made if it is new.
func (tx Tx) Lot(variant uint64, number string, expiry time.Time) (serial.Lot, error) {
	row := Lot{VariantID: variant, Number: number, Expiry: expiry}
	if expiry.IsZero() {
		row.Expiry = never
	}
	find := func() error {
		return tx.db.Raw("SELECT id FROM lot WHERE variant_id = ? AND number = ? AND expiry = ?", variant, number, row.Expiry).Scan(&row.ID).Error
	}
	if err := find(); err != nil || row.ID != 0 {
		return row.core(), err
	}
	err := tx.db.Create(&row).Error
	if duplicate(err) {
		err = find()
	}
	return row.core(), err
}

// Post is the one door into the stock book. It takes a document that core has
// computed over a holding from Hold of this same transaction, applies it once
// more to be sure that nothing falls below zero, and writes the document, its
// entries, balances, cost pools, units and postings. It returns the document's
// number in the database.
func (tx Tx) Post(held stock.Holding, doc stock.Document) (uint64, error) {
	if err := tx.sharePractice(); err != nil {
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
	err = tx.db.Create(&row).Error
	if duplicate(err) && doc.Reverses != 0 {
		return 0, fault.Clash("document", doc.Number, "a document not reversed yet", "That document has been reversed already; nothing was posted twice.")
	}
	if err != nil {
		return 0, fmt.Errorf("write document %s: %w", doc.Number, err)
	}
	if len(doc.Entries) > 0 {
		if err := tx.postEntries(row.ID, after, doc); err != nil {
			return 0, err
		}
	}
	if len(doc.Postings) > 0 {
		sql := rows("INSERT INTO ledger_posting (document_id, account, amount) VALUES ", len(doc.Postings), "(?, ?, ?)")
		args := make([]any, 0, 3*len(doc.Postings))
		for _, p := range doc.Postings {
			args = append(args, row.ID, p.Account, p.Amount)
		}
		if err := tx.db.Exec(sql, args...).Error; err != nil {
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

// TableName names the table for GORM.
func (documentRow) TableName() string { return "document" }

// rows repeats the placeholders of one row n times after head.
func rows(head string, n int, one string) string {
	return head + strings.TrimSuffix(strings.Repeat(one+", ", n), ", ")
}

// postEntries writes what the entries change, one statement for each table.
func (tx Tx) postEntries(document uint64, after stock.Holding, doc stock.Document) error {
	const batch = 1000
	forSale := after.ForSale()
	for start := 0; start < len(doc.Entries); start += batch {
		part := doc.Entries[start:min(start+batch, len(doc.Entries))]
		args := make([]any, 0, 12*len(part))
		for _, e := range part {
			args = append(args, document, e.Line, e.Variant, e.Shelf, e.Lot, e.Condition, e.Serial, e.Quantity, e.Value, e.Bought, e.QuantityAfter, e.ValueAfter)
		}
		sql := rows("INSERT INTO entry (document_id, line, variant_id, shelf_id, lot_id, `condition`, serial, quantity, value, bought, quantity_after, value_after) VALUES ",
			len(part), "(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")
		if err := tx.db.Exec(sql, args...).Error; err != nil {
			return fmt.Errorf("write entries: %w", err)
		}
		if err := tx.postBalances(after, forSale, part); err != nil {
			return err
		}
	}
	if err := tx.postLayers(document, after, stock.Touched(doc.Entries)); err != nil {
		return err
	}
	return tx.postUnits(after, doc)
}

func (tx Tx) postBalances(after stock.Holding, forSale map[uint64]decimal.Decimal, entries []stock.Entry) error {
	keys := map[stock.Key]bool{}
	var args []any
	for _, e := range entries {
		if !keys[e.Key] {
			keys[e.Key] = true
			args = append(args, e.Variant, e.Shelf, e.Lot, e.Condition, after.Balances[e.Key])
		}
	}
	sql := rows("INSERT INTO balance (variant_id, shelf_id, lot_id, `condition`, quantity) VALUES ", len(keys), "(?, ?, ?, ?, ?)") +
		" ON DUPLICATE KEY UPDATE quantity = VALUES(quantity)"
	if err := tx.db.Exec(sql, args...).Error; err != nil {
		return fmt.Errorf("write balances: %w", err)
	}
	touched := stock.Touched(entries)
	args = args[:0]
	for _, v := range touched {
		p := after.Pools[v]
		args = append(args, v, p.Quantity, p.Value, p.Last, forSale[v], after.Items[v].Low(forSale[v]))
	}
	sql = rows("INSERT INTO cost_pool (variant_id, quantity, value, last_cost, for_sale, low) VALUES ", len(touched), "(?, ?, ?, ?, ?, ?)") +
		" ON DUPLICATE KEY UPDATE quantity = VALUES(quantity), value = VALUES(value), last_cost = VALUES(last_cost), for_sale = VALUES(for_sale), low = VALUES(low)"
	if err := tx.db.Exec(sql, args...).Error; err != nil {
		return fmt.Errorf("write cost pools: %w", err)
	}
	return nil
}

// postLayers writes what is left of the layers of some variants; new ones are of
// the document.
func (tx Tx) postLayers(document uint64, after stock.Holding, variants []uint64) error {
	if tx.Costing() != cost.FIFO {
		return nil
	}
	const batch = 1000
	for part := range slices.Chunk(variants, batch) {
		if err := tx.db.Exec("DELETE FROM cost_layer WHERE variant_id IN ?", part).Error; err != nil {
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
		if err := tx.db.Exec(rows("INSERT INTO cost_layer (variant_id, position, document_id, quantity, value) VALUES ", len(args)/5, "(?, ?, ?, ?, ?)"), args...).Error; err != nil {
			return fmt.Errorf("write cost layers: %w", err)
		}
	}
	return nil
}

func (tx Tx) postUnits(after stock.Holding, doc stock.Document) error {
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
	sql := rows("INSERT INTO unit (variant_id, number, state, shelf_id, lot_id, `condition`, cost) VALUES ", len(seen), "(?, ?, ?, ?, ?, ?, ?)") +
		" ON DUPLICATE KEY UPDATE state = VALUES(state), shelf_id = VALUES(shelf_id), lot_id = VALUES(lot_id), `condition` = VALUES(`condition`), cost = VALUES(cost)"
	if err := tx.db.Exec(sql, args...).Error; err != nil {
		return fmt.Errorf("write units: %w", err)
	}
	return nil
}

// Entries returns the entries of a document in the order they were written.
func (q Q) Entries(document uint64) ([]stock.Entry, error) {
	var rows []struct {
		Line                                       int
		VariantID, ShelfID, LotID                  uint64
		Condition, Serial                          string
		Quantity, Value, QuantityAfter, ValueAfter decimal.Decimal
		Bought                                     bool
	}
	err := q.db.Raw("SELECT line, variant_id, shelf_id, lot_id, `condition`, serial, quantity, value, bought, quantity_after, value_after FROM entry WHERE document_id = ? ORDER BY id", document).Scan(&rows).Error
	list := make([]stock.Entry, len(rows))
	for i, r := range rows {
		list[i] = stock.Entry{Line: r.Line, Key: stock.Key{Variant: r.VariantID, Shelf: r.ShelfID, Lot: r.LotID, Condition: stock.Condition(r.Condition)}, Serial: r.Serial,
			Quantity: r.Quantity, Value: r.Value, Bought: r.Bought, QuantityAfter: r.QuantityAfter, ValueAfter: r.ValueAfter}
	}
	return list, err
}

// LayerView is a layer of a variant's stock, with the document that brought it.
type LayerView struct {
	Number     string          `json:"number"`
	Kind       string          `json:"kind"`
	HappenedAt time.Time       `json:"happened_at"`
	Quantity   decimal.Decimal `json:"quantity"`
	Value      decimal.Decimal `json:"value"`
}

// Layers lists what is left of what came in of a variant, the first to go out
// first; nothing in a shop that keeps a moving average.
func (q Q) Layers(variant uint64, most int) ([]LayerView, error) {
	var rows []LayerView
	return rows, q.db.Raw(`SELECT d.number, d.kind, d.happened_at, l.quantity, l.value FROM cost_layer l JOIN document d ON d.id = l.document_id
		WHERE l.variant_id = ? ORDER BY l.position LIMIT ?`, variant, most).Scan(&rows).Error
}
