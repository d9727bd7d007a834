package counts

import (
	"context"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
)

// CountPlan plans a count of a category at a branch. Blind hides what the book
// expects from whoever counts.
type CountPlan struct {
	Branch   uint64 `json:"branch_id"`
	Category uint64 `json:"category_id"`
	Note     string `json:"note"`
	Blind    bool   `json:"blind"`
}

// CountRef names a shelf count.
type CountRef struct {
	ID     uint64 `json:"id"`
	Number string `json:"number"`
	Rows   int    `json:"rows"`
}

// PlanCount plans a shelf count. A row that is being counted at the branch in
// another count is refused.
func PlanCount(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in CountPlan) (CountRef, error) {
	return deed.Once(ctx, s, who, staff.DeedCount, key, func(tx store.Tx) (CountRef, error) {
		if text.Len(in.Note) > 250 {
			return CountRef{}, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
		}
		branches, err := office.Branches(tx.Q)
		if err != nil {
			return CountRef{}, err
		}
		if !slices.ContainsFunc(branches, func(b office.Branch) bool { return b.ID == in.Branch }) {
			return CountRef{}, fault.Field("branch_id", in.Branch, "a branch of the shop",
				"Choose the branch to count at.")
		}
		if err := deed.At(tx.Q, who, in.Branch); err != nil {
			return CountRef{}, err
		}
		variants, balances, err := counts.Countable(tx.Q, in.Category, in.Branch)
		if err != nil {
			return CountRef{}, err
		}
		keys := count.Plan(variants, balances)
		if len(keys) == 0 {
			return CountRef{}, fault.Refuse("category_id", in.Category, "a category with stock",
				"There is nothing to count in that category.")
		}
		name, err := deed.NextNumber(tx, "SC")
		if err != nil {
			return CountRef{}, err
		}
		row := counts.ShelfCount{
			Number:     name,
			BranchID:   in.Branch,
			CategoryID: in.Category,
			Note:       in.Note,
			Blind:      in.Blind,
			State:      string(count.Planned),
			CreatedBy:  who.ID,
			CreatedAt:  s.Now(),
		}
		if err := counts.AddCount(tx, &row); err != nil {
			return CountRef{}, err
		}
		return CountRef{row.ID, name, len(keys)}, counts.PlanCount(tx, counts.CountView{ShelfCount: row}, keys, true)
	})
}

// CountInput is one thing a counter did: a scan of Code (+1, or "12 x code"),
// or a Quantity typed for a variant, which adds to what is counted.
type CountInput struct {
	Code      string `json:"code"`
	Variant   uint64 `json:"variant_id"`
	Lot       uint64 `json:"lot_id"`
	Condition string `json:"condition"`
	Quantity  string `json:"quantity"`
	Serial    string `json:"serial"`
}

// Counted says what a scan or typed quantity came to.
type Counted struct {
	Event   uint64          `json:"event_id"`
	Variant uint64          `json:"variant_id"`
	Name    string          `json:"name"`
	Counted decimal.Decimal `json:"counted"` // of the row, so far
	Planned bool            `json:"planned"`
	Said    string          `json:"said"`
}

// Count notes a scan or a typed quantity. It is saved before the answer goes
// out; what the book holds at that moment is kept with it.
func Count(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64, in CountInput) (Counted, error) {
	return deed.Once(ctx, s, who, staff.DeedCount, key, func(tx store.Tx) (Counted, error) {
		c, err := counts.LockCount(tx, id)
		if err != nil {
			return Counted{}, err
		}
		if err := deed.At(tx.Q, who, c.BranchID); err != nil {
			return Counted{}, err
		}
		if err := count.State(c.State).Counts(c.Number); err != nil {
			return Counted{}, err
		}
		noted := count.Noted{
			Variant:   in.Variant,
			Lot:       in.Lot,
			Condition: in.Condition,
			Quantity:  in.Quantity,
			Serial:    in.Serial,
		}
		scanned := in.Variant == 0
		if scanned {
			if err := findCounted(tx, in.Code, &noted); err != nil {
				return Counted{}, err
			}
		}
		if err := counts.LockPool(tx, noted.Variant); err != nil {
			return Counted{}, err
		}
		held, err := book.Look(tx.Q, []uint64{noted.Variant})
		if err != nil {
			return Counted{}, err
		}
		e, err := count.Note(held, c.BranchID, noted)
		if err != nil {
			return Counted{}, err
		}
		event := counts.CountEvent{
			ShelfCountID: c.ID,
			VariantID:    e.Row.Variant,
			LotID:        e.Row.Lot,
			Condition:    string(e.Row.Condition),
			Serial:       e.Serial,
			Quantity:     e.Quantity,
			OnHand:       e.OnHand,
			UserID:       who.ID,
			At:           s.Now(),
			Scanned:      scanned,
		}
		return keepEvent(s, tx, held, c, event)
	})
}

