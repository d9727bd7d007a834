package counts

import (
	"maps"
	"slices"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
)

// CountFigures is a count as it stands: its rows with what was counted, and its log.
type CountFigures struct {
	Count  counts.CountView        `json:"count"`
	Rows   []CountFigure           `json:"rows"`
	Events []counts.CountEventView `json:"events"`
	More   bool                    `json:"more"` // of a page of its rows: there are further ones
}

// CountFigure is a row of a count with names, and with what settling makes of it.
type CountFigure struct {
	count.Figure
	RowID      uint64            `json:"row_id"`
	Item       goods.Sellable    `json:"item"`
	Lot        serial.Lot        `json:"lot"`
	Planned    bool              `json:"planned"`
	Held       bool              `json:"held"`
	Reason     string            `json:"reason"`
	ChosenBy   uint64            `json:"chosen_by"`
	Unexpected map[string]string `json:"unexpected"` // serial numbers that were not expected, and where the book has them
	AsZero     *count.Figure     `json:"as_zero"`    // of a row that nobody counted: what taking it as zero does
}

// Column is what a person counted of the row, in a count with several counters; else what was counted.
func (f CountFigure) Column(by uint64) count.Column {
	for _, c := range f.Columns {
		if c.By == by {
			return c
		}
	}
	if len(f.Columns) > 0 {
		return count.Column{By: by}
	}
	return count.Column{By: by, Counted: f.Counted, Quantity: f.Quantity, Expected: f.Expected,
		Serials: f.Serials, At: f.At}
}

// hides reports whether somebody counts without knowing what the book has.
func hides(c counts.CountView, who staff.Actor) bool {
	return c.Blind && c.State != string(count.Closed) && !who.Can(staff.DeedSettle)
}

// CountStands works out a count as it stands; settling posts what it shows. Of a blind
// count that is not closed only those who may settle see what is expected.
func CountStands(do deed.Deed, id uint64) (CountFigures, error) {
	q := do.Shop.Store.Read(do.Ctx)
	kept, err := counts.CountRows(q, id)
	if err != nil {
		return CountFigures{}, err
	}
	figures, held, err := readCount(do.Shop, q, id, kept, true)
	if err != nil {
		return figures, err
	}
	if hides(figures.Count, do.Who) {
		figures.hide()
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
		if f.Apart { // nothing is settled of it; what was counted is shown
			figures.Rows[i].Row = f.Row
		}
		if !f.Counted {
			figures.Rows[i].AsZero = &taken
		}
	}
	return figures, nil
}

func (f *CountFigures) hide() {
	for i := range f.Rows {
		f.Rows[i].Figure, f.Rows[i].Unexpected = f.Rows[i].Hidden(), map[string]string{}
	}
	for i := range f.Events {
		f.Events[i] = f.Events[i].Hidden()
	}
}

// CountPage is a part of a count: those of its rows that are asked for, a page at a time, and the end of
// its log.
type CountPage struct {
	Show  string // "", "open", "done", "unplanned" or "held"
	Words string
	Page  int
	Size  int
}

// ReadPage reads a page of the rows of a count as somebody who counts sees them.
func ReadPage(do deed.Deed, id uint64, p CountPage) (CountFigures, error) {
	q := do.Shop.Store.Read(do.Ctx)
	kept, more, err := counts.RowsPage(q, id, p.Show, p.Words, p.Page, p.Size)
	if err != nil {
		return CountFigures{}, err
	}
	figures, _, err := readCount(do.Shop, q, id, kept, false)
	if err != nil {
		return figures, err
	}
	figures.More = more
	if figures.Events, err = counts.LastEvents(q, id, 0, 0, 60); err != nil {
		return figures, err
	}
	if hides(figures.Count, do.Who) {
		columns := make([][]count.Column, len(figures.Rows))
		for i, f := range figures.Rows {
			columns[i] = f.Columns
		}
		figures.hide()
		for i := range figures.Rows { // one's own column stays
			for _, c := range columns[i] {
				if c.By == do.Who.ID {
					c.Expected = c.Expected.Sub(c.Expected)
					figures.Rows[i].Columns = []count.Column{c}
				}
			}
		}
	}
	return figures, nil
}

// preview settles a count in a draft that is not posted, by the last reading of each row.
func preview(held stock.Holding, figures CountFigures, uncounted count.Uncounted) *count.Settlement {
	readings := map[count.RowKey]count.Reading{}
	for _, f := range figures.Rows {
		readings[f.Key] = count.ByLast
		if f.Apart {
			readings[f.Key] = count.NotYet
		}
	}
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Count})
	return &count.Settlement{Draft: draft, Branch: figures.Count.BranchID, Shelves: figures.Count.Shelves,
		Uncounted: uncounted,
		Readings:  readings}
}

