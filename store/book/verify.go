package book

import (
	"context"
	"fmt"
	"time"

	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

// Check is one thing that must agree, and what came of it. Wrong names the
// first thing that does not; it is empty when all agrees. Seen is how many rows
// were held against each other.
type Check struct {
	Name  string `json:"name"`
	Seen  int64  `json:"seen"`
	Wrong string `json:"wrong,omitempty"`
}

// checks are pairs of a count of what is looked at and a query whose first row
// says in words what does not agree.
var checks = []struct{ name, seen, wrong string }{
	{"every balance is the sum of its entries", "SELECT COUNT(*) FROM balance",
		`SELECT CONCAT('variant ', variant_id, ' on shelf ', shelf_id, ', ', c, ': book and balance differ by ',
			SUM(q)) FROM (
			SELECT variant_id, shelf_id, lot_id, ` + "`condition`" + ` AS c, quantity AS q FROM entry UNION ALL
			SELECT variant_id, shelf_id, lot_id, ` + "`condition`" + `, -quantity FROM balance) x
		GROUP BY variant_id, shelf_id, lot_id, c HAVING SUM(q) <> 0 LIMIT 1`},
	{"no balance is below zero", "SELECT COUNT(*) FROM balance",
		"SELECT CONCAT('variant ', variant_id, ' on shelf ', shelf_id, ' is at ', quantity) FROM balance WHERE " +
			"quantity < 0 LIMIT 1"},
	{"every cost pool is the sum of its entries", "SELECT COUNT(*) FROM cost_pool",
		`SELECT CONCAT('variant ', variant_id, ': quantity differs by ', SUM(q), ', value by ', SUM(v)) FROM (
			SELECT variant_id, quantity AS q, value AS v FROM entry UNION ALL SELECT variant_id, -quantity, -value
			FROM cost_pool) x
		GROUP BY variant_id HAVING SUM(q) <> 0 OR SUM(v) <> 0 LIMIT 1`},
	{"no value is left behind where no stock is", "SELECT COUNT(*) FROM cost_pool",
		"SELECT CONCAT('variant ', variant_id, ' has ', quantity, ' worth ', value) FROM cost_pool WHERE value < 0 " +
			"OR (quantity = 0 AND value <> 0) LIMIT 1"},
	{"the layers of a shop that counts first in, first out are its cost pools", "SELECT COUNT(*) FROM cost_layer",
		`SELECT CONCAT('variant ', x.variant_id, ': quantity differs by ', SUM(q), ', value by ', SUM(v)) FROM (
			SELECT variant_id, quantity AS q, value AS v FROM cost_layer UNION ALL
			SELECT c.variant_id, -c.quantity, -c.value FROM cost_pool c JOIN variant v ON v.id = c.variant_id JOIN
			product p ON p.id = v.product_id
			WHERE p.tracking <> 'serial' AND (SELECT value FROM setting WHERE name = 'costing') =
			'first in, first out') x
		GROUP BY x.variant_id HAVING SUM(q) <> 0 OR SUM(v) <> 0 LIMIT 1`},
	{"what is for sale, and what runs low, follows the balances", "SELECT COUNT(*) FROM cost_pool",
		`SELECT CONCAT('variant ', c.variant_id, ' says ', c.for_sale, ' for sale, the balances ', COALESCE(b.q,
			0)) FROM cost_pool c JOIN variant v ON v.id = c.variant_id
			LEFT JOIN (SELECT b.variant_id, SUM(b.quantity) AS q FROM balance b LEFT JOIN lot l ON l.id = b.lot_id WHERE
				b.condition = 'For sale' AND (l.id IS NULL OR l.expiry >= COALESCE((SELECT value FROM setting WHERE name
				= 'expired_before'), '1000-01-01')) AND NOT ` + goods.Locked("b") + ` GROUP BY b.variant_id) b ON b.variant_id = c.variant_id
		WHERE c.for_sale <> COALESCE(b.q, 0) OR c.low <> COALESCE(c.for_sale < v.restock_level, FALSE) LIMIT 1`},
	{"the figures after each entry run on from the one before", "SELECT COUNT(*) FROM entry",
		`SELECT CONCAT('entry ', id, ' of variant ', variant_id, ' leaves ', quantity_after, ' worth ',
			value_after) FROM (
			SELECT id, variant_id, quantity, value, quantity_after, value_after, COALESCE(LAG(quantity_after) OVER
			w, 0) AS q, COALESCE(LAG(value_after) OVER w, 0) AS v
			FROM entry WINDOW w AS (PARTITION BY variant_id ORDER BY id)) x
		WHERE quantity_after <> q + quantity OR value_after <> v + value LIMIT 1`},
	{"every unit in stock lies where the balances say", "SELECT COUNT(*) FROM unit",
		`SELECT CONCAT('variant ', variant_id, ' on shelf ', shelf_id, ', ', c, ': units and balance differ by ',
			SUM(q)) FROM (
			SELECT variant_id, shelf_id, ` + "`condition`" + ` AS c, 1 AS q FROM unit WHERE state = 'in stock' UNION ALL
			SELECT b.variant_id, b.shelf_id, b.condition, -b.quantity FROM balance b JOIN variant v ON v.id =
			b.variant_id JOIN product p ON p.id = v.product_id WHERE p.tracking = 'serial') x
		GROUP BY variant_id, shelf_id, c HAVING SUM(q) <> 0 LIMIT 1`},
	{"serial-numbered stock is worth its units' own costs", "SELECT COUNT(*) FROM unit WHERE state = 'in stock'",
		`SELECT CONCAT('variant ', variant_id, ': differs by ', SUM(v)) FROM (
			SELECT variant_id, cost AS v FROM unit WHERE state = 'in stock' UNION ALL
			SELECT c.variant_id, -c.value FROM cost_pool c JOIN variant v ON v.id = c.variant_id JOIN product p ON
			p.id = v.product_id WHERE p.tracking = 'serial') x
		GROUP BY variant_id HAVING SUM(v) <> 0 LIMIT 1`},
	{"every lot in stock belongs to its variant", "SELECT COUNT(*) FROM lot",
		`SELECT CONCAT('variant ', b.variant_id, ' holds lot ', b.lot_id) FROM balance b JOIN variant v ON v.id =
			b.variant_id JOIN product p ON p.id = v.product_id
			LEFT JOIN lot l ON l.id = b.lot_id AND l.variant_id = b.variant_id WHERE (p.tracking = 'lot') <> (l.id
			IS NOT NULL) LIMIT 1`},
	{"every document's postings add up to zero", "SELECT COUNT(*) FROM document",
		`SELECT CONCAT(d.number, ' is out by ', SUM(p.amount)) FROM ledger_posting p JOIN document d ON d.id =
			p.document_id GROUP BY d.id HAVING SUM(p.amount) <> 0 LIMIT 1`},
	{"every document posts to stock what its entries are worth", "SELECT COUNT(*) FROM document",
		`SELECT CONCAT(d.number, ': differs by ', SUM(x.v)) FROM (SELECT document_id, value AS v FROM entry UNION ALL
			SELECT document_id, -amount FROM ledger_posting WHERE account = 'stock') x JOIN document d ON d.id =
			x.document_id GROUP BY d.id HAVING SUM(x.v) <> 0 LIMIT 1`},
	{"every sale is the sum of its lines and of what was paid", "SELECT COUNT(*) FROM sale",
		`SELECT CONCAT(d.number, ' came to ', s.gross, ', its lines to ', COALESCE(l.paid, 0)) FROM sale s JOIN
			document d ON d.id = s.document_id
			LEFT JOIN (SELECT document_id, SUM(paid) AS paid, SUM(tax) AS tax FROM sale_line GROUP BY document_id)
			l ON l.document_id = s.document_id
			LEFT JOIN (SELECT document_id, SUM(amount) AS paid FROM tender GROUP BY document_id) t ON t.document_id =
			s.document_id
		WHERE s.gross <> COALESCE(l.paid, 0) OR s.tax <> COALESCE(l.tax, 0) OR s.gross + s.vouchers <>
		COALESCE(t.paid, 0) LIMIT 1`},
	{"every return gives back what its lines come to", "SELECT COUNT(*) FROM sale_return",
		`SELECT CONCAT(d.number, ' came to ', r.amount, ', its lines to ', COALESCE(l.paid, 0), ', it gave ',
			-COALESCE(t.paid, 0)) FROM
			sale_return r JOIN document d ON d.id = r.document_id
			LEFT JOIN (SELECT document_id, SUM(amount) AS paid, SUM(tax) AS tax FROM return_line GROUP BY
			document_id) l ON
			l.document_id = r.document_id LEFT JOIN (SELECT document_id, SUM(amount) AS paid FROM tender GROUP BY
			document_id) t ON
			t.document_id = r.document_id
		WHERE r.amount <> COALESCE(l.paid, 0) OR r.tax <> COALESCE(l.tax, 0) OR r.amount <> -COALESCE(t.paid, 0)
		LIMIT 1`},
	{"every sale's cost is what its entries took out", "SELECT COUNT(*) FROM sale_line",
		`SELECT CONCAT(d.number, ': differs by ', SUM(x.v)) FROM (SELECT document_id, cost AS v FROM sale_line UNION ALL
			SELECT e.document_id, e.value FROM entry e JOIN sale s ON s.document_id = e.document_id UNION ALL
			SELECT l.document_id, e.value FROM number_given g JOIN sale_line l ON l.id = g.sale_line_id JOIN entry e ON
			e.document_id = g.document_id) x JOIN
			document d ON d.id = x.document_id GROUP BY d.id HAVING SUM(x.v) <> 0 LIMIT 1`},
	{"the figures of each product are those of its variants", "SELECT COUNT(*) FROM product_figure",
		`SELECT CONCAT('product ', x.product_id, ' says ', COALESCE(f.on_hand, 'nothing'), ' on hand worth ',
			COALESCE(f.value, 'nothing'), ', its variants ', x.on_hand, ' worth ', x.value) FROM (
			SELECT v.product_id, SUM(k.quantity) AS on_hand, SUM(k.for_sale) AS for_sale, SUM(k.value) AS value,
			MIN(v.list_price) AS price_min, MAX(v.list_price) AS price_max,
				MIN(k.margin) AS margin_min, MAX(k.under) AS under, SUM(k.low) AS low
			FROM variant v JOIN cost_pool k ON k.variant_id = v.id GROUP BY v.product_id) x LEFT JOIN
			product_figure f ON f.product_id = x.product_id
		WHERE NOT (f.on_hand <=> x.on_hand AND f.for_sale <=> x.for_sale AND f.value <=> x.value AND f.price_min
		<=> x.price_min AND f.price_max <=> x.price_max AND
			f.margin_min <=> x.margin_min AND f.under <=> x.under AND f.low <=> x.low) LIMIT 1`},
	{"no line came back more often than it was sold", "SELECT COUNT(*) FROM return_line",
		`SELECT CONCAT(d.number, ' line ', l.line, ': ', r.q, ' back of ', l.quantity) FROM (SELECT sale_line_id,
			SUM(quantity) AS q, SUM(amount) AS a FROM return_line GROUP BY sale_line_id) r
			JOIN sale_line l ON l.id = r.sale_line_id JOIN document d ON d.id = l.document_id WHERE r.q >
			l.quantity OR r.a > l.paid LIMIT 1`},
	{"every drawer's cash is in the books", "SELECT COUNT(*) FROM drawer",
		`SELECT CONCAT('cash in the books differs from sales, returns and closings by ', SUM(v)) FROM (
			SELECT amount AS v FROM ledger_posting WHERE account = 'cash' UNION ALL
			SELECT -amount FROM tender WHERE kind = 'cash' UNION ALL
			SELECT IF(kind = 'put in', -amount, amount) FROM drawer_move UNION ALL
			SELECT amount FROM payment WHERE drawer_id IS NOT NULL AND NOT undone UNION ALL
			SELECT -(counted - should_be) FROM drawer WHERE closed_at IS NOT NULL) x HAVING SUM(v) <> 0`},
	{"what stands under vouchers and store credit is what is left on them", "SELECT COUNT(*) FROM credit",
		`SELECT CONCAT('the books owe ', -SUM(v), ' too much') FROM (
			SELECT amount AS v FROM ledger_posting WHERE account IN ('vouchers', 'store credit') UNION ALL
			SELECT balance FROM credit) x HAVING SUM(v) <> 0`},
	{"what is left on each voucher is what was put on it and taken off", "SELECT COUNT(*) FROM credit_move",
		`SELECT CONCAT(c.code, ' has ', c.balance, ', its moves ', COALESCE(m.s, 0)) FROM credit c LEFT JOIN (SELECT
			credit_id,
			SUM(amount) AS s FROM credit_move GROUP BY credit_id) m ON m.credit_id = c.id WHERE c.balance <>
			COALESCE(m.s, 0) OR
			c.balance < 0 LIMIT 1`},
	{"what stands under receivable, card, rounding and exchange is what the documents say", "SELECT COUNT(*) FROM tender",
		`SELECT CONCAT(k, ' differs by ', SUM(v)) FROM (
			SELECT account AS k, amount AS v FROM ledger_posting WHERE account IN ('receivable', 'card',
			'cash rounding', 'exchange')
			UNION ALL SELECT CASE kind WHEN 'on account' THEN 'receivable' WHEN 'rounding' THEN 'cash rounding' ELSE
			kind END, -amount
			FROM tender WHERE kind IN ('on account', 'card', 'rounding', 'exchange')) x GROUP BY k HAVING SUM(v) <> 0
			LIMIT 1`},
	{"nothing hangs between what came back on a basket and its sale",
		"SELECT COUNT(*) FROM tender WHERE kind = 'exchange'",
		`SELECT CONCAT('the books hold ', SUM(amount)) FROM ledger_posting WHERE account = 'exchange' HAVING
			SUM(amount) <> 0`},
	{"what stands under payable is what is open on bills", "SELECT COUNT(*) FROM bill",
		`SELECT CONCAT('the books owe ', -COALESCE((SELECT SUM(amount) FROM ledger_posting WHERE account =
			'payable'), 0), ', the bills ',
			COALESCE((SELECT SUM(open) FROM bill WHERE document_id IS NOT NULL), 0)) FROM DUAL
		WHERE COALESCE((SELECT SUM(amount) FROM ledger_posting WHERE account = 'payable'), 0) +
			COALESCE((SELECT SUM(open) FROM bill WHERE document_id IS NOT NULL), 0) <> 0`},
	{"what is open on each bill is what it says less what was paid", "SELECT COUNT(*) FROM bill",
		`SELECT CONCAT(b.number, ' is open with ', b.open, ' of ', b.gross, ', paid ', COALESCE(p.paid, 0)) FROM bill
			b LEFT JOIN (
			SELECT x.bill_id, SUM(x.amount) AS paid FROM payment_part x JOIN payment y ON y.id = x.payment_id WHERE
			NOT y.undone
			GROUP BY x.bill_id) p ON p.bill_id = b.id
		WHERE b.document_id IS NOT NULL AND b.open <> b.gross - COALESCE(p.paid, 0) AND
			NOT (b.open = 0 AND EXISTS (SELECT 1 FROM document y WHERE y.reverses_id = b.document_id)) LIMIT 1`},
	{"what stands under received, not billed is what came without a bill, less what is billed and has not come",
		"SELECT COUNT(*) FROM delivery_line WHERE unbilled > 0",
		`SELECT CONCAT('the books have ', -SUM(v), ' too much') FROM (
			SELECT amount AS v FROM ledger_posting WHERE account = 'received, not billed' UNION ALL
			SELECT unbilled_value FROM delivery_line WHERE unbilled_value <> 0 UNION ALL
			SELECT -ahead FROM bill_line l JOIN bill b ON b.id = l.bill_id WHERE l.ahead <> 0 AND b.document_id IS
			NOT NULL) x
		HAVING SUM(v) <> 0`},
	{"what stands under credit expected is what suppliers have not credited", "SELECT COUNT(*) FROM credit_expected",
		`SELECT CONCAT('the books have ', SUM(v), ' too much') FROM (
			SELECT amount AS v FROM ledger_posting WHERE account = 'credit expected' UNION ALL SELECT -open FROM
			credit_expected) x
		HAVING SUM(v) <> 0`},
	{"what has arrived of each order is what its deliveries brought", "SELECT COUNT(*) FROM purchase_order_line",
		`SELECT CONCAT(o.number, ': variant ', l.variant_id, ' has ', l.arrived, ', its deliveries ', COALESCE(s.q,
			0)) FROM
			purchase_order_line l JOIN purchase_order o ON o.id = l.order_id LEFT JOIN (SELECT order_line_id,
			SUM(quantity) AS q FROM
			delivery_share GROUP BY order_line_id) s ON s.order_line_id = l.id WHERE l.arrived <> COALESCE(s.q, 0)
			LIMIT 1`},
}

// Checks are the names of the checks, in their order.
func Checks() []string {
	names := make([]string, len(checks))
	for i, c := range checks {
		names[i] = c.name
	}
	return append(names, standingCheck)
}

// standingCheck is the check that is not a query: what lists say of a variant is worked out by a rule.
const standingCheck = "what each variant costs and asks, and what is left of that, is in the lists"

// standing holds what is kept for lists against what the rules say at a moment.
func standing(q db.Q, moment time.Time) (Check, error) {
	check := Check{Name: standingCheck}
	for last := uint64(0); ; {
		var products []uint64
		if err := db.SQL(q).Raw("SELECT id FROM product WHERE id > ? ORDER BY id LIMIT ?", last, piece).
			Scan(&products).Error; err != nil || len(products) == 0 {
			return check, err
		}
		last = products[len(products)-1]
		listed, err := goods.ListedOf(q, products)
		if err != nil {
			return check, err
		}
		stands, err := goods.StandingsSeen(q, products, moment)
		if err != nil {
			return check, err
		}
		for _, s := range stands {
			l, there := listed[s.Variant]
			if !there {
				continue
			}
			if check.Seen++; check.Wrong == "" && !l.Agrees(s) {
				check.Wrong = fmt.Sprintf("variant %d costs %s by the lists, and %s by its pool, its parts or what is expected",
					s.Variant, l.Cost, s.Cost.Amount)
				if l.Cost.Equal(s.Cost.Amount) {
					check.Wrong = fmt.Sprintf("variant %d: what is left of its price is not what the lists say", s.Variant)
				}
			}
		}
	}
}

// Verify holds the records against each other in one snapshot, so that it may
// run while the shop sells, and says of each check what came of it; tell is told of each
// as it is done. Moment is up to when prices that have begun are in the lists.
func Verify(ctx context.Context, s *db.Store, moment time.Time, tell func(Check)) ([]Check, error) {
	var done []Check
	err := s.Snapshot(ctx, func(q db.Q) error {
		table := db.SQL(q)
		for _, c := range checks {
			check := Check{Name: c.name}
			if err := table.Raw(c.seen).Scan(&check.Seen).Error; err != nil {
				return fmt.Errorf("%s: %w", c.name, err)
			}
			if err := table.Raw(c.wrong).Scan(&check.Wrong).Error; err != nil {
				return fmt.Errorf("%s: %w", c.name, err)
			}
			done = append(done, check)
			tell(check)
		}
		check, err := standing(q, moment)
		if err != nil {
			return fmt.Errorf("%s: %w", standingCheck, err)
		}
		done = append(done, check)
		tell(check)
		return nil
	})
	return done, err
}
