package counts

import (
	"context"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/counts"
	"itemrack/store/goods"
)

// CountInput is one thing a counter did: a scan of Code (+1, or "12 x code"),
// or a Quantity typed for a variant, which adds to what is counted; "3 x 12 + 4" adds packs and loose
// ones. AgoMS is how many milliseconds ago that was, of what a device kept while it had no line; or
// DoneMS is when it was by the device's own clock, which says in the header Device-Clock what it shows now. After is
// the goods that were scanned before, of which an unknown code may be a serial number.
type CountInput struct {
	Code      string `json:"code"`
	Variant   uint64 `json:"variant_id"`
	Lot       uint64 `json:"lot_id"`
	Condition string `json:"condition"`
	Quantity  string `json:"quantity"`
	Serial    string `json:"serial"`
	AgoMS     int64  `json:"ago_ms"`
	DoneMS    int64  `json:"done_ms"`
	After     uint64 `json:"after_variant_id"`
}

// Counted says what a scan or typed quantity came to.
type Counted struct {
	Event      uint64          `json:"event_id"`
	Row        uint64          `json:"row_id"`
	Variant    uint64          `json:"variant_id"`
	Name       string          `json:"name"`
	SKU        string          `json:"sku"`
	Serial     string          `json:"serial,omitempty"`
	Lot        string          `json:"lot,omitempty"`
	Condition  string          `json:"condition"`
	Added      decimal.Decimal `json:"added"`
	Counted    decimal.Decimal `json:"counted"` // of the row, so far, in the person's column
	Planned    bool            `json:"planned"`
	Unexpected bool            `json:"unexpected"` // a number that the book does not have here
	Said       string          `json:"said"`
}

// Count notes a scan or a typed quantity. It is saved before the answer goes
// out; what the book held at the moment it happened is kept with it.
func Count(do deed.Deed, id uint64, in CountInput) (Counted, error) {
	return deed.Once(do, staff.DeedCount, func(do deed.Deed) (Counted, error) {
		c, err := openHead(do.Tx, do.Who, id)
		if err != nil {
			return Counted{}, err
		}
		noted := count.Noted{Variant: in.Variant, Lot: in.Lot, Condition: in.Condition, Quantity: in.Quantity,
			Serial: in.Serial}
		if in.Variant == 0 {
			if err := findCounted(do, in, &noted); err != nil {
				return Counted{}, err
			}
		}
		at, late, err := count.Moment(do.Shop.Now(), c.CreatedAt, in.AgoMS)
		if err != nil {
			return Counted{}, err
		}
		if err := counts.LockPool(do.Tx, noted.Variant); err != nil {
			return Counted{}, err
		}
		held, err := book.Known(do.Tx.Q, []uint64{noted.Variant}, []string{noted.Serial})
		if err != nil {
			return Counted{}, err
		}
		var since []stock.Entry
		if late {
			if since, err = book.EntriesSince(do.Tx.Q, noted.Variant, at); err != nil {
				return Counted{}, err
			}
		}
		e, newLot, err := count.Note(held, c.Place(), noted, since)
		if err != nil {
			return Counted{}, err
		}
		if newLot {
			var expiry time.Time
			if noted.Expiry != nil {
				expiry = *noted.Expiry
			}
			lot, err := book.KeepLot(do.Tx, held, noted.Variant, noted.LotNumber, expiry)
			if err != nil {
				return Counted{}, err
			}
			e.Row.Lot, e.OnHand = lot.ID, decimal.Zero
		}
		event := counts.CountEvent{ShelfCountID: c.ID, VariantID: e.Row.Variant, LotID: e.Row.Lot,
			Condition: string(e.Row.Condition),
			Serial:    e.Serial, Unexpected: e.Unexpected, Quantity: e.Quantity, OnHand: e.OnHand, UserID: do.Who.ID, At: at,
			Scanned: in.Variant == 0}
		return keepEvent(do.Tx, held, c, event, late, do.Shop.Now())
	})
}

// openHead reads a count that somebody counts in: one of its counters, where it has some.
func openHead(tx store.Tx, who staff.Actor, id uint64) (counts.CountView, error) {
	c, err := counts.Head(tx, id, false)
	if err == nil && c.State == string(count.Planned) { // the first one begins it
		c, err = counts.Head(tx, id, true)
	}
	if err != nil {
		return c, err
	}
	if err := deed.At(tx.Q, who, c.BranchID); err != nil {
		return c, err
	}
	if err := count.State(c.State).Counts(c.Number); err != nil {
		return c, err
	}
	return c, count.CheckCounter(c.Number, who.ID, c.CounterIDs(), names(c.Counters))
}

func names(list []counts.Counter) []string {
	all := make([]string, len(list))
	for i, c := range list {
		all[i] = c.Name
	}
	return all
}

