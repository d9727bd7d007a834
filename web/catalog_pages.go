package web

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/device"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) today() error {
	s := c.server.shop
	low, lowCount, err := c.q().Low(12)
	if err != nil {
		return err
	}
	off, err := c.q().NotForSale(8)
	if err != nil {
		return err
	}
	registers, err := c.q().Registers()
	if err != nil {
		return err
	}
	open, err := c.q().OpenCounts()
	if err != nil {
		return err
	}
	began := s.DayBegan()
	count, gross, err := c.q().TodaySales(began, s.Now())
	if err != nil {
		return err
	}
	lastCount, lastGross, err := c.q().TodaySales(began.AddDate(0, 0, -7), s.Now().AddDate(0, 0, -7))
	if err != nil {
		return err
	}
	loose, err := c.q().LooseCharges(s.Now())
	if err != nil {
		return err
	}
	return c.page("today", "Today", "Today", map[string]any{"Low": low, "LowCount": lowCount, "Off": off, "Registers": registers, "Counts": open,
		"Figures": []figure{c.money(gross, plural(count, "sale", "sales")+" today"), c.money(lastGross, fmt.Sprintf("%d by now last %s", lastCount, began.In(s.Zone).Format("Monday"))),
			{Amount: strconv.Itoa(lowCount), Name: "running low"}, {Amount: strconv.Itoa(len(open)), Name: "counts open"}}, "Loose": loose, "Sells": c.who.Can(shop.DeedSell)})
}

func (c *call) catalog() error {
	filter := store.ProductFilter{Words: c.Query("q"), Category: fiber.Query[uint64](c.Ctx, "category")}
	rows, more, err := c.q().Products(filter, c.pageNumber(), c.server.shop.Now())
	if err != nil {
		return err
	}
	categories, err := c.q().Categories()
	if err != nil {
		return err
	}
	return c.page("catalog", "Catalog", "Catalog", map[string]any{"Rows": rows, "Pager": c.pager(more), "Categories": categories, "Filter": filter})
}

func (c *call) newProduct() error {
	categories, err := c.q().Categories()
	if err != nil {
		return err
	}
	suppliers, err := c.q().Suppliers()
	if err != nil {
		return err
	}
	classes, err := c.q().TaxClasses()
	if err != nil {
		return err
	}
	return c.page("product_new", "Catalog", "New product", map[string]any{"Categories": categories, "Suppliers": suppliers, "Classes": classes, "Units": unit.All, "Now": c.server.shop.Now()})
}

// newProductRack draws the rack that a product would have, as it is typed.
func (c *call) newProductRack() error {
	var in shop.NewProduct
	if err := c.read(&in); err != nil {
		return err
	}
	leftOut := in.LeftOut
	in.LeftOut = nil
	all, err := c.server.shop.PreviewProduct(c.who, in)
	if err != nil {
		return err
	}
	out := map[string]bool{}
	for _, choice := range leftOut {
		out[strings.Join(choice, "\x1f")] = true
	}
	p := store.ProductView{Product: store.Product{Name: "New product"}, Axes: all.Axes, UnitOf: unit.Piece}
	at := map[string]shop.PreviewCell{}
	for i, cell := range all.Cells {
		p.Variants = append(p.Variants, store.VariantView{ID: uint64(i + 1), Label: cell.Choice.Label(), Choice: cell.Choice})
		at[cell.Choice.Key()] = cell
	}
	made := 0
	own := map[string]string{}
	for _, o := range in.OwnPrices {
		own[strings.ToLower(strings.Join(o.Choice, "\x1f"))] = o.Price
	}
	draw := func(mode string) rackView {
		made = 0
		return hang(p, mode, "variants", func(v store.VariantView) (cellView, decimal.Decimal) {
			choice, _ := json.Marshal([]string(v.Choice))
			cell := cellView{Choice: string(choice), Note: at[v.Choice.Key()].SKU, Value: own[v.Choice.Key()], Hint: in.Price}
			if out[strings.Join(v.Choice, "\x1f")] {
				cell.Off = true
				return cell, decimal.Zero
			}
			made++
			return cell, decimal.New(1, 0)
		})
	}
	mode := rackMake
	if c.Query("view") == "price" {
		mode = rackNumber
	}
	rack := draw(mode)
	rack.Dense = true
	if mode == rackNumber {
		rack.What = "prices"
		rack.Totals, rack.Total = nil, ""
		for i := range rack.Rails {
			rack.Rails[i].Total = ""
		}
	}
	return c.fragment("new_rack", map[string]any{"Rack": rack, "Made": made, "First": first(all.Cells)})
}

