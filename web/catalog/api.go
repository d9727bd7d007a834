package catalog

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/core/revision"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/scan"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

func apiFind(c *kit.Call) ([]goods.Found, error) { return scan.Look(c.Q(), c.Who, c.Query("q"), 20) }

func apiProduct(c *kit.Call, id uint64) (goods.ProductView, error) {
	return goods.ReadProduct(c.Q(), id, c.Who.Branch, c.Shop.Now())
}

func apiMakeProduct(c *kit.Call, in shopcatalog.NewProduct) (shopcatalog.MadeProduct, error) {
	return shopcatalog.MakeProduct(c.Deed(), in)
}

func apiAddValues(c *kit.Call, id uint64, in shopcatalog.Extension) (shopcatalog.MadeProduct, error) {
	return shopcatalog.AddValues(c.Deed(), id, in)
}

func apiParts(c *kit.Call, id uint64) (shopcatalog.PartsView, error) {
	view, err := apiProduct(c, id)
	if err != nil {
		return shopcatalog.PartsView{}, err
	}
	return shopcatalog.PartsOf(c.Q(), view, c.Who.Branch)
}

func apiSaveProduct(c *kit.Call, id uint64, in shopcatalog.ProductFacts) (shopcatalog.Changed, error) {
	return shopcatalog.SaveProduct(c.Deed(), id, in)
}

func apiDropProduct(c *kit.Call, id uint64) (shopcatalog.Changed, error) {
	return shopcatalog.DropProduct(c.Deed(), id)
}

func apiSucceed(c *kit.Call, id uint64, in shopcatalog.Successor) (shopcatalog.MadeProduct, error) {
	return shopcatalog.Succeed(c.Deed(), id, in)
}

func apiChangeValue(c *kit.Call, id uint64, in shopcatalog.ValueChange) (shopcatalog.Changed, error) {
	return shopcatalog.ChangeValue(c.Deed(), id, in)
}

func apiChangeCells(c *kit.Call, id uint64, in shopcatalog.CellChange) (shopcatalog.Changed, error) {
	return shopcatalog.ChangeCells(c.Deed(), id, in)
}

func apiSetParts(c *kit.Call, id uint64, in shopcatalog.PartsInput) (shopcatalog.Changed, error) {
	return shopcatalog.ReadSetParts(c.Deed(), id, in)
}

func apiSavePack(c *kit.Call, id uint64, in shopcatalog.PackInput) (goods.Pack, error) {
	return shopcatalog.SavePack(c.Deed(), id, fiber.Params[uint64](c.Ctx, "pack"), in)
}

func apiDropPack(c *kit.Call, id uint64) (shopcatalog.Changed, error) {
	return shopcatalog.DropPack(c.Deed(), id, fiber.Params[uint64](c.Ctx, "pack"))
}

func apiAddPicture(c *kit.Call, id uint64) (shopcatalog.Changed, error) {
	name, data := c.Upload()
	return shopcatalog.AddPicture(c.Deed(), id, name, data)
}

func apiKeepPicture(c *kit.Call) (shopcatalog.Changed, error) {
	name, data := c.Upload()
	return shopcatalog.KeepPicture(c.Deed(), name, data)
}

func apiCategoryPicture(c *kit.Call, id uint64) (shopcatalog.Changed, error) {
	name, data := c.Upload()
	return shopcatalog.CategoryPicture(c.Deed(), id, name, data)
}

func apiChangePicture(c *kit.Call, id uint64, in shopcatalog.PictureChange) (shopcatalog.Changed, error) {
	return shopcatalog.ChangePicture(c.Deed(), id, fiber.Params[uint64](c.Ctx, "picture"), in)
}

func apiAddBarcode(c *kit.Call, id uint64, in shopcatalog.BarcodeInput) (shopcatalog.MadeVariant, error) {
	return shopcatalog.AddBarcode(c.Deed(), id, in)
}

func apiDropBarcode(c *kit.Call, id uint64) (shopcatalog.MadeVariant, error) {
	return shopcatalog.DropBarcode(c.Deed(), id, c.Text("code"))
}

func apiCategories(c *kit.Call) ([]shopcatalog.CategoryView, error) {
	return shopcatalog.Categories(c.Deed())
}

func apiSaveCategory(c *kit.Call, in shopcatalog.CategoryInput) (goods.Category, error) {
	return shopcatalog.SaveCategory(c.Deed(), fiber.Params[uint64](c.Ctx, "id"), in)
}

type mergeInput struct {
	Into uint64 `json:"into"`
}

func apiMergeCategory(c *kit.Call, id uint64, in mergeInput) (shopcatalog.Changed, error) {
	return shopcatalog.MergeCategory(c.Deed(), id, in.Into)
}

func apiDropCategory(c *kit.Call, id uint64) (shopcatalog.Changed, error) {
	return shopcatalog.DropCategory(c.Deed(), id)
}

// setInput is values that are added to a value set.
type setInput struct {
	Set    string                   `json:"set"`
	Values []shopcatalog.ValueInput `json:"values"`
}

func apiAddToSet(c *kit.Call, in setInput) (shopcatalog.Changed, error) {
	return shopcatalog.AddToSet(c.Deed(), in.Set, in.Values)
}

func apiRenameValue(c *kit.Call, id uint64, in shopcatalog.ValueInSet) (shopcatalog.ValueSaved, error) {
	return shopcatalog.RenameValue(c.Deed(), id, in)
}

func apiDropValue(c *kit.Call, id uint64) (shopcatalog.Changed, error) {
	return shopcatalog.DropValue(c.Deed(), id)
}

// setAnswer is a value set with its values.
type setAnswer struct {
	goods.ValueSet
	Values []valueAnswer `json:"values"`
}

// valueAnswer is a value of a set with its revision.
type valueAnswer struct {
	goods.Value
	Revision string `json:"revision"`
}

func apiValueSets(c *kit.Call) ([]setAnswer, error) {
	sets, values, err := goods.ValueSets(c.Q())
	list := make([]setAnswer, len(sets))
	for i, s := range sets {
		list[i] = setAnswer{s, []valueAnswer{}}
		for _, v := range values[s.ID] {
			list[i].Values = append(list[i].Values, valueAnswer{v, revision.Of(v)})
		}
	}
	return list, err
}
