package book

import (
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/store/internal/db"
)

// LotRow is a lot of which something is in stock. Told is from how many days before its expiry it is told;
// Expiry is nil for one that does not expire.
type LotRow struct {
	ID           uint64           `json:"id"`
	VariantID    uint64           `json:"variant_id"`
	Name         string           `json:"name"`
	Label        string           `json:"label"`
	SKU          string           `gorm:"column:sku" json:"sku"`
	Unit         string           `json:"unit"`
	Number       string           `json:"number"`
	Expiry       *time.Time       `json:"expiry"`
	Told         int              `json:"told_days"`
	ForSale      decimal.Decimal  `json:"for_sale"`
	Other        decimal.Decimal  `json:"other"`
	Price        *decimal.Decimal `json:"price"`
	PoolQuantity decimal.Decimal  `json:"-"`
	PoolValue    decimal.Decimal  `json:"-"`
}

// Worth is what is left of the lot is worth.
func (r LotRow) Worth(minor money.Minor) decimal.Decimal {
	return cost.Pool{Quantity: r.PoolQuantity, Value: r.PoolValue, Minor: minor}.Worth(r.ForSale.Add(r.Other))
}

// Lot gives the lot to the rules.
func (r LotRow) Lot() serial.Lot {
	l := serial.Lot{ID: r.ID, Number: r.Number}
	if r.Expiry != nil {
		l.Expiry = *r.Expiry
	}
	return l
}

// toldDays is how many days before its expiry a lot of a product is told, as SQL: as the product says, else
// its category or the nearest one above it, else as usual.
func toldDays(q db.Q) (string, error) {
	var rows []struct {
		ID         uint64
		Path       string
		ExpiryDays *int
	}
	if err := db.SQL(q).Raw("SELECT id, path_key AS path, expiry_days FROM category").Scan(&rows).Error; err != nil {
		return "", err
	}
	said := map[string]int{}
	for _, r := range rows {
		if r.ExpiryDays != nil {
			said[r.Path] = *r.ExpiryDays
		}
	}
	cases := ""
	for _, r := range rows {
		for path := r.Path; path != ""; {
			if days, ok := said[path]; ok {
				cases += fmt.Sprintf(" WHEN %d THEN %d", r.ID, days)
				break
			}
			at := strings.LastIndex(path, " > ")
			path = path[:max(at, 0)]
		}
	}
	if cases == "" {
		return fmt.Sprintf("COALESCE(p.expiry_days, %d)", catalog.UsualExpiryDays), nil
	}
	return fmt.Sprintf("COALESCE(p.expiry_days, CASE p.category_id%s ELSE %d END)", cases, catalog.UsualExpiryDays), nil
}

const lotSelect = `SELECT l.id, l.variant_id, p.name, v.label, v.sku, p.unit, l.number, IF(l.expiry < '9999-12-31',
	l.expiry, NULL) AS expiry, %s AS told,
	SUM(IF(b.condition = 'For sale', b.quantity, 0)) AS for_sale, SUM(IF(b.condition = 'For sale', 0, b.quantity)) AS
	other,
	v.list_price AS price, k.quantity AS pool_quantity, k.value AS pool_value FROM lot l JOIN balance b ON b.lot_id =
	l.id AND b.variant_id = l.variant_id
	JOIN variant v ON v.id = l.variant_id JOIN product p ON p.id = v.product_id JOIN cost_pool k ON k.variant_id =
	v.id `

