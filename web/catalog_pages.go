package web

import (
	"encoding/json"
	"fmt"
	"strconv"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) today() error {
	s := c.server.shop
	low, lowCount, err := c.q().Low(12)
	if err != nil {
		return err
	}
	off, err := c.q().NotForSale(8)
	if err != nil {
		return err
	}
	registers, err := c.q().Registers()
	if err != nil {
		return err
	}
	open, err := c.q().OpenCounts()
	if err != nil {
		return err
	}
	began := s.DayBegan()
	count, gross, err := c.q().TodaySales(began, s.Now())
	if err != nil {
		return err
	}
	lastCount, lastGross, err := c.q().TodaySales(began.AddDate(0, 0, -7), s.Now().AddDate(0, 0, -7))
	if err != nil {
		return err
	}
	loose, err := c.q().LooseCharges(s.Now())
	if err != nil {
		return err
	}
	var lists []store.ImportJob
	if c.who.Can(shop.DeedCatalog) {
		if lists, err = c.q().OpenImportJobs(s.Now().AddDate(0, 0, -3), 5); err != nil {
			return err
		}
	}
	return c.page("today", "Today", "Today", map[string]any{"Lists": lists, "Low": low, "LowCount": lowCount, "Off": off, "Registers": registers, "Counts": open,
		"Figures": []figure{c.money(gross, plural(count, "sale", "sales")+" today"), c.money(lastGross, fmt.Sprintf("%d by now last %s", lastCount, began.In(s.Zone).Format("Monday"))),
			{Amount: strconv.Itoa(lowCount), Name: "running low"}, {Amount: strconv.Itoa(len(open)), Name: "counts open"}}, "Loose": loose, "Sells": c.who.Can(shop.DeedSell)})
}

func (c *call) newProduct() error {
	data, err := c.productChoices()
	if err != nil {
		return err
	}
	return c.page("product_new", "Catalog", "New product", data)
}

// productChoices is what the forms of a product offer.
func (c *call) productChoices() (map[string]any, error) {
	categories, err := c.q().Categories()
	if err != nil {
		return nil, err
	}
	suppliers, err := c.q().Suppliers()
	if err != nil {
		return nil, err
	}
	classes, err := c.q().TaxClasses()
	if err != nil {
		return nil, err
	}
	brands, err := c.q().Brands()
	if err != nil {
		return nil, err
	}
	sets, _, err := c.q().ValueSets()
	return map[string]any{"Categories": categories, "Suppliers": suppliers, "Classes": classes, "Brands": brands, "Sets": sets, "Units": unit.All, "Now": c.server.shop.Now(), "Basis": c.q().Basis().String()}, err
}

// newProductRack draws the rack that a product would have, as it is typed.
func (c *call) newProductRack() error {
	var in shop.NewProduct
	if err := c.read(&in); err != nil {
		return err
	}
	leftOut := in.LeftOut
	in.LeftOut = nil
	all, err := c.server.shop.PreviewProduct(c.ctx, c.who, in)
	if err != nil {
		return err
	}
	out := map[string]bool{}
	for _, choice := range leftOut {
		out[catalog.Choice(choice).Key()] = true
	}
	p := store.ProductView{Product: store.Product{Name: "New product"}, Axes: all.Axes, UnitOf: unit.Piece}
	at := map[string]shop.PreviewCell{}
	for i, cell := range all.Cells {
		p.Variants = append(p.Variants, store.VariantView{ID: uint64(i + 1), Label: cell.Choice.Label(), Choice: cell.Choice})
		at[cell.Choice.Key()] = cell
	}
	view := c.Query("view")
	typed, hint := map[string]string{}, ""
	switch view {
	case "price":
		hint = all.Price.Amount.StringFixed(2)
		typed = cellTexts(in.OwnPrices)
	case "cost":
		hint, typed = in.Cost, cellTexts(in.OwnCosts)
	case "level":
		hint, typed = in.Restock, cellTexts(in.OwnLevels)
	case "barcode":
		hint, typed = "own", cellTexts(in.Barcodes)
	default:
		view = "made"
	}
	made := 0
	mode, what := rackMake, "variants"
	if view != "made" {
		mode, what = rackNumber, view
	}
	rack := hang(p, mode, what, func(v store.VariantView) (cellView, decimal.Decimal) {
		choice, _ := json.Marshal([]string(v.Choice))
		cell := cellView{Choice: string(choice), Note: at[v.Choice.Key()].SKU, Value: typed[v.Choice.Key()], Hint: hint}
		if out[v.Choice.Key()] {
			cell.Off = true
			return cell, decimal.Zero
		}
		made++
		return cell, decimal.New(1, 0)
	})
	rack.Dense = true
	if mode == rackNumber {
		rack.untotal()
	}
	return c.fragment("new_rack", map[string]any{"Rack": rack, "Made": made, "First": first(all.Cells), "P": all})
}

