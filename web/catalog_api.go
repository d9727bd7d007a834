package web

import (
	"bufio"
	"bytes"
	"fmt"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/sheet"
	"itemrack/shop"
	"itemrack/store"
)

func apiSaveProduct(c *call, id uint64, in shop.ProductFacts) (shop.Changed, error) {
	return c.server.shop.SaveProduct(c.ctx, c.who, c.key(), id, in)
}

func apiDropProduct(c *call, id uint64) (shop.Changed, error) {
	return c.server.shop.DropProduct(c.ctx, c.who, id)
}

func apiSucceed(c *call, id uint64, in shop.Successor) (shop.MadeProduct, error) {
	return c.server.shop.Succeed(c.ctx, c.who, c.key(), id, in)
}

func apiChangeValue(c *call, id uint64, in shop.ValueChange) (shop.Changed, error) {
	return c.server.shop.ChangeValue(c.ctx, c.who, c.key(), id, in)
}

func apiChangeCells(c *call, id uint64, in shop.CellChange) (shop.Changed, error) {
	return c.server.shop.ChangeCells(c.ctx, c.who, c.key(), id, in)
}

type partsInput struct {
	Parts []shop.PartInput `json:"parts"`
}

func apiSetParts(c *call, id uint64, in partsInput) (shop.Changed, error) {
	return c.server.shop.SetParts(c.ctx, c.who, c.key(), id, in.Parts)
}

func apiSavePack(c *call, id uint64, in shop.PackInput) (store.Pack, error) {
	return c.server.shop.SavePack(c.ctx, c.who, c.key(), id, fiber.Params[uint64](c.Ctx, "pack"), in)
}

func apiDropPack(c *call, id uint64) (shop.Changed, error) {
	return c.server.shop.DropPack(c.ctx, c.who, id, fiber.Params[uint64](c.Ctx, "pack"))
}

func apiDropLaterPrices(c *call, id uint64, in shop.DropPrice) (shop.PriceResult, error) {
	return c.server.shop.DropLaterPrices(c.ctx, c.who, c.key(), id, in)
}

func apiAddPicture(c *call, id uint64) (shop.Changed, error) {
	name, data := c.upload()
	return c.server.shop.AddPicture(c.ctx, c.who, c.key(), id, name, data)
}

func apiCategoryPicture(c *call, id uint64) (shop.Changed, error) {
	name, data := c.upload()
	return c.server.shop.CategoryPicture(c.ctx, c.who, id, name, data)
}

func apiChangePicture(c *call, id uint64, in shop.PictureChange) (shop.Changed, error) {
	return c.server.shop.ChangePicture(c.ctx, c.who, id, fiber.Params[uint64](c.Ctx, "picture"), in)
}

func apiAddBarcode(c *call, id uint64, in shop.BarcodeInput) (shop.MadeVariant, error) {
	return c.server.shop.AddBarcode(c.ctx, c.who, c.key(), id, in)
}

func apiDropBarcode(c *call, id uint64) (shop.MadeVariant, error) {
	return c.server.shop.DropBarcode(c.ctx, c.who, id, c.text("code"))
}

func apiWhyPrice(c *call, id uint64) ([]shop.WhyPrice, error) {
	return c.server.shop.ExplainPrice(c.ctx, c.who, id, c.Query("quantity"), c.Query("at"))
}

func apiSuggest(c *call, in shop.PriceQuestion) (shop.PriceSuggestion, error) {
	return c.server.shop.Suggest(c.ctx, c.who, in)
}

func apiCategories(c *call) ([]shop.CategoryView, error) {
	return c.server.shop.Categories(c.ctx, c.who)
}

func apiSaveCategory(c *call, in shop.CategoryInput) (store.Category, error) {
	return c.server.shop.SaveCategory(c.ctx, c.who, c.key(), fiber.Params[uint64](c.Ctx, "id"), in)
}

type mergeInput struct {
	Into uint64 `json:"into"`
}

func apiMergeCategory(c *call, id uint64, in mergeInput) (shop.Changed, error) {
	return c.server.shop.MergeCategory(c.ctx, c.who, c.key(), id, in.Into)
}

func apiDropCategory(c *call, id uint64) (shop.Changed, error) {
	return c.server.shop.DropCategory(c.ctx, c.who, id)
}

func apiSupplierDefaults(c *call, id uint64, in shop.SupplierDefaults) (shop.Changed, error) {
	return c.server.shop.SaveSupplierDefaults(c.ctx, c.who, c.key(), id, in)
}

// setInput is values that are added to a value set.
type setInput struct {
	Set    string            `json:"set"`
	Values []shop.ValueInput `json:"values"`
}

func apiAddToSet(c *call, in setInput) (shop.Changed, error) {
	return c.server.shop.AddToSet(c.ctx, c.who, c.key(), in.Set, in.Values)
}

func apiRenameValue(c *call, id uint64, in shop.ValueInSet) (shop.Changed, error) {
	return c.server.shop.RenameValue(c.ctx, c.who, c.key(), id, in)
}

func apiDropValue(c *call, id uint64) (shop.Changed, error) {
	return c.server.shop.DropValue(c.ctx, c.who, id)
}

func apiPriceLists(c *call) ([]price.List, error) { return c.q().PriceLists() }

func apiSavePriceList(c *call, in shop.ListInput) (price.List, error) {
	return c.server.shop.SavePriceList(c.ctx, c.who, c.key(), fiber.Params[uint64](c.Ctx, "id"), in)
}

