package counts

import (
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/buying"
	"itemrack/store/counts"
	"itemrack/store/goods"
	storesendings "itemrack/store/sendings"
)

// SettleInput settles a count. Reasons are by row; Uncounted says what becomes
// of rows nobody counted: "leave" or "zero"; Readings, by row, which figure holds of one
// that moved while it was counted: "first", "last", or "leave"; "leave" also leaves a row whose counters
// differ. MixUps are pairs of rows that are settled as one. Approval is a manager's, of what is more than
// the shop's tolerance.
type SettleInput struct {
	Uncounted string            `json:"uncounted"`
	Reasons   map[uint64]string `json:"reasons"`
	Readings  map[uint64]string `json:"readings"`
	MixUps    []MixUpInput      `json:"mix_ups"`
	Approval  *deed.Approval    `json:"approval"`
}

// MixUpInput names two rows of one product whose variances cancel.
type MixUpInput struct {
	Short uint64 `json:"short_row_id"`
	Over  uint64 `json:"over_row_id"`
}

// SettleCount posts the variances of a count as one document and closes it.
func SettleCount(do deed.Deed, id uint64, in SettleInput) (deed.Posted, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return deed.Posted{}, err
	}
	return deed.Once(do, staff.DeedSettle, func(do deed.Deed) (deed.Posted, error) {
		c, err := counts.LockCount(do.Tx, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, c.BranchID); err != nil {
			return deed.Posted{}, err
		}
		if c.State == string(count.Closed) {
			return deed.Posted{}, settledAlready(c)
		}
		if err := count.Uncounted(in.Uncounted).Check(); err != nil {
			return deed.Posted{}, err
		}
		kept, err := counts.CountRows(do.Tx.Q, id)
		if err != nil {
			return deed.Posted{}, err
		}
		ids := make([]uint64, len(kept))
		for i, r := range kept {
			ids[i] = r.VariantID
		}
		held, err := book.Hold(do.Tx, ids, nil)
		if err != nil {
			return deed.Posted{}, err
		}
		figures, _, err := readCount(do.Shop, do.Tx.Q, id, kept, true)
		if err != nil {
			return deed.Posted{}, err
		}
		settlement, err := in.begin(do.Shop, do.Who, held, c, figures)
		if err != nil {
			return deed.Posted{}, err
		}
		rows, closing, err := in.rows(settlement, figures)
		if err != nil {
			return deed.Posted{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		ask := deed.Asks(do.Shop, do.Who, by)
		if sum, beyond := count.Beyond(closing.figures, set.Tolerance); beyond {
			if err := ask.May(staff.DeedSettleMore, c.Number+": variances of "+set.Currency.Format(sum)); err != nil {
				return deed.Posted{}, err
			}
		}
		if err := counts.SaveCountRows(do.Tx, rows); err != nil {
			return deed.Posted{}, err
		}
		done, err := deed.Post(do.Tx, held, settlement.Draft)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := ask.Keep(do.Tx, 0, 0, done.Document); err != nil {
			return deed.Posted{}, err
		}
		closing.Document, closing.At, closing.By = &done.Document, do.Shop.Now(), do.Who.ID
		return done, letGo(do, id, nil, func() error { return counts.CloseCount(do.Tx, id, closing.Closing) })
	})
}

func settledAlready(c counts.CountView) error {
	if c.GivenUp {
		return fault.Clash("count", c.Number, "a count that is open", "%s was given up; nothing was posted.", c.Number)
	}
	return fault.Clash("count", c.Number, "a count that is open",
		"%s is settled already, as %s; nothing was posted twice.", c.Number, c.Document)
}

// begin begins the document of a count, with what was said of its rows.
func (in SettleInput) begin(s *deed.Shop, who staff.Actor, held stock.Holding, c counts.CountView,
	figures CountFigures) (*count.Settlement, error) {
	moments := []time.Time{c.CreatedAt}
	for _, e := range figures.Events {
		moments = append(moments, e.At)
	}
	settlement := &count.Settlement{Branch: c.BranchID, Shelves: c.Shelves, Uncounted: count.Uncounted(in.Uncounted),
		Readings: map[count.RowKey]count.Reading{}, MixUps: map[count.RowKey]bool{}}
	at := map[uint64]CountFigure{}
	for _, f := range figures.Rows {
		settlement.Readings[f.Key] = count.Reading(in.Readings[f.RowID])
		at[f.RowID] = f
		if !f.Planned && len(f.Unexpected) == 0 {
			return nil, fault.Field("rows", f.Item.FullName(), "to keep it or to drop it",
				"%s was scanned, and not planned for this count. Keep it, or drop it.", f.Item.FullName())
		}
	}
	for _, m := range in.MixUps {
		short, over := at[m.Short], at[m.Over]
		if err := count.CheckMixUp(short.Row, over.Row, short.Item.ProductID == over.Item.ProductID &&
			short.RowID != 0); err != nil {
			return nil, err
		}
		settlement.MixUps[short.Key], settlement.MixUps[over.Key] = true, true
	}
	now := stock.NotBefore(s.Now(), moments...)
	settlement.Draft = stock.NewDraft(held, stock.Document{Kind: stock.Count, Number: c.Number,
		Branch: c.BranchID, By: who.ID,
		HappenedAt: now, RecordedAt: now, Note: c.Note})
	return settlement, nil
}

// closing is what a count comes to, with its rows.
type closing struct {
	counts.Closing
	figures []count.Figure
}

// rows settles all rows, and says what to keep of them.
func (in SettleInput) rows(settlement *count.Settlement, figures CountFigures) ([]counts.CountRow, closing, error) {
	var rows []counts.CountRow
	var sum closing
	for _, f := range figures.Rows {
		reason := count.Reason(in.Reasons[f.RowID])
		if settlement.MixUps[f.Key] {
			reason = count.MixUp
		}
		row, settled, err := settleRow(settlement, f, reason)
		if err != nil {
			return nil, sum, err
		}
		row.ShelfCountID, row.VariantID, row.LotID, row.Condition = figures.Count.ID, f.Key.Variant, f.Key.Lot,
			string(f.Key.Condition)
		rows = append(rows, row)
		if !settled.Counted {
			continue
		}
		sum.figures = append(sum.figures, settled)
		sum.Counted++
		if settled.Differs.IsZero() {
			sum.Right++
		}
		sum.Variance, sum.Value = sum.Variance.Add(settled.Differs), sum.Value.Add(settled.Value)
	}
	return rows, sum, nil
}

// settleRow settles a row, and says what to keep of it.
func settleRow(settlement *count.Settlement, f CountFigure, reason count.Reason) (counts.CountRow,
	count.Figure, error) {
	row := counts.CountRow{ID: f.RowID}
	settled, err := settlement.Figure(f.Row)
	if err != nil || !settled.Counted {
		return row, settled, err
	}
	row.Counted, row.Expected, row.Variance, row.Value = &settled.Quantity, &settled.Expected, &settled.Differs,
		&settled.Value
	if settled.Differs.IsZero() {
		return row, settled, nil
	}
	reason, err = count.CheckReason(reason, settled.Differs)
	row.Reason = string(reason)
	return row, settled, err
}

// SwapView is a perhaps swapped pair of rows with their names.
type SwapView struct {
	count.Swap
	ShortRow uint64          `json:"short_row_id"`
	OverRow  uint64          `json:"over_row_id"`
	Product  string          `json:"product"`
	ShortOf  string          `json:"short"`
	OverOf   string          `json:"over"`
	Value    decimal.Decimal `json:"value" see:"costs"` // the difference in cost that is left
}

// mostRacks is how many products are looked at for what is swapped.
const mostRacks = 200

// Swaps finds the rows of a count that are perhaps swapped: in one product, variances that cancel in
// neighbouring cells.
func Swaps(s *deed.Shop, q store.Q, figures CountFigures) ([]SwapView, error) {
	rows, products := map[uint64]CountFigure{}, map[uint64][2]bool{}
	var order []uint64
	for _, f := range figures.Rows {
		if f.Differs.IsZero() || f.Key.Lot != 0 || f.Key.Condition != stock.ForSale || f.Item.Tracking != stock.Counted {
			continue
		}
		rows[f.Key.Variant] = f
		signs, seen := products[f.Item.ProductID]
		if !seen {
			order = append(order, f.Item.ProductID)
		}
		signs[map[bool]int{true: 0, false: 1}[f.Differs.IsPositive()]] = true
		products[f.Item.ProductID] = signs
	}
	var both []uint64
	for _, id := range order {
		if products[id] == [2]bool{true, true} && len(both) < mostRacks {
			both = append(both, id)
		}
	}
	found, err := goods.ProductViews(q, both, figures.Count.BranchID, s.Now())
	if err != nil {
		return nil, err
	}
	var swaps []SwapView
	for _, p := range found {
		for _, swap := range count.Swapped(cells(*p, rows)) {
			short, over := rows[swap.Short], rows[swap.Over]
			swaps = append(swaps, SwapView{Swap: swap, ShortRow: short.RowID, OverRow: over.RowID, Product: p.Name,
				ShortOf: short.Item.Label,
				OverOf:  over.Item.Label, Value: short.Value.Add(over.Value)})
		}
	}
	return swaps, nil
}

// cells are the rails of a product with what differs on them.
func cells(p goods.ProductView, rows map[uint64]CountFigure) [][]count.Cell {
	var rails [][]count.Cell
	for _, rail := range p.Rack().Rails {
		var cells []count.Cell
		for _, slot := range rail.Slots {
			cell := count.Cell{}
			if slot.Variant >= 0 {
				cell.Variant = p.Variants[slot.Variant].ID
				cell.Differs = rows[cell.Variant].Differs
			}
			cells = append(cells, cell)
		}
		rails = append(rails, cells)
	}
	return rails
}

// Coming is what may explain a surplus: an open order or a sending that has some of it to come.
type Coming struct {
	Number string          `json:"number"`
	Path   string          `json:"path"`
	Units  decimal.Decimal `json:"units"`
}

// Explains finds, for rows with a surplus, what was delivered perhaps and not entered.
func Explains(q store.Q, figures CountFigures) (map[uint64][]Coming, error) {
	variants := []uint64{0}
	for _, f := range figures.Rows {
		if f.Differs.IsPositive() {
			variants = append(variants, f.Key.Variant)
		}
	}
	found := map[uint64][]Coming{}
	orders, err := buying.ToCome(q, figures.Count.BranchID, variants)
	if err != nil {
		return nil, err
	}
	for variant, list := range orders {
		for _, o := range list {
			found[variant] = append(found[variant],
				Coming{Number: o.Number, Path: fmt.Sprint("/buying/orders/", o.ID), Units: o.Units})
		}
	}
	sendings, err := storesendings.OnTheWayTo(q, figures.Count.BranchID, variants)
	if err != nil {
		return nil, err
	}
	for variant, list := range sendings {
		for _, r := range list {
			found[variant] = append(found[variant],
				Coming{Number: r.Number, Path: fmt.Sprint("/stock/sendings/", r.ID), Units: r.OnWay})
		}
	}
	return found, nil
}
