package catalog

import (
	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

// picture sends a picture, or its thumbnail.
func picture(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	small := c.Query("small") != ""
	p, err := goods.ReadPicture(c.Q(), id, small)
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

// rackViews are what can hang on a product's rack.
var rackViews = []struct{ Code, Name string }{{"on_hand", "On hand"}, {"available", "Available"},
	{"here", "At this branch"}, {"price", "Price"}, {"value", "Value"}}

func product(c *kit.Call) error {
	p, err := c.ProductOf()
	if err != nil {
		return err
	}
	usual := "on_hand"
	if p.Bundle {
		usual = "available" // few are made up
	}
	hung := c.Query("hang", usual)
	costs := c.Who.Can(staff.DeedCosts)
	views := rackViews
	if !costs {
		views = rackViews[:len(rackViews)-1]
		if hung == "value" {
			hung = usual
		}
	}
	rack := kit.Hang(p, kit.RackLook, "on hand", kit.OnHandCell(p))
	switch hung {
	case "available":
		rack = kit.Hang(p, kit.RackLook, "available", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
			return kit.CellView{Figure: p.UnitOf.Format(v.ForSale), HasGauge: true}, v.ForSale
		})
	case "here":
		rack = kit.Hang(
			p,
			kit.RackLook,
			"for sale at this branch",
			func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
				return kit.CellView{Figure: p.UnitOf.Format(v.Here)}, v.Here
			},
		)
	case "price", "value":
		rack = kit.Hang(p, kit.RackLook, hung, func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
			if hung == "price" {
				cell := kit.CellView{Figure: c.Terms.Minor().Text(v.Price), Retired: v.Retired}
				switch {
				case v.PriceSource == price.NoPrice:
					cell.Figure = "–"
				case v.Under && costs:
					cell.Note, cell.Low = "under cost", true
				case v.PriceSource == price.OwnPrice:
					cell.Note = "own"
				case v.PriceSource == price.ByRule:
					cell.Note = "by rule"
				}
				return cell, decimal.Zero
			}
			return kit.CellView{Figure: c.Terms.Minor().Text(v.Value)}, v.Value
		})
		rack.Untotal()
	default:
		hung = "on_hand"
	}
	pictures, err := goods.PicturesOf(c.Q(), p.ID)
	if err != nil {
		return err
	}
	return c.Page(
		"product",
		"Catalog",
		p.Name,
		map[string]any{
			"P":        p,
			"Rack":     rack,
			"Strip":    productStrip(c, p.Unit, figures(c, p)),
			"Hung":     hung,
			"Views":    views,
			"First":    fiber.Query[uint64](c.Ctx, "variant"),
			"Edits":    c.Who.Can(staff.DeedCatalog),
			"Pictures": pictures,
			"Made":     c.Query("made"),
		},
	)
}
