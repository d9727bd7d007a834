package book

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/store/internal/db"
)

// Hold locks the cost pools and balances of some variants, in key order, and
// returns what is on hand of them. Nothing else can move them until the
// transaction ends. Units are those of the named serial numbers and, for each
// serial-numbered variant, those in stock.
func Hold(tx db.Tx, variants []uint64, serials []string) (stock.Holding, error) {
	return holding(tx.Q, variants, serials, " FOR UPDATE")
}

// Look is Hold without the locks: for previews and proposals, which posting
// computes again.
func Look(q db.Q, variants []uint64) (stock.Holding, error) { return holding(q, variants, nil, "") }

func holding(q db.Q, variants []uint64, serials []string, lock string) (stock.Holding, error) {
	ids := slices.Compact(slices.Sorted(slices.Values(variants)))
	h := stock.Holding{Items: map[uint64]stock.Item{}, Pools: map[uint64]cost.Pool{}, Balances: map[stock.Key]decimal.Decimal{},
		Lots: map[uint64]serial.Lot{}, Units: map[stock.UnitKey]stock.Unit{}}
	if len(ids) == 0 {
		return h, nil
	}
	shelves, err := Shelves(q)
	if err != nil {
		return h, err
	}
	h.Shelves = shelves
	if err := holdItems(q, &h, ids); err != nil {
		return h, err
	}
	if err := holdBalances(q, &h, ids, lock); err != nil {
		return h, err
	}
	if err := holdLayers(q, &h, ids, lock); err != nil {
		return h, err
	}
	if err := holdLots(q, &h, ids); err != nil {
		return h, err
	}
	return h, holdUnits(q, &h, ids, serials)
}

func holdItems(q db.Q, h *stock.Holding, ids []uint64) error {
	var rows []struct {
		ID                          uint64
		Name, Label, Tracking, Unit string
		RestockLevel                *decimal.Decimal
	}
	err := db.SQL(q).Raw("SELECT v.id, p.name, v.label, IF(p.bundle, 'counted', p.tracking) AS tracking, p.unit, v.restock_level FROM variant v JOIN product p ON p.id = v.product_id WHERE v.id IN ?", ids).Scan(&rows).Error
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

func holdBalances(q db.Q, h *stock.Holding, ids []uint64, lock string) error {
	var rows []struct {
		VariantID           uint64
		PoolQuantity, Value decimal.Decimal
		LastCost            decimal.Decimal
		ShelfID             *uint64
		LotID               uint64
		Condition           string
		Quantity            decimal.Decimal
	}
	err := db.SQL(q).Raw(`SELECT p.variant_id, p.quantity AS pool_quantity, p.value, p.last_cost, b.shelf_id, b.lot_id, b.condition, b.quantity
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
func holdLayers(q db.Q, h *stock.Holding, ids []uint64, lock string) error {
	if q.Costing() != cost.FIFO {
		return nil
	}
	var rows []layerRow
	if err := db.SQL(q).Raw("SELECT variant_id, document_id, quantity, value FROM cost_layer WHERE variant_id IN ? ORDER BY variant_id, position"+lock, ids).Scan(&rows).Error; err != nil {
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

func holdLots(q db.Q, h *stock.Holding, ids []uint64) error {
	ids = tracked(h, ids, stock.ByLot)
	if len(ids) == 0 {
		return nil
	}
	var rows []Lot
	if err := db.SQL(q).Raw("SELECT id, variant_id, number, expiry FROM lot WHERE variant_id IN ?", ids).Scan(&rows).Error; err != nil {
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

func holdUnits(q db.Q, h *stock.Holding, ids []uint64, serials []string) error {
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
	if err := db.SQL(q).Raw("SELECT variant_id, number, state, shelf_id, lot_id, `condition`, cost FROM unit WHERE "+where+")", args...).Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		h.Units[stock.UnitKey{Variant: r.VariantID, Serial: r.Number}] = stock.Unit{State: serial.State(r.State), Cost: r.Cost,
			Key: stock.Key{Variant: r.VariantID, Shelf: r.ShelfID, Lot: r.LotID, Condition: stock.Condition(r.Condition)}}
	}
	return nil
}

// TableName names the table for GORM.
func (documentRow) TableName() string { return "document" }