// findCounted resolves a scanned code to a variant, with what else the code says.
func findCounted(do deed.Deed, in CountInput, noted *count.Noted) error {
	meant, err := shopscan.Read(do.Tx.Q, in.Code, 2)
	if err != nil {
		return err
	}
	if len(meant.Found) == 0 && in.After != 0 {
		items, err := goods.Sellables(do.Tx.Q, []uint64{in.After}, do.Shop.Now())
		if err != nil {
			return err
		}
		meant.Numbers(items[in.After])
	}
	if !meant.One() {
		return fault.Missing("code", meant.Code, "Nothing that can be counted is called %s.", meant.Code)
	}
	found := meant.Found[0]
	if found.Condition != "" {
		noted.Condition = found.Condition
	}
	noted.Variant, noted.Serial, noted.LotNumber, noted.Expiry = found.ID, found.Serial, found.Lot, found.Expiry
	if noted.Quantity == "" || meant.Times != "" {
		noted.Quantity = meant.Units.String()
	}
	return nil
}

// keepEvent writes an event, and a row where it was not planned.
func keepEvent(tx store.Tx, held stock.Holding, c counts.CountView, e counts.CountEvent, late bool,
	now time.Time) (Counted, error) {
	key := e.Core().Row
	row, err := counts.ReadCountRow(tx.Q, c.ID, key)
	if err != nil {
		return Counted{}, err
	}
	planned := row.ID != 0 && row.Planned
	if row.ID == 0 {
		if err := counts.PlanCount(tx, c, []count.RowKey{key}, false); err != nil {
			return Counted{}, err
		}
		if c.HeldStill {
			if err := book.AvailableAnew(tx, []uint64{key.Variant}, now); err != nil {
				return Counted{}, err
			}
		}
		if row, err = counts.ReadCountRow(tx.Q, c.ID, key); err != nil {
			return Counted{}, err
		}
	}
	column := uint64(0)
	if len(c.Counters) > 1 {
		column = e.UserID
	}
	before, by, err := counts.CountedBefore(tx.Q, c.ID, key, e.Serial, column)
	if err != nil {
		return Counted{}, err
	}
	if by != "" {
		return Counted{}, fault.Clash("serial", e.Serial, "each number once", "No. %s is counted already, by %s.",
			e.Serial, by)
	}
	sum := before
	if !e.Unexpected {
		sum = before.Add(e.Quantity)
	}
	if err := counts.AddCountEvent(tx, &e, late); err != nil {
		return Counted{}, err
	}
	if c.State == string(count.Planned) {
		if err := counts.SetCountState(tx, c.ID, count.Counting); err != nil {
			return Counted{}, err
		}
	}
	item := held.Items[e.VariantID]
	out := Counted{Event: e.ID, Row: row.ID, Variant: e.VariantID, Name: item.Name, Serial: e.Serial,
		Lot:       held.Lots[e.LotID].Number,
		Condition: e.Condition, Added: e.Quantity, Counted: sum, Planned: planned, Unexpected: e.Unexpected,
		Said: item.Name + ": " + item.Unit.Format(sum) + " counted."}
	switch {
	case e.Unexpected:
		out.Said = item.Name + " No. " + e.Serial + ": the book does not have it here. It is noted, and set apart."
	case !planned:
		out.Said += " It was not planned for this count."
	}
	return out, nil
}

// openCount reads a count for a deed on it that is not closed; it is locked until the transaction ends.
func openCount(tx store.Tx, who staff.Actor, id uint64) (counts.CountView, error) {
	c, err := counts.LockCount(tx, id)
	if err != nil {
		return c, err
	}
	if err := deed.At(tx.Q, who, c.BranchID); err != nil {
		return c, err
	}
	return c, count.State(c.State).Open(c.Number)
}

// Strike strikes an entry of a count's log; it stays there.
func Strike(do deed.Deed, id, event uint64) (CountRef, error) {
	return onCount(do, staff.DeedCount, id, func(tx store.Tx, _ counts.CountView) error {
		return counts.StrikeEvent(tx, id, event, do.Who.ID, do.Shop.Now())
	})
}

// onCount does a deed on a count that is not closed.
func onCount(do deed.Deed, what staff.Deed, id uint64, work func(tx store.Tx, c counts.CountView) error) (CountRef,
	error) {
	return deed.Once(do, what, func(do deed.Deed) (CountRef, error) {
		c, err := openCount(do.Tx, do.Who, id)
		if err != nil {
			return CountRef{}, err
		}
		return CountRef{ID: id, Number: c.Number, Rows: c.Rows}, work(do.Tx, c)
	})
}

// MoveCount takes a count on to Settling, or back to Counting.
func MoveCount(do deed.Deed, id uint64, to count.State) (CountRef, error) {
	return onCount(do, staff.DeedCount, id, func(tx store.Tx, c counts.CountView) error {
		if err := count.State(c.State).Move(c.Number, to); err != nil {
			return err
		}
		return counts.SetCountState(tx, id, to)
	})
}

// RowInput does something with a row of a count: keeps one that was not planned ("keep"), drops all that
// was counted of it ("drop"), asks for a recount ("recount", of one counter or of all), chooses a counter's
// column ("choose"), or lets it move again ("release").
type RowInput struct {
	What    string `json:"what"`
	Counter uint64 `json:"counter_id"`
}

