package labels

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/paper"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/scan"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/device"
	"itemrack/device/face"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/devices"
	"itemrack/store/goods"
	"itemrack/store/labels"
	"itemrack/store/office"
)

// LabelWish is how many labels of a variant are wanted, of a lot or for single
// units where they are named.
type LabelWish struct {
	Variant uint64 `json:"variant_id"`
	Copies  int    `json:"copies"`
	Lot     string `json:"lot"`
	Expiry  string `json:"expiry"`
	Serial  string `json:"serial"`
	Former  string `json:"former_price"`
}

// LabelRequest asks for labels on a template, at the prices of a list. Skip is
// how many labels of the first sheet are used already.
type LabelRequest struct {
	Template string `json:"template"`
	List     uint64 `json:"price_list_id"`
	Skip     int    `json:"skip"`
	// Condition is the one that the goods are sold in apart from new; empty for new ones.
	Condition string      `json:"condition"`
	Labels    []LabelWish `json:"labels"`
}

// LabelSheet is the labels as they will print.
type LabelSheet struct {
	Template label.Template
	Pages    []paper.Page
	Remarks  []string
	Count    int
}

var sampleDay = time.Date(2027, 6, 30, 0, 0, 0, 0, time.UTC)

// own begins the codes of the shop's own templates.
const own = "own-"

// LabelTemplates lists the kinds of label: those that ship with the program, then
// the shop's own.
func LabelTemplates(ctx context.Context, s *deed.Shop) ([]label.Template, error) {
	rows, err := labels.LabelTemplates(s.Store.Read(ctx))
	if err != nil {
		return nil, err
	}
	list := label.Shipped()
	for _, r := range rows {
		t, err := label.Parse([]byte(r.Body))
		if err != nil {
			return nil, fmt.Errorf("label %s: %w", r.Name, err)
		}
		t.Code, t.Name = fmt.Sprint(own, r.ID), r.Name
		list = append(list, t)
	}
	return list, nil
}

// LabelTemplate finds a kind of label; an empty code is the first.
func LabelTemplate(ctx context.Context, s *deed.Shop, code string) (label.Template, error) {
	list, err := LabelTemplates(ctx, s)
	if err != nil {
		return label.Template{}, err
	}
	t, ok := label.ByCode(list, code)
	if !ok {
		return t, fault.Field("template", code, "a label such as a4-40x25", "There is no label %q.", code)
	}
	return t, nil
}

// Kind is a kind of label as it is listed, with its revision.
type Kind struct {
	label.Template
	Revision string `json:"revision"` // on saving: as it was shown; another one is refused
}

// KindOf gives a kind of label its revision.
func KindOf(t label.Template) Kind { return Kind{t, revision.Of(t)} }

// kept reads a kind of label of the shop's own, locked until the transaction ends.
func kept(tx store.Tx, code string) (labels.LabelTemplate, label.Template, error) {
	id, err := strconv.ParseUint(strings.TrimPrefix(code, own), 10, 64)
	if err != nil {
		return labels.LabelTemplate{}, label.Template{}, fault.Missing("template", code, "There is no label %q.", code)
	}
	row, err := labels.LockLabelTemplate(tx, id)
	if err != nil {
		return row, label.Template{}, err
	}
	t, err := label.Parse([]byte(row.Body))
	t.Code, t.Name = fmt.Sprint(own, row.ID), row.Name
	return row, t, err
}

// SaveLabelTemplate keeps a kind of label of the shop's own: a new one, or, with
// the code of one of its own, in place of that.
func SaveLabelTemplate(do deed.Deed, code string, in Kind) (Kind, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Kind, error) {
		t := in.Template
		t.Name = text.Tidy(t.Name)
		if err := t.Validate(); err != nil {
			return in, err
		}
		var row labels.LabelTemplate
		if strings.HasPrefix(code, own) {
			var have label.Template
			var err error
			if row, have, err = kept(do.Tx, code); err != nil {
				return in, err
			}
			if err := revision.CheckOf(have.Name, in.Revision, have); err != nil {
				return in, err
			}
		}
		t.Code = ""
		body, err := json.Marshal(t)
		if err != nil {
			return in, err
		}
		row.Name, row.Body = t.Name, string(body)
		if err := labels.SaveLabelTemplate(do.Tx, &row); err != nil {
			return in, err
		}
		t.Code = fmt.Sprint(own, row.ID)
		return KindOf(t), nil
	})
}

