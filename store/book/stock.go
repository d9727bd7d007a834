package book

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/money"
	"itemrack/core/stock"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
	"itemrack/store/office"
)

// Place is how much of a variant lies where.
type Place struct {
	BranchID  uint64          `json:"branch_id"`
	Branch    string          `json:"branch"`
	ShelfID   uint64          `json:"shelf_id"`
	Shelf     string          `json:"shelf"`
	Condition string          `json:"condition"`
	LotID     uint64          `json:"lot_id,omitempty"`
	Lot       string          `json:"lot,omitempty"`
	Expiry    *time.Time      `json:"expiry,omitempty"`
	Quantity  decimal.Decimal `json:"quantity"`
}

// Places lists where a variant lies, by branch.
func Places(q db.Q, variant uint64) ([]Place, error) { return places(q, "balance", variant) }

// places lists where a variant lies by a table of balances, or a query in
// brackets that makes one of its arguments.
func places(q db.Q, balances string, variant uint64, args ...any) ([]Place, error) {
	rows := []Place{}
	err := db.SQL(q).
		Raw(`SELECT s.branch_id, b.name AS branch, s.id AS shelf_id, s.name AS shelf, x.condition, x.lot_id,
			COALESCE(l.number, '') AS lot, l.expiry, x.quantity
		FROM `+balances+` x JOIN shelf s ON s.id = x.shelf_id JOIN branch b ON b.id = s.branch_id LEFT JOIN lot l
			ON l.id = x.lot_id
		WHERE x.variant_id = ? AND x.quantity <> 0 ORDER BY s.branch_id, s.is_default DESC, s.id, l.expiry,
		x.condition`, append(args, variant)...).
		Scan(&rows).
		Error
	for i := range rows {
		if rows[i].Expiry != nil && !rows[i].Expiry.Before(never) {
			rows[i].Expiry = nil
		}
	}
	return rows, err
}

// UnitView is a serial-numbered unit of a variant.
type UnitView struct {
	Number    string          `json:"number"`
	State     string          `json:"state"`
	Branch    string          `json:"branch"`
	BranchID  uint64          `json:"branch_id"`
	Condition string          `json:"condition"`
	Cost      decimal.Decimal `json:"cost" see:"costs"`
}

// Units lists a variant's units, those in stock first.
func Units(q db.Q, variant uint64, most int) ([]UnitView, error) {
	var rows []UnitView
	return rows, db.SQL(q).
		Raw("SELECT u.number, u.state, b.name AS branch, b.id AS branch_id, u.condition, u.cost FROM unit u JOIN "+
			"shelf s ON s.id = u.shelf_id JOIN branch b ON b.id = s.branch_id "+
			"WHERE u.variant_id = ? ORDER BY u.state = 'in stock' DESC, u.number LIMIT ?", variant, most).
		Scan(&rows).
		Error
}

// UnitRow is a serial-numbered unit in a list; a unit that is not in stock has no branch.
type UnitRow struct {
	Variant   uint64          `json:"variant_id"`
	Name      string          `json:"name"`
	SKU       string          `gorm:"column:sku" json:"sku"`
	Number    string          `json:"number"`
	State     string          `json:"state"`
	Branch    string          `json:"branch"`
	Condition string          `json:"condition"`
	Cost      decimal.Decimal `json:"cost" see:"costs"`
}