// findCounted resolves a scanned code to a variant, with what else the code says.
func findCounted(tx store.Tx, code string, in *count.Noted) error {
	meant, err := shopscan.Read(tx.Q, code, 2)
	if err != nil {
		return err
	}
	if !meant.One() {
		return fault.Missing("code", meant.Code, "Nothing that can be counted is called %s.", meant.Code)
	}
	found := meant.Found[0]
	in.Variant, in.Serial, in.LotNumber, in.Expiry = found.ID, found.Serial, found.Lot, found.Expiry
	if in.Quantity == "" || meant.Times != "" {
		in.Quantity = meant.Units.String()
	}
	return nil
}

// keepEvent writes an event, and a row where it was not planned.
func keepEvent(s *deed.Shop, tx store.Tx, held stock.Holding, c counts.CountView,
	e counts.CountEvent) (Counted, error) {
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
	}
	before, by, err := counts.CountedBefore(tx.Q, c.ID, key, e.Serial)
	if err != nil {
		return Counted{}, err
	}
	if by != "" {
		return Counted{}, fault.Clash("serial", e.Serial, "each number once", "No. %s is counted already, by %s.",
			e.Serial, by)
	}
	sum := before.Add(e.Quantity)
	if err := counts.AddCountEvent(tx, &e); err != nil {
		return Counted{}, err
	}
	if c.State == string(count.Planned) {
		if err := counts.SetCountState(tx, c.ID, count.Counting, nil); err != nil {
			return Counted{}, err
		}
	}
	item := held.Items[e.VariantID]
	said := item.Name + ": " + item.Unit.Format(sum) + " counted."
	if !planned {
		said += " It was not planned for this count."
	}
	return Counted{Event: e.ID, Variant: e.VariantID, Name: item.Name, Counted: sum, Planned: planned, Said: said}, nil
}

// Strike strikes an entry of a count's log; it stays there, struck through.
func Strike(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id, event uint64) (CountRef, error) {
	return deed.Once(ctx, s, who, staff.DeedCount, key, func(tx store.Tx) (CountRef, error) {
		c, err := counts.LockCount(tx, id)
		if err != nil {
			return CountRef{}, err
		}
		if err := deed.At(tx.Q, who, c.BranchID); err != nil {
			return CountRef{}, err
		}
		if err := count.State(c.State).Open(c.Number); err != nil {
			return CountRef{}, err
		}
		return CountRef{ID: id, Number: c.Number}, counts.StrikeEvent(tx, id, event, who.ID, s.Now())
	})
}

// MoveCount takes a count on to Settling, or back to Counting.
func MoveCount(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	to count.State) (CountRef, error) {
	return deed.Once(ctx, s, who, staff.DeedCount, key, func(tx store.Tx) (CountRef, error) {
		c, err := counts.LockCount(tx, id)
		if err != nil {
			return CountRef{}, err
		}
		if err := deed.At(tx.Q, who, c.BranchID); err != nil {
			return CountRef{}, err
		}
		if err := count.State(c.State).Move(c.Number, to); err != nil {
			return CountRef{}, err
		}
		return CountRef{ID: id, Number: c.Number}, counts.SetCountState(tx, id, to, nil)
	})
}

