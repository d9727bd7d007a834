package migrations

import (
	"context"
	"fmt"
	"log/slog"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/serial"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// keyed are the columns of names with those of their keys, and within what a name is
// unique.
var keyed = []struct{ table, within, name, key string }{
	{"branch", "0", "name", "name_key"},
	{"shelf", "branch_id", "name", "name_key"},
	{"tax_class", "0", "name", "name_key"},
	{"supplier", "0", "name", "name_key"},
	{"category", "0", "path", "path_key"},
	{"product", "0", "name", "name_key"},
	{"value_set", "0", "name", "name_key"},
	{"set_value", "value_set_id", "name", "name_key"},
	{"price_list", "0", "name", "name_key"},
	{"pack", "product_id", "name", "name_key"},
	{"product_attribute", "product_id", "name", "name_key"},
	{"label_template", "0", "name", "name_key"},
	{"saved_view", "user_id", "name", "name_key"},
}

// fillKeys fills in the keys of names that are kept. One that stands double under its
// key gets a number at its end, and is told in the log.
func fillKeys(ctx context.Context, s *db.Store) error {
	for _, k := range keyed {
		if err := s.Do(ctx, func(tx db.Tx) error {
			return fillNames(tx, k.table, k.within, k.name,
				k.key)
		}); err != nil {
			return fmt.Errorf("keys of %s: %w", k.table, err)
		}
	}
	for _, fill := range []func(tx db.Tx) error{fillLogins, fillSupplierNumbers, fillNumbers, fillUnits, fillCodes} {
		if err := s.Do(ctx, fill); err != nil {
			return err
		}
	}
	return nil
}

func fillNames(tx db.Tx, table, within, name, key string) error {
	var rows []struct {
		Within uint64
		Name   string
	}
	if err := db.SQL(tx.Q).Raw(fmt.Sprintf("SELECT %s AS within, %s AS name FROM %s ORDER BY 1, 2", within, name,
		table)).
		Scan(&rows).Error; err != nil {
		return err
	}
	taken := map[string]bool{}
	update := fmt.Sprintf("UPDATE %s SET %s = ?, %s = ? WHERE %s = ? AND BINARY %s = ?", table, name, key, within, name)
	for _, r := range rows {
		is := r.Name
		for n := 2; taken[fmt.Sprint(r.Within, " ", text.Key(is))]; n++ {
			is = fmt.Sprintf("%s (%d)", r.Name, n)
		}
		if is != r.Name {
			slog.Warn("stood double and is told apart by a number", "in", table, "name", r.Name, "now", is)
		}
		taken[fmt.Sprint(r.Within, " ", text.Key(is))] = true
		if err := db.SQL(tx.Q).Exec(update, is, text.Key(is), r.Within, r.Name).Error; err != nil {
			return err
		}
	}
	return nil
}

// rewritten writes texts of a table anew where they are not as they are kept now. One
// that would then stand double stays.
func rewritten(tx db.Tx, table, column string, as func(string) string) error {
	var rows []struct {
		ID   uint64
		Text string
	}
	if err := db.SQL(tx.Q).Raw(fmt.Sprintf("SELECT id, %s AS text FROM %s WHERE %s > ''", column, table, column)).
		Scan(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		if as(r.Text) == r.Text {
			continue
		}
		err := db.SQL(tx.Q).Exec(fmt.Sprintf("UPDATE %s SET %s = ? WHERE id = ?", table, column), as(r.Text),
			r.ID).Error
		if db.Duplicate(err) {
			slog.Warn("stands double and stays as it is", "in", table, "text", r.Text)
			continue
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func fillLogins(tx db.Tx) error { return rewritten(tx, "user", "login", text.Key) }

func fillSupplierNumbers(tx db.Tx) error { return rewritten(tx, "delivery", "posted_number", text.Key) }

// fillNumbers writes serial and lot numbers as they are compared now.
func fillNumbers(tx db.Tx) error {
	for _, c := range [][2]string{{"lot", "number"}, {"delivery_line", "lot_number"}, {"unit", "number"},
		{"entry", "serial"}, {"count_event", "serial"}} {
		if err := rewritten(tx, c[0], c[1], serial.Normal); err != nil {
			return err
		}
	}
	return nil
}

// fillUnits writes the units that the book knows and the table does not, since their
// numbers were taken for one; and whose each number is, where one variant of a product
// has it.
func fillUnits(tx db.Tx) error {
	var rows []struct {
		VariantID uint64
		Serial    string
		InStock   decimal.Decimal
		Last      uint64
	}
	err := db.SQL(tx.Q).Raw(`SELECT e.variant_id, e.serial, SUM(e.quantity) AS in_stock, MAX(IF(e.quantity > 0, e.id,
		0))
		AS last FROM entry e WHERE e.serial > '' AND e.variant_id IN (SELECT x.variant_id FROM entry x LEFT JOIN unit
		u ON
		u.variant_id = x.variant_id AND u.number = x.serial WHERE x.serial > '' AND u.id IS NULL)
		GROUP BY e.variant_id, e.serial`).
		Scan(&rows).Error
	if err != nil {
		return err
	}
	for _, r := range rows {
		slog.Warn("a unit is written as the book has it", "variant", r.VariantID, "number", r.Serial)
		state := serial.Sold
		if r.InStock.IsPositive() {
			state = serial.InStock
		}
		if err := db.SQL(tx.Q).Exec("INSERT INTO unit (variant_id, number, state, shelf_id, lot_id, `condition`, cost) "+
			"SELECT variant_id, serial, ?, shelf_id, lot_id, `condition`, value FROM entry WHERE id = ? "+
			"ON DUPLICATE KEY UPDATE state = IF((state = 'in stock') = (VALUES(state) = 'in stock'), state, "+
			"VALUES(state)), shelf_id = VALUES(shelf_id), `condition` = "+
			"VALUES(`condition`), cost = VALUES(cost)", state, r.Last).Error; err != nil {
			return err
		}
	}
	var double []struct {
		Number string
		Name   string
	}
	if err := db.SQL(tx.Q).Raw(`SELECT u.number, p.name FROM unit u JOIN variant v ON v.id = u.variant_id JOIN
		product p ON
		p.id = v.product_id WHERE u.state <> ? GROUP BY p.id, u.number HAVING COUNT(*) > 1`, serial.Undone).
		Scan(&double).Error; err != nil {
		return err
	}
	for _, d := range double {
		slog.Warn("two variants have one number", "product", d.Name, "number", d.Number)
	}
	return db.SQL(tx.Q).Exec(`UPDATE unit u JOIN variant v ON v.id = u.variant_id SET u.product_id = v.product_id WHERE
		NOT EXISTS (SELECT 1 FROM (SELECT w.product_id, x.number FROM unit x JOIN variant w ON w.id = x.variant_id WHERE
		x.state <> ? GROUP BY w.product_id, x.number HAVING COUNT(*) > 1) two WHERE two.product_id = v.product_id AND
		two.number = u.number)`, serial.Undone).Error
}

// fillCodes puts barcodes and SKUs into their name space; a SKU that is a barcode of
// something else stays outside of it.
func fillCodes(tx db.Tx) error {
	if err := db.SQL(tx.Q).Exec("INSERT IGNORE INTO scan_key (k, variant_id, barcode_id) SELECT code_key, " +
		"variant_id, id " +
		"FROM barcode").Error; err != nil {
		return err
	}
	var rows []struct {
		ID  uint64
		SKU string `gorm:"column:sku"`
	}
	if err := db.SQL(tx.Q).Raw("SELECT id, sku FROM variant").Scan(&rows).Error; err != nil {
		return err
	}
	for start := 0; start < len(rows); start += 1000 {
		part := rows[start:min(start+1000, len(rows))]
		var args []any
		for _, r := range part {
			args = append(args, barcode.Key(r.SKU), r.ID)
		}
		if err := db.SQL(tx.Q).Exec(db.Values("INSERT IGNORE INTO scan_key (k, variant_id) VALUES ", len(part),
			"(?, ?)"),
			args...).Error; err != nil {
			return err
		}
	}
	var double []struct{ K, Name string }
	if err := db.SQL(tx.Q).Raw(`SELECT s.k, p.name FROM variant v JOIN scan_key s ON s.k = v.sku AND s.variant_id <>
		v.id
		JOIN product p ON p.id = v.product_id`).Scan(&double).Error; err != nil {
		return err
	}
	for _, d := range double {
		slog.Warn("a SKU is a barcode of something else", "sku", d.K, "of", d.Name)
	}
	return nil
}