// DropLabelTemplate drops a kind of label of the shop's own.
func DropLabelTemplate(do deed.Deed, code string) (shopcatalog.Changed, error) {
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (shopcatalog.Changed, error) {
		id, err := strconv.ParseUint(strings.TrimPrefix(code, own), 10, 64)
		if err != nil || !strings.HasPrefix(code, own) {
			return shopcatalog.Changed{}, fault.Refuse("template", code, "a label of the shop's own",
				"That label comes with the program; it stays.")
		}
		return shopcatalog.Changed{ID: id, Says: "The label is dropped."}, labels.DropLabelTemplate(do.Tx, id)
	})
}

// Labels lays labels out. The screen preview and the PDF are drawn from the
// same pages.
func Labels(do deed.Deed, in LabelRequest) (LabelSheet, error) {
	if err := do.Who.May(staff.DeedLabels); err != nil {
		return LabelSheet{}, err
	}
	template, err := LabelTemplate(do.Ctx, do.Shop, in.Template)
	if err != nil {
		return LabelSheet{}, err
	}
	return labelsOn(do.Ctx, do.Shop, template, in)
}

func labelsOn(ctx context.Context, s *deed.Shop, template label.Template, in LabelRequest) (LabelSheet, error) {
	sheet := LabelSheet{Template: template}
	var ids []uint64
	for _, w := range in.Labels {
		ids = append(ids, w.Variant)
		if w.Copies < 0 || w.Copies > label.MaxLabels {
			return sheet, fault.Field("copies", w.Copies, "0 to 10,000", "%d labels can't be printed.", w.Copies)
		}
	}
	if len(in.Labels) > label.MaxLabels {
		return sheet, fault.Field("labels", len(in.Labels), "10,000 or fewer", "One print takes 10,000 labels at most.")
	}
	items, err := labelItems(ctx, s, ids, max(in.List, price.Regular), in.Condition)
	if err != nil {
		return sheet, err
	}
	var orders []label.Order
	for _, w := range in.Labels {
		item, ok := items[w.Variant]
		if !ok {
			return sheet, fault.Missing("variant_id", w.Variant, "There is no variant %d.", w.Variant)
		}
		item.Lot, item.Serial = strings.TrimSpace(w.Lot), strings.TrimSpace(w.Serial)
		if w.Expiry != "" {
			if item.Expiry, err = number.Day("expiry", w.Expiry); err != nil {
				return sheet, err
			}
		}
		if w.Former != "" {
			item.FormerPrice = w.Former
		}
		sheet.Count += w.Copies
		orders = append(orders, label.Order{Copies: w.Copies, Item: item})
	}
	sheet.Pages, sheet.Remarks, err = template.Print(orders, in.Skip, face.Measure)
	if small := fault.Of(err); small != nil && small.Kind == fault.Refused {
		kinds, listed := LabelTemplates(ctx, s)
		if listed != nil {
			return sheet, listed
		}
		if names := label.Holding(kinds, orders, face.Measure); len(names) > 0 {
			return sheet, small.Or(strings.Join(names, " or "))
		}
	}
	return sheet, err
}

// labelItems reads what labels say of some variants.
func labelItems(ctx context.Context, s *deed.Shop, ids []uint64, list uint64,
	apart string) (map[uint64]label.Item, error) {
	q := s.Store.Read(ctx)
	now := s.Now()
	set, err := q.Terms()
	if err != nil {
		return nil, err
	}
	found, err := goods.Sellables(q, ids, now)
	if err != nil {
		return nil, err
	}
	facts, err := labels.LabelFacts(q, ids)
	if err != nil {
		return nil, err
	}
	var pictures []uint64
	for _, f := range facts {
		pictures = append(pictures, f.PictureID)
	}
	thumbnails, err := goods.Thumbnails(q, pictures)
	if err != nil {
		return nil, err
	}
	condition, err := conditionOf(q, apart)
	if err != nil {
		return nil, err
	}
	items := map[uint64]label.Item{}
	one := decimal.New(1, 0)
	for id, v := range found {
		f := facts[id]
		item := label.Item{Name: v.Name, ShortName: v.ShortName, SKU: v.SKU, Barcode: v.Barcode, Part: f.Part}
		for i, value := range f.Values {
			item.Values = append(item.Values, label.AxisValue{Axis: f.Axes[i], Value: value})
		}
		answer := v.PriceOf(list, 0, one, now)
		if condition != 0 {
			if err := labelApart(&item, v, stock.Condition(apart), condition, answer, set); err != nil {
				return nil, err
			}
			items[id] = item
			continue
		}
		if answer.Source != price.NoPrice {
			amount := v.Book.Gross(answer.Amount, v.Percent)
			item.Price = set.Currency.Format(amount)
			if before, ok := v.Book.Former(v.Goods, list, now); ok {
				item.FormerPrice = set.Currency.Format(before)
			}
			item.UnitPrice = perUnit(set, v, f, amount)
		}
		if p, ok := thumbnails[f.PictureID]; ok {
			item.Picture = shopcatalog.Printed(p)
		}
		items[id] = item
	}
	return items, nil
}

