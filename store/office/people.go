package office

import (
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"time"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// UserByLogin finds a person; ID is 0 when there is none.
func UserByLogin(q db.Q, login string) (User, error) { return oneUser(q, "login = ?", text.Key(login)) }

// FirstManager finds the manager who came first.
func FirstManager(q db.Q) (User, error) {
	return oneUser(q, "role = ? AND closed_at IS NULL", staff.Manager)
}

// ReadUser finds a person by number.
func ReadUser(q db.Q, id uint64) (User, error) { return oneUser(q, "id = ?", id) }

func oneUser(q db.Q, where string, args ...any) (User, error) {
	list, err := users(q, "WHERE "+where+" ORDER BY id LIMIT 1", args...)
	if err != nil || len(list) == 0 {
		return User{}, err
	}
	return list[0], nil
}

// Users lists the people by name, those who left last.
func Users(q db.Q) ([]User, error) { return users(q, "ORDER BY closed_at IS NOT NULL, name, id") }

// users reads people with the branches that they work at.
func users(q db.Q, where string, args ...any) ([]User, error) {
	var list []User
	err := db.SQL(q).Raw("SELECT user.*, (SELECT GROUP_CONCAT(b.branch_id ORDER BY b.branch_id) FROM user_branch b WHERE "+
		"b.user_id = user.id) AS works_at FROM user "+where, args...).Scan(&list).Error
	return list, err
}

// peopleParts are the queries of all people as far as it matters what they may do, or none where a copy is kept.
func peopleParts(q db.Q, into *map[uint64]User) ([]db.Part, error) {
	return db.Copied(q, "people", into, func(into *map[uint64]User) []db.Part {
		*into = map[uint64]User{}
		return []db.Part{{
			SQL: "SELECT u.id, u.login, u.name, u.role, u.branch_id, u.closed_at, u.version, u.pin_hash, COALESCE((SELECT " +
				"GROUP_CONCAT(b.branch_id ORDER BY b.branch_id) FROM user_branch b WHERE b.user_id = u.id), '') " +
				"FROM user u",
			Row: func(scan func(into ...any) error) error {
				var u User
				err := scan(&u.ID, &u.Login, &u.Name, &u.Role, &u.BranchID, &u.ClosedAt, &u.Version, &u.PINHash, &u.WorksAt)
				(*into)[u.ID] = u
				return err
			},
		}}
	})
}

// SaveUser writes a person and the branches that the person works at; a new one gets a
// number.
func SaveUser(tx db.Tx, u *User, branches []uint64) error {
	err := db.SQL(tx.Q).Omit("WorksAt").Save(u).Error
	if db.Duplicate(err) {
		return fault.Clash("login", u.Login, "another login", "Somebody signs in as %s already.", u.Login)
	}
	if err != nil {
		return err
	}
	b := new(db.Batch)
	b.Add("DELETE FROM user_branch WHERE user_id = ?", u.ID)
	for _, branch := range slices.Compact(slices.Sorted(slices.Values(append(branches, u.BranchID)))) {
		b.Add("INSERT INTO user_branch (user_id, branch_id) VALUES (?, ?)", u.ID, branch)
	}
	return b.Run(tx)
}

// LockUsers keeps people from being changed by others until the transaction ends.
func LockUsers(tx db.Tx) error {
	var ids []uint64
	return db.SQL(tx.Q).Raw("SELECT id FROM user ORDER BY id FOR UPDATE").Scan(&ids).Error
}

// Hash is the form in which tokens, and the ids of sessions, are kept.
func Hash(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// UserByToken finds whom an API token acts for at a moment; ID is 0 for nobody.
func UserByToken(q db.Q, token string, now time.Time) (User, error) {
	return oneUser(q, "id = (SELECT user_id FROM api_token WHERE token_hash = ? AND (expires_at IS NULL OR "+
		"expires_at > ?))",
		Hash(token), now)
}

// Tokens lists the tokens of a person, or of all with 0.
func Tokens(q db.Q, user uint64) ([]APIToken, error) {
	var list []APIToken
	return list, db.SQL(q).Raw("SELECT t.*, u.name AS person FROM api_token t JOIN user u ON u.id = t.user_id WHERE "+
		"(? = 0 OR t.user_id = ?) ORDER BY t.id", user, user).Scan(&list).Error
}

// EndKeys ends all by which programs act for a person: tokens, and the address of a calendar.
func EndKeys(tx db.Tx, user uint64) error {
	b := new(db.Batch)
	b.Add("DELETE FROM api_token WHERE user_id = ?", user)
	b.Add("DELETE FROM calendar_key WHERE user_id = ?", user)
	return b.Run(tx)
}

// DropToken ends a token of a person, or of anybody with 0; it reports whether there was one.
func DropToken(tx db.Tx, id, user uint64) (bool, error) {
	done := db.SQL(tx.Q).Exec("DELETE FROM api_token WHERE id = ? AND (? = 0 OR user_id = ?)", id, user, user)
	return done.RowsAffected > 0, done.Error
}

// Tried counts a try in a stretch of time and returns how many there were, this one among
// them.
func Tried(tx db.Tx, key string, slot int64) (int, error) {
	var n int
	b := new(db.Batch)
	b.Add("INSERT INTO sign_in_try (k, slot, n) VALUES (?, ?, 1) ON DUPLICATE KEY UPDATE n = n + 1", Hash(key), slot)
	if err := b.Run(tx); err != nil {
		return 0, err
	}
	return n, db.SQL(tx.Q).Raw("SELECT n FROM sign_in_try WHERE k = ? AND slot = ?", Hash(key), slot).Scan(&n).Error
}

// Untried takes a try back that succeeded, and forgets those from before a moment.
func Untried(tx db.Tx, key string, slot int64, before time.Time) error {
	b := new(db.Batch)
	b.Add("UPDATE sign_in_try SET n = n - 1 WHERE k = ? AND slot = ? AND n > 0", Hash(key), slot)
	b.Add("DELETE FROM sign_in_try WHERE slot < ? LIMIT 100", before.Unix())
	return b.Run(tx)
}

// Guarded writes how often the PIN of a person was wrong, and until when it is locked.
func Guarded(tx db.Tx, user uint64, wrong int, until *time.Time) error {
	return db.SQL(tx.Q).Exec("UPDATE user SET pin_wrong = ?, pin_until = ? WHERE id = ?", wrong, until, user).Error
}

// LockUser is ReadUser, with the person locked until the transaction ends.
func LockUser(tx db.Tx, id uint64) (User, error) {
	list, err := users(tx.Q, "WHERE id = ? FOR UPDATE", id)
	if err != nil || len(list) == 0 {
		return User{}, err
	}
	return list[0], nil
}
