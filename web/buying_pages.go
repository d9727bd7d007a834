package web

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/stock"
	"itemrack/shop"
	"itemrack/store"
)

func (c *call) deliveries() error {
	columns := []column[store.DeliveryView]{{"number", func(r store.DeliveryView) any { return r.Number }}, {"when", func(r store.DeliveryView) any { return c.inZone(r.HappenedAt) }}, {"supplier", func(r store.DeliveryView) any { return r.Supplier }},
		{"their number", func(r store.DeliveryView) any { return r.SupplierNumber }}, {"to", func(r store.DeliveryView) any { return r.Branch }}, {"units", func(r store.DeliveryView) any { units, _ := number.Parse(r.Units); return units }},
		{"net", func(r store.DeliveryView) any { return fixed(r.Net, 2) }}, {"by", func(r store.DeliveryView) any { return r.By }}, {"reversed", func(r store.DeliveryView) any { return r.Reversed }}}
	return listed(c, "deliveries", "Buying", "Deliveries", columns, store.Q.Deliveries, map[string]any{"Receives": c.who.Can(shop.DeedReceive)})
}

func (c *call) newDelivery() error {
	suppliers, err := c.q().Suppliers()
	if err != nil {
		return err
	}
	branches, err := c.q().Branches()
	if err != nil {
		return err
	}
	return c.page("delivery", "Buying", "New delivery", map[string]any{"Suppliers": suppliers, "Branches": branches, "D": store.DeliveryView{Delivery: store.Delivery{BranchID: c.who.Branch, Spread: "value"}}, "Lines": []lineView{}, "Totals": buying.Totals{}})
}

// lineView is a line of a delivery with names and what it comes to.
type lineView struct {
	store.DeliveryLine
	Item   store.Sellable
	Landed buying.Landed
	Expiry string
	Codes  string
}

// Lotted and Numbered say what a line asks for besides quantity and cost.
func (l lineView) Lotted() bool { return l.Item.Tracking == stock.ByLot }

// Numbered reports whether the line's goods have serial numbers.
func (l lineView) Numbered() bool { return l.Item.Tracking == stock.BySerial }

func (c *call) deliveryView() (map[string]any, store.DeliveryView, error) {
	id, err := c.number("id")
	if err != nil {
		return nil, store.DeliveryView{}, err
	}
	d, rows, err := c.q().Delivery(id)
	if err != nil {
		return nil, d, err
	}
	totals, err := shop.DeliveryTotals(d.Delivery, rows)
	if err != nil {
		return nil, d, err
	}
	ids := make([]uint64, len(rows))
	for i, r := range rows {
		ids[i] = r.VariantID
	}
	found, err := c.q().Sellables(ids, c.server.shop.Now())
	if err != nil {
		return nil, d, err
	}
	lines := make([]lineView, len(rows))
	for i, r := range rows {
		lines[i] = lineView{DeliveryLine: r, Item: found[r.VariantID], Landed: totals.Lines[i], Codes: strings.ReplaceAll(r.Serials, ",", ", ")}
		if r.Expiry != nil {
			lines[i].Expiry = r.Expiry.Format("2006-01-02")
		}
	}
	return map[string]any{"D": d, "Lines": lines, "Totals": totals}, d, nil
}

func (c *call) delivery() error {
	data, d, err := c.deliveryView()
	if err != nil {
		return err
	}
	if d.DocumentID != nil || !c.who.Can(shop.DeedReceive) {
		if d.Number != "" {
			return c.Redirect().To("/documents/" + d.Number)
		}
		return fault.Missing("delivery", d.ID, "That delivery is still a draft.")
	}
	if data["Suppliers"], err = c.q().Suppliers(); err != nil {
		return err
	}
	if data["Branches"], err = c.q().Branches(); err != nil {
		return err
	}
	return c.page("delivery", "Buying", "Delivery from "+d.Supplier, data)
}

func (c *call) deliveryLines() error {
	data, _, err := c.deliveryView()
	if err != nil {
		return err
	}
	return c.fragment("delivery_lines", data)
}

// deliveryRack is the rack on which the quantities of one product are typed.
func (c *call) deliveryRack() error {
	id, err := c.number("product")
	if err != nil {
		return err
	}
	data, _, err := c.deliveryView()
	if err != nil {
		return err
	}
	p, err := c.q().Product(id, c.who.Branch, c.server.shop.Now())
	if err != nil {
		return err
	}
	got := map[uint64]decimal.Decimal{}
	for _, l := range data["Lines"].([]lineView) {
		got[l.VariantID] = got[l.VariantID].Add(l.Quantity)
	}
	rack := hang(p, rackNumber, "delivered", func(v store.VariantView) (cellView, decimal.Decimal) {
		cell := cellView{Hint: "0", Note: p.UnitOf.Format(v.OnHand) + " now"}
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
			last = v.LastCost.StringFixed(costPlaces(v.LastCost))
		}
	}
	typed, err := c.q().LastTyped(variants, data["D"].(store.DeliveryView).CostsIncludeTax)
	if err != nil {
		return err
	}
	for _, id := range variants {
		if before, ok := typed[id]; ok {
			last = before.StringFixed(costPlaces(before))
			break
		}
	}
	return c.fragment("delivery_rack", map[string]any{"P": p, "Rack": rack, "Cost": last})
}
