package labels

import (
	"itemrack/shop/catalog"
	shoplabels "itemrack/shop/labels"
	"itemrack/web/kit"
)

func apiPrintLabels(c *kit.Call, in shoplabels.LabelRequest) (map[string]any, error) {
	sheet, err := shoplabels.PrintLabels(c.Deed(), in)
	return map[string]any{"labels": sheet.Count, "pages": len(sheet.Pages), "remarks": sheet.Remarks}, err
}

func apiLabelTemplates(c *kit.Call) ([]shoplabels.Kind, error) {
	list, err := shoplabels.LabelTemplates(c.Until, c.Shop)
	kinds := make([]shoplabels.Kind, len(list))
	for i, t := range list {
		kinds[i] = shoplabels.KindOf(t)
	}
	return kinds, err
}

func apiSaveLabelTemplate(c *kit.Call, in shoplabels.Kind) (shoplabels.Kind, error) {
	return shoplabels.SaveLabelTemplate(c.Deed(), c.Text("code"), in)
}

func apiDropLabelTemplate(c *kit.Call) (catalog.Changed, error) {
	return shoplabels.DropLabelTemplate(c.Deed(), c.Text("code"))
}
