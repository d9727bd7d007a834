package counts

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	corecount "itemrack/core/count"
	"itemrack/core/staff"
	"itemrack/core/stock"
	shopcounts "itemrack/shop/counts"
	"itemrack/store"
	"itemrack/store/book"
	storecounts "itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/web/catalog"
	"itemrack/web/kit"
)

func counts(c *kit.Call) error {
	columns := []kit.Column[storecounts.CountView]{
		kit.Col("number", func(r storecounts.CountView) any { return r.Number }),
		kit.Col("of", func(r storecounts.CountView) any { return r.Scope }),
		kit.Col("branch", func(r storecounts.CountView) any { return r.Branch }),
		kit.Col("begun", func(r storecounts.CountView) any { return c.InZone(&r.CreatedAt) }),
		kit.Col("by", func(r storecounts.CountView) any { return r.By }),
		kit.Col("rows", func(r storecounts.CountView) any { return r.Rows }),
		kit.Col("counted", func(r storecounts.CountView) any { return r.Done }),
		kit.Col("entries", func(r storecounts.CountView) any { return r.Events }),
		kit.Col("state", func(r storecounts.CountView) any { return r.State }),
		kit.Col("given up", func(r storecounts.CountView) any { return r.GivenUp }),
		kit.Col("closed", func(r storecounts.CountView) any { return c.InZone(r.ClosedAt) }),
		kit.Col("units of variance", func(r storecounts.CountView) any { return r.Variance }),
		kit.CostCol("value of variance", func(r storecounts.CountView) any { return c.Amount(r.Value) }),
		kit.Col("note", func(r storecounts.CountView) any { return r.Note })}
	return kit.Listed(c, "counts", "Counts", "Shelf counts", columns, storecounts.Counts, map[string]any{})
}

// counterList are the people who may count.
func counterList(c *kit.Call) ([]office.User, error) {
	all, err := office.Users(c.Q())
	return slices.DeleteFunc(all, func(u office.User) bool { return u.ClosedAt != nil }), err
}

func newCount(c *kit.Call) error {
	data := map[string]any{"Classes": corecount.Classes, "Branch": c.Who.Branch}
	filter, query, err := catalog.FilterOf(c)
	if err != nil {
		return err
	}
	if query != "" {
		data["Filter"], data["Query"] = filter, query
	}
	for name, read := range map[string]func() (any, error){
		"Branches":   func() (any, error) { return office.Branches(c.Q()) },
		"Categories": func() (any, error) { return goods.Categories(c.Q()) },
		"Suppliers":  func() (any, error) { return goods.Suppliers(c.Q()) },
		"Brands":     func() (any, error) { return goods.Brands(c.Q()) },
		"Shelves":    func() (any, error) { return openShelves(c.Q()) },
		"People":     func() (any, error) { return counterList(c) },
	} {
		if data[name], err = read(); err != nil {
			return err
		}
	}
	return c.Page("count_new", "Counts", "Plan a count", data)
}

func openShelves(q store.Q) ([]stock.Shelf, error) {
	all, err := book.Shelves(q)
	list := []stock.Shelf{}
	for _, s := range all {
		if !s.Closed {
			list = append(list, s)
		}
	}
	stock.SortShelves(list)
	return list, err
}

// pageRows is how many rows of a count stand on a page.
const pageRows = 120

func count(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	head, err := storecounts.Count(c.Q(), id)
	if err != nil {
		return err
	}
	if head.State == string(corecount.Settling) || head.State == string(corecount.Closed) {
		return settle(c)
	}
	show := c.Query("kind")
	figures, err := shopcounts.ReadPage(c.Deed(), id,
		shopcounts.CountPage{Show: show, Words: c.Query("q"), Page: c.PageNumber(),
			Size: pageRows})
	if err != nil {
		return err
	}
	mine := c.Who.ID
	counts := corecount.CheckCounter(figures.Count.Number, mine, figures.Count.CounterIDs(), nil) == nil
	hang := countCell(figures.Count, mine)
	if !counts && c.Who.Can(staff.DeedSettle) { // looks on, and sees what all of them counted
		hang = bothCell(figures.Count)
	}
	racks, others, err := countRacks(c, figures, hang, counts)
	if err != nil {
		return err
	}
	last := uint64(0)
	for _, e := range figures.Events {
		last = max(last, e.ID)
	}
	people, err := counterList(c)
	if err != nil {
		return err
	}
	return c.Page("count", "Counts", "Count "+figures.Count.Number,
		map[string]any{"C": figures.Count, "Racks": racks, "Others": others,
			"Rows": figures.Rows, "List": c.Query("by") == "list", "Show": show, "Words": c.Query("q"), "Mine": mine,
			"Counts": counts,
			"Log":    figures.Events, "Last": last, "At": c.Shop.Now().Format(time.RFC3339Nano),
			"Settles": c.Who.Can(staff.DeedSettle),
			"Pager":   c.Pager(figures.More), "People": people,
			"Shows": [][2]string{{"", "all"}, {"open", "not counted"}, {"done", "counted"},
				{"unplanned", "not planned"}}})
}

