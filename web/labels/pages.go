package labels

import (
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	shoplabels "itemrack/shop/labels"
	"itemrack/store/buying"
	"itemrack/store/goods"
	storelists "itemrack/store/lists"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/web/kit"
)

// labels is the page that labels of one product are chosen on, by its rack. With
// ?each=1 every variant has one already, as after making it.
func labels(c *kit.Call) error {
	p, err := c.ProductOf()
	if err != nil {
		return err
	}
	each := c.Query("each")
	rack := kit.Hang(p, kit.RackNumber, "labels", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Hint: "0", Note: p.UnitOf.Format(v.Here) + " here"}
		if n, err := strconv.Atoi(each); err == nil && n > 0 && n < 1000 {
			cell.Value = each
			return cell, decimal.New(int64(n), 0)
		}
		return cell, decimal.Zero
	})
	here := map[uint64]string{}
	for _, v := range p.Variants {
		here[v.ID] = v.Here.Truncate(0).String()
	}
	return labelPage(c, p.Name, map[string]any{"P": p, "Rack": rack, "Here": here})
}

// labelList is the page that labels of any variants are chosen on: those ticked
// in a list, or just added.
func labelList(c *kit.Call) error {
	in, err := labelRequest(c)
	if err != nil {
		return err
	}
	if list := c.Query("variants"); list != "" {
		for _, text := range strings.Split(list, ",") {
			if id, err := strconv.ParseUint(text, 10, 64); err == nil {
				in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: id, Copies: 1})
			}
		}
	}
	if list := c.Query("products"); list != "" {
		var products []uint64
		for _, text := range strings.Split(list, ",") {
			if id, err := strconv.ParseUint(text, 10, 64); err == nil {
				products = append(products, id)
			}
		}
		all, err := goods.VariantsOf(c.Q(), products)
		if err != nil {
			return err
		}
		for _, v := range all {
			in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: v, Copies: 1})
		}
	}
	if id := fiber.Query[uint64](c.Ctx, "import"); id != 0 {
		made, err := storelists.MadeByImport(c.Q(), id, 1000)
		if err != nil {
			return err
		}
		for _, v := range made {
			in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: v, Copies: 1})
		}
	}
	var order buying.OrderView
	if id := fiber.Query[uint64](c.Ctx, "order"); id != 0 {
		var lines []buying.OrderLine
		if order, lines, err = buying.ReadOrder(c.Q(), id); err != nil {
			return err
		}
		for _, l := range lines {
			n := l.Quantity
			if c.Query("of") == "outstanding" {
				n = l.Outstanding
			}
			in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: l.VariantID, Copies: int(n.Ceil().IntPart())})
		}
	}
	title := order.Number
	if id := fiber.Query[uint64](c.Ctx, "delivery"); id != 0 { // what came, of each a label
		came, lines, err := buying.ReadDelivery(c.Q(), id)
		if err != nil {
			return err
		}
		for _, l := range lines {
			in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: l.VariantID,
				Copies: int(l.Quantity.Ceil().IntPart())})
		}
		title = came.Number
	}
	var ids []uint64
	for _, w := range in.Labels {
		ids = append(ids, w.Variant)
	}
	rows, err := goods.VariantRows(c.Q(), ids[:min(len(ids), 1000)])
	if err != nil {
		return err
	}
	here := map[uint64]string{}
	copies := map[uint64]int{}
	for _, w := range in.Labels {
		copies[w.Variant] += w.Copies
	}
	for _, r := range rows {
		here[r.ID] = r.ForSale.Truncate(0).String()
	}
	return labelPage(c, title, map[string]any{"Rows": rows, "Copies": copies, "Here": here, "Order": order,
		"Of": c.Query("of")})
}

func labelPage(c *kit.Call, of string, data map[string]any) error {
	templates, err := shoplabels.LabelTemplates(c.Until, c.Shop)
	if err != nil {
		return err
	}
	lists, err := prices.PriceLists(c.Q())
	if err != nil {
		return err
	}
	conditions, err := office.Conditions(c.Q())
	if err != nil {
		return err
	}
	var sold []stock.Condition
	for _, f := range conditions {
		if f.Sold && !f.Closed {
			sold = append(sold, f.Name)
		}
	}
	data["Conditions"] = sold
	data["Condition"] = c.Query("condition")
	data["Templates"], data["Lists"], data["Chosen"] = templates, lists, c.Query("template")
	title := "Labels"
	if of != "" {
		title += " · " + of
	}
	return c.Page("labels", "Catalog", title, data)
}

