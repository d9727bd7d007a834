package counts

import (
	databasesql "database/sql"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/store/internal/db"
)

// Income is what each variant brought since a moment, less what came back: what was paid less the tax in it, which it
// is in whether prices are kept with tax or without.
func Income(q db.Q, since time.Time) (map[uint64]decimal.Decimal, error) {
	income := map[uint64]decimal.Decimal{}
	add := func(sql string) db.Part {
		return db.Part{SQL: sql, Args: []any{since}, Row: func(scan func(into ...any) error) error {
			var id uint64
			var amount decimal.Decimal
			err := scan(&id, &amount)
			income[id] = income[id].Add(amount)
			return err
		}}
	}
	return income, db.Read(q, add("SELECT l.variant_id, SUM(l.paid - l.tax) FROM document d "+
		"JOIN sale_line l ON l.document_id = d.id "+
		"WHERE d.kind = 'Sale' AND d.happened_at >= ? AND NOT EXISTS (SELECT 1 FROM document r WHERE "+
		"r.reverses_id = d.id) GROUP BY l.variant_id"),
		add("SELECT r.variant_id, -SUM(r.amount - r.tax) FROM document d JOIN return_line r ON r.document_id = d.id "+
			"WHERE d.kind = 'Return' AND d.happened_at >= ? AND NOT EXISTS (SELECT 1 FROM document x WHERE "+
			"x.reverses_id = d.id) GROUP BY r.variant_id"))
}

// LastCounted is when each variant was counted last at a branch, in a count that was settled.
func LastCounted(q db.Q, branch uint64) (map[uint64]time.Time, error) {
	last := map[uint64]time.Time{}
	return last, db.Read(q, db.Part{SQL: "SELECT r.variant_id, MAX(c.closed_at) FROM shelf_count c JOIN " +
		"count_row r ON r.shelf_count_id = c.id WHERE " +
		"c.branch_id = ? AND " + stands("c") + " AND r.counted IS NOT NULL GROUP BY r.variant_id",
		Args: []any{branch},
		Row: func(scan func(into ...any) error) error {
			var id uint64
			var at *time.Time
			err := scan(&id, &at)
			if at != nil {
				last[id] = *at
			}
			return err
		}})
}

// LastRow is what the last settled count at a branch found of a variant, all its conditions and lots together.
type LastRow struct {
	Branch   string           `json:"branch"`
	CountID  uint64           `json:"count_id"`
	Number   string           `json:"number"`
	At       time.Time        `json:"at"`
	Counted  decimal.Decimal  `json:"counted"`
	Variance *decimal.Decimal `json:"variance"`
}

// LastOf lists the last count of a variant at each branch that has counted it.
func LastOf(q db.Q, variant uint64) ([]LastRow, error) {
	rows := []LastRow{}
	return rows, db.SQL(q).Raw(`SELECT b.name AS branch, c.id AS count_id, c.number, c.closed_at AS at,
			SUM(r.counted) AS counted, SUM(r.variance) AS variance
		FROM count_row r JOIN shelf_count c ON c.id = r.shelf_count_id JOIN branch b ON b.id = c.branch_id
		WHERE r.variant_id = ? AND r.counted IS NOT NULL AND `+stands("c")+`
			AND NOT EXISTS (SELECT 1 FROM count_row n JOIN shelf_count l ON l.id = n.shelf_count_id
				WHERE n.variant_id = r.variant_id AND n.counted IS NOT NULL AND l.branch_id = c.branch_id
					AND `+stands("l")+` AND l.closed_at > c.closed_at)
		GROUP BY c.id ORDER BY b.position, b.id`, variant).Scan(&rows).Error
}

// MovedSince are the variants of which something moved at a branch since a moment.
func MovedSince(q db.Q, branch uint64, since time.Time) (map[uint64]bool, error) {
	moved := map[uint64]bool{}
	return moved, db.Read(q, db.Part{SQL: "SELECT DISTINCT e.variant_id FROM document d JOIN entry e ON " +
		"e.document_id = d.id JOIN shelf s ON s.id = e.shelf_id " +
		"WHERE d.happened_at >= ? AND s.branch_id = ? AND e.quantity <> 0", Args: []any{since, branch},
		Row: func(scan func(into ...any) error) error {
			var id uint64
			err := scan(&id)
			moved[id] = true
			return err
		}})
}