// countRack is a product of a count with its rack.
type countRack struct {
	P    goods.ProductView
	Rack kit.RackView
}

// hanging draws the hanger of a row of a product.
type hanging func(p goods.ProductView, f shopcounts.CountFigure) (kit.CellView, decimal.Decimal)

// countRacks hangs what is for sale on racks, to be typed into or to be looked at, and lists the rows of lots
// and of other conditions.
func countRacks(c *kit.Call, figures shopcounts.CountFigures, hang hanging, typed bool) ([]countRack,
	[]shopcounts.CountFigure, error) {
	var order []uint64
	rows := map[uint64]shopcounts.CountFigure{}
	inCount := map[uint64]bool{}
	var others []shopcounts.CountFigure
	for _, f := range figures.Rows {
		if f.Key.Condition != stock.ForSale || f.Key.Lot != 0 {
			others = append(others, f)
			continue
		}
		rows[f.Key.Variant] = f
		if !inCount[f.Item.ProductID] {
			inCount[f.Item.ProductID] = true
			order = append(order, f.Item.ProductID)
		}
	}
	var racks []countRack
	products, err := goods.ProductViews(c.Q(), order, figures.Count.BranchID, c.Shop.Now())
	if err != nil {
		return nil, nil, err
	}
	mode := kit.RackNumber
	if !typed {
		mode = kit.RackLook
	}
	for _, found := range products {
		p := *found
		rack := kit.Hang(p, mode, "counted", func(v goods.VariantView) (kit.CellView,
			decimal.Decimal) {
			return hang(p, rows[v.ID])
		})
		rack.Add = typed
		racks = append(racks, countRack{p, rack})
	}
	return racks, others, nil
}

// countCell hangs what a person counted in the own column; in a blind count nobody who counts is told what
// is expected.
func countCell(count storecounts.CountView, mine uint64) hanging {
	return func(p goods.ProductView, f shopcounts.CountFigure) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Off: f.RowID == 0 || p.Tracking == string(stock.BySerial), Hint: "–"}
		if f.RowID == 0 {
			return cell, decimal.Zero
		}
		own := f.Column(mine)
		if !count.Blind {
			expected := f.Expected
			if own.Counted {
				expected = own.Expected
			}
			cell.Note = "of " + p.UnitOf.Format(expected)
		}
		if f.Held {
			cell.Under = "held still"
		}
		if !own.Counted {
			return cell, decimal.Zero
		}
		cell.Hint = p.UnitOf.Format(own.Quantity)
		return cell, own.Quantity
	}
}

// bothCell hangs what all counters counted: one figure where they agree, a half for each where they stand
// apart.
func bothCell(count storecounts.CountView) hanging {
	return func(p goods.ProductView, f shopcounts.CountFigure) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Figure: "–"}
		if f.RowID == 0 {
			return cell, decimal.Zero
		}
		cell.Note = "of " + p.UnitOf.Format(f.Expected)
		if !f.Apart {
			if f.Counted {
				cell.Figure = p.UnitOf.Format(f.Quantity)
				if differs := f.Variance(); !differs.IsZero() {
					cell.Under = kit.Signed(p.UnitOf.Code, differs)
				}
			}
			return cell, f.Quantity
		}
		cell.Note, cell.Under = "", "recount"
		for _, column := range f.Columns {
			half := kit.HalfView{Figure: "–", Open: !column.Counted}
			for _, k := range count.Counters {
				if k.ID == column.By {
					half.Name, _, _ = strings.Cut(k.Name, " ")
				}
			}
			if column.Counted {
				half.Figure = p.UnitOf.Format(column.Quantity)
			} else {
				cell.Under = "not yet by both"
			}
			cell.Halves = append(cell.Halves, half)
		}
		return cell, decimal.Zero
	}
}