// conditionOf is the number of a condition that goods are sold in apart from new; 0 for new ones.
func conditionOf(q store.Q, name string) (uint64, error) {
	if name == "" || name == string(stock.ForSale) {
		return 0, nil
	}
	list, err := office.Conditions(q)
	for _, f := range list {
		if string(f.Name) == name && f.Sold {
			return f.ID, err
		}
	}
	if err == nil {
		err = fault.Field("condition", name, "a condition that is sold", "Nothing is sold as %s.", name)
	}
	return 0, err
}

// labelApart makes a label that of a variant in a condition: with its price there, and a code that means both.
func labelApart(item *label.Item, v goods.Sellable, c stock.Condition, condition uint64, asked price.Answer,
	set terms.Terms) error {
	if err := v.SoldIn(c, 0); err != nil {
		return err
	}
	item.Values = append(item.Values, label.AxisValue{Axis: "condition", Value: string(c)})
	item.Barcode = scan.ConditionCode(v.ID, condition)
	if p, has := v.PriceIn(c, asked); has {
		item.Price = set.Currency.Format(v.Book.Gross(p, v.Percent))
	}
	return nil
}

// perUnit is the price of a base amount of what the thing holds.
func perUnit(set terms.Terms, v goods.Sellable, f labels.LabelFact, amount decimal.Decimal) string {
	content, measure := decimal.New(1, 0), v.Unit.Code
	if f.Content != nil {
		content, measure = *f.Content, f.Measure
	} else if v.Unit.Decimals == 0 {
		return ""
	}
	each, of, ok := price.PerUnit(amount, content, measure, set.Minor())
	if !ok {
		return ""
	}
	return set.Currency.Format(each) + " / " + of
}

// PrintLabels puts labels through the label-printer stand-in.
func PrintLabels(do deed.Deed, in LabelRequest) (LabelSheet, error) {
	sheet, err := Labels(do, in)
	if err != nil {
		return sheet, err
	}
	return sheet, device.Print(do.Ctx, devices.Of(do.Shop.Store), device.LabelPrinter,
		fmt.Sprintf("%s, %s", text.Plural(sheet.Count, "label", "labels"), sheet.Template.Name), sheet.Pages, do.Shop.Now())
}

// Sample is a label with everything on it, for the designer, at prices of a currency.
func Sample(c money.Currency) label.Item {
	return label.Item{
		Name:        "Tidewater rash vest",
		ShortName:   "Rash vest",
		Values:      []label.AxisValue{{Axis: "Colour", Value: "Coral"}, {Axis: "Size", Value: "M"}},
		SKU:         "TWV-COR-M",
		Price:       c.Format(decimal.New(3495, -2)),
		FormerPrice: c.Format(decimal.New(3995, -2)),
		UnitPrice:   c.Format(decimal.New(3495, -2)) + " / pc",
		Part:        "KT-1180",
		Barcode:     "2000000000015",
		Lot:         "K614",
		Expiry:      sampleDay,
		Serial:      "BW26-01184",
	}
}

// Design draws a template that is being made, with a sample item or a real one,
// and says what is unwise about it.
func Design(do deed.Deed, t label.Template, variant uint64) (paper.Page, []string, error) {
	if err := do.Who.May(staff.DeedLabels); err != nil {
		return paper.Page{}, nil, err
	}
	if err := t.Validate(); err != nil {
		return paper.Page{}, nil, err
	}
	set, err := do.Shop.Store.Read(do.Ctx).Terms()
	if err != nil {
		return paper.Page{}, nil, err
	}
	item := Sample(set.Currency)
	if variant != 0 {
		items, err := labelItems(do.Ctx, do.Shop, []uint64{variant}, price.Regular, "")
		if err != nil {
			return paper.Page{}, nil, err
		}
		if real, ok := items[variant]; ok {
			item = real
		}
	}
	page := paper.Page{Width: t.Width, Height: t.Height}
	remarks := t.Remarks()
	shapes, said, err := t.Draw(item, face.Measure)
	if e := fault.Of(err); e != nil { // drawn without what can't be
		said = append(said, e.Whole())
		for _, f := range t.Fields {
			one := t
			one.Fields = []label.Field{f}
			if drawn, _, err := one.Draw(item, face.Measure); err == nil {
				shapes = append(shapes, drawn...)
			}
		}
	} else if err != nil {
		return page, nil, err
	}
	page.Shapes = shapes
	return page, append(remarks, said...), nil
}
