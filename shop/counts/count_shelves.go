package counts

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
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
		if len(in.Note) > 250 {
			return CountRef{}, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
		}
		branches, err := office.Branches(tx.Q)
		if err != nil {
			return CountRef{}, err
		}
		if !slices.ContainsFunc(branches, func(b office.Branch) bool { return b.ID == in.Branch }) {
			return CountRef{}, fault.Field("branch_id", in.Branch, "a branch of the shop", "Choose the branch to count at.")
		}
		keys, err := counts.PlanRows(tx.Q, in.Category, in.Branch)
		if err != nil {
			return CountRef{}, err
		}
		if len(keys) == 0 {
			return CountRef{}, fault.Refuse("category_id", in.Category, "a category with stock", "There is nothing to count in that category.")
		}
		name, err := deed.NextNumber(tx, "SC")
		if err != nil {
			return CountRef{}, err
		}
		row := counts.ShelfCount{Number: name, BranchID: in.Branch, CategoryID: in.Category, Note: in.Note, Blind: in.Blind, State: string(count.Planned), CreatedBy: who.ID, CreatedAt: s.Now()}
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
	lot       string // and its expiry, where they stood in the code
	expiry    *time.Time
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
		if c.State != string(count.Planned) && c.State != string(count.Counting) {
			return Counted{}, fault.Refuse("count", c.Number, "a count that is open", "%s is %s; nothing more can be counted in it.", c.Number, c.State)
		}
		scanned := in.Variant == 0
		if scanned {
			if err := findCounted(tx, &in); err != nil {
				return Counted{}, err
			}
		}
		if err := counts.LockPool(tx, in.Variant); err != nil {
			return Counted{}, err
		}
		held, err := book.Look(tx.Q, []uint64{in.Variant})
		if err != nil {
			return Counted{}, err
		}
		event, err := countEvent(s, held, c, in)
		if err != nil {
			return Counted{}, err
		}
		event.ShelfCountID, event.UserID, event.At, event.Scanned = c.ID, who.ID, s.Now(), scanned
		return keepEvent(s, tx, held, c, event)
	})
}

// findCounted resolves a scanned code to a variant, and its serial number.
func findCounted(tx store.Tx, in *CountInput) error {
	scan, err := shopscan.ReadScan(tx.Q, in.Code, 2)
	if err != nil {
		return err
	}
	if !scan.One() {
		return fault.Missing("code", scan.Code, "Nothing that can be counted is called %s.", scan.Code)
	}
	in.Variant, in.Serial = scan.Found[0].ID, scan.Found[0].Serial
	if in.Quantity == "" || scan.Times != "" {
		in.Quantity = scan.Units.String()
	}
	in.lot, in.expiry = scan.Found[0].Lot, scan.Found[0].Expiry
	return nil
}

// countEvent works out the row and quantity of an event.
func countEvent(s *deed.Shop, held stock.Holding, c counts.CountView, in CountInput) (counts.CountEvent, error) {
	item := held.Items[in.Variant]
	e := counts.CountEvent{VariantID: in.Variant, LotID: in.Lot, Condition: in.Condition, Quantity: decimal.New(1, 0)}
	if e.Condition == "" {
		e.Condition = string(stock.ForSale)
	}
	if err := stock.CheckCondition(stock.Condition(e.Condition)); err != nil {
		return e, err
	}
	var err error
	if strings.TrimSpace(in.Quantity) != "" {
		if e.Quantity, err = item.Unit.Parse("quantity", in.Quantity); err != nil {
			return e, err
		}
	}
	switch item.Tracking {
	case stock.NotStocked:
		return e, fault.Refuse("variant_id", item.Name, "a product with stock", "%s has no stock to count.", item.Name)
	case stock.BySerial:
		e.Serial = serial.Normal(in.Serial)
		u, known := held.Units[stock.UnitKey{Variant: in.Variant, Serial: e.Serial}]
		if e.Serial == "" || !e.Quantity.Equal(decimal.New(1, 0)) {
			return e, fault.Field("serial", in.Serial, "the number on the unit", "%s is counted by scanning its serial numbers.", item.Name)
		}
		if !known || held.Shelves[u.Key.Shelf].Branch != c.BranchID {
			return e, fault.Refuse("serial", e.Serial, "a number in stock here", "The book does not have %s No. %s here. Set it apart and look it up.", item.Name, e.Serial)
		}
		e.Condition = string(u.Key.Condition)
	case stock.ByLot:
		if e.LotID == 0 && in.lot != "" {
			if e.LotID = lotOf(held, in); e.LotID == 0 {
				return e, fault.Refuse("code", in.lot, "a lot that the book has", "The book has no lot %s of %s with that expiry. Set it apart and look it up.", in.lot, item.Name)
			}
		}
		if e.LotID == 0 {
			if e.LotID, err = onlyLot(held, c.BranchID, in.Variant, stock.Condition(e.Condition)); err != nil {
				return e, err
			}
		}
	}
	for key, q := range held.Balances {
		if key.Lot == e.LotID && string(key.Condition) == e.Condition && held.Shelves[key.Shelf].Branch == c.BranchID {
			e.OnHand = e.OnHand.Add(q)
		}
	}
	return e, nil
}

