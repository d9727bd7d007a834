package sendings

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// Sending is goods that go from one branch to another.
type Sending struct {
	ID        uint64     `json:"id"`
	Number    string     `json:"number"`
	FromID    uint64     `json:"from_branch_id"`
	ToID      uint64     `json:"to_branch_id"`
	State     string     `json:"state"`
	WantedOn  *time.Time `json:"wanted_on"`
	Note      string     `json:"note"`
	CreatedBy uint64     `json:"created_by"`
	CreatedAt time.Time  `json:"created_at"`
}

// SendingRow is a sending in a list. OnWay and Over are what is on the way of it and came unsent.
type SendingRow struct {
	Sending
	From     string          `json:"from"`
	To       string          `json:"to"`
	By       string          `json:"by"`
	Variants int             `json:"variants"`
	Units    decimal.Decimal `json:"units"` // wanted, packed or sent, whichever it has come to
	OnWay    decimal.Decimal `json:"on_the_way"`
	Over     decimal.Decimal `json:"over"`
	LeftAt   *time.Time      `json:"left_at"`
}

// sendingLine is a row of sending_line.
type sendingLine struct {
	ID          uint64
	SendingID   uint64
	VariantID   uint64
	LotID       uint64
	Condition   string
	Wanted      decimal.Decimal
	Packed      decimal.Decimal
	Sent        decimal.Decimal
	Here        decimal.Decimal
	Arrived     decimal.Decimal
	Back        decimal.Decimal
	Lost        decimal.Decimal
	Over        decimal.Decimal
	OverSettled decimal.Decimal
	Numbers     string
	HereNumbers string
	Ended       string
	OverNumbers string
}

func (r sendingLine) core() stock.SendingLine {
	return stock.SendingLine{ID: r.ID, Variant: r.VariantID, Lot: r.LotID, Condition: stock.Condition(r.Condition),
		Wanted: r.Wanted,
		Packed: r.Packed, Sent: r.Sent, Here: r.Here, Arrived: r.Arrived, Back: r.Back, Lost: r.Lost, Over: r.Over,
		OverSettled: r.OverSettled, Numbers: serial.Kept(r.Numbers), HereNumbers: serial.Kept(r.HereNumbers),
		Ended: serial.Kept(r.Ended), OverNumbers: serial.Kept(r.OverNumbers)}
}

func sendingRow(sending uint64, l stock.SendingLine) sendingLine {
	return sendingLine{ID: l.ID, SendingID: sending, VariantID: l.Variant, LotID: l.Lot, Condition: string(l.Condition),
		Wanted: l.Wanted, Packed: l.Packed, Sent: l.Sent, Here: l.Here, Arrived: l.Arrived, Back: l.Back, Lost: l.Lost,
		Over: l.Over, OverSettled: l.OverSettled, Numbers: serial.Keep(l.Numbers), HereNumbers: serial.Keep(l.HereNumbers),
		Ended: serial.Keep(l.Ended), OverNumbers: serial.Keep(l.OverNumbers)}
}

// AddSending writes a sending, and fills in the number.
func AddSending(tx db.Tx, row *Sending) error { return db.Insert(tx, row) }

const sendingSelect = `SELECT s.*, f.name AS 'from', t.name AS 'to', u.name AS 'by',
	(SELECT COUNT(*) FROM sending_line l WHERE l.sending_id = s.id) AS variants,
	(SELECT COALESCE(SUM(IF(l.sent > 0, l.sent, IF(l.packed > 0, l.packed, l.wanted))), 0) FROM sending_line l WHERE
	l.sending_id = s.id) AS units,
	(SELECT COALESCE(SUM(l.sent - l.arrived - l.back - l.lost), 0) FROM sending_line l WHERE l.sending_id = s.id) AS
	on_way,
	(SELECT COALESCE(SUM(l.over - l.over_settled), 0) FROM sending_line l WHERE l.sending_id = s.id) AS
	` + "`over`" + `,
	(SELECT MIN(d.happened_at) FROM sending_event e JOIN document d ON d.id = e.document_id WHERE e.sending_id = s.id
	AND
	d.kind = 'Sending') AS left_at
	FROM sending s JOIN branch f ON f.id = s.from_id JOIN branch t ON t.id = s.to_id JOIN user u ON u.id =
	s.created_by `

// Sendings lists sendings, the open ones first and newest first among them; of one state, or all.
func Sendings(q db.Q, state string, page int) ([]SendingRow, bool, error) {
	n := q.PageRows()
	where, args := "", []any{}
	if state != "" {
		where, args = "WHERE s.state = ? ", []any{state}
	}
	var rows []SendingRow
	err := db.SQL(q).Raw(sendingSelect+where+"ORDER BY s.state IN ('Settled', 'Given up'), s.id DESC LIMIT ? OFFSET ?",
		append(args, n+1, (page-1)*n)...).Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// OpenSendings lists the sendings that wait for somebody at a branch.
func OpenSendings(q db.Q, branch uint64) ([]SendingRow, error) {
	var rows []SendingRow
	return rows, db.SQL(q).Raw(sendingSelect+"WHERE s.state = 'On the way' AND s.to_id = ? OR s.state IN "+
		"('Wanted', 'Packing') "+
		"AND s.from_id = ? ORDER BY s.id LIMIT 50", branch, branch).Scan(&rows).Error
}

// ReadSending reads a sending.
func ReadSending(q db.Q, id uint64) (SendingRow, error) {
	var r SendingRow
	err := db.SQL(q).Raw(sendingSelect+"WHERE s.id = ?", id).Scan(&r).Error
	if err == nil && r.ID == 0 {
		err = fault.Missing("sending", id, "There is no sending %d.", id)
	}
	return r, err
}

// LockSending reads a sending and locks it until the transaction ends.
func LockSending(tx db.Tx, id uint64) (SendingRow, error) {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM sending WHERE id = ? FOR UPDATE", id).Scan(&found).Error; err != nil {
		return SendingRow{}, err
	}
	return ReadSending(tx.Q, id)
}