func cellTexts(list []shop.CellText) map[string]string {
	texts := map[string]string{}
	for _, t := range list {
		texts[catalog.Choice(t.Choice).Key()] = t.Text
	}
	return texts
}

func first(cells []shop.PreviewCell) string {
	if len(cells) == 0 {
		return ""
	}
	return cells[0].SKU
}

// productFigures is what the strip over a product's rack says.
type productFigures struct {
	PriceMin, PriceMax              decimal.Decimal
	OnHand, ForSale, Value, Average decimal.Decimal
	Margin                          string
	Low                             int
}

func (c *call) figures(p store.ProductView) productFigures {
	var f productFigures
	for i, v := range p.Variants {
		if i == 0 || v.Price.LessThan(f.PriceMin) {
			f.PriceMin = v.Price
		}
		f.PriceMax = decimal.Max(f.PriceMax, v.Price)
		f.OnHand, f.ForSale, f.Value = f.OnHand.Add(v.OnHand), f.ForSale.Add(v.ForSale), f.Value.Add(v.Value)
		if v.Low {
			f.Low++
		}
	}
	switch {
	case p.Bundle && len(p.Variants) > 0:
		f.Average = p.Variants[0].Average // of its parts
		f.Margin = c.margin(p, f.PriceMin, f.Average)
	case f.OnHand.IsPositive():
		f.Average = cost.Pool{Quantity: f.OnHand, Value: f.Value}.Average()
		f.Margin = c.margin(p, f.PriceMin, f.Average)
	}
	return f
}

// margin is the margin of a price of a product in words, or nothing.
func (c *call) margin(p store.ProductView, gross, cost decimal.Decimal) string {
	if cost.IsZero() {
		return ""
	}
	m, ok := price.MarginOf(c.q().Basis().Net(gross, p.TaxClass.At(c.server.shop.Now())), cost)
	if !ok {
		return ""
	}
	return price.Describe(m)
}

// rackViews are what can hang on a product's rack.
var rackViews = []struct{ Code, Name string }{{"on_hand", "On hand"}, {"available", "Available"}, {"here", "At this branch"}, {"price", "Price"}, {"value", "Value"}}

// productOf reads the product that the address names.
func (c *call) productOf() (store.ProductView, error) {
	id, err := c.number("id")
	if err != nil {
		return store.ProductView{}, err
	}
	return c.q().Product(id, c.who.Branch, c.server.shop.Now())
}

func (c *call) product() error {
	p, err := c.productOf()
	if err != nil {
		return err
	}
	usual := "on_hand"
	if p.Bundle {
		usual = "available" // few are made up
	}
	hung := c.Query("hang", usual)
	rack := hang(p, rackLook, "on hand", onHandCell(p))
	switch hung {
	case "available":
		rack = hang(p, rackLook, "available", func(v store.VariantView) (cellView, decimal.Decimal) {
			return cellView{Figure: p.UnitOf.Format(v.ForSale), HasGauge: true}, v.ForSale
		})
	case "here":
		rack = hang(p, rackLook, "for sale at this branch", func(v store.VariantView) (cellView, decimal.Decimal) {
			return cellView{Figure: p.UnitOf.Format(v.Here)}, v.Here
		})
	case "price", "value":
		rack = hang(p, rackLook, hung, func(v store.VariantView) (cellView, decimal.Decimal) {
			if hung == "price" {
				cell := cellView{Figure: v.Price.StringFixed(2), Retired: v.Retired}
				switch {
				case v.PriceSource == price.NoPrice:
					cell.Figure = "–"
				case v.Under:
					cell.Note, cell.Low = "under cost", true
				case v.PriceSource == price.OwnPrice:
					cell.Note = "own"
				case v.PriceSource == price.ByRule:
					cell.Note = "by rule"
				}
				return cell, decimal.Zero
			}
			return cellView{Figure: v.Value.StringFixed(2)}, v.Value
		})
		rack.untotal()
	default:
		hung = "on_hand"
	}
	pictures, err := c.q().PicturesOf(p.ID)
	if err != nil {
		return err
	}
	return c.page("product", "Catalog", p.Name, map[string]any{"P": p, "Rack": rack, "Strip": c.productStrip(p.Unit, c.figures(p)), "Hung": hung, "Views": rackViews,
		"First": fiber.Query[uint64](c.Ctx, "variant"), "Edits": c.who.Can(shop.DeedCatalog), "Pictures": pictures, "Made": c.Query("made")})
}

