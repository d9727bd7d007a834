package buying

import (
	"errors"
	"fmt"
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

// orderRack is the rack of one product of an order.
type orderRack struct {
	Name  string
	Note  string
	Here  decimal.Decimal
	Of    decimal.Decimal
	Rack  kit.RackView
	First uint64
}

// mostRacks is how many products of an order hang on racks; the others are lines.
const mostRacks = 8

// hang puts the products of the order that vary on racks, in outline; what is here fills
// them.
func (p *orderPage) hang(c *kit.Call) error {
	byProduct := map[uint64][]orderLineView{}
	var turn []uint64
	for _, l := range p.Lines {
		if byProduct[l.Item.ProductID] == nil {
			turn = append(turn, l.Item.ProductID)
		}
		byProduct[l.Item.ProductID] = append(byProduct[l.Item.ProductID], l)
	}
	var racked []uint64
	for _, id := range turn {
		if byProduct[id][0].Item.Label == "" || len(racked) == mostRacks || p.At > 1 {
			p.Loose = append(p.Loose, byProduct[id]...)
			continue
		}
		racked = append(racked, id)
	}
	products, err := goods.ProductViews(c.Q(), racked, p.O.BranchID, c.Shop.Now())
	if err != nil {
		return err
	}
	var theirs []storebuying.OrderLine // those on other pages of lines, too
	for _, product := range products {
		theirs = append(theirs, p.of(*product)...)
	}
	lines, err := p.look(c, theirs)
	if err != nil {
		return err
	}
	for _, product := range products {
		its := slices.DeleteFunc(slices.Clone(lines),
			func(l orderLineView) bool { return l.Item.ProductID != product.ID })
		p.Racks = append(p.Racks, rackOf(c, *product, its))
	}
	return nil
}

// of are the lines of an order that are of a product.
func (p *orderPage) of(product goods.ProductView) []storebuying.OrderLine {
	its := map[uint64]bool{}
	for _, v := range product.Variants {
		its[v.ID] = true
	}
	return slices.DeleteFunc(slices.Clone(p.All), func(l storebuying.OrderLine) bool { return !its[l.VariantID] })
}

// rackOf hangs the lines of one product.
func rackOf(c *kit.Call, product goods.ProductView, lines []orderLineView) orderRack {
	r := orderRack{Name: product.Name}
	whole := product.UnitOf.Format
	at := map[uint64]orderLineView{}
	same := true
	for _, l := range lines {
		at[l.VariantID] = l
		r.Here, r.Of = r.Here.Add(l.Arrived), r.Of.Add(l.Quantity)
		same = same && l.Unit.Equal(lines[0].Unit)
	}
	if same && c.Who.Can(staff.DeedCosts) && lines[0].Price != nil {
		r.Note = kit.CostText(lines[0].Unit, c.Terms.Minor()) + " each"
		if lines[0].Discount.IsPositive() {
			r.Note = fmt.Sprintf("%s less %s %% = %s", lines[0].Asked, lines[0].Discount, r.Note)
		}
	}
	r.Rack = kit.Hang(product, kit.RackLook, "here of ordered",
		func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
			l, ok := at[v.ID]
			if !ok {
				return kit.CellView{Off: true, Figure: "–", Note: "not ordered"}, decimal.Zero
			}
			if r.First == 0 {
				r.First = v.ID
			}
			cell := kit.CellView{Figure: whole(l.Arrived), Note: "of " + whole(l.Quantity), Outline: true}
			if l.Quantity.IsPositive() {
				cell.Filled = int(decimal.Min(decimal.New(100, 0),
					l.Arrived.Mul(decimal.New(100, 0)).DivRound(l.Quantity, 0)).IntPart())
			}
			switch {
			case l.F.Over().IsPositive():
				cell.Under = whole(l.F.Over()) + " over"
			case l.CalledOff.IsPositive():
				cell.Under = whole(l.CalledOff) + " called off"
			}
			return cell, l.Arrived
		})
	r.Rack.Dense = true
	r.Rack.Tell(func(variants []uint64) string {
		here, of := decimal.Zero, decimal.Zero
		for _, v := range variants {
			here, of = here.Add(at[v].Arrived), of.Add(at[v].Quantity)
		}
		return whole(here) + " of " + whole(of)
	})
	return r
}