// SetSending changes the head of a sending.
func SetSending(tx db.Tx, id uint64, state stock.SendingState, wantedOn *string, note string) error {
	return db.SQL(tx.Q).Exec("UPDATE sending SET state = ?, wanted_on = ?, note = ? WHERE id = ?", state, wantedOn,
		note, id).Error
}

// SetSendingState moves a sending on.
func SetSendingState(tx db.Tx, id uint64, state stock.SendingState) error {
	return db.SQL(tx.Q).Exec("UPDATE sending SET state = ? WHERE id = ?", state, id).Error
}

// SendingLines lists the lines of a sending in the order in which they were put in.
func SendingLines(q db.Q, id uint64) ([]stock.SendingLine, error) {
	var rows []sendingLine
	err := db.SQL(q).Raw("SELECT * FROM sending_line WHERE sending_id = ? ORDER BY id", id).Scan(&rows).Error
	list := make([]stock.SendingLine, len(rows))
	for i, r := range rows {
		list[i] = r.core()
	}
	return list, err
}

// KeepSendingLine writes a line of a sending; a new one gets its number.
func KeepSendingLine(tx db.Tx, sending uint64, l *stock.SendingLine) error {
	row := sendingRow(sending, *l)
	err := db.SQL(tx.Q).Save(&row).Error
	l.ID = row.ID
	return err
}

// KeepSendingLines writes the lines of a sending in place of those there were.
func KeepSendingLines(tx db.Tx, sending uint64, lines []stock.SendingLine) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM sending_line WHERE sending_id = ?", sending).Error; err != nil ||
		len(lines) == 0 {
		return err
	}
	rows := make([]sendingLine, len(lines))
	for i, l := range lines {
		rows[i] = sendingRow(sending, l)
		rows[i].ID = 0
	}
	return db.Insert(tx, &rows)
}

// DropSendingLine takes a line out of a sending.
func DropSendingLine(tx db.Tx, id uint64) error {
	return db.SQL(tx.Q).Exec("DELETE FROM sending_line WHERE id = ?", id).Error
}

// SendingEvent is a knot on the thread of a sending.
type SendingEvent struct {
	What     string    `json:"what"`
	At       time.Time `json:"at"`
	Who      string    `json:"who"`
	Document string    `json:"document"`
}

// SendingEvents lists what happened to a sending, in its order.
func SendingEvents(q db.Q, id uint64) ([]SendingEvent, error) {
	rows := []SendingEvent{}
	return rows, db.SQL(q).Raw(`SELECT e.what, e.at, u.name AS who, COALESCE(d.number, '') AS document FROM
		sending_event e
		JOIN user u ON u.id = e.user_id LEFT JOIN document d ON d.id = e.document_id WHERE e.sending_id = ? ORDER BY
		e.id`, id).
		Scan(&rows).Error
}

// NoteSending ties a knot into the thread of a sending; document is 0 for none.
func NoteSending(tx db.Tx, id uint64, what string, at time.Time, user, document uint64) error {
	var of any
	if document != 0 {
		of = document
	}
	return db.SQL(tx.Q).Exec("INSERT INTO sending_event (sending_id, what, at, user_id, document_id) VALUES (?, "+
		"?, ?, ?, ?)", id,
		what, at, user, of).Error
}

// SendingOf finds a sending by its number; 0 for none.
func SendingOf(q db.Q, number string) (uint64, error) {
	var id uint64
	return id, db.SQL(q).Raw("SELECT id FROM sending WHERE number = ?",
		strings.ToUpper(strings.TrimSpace(number))).Scan(&id).Error
}

// OnTheWayTo lists, by variant, the open sendings to a branch that have some of it on the way.
func OnTheWayTo(q db.Q, branch uint64, variants []uint64) (map[uint64][]SendingRow, error) {
	found := map[uint64][]SendingRow{}
	return found, db.Read(q, db.Part{SQL: `SELECT l.variant_id, s.id, s.number, SUM(l.sent - l.arrived - l.back -
		l.lost) FROM sending s
		JOIN sending_line l ON l.sending_id = s.id WHERE s.state = 'On the way' AND s.to_id = ? AND l.variant_id IN (` +
		db.IDs(variants) + `) GROUP BY l.variant_id, s.id HAVING SUM(l.sent - l.arrived - l.back - l.lost) > 0 ORDER
			BY s.id`,
		Args: []any{branch}, Row: func(scan func(into ...any) error) error {
			var variant uint64
			var r SendingRow
			err := scan(&variant, &r.ID, &r.Number, &r.OnWay)
			found[variant] = append(found[variant], r)
			return err
		}})
}
