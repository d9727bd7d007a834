package lists

import (
	"bufio"
	"fmt"

	"itemrack/sheet"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
	storelists "itemrack/store/lists"
	"itemrack/store/office"
	"itemrack/web/kit"
)

func refusedRows(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	format, err := sheet.ParseFormat(c.Query("format"))
	if err != nil {
		return err
	}
	s, ctx, who := c.Shop, c.Until, c.Who
	return c.File(fmt.Sprintf("refused-%d", id), format,
		func(w *bufio.Writer) error { return lists.RefusedRows(deed.By(ctx, s, who, ""), id, format, w) })
}

func listTemplate(c *kit.Call) error {
	format, err := sheet.ParseFormat(c.Query("format"))
	if err != nil {
		return err
	}
	kind := c.Query("kind", lists.ImportCatalog)
	s := c.Shop
	return c.File(kind+"-template", format, func(w *bufio.Writer) error { return lists.Template(s, kind, format, w) })
}

// imports is the page on which lists are read in.
func imports(c *kit.Call) error {
	jobs, err := storelists.ImportJobs(c.Q(), 10)
	if err != nil {
		return err
	}
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	return c.Page("imports", "Catalog", "Read a list in",
		map[string]any{"Jobs": jobs, "Branches": branches, "Kind": c.Query("kind", lists.ImportCatalog)})
}

func importPage(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	view, err := lists.Import(c.Deed(), id)
	if err != nil {
		return err
	}
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	return c.Page("import", "Catalog", "Read in "+view.Name, map[string]any{"V": view, "Branches": branches})
}
