package office

import (
	"time"

	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Reasons lists why stock and money change, closed ones too.
func Reasons(q db.Q) ([]reason.Reason, error) {
	var rows []reason.Reason
	const all = "SELECT id, kind, name, account, closed FROM reason ORDER BY kind, closed, id"
	return rows, db.SQL(q).Raw(all).Scan(&rows).Error
}

// KeepReason writes a reason; a new one gets its number.
func KeepReason(tx db.Tx, r *reason.Reason) error {
	row := struct {
		ID                           uint64
		Kind, Name, NameKey, Account string
		Closed                       bool
	}{r.ID, string(r.Kind), r.Name, text.Key(r.Name), string(r.Account), r.Closed}
	err := db.SQL(tx.Q).Table("reason").Save(&row).Error
	if db.Duplicate(err) {
		return fault.Clash("name", r.Name, "another name", "There is a reason %s already.", r.Name)
	}
	r.ID = row.ID
	return err
}

// LockReason reads a reason, locked until the transaction ends.
func LockReason(tx db.Tx, id uint64) (reason.Reason, error) {
	var r reason.Reason
	err := db.SQL(tx.Q).Raw("SELECT id, kind, name, account, closed FROM reason WHERE id = ? FOR UPDATE",
		id).Scan(&r).Error
	if err == nil && r.ID == 0 {
		err = fault.Missing("reason_id", id, "There is no reason %d.", id)
	}
	return r, err
}

// Approval is a yes that somebody gave on the spot. DocumentID is what came of it.
type Approval struct {
	ID         uint64    `json:"id"`
	At         time.Time `json:"at"`
	Deed       string    `json:"deed"`
	What       string    `json:"what"`
	AskedBy    uint64    `json:"asked_by"`
	ApprovedBy uint64    `json:"approved_by"`
	RegisterID *uint64   `json:"register_id"`
	BasketID   *uint64   `json:"basket_id"`
	DocumentID *uint64   `json:"document_id"`
}

// KeepApproval writes an approval.
func KeepApproval(tx db.Tx, a *Approval) error { return db.SQL(tx.Q).Create(a).Error }

// ApprovalRow is an approval in the list of managers.
type ApprovalRow struct {
	Approval
	Asker    string `json:"asker"`
	Approver string `json:"approver"`
	Number   string `json:"number"`
}

// Approvals lists the approvals, newest first.
func Approvals(q db.Q, page int) ([]ApprovalRow, bool, error) { return approvals(q, "TRUE", page) }

// ApprovalsOf lists the approvals of a document.
func ApprovalsOf(q db.Q, document uint64) ([]ApprovalRow, error) {
	rows, _, err := approvals(q, "a.document_id = ?", 1, document)
	return rows, err
}

func approvals(q db.Q, where string, page int, args ...any) ([]ApprovalRow, bool, error) {
	n := q.PageRows()
	var rows []ApprovalRow
	err := db.SQL(q).Raw(`SELECT a.*, u.name AS asker, m.name AS approver, COALESCE(d.number, '') AS number FROM
		approval a
		JOIN user u ON u.id = a.asked_by JOIN user m ON m.id = a.approved_by LEFT JOIN document d ON d.id =
		a.document_id
		WHERE `+where+` ORDER BY a.id DESC LIMIT ? OFFSET ?`, append(args, n+1, (page-1)*n)...).Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// Way is how many minutes it is from one branch to another.
type Way struct {
	From    uint64 `gorm:"column:from_id" json:"from_id"`
	To      uint64 `gorm:"column:to_id" json:"to_id"`
	Minutes int    `json:"minutes"`
}

// Ways lists how far it is from branch to branch.
func Ways(q db.Q) ([]Way, error) {
	var rows []Way
	return rows, db.SQL(q).Raw("SELECT * FROM branch_way ORDER BY from_id, to_id").Scan(&rows).Error
}

// LockWay reads how many minutes it is from one branch to another, nil where nobody said; of two who change it the
// second waits for the first.
func LockWay(tx db.Tx, from, to uint64) (*int, error) {
	var minutes *int
	err := db.Read(tx.Q, db.Part{SQL: "SELECT id FROM branch WHERE id IN (" + db.IDs([]uint64{from, to}) +
		") ORDER BY id FOR UPDATE", Row: func(func(into ...any) error) error { return nil }},
		db.Part{SQL: "SELECT minutes FROM branch_way WHERE from_id = ? AND to_id = ?", Args: []any{from, to},
			Row: func(scan func(into ...any) error) error { return scan(&minutes) }})
	return minutes, err
}

// KeepWay writes how many minutes it is between two branches, both ways; nil takes back what was said.
func KeepWay(tx db.Tx, from, to uint64, minutes *int) error {
	b := new(db.Batch)
	for _, pair := range [][2]uint64{{from, to}, {to, from}} {
		if minutes == nil {
			b.Add("DELETE FROM branch_way WHERE from_id = ? AND to_id = ?", pair[0], pair[1])
			continue
		}
		b.Add("INSERT INTO branch_way (from_id, to_id, minutes) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE "+
			"minutes = VALUES(minutes)",
			pair[0], pair[1], *minutes)
	}
	return b.Run(tx)
}
