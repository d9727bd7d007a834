package office

import (
	"context"
	"log/slog"
	"slices"
	"sync"
	"time"

	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// SessionIdle is how long a session lasts that nobody uses.
const SessionIdle = 12 * time.Hour

// ErrNoSession says that a session has ended already.
var ErrNoSession = fault.Refuse("session", "", "to sign in again", "The session has ended. Sign in again.")

// Sessions keeps web sessions in the database, under hashes of their ids; it is a storage
// for Fiber's session middleware.
type Sessions struct {
	store *db.Store
	last  *lastRead
}

// lastRead keeps what was read of each session for a moment, so that one request reads it once.
type lastRead struct {
	sync.Mutex
	by map[string]read
}

// read is what was read of a session, with the count of changes of the house.
type read struct {
	data []byte
	as   db.Q
	at   time.Time
}

// For how long what was read of a session holds, and of how many it is kept.
const (
	readHolds = 50 * time.Millisecond
	mostKept  = 500
)

// WebSessions returns the storage of web sessions.
func WebSessions(s *db.Store) Sessions { return Sessions{s, &lastRead{by: map[string]read{}}} }

func (l *lastRead) get(key string) (read, bool) {
	l.Lock()
	defer l.Unlock()
	r, ok := l.by[key]
	return r, ok && time.Since(r.at) < readHolds
}

func (l *lastRead) put(key string, r read) {
	l.Lock()
	defer l.Unlock()
	if len(l.by) >= mostKept {
		clear(l.by)
	}
	r.data, r.at = slices.Clone(r.data), time.Now()
	l.by[key] = r
}

func (l *lastRead) drop() {
	l.Lock()
	defer l.Unlock()
	clear(l.by)
}

// GetWithContext returns the data of a key, nil when there is none.
func (s Sessions) GetWithContext(_ context.Context, key string) ([]byte, error) { return s.Get(key) }

// Get returns the data of a key, nil when there is none or it has expired.
func (s Sessions) Get(key string) ([]byte, error) {
	if r, ok := s.last.get(key); ok {
		return slices.Clone(r.data), nil
	}
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	var data []byte
	var until *time.Time
	as, err := s.store.ReadWith(ctx, db.Part{SQL: "SELECT data, expires_at FROM web_session WHERE k = ?",
		Args: []any{Hash(key)}, Row: func(scan func(into ...any) error) error { return scan(&data, &until) }})
	if err != nil || (until != nil && until.Before(time.Now())) {
		return nil, err
	}
	if data != nil {
		s.stay(key, until)
	}
	s.last.put(key, read{data: data, as: as})
	return data, nil
}

// User reads a person as of the moment that the session of a key was read, if that was since began.
func (s Sessions) User(ctx context.Context, key string, id uint64, began time.Time) (User, error) {
	q := s.store.Read(ctx)
	if r, ok := s.last.get(key); ok && !r.at.Before(began) {
		q = q.As(r.as)
	}
	var people map[uint64]User
	parts, err := peopleParts(q, &people)
	if err != nil {
		return User{}, err
	}
	if err := db.Read(q, parts...); err != nil {
		return User{}, err
	}
	return people[id], nil
}

// SetWithContext is Set.
func (s Sessions) SetWithContext(_ context.Context, key string, data []byte, keep time.Duration) error {
	return s.Set(key, data, keep)
}

// Set keeps data under a new key for a time; 0 keeps it for good. What a key holds never changes, so that
// a session that was ended can't be written again by a request that had read it.
func (s Sessions) Set(key string, data []byte, keep time.Duration) error {
	var until *time.Time
	if keep > 0 {
		t := time.Now().UTC().Add(keep)
		until = &t
	}
	return s.exec("INSERT INTO web_session (k, data, expires_at) VALUES (?, ?, ?)", Hash(key), data, until)
}

// stay lets a session that is used last its time from now on. It is written every few minutes only, and
// nothing where the session has ended.
func (s Sessions) stay(key string, until *time.Time) {
	anew := time.Now().UTC().Add(SessionIdle)
	if until == nil || anew.Sub(*until) < SessionIdle/60 {
		return
	}
	if err := s.exec("UPDATE web_session SET expires_at = ? WHERE k = ?", anew, Hash(key)); err != nil {
		slog.Warn("a session could not be made to last", "err", err)
	}
}

// DeleteWithContext is Delete.
func (s Sessions) DeleteWithContext(_ context.Context, key string) error { return s.Delete(key) }

// Delete forgets a key; ErrNoSession says that it was forgotten before.
func (s Sessions) Delete(key string) error {
	s.last.drop()
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	gone := db.SQL(s.store.Read(ctx)).Exec("DELETE FROM web_session WHERE k = ?", Hash(key))
	if gone.Error == nil && gone.RowsAffected == 0 {
		return ErrNoSession
	}
	return gone.Error
}

// ResetWithContext is Reset.
func (s Sessions) ResetWithContext(context.Context) error { return s.Reset() }

// Reset forgets every session.
func (s Sessions) Reset() error {
	s.last.drop()
	return s.exec("DELETE FROM web_session")
}

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