func first(cells []shop.PreviewCell) string {
	if len(cells) == 0 {
		return ""
	}
	return cells[0].SKU
}

// productFigures is what the strip over a product's rack says.
type productFigures struct {
	PriceMin, PriceMax              decimal.Decimal
	OnHand, ForSale, Value, Average decimal.Decimal
	Margin                          string
	Low                             int
}

func (c *call) figures(p store.ProductView) productFigures {
	var f productFigures
	for i, v := range p.Variants {
		if i == 0 || v.Price.LessThan(f.PriceMin) {
			f.PriceMin = v.Price
		}
		f.PriceMax = decimal.Max(f.PriceMax, v.Price)
		f.OnHand, f.ForSale, f.Value = f.OnHand.Add(v.OnHand), f.ForSale.Add(v.ForSale), f.Value.Add(v.Value)
		if v.Low {
			f.Low++
		}
	}
	if f.OnHand.IsPositive() {
		f.Average = cost.Pool{Quantity: f.OnHand, Value: f.Value}.Average()
		f.Margin = c.margin(p, f.PriceMin, f.Average)
	}
	return f
}

// margin is the margin of a price of a product in words, or nothing.
func (c *call) margin(p store.ProductView, gross, cost decimal.Decimal) string {
	if cost.IsZero() {
		return ""
	}
	m, ok := price.Margin(price.Net(gross, p.TaxClass.At(c.server.shop.Now())), cost)
	if !ok {
		return ""
	}
	return strings.Replace(m.StringFixed(1), "-", "−", 1) + " %"
}

// rackViews are what can hang on a product's rack.
var rackViews = []struct{ Code, Name string }{{"on_hand", "On hand"}, {"available", "Available"}, {"here", "At this branch"}, {"price", "Price"}, {"value", "Value"}}

func (c *call) product() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	p, err := c.q().Product(id, c.who.Branch, c.server.shop.Now())
	if err != nil {
		return err
	}
	hung := c.Query("hang", "on_hand")
	rack := hang(p, rackLook, "on hand", onHandCell(p))
	switch hung {
	case "available":
		rack = hang(p, rackLook, "available", func(v store.VariantView) (cellView, decimal.Decimal) {
			return cellView{Figure: p.UnitOf.Format(v.ForSale), HasGauge: true}, v.ForSale
		})
	case "here":
		rack = hang(p, rackLook, "for sale at this branch", func(v store.VariantView) (cellView, decimal.Decimal) {
			return cellView{Figure: p.UnitOf.Format(v.Here)}, v.Here
		})
	case "price", "value":
		rack = hang(p, rackLook, hung, func(v store.VariantView) (cellView, decimal.Decimal) {
			if hung == "price" {
				cell := cellView{Figure: v.Price.StringFixed(2)}
				if v.PriceSource == price.OwnPrice {
					cell.Note = "own"
				}
				return cell, decimal.Zero
			}
			return cellView{Figure: v.Value.StringFixed(2)}, v.Value
		})
		for i := range rack.Rails {
			rack.Rails[i].Total = ""
		}
		rack.Totals, rack.Total = nil, ""
	default:
		hung = "on_hand"
	}
	return c.page("product", "Catalog", p.Name, map[string]any{"P": p, "Rack": rack, "Strip": c.productStrip(p.Unit, c.figures(p)), "Hung": hung, "Views": rackViews,
		"First": fiber.Query[uint64](c.Ctx, "variant"), "Edits": c.who.Can(shop.DeedCatalog)})
}

func (c *call) extendProduct() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	p, err := c.q().Product(id, c.who.Branch, c.server.shop.Now())
	if err != nil {
		return err
	}
	rack := hang(p, rackNumber, "prices", func(v store.VariantView) (cellView, decimal.Decimal) {
		cell := cellView{Value: v.Price.StringFixed(2)}
		if v.PriceSource == price.OwnPrice {
			cell.Note = "own"
		}
		return cell, decimal.Zero
	})
	rack.Totals = nil
	for i := range rack.Rails {
		rack.Rails[i].Total = ""
	}
	rack.Total = ""
	return c.page("product_more", "Catalog", "Change "+p.Name, map[string]any{"P": p, "Rack": rack, "Figures": c.figures(p)})
}