// History is what counts of a category, or of a branch, came to in a month: how many rows were right of
// those that were counted.
type History struct {
	Month    string          `json:"month"`
	Branch   string          `json:"branch"`
	Category string          `json:"category"`
	Counts   int             `json:"counts"`
	Rows     int             `json:"rows"`
	Right    int             `json:"right"`
	Short    decimal.Decimal `json:"short"` // units
	Over     decimal.Decimal `json:"over"`
	Value    decimal.Decimal `json:"value" see:"costs"`
}

// Accuracy is how many of 1000 rows were right.
func (h History) Accuracy() int {
	if h.Rows == 0 {
		return 0
	}
	return (1000*h.Right + h.Rows/2) / h.Rows
}

// stands says of a count, by its alias, that it was settled, and that this was not undone.
func stands(count string) string {
	return count + ".state = 'Closed' AND NOT " + count +
		".given_up AND NOT EXISTS (SELECT 1 FROM document undone WHERE " +
		"undone.reverses_id = " + count + ".document_id)"
}

// Histories lists what was counted, by month, as the shop's zone has it, branch and category, the latest month first.
func Histories(q db.Q, page int) ([]History, bool, error) {
	set, err := q.Terms()
	if err != nil {
		return nil, false, err
	}
	month, args, err := months(q, set.Zone)
	if err != nil {
		return nil, false, err
	}
	n := q.PageRows()
	rows := []History{}
	err = db.SQL(q).Raw("SELECT "+month+` AS month, b.name AS branch, g.path AS category,
		COUNT(DISTINCT c.id) AS counts, COUNT(*) AS 'rows', SUM(r.variance = 0) AS 'right',
		COALESCE(-SUM(LEAST(r.variance, 0)), 0) AS short,
		COALESCE(SUM(GREATEST(r.variance, 0)), 0) AS 'over', COALESCE(SUM(r.value), 0) AS value
		FROM shelf_count c JOIN count_row r ON r.shelf_count_id = c.id JOIN branch b ON b.id = c.branch_id JOIN
		variant v ON v.id = r.variant_id JOIN
		product p ON p.id = v.product_id JOIN category g ON g.id = p.category_id WHERE `+stands("c")+` AND
		r.counted IS NOT NULL
		GROUP BY month, b.id, g.id ORDER BY month DESC, b.name, g.path LIMIT ? OFFSET
		?`, append(args, n+1, (page-1)*n)...).Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// mostMonths is how many months are told apart; what is older is told as of the first of them.
const mostMonths = 600

// months tells in SQL the month in which a count was closed, in a zone whose hours change within the year: by the
// moments at which the months of the shop began.
func months(q db.Q, zone *time.Location) (sql string, args []any, err error) {
	var first, last databasesql.NullTime
	if err := db.SQL(q).Raw("SELECT MIN(closed_at), MAX(closed_at) FROM shelf_count").Row().Scan(&first,
		&last); err != nil {
		return "", nil, err
	}
	if !last.Valid { // nothing was counted yet
		return "''", nil, nil
	}
	from, to := first.Time.In(zone), last.Time.In(zone)
	month := time.Date(to.Year(), to.Month(), 1, 0, 0, 0, 0, zone)
	sql = "CASE"
	for range mostMonths {
		sql += " WHEN c.closed_at >= ? THEN ?"
		args = append(args, month.UTC(), month.Format("2006-01"))
		if !month.After(from) {
			break
		}
		month = month.AddDate(0, -1, 0)
	}
	return sql + " END", args, nil
}

// ByReason is what was lost and found for a reason.
type ByReason struct {
	Reason string          `json:"reason"`
	Rows   int             `json:"rows"`
	Short  decimal.Decimal `json:"short"`
	Over   decimal.Decimal `json:"over"`
	Value  decimal.Decimal `json:"value" see:"costs"`
}

// Reasons adds up what counts since a moment lost and found, by reason.
func Reasons(q db.Q, since time.Time) ([]ByReason, error) {
	rows := []ByReason{}
	return rows, db.SQL(q).Raw(`SELECT r.reason, COUNT(*) AS 'rows', COALESCE(-SUM(LEAST(r.variance, 0)), 0) AS short,
		COALESCE(SUM(GREATEST(r.variance, 0)), 0) AS 'over', COALESCE(SUM(r.value), 0) AS value FROM shelf_count c
		JOIN count_row r ON
		r.shelf_count_id = c.id WHERE `+stands("c")+` AND c.closed_at >= ? AND r.variance <> 0 GROUP BY r.reason
		ORDER BY value`, since).
		Scan(&rows).Error
}
