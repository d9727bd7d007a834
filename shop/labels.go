package shop

import (
	"context"
	"encoding/json"
	"fmt"

	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/core/paper"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/store"
)

// LabelWish is how many labels of a variant are wanted.
type LabelWish struct {
	Variant uint64 `json:"variant_id"`
	Copies  int    `json:"copies"`
}

// LabelRequest asks for labels in a layout.
type LabelRequest struct {
	Layout string      `json:"layout"`
	Labels []LabelWish `json:"labels"`
}

// LabelSheet is the labels as they will print.
type LabelSheet struct {
	Layout  label.Layout
	Pages   []paper.Page
	Remarks []string
	Count   int
}

// Labels lays labels out. The screen preview and the PDF are drawn from the
// same pages.
func (s *Shop) Labels(ctx context.Context, who Actor, in LabelRequest) (LabelSheet, error) {
	if err := who.May(DeedLabels); err != nil {
		return LabelSheet{}, err
	}
	layout, err := label.LayoutByCode(in.Layout)
	if err != nil {
		return LabelSheet{}, err
	}
	ids := make([]uint64, len(in.Labels))
	for i, w := range in.Labels {
		ids[i] = w.Variant
	}
	found, err := s.Store.Read(ctx).Sellables(ids, s.Now())
	if err != nil {
		return LabelSheet{}, err
	}
	sheet := LabelSheet{Layout: layout}
	var orders []label.Order
	for _, w := range in.Labels {
		v, ok := found[w.Variant]
		if !ok {
			return sheet, fault.Missing("variant_id", w.Variant, "There is no variant %d.", w.Variant)
		}
		if w.Copies < 0 || w.Copies > label.MaxLabels {
			return sheet, fault.Field("copies", w.Copies, "0 to 10,000", "%d labels can't be printed.", w.Copies)
		}
		sheet.Count += w.Copies
		orders = append(orders, label.Order{Copies: w.Copies, Item: label.Item{Name: v.Name, ShortName: v.ShortName, Detail: v.Label,
			Price: s.Currency.Format(v.Price), Barcode: v.Barcode}})
	}
	sheet.Pages, sheet.Remarks, err = label.Sheet(layout, orders, face.Measure)
	return sheet, err
}

// PrintLabels puts labels through the label-printer stand-in.
func (s *Shop) PrintLabels(ctx context.Context, who Actor, in LabelRequest) (LabelSheet, error) {
	sheet, err := s.Labels(ctx, who, in)
	if err != nil {
		return sheet, err
	}
	return sheet, device.Print(ctx, s.Store, device.LabelPrinter, fmt.Sprintf("%d labels", sheet.Count), sheet.Pages, s.Now())
}

// Paper is what came out of a printer, drawn.
type Paper struct {
	store.PrintJob
	Drawn []paper.Page
}

// Papers lists what came out of the printers last.
func (s *Shop) Papers(ctx context.Context, most int) ([]Paper, error) {
	jobs, err := s.Store.Read(ctx).Prints(most)
	list := make([]Paper, len(jobs))
	for i, j := range jobs {
		list[i].PrintJob = j
		if err := json.Unmarshal([]byte(j.Pages), &list[i].Drawn); err != nil {
			return nil, err
		}
	}
	return list, err
}

// SetDevice puts a stand-in into a state, such as out of paper.
func (s *Shop) SetDevice(ctx context.Context, who Actor, name, state string) (string, error) {
	return once(ctx, s, who, DeedDevices, "", func(tx store.Tx) (string, error) {
		for _, known := range device.States[name] {
			if known == state {
				return state, tx.SetDevice(name, state)
			}
		}
		return "", fault.Field("state", state, fmt.Sprint(device.States[name]), "The %s can't be %q.", name, state)
	})
}