// UnitRows lists units by variant and number: of one variant, or in one state.
func UnitRows(q db.Q, variant uint64, state string, page int) ([]UnitRow, bool, error) {
	list := db.SQL(q).
		Table("unit u").
		Select("u.variant_id AS variant, p.name, v.sku, u.number, u.state, u.`condition`, u.cost, IF(u.state = 'in " +
			"stock', b.name, '') AS branch").
		Joins("JOIN variant v ON v.id = u.variant_id JOIN product p ON p.id = v.product_id JOIN shelf s ON s.id = " +
			"u.shelf_id JOIN branch b ON b.id = s.branch_id")
	if variant != 0 {
		list = list.Where("u.variant_id = ?", variant)
	}
	if state != "" {
		list = list.Where("u.state = ?", state)
	}
	var rows []UnitRow
	err := list.Order("u.variant_id, u.number").
		Limit(q.PageRows() + 1).
		Offset((page - 1) * q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// StockRow is a variant in the list of stock.
type StockRow struct {
	ID           uint64                     `json:"id"`
	ProductID    uint64                     `json:"product_id"`
	Name         string                     `json:"name"`
	Label        string                     `json:"label"`
	SKU          string                     `gorm:"column:sku" json:"sku"`
	Unit         string                     `json:"unit"`
	Quantity     decimal.Decimal            `json:"quantity"`
	ForSale      decimal.Decimal            `json:"for_sale"`
	Value        decimal.Decimal            `json:"value" see:"costs"`
	LastCost     decimal.Decimal            `json:"last_cost" see:"costs"`
	RestockLevel *decimal.Decimal           `json:"restock_level"`
	Low          bool                       `json:"low"`
	By           map[string]decimal.Decimal `gorm:"-" json:"by_condition"`
	Apart        decimal.Decimal            `gorm:"-" json:"sold_apart"` // from new ones
	Other        decimal.Decimal            `gorm:"-" json:"not_for_sale"`
	pool         cost.Pool                  // of the variant, at all branches
}

// Average is the variant's moving average.
func (r StockRow) Average() decimal.Decimal { return r.pool.Average() }

// OnWay is how many are on the way there.
func (r StockRow) OnWay() decimal.Decimal { return r.By[string(stock.OnTheWay)] }

const stockColumns = "v.id, v.product_id, p.name, v.label, v.sku, p.unit, c.quantity, c.for_sale, c.value, " +
	"c.last_cost, v.restock_level, c.low"

// StockQuery says which stock is listed: of the goods that a filter finds, at a branch or at all, in a
// condition or in any, now or as the book stood at a moment.
type StockQuery struct {
	goods.ListFilter
	At   time.Time
	Past bool
}

// StockList lists a page of variants as the filter sorts them, with what lies of them where the query says.
// Those before the page are passed over in the indexes: only the rows of the page are looked up.
func StockList(q db.Q, f StockQuery, page int) ([]StockRow, bool, error) {
	f.Stocked = true
	n := q.PageRows()
	ids, err := goods.VariantIDs(q, f.ListFilter, (page-1)*n, n+1)
	if err != nil || len(ids) == 0 {
		return nil, false, err
	}
	more := len(ids) > n
	ids = ids[:min(len(ids), n)]
	var found []StockRow
	if err := db.SQL(q).
		Raw("SELECT "+stockColumns+" FROM variant v JOIN product p ON p.id = v.product_id JOIN cost_pool c ON "+
			"c.variant_id = v.id WHERE v.id IN ?", ids).Scan(&found).Error; err != nil {
		return nil, false, err
	}
	by := map[uint64]StockRow{}
	for _, r := range found {
		by[r.ID] = r
	}
	rows := make([]StockRow, 0, len(ids))
	for _, id := range ids {
		rows = append(rows, by[id])
	}
	return rows, more, lying(q, f, ids, rows)
}

// lying fills in what of a page of variants lies where a query says, by condition.
func lying(q db.Q, f StockQuery, ids []uint64, rows []StockRow) error {
	from := "balance e JOIN shelf s ON s.id = e.shelf_id WHERE e.variant_id IN ?"
	value, args := "0", []any{ids}
	if f.Past {
		from, value = "entry e JOIN document d ON d.id = e.document_id JOIN shelf s ON s.id = e.shelf_id WHERE "+
			"e.variant_id IN ? AND d.recorded_at <= ?", "SUM(e.value)"
		args = append(args, f.At)
	}
	if f.Branch != 0 {
		from, args = from+" AND s.branch_id = ?", append(args, f.Branch)
	}
	var sums []struct {
		VariantID       uint64
		Condition       string
		Quantity, Value decimal.Decimal
	}
	if err := db.SQL(q).Raw("SELECT e.variant_id, e.condition, SUM(e.quantity) AS quantity, "+value+" AS value FROM "+from+
		" GROUP BY e.variant_id, e.condition", args...).Scan(&sums).Error; err != nil {
		return err
	}
	at := map[uint64]*StockRow{}
	for i := range rows {
		rows[i].By = map[string]decimal.Decimal{}
		rows[i].pool = cost.Pool{Quantity: rows[i].Quantity, Value: rows[i].Value, Last: rows[i].LastCost}
		if f.Past {
			rows[i].pool, rows[i].Low, rows[i].LastCost = cost.Pool{}, false, decimal.Zero
		}
		rows[i].Quantity, rows[i].ForSale = decimal.Zero, decimal.Zero
		at[rows[i].ID] = &rows[i]
	}
	set, err := q.Terms()
	if err != nil {
		return err
	}
	conditions, err := office.Conditions(q)
	if err != nil {
		return err
	}
	for _, s := range sums {
		r := at[s.VariantID]
		if f.Past {
			r.pool.Quantity, r.pool.Value = r.pool.Quantity.Add(s.Quantity), r.pool.Value.Add(s.Value)
		}
		r.By[s.Condition] = s.Quantity
		if f.Condition == "" || f.Condition == s.Condition {
			r.Quantity = r.Quantity.Add(s.Quantity)
		}
		if s.Condition == string(stock.ForSale) {
			r.ForSale = s.Quantity
		}
	}
	for i := range rows {
		r := &rows[i]
		r.pool.Minor = set.Minor()
		r.Apart, r.Other = stock.Sides(r.By, conditions)
		if r.Value = r.pool.Worth(r.Quantity); f.Past && f.Branch == 0 && f.Condition == "" {
			r.Value = r.pool.Value
		}
	}
	return nil
}

// Low lists variants below their restock level, and how many there are.
func Low(q db.Q, most int) ([]StockRow, int, error) {
	var rows []StockRow
	err := db.SQL(q).
		Raw("SELECT "+stockColumns+` FROM (SELECT variant_id FROM cost_pool FORCE INDEX (low) WHERE low = 1 ORDER
			BY variant_id LIMIT ?) x
		STRAIGHT_JOIN cost_pool c ON c.variant_id = x.variant_id STRAIGHT_JOIN variant v ON v.id = c.variant_id
		STRAIGHT_JOIN product p ON p.id = v.product_id ORDER BY c.variant_id`, most).
		Scan(&rows).
		Error
	if err != nil {
		return nil, 0, err
	}
	var n int
	return rows, n, db.SQL(q).Raw("SELECT COUNT(*) FROM cost_pool WHERE low = 1").Scan(&n).Error
}

// OffRow is goods that are not for sale: since when the oldest of them are in that condition, and with whom
// they are, where somebody holds them.
type OffRow struct {
	VariantID    uint64           `json:"variant_id"`
	Name         string           `json:"name"`
	Label        string           `json:"label"`
	SKU          string           `gorm:"column:sku" json:"sku"`
	Unit         string           `json:"unit"`
	BranchID     uint64           `json:"branch_id"`
	Branch       string           `json:"branch"`
	LotID        uint64           `json:"lot_id"`
	Lot          string           `json:"lot"`
	Condition    string           `json:"condition"`
	Quantity     decimal.Decimal  `json:"quantity"`
	PoolQuantity decimal.Decimal  `json:"pool_quantity"`
	PoolValue    decimal.Decimal  `json:"pool_value" see:"costs"`
	Own          *decimal.Decimal `json:"own_cost" see:"costs"` // of units with numbers: what they cost
	Serials      string           `json:"serials"`
	Since        *time.Time       `json:"since"`
	Holders      []HeldBy         `gorm:"-" json:"holders"`
}

// Worth is what the goods are worth: units with numbers what they cost themselves.
func (r OffRow) Worth(minor money.Minor) decimal.Decimal {
	if r.Own != nil {
		return *r.Own
	}
	return cost.Pool{Quantity: r.PoolQuantity, Value: r.PoolValue, Minor: minor}.Worth(r.Quantity)
}

// NotForSale lists what lies in another condition than for sale, that which is so for longest first: at a
// branch, or all.
func NotForSale(q db.Q, branch uint64, most int) ([]OffRow, error) {
	where, args := "", []any{}
	if branch != 0 {
		where, args = where+" AND s.branch_id = ?", append(args, branch)
	}
	var rows []OffRow
	err := db.SQL(q).
		Raw(`SELECT b.variant_id, p.name, v.label, v.sku, p.unit, s.branch_id, x.name AS branch, b.lot_id,
			COALESCE(l.number, '') AS lot, b.condition, SUM(b.quantity) AS quantity,
		c.quantity AS pool_quantity, c.value AS pool_value,
		COALESCE((SELECT GROUP_CONCAT(u.number ORDER BY u.number) FROM unit u JOIN shelf y ON y.id = u.shelf_id
		WHERE u.variant_id = b.variant_id AND u.state = 'in stock' AND u.condition = b.condition AND y.branch_id =
		s.branch_id), '') AS serials,
		(SELECT SUM(u.cost) FROM unit u JOIN shelf y ON y.id = u.shelf_id WHERE u.variant_id = b.variant_id AND
		u.state =
		'in stock' AND u.condition = b.condition AND y.branch_id = s.branch_id) AS own
		FROM balance b FORCE INDEX (`+"`condition`"+`) JOIN shelf s ON s.id = b.shelf_id JOIN branch x ON x.id =
			s.branch_id JOIN variant v ON v.id = b.variant_id JOIN product p ON p.id = v.product_id
		JOIN cost_pool c ON c.variant_id = v.id LEFT JOIN lot l ON l.id = b.lot_id
		WHERE b.condition NOT IN ('For sale', 'On the way') AND b.quantity > 0`+where+`
		GROUP BY b.variant_id, s.branch_id, b.lot_id, b.condition ORDER BY b.condition, p.name, v.id LIMIT ?`,
			append(args, most)...).
		Scan(&rows).
		Error
	if err != nil || len(rows) == 0 {
		return rows, err
	}
	if err := sinceAndWith(q, rows); err != nil {
		return rows, err
	}
	slices.SortStableFunc(rows, func(a, b OffRow) int {
		if a.Since == nil || b.Since == nil {
			return 0
		}
		return a.Since.Compare(*b.Since)
	})
	return rows, nil
}

// offKey names goods that are not for sale.
type offKey struct {
	variant, branch, lot uint64
	condition            string
}

// sinceAndWith fills in since when the oldest of what is there is in its condition, what came first having
// left first, and with whom it is.
func sinceAndWith(q db.Q, rows []OffRow) error {
	ids := make([]uint64, len(rows))
	at, left, with := map[offKey]*OffRow{}, map[offKey]decimal.Decimal{}, map[offKey]decimal.Decimal{}
	for i := range rows {
		r := &rows[i]
		r.Holders = []HeldBy{}
		key := offKey{r.VariantID, r.BranchID, r.LotID, r.Condition}
		ids[i], at[key], left[key], with[key] = r.VariantID, r, r.Quantity, r.Quantity
	}
	in := db.IDs(ids)
	return db.Read(q, db.Part{SQL: "SELECT e.variant_id, s.branch_id, e.lot_id, e.condition, e.quantity, " +
		"d.happened_at FROM entry e JOIN document d ON " +
		"d.id = e.document_id JOIN shelf s ON s.id = e.shelf_id WHERE e.variant_id IN (" + in +
		") AND e.condition NOT IN ('For sale', 'On the way') AND " +
		"e.quantity > 0 ORDER BY e.id DESC", Row: func(scan func(into ...any) error) error {
		var key offKey
		var quantity decimal.Decimal
		var happened time.Time
		err := scan(&key.variant, &key.branch, &key.lot, &key.condition, &quantity, &happened)
		if r := at[key]; r != nil && left[key].IsPositive() {
			r.Since, left[key] = &happened, left[key].Sub(quantity)
		}
		return err
	}}, db.Part{SQL: "SELECT variant_id, branch_id, lot_id, `condition`, serials, quantity, with_whom, back_by " +
		"FROM held_by WHERE variant_id IN (" + in +
		") ORDER BY id DESC", Row: func(scan func(into ...any) error) error {
		var key offKey
		var h HeldBy
		err := scan(&key.variant, &key.branch, &key.lot, &key.condition, &h.Serials, &h.Quantity, &h.WithWhom, &h.BackBy)
		if r := at[key]; r != nil && with[key].IsPositive() {
			r.Holders, with[key] = append(r.Holders, h), with[key].Sub(h.Quantity)
		}
		return err
	}})
}