// CountFigures is a count as it stands: its rows with what was counted, and its log.
type CountFigures struct {
	Count  counts.CountView        `json:"count"`
	Rows   []CountFigure           `json:"rows"`
	Events []counts.CountEventView `json:"events"`
}

// CountFigure is a row of a count with names, and with what settling makes of it.
type CountFigure struct {
	count.Figure
	RowID   uint64         `json:"row_id"`
	Item    goods.Sellable `json:"item"`
	Lot     serial.Lot     `json:"lot"`
	Planned bool           `json:"planned"`
	Reason  string         `json:"reason"`
	AsZero  *count.Figure  `json:"as_zero"` // of a row that nobody counted: what taking it as zero does
}

// CountStands works out a count as it stands; settling posts what it shows. Of a blind
// count that is not closed only those who may settle see what is expected.
func CountStands(ctx context.Context, s *deed.Shop, who staff.Actor, id uint64) (CountFigures, error) {
	q := s.Store.Read(ctx)
	figures, held, err := readCount(s, q, id)
	if err != nil {
		return figures, err
	}
	if figures.Count.Blind && figures.Count.State != string(count.Closed) && !who.Can(staff.DeedSettle) {
		for i := range figures.Rows {
			figures.Rows[i].Figure = figures.Rows[i].Hidden()
		}
		for i := range figures.Events {
			figures.Events[i] = figures.Events[i].Hidden()
		}
		return figures, nil
	}
	if figures.Count.State == string(count.Closed) {
		return figures, nil // what it came to stays as it was settled
	}
	leaving, zero := preview(held, figures, count.Leave), preview(held, figures, count.Zero)
	for i, f := range figures.Rows {
		settled, err := leaving.Figure(f.Row)
		if refused := fault.Of(err); err != nil && refused == nil {
			return figures, err
		}
		taken, err := zero.Figure(f.Row)
		if refused := fault.Of(err); err != nil && refused == nil {
			return figures, err
		}
		figures.Rows[i].Figure = settled
		if !f.Counted {
			figures.Rows[i].AsZero = &taken
		}
	}
	return figures, nil
}

// preview settles a count in a draft that is not posted, by the last reading of each row.
func preview(held stock.Holding, figures CountFigures, uncounted count.Uncounted) *count.Settlement {
	readings := map[count.RowKey]count.Reading{}
	for _, f := range figures.Rows {
		readings[f.Key] = count.ByLast
	}
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Count})
	return &count.Settlement{Draft: draft, Branch: figures.Count.BranchID, Uncounted: uncounted, Readings: readings}
}

// readCount reads a count with its rows and log, and what the book has of its goods.
func readCount(s *deed.Shop, q store.Q, id uint64) (CountFigures, stock.Holding, error) {
	c, err := counts.Count(q, id)
	if err != nil {
		return CountFigures{}, stock.Holding{}, err
	}
	figures := CountFigures{Count: c}
	kept, err := counts.CountRows(q, id)
	if err != nil {
		return figures, stock.Holding{}, err
	}
	if figures.Events, err = counts.CountEvents(q, id); err != nil {
		return figures, stock.Holding{}, err
	}
	var plan []count.RowKey
	var ids []uint64
	for _, r := range kept {
		plan = append(plan, r.Key())
		ids = append(ids, r.VariantID)
	}
	events := make([]count.Event, len(figures.Events))
	for i, e := range figures.Events {
		events[i] = e.Core()
	}
	now, err := counts.RowOnHand(q, c.BranchID, plan)
	if err != nil {
		return figures, stock.Holding{}, err
	}
	items, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return figures, stock.Holding{}, err
	}
	held, err := book.Look(q, ids)
	if err != nil {
		return figures, held, err
	}
	came, err := counts.CameSince(q, id)
	if err != nil {
		return figures, held, err
	}
	for i, r := range count.Rows(plan, events, now) {
		if !r.Stands(kept[i].Planned) {
			continue
		}
		r.Came = came[r.Key]
		f := CountFigure{
			Figure:  count.Figure{Row: r},
			RowID:   kept[i].ID,
			Item:    items[r.Key.Variant],
			Lot:     held.Lots[r.Key.Lot],
			Planned: kept[i].Planned,
			Reason:  kept[i].Reason,
		}
		if c.State == string(count.Closed) {
			f.Counted, f.Quantity, f.Expected = kept[i].Counted != nil, number.OrZero(kept[i].Counted), number.OrZero(
				kept[i].Expected)
			f.Differs, f.Value = number.OrZero(kept[i].Variance), number.OrZero(kept[i].Value)
		}
		figures.Rows = append(figures.Rows, f)
	}
	return figures, held, nil
}

