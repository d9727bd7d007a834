package buying

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// OrderLineOf reads a line of an order with its order.
func OrderLineOf(q db.Q, id uint64) (Order, OrderLine, error) {
	lines, err := orderLines(q, "WHERE id = ?", id)
	if err != nil || len(lines) == 0 {
		return Order{}, OrderLine{}, errors.Join(err, fault.Missing("order_line_id", id,
			"There is no line %d of an order.", id))
	}
	var o Order
	return o, lines[0], db.SQL(q).Raw("SELECT * FROM purchase_order WHERE id = ?", lines[0].OrderID).Scan(&o).Error
}

// OrderLinesFor are the lines of orders that lines of deliveries were for, the latest of
// each, by the delivery's line.
func OrderLinesFor(q db.Q, deliveryLines []uint64) (map[uint64]uint64, error) {
	found := map[uint64]uint64{}
	if len(deliveryLines) == 0 {
		return found, nil
	}
	var rows []Share
	err := db.SQL(q).
		Raw("SELECT delivery_line_id, MAX(order_line_id) AS order_line_id FROM delivery_share WHERE "+
			"delivery_line_id IN ? GROUP BY delivery_line_id", deliveryLines).
		Scan(&rows).
		Error
	for _, r := range rows {
		found[r.DeliveryLineID] = r.OrderLineID
	}
	return found, err
}

// ToBill is a line of a posted delivery with what of it is not billed yet.
type ToBill struct {
	DeliveryLine
	DocumentID uint64          `json:"document_id"`
	Number     string          `json:"number"` // of the delivery
	SupplierID uint64          `json:"supplier_id"`
	Line       int             `json:"line"` // of the delivery's document
	Ordered    decimal.Decimal `json:"ordered"`
	Name       string          `json:"name"`
	Label      string          `json:"label"`
	Unit       string          `json:"unit"`
}

// toBill reads lines of deliveries, with their places in them.
func toBill(q db.Q, deliveries, where string, args ...any) ([]ToBill, error) {
	var rows []ToBill
	return rows, db.SQL(q).
		Raw(`SELECT l.*, d.document_id, x.number, d.supplier_id, p.name, v.label, p.unit, n.line,
			p.name AS product_name, p.unit AS unit_code, p.weight AS unit_weight, COALESCE(o.quantity, 0) AS ordered
			FROM delivery_line l JOIN (SELECT id, ROW_NUMBER() OVER (PARTITION BY delivery_id ORDER BY id) AS line
			FROM delivery_line
				WHERE delivery_id IN (`+deliveries+`)) n ON n.id = l.id
			JOIN delivery d ON d.id = l.delivery_id JOIN document x ON x.id = d.document_id
			JOIN variant v ON v.id = l.variant_id JOIN product p ON p.id = v.product_id
			LEFT JOIN (SELECT s.delivery_line_id, SUM(o.quantity) AS quantity FROM delivery_share s JOIN
			purchase_order_line o ON o.id = s.order_line_id
				JOIN delivery_line m ON m.id = s.delivery_line_id WHERE m.delivery_id IN (`+deliveries+
			`) GROUP BY s.delivery_line_id) o
				ON o.delivery_line_id = l.id
		WHERE `+where+" ORDER BY l.id", args...).
		Scan(&rows).
		Error
}

// LinesToBill reads lines of deliveries by their numbers.
func LinesToBill(q db.Q, lines []uint64) ([]ToBill, error) {
	in := db.IDs(lines)
	return toBill(q, "SELECT delivery_id FROM delivery_line WHERE id IN ("+in+")", "l.id IN ("+in+")")
}

// LinesOfDeliveries reads all lines of some posted deliveries.
func LinesOfDeliveries(q db.Q, deliveries []uint64) ([]ToBill, error) {
	return toBill(q, db.IDs(deliveries), "TRUE")
}

// LockToBill locks the unbilled lines of some deliveries until the transaction ends.
func LockToBill(tx db.Tx, lines []uint64) error {
	var ids []uint64
	return db.SQL(tx.Q).Raw("SELECT id FROM delivery_line WHERE id IN ? ORDER BY id FOR UPDATE",
		append(lines, 0)).Scan(&ids).Error
}

// Unbilled lists the posted deliveries of a supplier of which something is not billed; supplier
// 0 is all.
func Unbilled(q db.Q, supplier uint64) ([]DeliveryView, error) {
	var rows []DeliveryView
	return rows, db.SQL(q).
		Raw(deliverySelect+`WHERE d.id IN (SELECT l.delivery_id FROM delivery_line l WHERE l.unbilled > 0) AND
			d.document_id IS NOT NULL
			AND (? = 0 OR d.supplier_id = ?) ORDER BY d.id`, supplier, supplier).
		Scan(&rows).
		Error
}

// Left is what stands open of a line: units, and what they are worth.
type Left struct {
	Line         uint64
	Units, Value decimal.Decimal
}

// SetUnbilled writes what of lines of deliveries is not billed. Each line stands in it once.
func SetUnbilled(tx db.Tx, lines []Left) error {
	ids := make([]uint64, len(lines))
	for i, l := range lines {
		ids[i] = l.Line
	}
	// whoever has a draft of these goods open was shown something else
	if err := db.SQL(tx.Q).Exec("UPDATE bill SET revision = revision + 1 WHERE document_id IS NULL AND id IN "+
		"(SELECT bill_id "+
		"FROM bill_line WHERE delivery_line_id IN ?)", append(ids, 0)).Error; err != nil {
		return err
	}
	return setLeft(tx, "UPDATE delivery_line l JOIN (%s) x ON x.id = l.id SET l.unbilled = x.units, "+
		"l.unbilled_value = x.value", lines)
}

// setLeft does an update with the figures of some hundreds of lines at a time.
func setLeft(tx db.Tx, update string, lines []Left) error {
	for part := range slices.Chunk(lines, 500) {
		args := make([]any, 0, 3*len(part))
		for _, l := range part {
			args = append(args, l.Line, l.Units, l.Value)
		}
		figures := "SELECT ? AS id, ? AS units, ? AS value" + strings.Repeat(" UNION ALL SELECT ?, ?, ?", len(part)-1)
		if err := db.SQL(tx.Q).Exec(fmt.Sprintf(update, figures), args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// AheadOf reads what is billed and has not come of some lines of orders, the earliest first.
func AheadOf(tx db.Tx, orderLines []uint64) ([]BillLine, error) {
	var rows []BillLine
	return rows, db.SQL(tx.Q).
		Raw("SELECT * FROM bill_line WHERE order_line_id IN ? AND ahead_units > 0 ORDER BY id FOR UPDATE",
			append(orderLines, 0)).
		Scan(&rows).
		Error
}

// SetAhead writes what lines of bills billed that has not come. Each line stands in it once.
func SetAhead(tx db.Tx, lines []Left) error {
	return setLeft(tx, "UPDATE bill_line l JOIN (%s) x ON x.id = l.id SET l.ahead_units = x.units, l.ahead = x.value",
		lines)
}

// SetOpen writes what of some bills is still owed.
func SetOpen(tx db.Tx, open map[uint64]decimal.Decimal) error {
	lines := make([]Left, 0, len(open))
	for _, id := range slices.Sorted(maps.Keys(open)) {
		lines = append(lines, Left{Line: id, Value: open[id]})
	}
	return setLeft(tx, "UPDATE bill l JOIN (%s) x ON x.id = l.id SET l.open = x.value, l.revision = l.revision + 1",
		lines)
}