// rackEdits are what can be changed on the rack of a product.
var rackEdits = []struct{ Code, Name string }{{"price", "Price"}, {"sku", "SKU"}, {"cost", "Expected cost"}, {"restock_level", "Restock level"}, {"barcode", "Barcodes"}}

// changeRack is the page on which the rack of a product is changed: prices,
// costs, levels, SKUs and barcodes of its cells, and its values.
func (c *call) changeRack() error {
	p, err := c.productOf()
	if err != nil {
		return err
	}
	codes, err := c.q().Barcodes(variantsOf(p))
	if err != nil {
		return err
	}
	byVariant := map[uint64][]store.VariantBarcode{}
	for _, code := range codes {
		byVariant[code.VariantID] = append(byVariant[code.VariantID], code)
	}
	list := max(fiber.Query[uint64](c.Ctx, "list"), price.Regular)
	hung := c.Query("set", "price")
	one := decimal.New(1, 0)
	rack := hang(p, rackNumber, hung, func(v store.VariantView) (cellView, decimal.Decimal) {
		cell := cellView{Retired: v.Retired}
		switch hung {
		case "sku":
			cell.Value, cell.Wide = v.SKU, true
		case "cost":
			cell.Hint = figureText(p.Cost)
			cell.Value = figureText(v.OwnCost)
		case "restock_level":
			cell.Hint = figureText(p.Settled.Restock)
			cell.Value = figureText(v.OwnRestock)
		case "barcode":
			cell.Hint, cell.Wide = v.Barcode, true
			cell.Note = plural(len(byVariant[v.ID]), "barcode", "barcodes")
		default:
			a := p.Pricing.Book.Find(p.Goods(v), list, one, c.server.shop.Now())
			cell.Hint = a.Amount.StringFixed(2)
			if a.Source == price.OwnPrice {
				cell.Value, cell.Note = a.Amount.StringFixed(2), "own"
			}
			if a.UnderCost {
				cell.Note, cell.Low = "under cost", true
			}
		}
		return cell, decimal.Zero
	})
	rack.untotal()
	rack.Dense = true
	return c.page("product_rack", "Catalog", "Rack of "+p.Name, map[string]any{"P": p, "Rack": rack, "Figures": c.figures(p), "Hung": hung, "Edits": rackEdits, "List": list, "Lists": p.Pricing.Book.Lists, "Basis": c.q().Basis().String(), "Codes": byVariant,
		"Rows": p.Pricing.Rows(p.ID, 0, 0)[list], "Now": c.server.shop.Now()})
}

func variantsOf(p store.ProductView) []uint64 {
	ids := make([]uint64, len(p.Variants))
	for i, v := range p.Variants {
		ids[i] = v.ID
	}
	return ids
}

func figureText(d *decimal.Decimal) string {
	if d == nil {
		return ""
	}
	return d.String()
}