func apiDropPriceList(c *call, id uint64) (bool, error) {
	return c.server.shop.DropPriceList(c.ctx, c.who, id)
}

func apiSetTaxRate(c *call, id uint64, in shop.RateInput) (bool, error) {
	return c.server.shop.SetTaxRate(c.ctx, c.who, c.key(), id, in)
}

func apiDropLaterRates(c *call, id uint64) (bool, error) {
	return c.server.shop.DropLaterRates(c.ctx, c.who, id)
}

func apiSettings(c *call) (shop.Settings, error) { return c.server.shop.Settings(c.ctx, c.who) }

func apiBeginForReal(c *call, in shop.EndPractice) (store.Practised, error) {
	return c.server.shop.BeginForReal(c.ctx, c.who, c.key(), in)
}

func apiSaveSettings(c *call, in shop.SettingsInput) (bool, error) {
	return c.server.shop.SaveSettings(c.ctx, c.who, c.key(), in)
}

func apiAddRange(c *call, in shop.RangeInput) (store.BarcodeRange, error) {
	return c.server.shop.AddRange(c.ctx, c.who, c.key(), in)
}

type switchInput struct {
	Open bool `json:"open"`
}

func apiSwitchRange(c *call, id uint64, in switchInput) (bool, error) {
	return c.server.shop.SwitchRange(c.ctx, c.who, id, in.Open)
}

type basketListInput struct {
	List uint64 `json:"price_list_id"`
}

func apiBasketList(c *call, id uint64, in basketListInput) (shop.BasketView, error) {
	return c.server.shop.PutOnList(c.ctx, c.who, c.key(), id, in.List)
}

func apiOpenStock(c *call, in shop.OpenStockInput) (shop.Posted, error) {
	return c.server.shop.OpenStock(c.ctx, c.who, c.key(), in)
}

// apiImport reads a list in while the request waits: for programs.
func apiImport(c *call) (shop.ListReport, error) {
	branch := fiber.Query[uint64](c.Ctx, "branch_id")
	if branch == 0 {
		branch = c.who.Branch
	}
	return c.server.shop.ImportList(c.ctx, c.who, c.key(), bytes.NewReader(c.Body()), branch, c.Query("dry_run") == "true")
}

func apiBeginImport(c *call) (shop.ImportView, error) {
	return c.server.shop.BeginImport(c.ctx, c.who, c.Query("kind", shop.ImportCatalog), string([]byte(c.Query("name", "list.csv"))), c.stream())
}

func apiImportPictures(c *call, id uint64) (shop.ImportView, error) {
	return c.server.shop.AddImportPictures(c.ctx, c.who, id, c.stream())
}

func apiReadImport(c *call, id uint64) (shop.ImportView, error) {
	return c.server.shop.Import(c.ctx, c.who, id)
}

type matchInput struct {
	Columns []string `json:"columns"`
}

func apiMatchImport(c *call, id uint64, in matchInput) (shop.ImportView, error) {
	return c.server.shop.MatchColumns(c.ctx, c.who, id, in.Columns)
}

func apiRunImport(c *call, id uint64, in shop.RunImport) (shop.ImportView, error) {
	return c.server.shop.StartImport(c.ctx, c.who, id, in)
}

func apiImportRows(c *call, id uint64) (list[store.ImportRow], error) {
	if _, err := c.server.shop.Import(c.ctx, c.who, id); err != nil {
		return list[store.ImportRow]{}, err
	}
	const most = 100
	rows, err := c.q().ImportRows(id, c.Query("outcome"), fiber.Query[int](c.Ctx, "after"), most+1)
	return listOf(rows[:min(len(rows), most)], len(rows) > most), err
}

func (c *call) refusedRows() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	format, err := sheet.ParseFormat(c.Query("format"))
	if err != nil {
		return err
	}
	s, ctx, who := c.server.shop, c.ctx, c.who
	return c.file(fmt.Sprintf("refused-%d", id), format, func(w *bufio.Writer) error { return s.RefusedRows(ctx, who, id, format, w) })
}

func (c *call) listTemplate() error {
	format, err := sheet.ParseFormat(c.Query("format"))
	if err != nil {
		return err
	}
	kind := c.Query("kind", shop.ImportCatalog)
	s := c.server.shop
	return c.file(kind+"-template", format, func(w *bufio.Writer) error { return s.Template(kind, format, w) })
}

// picture sends a picture, or its thumbnail.
func (c *call) picture() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	small := c.Query("small") != ""
	p, err := c.q().Picture(id, small)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderCacheControl, "private, max-age=31536000, immutable")
	c.Set(fiber.HeaderXContentTypeOptions, "nosniff")
	if small {
		c.Set(fiber.HeaderContentType, "image/"+p.SmallType)
		return c.Ctx.Send(p.Small)
	}
	c.Set(fiber.HeaderContentType, "image/"+p.Type)
	return c.Ctx.Send(p.Data)
}

// begin makes the shop of an empty database; nobody is signed in yet.
func (c *call) begin() error {
	var in shop.FirstStart
	if err := c.read(&in); err != nil {
		return err
	}
	who, err := c.server.shop.Begin(c.ctx, in)
	if err != nil {
		return err
	}
	if err := c.enter(who); err != nil {
		return err
	}
	return c.JSON(map[string]string{"name": who.Name})
}

// empty refuses what is only for a shop that is set up.
func (c *call) empty() error {
	is, err := c.server.shop.IsEmpty(c.ctx)
	if err != nil {
		return err
	}
	if !is {
		return fault.Clash("name", "", "to sign in", "There is a shop already. Sign in.")
	}
	return nil
}
