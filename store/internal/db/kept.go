package db

import (
	"strings"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"
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
}

func newCopies() *copies { return &copies{byName: map[string]kept{}, shelf: map[string]any{}} }

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

// mostCopies is how many things of one kind copies are kept of: those that were asked for last.
const mostCopies = 20_000

// Shelf keeps copies of single things that most deeds read and few write, by their numbers; whoever takes one
// finds out whether it is of today. There is none (nil) for a transaction that may change what they are of.
func Shelf[T any](q Q, name string) *lru.Cache[uint64, T] {
	if !q.steady {
		return nil
	}
	q.copies.Lock()
	defer q.copies.Unlock()
	if found, ok := q.copies.shelf[name]; ok {
		return found.(*lru.Cache[uint64, T])
	}
	made, err := lru.New[uint64, T](mostCopies)
	if err != nil {
		return nil // there is none of less than one place
	}
	q.copies.shelf[name] = made
	return made
}
