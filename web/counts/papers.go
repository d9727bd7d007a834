package counts

import (
	"cmp"
	"slices"

	"github.com/gofiber/fiber/v3"

	corecount "itemrack/core/count"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	"itemrack/device/face"
	shopcounts "itemrack/shop/counts"
	"itemrack/store/book"
	storecounts "itemrack/store/counts"
	"itemrack/store/office"
	"itemrack/web/kit"
)

// countFile sends what a count came to, as CSV, XLSX or PDF.
func countFile(c *kit.Call, figures shopcounts.CountFigures) error {
	if c.Query("format") == "pdf" {
		return reportPDF(c, figures)
	}
	columns := []kit.Column[shopcounts.CountFigure]{
		kit.Col("product", func(r shopcounts.CountFigure) any { return r.Item.Name }),
		kit.Col("variant", func(r shopcounts.CountFigure) any { return r.Item.Label }),
		kit.Col("sku", func(r shopcounts.CountFigure) any { return r.Item.SKU }),
		kit.Col("barcode", func(r shopcounts.CountFigure) any { return r.Item.Barcode }),
		kit.Col("lot", func(r shopcounts.CountFigure) any { return r.Lot.Number }),
		kit.Col("condition", func(r shopcounts.CountFigure) any { return string(r.Key.Condition) }),
		kit.Col("planned", func(r shopcounts.CountFigure) any { return r.Planned }),
		kit.Col("expected", func(r shopcounts.CountFigure) any { return r.Expected }),
		kit.Col("counted", func(r shopcounts.CountFigure) any {
			if !r.Counted {
				return nil
			}
			return r.Quantity
		}),
		kit.Col("variance", func(r shopcounts.CountFigure) any { return r.Differs }),
		kit.CostCol("value", func(r shopcounts.CountFigure) any { return c.Amount(r.Value) }),
		kit.Col("reason", func(r shopcounts.CountFigure) any { return r.Reason })}
	_, err := kit.AsFile(c, figures.Count.Number, columns, figures.Rows)
	return err
}

func reportPDF(c *kit.Call, figures shopcounts.CountFigures) error {
	shop, err := office.Setting(c.Q(), "shop_name")
	if err != nil {
		return err
	}
	costs := c.Who.Can(staff.DeedCosts)
	report := corecount.Report{Shop: shop, Number: figures.Count.Number, Branch: figures.Count.Branch,
		Scope: figures.Count.Scope}
	if at := figures.Count.ClosedAt; at != nil {
		report.Closed = "settled " + at.In(c.Terms.Zone).Format("2 January 2006, 15:04") + " by " + figures.Count.Closer
	}
	data := map[string]any{}
	if err := sumUp(c, figures, nil, data); err != nil {
		return err
	}
	for _, f := range data["Figures"].([]kit.Figure) {
		if f.Amount != "" {
			report.Sums = append(report.Sums, f.Amount+" "+f.Name)
		}
	}
	for _, f := range figures.Rows {
		if !f.Counted || f.Differs.IsZero() {
			continue
		}
		row := corecount.ReportRow{Name: f.Item.Name, Label: f.Item.Label, Lot: f.Lot.Number,
			Condition: f.Key.Condition, Reason: f.Reason,
			Expected: f.Item.Unit.Format(f.Expected), Counted: f.Item.Unit.Format(f.Quantity),
			Differs: kit.Signed(f.Item.Unit.Code, f.Differs),
			Missing: f.Missing}
		if costs {
			row.Value = c.Terms.Currency.Format(f.Value)
		}
		report.Rows = append(report.Rows, row)
	}
	data2, err := device.PDF("Count "+report.Number, report.Listing().Pages(face.Measure))
	if err != nil {
		return err
	}
	return c.Pdf(report.Number+".pdf", data2)
}

// sheet is a count on paper, for one of its counters or for whoever counts.
func sheet(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	figures, err := shopcounts.ReadPage(c.Deed(), id, shopcounts.CountPage{Show: "", Page: 1, Size: 30_000})
	if err != nil {
		return err
	}
	v := figures.Count
	shop, err := office.Setting(c.Q(), "shop_name")
	if err != nil {
		return err
	}
	s := corecount.Sheet{Shop: shop, Number: v.Number, Branch: v.Branch, Scope: v.Scope, Note: v.Note, Blind: v.Blind}
	for _, k := range v.Counters {
		if k.ID == fiber.Query[uint64](c.Ctx, "counter") {
			s.Counter = k.Name
		}
	}
	if s.Rows, err = sheetRows(c, v, figures.Rows); err != nil {
		return err
	}
	data, err := device.PDF("Count "+v.Number, s.Listing().Pages(face.Measure))
	if err != nil {
		return err
	}
	return c.Pdf(v.Number+".pdf", data)
}

// sheetRows puts the rows of a count in the order of the shelves on which most of them lies.
func sheetRows(c *kit.Call, v storecounts.CountView, rows []shopcounts.CountFigure) ([]corecount.SheetRow, error) {
	ids := make([]uint64, len(rows))
	for i, f := range rows {
		ids[i] = f.Key.Variant
	}
	held, err := book.Look(c.Q(), ids)
	if err != nil {
		return nil, err
	}
	type placed struct {
		corecount.SheetRow
		shelf stock.Shelf
	}
	var list []placed
	for _, f := range rows {
		row := placed{SheetRow: corecount.SheetRow{Code: f.Item.Barcode, Name: f.Item.Name, Label: f.Item.Label,
			SKU: f.Item.SKU, Lot: f.Lot.Number,
			Condition: f.Key.Condition, Expected: f.Item.Unit.Format(f.Expected)}, shelf: mostOn(held, v.Place(), f.Key)}
		row.Shelf = row.shelf.Name
		if row.Code == "" {
			row.Code = f.Item.SKU
		}
		for _, p := range f.Item.Packs {
			if p.Bought || row.Pack == "" {
				row.Pack = p.Factor.String()
			}
		}
		if f.Item.Tracking == stock.BySerial && !v.Blind {
			row.Numbers = held.NumbersOn(f.Key.Variant, v.BranchID, v.Shelves, f.Key.Condition)
		}
		list = append(list, row)
	}
	slices.SortStableFunc(list, func(a, b placed) int {
		return cmp.Or(-cmp.Compare(b2i(a.shelf.Default), b2i(b.shelf.Default)),
			cmp.Compare(a.shelf.Order, b.shelf.Order), cmp.Compare(a.shelf.ID, b.shelf.ID))
	})
	sheet := make([]corecount.SheetRow, len(list))
	for i, r := range list {
		sheet[i] = r.SheetRow
	}
	return sheet, nil
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// mostOn is the shelf on which most of a row lies; the first that is counted where nothing does.
func mostOn(held stock.Holding, at corecount.Place, key corecount.RowKey) stock.Shelf {
	var best stock.Shelf
	for id, s := range held.Shelves {
		if s.Branch != at.Branch || s.Closed || len(at.Shelves) > 0 && !slices.Contains(at.Shelves, id) {
			continue
		}
		q := held.OnShelfOf(key.Variant, id, at.Branch, key.Lot, key.Condition)
		top := held.OnShelfOf(key.Variant, best.ID, at.Branch, key.Lot, key.Condition)
		if best.ID == 0 || q.GreaterThan(top) || q.Equal(top) && (s.Default || !best.Default && s.ID < best.ID) {
			best = s
		}
	}
	return best
}
