package db

import (
	"maps"
	"math"
	"strings"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
)

// kept is a copy of rows that most deeds read and few write, as of the count of changes
// that the database keeps of them by its triggers.
type kept struct {
	change uint64
	value  any
}

// copies are the kept copies of a store, by their names.
type copies struct {
	sync.Mutex
	byName   map[string]kept
	shelf    map[string]any // of caches
	settings *set
	reads    map[string][]string // the queries that copies were read by
}

func newCopies() *copies {
	return &copies{byName: map[string]kept{}, shelf: map[string]any{}, reads: map[string][]string{"settings": {settings}}}
}

// Reads are the queries that each of a store's copies is read by, as far as they were read: what they name has to be
// watched by triggers.
func Reads(s *Store) map[string][]string {
	s.copies.Lock()
	defer s.copies.Unlock()
	return maps.Clone(s.copies.reads)
}

// CopiedBy notes that copies of a name are read by some queries, the first time.
func CopiedBy(q Q, name string, parts []Part) {
	q.copies.Lock()
	defer q.copies.Unlock()
	if q.copies.reads[name] != nil {
		return
	}
	texts := make([]string, len(parts))
	for i, p := range parts {
		texts[i] = p.SQL
	}
	q.copies.reads[name] = texts
}

// Steady says that a transaction changes none of the rows that copies are kept of, so
// that it may read the copies.
func (tx Tx) Steady() Tx {
	tx.steady = true
	return tx
}

// Copied gives what the queries of read would read: a copy that is of today, without
// any query, or else the queries, whose answers become the copy. What they give is
// shared, and never changed. The count of changes is read before the rows, so that a
// copy is never older than its count.
func Copied[T any](q Q, name string, into *T, read func(into *T) []Part) ([]Part, error) {
	if !q.steady {
		return read(into), nil
	}
	if _, err := q.Terms(); err != nil {
		return nil, err
	}
	q.copies.Lock()
	found, ok := q.copies.byName[name]
	q.copies.Unlock()
	if ok && found.change == q.set.change {
		*into = found.value.(T)
		return nil, nil
	}
	parts := read(into)
	CopiedBy(q, name, parts)
	last := &parts[len(parts)-1]
	last.done = func() {
		q.copies.Lock()
		defer q.copies.Unlock()
		q.copies.byName[name] = kept{q.set.change, *into}
	}
	return parts, nil
}

// UnchangedPart finds out whether copies that were taken are still of today, for one that has to be after a lock.
func UnchangedPart(q Q, into *bool) Part {
	return Part{SQL: changes, Row: func(scan func(into ...any) error) error {
		var now uint64
		err := scan(&now)
		*into = now == q.set.change
		return err
	}}
}

// UnchangedWith is UnchangedPart with a query that always has a row, in one.
func UnchangedWith(q Q, into *bool, p Part) Part {
	row := p.Row
	p.SQL = "SELECT (" + changes + "), " + strings.TrimPrefix(p.SQL, "SELECT ")
	p.Row = func(scan func(into ...any) error) error {
		var now uint64
		err := row(func(more ...any) error { return scan(append([]any{&now}, more...)...) })
		*into = now == q.set.change
		return err
	}
	return p
}

// shelfBytes is how much memory the copies of one kind may take: those that were asked for last are kept.
const shelfBytes = 12 << 20

// Shelf keeps copies of single things that most deeds read and few write, by their numbers; whoever takes one
// finds out whether it is of today. What it keeps is bounded in bytes.
type Shelf[T any] struct {
	sync.Mutex
	kept  *simplelru.LRU[uint64, T]
	bytes int
	size  func(T) int
}

// Get gives the copy of a thing, if there is one.
func (s *Shelf[T]) Get(id uint64) (T, bool) {
	s.Lock()
	defer s.Unlock()
	return s.kept.Get(id)
}

// Add keeps a copy of a thing in place of the one before, and forgets those that were not asked for the longest where
// there is no room.
func (s *Shelf[T]) Add(id uint64, one T) {
	s.Lock()
	defer s.Unlock()
	s.kept.Remove(id)
	s.bytes += s.size(one)
	s.kept.Add(id, one)
	for s.bytes > shelfBytes {
		if _, _, there := s.kept.RemoveOldest(); !there {
			return
		}
	}
}

// Bytes is how much memory the copies take, about.
func (s *Shelf[T]) Bytes() int {
	s.Lock()
	defer s.Unlock()
	return s.bytes
}

// ShelfOf is the shelf of a name; size is how many bytes a copy takes, about. There is none (nil) for a transaction
// that may change what its copies are of.
func ShelfOf[T any](q Q, name string, size func(T) int) *Shelf[T] {
	if !q.steady {
		return nil
	}
	q.copies.Lock()
	defer q.copies.Unlock()
	if found, ok := q.copies.shelf[name]; ok {
		return found.(*Shelf[T])
	}
	made := &Shelf[T]{size: size}
	kept, err := simplelru.NewLRU(math.MaxInt, func(_ uint64, one T) { made.bytes -= size(one) })
	if err != nil {
		return nil // there is none of less than one place
	}
	made.kept = kept
	q.copies.shelf[name] = made
	return made
}
