package web

import (
	"bufio"
	"bytes"
	"fmt"
	"io"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/sheet"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) apiSaveProduct() error {
	return onNumber(c, "id", func(id uint64, in shop.ProductFacts) (shop.Changed, error) {
		return c.server.shop.SaveProduct(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiDropProduct() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.Changed, error) {
		return c.server.shop.DropProduct(c.ctx, c.who, id)
	})
}

func (c *call) apiSucceed() error {
	return onNumber(c, "id", func(id uint64, in shop.Successor) (shop.MadeProduct, error) {
		return c.server.shop.Succeed(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiChangeValue() error {
	return onNumber(c, "id", func(id uint64, in shop.ValueChange) (shop.Changed, error) {
		return c.server.shop.ChangeValue(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiChangeCells() error {
	return onNumber(c, "id", func(id uint64, in shop.CellChange) (shop.Changed, error) {
		return c.server.shop.ChangeCells(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiSetParts() error {
	return onNumber(c, "id", func(id uint64, in struct {
		Parts []shop.PartInput `json:"parts"`
	}) (shop.Changed, error) {
		return c.server.shop.SetParts(c.ctx, c.who, c.key(), id, in.Parts)
	})
}

func (c *call) apiSavePack() error {
	return onNumber(c, "id", func(id uint64, in shop.PackInput) (store.Pack, error) {
		return c.server.shop.SavePack(c.ctx, c.who, c.key(), id, fiber.Params[uint64](c.Ctx, "pack"), in)
	})
}

func (c *call) apiDropPack() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.Changed, error) {
		return c.server.shop.DropPack(c.ctx, c.who, id, fiber.Params[uint64](c.Ctx, "pack"))
	})
}

func (c *call) apiDropLaterPrices() error {
	return onNumber(c, "id", func(id uint64, in shop.DropPrice) (shop.PriceResult, error) {
		return c.server.shop.DropLaterPrices(c.ctx, c.who, c.key(), id, in)
	})
}

// upload is the body of a request as it came, and the name it was given.
func (c *call) upload() (string, []byte) { return string([]byte(c.Query("name"))), c.Body() }

func (c *call) apiAddPicture() error {
	return onNumberRaw(c, func(id uint64) (shop.Changed, error) {
		name, data := c.upload()
		return c.server.shop.AddPicture(c.ctx, c.who, c.key(), id, name, data)
	})
}

func (c *call) apiCategoryPicture() error {
	return onNumberRaw(c, func(id uint64) (shop.Changed, error) {
		name, data := c.upload()
		return c.server.shop.CategoryPicture(c.ctx, c.who, id, name, data)
	})
}

// onNumberRaw calls a deed on the numbered thing in the path, with a body that is
// no JSON.
func onNumberRaw[Out any](c *call, deed func(id uint64) (Out, error)) error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	out, err := deed(id)
	return answer(c, out, err)
}

func (c *call) apiChangePicture() error {
	return onNumber(c, "id", func(id uint64, in shop.PictureChange) (shop.Changed, error) {
		return c.server.shop.ChangePicture(c.ctx, c.who, id, fiber.Params[uint64](c.Ctx, "picture"), in)
	})
}

func (c *call) apiAddBarcode() error {
	return onNumber(c, "id", func(id uint64, in shop.BarcodeInput) (shop.MadeVariant, error) {
		return c.server.shop.AddBarcode(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiDropBarcode() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.MadeVariant, error) {
		return c.server.shop.DropBarcode(c.ctx, c.who, id, c.text("code"))
	})
}

func (c *call) apiWhyPrice() error {
	return onNumber(c, "id", func(id uint64, _ none) ([]shop.WhyPrice, error) {
		return c.server.shop.ExplainPrice(c.ctx, c.who, id, c.Query("quantity"), c.Query("at"))
	})
}

func (c *call) apiSuggest() error {
	return onBody(c, func(in shop.PriceQuestion) (shop.PriceSuggestion, error) {
		return c.server.shop.Suggest(c.ctx, c.who, in)
	})
}

func (c *call) apiCategories() error {
	list, err := c.server.shop.Categories(c.ctx, c.who)
	return answer(c, list, err)
}

func (c *call) apiSaveCategory() error {
	return onBody(c, func(in shop.CategoryInput) (store.Category, error) {
		return c.server.shop.SaveCategory(c.ctx, c.who, c.key(), fiber.Params[uint64](c.Ctx, "id"), in)
	})
}

func (c *call) apiMergeCategory() error {
	return onNumber(c, "id", func(id uint64, in struct {
		Into uint64 `json:"into"`
	}) (shop.Changed, error) {
		return c.server.shop.MergeCategory(c.ctx, c.who, c.key(), id, in.Into)
	})
}

func (c *call) apiDropCategory() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.Changed, error) { return c.server.shop.DropCategory(c.ctx, c.who, id) })
}

func (c *call) apiSupplierDefaults() error {
	return onNumber(c, "id", func(id uint64, in shop.SupplierDefaults) (shop.Changed, error) {
		return c.server.shop.SaveSupplierDefaults(c.ctx, c.who, c.key(), id, in)
	})
}

// setInput is values that are added to a value set.
type setInput struct {
	Set    string            `json:"set"`
	Values []shop.ValueInput `json:"values"`
}

func (c *call) apiAddToSet() error {
	return onBody(c, func(in setInput) (shop.Changed, error) {
		return c.server.shop.AddToSet(c.ctx, c.who, c.key(), in.Set, in.Values)
	})
}

func (c *call) apiRenameValue() error {
	return onNumber(c, "id", func(id uint64, in shop.ValueInSet) (shop.Changed, error) {
		return c.server.shop.RenameValue(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiDropValue() error {
	return onNumber(c, "id", func(id uint64, _ none) (shop.Changed, error) { return c.server.shop.DropValue(c.ctx, c.who, id) })
}

func (c *call) apiPriceLists() error {
	lists, err := c.q().PriceLists()
	return answer(c, lists, err)
}

func (c *call) apiSavePriceList() error {
	return onBody(c, func(in shop.ListInput) (price.List, error) {
		return c.server.shop.SavePriceList(c.ctx, c.who, c.key(), fiber.Params[uint64](c.Ctx, "id"), in)
	})
}

func (c *call) apiDropPriceList() error {
	return onNumber(c, "id", func(id uint64, _ none) (bool, error) { return c.server.shop.DropPriceList(c.ctx, c.who, id) })
}

func (c *call) apiSetTaxRate() error {
	return onNumber(c, "id", func(id uint64, in shop.RateInput) (bool, error) {
		return c.server.shop.SetTaxRate(c.ctx, c.who, c.key(), id, in)
	})
}

func (c *call) apiDropLaterRates() error {
	return onNumber(c, "id", func(id uint64, _ none) (bool, error) { return c.server.shop.DropLaterRates(c.ctx, c.who, id) })
}

func (c *call) apiSettings() error {
	settings, err := c.server.shop.Settings(c.ctx, c.who)
	return answer(c, settings, err)
}

func (c *call) apiBeginForReal() error {
	return onBody(c, func(in shop.EndPractice) (store.Practised, error) {
		return c.server.shop.BeginForReal(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiSaveSettings() error {
	return onBody(c, func(in shop.SettingsInput) (bool, error) {
		return c.server.shop.SaveSettings(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiAddRange() error {
	return onBody(c, func(in shop.RangeInput) (store.BarcodeRange, error) {
		return c.server.shop.AddRange(c.ctx, c.who, c.key(), in)
	})
}

func (c *call) apiSwitchRange() error {
	return onNumber(c, "id", func(id uint64, in struct {
		Open bool `json:"open"`
	}) (bool, error) {
		return c.server.shop.SwitchRange(c.ctx, c.who, id, in.Open)
	})
}

func (c *call) apiBasketList() error {
	return onNumber(c, "id", func(id uint64, in struct {
		List uint64 `json:"price_list_id"`
	}) (shop.BasketView, error) {
		return c.server.shop.PutOnList(c.ctx, c.who, c.key(), id, in.List)
	})
}

func (c *call) apiOpenStock() error {
	return onBody(c, func(in shop.OpenStockInput) (shop.Posted, error) {
		return c.server.shop.OpenStock(c.ctx, c.who, c.key(), in)
	})
}

// apiImport reads a list in while the request waits: for programs.
func (c *call) apiImport() error {
	branch := fiber.Query[uint64](c.Ctx, "branch_id")
	if branch == 0 {
		branch = c.who.Branch
	}
	report, err := c.server.shop.ImportList(c.ctx, c.who, c.key(), bytes.NewReader(c.Body()), branch, c.Query("dry_run") == "true")
	return answer(c, report, err)
}

// stream is the body of a request as it comes in.
func (c *call) stream() io.Reader {
	if stream := c.RequestCtx().RequestBodyStream(); stream != nil {
		return stream
	}
	return bytes.NewReader(c.Body())
}

func (c *call) apiBeginImport() error {
	view, err := c.server.shop.BeginImport(c.ctx, c.who, c.Query("kind", shop.ImportCatalog), string([]byte(c.Query("name", "list.csv"))), c.stream())
	return answer(c, view, err)
}

func (c *call) apiImportPictures() error {
	return onNumberRaw(c, func(id uint64) (shop.ImportView, error) {
		return c.server.shop.AddImportPictures(c.ctx, c.who, id, c.stream())
	})
}

func (c *call) apiReadImport() error {
	return onNumberRaw(c, func(id uint64) (shop.ImportView, error) { return c.server.shop.Import(c.ctx, c.who, id) })
}

func (c *call) apiMatchImport() error {
	return onNumber(c, "id", func(id uint64, in struct {
		Columns []string `json:"columns"`
	}) (shop.ImportView, error) {
		return c.server.shop.MatchColumns(c.ctx, c.who, id, in.Columns)
	})
}

func (c *call) apiRunImport() error {
	return onNumber(c, "id", func(id uint64, in shop.RunImport) (shop.ImportView, error) {
		return c.server.shop.StartImport(c.ctx, c.who, id, in)
	})
}

func (c *call) apiImportRows() error {
	return onNumberRaw(c, func(id uint64) (list[store.ImportRow], error) {
		if _, err := c.server.shop.Import(c.ctx, c.who, id); err != nil {
			return list[store.ImportRow]{}, err
		}
		const most = 100
		rows, err := c.q().ImportRows(id, c.Query("outcome"), fiber.Query[int](c.Ctx, "after"), most+1)
		return listOf(rows[:min(len(rows), most)], len(rows) > most), err
	})
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
