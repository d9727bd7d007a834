package devices

import (
	"cmp"
	"context"
	"time"

	"github.com/shopspring/decimal"
	"gorm.io/gorm"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/store/internal/db"
)

// Memory keeps what the stand-ins did.
type Memory struct{ store *db.Store }

// Of is the memory of the stand-ins.
func Of(s *db.Store) Memory { return Memory{s} }

// DeviceState is the state of a stand-in; "ready" unless it was changed.
func (m Memory) DeviceState(ctx context.Context, name string) (string, error) {
	state := "ready"
	return state, db.SQL(m.store.Read(ctx)).Raw("SELECT state FROM device WHERE name = ?", name).Scan(&state).Error
}

// SetDevice puts a stand-in in a state.
func SetDevice(tx db.Tx, name, state string) error {
	return db.SQL(tx.Q).
		Exec("INSERT INTO device (name, state) VALUES (?, ?) ON DUPLICATE KEY UPDATE state = VALUES(state)", name,
			state).
		Error
}

// StateOf is DeviceState as it is within a transaction, by a copy.
func StateOf(q db.Q, name string) (string, error) {
	states := map[string]string{}
	parts, err := db.Copied(q, "devices", &states, func(into *map[string]string) []db.Part {
		*into = map[string]string{}
		return []db.Part{{SQL: "SELECT name, state FROM device", Row: func(scan func(into ...any) error) error {
			var name, state string
			err := scan(&name, &state)
			(*into)[name] = state
			return err
		}}}
	})
	if err != nil {
		return "", err
	}
	if err := db.Read(q, parts...); err != nil {
		return "", err
	}
	return cmp.Or(states[name], "ready"), nil
}

// KeepPrint keeps a paper that came out of a printer.
func (m Memory) KeepPrint(ctx context.Context, device, title, pages string, at time.Time) error {
	_, err := db.Exec(db.Tx{Q: m.store.Read(ctx)}, "INSERT INTO print_job (device, title, pages, at) VALUES (?, ?, ?, ?)",
		device, title, pages, at)
	return err
}

// Prints lists the last papers, newest first.
func Prints(q db.Q, most int) ([]PrintJob, error) {
	var rows []PrintJob
	return rows, db.SQL(q).Raw("SELECT * FROM print_job ORDER BY id DESC LIMIT ?", most).Scan(&rows).Error
}

// KeepCharge keeps a charge under a reference unless one is there, and returns
// what is kept.
func (m Memory) KeepCharge(ctx context.Context, reference string, amount decimal.Decimal, state string,
	at time.Time) (string, decimal.Decimal, error) {
	sql := db.SQL(m.store.Read(ctx))
	if kept := keepNew(sql, reference, amount, state, at); kept.Error != nil {
		return "", amount, kept.Error
	}
	var row CardCharge
	err := sql.Raw("SELECT * FROM card_charge WHERE reference = ?", reference).Scan(&row).Error
	return row.State, row.Amount, err
}

// keepNew keeps a charge under a reference where there is none, and has no effect where there is one.
func keepNew(sql *gorm.DB, reference string, amount decimal.Decimal, state string, at time.Time) *gorm.DB {
	return sql.Exec("INSERT INTO card_charge (reference, amount, state, at) VALUES (?, ?, ?, ?) ON DUPLICATE KEY "+
		"UPDATE reference = VALUES(reference)", reference, amount, state, at)
}

// Charged reports whether there is a charge under a reference.
func (m Memory) Charged(ctx context.Context, reference string) (bool, error) {
	var n int
	err := db.SQL(m.store.Read(ctx)).Raw("SELECT COUNT(*) FROM card_charge WHERE reference = ?", reference).Scan(&n).Error
	return n > 0, err
}

// ChangeCharge changes a charge from one state to another, and returns in which it is then; empty where
// there is none.
func (m Memory) ChangeCharge(ctx context.Context, reference, from, to string) (string, error) {
	sql := db.SQL(m.store.Read(ctx))
	if err := sql.Exec("UPDATE card_charge SET state = ? WHERE reference = ? AND state = ?", to, reference,
		from).Error; err != nil {
		return "", err
	}
	var state string
	return state, sql.Raw("SELECT state FROM card_charge WHERE reference = ?", reference).Scan(&state).Error
}

