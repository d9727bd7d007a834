package office

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"time"

	"itemrack/core/staff"
	"itemrack/store/internal/db"
)

// UserByLogin finds a person; ID is 0 when there is none.
func UserByLogin(q db.Q, login string) (User, error) {
	var u User
	return u, db.SQL(q).Raw("SELECT * FROM user WHERE login = ?", login).Scan(&u).Error
}

// FirstManager finds the manager who came first.
func FirstManager(q db.Q) (User, error) {
	var u User
	return u, db.SQL(q).Raw("SELECT * FROM user WHERE role = ? ORDER BY id LIMIT 1", staff.Manager).Scan(&u).Error
}

// ReadUser finds a person by number.
func ReadUser(q db.Q, id uint64) (User, error) {
	var u User
	return u, db.SQL(q).Raw("SELECT * FROM user WHERE id = ?", id).Scan(&u).Error
}

// Hash is the form in which an API token is kept.
func Hash(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// UserByToken finds whom an API token acts for; ID is 0 for nobody.
func UserByToken(q db.Q, token string) (User, error) {
	var u User
	return u, db.SQL(q).
		Raw("SELECT u.* FROM api_token t JOIN user u ON u.id = t.user_id WHERE t.token_hash = ?", Hash(token)).
		Scan(&u).
		Error
}

// GetWithContext returns the data of a key, nil when there is none.
func (s Sessions) GetWithContext(_ context.Context, key string) ([]byte, error) { return s.Get(key) }

// Get returns the data of a key, nil when there is none or it has expired.
func (s Sessions) Get(key string) ([]byte, error) {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	var row struct {
		Data      []byte
		ExpiresAt *time.Time
	}
	err := db.SQL(s.store.Read(ctx)).Raw("SELECT data, expires_at FROM web_session WHERE k = ?", key).Scan(&row).Error
	if err != nil || (row.ExpiresAt != nil && row.ExpiresAt.Before(time.Now())) {
		return nil, err
	}
	return row.Data, nil
}

// SetWithContext is Set.
func (s Sessions) SetWithContext(_ context.Context, key string, data []byte, keep time.Duration) error {
	return s.Set(key, data, keep)
}

// Set keeps data under a key for a time; 0 keeps it for good.
func (s Sessions) Set(key string, data []byte, keep time.Duration) error {
	var until *time.Time
	if keep > 0 {
		t := time.Now().UTC().Add(keep)
		until = &t
	}
	return s.exec(
		"INSERT INTO web_session (k, data, expires_at) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE data = "+
			"VALUES(data), expires_at = VALUES(expires_at)",
		key, data, until)
}

// DeleteWithContext is Delete.
func (s Sessions) DeleteWithContext(_ context.Context, key string) error { return s.Delete(key) }

// Delete forgets a key.
func (s Sessions) Delete(key string) error {
	return s.exec("DELETE FROM web_session WHERE k = ?", key)
}

// ResetWithContext is Reset.
func (s Sessions) ResetWithContext(context.Context) error { return s.Reset() }

// Reset forgets every session.
func (s Sessions) Reset() error { return s.exec("DELETE FROM web_session") }

// Sweep forgets the sessions that have expired.
func (s Sessions) Sweep() error {
	return s.exec("DELETE FROM web_session WHERE expires_at < ?", time.Now().UTC())
}

// Close does nothing: the Store owns the connections.
func (s Sessions) Close() error { return nil }

func (s Sessions) exec(sql string, args ...any) error {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return db.SQL(s.store.Read(ctx)).Exec(sql, args...).Error
}