// ChangeRow does something with a row of a count.
func ChangeRow(do deed.Deed, id, row uint64, in RowInput) (CountRef, error) {
	return onCount(do, staff.DeedCount, id, func(tx store.Tx, c counts.CountView) error {
		rows, err := counts.CountRows(tx.Q, id)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(rows, func(r counts.CountRow) bool { return r.ID == row })
		if at < 0 {
			return fault.Missing("row_id", row, "%s has no row %d.", c.Number, row)
		}
		what := count.RowDeed(in.What)
		if err := what.Check(c.CounterIDs(), in.Counter); err != nil {
			return err
		}
		if what == count.RowChoose || what == count.RowRelease {
			if err := do.Who.May(staff.DeedSettle); err != nil {
				return err
			}
		}
		switch what {
		case count.RowKeep:
			return counts.Keep(tx, id, row)
		case count.RowChoose:
			return counts.Choose(tx, id, row, in.Counter)
		case count.RowRelease:
			return release(do.In(tx), id, []uint64{row})
		case count.RowRecount:
			if err := counts.Choose(tx, id, row, 0); err != nil {
				return err
			}
			if err := counts.SetCountState(tx, id, count.Counting); err != nil {
				return err
			}
		}
		return counts.StrikeRow(tx, id, rows[at].Key(), in.Counter, do.Who.ID, do.Shop.Now())
	})
}

// ReleaseCount lets all that a count holds still move again.
func ReleaseCount(do deed.Deed, id uint64) (CountRef, error) {
	return onCount(do, staff.DeedSettle, id, func(tx store.Tx, _ counts.CountView) error {
		return release(do.In(tx), id, nil)
	})
}

// release lets rows of a count, or all, move again: they are available.
func release(do deed.Deed, id uint64, rows []uint64) error {
	return letGo(do, id, rows, func() error { return counts.Release(do.Tx, id, rows) })
}

// letGo does what frees rows of a count, and works out anew what is available of the goods that they locked.
func letGo(do deed.Deed, id uint64, rows []uint64, free func() error) error {
	variants, err := counts.Locked(do.Tx, id, rows)
	if err != nil {
		return err
	}
	if err := free(); err != nil || len(variants) == 0 {
		return err
	}
	return book.AvailableAnew(do.Tx, variants, do.Shop.Now())
}

// Unlock takes note of counts that lock goods until a moment that is over: these are available.
func Unlock(ctx context.Context, s *deed.Shop) error {
	due, err := counts.Overdue(s.Store.Read(ctx), s.Now())
	if err != nil {
		return err
	}
	for _, id := range due {
		if err := s.Store.Do(ctx, func(tx store.Tx) error {
			return release(deed.By(ctx, s, staff.Actor{}, "").In(tx), id, nil)
		}); err != nil {
			return err
		}
	}
	return nil
}

// GiveUp closes a count without settling it: nothing is posted, its rows are free.
func GiveUp(do deed.Deed, id uint64) (CountRef, error) {
	return onCount(do, staff.DeedSettle, id, func(tx store.Tx, _ counts.CountView) error {
		return letGo(do.In(tx), id, nil, func() error {
			return counts.CloseCount(tx, id, counts.Closing{At: do.Shop.Now(), By: do.Who.ID, GivenUp: true})
		})
	})
}

// CountersInput is who counts in columns of their own.
type CountersInput struct {
	Counters []uint64 `json:"counter_ids"`
	Revision string   `json:"revision"` // of the counters as they were shown; another one is refused
}

// ChangeCounters says who counts.
func ChangeCounters(do deed.Deed, id uint64, in CountersInput) (CountRef, error) {
	return onCount(do, staff.DeedCount, id, func(tx store.Tx, c counts.CountView) error {
		if err := revision.CheckIs("Who counts in "+c.Number, in.Revision, c.CountersAre); err != nil {
			return err
		}
		if err := countersAre(tx.Q, in.Counters, c.BranchID); err != nil {
			return err
		}
		return counts.SetCounters(tx, id, in.Counters)
	})
}

// News is what happened in a count since a page looked last.
type News struct {
	Events []counts.CountEventView `json:"events"`
	Last   uint64                  `json:"last_event_id"`
	Done   int                     `json:"done"`
	Rows   int                     `json:"rows"`
	State  string                  `json:"state"`
	At     time.Time               `json:"at"`
}

// ReadNews reads what others counted and struck since an event and a moment.
func ReadNews(do deed.Deed, id, after uint64, since time.Time) (News, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return News{}, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	c, err := counts.Count(q, id)
	if err != nil {
		return News{}, err
	}
	news := News{Last: after, Done: c.Done, Rows: c.Rows, State: c.State, At: do.Shop.Now()}
	if news.Events, err = counts.EventsAfter(q, id, after, since, 200); err != nil {
		return news, err
	}
	blind := c.Blind && !do.Who.Can(staff.DeedSettle)
	for i, e := range news.Events {
		news.Last = max(news.Last, e.ID)
		if blind {
			news.Events[i] = e.Hidden()
		}
	}
	return news, nil
}