// Settle puts a charge that is in one state into another, or keeps a refund that the terminal never
// gave in it, and reports whether it did.
func Settle(tx db.Tx, reference, from, to string, amount decimal.Decimal, at time.Time) (bool, error) {
	sql := db.SQL(tx.Q)
	kept := keepNew(sql, reference, amount, to, at)
	if kept.Error != nil || kept.RowsAffected > 0 {
		return true, kept.Error
	}
	changed := sql.Exec("UPDATE card_charge SET state = ? WHERE reference = ? AND state = ?", to, reference, from)
	return changed.RowsAffected > 0, changed.Error
}

// KeepMail keeps a mail that was sent.
func KeepMail(tx db.Tx, m Mail) error { return db.Insert(tx, &m) }

// Mails lists the mails that were sent last, newest first, without their bodies.
func Mails(q db.Q, most int) ([]Mail, error) {
	var rows []Mail
	return rows, db.SQL(q).Raw("SELECT id, at, recipient, subject FROM mail ORDER BY id DESC LIMIT ?",
		most).Scan(&rows).Error
}

// ReadMail reads a mail as it was sent.
func ReadMail(q db.Q, id uint64) (Mail, error) {
	var m Mail
	err := db.SQL(q).Raw("SELECT * FROM mail WHERE id = ?", id).Scan(&m).Error
	if err == nil && m.ID == 0 {
		err = fault.Missing("id", id, "There is no mail %d.", id)
	}
	return m, err
}

// Loose lists the cards of the last month, older than a minute, whose charge or refund
// belongs to nothing: the program, or the terminal, gave no answer between the card and the
// book.
func Loose(q db.Q, now time.Time) ([]sale.Loose, error) {
	list := []sale.Loose{}
	from, until := now.AddDate(0, -1, 0), now.Add(-time.Minute)
	return list, db.Read(q, db.Part{
		SQL: `SELECT * FROM (
			SELECT ? AS what, c.reference, '' AS number, c.amount, c.at FROM card_charge c WHERE c.state = 'approved'
			AND
			c.at > ? AND c.at < ? AND NOT EXISTS (SELECT 1 FROM tender t WHERE t.reference = c.reference AND t.amount
			> 0)
			UNION ALL SELECT ?, c.reference, d.number, c.amount, v.happened_at FROM document v JOIN tender t ON
			t.document_id =
			v.reverses_id AND t.kind = 'card' JOIN document d ON d.id = t.document_id JOIN card_charge c ON
			c.reference = t.reference
			WHERE v.happened_at > ? AND v.happened_at < ? AND c.state = 'approved'
			UNION ALL SELECT ?, x.reference, x.number, x.amount, x.happened_at FROM (SELECT d.number, d.happened_at,
			-t.amount AS amount,
			CONCAT('return/', d.number, (SELECT IF(COUNT(*) = 0, '', CONCAT('/', COUNT(*) + 1)) FROM tender e WHERE
			e.document_id =
			t.document_id AND e.kind = 'card' AND e.id < t.id)) COLLATE utf8mb4_bin AS reference FROM document d JOIN
			tender t ON t.document_id = d.id
			WHERE d.kind = 'Return' AND d.happened_at > ? AND d.happened_at < ? AND t.kind = 'card' AND t.amount < 0)
			x LEFT JOIN
			card_charge c ON c.reference = x.reference WHERE c.reference IS NULL) x
			ORDER BY at LIMIT 50`,
		Args: []any{sale.ChargedNotSold, from, until, sale.VoidNotBack, from, until, sale.BackNotPaid, from, until},
		Row: func(scan func(into ...any) error) error {
			var l sale.Loose
			err := scan(&l.What, &l.Reference, &l.Number, &l.Amount, &l.At)
			list = append(list, l)
			return err
		},
	})
}

// Printed reports whether a paper with a title came out of a printer.
func Printed(q db.Q, device, title string) (bool, error) {
	var n int
	err := db.SQL(q).Raw("SELECT EXISTS (SELECT 1 FROM print_job WHERE title = ? AND device = ?)", title, device).
		Scan(&n).Error
	return n == 1, err
}
