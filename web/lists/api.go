package lists

import (
	"bytes"

	"github.com/gofiber/fiber/v3"

	"itemrack/shop/lists"
	storelists "itemrack/store/lists"
	"itemrack/web/kit"
)

// apiImport reads a list in while the request waits: for programs.
func apiImport(c *kit.Call) (lists.ListReport, error) {
	branch := fiber.Query[uint64](c.Ctx, "branch_id")
	if branch == 0 {
		branch = c.Who.Branch
	}
	return lists.ImportList(c.Deed(), bytes.NewReader(c.Body()), branch,
		c.Query("dry_run") == "true")
}

func apiBeginImport(c *kit.Call) (lists.ImportView, error) {
	return lists.BeginImport(c.Deed(), c.Query("kind", lists.ImportCatalog),
		string([]byte(c.Query("name", "list.csv"))), c.Stream())
}

func apiImportPictures(c *kit.Call, id uint64) (lists.ImportView, error) {
	return lists.AddImportPictures(c.Deed(), id, c.Stream())
}

func apiReadImport(c *kit.Call, id uint64) (lists.ImportView, error) {
	return lists.Import(c.Deed(), id)
}

type matchInput struct {
	Columns []string `json:"columns"`
}

func apiMatchImport(c *kit.Call, id uint64, in matchInput) (lists.ImportView, error) {
	return lists.MatchColumns(c.Deed(), id, in.Columns)
}

func apiRunImport(c *kit.Call, id uint64, in lists.RunImport) (lists.ImportView, error) {
	return lists.StartImport(c.Deed(), id, in)
}

func apiImportRows(c *kit.Call, id uint64) (kit.List[storelists.ImportRow], error) {
	if _, err := lists.Import(c.Deed(), id); err != nil {
		return kit.List[storelists.ImportRow]{}, err
	}
	const most = 100
	rows, err := storelists.ImportRows(c.Q(), id, c.Query("outcome"), fiber.Query[int](c.Ctx, "after"), most+1)
	return kit.ListOf(rows[:min(len(rows), most)], len(rows) > most), err
}
