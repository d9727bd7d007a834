package book

import (
	"itemrack/store/internal/db"
)

// NextNumber takes the next number of a range, from 1. The range stays locked
// until the transaction ends, so no number is left out.
func NextNumber(tx db.Tx, name string, count uint64) (uint64, error) {
	var next uint64
	err := db.Read(tx.Q, numberPart(name, count, &next))
	return next, err
}

// numberPart takes numbers of a range, which begins with it if need be; next is the first of them.
func numberPart(name string, count uint64, next *uint64) db.Part {
	return db.Part{
		SQL: "INSERT INTO number_range (name, next) VALUES (?, 1 + ?) ON DUPLICATE KEY UPDATE next = next + ? " +
			"RETURNING next - ?",
		Args: []any{name, count, count, count},
		Row:  func(scan func(into ...any) error) error { return scan(next) },
	}
}
