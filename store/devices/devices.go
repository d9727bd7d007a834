package devices

import (
	"context"
	"time"

	"github.com/shopspring/decimal"

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
		Exec("INSERT INTO device (name, state) VALUES (?, ?) ON DUPLICATE KEY UPDATE state = VALUES(state)", name, state).
		Error
}

// KeepPrint keeps a paper that came out of a printer, unless the printer is in a state in
// which nothing comes out; it reports whether it did.
func (m Memory) KeepPrint(ctx context.Context, device, unless, title, pages string, at time.Time) (bool, error) {
	done := db.SQL(m.store.Read(ctx)).
		Exec("INSERT INTO print_job (device, title, pages, at) SELECT ?, ?, ?, ? FROM DUAL WHERE NOT EXISTS (SELECT "+
			"1 FROM device WHERE name = ? AND state = ?)",
			device, title, pages, at, device, unless)
	return done.RowsAffected > 0, done.Error
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
	err := sql.Exec("INSERT IGNORE INTO card_charge (reference, amount, state, at) VALUES (?, ?, ?, ?)", reference,
		amount, state, at).Error
	if err != nil {
		return "", amount, err
	}
	var row CardCharge
	err = sql.Raw("SELECT * FROM card_charge WHERE reference = ?", reference).Scan(&row).Error
	return row.State, row.Amount, err
}

// ChangeCharge changes the state of a charge.
func (m Memory) ChangeCharge(ctx context.Context, reference, state string) error {
	return db.SQL(m.store.Read(ctx)).
		Exec("UPDATE card_charge SET state = ? WHERE reference = ?", state, reference).
		Error
}

// LooseCharges lists card charges of the last month, older than a minute, that
// no sale belongs to: the program ended between the card and the sale.
func LooseCharges(q db.Q, now time.Time) ([]CardCharge, error) {
	var rows []CardCharge
	return rows, db.SQL(q).
		Raw(`SELECT * FROM card_charge c WHERE c.state = 'approved' AND c.at > ? AND c.at < ? AND NOT EXISTS
			(SELECT 1 FROM sale s WHERE s.card_reference = c.reference) ORDER BY c.at LIMIT 20`,
			now.AddDate(0, -1, 0), now.Add(-time.Minute)).
		Scan(&rows).
		Error
}
