package buying

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	shopbuying "itemrack/shop/buying"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/store/trade"
	"itemrack/web/kit"
)

func deliveries(c *kit.Call) error {
	columns := []kit.Column[trade.DeliveryView]{kit.Col("number", func(r trade.DeliveryView) any { return r.Number }),
		kit.Col("when", func(r trade.DeliveryView) any { return c.InZone(r.HappenedAt) }),
		kit.Col("supplier", func(r trade.DeliveryView) any { return r.Supplier }),
		kit.Col("their number", func(r trade.DeliveryView) any { return r.SupplierNumber }),
		kit.Col("to", func(r trade.DeliveryView) any { return r.Branch }),
		kit.Col("units", func(r trade.DeliveryView) any { return r.Units }),
		kit.CostCol("net", func(r trade.DeliveryView) any { return c.Amount(r.Net) }),
		kit.Col("by", func(r trade.DeliveryView) any { return r.By }),
		kit.Col("reversed", func(r trade.DeliveryView) any { return r.Reversed })}
	return kit.Listed(c, "deliveries", "Buying", "Deliveries", columns, trade.Deliveries,
		map[string]any{"Receives": c.Who.Can(staff.DeedReceive)})
}

func newDelivery(c *kit.Call) error {
	suppliers, err := goods.Suppliers(c.Q())
	if err != nil {
		return err
	}
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	classes, err := prices.TaxClasses(c.Q())
	if err != nil {
		return err
	}
	data := noDelivery(c)
	data["Suppliers"], data["Branches"], data["Classes"] = suppliers, branches, classes
	return c.Page("delivery", "Buying", "New delivery", data)
}

// noDelivery is what is shown of a delivery that nothing is kept of yet.
func noDelivery(c *kit.Call) map[string]any {
	return map[string]any{
		"D":      trade.DeliveryView{Delivery: trade.Delivery{BranchID: c.Who.Branch, Spread: "value"}},
		"Lines":  []lineView{},
		"Totals": buying.Totals{},
	}
}

// lineView is a line of a delivery with names and what it comes to.
type lineView struct {
	trade.DeliveryLine
	Item   goods.Sellable
	Landed buying.Landed
	Expiry string
	Codes  string
	Each   string // what one costs, as it is typed; empty while it is not known
}

// Lotted and Numbered say what a line asks for besides quantity and cost.
func (l lineView) Lotted() bool { return l.Item.Tracking == stock.ByLot }

// Numbered reports whether the line's goods have serial numbers.
func (l lineView) Numbered() bool { return l.Item.Tracking == stock.BySerial }

func deliveryView(c *kit.Call) (map[string]any, trade.DeliveryView, error) {
	if c.Params("id") == "" {
		return noDelivery(c), trade.DeliveryView{}, nil
	}
	id, err := c.Number("id")
	if err != nil {
		return nil, trade.DeliveryView{}, err
	}
	d, rows, err := trade.ReadDelivery(c.Q(), id)
	if err != nil {
		return nil, d, err
	}
	totals, err := shopbuying.DeliveryTotals(d.Delivery, rows, c.Terms.Minor())
	if err != nil {
		return nil, d, err
	}
	ids := make([]uint64, len(rows))
	for i, r := range rows {
		ids[i] = r.VariantID
	}
	found, err := goods.Sellables(c.Q(), ids, c.Shop.Now())
	if err != nil {
		return nil, d, err
	}
	lines := make([]lineView, len(rows))
	for i, r := range rows {
		lines[i] = lineView{
			DeliveryLine: r,
			Item:         found[r.VariantID],
			Landed:       totals.Lines[i],
			Codes:        strings.ReplaceAll(r.Serials, ",", ", "),
		}
		if r.Expiry != nil {
			lines[i].Expiry = r.Expiry.Format("02/01/2006")
		}
		if r.Cost != nil {
			lines[i].Each = r.Cost.String()
		}
	}
	return map[string]any{"D": d, "Lines": lines, "Totals": totals}, d, nil
}

func delivery(c *kit.Call) error {
	data, d, err := deliveryView(c)
	if err != nil {
		return err
	}
	if d.DocumentID != nil || !c.Who.Can(staff.DeedReceive) {
		if d.Number != "" {
			return c.Redirect().To("/documents/" + d.Number)
		}
		return fault.Missing("delivery", d.ID, "That delivery is still a draft.")
	}
	if data["Suppliers"], err = goods.Suppliers(c.Q()); err != nil {
		return err
	}
	if data["Branches"], err = office.Branches(c.Q()); err != nil {
		return err
	}
	if data["Classes"], err = prices.TaxClasses(c.Q()); err != nil {
		return err
	}
	title := "Delivery"
	if d.Supplier != "" {
		title += " from " + d.Supplier
	}
	return c.Page("delivery", "Buying", title, data)
}

func deliveryLines(c *kit.Call) error {
	data, _, err := deliveryView(c)
	if err != nil {
		return err
	}
	return c.Fragment("delivery_lines", data)
}

// deliveryRack is the rack on which the quantities of one product are typed.
func deliveryRack(c *kit.Call) error {
	id, err := c.Number("product")
	if err != nil {
		return err
	}
	data, _, err := deliveryView(c)
	if err != nil {
		return err
	}
	p, err := goods.ReadProduct(c.Q(), id, c.Who.Branch, c.Shop.Now())
	if err != nil {
		return err
	}
	got := map[uint64]decimal.Decimal{}
	for _, l := range data["Lines"].([]lineView) {
		got[l.VariantID] = got[l.VariantID].Add(l.Quantity)
	}
	rack := kit.Hang(p, kit.RackNumber, "delivered", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Hint: "0", Note: p.UnitOf.Format(v.OnHand) + " now"}
		if q, ok := got[v.ID]; ok {
			cell.Value = p.UnitOf.Format(q)
		}
		return cell, got[v.ID]
	})
	rack.Dense = true
	last := ""
	variants := make([]uint64, len(p.Variants))
	for i, v := range p.Variants {
		variants[i] = v.ID
		if !v.LastCost.IsZero() && last == "" {
			last = kit.CostText(v.LastCost, c.Terms.Minor())
		}
	}
	typed, err := trade.LastTyped(c.Q(), variants, data["D"].(trade.DeliveryView).CostsIncludeTax)
	if err != nil {
		return err
	}
	for _, id := range variants {
		if before, ok := typed[id]; ok {
			last = kit.CostText(before, c.Terms.Minor())
			break
		}
	}
	return c.Fragment("delivery_rack", map[string]any{"P": p, "Rack": rack, "Cost": last})
}
