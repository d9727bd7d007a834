package catalog

import (
	"encoding/json"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	corecatalog "itemrack/core/catalog"
	"itemrack/core/price"
	"itemrack/core/text"
	"itemrack/core/unit"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/web/kit"
)

func newProduct(c *kit.Call) error {
	data, err := productChoices(c)
	if err != nil {
		return err
	}
	return c.Page("product_new", "Catalog", "New product", data)
}

// productChoices is what the forms of a product offer.
func productChoices(c *kit.Call) (map[string]any, error) {
	categories, err := goods.Categories(c.Q())
	if err != nil {
		return nil, err
	}
	suppliers, err := goods.Suppliers(c.Q())
	if err != nil {
		return nil, err
	}
	classes, err := prices.TaxClasses(c.Q())
	if err != nil {
		return nil, err
	}
	brands, err := goods.Brands(c.Q())
	if err != nil {
		return nil, err
	}
	sets, _, err := goods.ValueSets(c.Q())
	if err != nil {
		return nil, err
	}
	branches, err := office.Branches(c.Q())
	return map[string]any{
		"Branches":   branches,
		"Branch":     c.Who.Branch,
		"Today":      c.Terms.Day(c.Shop.Now()).Format(time.DateOnly),
		"Categories": categories,
		"Suppliers":  suppliers,
		"Classes":    classes,
		"Brands":     brands,
		"Sets":       sets,
		"Units":      unit.All,
		"Now":        c.Shop.Now(),
		"Basis":      c.Terms.Basis.String(),
	}, err
}

// newProductRack draws the rack that a product would have, as it is typed.
func newProductRack(c *kit.Call) error {
	var in shopcatalog.NewProduct
	if err := c.Read(&in); err != nil {
		return err
	}
	leftOut := in.LeftOut
	in.LeftOut = nil
	all, err := shopcatalog.PreviewProduct(c.Deed(), in)
	if err != nil {
		return err
	}
	out := map[string]bool{}
	for _, choice := range leftOut {
		out[corecatalog.Choice(choice).Key()] = true
	}
	p := goods.ProductView{Product: goods.Product{Name: "New product"}, Axes: all.Axes, UnitOf: unit.Piece}
	at := map[string]shopcatalog.PreviewCell{}
	for i, cell := range all.Cells {
		p.Variants = append(p.Variants,
			goods.VariantView{ID: uint64(i + 1), Label: cell.Choice.Label(), Choice: cell.Choice})
		at[cell.Choice.Key()] = cell
	}
	view := c.Query("view")
	typed, hint := map[string]string{}, ""
	switch view {
	case "price":
		hint = c.Terms.Minor().Text(all.Price.Amount)
		typed = cellTexts(in.OwnPrices)
	case "cost":
		hint, typed = in.Cost, cellTexts(in.OwnCosts)
	case "level":
		hint, typed = in.Restock, cellTexts(in.OwnLevels)
	case "barcode":
		hint, typed = "own", cellTexts(in.Barcodes)
	case "quantity", "worth", "lot", "expiry", "serials":
		hint, typed = map[string]string{"quantity": text.Or(in.OnHand.Each, "0"),
			"worth": in.OnHand.Worth}[view], onHandTexts(in.OnHand, view)
	default:
		view = "made"
	}
	made := 0
	mode, what := kit.RackMake, "variants"
	if view != "made" {
		mode, what = kit.RackNumber, view
	}
	rack := kit.Hang(p, mode, what, func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		choice, _ := json.Marshal([]string(v.Choice))
		cell := kit.CellView{
			Choice: string(choice),
			Note:   at[v.Choice.Key()].SKU,
			Value:  typed[v.Choice.Key()],
			Hint:   hint,
		}
		if out[v.Choice.Key()] {
			cell.Off = true
			return cell, decimal.Zero
		}
		made++
		return cell, decimal.New(1, 0)
	})
	rack.Dense = true
	if mode == kit.RackNumber {
		rack.Untotal()
	}
	return c.Fragment("new_rack", map[string]any{"Rack": rack, "Made": made, "First": first(all.Cells), "P": all})
}

// onHandTexts are what was typed of the stock of single cells, in one of its fields.
func onHandTexts(in shopcatalog.OnHand, field string) map[string]string {
	texts := map[string]string{}
	for _, c := range in.Cells {
		texts[corecatalog.Choice(c.Choice).Key()] = map[string]string{"quantity": c.Quantity, "worth": c.Worth,
			"lot":    c.Lot,
			"expiry": c.Expiry, "serials": c.Serials}[field]
	}
	return texts
}

func cellTexts(list []shopcatalog.CellText) map[string]string {
	texts := map[string]string{}
	for _, t := range list {
		texts[corecatalog.Choice(t.Choice).Key()] = t.Text
	}
	return texts
}

func first(cells []shopcatalog.PreviewCell) string {
	if len(cells) == 0 {
		return ""
	}
	return cells[0].SKU
}