// tagView is what a swing tag says of a variant.
type tagView struct {
	P          store.ProductView
	V          store.VariantView
	Margin     string
	Swatch     string
	Places     []store.Place
	Moves      []store.Movement
	Units      []store.UnitView
	Conditions []stock.Condition
	SVG        string
}

func (c *call) swingTag() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	tag, err := c.tag(id)
	if err != nil {
		return err
	}
	return c.fragment("swingtag", map[string]any{"Tag": tag, "Sells": c.who.Can(shop.DeedSell)})
}

func (c *call) tag(variant uint64) (tagView, error) {
	var tag tagView
	found, err := c.q().Sellables([]uint64{variant}, c.server.shop.Now())
	if err != nil {
		return tag, err
	}
	known, ok := found[variant]
	if !ok {
		return tag, fault.Missing("variant", variant, "There is no variant %d.", variant)
	}
	if tag.P, err = c.q().Product(known.ProductID, c.who.Branch, c.server.shop.Now()); err != nil {
		return tag, err
	}
	tag.V, _ = tag.P.Variant(variant)
	if len(tag.P.Axes) > 0 {
		for _, value := range tag.P.Axes[0].Values {
			if len(tag.V.Choice) > 0 && value.Name == tag.V.Choice[0] {
				tag.Swatch = value.Swatch
			}
		}
	}
	tag.Margin = c.margin(tag.P, tag.V.Price, tag.V.Average)
	if tag.Places, err = c.q().Places(variant); err != nil {
		return tag, err
	}
	if tag.Moves, _, err = c.q().Movements(variant, store.MovementFilter{Limit: 5}); err != nil {
		return tag, err
	}
	if tag.P.Tracking == string(stock.BySerial) {
		tag.Units, err = c.q().Units(variant, 8)
	}
	return tag, err
}

func (c *call) labels() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	p, err := c.q().Product(id, c.who.Branch, c.server.shop.Now())
	if err != nil {
		return err
	}
	rack := hang(p, rackNumber, "labels", func(v store.VariantView) (cellView, decimal.Decimal) {
		return cellView{Hint: "0", Note: p.UnitOf.Format(v.Here) + " here"}, decimal.Zero
	})
	here := map[uint64]string{}
	for _, v := range p.Variants {
		here[v.ID] = v.Here.Truncate(0).String()
	}
	return c.page("labels", "Catalog", "Labels · "+p.Name, map[string]any{"P": p, "Rack": rack, "Layouts": label.Layouts, "Here": here})
}

// labelRequest reads which labels are wanted from an address such as
// ?layout=a4-40x25&n=12:3&n=13:1, variant and copies.
func (c *call) labelRequest() (shop.LabelRequest, error) {
	in := shop.LabelRequest{Layout: c.Query("layout")}
	var err error
	for name, value := range c.RequestCtx().QueryArgs().All() {
		if string(name) != "n" || err != nil {
			continue
		}
		variant, copies, _ := strings.Cut(string(value), ":")
		v, wrong1 := strconv.ParseUint(variant, 10, 64)
		n, wrong2 := strconv.Atoi(copies)
		if wrong1 != nil || wrong2 != nil {
			err = fault.Field("n", string(value), "a variant and how many, such as 12:3", "%q does not say how many labels of what.", value)
			continue
		}
		in.Labels = append(in.Labels, shop.LabelWish{Variant: v, Copies: n})
	}
	return in, err
}

func (c *call) labelSheet() (shop.LabelSheet, error) {
	in, err := c.labelRequest()
	if err != nil {
		return shop.LabelSheet{}, err
	}
	return c.server.shop.Labels(c.ctx, c.who, in)
}

// previewPages is how many pages the preview draws; the PDF has them all.
const previewPages = 3

func (c *call) labelPreview() error {
	sheet, err := c.labelSheet()
	if err != nil {
		return err
	}
	return c.fragment("label_preview", map[string]any{"Pages": sheet.Pages[:min(len(sheet.Pages), previewPages)], "Count": sheet.Count, "All": len(sheet.Pages), "Remarks": sheet.Remarks})
}

func (c *call) labelPDF() error {
	sheet, err := c.labelSheet()
	if err != nil {
		return err
	}
	data, err := device.PDF("Labels", sheet.Pages)
	if err != nil {
		return err
	}
	return c.pdf("labels.pdf", data)
}

func (c *call) pdf(name string, data []byte) error {
	c.Set(fiber.HeaderContentType, "application/pdf")
	c.Set(fiber.HeaderContentDisposition, `inline; filename="`+name+`"`)
	return c.Ctx.Send(data)
}
