package db

import "sync"

// kept is a copy of rows that most deeds read and few write, as of the count of changes
// that the database keeps of them by its triggers.
type kept struct {
	change uint64
	value  any
}

// copies are the kept copies of a store, by their names.
type copies struct {
	sync.Mutex
	byName map[string]kept
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
	last := &parts[len(parts)-1]
	last.done = func() {
		q.copies.Lock()
		defer q.copies.Unlock()
		q.copies.byName[name] = kept{q.set.change, *into}
	}
	return parts, nil
}