// readCount works out some rows of a count by its log, and what the book has of their goods; whole reads
// the log whole.
func readCount(s *deed.Shop, q store.Q, id uint64, kept []counts.CountRow, whole bool) (CountFigures,
	stock.Holding, error) {
	c, err := counts.Count(q, id)
	if err != nil {
		return CountFigures{}, stock.Holding{}, err
	}
	figures := CountFigures{Count: c, Rows: []CountFigure{}}
	plan := make([]count.RowKey, len(kept))
	chosen, at := map[count.RowKey]uint64{}, map[count.RowKey]counts.CountRow{}
	of := map[uint64]bool{}
	for i, r := range kept {
		plan[i] = r.Key()
		at[r.Key()], of[r.VariantID] = r, true
		if r.ChosenBy != nil {
			chosen[r.Key()] = *r.ChosenBy
		}
	}
	ids := slices.Sorted(maps.Keys(of))
	if whole {
		figures.Events, err = counts.CountEvents(q, id)
	} else {
		figures.Events, err = counts.EventsOf(q, id, ids)
	}
	if err != nil {
		return figures, stock.Holding{}, err
	}
	events := make([]count.Event, len(figures.Events))
	for i, e := range figures.Events {
		events[i] = e.Core()
	}
	now, err := counts.RowOnHand(q, c.Place(), ids)
	if err != nil {
		return figures, stock.Holding{}, err
	}
	items, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return figures, stock.Holding{}, err
	}
	held, err := book.Known(q, ids, unexpectedOf(events))
	if err != nil {
		return figures, held, err
	}
	came, err := counts.CameSince(q, id)
	if err != nil {
		return figures, held, err
	}
	branches, err := branchNames(q)
	if err != nil {
		return figures, held, err
	}
	rows := count.Rows(plan, events, now)
	if len(c.Counters) > 1 {
		rows = count.ByCounters(plan, events, now, c.CounterIDs(), chosen)
	}
	strange := strangers(events, held, branches)
	gone, err := missingIn(q, c)
	if err != nil {
		return figures, held, err
	}
	for _, r := range rows {
		row, ours := at[r.Key]
		if !ours || !r.Stands(row.Planned) && len(strange[r.Key]) == 0 {
			continue
		}
		r.Came = came[r.Key]
		if strange[r.Key] == nil {
			strange[r.Key] = map[string]string{}
		}
		f := CountFigure{Figure: count.Figure{Row: r}, RowID: row.ID, Item: items[r.Key.Variant], Lot: held.Lots[r.Key.Lot],
			Planned: row.Planned, Held: row.Held, Reason: row.Reason, ChosenBy: deed.Deref(row.ChosenBy),
			Unexpected: strange[r.Key]}
		if c.State == string(count.Closed) {
			f.Apart, f.Moved = false, false
			f.Counted, f.Quantity, f.Expected = row.Counted != nil, number.OrZero(row.Counted), number.OrZero(row.Expected)
			f.Differs, f.Value = number.OrZero(row.Variance), number.OrZero(row.Value)
			f.Missing = gone[r.Key]
		}
		figures.Rows = append(figures.Rows, f)
	}
	return figures, held, nil
}

// missingIn are the serial numbers that a settled count took out as missing, by row.
func missingIn(q store.Q, c counts.CountView) (map[count.RowKey][]string, error) {
	gone := map[count.RowKey][]string{}
	if c.DocumentID == nil {
		return gone, nil
	}
	entries, err := book.Entries(q, *c.DocumentID)
	for _, e := range entries {
		if key := (count.RowKey{Variant: e.Variant, Lot: e.Lot, Condition: e.Condition}); e.Serial != "" &&
			e.Quantity.IsNegative() {
			gone[key] = append(gone[key], e.Serial)
		}
	}
	return gone, err
}

func unexpectedOf(events []count.Event) []string {
	var numbers []string
	for _, e := range events {
		if e.Unexpected && !e.Struck {
			numbers = append(numbers, e.Serial)
		}
	}
	return numbers
}

// strangers are the serial numbers that were not expected, by row, with where the book has them.
func strangers(events []count.Event, held stock.Holding,
	branches map[uint64]string) map[count.RowKey]map[string]string {
	by := map[count.RowKey]map[string]string{}
	for _, e := range events {
		if !e.Unexpected || e.Struck {
			continue
		}
		if by[e.Row] == nil {
			by[e.Row] = map[string]string{}
		}
		by[e.Row][e.Serial] = count.Believed(held, branches, e.Row.Variant, e.Serial)
	}
	return by
}

func branchNames(q store.Q) (map[uint64]string, error) {
	all, err := office.AllBranches(q)
	names := map[uint64]string{}
	for _, b := range all {
		names[b.ID] = b.Name
	}
	return names, err
}