// lotOf finds the lot that stood in a scanned code, 0 for none.
func lotOf(held stock.Holding, in CountInput) uint64 {
	for id, lot := range held.Lots {
		if lot.Number == in.lot && (in.expiry == nil || lot.Expiry.Equal(*in.expiry)) {
			return id
		}
	}
	return 0
}

// onlyLot finds the lot of a variant at a branch when there is just one.
func onlyLot(held stock.Holding, branch, variant uint64, condition stock.Condition) (uint64, error) {
	lots := map[uint64]bool{}
	for key, q := range held.Balances {
		if key.Variant == variant && key.Condition == condition && held.Shelves[key.Shelf].Branch == branch && q.IsPositive() {
			lots[key.Lot] = true
		}
	}
	var names []string
	for lot := range lots {
		if len(lots) == 1 {
			return lot, nil
		}
		names = append(names, held.Lots[lot].Number)
	}
	slices.Sort(names)
	return 0, fault.Field("lot_id", "", strings.Join(names, " or "), "%s lies here in %d lots. Type into the row of the right lot.", held.Items[variant].Name, len(lots))
}

// keepEvent writes an event, and a row where it was not planned.
func keepEvent(s *deed.Shop, tx store.Tx, held stock.Holding, c counts.CountView, e counts.CountEvent) (Counted, error) {
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
		return Counted{}, fault.Clash("serial", e.Serial, "each number once", "No. %s is counted already, by %s.", e.Serial, by)
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
		if c.State == string(count.Closed) {
			return CountRef{}, fault.Refuse("count", c.Number, "a count that is open", "%s is closed.", c.Number)
		}
		return CountRef{ID: id, Number: c.Number}, counts.StrikeEvent(tx, id, event, who.ID, s.Now())
	})
}

// MoveCount takes a count on to Settling, or back to Counting.
func MoveCount(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64, to count.State) (CountRef, error) {
	return deed.Once(ctx, s, who, staff.DeedCount, key, func(tx store.Tx) (CountRef, error) {
		c, err := counts.LockCount(tx, id)
		if err != nil {
			return CountRef{}, err
		}
		if to != count.Settling && to != count.Counting {
			return CountRef{}, fault.Field("state", to, "Settling or Counting", "A count can't be put in %q by hand.", to)
		}
		if c.State == string(count.Closed) {
			return CountRef{}, fault.Refuse("count", c.Number, "a count that is open", "%s is closed.", c.Number)
		}
		return CountRef{ID: id, Number: c.Number}, counts.SetCountState(tx, id, to, nil)
	})
}

// CountFigures is a count as it stands: its rows with what was counted, and its log.
type CountFigures struct {
	Count  counts.CountView
	Rows   []CountFigure
	Events []counts.CountEventView
}

// CountFigure is a row of a count with names. Missing are the expected serial
// numbers that were not scanned; Value is the variance at average cost.
type CountFigure struct {
	count.Row
	RowID   uint64
	Item    goods.Sellable
	Lot     serial.Lot
	Planned bool
	Missing []string
	Value   decimal.Decimal
	Reason  string
}

// CountStands works out a count as it stands; settling uses the same figures.
func CountStands(ctx context.Context, s *deed.Shop, id uint64) (CountFigures, error) {
	return countStands(s, s.Store.Read(ctx), id)
}

func countStands(s *deed.Shop, q store.Q, id uint64) (CountFigures, error) {
	c, err := counts.Count(q, id)
	if err != nil {
		return CountFigures{}, err
	}
	figures := CountFigures{Count: c}
	kept, err := counts.CountRows(q, id)
	if err != nil {
		return figures, err
	}
	if figures.Events, err = counts.CountEvents(q, id); err != nil {
		return figures, err
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
		return figures, err
	}
	items, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return figures, err
	}
	held, err := book.Look(q, ids)
	if err != nil {
		return figures, err
	}
	rows := count.Rows(plan, events, now)
	for i, r := range rows {
		f := CountFigure{Row: r, RowID: kept[i].ID, Item: items[r.Key.Variant], Lot: held.Lots[r.Key.Lot], Planned: kept[i].Planned, Reason: kept[i].Reason}
		if c.State == string(count.Closed) { // what it came to stays as it was settled
			f.Counted, f.Quantity, f.Expected, f.Value = kept[i].Counted != nil, number.OrZero(kept[i].Counted), number.OrZero(kept[i].Expected), number.OrZero(kept[i].Value)
		} else {
			f.missing(held, c.BranchID)
			v := f.Variance()
			f.Value = held.Pools[r.Key.Variant].Worth(v.Abs())
			if v.IsNegative() {
				f.Value = f.Value.Neg()
			}
		}
		figures.Rows = append(figures.Rows, f)
	}
	return figures, nil
}