// settleRow is a row as the page of settling shows it.
type settleRow struct {
	shopcounts.CountFigure
	Coming []shopcounts.Coming
}

// sumLine is what variances come to for a category, or for a counter.
type sumLine struct {
	Name         string
	Rows, Right  int
	Units, Value decimal.Decimal
}

// mostSettled is how many of the rows that differ a page shows, the dearest first.
const mostSettled = 400

func settle(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	figures, err := shopcounts.CountStands(c.Deed(), id)
	if err != nil {
		return err
	}
	if c.Query("format") != "" {
		return countFile(c, figures)
	}
	coming, err := shopcounts.Explains(c.Q(), figures)
	if err != nil {
		return err
	}
	swaps, err := shopcounts.Swaps(c.Shop, c.Q(), figures)
	if err != nil {
		return err
	}
	data := map[string]any{"C": figures.Count, "Swaps": swaps, "Reasons": corecount.Reasons,
		"Settles":   c.Who.Can(staff.DeedSettle),
		"Tolerance": c.Terms.Tolerance, "More": c.Who.Can(staff.DeedSettleMore)}
	if err := sumUp(c, figures, coming, data); err != nil {
		return err
	}
	return c.Page("settle", "Counts", "Settle "+figures.Count.Number, data)
}

// sumUp sorts the rows of a count by what they ask for, and adds them up.
func sumUp(c *kit.Call, figures shopcounts.CountFigures, coming map[uint64][]shopcounts.Coming,
	data map[string]any) error {
	var differ, apart, unplanned, strange []settleRow
	var asZero []shopcounts.CountFigure
	units, value, gross := decimal.Zero, decimal.Zero, decimal.Zero
	zeroUnits, zeroValue := decimal.Zero, decimal.Zero
	blank, done := 0, 0
	for _, f := range figures.Rows {
		row := settleRow{f, coming[f.Key.Variant]}
		if len(f.Unexpected) > 0 {
			strange = append(strange, row)
		}
		if f.Counted {
			done++
		}
		switch {
		case f.Apart:
			apart = append(apart, row)
			continue
		case !f.Planned && f.Counted:
			unplanned = append(unplanned, row)
		case !f.Counted:
			blank++
		}
		if f.Counted && (!f.Differs.IsZero() || f.Moved) {
			differ = append(differ, row)
		}
		units, value, gross = units.Add(f.Differs), value.Add(f.Value), gross.Add(f.Value.Abs())
		if f.AsZero != nil && !f.AsZero.Differs.IsZero() {
			asZero = append(asZero, f)
			zeroUnits, zeroValue = zeroUnits.Add(f.AsZero.Differs), zeroValue.Add(f.AsZero.Value)
		}
	}
	slices.SortStableFunc(differ, func(a, b settleRow) int { return b.Value.Abs().Cmp(a.Value.Abs()) })
	byCategory, byCounter, err := sums(c, figures)
	if err != nil {
		return err
	}
	for name, v := range map[string]any{"Differ": differ[:min(len(differ), mostSettled)],
		"Left":  max(0, len(differ)-mostSettled),
		"Apart": apart, "Unplanned": unplanned, "Strange": strange, "Blank": blank,
		"AsZero": asZero[:min(len(asZero), mostSettled)], "ZeroUnits": zeroUnits,
		"ZeroValue": zeroValue, "AllUnits": units.Add(zeroUnits), "AllValue": value.Add(zeroValue), "Units": units,
		"Value": value,
		"Gross": gross, "ByCategory": byCategory, "ByCounter": byCounter, "Beyond": corecount.Above(gross, c.Terms.Tolerance),
		"Figures": []kit.Figure{{Amount: strconv.Itoa(done), Name: fmt.Sprintf("of %d rows counted", len(figures.Rows))},
			{Amount: kit.Signed("", units), Name: "variance in units"}, c.Worth(value, "variance in value")}} {
		data[name] = v
	}
	return nil
}

