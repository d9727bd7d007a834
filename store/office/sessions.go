package office

import (
	"itemrack/store/internal/db"
)

// Sessions keeps web sessions in the database; it is a storage for Fiber's
// session middleware.
type Sessions struct{ store *db.Store }

// WebSessions returns the storage of web sessions.
func WebSessions(s *db.Store) Sessions { return Sessions{s} }
