package lists

import (
	"context"
	"errors"
	"fmt"
	"io"

	"itemrack/core/fault"
	"itemrack/store/internal/db"

	"gorm.io/gorm"
)

// chunkSize is how much of a file stands in one row.
const chunkSize = 1 << 20

// DropFile forgets a part of an import's files.
func DropFile(ctx context.Context, s *db.Store, job uint64, part string) error {
	return db.SQL(s.Read(ctx)).Exec("DELETE FROM import_chunk WHERE import_id = ? AND part = ?", job, part).Error
}

// MoveFile puts a part in the place of another.
func MoveFile(ctx context.Context, s *db.Store, job uint64, from, to string) error {
	return s.Do(ctx, func(tx db.Tx) error {
		if err := db.SQL(tx.Q).Exec("DELETE FROM import_chunk WHERE import_id = ? AND part = ?", job,
			to).Error; err != nil {
			return err
		}
		return db.SQL(tx.Q).
			Exec("UPDATE import_chunk SET part = ? WHERE import_id = ? AND part = ?", to, job, from).
			Error
	})
}

// KeepFile keeps a part of an import ("list" or "pictures") as it comes in, and
// returns its size. More than most bytes is refused and nothing of it kept.
func KeepFile(ctx context.Context, s *db.Store, job uint64, part string, from io.Reader, most int64) (int64, error) {
	table := db.SQL(s.Read(ctx))
	if err := table.Exec("DELETE FROM import_chunk WHERE import_id = ? AND part = ?", job, part).Error; err != nil {
		return 0, err
	}
	size, err := keepChunks(table, job, part, from, most)
	if err != nil { // what was cut off is not kept
		return 0, errors.Join(err, DropFile(context.WithoutCancel(ctx), s, job, part))
	}
	return size, nil
}

// keepChunks writes what comes in; only an end that is said is one.
func keepChunks(table *gorm.DB, job uint64, part string, from io.Reader, most int64) (int64, error) {
	var size int64
	buffer := make([]byte, chunkSize)
	for n := 0; ; n++ {
		got, err := io.ReadFull(from, buffer)
		if got > 0 {
			if size += int64(got); size > most {
				return 0, fault.Field("file", fmt.Sprintf("over %d MB", most>>20),
					fmt.Sprintf("%d MB or less", most>>20), "The file is larger than %d MB. Split it into several.",
					most>>20)
			}
			if err := table.Exec("INSERT INTO import_chunk (import_id, part, n, data) VALUES (?, ?, ?, ?)", job, part,
				n, buffer[:got]).Error; err != nil {
				return 0, err
			}
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			return size, nil
		}
		if err != nil {
			return 0, err
		}
	}
}

// File is a kept part of an import. It is read a piece at a time.
type File struct {
	q     db.Q
	job   uint64
	part  string
	size  int64
	at    int64
	n     int64 // of the chunk that is held
	chunk []byte
}

// OpenFile opens a kept part of an import; its size is 0 when there is none.
func OpenFile(q db.Q, job uint64, part string) (*File, error) {
	f := &File{q: q, job: job, part: part, n: -1}
	return f, db.SQL(q).
		Raw("SELECT COALESCE(SUM(LENGTH(data)), 0) FROM import_chunk WHERE import_id = ? AND part = ?", job, part).
		Scan(&f.size).
		Error
}