// sums adds variances up by category, and by who counted a row last.
func sums(c *kit.Call, figures shopcounts.CountFigures) (byCategory, byCounter []sumLine, err error) {
	ids := make([]uint64, len(figures.Rows))
	for i, f := range figures.Rows {
		ids[i] = f.Key.Variant
	}
	paths, err := storecounts.CategoriesOf(c.Q(), ids)
	if err != nil {
		return nil, nil, err
	}
	who := map[corecount.RowKey]string{}
	for _, e := range figures.Events {
		if e.StruckAt == nil && !e.Unexpected {
			who[e.Core().Row] = e.Who
		}
	}
	at := map[string]int{}
	add := func(list []sumLine, of, name string, f shopcounts.CountFigure) []sumLine {
		i, seen := at[of+name]
		if !seen {
			i = len(list)
			at[of+name] = i
			list = append(list, sumLine{Name: name})
		}
		l := &list[i]
		l.Rows++
		if f.Differs.IsZero() {
			l.Right++
		}
		l.Units, l.Value = l.Units.Add(f.Differs), l.Value.Add(f.Value)
		return list
	}
	for _, f := range figures.Rows {
		if !f.Counted || f.Apart {
			continue
		}
		byCategory = add(byCategory, "category ", paths[f.Key.Variant], f)
		if name := who[f.Key]; name != "" {
			byCounter = add(byCounter, "counter ", name, f)
		}
	}
	for _, list := range [][]sumLine{byCategory, byCounter} {
		slices.SortStableFunc(list, func(a, b sumLine) int { return a.Value.Cmp(b.Value) })
	}
	return byCategory, byCounter, nil
}

// schedules is the page of the counts that come round.
func schedules(c *kit.Call) error {
	list, err := shopcounts.Schedules(c.Q())
	if err != nil {
		return err
	}
	type one struct {
		shopcounts.ScheduleView
		Says string
		Due  bool
	}
	today := c.Terms.Day(c.Shop.Now())
	rows := make([]one, len(list))
	for i, v := range list {
		rows[i] = one{v, v.Core().Says(), !v.Closed && v.Core().Due(today)}
	}
	due, err := shopcounts.DueOf(c.Until, c.Shop, c.Who.ID)
	if err != nil {
		return err
	}
	data := map[string]any{"Rows": rows, "Due": due, "Units": corecount.Units, "Today": today, "Me": c.Who.ID,
		"Here": c.Who.Branch}
	if data["Branches"], err = office.Branches(c.Q()); err != nil {
		return err
	}
	if data["Categories"], err = goods.Categories(c.Q()); err != nil {
		return err
	}
	if data["People"], err = counterList(c); err != nil {
		return err
	}
	return c.Page("schedules", "Counts", "Schedules", data)
}

// history is how right the counts were over time, and what was lost and found why.
func history(c *kit.Call) error {
	columns := []kit.Column[storecounts.History]{kit.Col("month", func(r storecounts.History) any { return r.Month }),
		kit.Col("branch", func(r storecounts.History) any { return r.Branch }),
		kit.Col("category", func(r storecounts.History) any { return r.Category }),
		kit.Col("counts", func(r storecounts.History) any { return r.Counts }),
		kit.Col("rows", func(r storecounts.History) any { return r.Rows }),
		kit.Col("right", func(r storecounts.History) any { return r.Right }),
		kit.Col("accuracy %", func(r storecounts.History) any { return decimal.New(int64(r.Accuracy()), -1) }),
		kit.Col("short", func(r storecounts.History) any { return r.Short }),
		kit.Col("over", func(r storecounts.History) any { return r.Over }),
		kit.CostCol("value", func(r storecounts.History) any { return c.Amount(r.Value) })}
	reasons, err := storecounts.Reasons(c.Q(), c.Shop.Now().AddDate(-1, 0, 0))
	if err != nil {
		return err
	}
	return kit.Listed(c, "count_history", "Counts", "How right the counts were", columns, storecounts.Histories,
		map[string]any{"Reasons": reasons})
}

// handPage is the page for counting in the hand; it asks for all else itself.
func handPage(c *kit.Call) error {
	return c.HandPage("count_hand", "Counts", "Counting in the hand", nil)
}

// calendar is the iCalendar feed of whose secret its address is.
func calendar(c *kit.Call) error {
	feed, err := shopcounts.Calendar(c.Until, c.Shop, c.Text("secret"))
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, "text/calendar; charset=utf-8")
	c.Set(fiber.HeaderCacheControl, "private, max-age=900")
	return c.SendString(feed)
}
