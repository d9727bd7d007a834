package web

import (
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/device"
	"itemrack/shop"
	"itemrack/store"
)

// labels is the page that labels of one product are chosen on, by its rack. With
// ?each=1 every variant has one already, as after making it.
func (c *call) labels() error {
	p, err := c.productOf()
	if err != nil {
		return err
	}
	each := c.Query("each")
	rack := hang(p, rackNumber, "labels", func(v store.VariantView) (cellView, decimal.Decimal) {
		cell := cellView{Hint: "0", Note: p.UnitOf.Format(v.Here) + " here"}
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
	return c.labelPage(p.Name, map[string]any{"P": p, "Rack": rack, "Here": here})
}

// labelList is the page that labels of any variants are chosen on: those ticked
// in a list, or just added.
func (c *call) labelList() error {
	in, err := c.labelRequest()
	if err != nil {
		return err
	}
	if list := c.Query("variants"); list != "" {
		for _, text := range strings.Split(list, ",") {
			if id, err := strconv.ParseUint(text, 10, 64); err == nil {
				in.Labels = append(in.Labels, shop.LabelWish{Variant: id, Copies: 1})
			}
		}
	}
	if id := fiber.Query[uint64](c.Ctx, "import"); id != 0 {
		made, err := c.q().MadeByImport(id, 1000)
		if err != nil {
			return err
		}
		for _, v := range made {
			in.Labels = append(in.Labels, shop.LabelWish{Variant: v, Copies: 1})
		}
	}
	var ids []uint64
	for _, w := range in.Labels {
		ids = append(ids, w.Variant)
	}
	rows, err := c.q().VariantRows(ids[:min(len(ids), 1000)], c.server.shop.Now())
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
	return c.labelPage("", map[string]any{"Rows": rows, "Copies": copies, "Here": here})
}

func (c *call) labelPage(of string, data map[string]any) error {
	templates, err := c.server.shop.LabelTemplates(c.ctx)
	if err != nil {
		return err
	}
	lists, err := c.q().PriceLists()
	if err != nil {
		return err
	}
	data["Templates"], data["Lists"], data["Chosen"] = templates, lists, c.Query("template")
	title := "Labels"
	if of != "" {
		title += " · " + of
	}
	return c.page("labels", "Catalog", title, data)
}

// labelRequest reads which labels are wanted from an address such as
// ?template=a4-40x25&skip=3&n=12:3&n=13:1, variant and copies.
func (c *call) labelRequest() (shop.LabelRequest, error) {
	in := shop.LabelRequest{Template: c.Query("template"), Skip: fiber.Query[int](c.Ctx, "skip"), List: fiber.Query[uint64](c.Ctx, "list")}
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
	if c.Method() == fiber.MethodPost {
		var in shop.LabelRequest
		if err := c.read(&in); err != nil {
			return shop.LabelSheet{}, err
		}
		return c.server.shop.Labels(c.ctx, c.who, in)
	}
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
	return c.fragment("label_preview", map[string]any{"Pages": sheet.Pages[:min(len(sheet.Pages), previewPages)], "Count": sheet.Count, "All": len(sheet.Pages), "Remarks": sheet.Remarks, "Roll": sheet.Template.Sheet.Paper == label.Roll})
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

// labelTemplates is the list of the kinds of label.
func (c *call) labelTemplates() error {
	list, err := c.server.shop.LabelTemplates(c.ctx)
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
		page, _, err := c.server.shop.Design(c.ctx, c.who, t, 0)
		if err != nil {
			return err
		}
		rows = append(rows, row{t, page, strings.HasPrefix(t.Code, "own-")})
	}
	return c.page("label_templates", "Catalog", "Kinds of label", map[string]any{"Rows": rows, "Edits": c.who.Can(shop.DeedCatalog)})
}

// designLabel is the page on which a kind of label is designed.
func (c *call) designLabel() error {
	t, err := c.server.shop.LabelTemplate(c.ctx, c.text("code"))
	if err != nil {
		return err
	}
	return c.page("label_design", "Catalog", "Design a label", map[string]any{"T": t, "Kinds": label.Kinds, "Symbols": barcode.Symbologies, "Papers": label.Papers, "Own": strings.HasPrefix(t.Code, "own-")})
}

// drawDesign draws a kind of label while it is designed.
func (c *call) drawDesign() error {
	var t label.Template
	if err := c.read(&t); err != nil {
		return err
	}
	page, remarks, err := c.server.shop.Design(c.ctx, c.who, t, fiber.Query[uint64](c.Ctx, "variant"))
	if err != nil {
		return err
	}
	return c.fragment("label_drawn", map[string]any{"Page": page, "Remarks": remarks})
}

func apiPrintLabels(c *call, in shop.LabelRequest) (map[string]any, error) {
	sheet, err := c.server.shop.PrintLabels(c.ctx, c.who, in)
	return map[string]any{"labels": sheet.Count, "pages": len(sheet.Pages), "remarks": sheet.Remarks}, err
}

func apiLabelTemplates(c *call) ([]label.Template, error) { return c.server.shop.LabelTemplates(c.ctx) }

func apiSaveLabelTemplate(c *call, in label.Template) (label.Template, error) {
	return c.server.shop.SaveLabelTemplate(c.ctx, c.who, c.key(), c.text("code"), in)
}

func apiDropLabelTemplate(c *call) (shop.Changed, error) {
	return c.server.shop.DropLabelTemplate(c.ctx, c.who, c.text("code"))
}