// Lots lists the lots of which something is in stock, the nearest expiry first: all of them, those that are
// "near" their expiry on a day, or past it ("expired").
func Lots(q db.Q, show string, today time.Time, page int) ([]LotRow, bool, error) {
	told, err := toldDays(q)
	if err != nil {
		return nil, false, err
	}
	where := map[string]string{"": "TRUE", "near": "l.expiry >= @today AND l.expiry <= DATE_ADD(@today, INTERVAL " +
		told + " DAY)",
		"expired": "l.expiry < @today"}[show]
	if where == "" {
		return nil, false, fault.Field("show", show, "near, expired or nothing", "Lots can't be listed by %q.", show)
	}
	n := q.PageRows()
	var rows []LotRow
	err = db.SQL(q).Raw(fmt.Sprintf(lotSelect, told)+"WHERE b.quantity > 0 AND "+where+
		" GROUP BY l.id ORDER BY l.expiry, l.id LIMIT @limit OFFSET @offset",
		map[string]any{"today": db.Day(today), "limit": n + 1, "offset": (page - 1) * n}).
		Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// LotEvent is a thing that happened to a lot: what brought it, moved it, sold it, and to whom.
type LotEvent struct {
	HappenedAt time.Time       `json:"happened_at"`
	Kind       string          `json:"kind"`
	Number     string          `json:"number"`
	Branch     string          `json:"branch"`
	Condition  string          `json:"condition"`
	Who        string          `json:"who"`
	Quantity   decimal.Decimal `json:"quantity"`
	CustomerID uint64          `json:"customer_id"`
	Customer   string          `json:"customer"`
	Mail       string          `json:"mail"`
	Phone      string          `json:"phone"`
	Address    string          `json:"address"`
	Supplier   string          `json:"supplier"`
}

// LotLife is the life of a lot: where what is left of it lies, and what happened to it.
type LotLife struct {
	LotRow
	Places []Place    `json:"places"`
	Events []LotEvent `json:"events"`
}

// ReadLot reads the life of a lot.
func ReadLot(q db.Q, id uint64) (LotLife, error) {
	var life LotLife
	told, err := toldDays(q)
	if err != nil {
		return life, err
	}
	if err := db.SQL(q).Raw(strings.Replace(fmt.Sprintf(lotSelect, told), "JOIN balance", "LEFT JOIN balance", 1)+
		"WHERE l.id = ? GROUP BY l.id", id).
		Scan(&life.LotRow).Error; err != nil {
		return life, err
	}
	if life.ID == 0 {
		return life, fault.Missing("lot", id, "There is no lot %d.", id)
	}
	all, err := Places(q, life.VariantID)
	if err != nil {
		return life, err
	}
	life.Places = []Place{}
	for _, p := range all {
		if p.LotID == id {
			life.Places = append(life.Places, p)
		}
	}
	life.Events = []LotEvent{}
	return life, db.SQL(q).Raw(`SELECT d.happened_at, d.kind, d.number, b.name AS branch, e.condition, u.name AS who,
		SUM(e.quantity) AS quantity,
		COALESCE(c.id, 0) AS customer_id, COALESCE(c.name, '') AS customer, COALESCE(c.mail, '') AS mail,
		COALESCE(c.phone, '') AS phone,
		COALESCE(c.address, '') AS address, COALESCE(x.name, '') AS supplier FROM entry e JOIN document d ON d.id =
		e.document_id JOIN shelf s ON s.id = e.shelf_id
		JOIN branch b ON b.id = s.branch_id JOIN user u ON u.id = d.user_id LEFT JOIN sale a ON a.document_id = d.id
		LEFT JOIN customer c ON c.id = a.customer_id
		AND c.forgotten_at IS NULL LEFT JOIN delivery y ON y.document_id = d.id LEFT JOIN supplier x ON x.id =
		y.supplier_id
		WHERE e.variant_id = ? AND e.lot_id = ? AND e.quantity <> 0 GROUP BY d.id, b.id, e.condition ORDER BY
		MIN(e.id)`, life.VariantID, id).Scan(&life.Events).Error
}

// MoveRow is an entry in the list of everything that moved.
type MoveRow struct {
	Movement
	VariantID uint64 `json:"variant_id"`
	Name      string `json:"name"`
	Label     string `json:"label"`
	SKU       string `gorm:"column:sku" json:"sku"`
	Unit      string `json:"unit"`
	Note      string `json:"note"`
}

// MoveQuery narrows the list of everything that moved. Reason is the beginning of a document's note, where
// why stock was put right stands, or why a count differed.
type MoveQuery struct {
	Branch, User uint64
	Kind         string
	Condition    string
	Reason       string
	From, To     time.Time // zero for any
	Before       uint64    // entries older than it
}

// Moves lists everything that moved, the latest first, and whether there is more.
func Moves(q db.Q, f MoveQuery) ([]MoveRow, bool, error) {
	n := q.PageRows()
	// which entries those are is found by themselves, in the order of their numbers; what else is told is joined after
	list := db.SQL(q).Table("entry e").Select("e.*").Where("e.quantity <> 0")
	if f.User != 0 || f.Kind != "" || f.Reason != "" || !f.From.IsZero() || !f.To.IsZero() {
		list = list.Joins("JOIN document d ON d.id = e.document_id")
	}
	for _, w := range []struct {
		on    bool
		where string
		arg   any
	}{{f.Branch != 0, "e.shelf_id IN (SELECT id FROM shelf WHERE branch_id = ?)", f.Branch},
		{f.User != 0, "d.user_id = ?", f.User}, {f.Kind != "", "d.kind = ?", f.Kind},
		{f.Condition != "", "e.condition = ?", f.Condition}, {!f.From.IsZero(), "d.happened_at >= ?", f.From},
		{!f.To.IsZero(), "d.happened_at < ?", f.To},
		{f.Before != 0, "e.id < ?", f.Before}} {
		if w.on {
			list = list.Where(w.where, w.arg)
		}
	}
	if f.Reason != "" {
		list = list.Where("(d.note LIKE ? OR EXISTS (SELECT 1 FROM shelf_count k JOIN count_row r ON "+
			"r.shelf_count_id = k.id AND r.variant_id = e.variant_id "+
			"WHERE k.document_id = d.id AND r.reason = ?))", db.Like(f.Reason)+"%", f.Reason)
	}
	list = db.SQL(q).Table("(?) AS e", list.Order("e.id DESC").Limit(n+1)).
		Select(`e.id, d.happened_at, d.recorded_at, d.kind, d.number, b.name AS branch, s.name AS shelf, e.condition,
		COALESCE(l.number, '') AS lot, e.serial, u.name AS who, e.quantity, e.value, e.quantity_after, e.value_after,
		e.variant_id, p.name, v.label, v.sku, p.unit, d.note`).
		Joins("JOIN document d ON d.id = e.document_id JOIN shelf s ON s.id = e.shelf_id JOIN branch b ON b.id = " +
			"s.branch_id JOIN user u ON u.id = d.user_id JOIN variant v ON v.id = e.variant_id JOIN product p ON p.id = " +
			"v.product_id LEFT JOIN lot l ON l.id = e.lot_id")
	var rows []MoveRow
	err := list.Order("e.id DESC").Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}