// SettleInput settles a count. Reasons are by row; Uncounted says what becomes
// of rows nobody counted: "leave" or "zero"; Readings, by row, which figure holds of one
// that moved while it was counted: "first", "last", or "leave".
type SettleInput struct {
	Uncounted string            `json:"uncounted"`
	Reasons   map[uint64]string `json:"reasons"`
	Readings  map[uint64]string `json:"readings"`
}

// SettleCount posts the variances of a count as one document and closes it.
func SettleCount(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in SettleInput) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedSettle, key, func(tx store.Tx) (deed.Posted, error) {
		c, err := counts.LockCount(tx, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(tx.Q, who, c.BranchID); err != nil {
			return deed.Posted{}, err
		}
		if c.State == string(count.Closed) {
			return deed.Posted{}, fault.Clash("count", c.Number, "a count that is open",
				"%s is settled already, as %s; nothing was posted twice.", c.Number, c.Document)
		}
		if err := count.Uncounted(in.Uncounted).Check(); err != nil {
			return deed.Posted{}, err
		}
		kept, err := counts.CountRows(tx.Q, id)
		if err != nil {
			return deed.Posted{}, err
		}
		ids := make([]uint64, len(kept))
		for i, r := range kept {
			ids[i] = r.VariantID
		}
		held, err := book.Hold(tx, ids, nil)
		if err != nil {
			return deed.Posted{}, err
		}
		figures, _, err := readCount(s, tx.Q, id)
		if err != nil {
			return deed.Posted{}, err
		}
		moments := []time.Time{c.CreatedAt}
		readings := map[count.RowKey]count.Reading{}
		for _, e := range figures.Events {
			moments = append(moments, e.At)
		}
		for _, f := range figures.Rows {
			readings[f.Key] = count.Reading(in.Readings[f.RowID])
		}
		now := stock.NotBefore(s.Now(), moments...)
		draft := stock.NewDraft(
			held,
			stock.Document{
				Kind:       stock.Count,
				Number:     c.Number,
				Branch:     c.BranchID,
				By:         who.ID,
				HappenedAt: now,
				RecordedAt: now,
				Note:       c.Note,
			},
		)
		settlement := &count.Settlement{Draft: draft, Branch: c.BranchID, Uncounted: count.Uncounted(in.Uncounted),
			Readings: readings}
		for _, f := range figures.Rows {
			row, err := settleRow(settlement, f, count.Reason(in.Reasons[f.RowID]))
			if err != nil {
				return deed.Posted{}, err
			}
			if err := counts.SaveCountRow(tx, row); err != nil {
				return deed.Posted{}, err
			}
		}
		done, err := deed.Post(tx, held, draft)
		if err != nil {
			return deed.Posted{}, err
		}
		return done, counts.SetCountState(tx, id, count.Closed, &done.Document)
	})
}

// settleRow settles a row, and says what to keep of it.
func settleRow(settlement *count.Settlement, f CountFigure, reason count.Reason) (counts.CountRow, error) {
	row := counts.CountRow{ID: f.RowID}
	settled, err := settlement.Figure(f.Row)
	if err != nil || !settled.Counted {
		return row, err
	}
	row.Counted, row.Expected, row.Variance, row.Value = &settled.Quantity, &settled.Expected, &settled.Differs, &settled.Value
	if settled.Differs.IsZero() {
		return row, nil
	}
	reason, err = count.CheckReason(reason, settled.Differs)
	row.Reason = string(reason)
	return row, err
}
