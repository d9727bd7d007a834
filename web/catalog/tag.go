package catalog

import (
	"github.com/shopspring/decimal"

	corecatalog "itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/store/book"
	"itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/web/kit"
)

// tagView is what a swing tag says of a variant.
type tagView struct {
	P       goods.ProductView
	V       goods.VariantView
	Margin  string
	Swatch  string
	Places  []book.Place
	Moves   []book.Movement
	Units   []book.UnitView
	Picture uint64
	Cost    decimal.Decimal
	Parts   []goods.PartView
	Kit     bool // it can be made up into stock
	Costs   bool // they may be seen
	OnOrder decimal.Decimal
	facts   []stock.ConditionFacts
}

func swingTag(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	tag, err := Tag(c, id)
	if err != nil {
		return err
	}
	return c.Fragment(
		"swingtag",
		map[string]any{
			"Tag":    tag,
			"Sells":  c.Who.Can(staff.DeedSell),
			"Kits":   c.Who.Can(staff.DeedKits),
			"Branch": c.Who.Branch,
		},
	)
}

func Tag(c *kit.Call, variant uint64) (tagView, error) {
	var tag tagView
	of, err := goods.ProductsOf(c.Q(), []uint64{variant})
	if err != nil {
		return tag, err
	}
	if len(of) == 0 {
		return tag, fault.Missing("variant", variant, "There is no variant %d.", variant)
	}
	if tag.P, err = goods.ReadProduct(c.Q(), of[0], c.Who.Branch, c.Shop.Now()); err != nil {
		return tag, err
	}
	tag.V, _ = tag.P.Variant(variant)
	if len(tag.P.Axes) > 0 {
		for _, value := range tag.P.Axes[0].Values {
			if len(tag.V.Choice) > 0 && value.Name == tag.V.Choice[0] {
				s, _ := corecatalog.ParseSwatch(value.Swatch) // it was checked before it was kept
				tag.Swatch = s.First
			}
		}
	}
	if tag.Picture = tag.V.PictureID; tag.Picture == 0 && tag.P.PictureID != nil {
		tag.Picture = *tag.P.PictureID
	}
	tag.Costs = c.Who.Can(staff.DeedCosts)
	tag.Cost, tag.Margin = tag.V.Answer.Cost.Amount, tag.V.Answer.MarginText()
	if tag.P.Bundle {
		parts, err := goods.BundleParts(c.Q(), []uint64{variant}, c.Who.Branch)
		if err != nil {
			return tag, err
		}
		tag.Parts, tag.Kit = parts[variant], true
		for _, p := range tag.Parts {
			tag.Kit = tag.Kit && (p.NotStocked || p.Tracking == stock.Counted)
		}
	}
	coming, err := buying.OnOrder(c.Q(), []uint64{variant}, 0)
	if err != nil {
		return tag, err
	}
	tag.OnOrder = coming[variant]
	if tag.Places, err = book.Places(c.Q(), variant); err != nil {
		return tag, err
	}
	if tag.facts, err = office.Conditions(c.Q()); err != nil {
		return tag, err
	}
	if tag.Moves, _, err = book.Movements(c.Q(), variant, book.MovementFilter{Limit: 5}); err != nil {
		return tag, err
	}
	if tag.P.Tracking == string(stock.BySerial) {
		tag.Units, err = book.Units(c.Q(), variant, 8)
	}
	return tag, err
}

// soldApart tells beside what is available how many are sold apart from new: " + 2 Seconds".
func (t tagView) soldApart() string {
	said := ""
	for _, f := range t.facts {
		sum := decimal.Zero
		for _, p := range t.Places {
			if f.Apart() && p.Condition == string(f.Name) {
				sum = sum.Add(p.Quantity)
			}
		}
		if sum.IsPositive() {
			said += " + " + kit.Quantity(t.P.Unit, sum) + " " + string(f.Name)
		}
	}
	return said
}
