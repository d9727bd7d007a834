package office

import (
	"context"
	"slices"
	"sync"
	"time"

	"itemrack/store/internal/db"
)

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

// Set keeps data under a key for a time; 0 keeps it for good.
func (s Sessions) Set(key string, data []byte, keep time.Duration) error {
	var until *time.Time
	if keep > 0 {
		t := time.Now().UTC().Add(keep)
		until = &t
	}
	s.last.drop()
	err := s.exec(
		"INSERT INTO web_session (k, data, expires_at) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE data = "+
			"VALUES(data), expires_at = VALUES(expires_at)",
		Hash(key), data, until)
	if err == nil {
		s.last.put(key, read{data: data})
	}
	return err
}

// DeleteWithContext is Delete.
func (s Sessions) DeleteWithContext(_ context.Context, key string) error { return s.Delete(key) }

// Delete forgets a key.
func (s Sessions) Delete(key string) error {
	s.last.drop()
	return s.exec("DELETE FROM web_session WHERE k = ?", Hash(key))
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
