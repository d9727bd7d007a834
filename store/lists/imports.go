package lists

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// ColumnMemory is how people matched the heads of lists of a kind before.
func ColumnMemory(q db.Q, kind string) (map[string]string, error) {
	var rows []struct{ Head, Name string }
	err := db.SQL(q).Raw("SELECT head, name FROM column_match WHERE kind = ?", kind).Scan(&rows).Error
	memory := make(map[string]string, len(rows))
	for _, r := range rows {
		memory[r.Head] = r.Name
	}
	return memory, err
}

// RememberColumns keeps how a person matched the heads of a list.
func RememberColumns(tx db.Tx, kind string, memory map[string]string) error {
	for head, name := range memory {
		if text.Len(head) > 80 {
			continue
		}
		if err := db.SQL(tx.Q).Exec("INSERT INTO column_match (kind, head, name) VALUES (?, ?, ?) ON DUPLICATE KEY "+
			"UPDATE name = VALUES(name)", kind, head, name).Error; err != nil {
			return err
		}
	}
	return nil
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
			if err := db.SQL(f.q).Raw("SELECT data FROM import_chunk WHERE import_id = ? AND part = ? AND n = ?",
				f.job, f.part, n).Row().Scan(&data); err != nil {
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

// ReadImportJob reads an import.
func ReadImportJob(q db.Q, id uint64) (ImportJob, error) {
	var j ImportJob
	if err := db.SQL(q).Raw("SELECT * FROM import_job WHERE id = ?", id).Scan(&j).Error; err != nil {
		return j, err
	}
	if j.ID == 0 {
		return j, fault.Missing("import", id, "There is no import %d.", id)
	}
	return j, nil
}

// ImportJobs lists the imports, newest first.
func ImportJobs(q db.Q, most int) ([]ImportJob, error) {
	var rows []ImportJob
	return rows, db.SQL(q).Raw("SELECT * FROM import_job ORDER BY id DESC LIMIT ?", most).Scan(&rows).Error
}

// OpenImportJobs are the newest lists since a moment that are not read in yet.
func OpenImportJobs(q db.Q, since time.Time, most int) ([]ImportJob, error) {
	var rows []ImportJob
	return rows, db.SQL(q).
		Raw("SELECT * FROM import_job WHERE created_at >= ? AND state <> 'done' ORDER BY id DESC LIMIT ?", since, most).
		Scan(&rows).
		Error
}

// MadeByImport are the first variants that an import made, in the order of its rows.
func MadeByImport(q db.Q, id uint64, most int) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).
		Raw("SELECT v.id FROM import_row r JOIN import_job j ON j.id = r.import_id AND j.state = 'done' JOIN "+
			"variant v ON v.sku = r.sku WHERE r.import_id = ? AND r.outcome = 'made' ORDER BY r.line LIMIT ?", id, most).
		Scan(&ids).
		Error
}

// NewImportJob writes a new import and forgets files of those from before a moment.
func NewImportJob(ctx context.Context, s *db.Store, j *ImportJob, before time.Time) error {
	table := db.SQL(s.Read(ctx))
	if err := table.Exec("DELETE c FROM import_chunk c JOIN import_job j ON j.id = c.import_id WHERE j.created_at < "+
		"?", before).Error; err != nil {
		return err
	}
	return table.Create(j).Error
}

// UpdateImportJob changes columns of an import, outside of any transaction, so
// that everybody sees how far it is.
func UpdateImportJob(ctx context.Context, s *db.Store, id uint64, columns map[string]any) error {
	return db.SQL(s.Read(ctx)).Table("import_job").Where("id = ?", id).Updates(columns).Error
}

// StartImportJob takes an import on, unless it is being worked on.
func StartImportJob(ctx context.Context, s *db.Store, id uint64, dryRun bool, now, stale time.Time) (bool, error) {
	result := db.SQL(s.Read(ctx)).
		Exec("UPDATE import_job SET state = 'running', dry_run = ?, seen_at = ?, done = 0, total = 0, made = 0, "+
			"changed = 0, same = 0, refused = 0, says = '', document_number = '' WHERE id = ? AND state <> 'done' "+
			"AND (state <> 'running' OR seen_at < ?)", dryRun, now, id, stale)
	return result.RowsAffected == 1, result.Error
}

// ClearImportRows forgets what became of the rows of an import.
func ClearImportRows(ctx context.Context, s *db.Store, id uint64) error {
	return db.SQL(s.Read(ctx)).Exec("DELETE FROM import_row WHERE import_id = ?", id).Error
}

// KeepImportRows keeps what became of some rows, outside of the transaction that
// reads them in.
func KeepImportRows(ctx context.Context, s *db.Store, list []ImportRow) error {
	return db.SQL(s.Read(ctx)).CreateInBatches(list, 500).Error
}

// ImportRows lists what became of the rows of an import after a line; an empty
// outcome is any.
func ImportRows(q db.Q, job uint64, outcome string, after, most int) ([]ImportRow, error) {
	var rows []ImportRow
	table := db.SQL(q).Table("import_row").Where("import_id = ? AND line > ?", job, after)
	if outcome != "" {
		table = table.Where("outcome = ?", outcome)
	}
	return rows, table.Order("line").Limit(most).Scan(&rows).Error
}

// Cells reads the record of a refused row.
func (r ImportRow) Cells() []string {
	var cells []string
	_ = json.Unmarshal([]byte(r.Record), &cells)
	return cells
}
