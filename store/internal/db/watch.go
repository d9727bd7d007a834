package db

import (
	"context"
	"log/slog"
	"sync/atomic"
	"time"

	"gorm.io/gorm/logger"
)

// countKey is the key under which a context carries its count of statements.
type countKey struct{}

// Counting returns a context whose statements are counted.
func Counting(ctx context.Context) (context.Context, *atomic.Int64) {
	n := new(atomic.Int64)
	return context.WithValue(ctx, countKey{}, n), n
}

// slow is from when on a statement is worth a line in the log.
const slow = 500 * time.Millisecond

// watch is GORM's logger: it counts statements and tells of slow ones.
type watch struct{}

// LogMode keeps the watch as it is.
func (w watch) LogMode(logger.LogLevel) logger.Interface { return w }

// Info, Warn and Error are what GORM itself has to say.
func (watch) Info(_ context.Context, text string, data ...any) { slog.Debug(text, "data", data) }

// Warn passes a warning on.
func (watch) Warn(_ context.Context, text string, data ...any) { slog.Warn(text, "data", data) }

// Error passes an error on.
func (watch) Error(_ context.Context, text string, data ...any) { slog.Error(text, "data", data) }

// Trace counts a statement.
func (watch) Trace(ctx context.Context, began time.Time, statement func() (string, int64), _ error) {
	if n, ok := ctx.Value(countKey{}).(*atomic.Int64); ok {
		n.Add(1)
	}
	if took := time.Since(began); took > slow {
		text, _ := statement()
		slog.Warn("slow statement", "ms", took.Milliseconds(), "sql", text[:min(len(text), 300)])
	}
}
