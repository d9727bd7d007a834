package labels

import (
	"itemrack/core/label"
	"itemrack/shop/catalog"
	shoplabels "itemrack/shop/labels"
	"itemrack/web/kit"
)

func apiPrintLabels(c *kit.Call, in shoplabels.LabelRequest) (map[string]any, error) {
	sheet, err := shoplabels.PrintLabels(c.Until, c.Shop, c.Who, in)
	return map[string]any{"labels": sheet.Count, "pages": len(sheet.Pages), "remarks": sheet.Remarks}, err
}

func apiLabelTemplates(c *kit.Call) ([]label.Template, error) {
	return shoplabels.LabelTemplates(c.Until, c.Shop)
}

func apiSaveLabelTemplate(c *kit.Call, in label.Template) (label.Template, error) {
	return shoplabels.SaveLabelTemplate(c.Until, c.Shop, c.Who, c.Key(), c.Text("code"), in)
}

func apiDropLabelTemplate(c *kit.Call) (catalog.Changed, error) {
	return shoplabels.DropLabelTemplate(c.Until, c.Shop, c.Who, c.Text("code"))
}