// missing names the serial numbers that the book has here and nobody scanned.
func (f *CountFigure) missing(held stock.Holding, branch uint64) {
	if !f.Counted || f.Item.Tracking != stock.BySerial {
		return
	}
	var expected []string
	for name, u := range held.Units {
		if name.Variant == f.Key.Variant && u.Key.Condition == f.Key.Condition && held.Shelves[u.Key.Shelf].Branch == branch {
			expected = append(expected, name.Serial)
		}
	}
	f.Missing = count.Unscanned(expected, f.Serials)
}

// SettleInput settles a count. Reasons are by row; Uncounted says what becomes
// of rows nobody counted: "leave" or "zero".
type SettleInput struct {
	Uncounted string            `json:"uncounted"`
	Reasons   map[uint64]string `json:"reasons"`
}

// SettleCount posts the variances of a count as one document and closes it.
func SettleCount(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64, in SettleInput) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedSettle, key, func(tx store.Tx) (deed.Posted, error) {
		c, err := counts.LockCount(tx, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if c.State == string(count.Closed) {
			return deed.Posted{}, fault.Clash("count", c.Number, "a count that is open", "%s is settled already, as %s; nothing was posted twice.", c.Number, c.Document)
		}
		if in.Uncounted != "leave" && in.Uncounted != "zero" {
			return deed.Posted{}, fault.Field("uncounted", in.Uncounted, "leave or zero", "Say what becomes of the rows that nobody counted: leave them as they are, or take them as zero.")
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
		figures, err := countStands(s, tx.Q, id)
		if err != nil {
			return deed.Posted{}, err
		}
		now := s.Now()
		draft := stock.NewDraft(held, stock.Document{Kind: stock.Count, Number: c.Number, Branch: c.BranchID, By: who.ID, HappenedAt: now, RecordedAt: now, Note: c.Note})
		for i, f := range figures.Rows {
			row, err := settleRow(draft, held, c.BranchID, i+1, f, in)
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

// settleRow adds a row's variance to the document and returns what to keep of it.
func settleRow(draft *stock.Draft, held stock.Holding, branch uint64, line int, f CountFigure, in SettleInput) (counts.CountRow, error) {
	if !f.Counted && in.Uncounted == "zero" {
		f.Counted = true
		f.missing(held, branch)
	}
	row := counts.CountRow{ID: f.RowID}
	if !f.Counted {
		return row, nil
	}
	variance := f.Variance()
	if f.Item.Tracking == stock.BySerial {
		variance = decimal.New(-int64(len(f.Missing)), 0)
	}
	quantity, expected, value := f.Quantity, f.Expected, decimal.Zero
	row.Counted, row.Expected, row.Variance, row.Value = &quantity, &expected, &variance, &value
	if variance.IsZero() {
		return row, nil
	}
	reason, err := count.CheckReason(count.Reason(in.Reasons[f.RowID]), variance)
	if err != nil {
		return row, err
	}
	row.Reason = string(reason)
	if variance.IsNegative() {
		worth, err := draft.Take(stock.Want{Line: line, Variant: f.Key.Variant, Branch: branch, Condition: f.Key.Condition, Quantity: variance.Abs(), Lot: f.Key.Lot, Serials: f.Missing, Unsold: true})
		if err != nil {
			return row, err
		}
		value = worth.Neg()
		draft.Post(ledger.StockLoss, worth)
	} else {
		shelf, err := held.Where(branch)
		if err != nil {
			return row, err
		}
		value = held.Pools[f.Key.Variant].Worth(variance)
		key := stock.Key{Variant: f.Key.Variant, Shelf: shelf, Lot: f.Key.Lot, Condition: f.Key.Condition}
		if err := draft.Restore(line, key, variance, value, nil); err != nil {
			return row, err
		}
		draft.Post(ledger.StockGain, value.Neg())
	}
	draft.Post(ledger.Stock, value)
	return row, nil
}
