package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// ColumnMemory is how people matched the heads of lists of a kind before.
func (q Q) ColumnMemory(kind string) (map[string]string, error) {
	var rows []struct{ Head, Name string }
	err := q.db.Raw("SELECT head, name FROM column_match WHERE kind = ?", kind).Scan(&rows).Error
	memory := make(map[string]string, len(rows))
	for _, r := range rows {
		memory[r.Head] = r.Name
	}
	return memory, err
}

// RememberColumns keeps how a person matched the heads of a list.
func (tx Tx) RememberColumns(kind string, memory map[string]string) error {
	for head, name := range memory {
		if len(head) > 80 {
			continue
		}
		if err := tx.db.Exec("INSERT INTO column_match (kind, head, name) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE name = VALUES(name)", kind, head, name).Error; err != nil {
			return err
		}
	}
	return nil
}

// chunkSize is how much of a file stands in one row.
const chunkSize = 1 << 20

// DropFile forgets a part of an import's files.
func (s *Store) DropFile(ctx context.Context, job uint64, part string) error {
	return s.Read(ctx).db.Exec("DELETE FROM import_chunk WHERE import_id = ? AND part = ?", job, part).Error
}

// MoveFile puts a part in the place of another.
func (s *Store) MoveFile(ctx context.Context, job uint64, from, to string) error {
	return s.Do(ctx, func(tx Tx) error {
		if err := tx.db.Exec("DELETE FROM import_chunk WHERE import_id = ? AND part = ?", job, to).Error; err != nil {
			return err
		}
		return tx.db.Exec("UPDATE import_chunk SET part = ? WHERE import_id = ? AND part = ?", to, job, from).Error
	})
}