// labelRequest reads which labels are wanted from an address such as
// ?template=a4-40x25&skip=3&n=12:3&n=13:1, variant and copies.
func labelRequest(c *kit.Call) (shoplabels.LabelRequest, error) {
	in := shoplabels.LabelRequest{
		Template: c.Query("template"),
		Skip:     fiber.Query[int](c.Ctx, "skip"),
		List:     fiber.Query[uint64](c.Ctx, "list"),

		Condition: c.Query("condition"),
	}
	var err error
	for name, value := range c.RequestCtx().QueryArgs().All() {
		if string(name) != "n" || err != nil {
			continue
		}
		variant, copies, _ := strings.Cut(string(value), ":")
		v, wrong1 := strconv.ParseUint(variant, 10, 64)
		n, wrong2 := strconv.Atoi(copies)
		if wrong1 != nil || wrong2 != nil {
			err = fault.Field("n", string(value), "a variant and how many, such as 12:3",
				"%q does not say how many labels of what.", value)
			continue
		}
		in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: v, Copies: n})
	}
	return in, err
}

func labelSheet(c *kit.Call) (shoplabels.LabelSheet, error) {
	if c.Method() == fiber.MethodPost {
		var in shoplabels.LabelRequest
		if err := c.Read(&in); err != nil {
			return shoplabels.LabelSheet{}, err
		}
		return shoplabels.Labels(c.Deed(), in)
	}
	in, err := labelRequest(c)
	if err != nil {
		return shoplabels.LabelSheet{}, err
	}
	return shoplabels.Labels(c.Deed(), in)
}

// previewPages is how many pages the preview draws; the PDF has them all.
const previewPages = 3

func labelPreview(c *kit.Call) error {
	sheet, err := labelSheet(c)
	if err != nil {
		return err
	}
	return c.Fragment(
		"label_preview",
		map[string]any{
			"Pages":   sheet.Pages[:min(len(sheet.Pages), previewPages)],
			"Count":   sheet.Count,
			"All":     len(sheet.Pages),
			"Remarks": sheet.Remarks,
			"Roll":    sheet.Template.Sheet.Paper == label.Roll,
		},
	)
}

func labelPDF(c *kit.Call) error {
	sheet, err := labelSheet(c)
	if err != nil {
		return err
	}
	data, err := device.PDF("Labels", sheet.Pages)
	if err != nil {
		return err
	}
	return c.Pdf("labels.pdf", data)
}

// labelTemplates is the list of the kinds of label.
func labelTemplates(c *kit.Call) error {
	list, err := shoplabels.LabelTemplates(c.Until, c.Shop)
	if err != nil {
		return err
	}
	type row struct {
		label.Template
		Page any
		Own  bool
	}
	var rows []row
	for _, t := range list {
		page, _, err := shoplabels.Design(c.Deed(), t, 0)
		if err != nil {
			return err
		}
		rows = append(rows, row{t, page, strings.HasPrefix(t.Code, "own-")})
	}
	return c.Page("label_templates", "Catalog", "Kinds of label",
		map[string]any{"Rows": rows, "Edits": c.Who.Can(staff.DeedCatalog)})
}

// designLabel is the page on which a kind of label is designed.
func designLabel(c *kit.Call) error {
	t, err := shoplabels.LabelTemplate(c.Until, c.Shop, c.Text("code"))
	if err != nil {
		return err
	}
	return c.Page(
		"label_design",
		"Catalog",
		"Design a label",
		map[string]any{
			"T":       t,
			"Kinds":   label.Kinds,
			"Symbols": barcode.Symbologies,
			"Papers":  label.Papers,
			"Own":     strings.HasPrefix(t.Code, "own-"),
		},
	)
}

// drawDesign draws a kind of label while it is designed.
func drawDesign(c *kit.Call) error {
	var t label.Template
	if err := c.Read(&t); err != nil {
		return err
	}
	page, remarks, err := shoplabels.Design(c.Deed(), t, fiber.Query[uint64](c.Ctx, "variant"))
	if err != nil {
		return err
	}
	return c.Fragment("label_drawn", map[string]any{"Page": page, "Remarks": remarks})
}
