package counts

import (
	"time"

	corecount "itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// Schedule is a count that comes round. Category is nil for all of the branch; Anchor the day of the month
// that was agreed; PerDay makes it a rolling count of so many variants.
type Schedule struct {
	ID         uint64    `json:"id"`
	Name       string    `json:"name"`
	BranchID   uint64    `json:"branch_id"`
	CategoryID *uint64   `json:"category_id"`
	Every      string    `json:"every"`
	N          int       `json:"n"`
	Anchor     int       `json:"-"`
	UserID     uint64    `json:"user_id"`
	NextOn     time.Time `json:"next_on"`
	PerDay     int       `json:"per_day"`
	DaysA      int       `json:"days_a"`
	DaysB      int       `json:"days_b"`
	DaysC      int       `json:"days_c"`
	Closed     bool      `json:"closed"`
}

// TableName is the table of schedules.
func (Schedule) TableName() string { return "count_schedule" }

// Core gives the schedule to the rule.
func (s Schedule) Core() corecount.Schedule {
	return corecount.Schedule{Name: s.Name, Every: corecount.Every(s.Every), N: s.N, PerDay: s.PerDay, NextOn: s.NextOn,
		DayCount: map[corecount.Class]int{corecount.ClassA: s.DaysA, corecount.ClassB: s.DaysB, corecount.ClassC: s.DaysC}}
}

// ScheduleView is a schedule with names.
type ScheduleView struct {
	Schedule
	Branch   string `json:"branch"`
	Category string `json:"category"` // empty for all
	Person   string `json:"person"`
	Open     int    `json:"open"` // counts that were prepared from it and are not closed
}

const scheduleSelect = `SELECT s.*, b.name AS branch, COALESCE(g.path, '') AS category, u.name AS person, (SELECT
	COUNT(*) FROM shelf_count c WHERE
	c.schedule_id = s.id AND c.state <> 'Closed') AS open FROM count_schedule s JOIN branch b ON b.id = s.branch_id
	LEFT JOIN category g ON
	g.id = s.category_id JOIN user u ON u.id = s.user_id `

// Schedules lists the schedules by the day on which they are due, ended ones last.
func Schedules(q db.Q) ([]ScheduleView, error) {
	rows := []ScheduleView{}
	return rows, db.SQL(q).Raw(scheduleSelect + "ORDER BY s.closed, s.next_on, s.id").Scan(&rows).Error
}

// SchedulesOf lists the schedules of a person that are not ended.
func SchedulesOf(q db.Q, user uint64) ([]ScheduleView, error) {
	rows := []ScheduleView{}
	return rows, db.SQL(q).Raw(scheduleSelect+"WHERE s.user_id = ? AND NOT s.closed ORDER BY s.next_on, s.id",
		user).Scan(&rows).Error
}

// LockSchedule reads a schedule, locked until the transaction ends.
func LockSchedule(tx db.Tx, id uint64) (ScheduleView, error) {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM count_schedule WHERE id = ? FOR UPDATE",
		id).Scan(&found).Error; err != nil {
		return ScheduleView{}, err
	}
	var s ScheduleView
	err := db.SQL(tx.Q).Raw(scheduleSelect+"WHERE s.id = ?", id).Scan(&s).Error
	if err == nil && s.ID == 0 {
		err = fault.Missing("schedule", id, "There is no schedule %d.", id)
	}
	return s, err
}

// SaveSchedule writes a schedule; a new one gets its number.
func SaveSchedule(tx db.Tx, s *Schedule) error { return db.SQL(tx.Q).Save(s).Error }

// MoveSchedule says when a schedule is due next.
func MoveSchedule(tx db.Tx, id uint64, next time.Time) error {
	return db.SQL(tx.Q).Exec("UPDATE count_schedule SET next_on = ? WHERE id = ?", db.Day(next), id).Error
}

// TakenOf are the variants that were taken of what a schedule had due on a day.
func TakenOf(q db.Q, schedule uint64, due time.Time) (map[uint64]bool, error) {
	taken := map[uint64]bool{}
	return taken, db.Read(q, db.Part{SQL: "SELECT DISTINCT r.variant_id FROM shelf_count c JOIN count_row r ON " +
		"r.shelf_count_id = c.id WHERE " +
		"c.schedule_id = ? AND c.due_on = ? AND NOT c.given_up AND r.planned", Args: []any{schedule, db.Day(due)},
		Row: func(scan func(into ...any) error) error {
			var id uint64
			err := scan(&id)
			taken[id] = true
			return err
		}})
}

// SetCalendarKey keeps the secret of a person's calendar, by its hash, in place of the one there was.
func SetCalendarKey(tx db.Tx, user uint64, hash string, now time.Time) error {
	return db.SQL(tx.Q).Exec("INSERT INTO calendar_key (user_id, key_hash, created_at) VALUES (?, ?, ?) ON "+
		"DUPLICATE KEY UPDATE key_hash = "+
		"VALUES(key_hash), created_at = VALUES(created_at)", user, hash, now).Error
}

// CalendarOf finds whose calendar a secret opens; 0 for nobody's, or that of somebody who left.
func CalendarOf(q db.Q, hash string) (uint64, error) {
	var id uint64
	return id, db.SQL(q).Raw("SELECT k.user_id FROM calendar_key k JOIN user u ON u.id = k.user_id WHERE "+
		"k.key_hash = ? AND u.closed_at IS NULL",
		hash).Scan(&id).Error
}
