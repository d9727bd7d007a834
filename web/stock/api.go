package stock

import (
	"errors"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/revision"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
	shopoffice "itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/reports"
	"itemrack/shop/stockroom"
	"itemrack/store/book"
	"itemrack/store/counts"
	"itemrack/store/office"
	"itemrack/web/kit"
)

func apiMovements(c *kit.Call, id uint64) (kit.List[book.Movement], error) {
	filter, _, err := movementFilter(c)
	if err != nil {
		return kit.List[book.Movement]{}, err
	}
	rows, more, err := book.Movements(c.Q(), id, filter)
	return kit.ListOf(rows, more), err
}

func apiInConditions(c *kit.Call, id uint64) ([]prices.InCondition, error) {
	return prices.InConditions(c.Shop, c.Q(), id)
}

func apiSetInCondition(c *kit.Call, id uint64, in prices.InConditionInput) ([]prices.InCondition, error) {
	return prices.SetInCondition(c.Deed(), id, in)
}

func apiLevels(c *kit.Call, id uint64) ([]book.BranchLevels, error) {
	return book.LevelsByBranch(c.Q(), id, c.Shop.Now().AddDate(0, 0, -cardDays))
}

func apiLastCounts(c *kit.Call, id uint64) ([]counts.LastRow, error) { return counts.LastOf(c.Q(), id) }

func apiPlaces(c *kit.Call, id uint64) ([]book.Place, error) {
	at, past, err := asAt(c)
	if err != nil || !past {
		rows, read := book.Places(c.Q(), id)
		return rows, errors.Join(err, read)
	}
	return book.PlacesAt(c.Q(), id, at)
}

func apiExplain(c *kit.Call, id uint64) (reports.Explanation, error) {
	return reports.Explain(c.Deed(), id, c.Params("figure"))
}

func apiMakeUp(c *kit.Call, in stockroom.KitInput) (deed.Posted, error) {
	return stockroom.MakeUpKits(c.Deed(), in)
}

func apiBreakUp(c *kit.Call, in stockroom.KitInput) (deed.Posted, error) {
	return stockroom.BreakUpKits(c.Deed(), in)
}

func apiPutRight(c *kit.Call, in stockroom.PutInput) (stockroom.PutResult, error) {
	return stockroom.PutRight(c.Deed(), in)
}

func apiChangeMany(c *kit.Call, in stockroom.ChangesInput) (stockroom.Changed, error) {
	return stockroom.ChangeConditions(c.Deed(), in)
}

func apiChangeCondition(c *kit.Call, in stockroom.ChangeInput) (deed.Posted, error) {
	return stockroom.ChangeCondition(c.Deed(), in)
}

// documentAnswer is a document with what stands in it.
type documentAnswer struct {
	Document book.DocumentView `json:"document"`
	Entries  []book.EntryView  `json:"entries"`
	Postings []stock.Posting   `json:"postings" see:"costs"`
}

func apiDocument(c *kit.Call) (documentAnswer, error) {
	var out documentAnswer
	var err error
	if out.Document, err = book.Document(c.Q(), c.Text("number")); err != nil {
		return out, err
	}
	if out.Entries, err = book.EntryViews(c.Q(), out.Document.ID); err != nil {
		return out, err
	}
	out.Postings, err = book.Postings(c.Q(), out.Document.ID)
	return out, err
}

// noteInput is why something is done.
type noteInput struct {
	Note string `json:"note"`
}

func apiReverse(c *kit.Call, in noteInput) (deed.Posted, error) {
	return stockroom.Reverse(c.Deed(), c.Text("number"), in.Note)
}

func apiVerify(c *kit.Call) ([]book.Check, error) {
	return reports.Verify(c.Deed(), func(book.Check) {})
}

func apiOpenStock(c *kit.Call, in lists.OpenStockInput) (deed.Posted, error) {
	return lists.OpenStock(c.Deed(), in)
}

func apiScanOpening(c *kit.Call, in lists.OpeningScan) (lists.OpeningScanned, error) {
	return lists.ScanOpening(c.Deed(), in)
}

func apiNotForSale(c *kit.Call) (stockroom.OffList, error) {
	return stockroom.NotForSale(c.Deed(), fiber.Query[uint64](c.Ctx, "branch"), c.Query("condition"),
		stockroom.MostOff)
}

func apiStock(c *kit.Call) (kit.List[book.StockRow], error) {
	asked, err := stockAsked(c)
	if err != nil {
		return kit.List[book.StockRow]{}, err
	}
	rows, more, err := book.StockList(c.Q(), asked, c.PageNumber())
	return kit.ListOf(rows, more), err
}

func apiDocuments(c *kit.Call, page int) ([]book.DocumentView, bool, error) {
	return book.Documents(c.Q(), c.Query("kind"), page)
}

func apiUnits(c *kit.Call, page int) ([]book.UnitRow, bool, error) {
	return book.UnitRows(c.Q(), fiber.Query[uint64](c.Ctx, "variant_id"), c.Query("state"), page)
}

// branchAnswer is a branch with its shelves.
type branchAnswer struct {
	shopoffice.BranchSaved
	Shelves []shopoffice.ShelfSaved `json:"shelves"`
}

func apiBranches(c *kit.Call) ([]branchAnswer, error) {
	branches, err := office.AllBranches(c.Q())
	if err != nil {
		return nil, err
	}
	shelves, err := book.ShelfRows(c.Q())
	list := make([]branchAnswer, len(branches))
	for i, b := range branches {
		list[i] = branchAnswer{shopoffice.BranchSaved{Branch: b, Revision: revision.Of(b)}, []shopoffice.ShelfSaved{}}
		for _, s := range shelves {
			if s.BranchID == b.ID {
				list[i].Shelves = append(list[i].Shelves, shopoffice.ShelfSaved{Shelf: s, Revision: revision.Of(s)})
			}
		}
	}
	return list, err
}