// orderRackOf is the rack on which what to order of one product is typed.
func orderRackOf(c *kit.Call) error {
	id, err := c.Number("product")
	if err != nil {
		return err
	}
	var product goods.ProductView
	var missing error
	p, err := readOrderPage(c, func(p *orderPage) []storebuying.OrderLine {
		product, missing = goods.ReadProduct(c.Q(), id, p.O.BranchID, c.Shop.Now())
		return p.of(product)
	})
	if err = errors.Join(err, missing); err != nil {
		return err
	}
	variants := kit.VariantsOf(product)
	sold, err := storebuying.SoldSince(c.Q(), variants, c.Shop.Now().AddDate(0, 0, -soldDays))
	if err != nil {
		return err
	}
	coming, err := storebuying.OnOrder(c.Q(), variants, p.O.BranchID)
	if err != nil {
		return err
	}
	before, err := shopbuying.Quoted(c.Q(), p.Supplier, variants, c.Terms.Day(c.Shop.Now()))
	if err != nil {
		return err
	}
	at := map[uint64]orderLineView{}
	for _, l := range p.Lines {
		at[l.VariantID] = l
	}
	whole := product.UnitOf.Format
	rack := kit.Hang(product, kit.RackNumber, "to order", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Hint: "0", Note: whole(v.OnHand) + " here", Low: v.Low}
		if n := coming[v.ID].Sub(at[v.ID].Outstanding); n.IsPositive() {
			cell.Note += " +" + whole(n)
		}
		if n := sold[v.ID]; n.IsPositive() {
			cell.Note += " · " + whole(n)
		}
		if v.Retired {
			cell.Off, cell.Hint = true, "selling out"
		}
		if l, ok := at[v.ID]; ok {
			cell.Value = whole(l.Quantity)
		}
		return cell, at[v.ID].Quantity
	})
	rack.Dense = true
	revisions := map[uint64]uint64{}
	for _, l := range p.Lines {
		revisions[l.VariantID] = l.Revision
	}
	view := map[string]any{"P": product, "Rack": rack, "Page": p, "Revisions": revisions, "Price": "",
		"Discount": kit.FigureText(&p.Supplier.Discount), "Days": soldDays, "Paid": ""}
	for _, v := range variants {
		if l, ok := at[v]; ok {
			view["Price"], view["Discount"] = l.Asked, l.Discount.String()
			break
		}
		if b, ok := before[v]; ok && view["Paid"] == "" {
			view["Paid"] = kit.CostText(number.OrZero(b.Price), c.Terms.Minor())
			view["Discount"], view["Of"] = b.Discount.String(), b.Pack
		}
	}
	return c.Fragment("order_rack", view)
}

// orderTag is the swing tag of a line of an order.
func orderTag(c *kit.Call) error {
	variant, err := c.Number("variant")
	if err != nil {
		return err
	}
	p, err := readOrderPage(c, func(p *orderPage) []storebuying.OrderLine {
		at := slices.IndexFunc(p.All, func(l storebuying.OrderLine) bool { return l.VariantID == variant })
		return p.All[max(at, 0) : at+1]
	})
	if err != nil {
		return err
	}
	at := slices.IndexFunc(p.Lines, func(l orderLineView) bool { return l.VariantID == variant })
	if at < 0 {
		return fault.Missing("variant", variant, "That is not in the order.")
	}
	l := p.Lines[at]
	history, err := storebuying.AskedBefore(c.Q(), p.O.SupplierID, variant, p.O.ID, 3)
	if err != nil {
		return err
	}
	sold, err := storebuying.SoldSince(c.Q(), []uint64{variant}, c.Shop.Now().AddDate(0, 0, -soldDays))
	if err != nil {
		return err
	}
	view := map[string]any{"Page": p, "L": l, "Sold": sold[variant], "Days": soldDays,
		"Costs": c.Who.Can(staff.DeedCosts)}
	var earlier []askedView
	for _, h := range history {
		f := h.Figures()
		earlier = append(earlier, askedView{h, kit.CostText(f.Price, c.Terms.Minor()), f.UnitCost(c.Terms.Minor()),
			f.ExpectedLanded(p.Supplier.SupplierTerms, c.Terms.Minor())})
	}
	if len(earlier) > 0 {
		diff := l.Unit.Sub(earlier[0].Unit)
		view["Dearer"], view["Than"] = diff, earlier[0].Unit
		if earlier[0].Unit.IsPositive() {
			view["Percent"] = buying.CostChange(earlier[0].Unit, l.Unit).Abs()
		}
	}
	view["Earlier"] = earlier
	if ruled, ok := l.Item.Book.Ruled(l.Item.Goods, l.Landed); ok && c.Who.Can(staff.DeedCosts) {
		view["Ruled"] = ruled
	}
	product, err := goods.ReadProduct(c.Q(), l.Item.ProductID, p.O.BranchID, c.Shop.Now())
	if err != nil {
		return err
	}
	v, _ := product.Variant(variant)
	view["V"] = v
	if view["Picture"] = v.PictureID; v.PictureID == 0 && product.PictureID != nil {
		view["Picture"] = *product.PictureID
	}
	return c.Fragment("order_tag", view)
}