// editProduct is the page of a product's facts.
func (c *call) editProduct() error {
	p, err := c.productOf()
	if err != nil {
		return err
	}
	data, err := c.productChoices()
	if err != nil {
		return err
	}
	suppliers, err := c.q().SuppliersOf([]uint64{p.ID})
	if err != nil {
		return err
	}
	attributes, err := c.q().AttributesOf([]uint64{p.ID})
	if err != nil {
		return err
	}
	pictures, err := c.q().PicturesOf(p.ID)
	if err != nil {
		return err
	}
	moved, err := c.q().HasEntries(variantsOf(p))
	if err != nil {
		return err
	}
	codes, err := c.q().Barcodes(variantsOf(p))
	if err != nil {
		return err
	}
	packCodes := map[uint64][]store.VariantBarcode{}
	for _, code := range codes {
		if code.PackID != 0 {
			packCodes[code.PackID] = append(packCodes[code.PackID], code)
		}
	}
	type packRow struct {
		store.Pack
		Price string
		Codes []store.VariantBarcode
	}
	var packs []packRow
	for _, pack := range p.Packs {
		amount, err := c.q().PackPrice(p.ID, pack.ID, c.server.shop.Now())
		if err != nil {
			return err
		}
		packs = append(packs, packRow{pack, figureText(amount), packCodes[pack.ID]})
	}
	parts, err := c.q().BundleParts(variantsOf(p), c.who.Branch)
	if err != nil {
		return err
	}
	data["P"], data["SuppliersOf"], data["Attributes"], data["Pictures"], data["Moved"], data["Packs"] = p, suppliers[p.ID], attributes[p.ID], pictures, moved, packs
	if len(p.Variants) > 0 {
		data["Parts"] = parts[p.Variants[0].ID]
	}
	return c.page("product_edit", "Catalog", "Facts of "+p.Name, data)
}

// tagView is what a swing tag says of a variant.
type tagView struct {
	P          store.ProductView
	V          store.VariantView
	Margin     string
	Swatch     string
	Places     []store.Place
	Moves      []store.Movement
	Units      []store.UnitView
	Conditions []stock.Condition
	Picture    uint64
	Cost       decimal.Decimal
	Parts      []store.PartView
	Kit        bool // it can be made up into stock
}

func (c *call) swingTag() error {
	id, err := c.number("id")
	if err != nil {
		return err
	}
	tag, err := c.tag(id)
	if err != nil {
		return err
	}
	return c.fragment("swingtag", map[string]any{"Tag": tag, "Sells": c.who.Can(shop.DeedSell), "Kits": c.who.Can(shop.DeedKits), "Branch": c.who.Branch})
}

func (c *call) tag(variant uint64) (tagView, error) {
	var tag tagView
	of, err := c.q().ProductsOf([]uint64{variant})
	if err != nil {
		return tag, err
	}
	if len(of) == 0 {
		return tag, fault.Missing("variant", variant, "There is no variant %d.", variant)
	}
	if tag.P, err = c.q().Product(of[0], c.who.Branch, c.server.shop.Now()); err != nil {
		return tag, err
	}
	tag.V, _ = tag.P.Variant(variant)
	if len(tag.P.Axes) > 0 {
		for _, value := range tag.P.Axes[0].Values {
			if len(tag.V.Choice) > 0 && value.Name == tag.V.Choice[0] {
				s, _ := catalog.ParseSwatch(value.Swatch) // it was checked before it was kept
				tag.Swatch = s.First
			}
		}
	}
	if tag.Picture = tag.V.PictureID; tag.Picture == 0 && tag.P.PictureID != nil {
		tag.Picture = *tag.P.PictureID
	}
	if tag.Cost = tag.V.Average; tag.Cost.IsZero() {
		tag.Cost = tag.P.Goods(tag.V).Cost
	}
	tag.Margin = c.margin(tag.P, tag.V.Price, tag.Cost)
	if tag.P.Bundle {
		parts, err := c.q().BundleParts([]uint64{variant}, c.who.Branch)
		if err != nil {
			return tag, err
		}
		tag.Parts, tag.Kit = parts[variant], true
		for _, p := range tag.Parts {
			tag.Kit = tag.Kit && (p.NotStocked || p.Tracking == stock.Counted)
		}
	}
	if tag.Places, err = c.q().Places(variant); err != nil {
		return tag, err
	}
	if tag.Moves, _, err = c.q().Movements(variant, store.MovementFilter{Limit: 5}); err != nil {
		return tag, err
	}
	if tag.P.Tracking == string(stock.BySerial) {
		tag.Units, err = c.q().Units(variant, 8)
	}
	return tag, err
}

func (c *call) pdf(name string, data []byte) error {
	c.Set(fiber.HeaderContentType, "application/pdf")
	c.Set(fiber.HeaderContentDisposition, `inline; filename="`+name+`"`)
	return c.Ctx.Send(data)
}
