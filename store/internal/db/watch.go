package db

import (
	"context"
	"database/sql"
	"log/slog"
	"regexp"
	"sync/atomic"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// countKey is the key under which a context carries its count of round trips.
type countKey struct{}

// Counting returns a context whose round trips to the database are counted.
func Counting(ctx context.Context) (context.Context, *atomic.Int64) {
	n := new(atomic.Int64)
	return context.WithValue(ctx, countKey{}, n), n
}

// slow is from when on a statement is worth a line in the log.
const slow = 500 * time.Millisecond

// said are the texts in a statement.
var said = regexp.MustCompile(`'(?:[^'\\]|\\.|'')*'`)

// watch is GORM's logger: it tells of slow statements.
type watch struct{}

// LogMode keeps the watch as it is.
func (w watch) LogMode(logger.LogLevel) logger.Interface { return w }

// Info, Warn and Error are what GORM itself has to say.
func (watch) Info(_ context.Context, text string, data ...any) { slog.Debug(text, "data", data) }

// Warn passes a warning on.
func (watch) Warn(_ context.Context, text string, data ...any) { slog.Warn(text, "data", data) }

// Error passes an error on.
func (watch) Error(_ context.Context, text string, data ...any) { slog.Error(text, "data", data) }

// Trace tells of a slow statement.
func (watch) Trace(_ context.Context, began time.Time, statement func() (string, int64), _ error) {
	if took := time.Since(began); took > slow {
		text, _ := statement()
		text = said.ReplaceAllString(text, "?") // what it is about is nobody's business
		slog.Warn("slow statement", "ms", took.Milliseconds(), "sql", text[:min(len(text), 300)])
	}
}

// counted is a way to the database whose round trips are counted.
type counted struct{ gorm.ConnPool }

func count(ctx context.Context) {
	if n, ok := ctx.Value(countKey{}).(*atomic.Int64); ok {
		n.Add(1)
	}
}

// ExecContext counts a statement and passes it on.
func (c counted) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	count(ctx)
	return c.ConnPool.ExecContext(ctx, query, args...)
}

// QueryContext counts a query and passes it on.
func (c counted) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	count(ctx)
	return c.ConnPool.QueryContext(ctx, query, args...)
}

// QueryRowContext counts a query and passes it on.
func (c counted) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	count(ctx)
	return c.ConnPool.QueryRowContext(ctx, query, args...)
}