// rackEdits are what can be changed on the rack of a product.
var rackEdits = []struct{ Code, Name string }{{"price", "Price"}, {"sku", "SKU"}, {"cost", "Expected cost"},
	{"restock_level", "Restock level"}, {"barcode", "Barcodes"}}

// changeRack is the page on which the rack of a product is changed: prices,
// costs, levels, SKUs and barcodes of its cells, and its values.
func changeRack(c *kit.Call) error {
	p, err := c.ProductOf()
	if err != nil {
		return err
	}
	codes, err := goods.Barcodes(c.Q(), kit.VariantsOf(p))
	if err != nil {
		return err
	}
	byVariant := map[uint64][]goods.VariantBarcode{}
	for _, code := range codes {
		byVariant[code.VariantID] = append(byVariant[code.VariantID], code)
	}
	list := max(fiber.Query[uint64](c.Ctx, "list"), price.Regular)
	hung := c.Query("set", "price")
	one := decimal.New(1, 0)
	rack := kit.Hang(p, kit.RackNumber, hung, func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Retired: v.Retired}
		switch hung {
		case "sku":
			cell.Value, cell.Wide = v.SKU, true
		case "cost":
			cell.Hint = kit.FigureText(p.Cost)
			cell.Value = kit.FigureText(v.OwnCost)
		case "restock_level":
			cell.Hint = kit.FigureText(p.Settled.Restock)
			cell.Value = kit.FigureText(v.OwnRestock)
		case "barcode":
			cell.Hint, cell.Wide = v.Barcode, true
			cell.Note = text.Plural(len(byVariant[v.ID]), "barcode", "barcodes")
		default:
			a := p.Pricing.Book.Find(p.Goods(v), list, one, c.Shop.Now())
			cell.Hint = c.Terms.Minor().Text(a.Amount)
			if a.Source == price.OwnPrice {
				cell.Value, cell.Note = c.Terms.Minor().Text(a.Amount), "own"
			}
			if a.Under {
				cell.Note, cell.Low = "under cost", true
			}
		}
		return cell, decimal.Zero
	})
	rack.Untotal()
	rack.Dense = true
	return c.Page(
		"product_rack",
		"Catalog",
		"Rack of "+p.Name,
		map[string]any{
			"P":       p,
			"Rack":    rack,
			"Figures": figures(c, p),
			"Hung":    hung,
			"Edits":   rackEdits,
			"List":    list,
			"Lists":   p.Pricing.Book.Lists,
			"Basis":   c.Terms.Basis.String(),
			"Codes":   byVariant,
			"Rows":    p.Pricing.Rows(p.ID, 0, 0)[list],
			"Now":     c.Shop.Now(),
		},
	)
}

// editProduct is the page of a product's facts.
func editProduct(c *kit.Call) error {
	p, err := c.ProductOf()
	if err != nil {
		return err
	}
	data, err := productChoices(c)
	if err != nil {
		return err
	}
	suppliers, err := goods.SuppliersOf(c.Q(), []uint64{p.ID})
	if err != nil {
		return err
	}
	attributes, err := goods.AttributesOf(c.Q(), []uint64{p.ID})
	if err != nil {
		return err
	}
	pictures, err := goods.PicturesOf(c.Q(), p.ID)
	if err != nil {
		return err
	}
	moved, err := goods.HasEntries(c.Q(), kit.VariantsOf(p))
	if err != nil {
		return err
	}
	codes, err := goods.Barcodes(c.Q(), kit.VariantsOf(p))
	if err != nil {
		return err
	}
	packCodes := map[uint64][]goods.VariantBarcode{}
	for _, code := range codes {
		if code.PackID != 0 {
			packCodes[code.PackID] = append(packCodes[code.PackID], code)
		}
	}
	type packRow struct {
		goods.Pack
		Price string
		Codes []goods.VariantBarcode
	}
	var packs []packRow
	for _, pack := range p.Packs {
		amount, ok := price.Plain(nil, p.Pricing.Rows(p.ID, 0, pack.ID)[price.Regular], c.Shop.Now())
		row := packRow{Pack: pack, Codes: packCodes[pack.ID]}
		if ok {
			row.Price = kit.FigureText(&amount)
		}
		packs = append(packs, row)
	}
	if data["Parts"], err = shopcatalog.PartsOf(c.Q(), p, c.Who.Branch); err != nil {
		return err
	}
	data["P"], data["SuppliersOf"], data["Attributes"], data["Pictures"], data["Moved"], data["Packs"] = p,
		suppliers[p.ID], attributes[p.ID], pictures, moved, packs
	return c.Page("product_edit", "Catalog", "Facts of "+p.Name, data)
}

// quickEntry is the page on which one thing after another is made by keyboard.
func quickEntry(c *kit.Call) error {
	data, err := productChoices(c)
	if err != nil {
		return err
	}
	return c.Page("quick", "Catalog", "Quick entry", data)
}