// KeepFile keeps a part of an import ("list" or "pictures") as it comes in, and
// returns its size. More than most bytes is refused and nothing of it kept.
func (s *Store) KeepFile(ctx context.Context, job uint64, part string, from io.Reader, most int64) (int64, error) {
	db := s.Read(ctx).db
	if err := db.Exec("DELETE FROM import_chunk WHERE import_id = ? AND part = ?", job, part).Error; err != nil {
		return 0, err
	}
	var size int64
	buffer := make([]byte, chunkSize)
	for n := 0; ; n++ {
		got, err := io.ReadFull(from, buffer)
		if got > 0 {
			if size += int64(got); size > most {
				_ = db.Exec("DELETE FROM import_chunk WHERE import_id = ? AND part = ?", job, part).Error
				return 0, fault.Field("file", fmt.Sprintf("over %d MB", most>>20), fmt.Sprintf("%d MB or less", most>>20), "The file is larger than %d MB. Split it into several.", most>>20)
			}
			if err := db.Exec("INSERT INTO import_chunk (import_id, part, n, data) VALUES (?, ?, ?, ?)", job, part, n, buffer[:got]).Error; err != nil {
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
	q     Q
	job   uint64
	part  string
	size  int64
	at    int64
	n     int64 // of the chunk that is held
	chunk []byte
}

// OpenFile opens a kept part of an import; its size is 0 when there is none.
func (q Q) OpenFile(job uint64, part string) (*File, error) {
	f := &File{q: q, job: job, part: part, n: -1}
	return f, q.db.Raw("SELECT COALESCE(SUM(LENGTH(data)), 0) FROM import_chunk WHERE import_id = ? AND part = ?", job, part).Scan(&f.size).Error
}

// Size is the length of the file.
func (f *File) Size() int64 { return f.size }

// ReadAt reads from a place in the file.
func (f *File) ReadAt(into []byte, at int64) (int, error) {
	done := 0
	for done < len(into) {
		if at >= f.size {
			return done, io.EOF
		}
		if n := at / chunkSize; n != f.n {
			var data []byte
			if err := f.q.db.Raw("SELECT data FROM import_chunk WHERE import_id = ? AND part = ? AND n = ?", f.job, f.part, n).Row().Scan(&data); err != nil {
				return done, fmt.Errorf("read part %d of the file: %w", n, err)
			}
			f.n, f.chunk = n, data
		}
		got := copy(into[done:], f.chunk[at%chunkSize:])
		done, at = done+got, at+int64(got)
	}
	return done, nil
}

// Read reads on.
func (f *File) Read(into []byte) (int, error) {
	if f.at >= f.size {
		return 0, io.EOF
	}
	n, err := f.ReadAt(into[:min(int64(len(into)), f.size-f.at)], f.at)
	f.at += int64(n)
	return n, err
}

// Seek moves to a place in the file.
func (f *File) Seek(offset int64, whence int) (int64, error) {
	switch whence {
	case io.SeekCurrent:
		offset += f.at
	case io.SeekEnd:
		offset += f.size
	}
	if offset < 0 {
		return 0, errors.New("before the beginning of the file")
	}
	f.at = offset
	return offset, nil
}

// ImportJob reads an import.
func (q Q) ImportJob(id uint64) (ImportJob, error) {
	var j ImportJob
	if err := q.db.Raw("SELECT * FROM import_job WHERE id = ?", id).Scan(&j).Error; err != nil {
		return j, err
	}
	if j.ID == 0 {
		return j, fault.Missing("import", id, "There is no import %d.", id)
	}
	return j, nil
}

// ImportJobs lists the imports, newest first.
func (q Q) ImportJobs(most int) ([]ImportJob, error) {
	var rows []ImportJob
	return rows, q.db.Raw("SELECT * FROM import_job ORDER BY id DESC LIMIT ?", most).Scan(&rows).Error
}

// OpenImportJobs are the newest lists since a moment that are not read in yet.
func (q Q) OpenImportJobs(since time.Time, most int) ([]ImportJob, error) {
	var rows []ImportJob
	return rows, q.db.Raw("SELECT * FROM import_job WHERE created_at >= ? AND state <> 'done' ORDER BY id DESC LIMIT ?", since, most).Scan(&rows).Error
}

// MadeByImport are the first variants that an import made, in the order of its rows.
func (q Q) MadeByImport(id uint64, most int) ([]uint64, error) {
	var ids []uint64
	return ids, q.db.Raw("SELECT v.id FROM import_row r JOIN import_job j ON j.id = r.import_id AND j.state = 'done' JOIN variant v ON v.sku = r.sku WHERE r.import_id = ? AND r.outcome = 'made' ORDER BY r.line LIMIT ?", id, most).Scan(&ids).Error
}

// NewImportJob writes a new import and forgets files of those from before a moment.
func (s *Store) NewImportJob(ctx context.Context, j *ImportJob, before time.Time) error {
	db := s.Read(ctx).db
	if err := db.Exec("DELETE c FROM import_chunk c JOIN import_job j ON j.id = c.import_id WHERE j.created_at < ?", before).Error; err != nil {
		return err
	}
	return db.Create(j).Error
}

// UpdateImportJob changes columns of an import, outside of any transaction, so
// that everybody sees how far it is.
func (s *Store) UpdateImportJob(ctx context.Context, id uint64, columns map[string]any) error {
	return s.Read(ctx).db.Table("import_job").Where("id = ?", id).Updates(columns).Error
}

// StartImportJob takes an import on, unless it is being worked on.
func (s *Store) StartImportJob(ctx context.Context, id uint64, dryRun bool, now, stale time.Time) (bool, error) {
	result := s.Read(ctx).db.Exec("UPDATE import_job SET state = 'running', dry_run = ?, seen_at = ?, done = 0, total = 0, made = 0, changed = 0, same = 0, refused = 0, says = '', document_number = '' WHERE id = ? AND state <> 'done' AND (state <> 'running' OR seen_at < ?)", dryRun, now, id, stale)
	return result.RowsAffected == 1, result.Error
}

// ClearImportRows forgets what became of the rows of an import.
func (s *Store) ClearImportRows(ctx context.Context, id uint64) error {
	return s.Read(ctx).db.Exec("DELETE FROM import_row WHERE import_id = ?", id).Error
}

// KeepImportRows keeps what became of some rows, outside of the transaction that
// reads them in.
func (s *Store) KeepImportRows(ctx context.Context, list []ImportRow) error {
	return s.Read(ctx).db.CreateInBatches(list, 500).Error
}

// ImportRows lists what became of the rows of an import after a line; an empty
// outcome is any.
func (q Q) ImportRows(job uint64, outcome string, after, most int) ([]ImportRow, error) {
	var rows []ImportRow
	db := q.db.Table("import_row").Where("import_id = ? AND line > ?", job, after)
	if outcome != "" {
		db = db.Where("outcome = ?", outcome)
	}
	return rows, db.Order("line").Limit(most).Scan(&rows).Error
}

// Cells reads the record of a refused row.
func (r ImportRow) Cells() []string {
	var cells []string
	_ = json.Unmarshal([]byte(r.Record), &cells)
	return cells
}

// PackPrice is what a pack costs on the Regular list at a moment; nil for none.
func (q Q) PackPrice(product, pack uint64, moment time.Time) (*decimal.Decimal, error) {
	var rows []Price
	err := q.db.Raw("SELECT * FROM price WHERE product_id = ? AND pack_id = ? AND variant_id IS NULL AND price_list_id = 1 AND from_quantity = 0 AND from_at <= ? ORDER BY from_at DESC, id DESC LIMIT 1", product, pack, moment).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return &rows[0].Amount, nil
}
