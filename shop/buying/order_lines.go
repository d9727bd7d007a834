package buying

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// OrderLineInput is a line of an order as it is typed. An empty quantity takes the line off
// a draft. What is left empty of a new line is proposed: the pack, price and discount of
// the last time.
type OrderLineInput struct {
	Variant    uint64  `json:"variant_id"`
	Quantity   string  `json:"quantity"` // base units: "48", or "4 x 12"
	Pack       *uint64 `json:"pack_id"`  // 0 for single units, nil to leave it as it is
	Price      string  `json:"price"`    // of a pack
	Discount   string  `json:"discount"`
	PartNumber *string `json:"part_number"`
	Revision   uint64  `json:"revision"` // of the line as it was shown; 0 for a new one
}

// PutOrderLines sets lines of an order, each by itself: others stay as they are, whoever
// works on them. A line that somebody changed meanwhile is refused.
func PutOrderLines(do deed.Deed, id uint64, in []OrderLineInput) (OrderRef, error) {
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		o, err := lockOrder(do.Tx, do.Who, id)
		if err != nil {
			return OrderRef{}, err
		}
		err = putLines(do, &o, in)
		return refOf(o.Order), err
	})
}

// putLines sets lines of an order that is locked, and keeps it.
func putLines(do deed.Deed, o *openOrder, in []OrderLineInput) error {
	if err := o.changeable(); err != nil {
		return err
	}
	ids := make([]uint64, len(in))
	for i, l := range in {
		ids[i] = l.Variant
	}
	found, err := goods.Sellables(do.Tx.Q, ids, do.Shop.Now())
	if err != nil {
		return err
	}
	asked, err := o.asked(do.Tx, found, o.set.Day(do.Shop.Now()))
	if err != nil {
		return err
	}
	var gone []uint64
	var changes, costs []string
	for i, l := range in {
		v := found[l.Variant]
		if v.ID == 0 {
			return InLine(i, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant))
		}
		if v.Tracking == stock.NotStocked {
			return InLine(i, fault.Refuse("variant_id", l.Variant, "a product with stock",
				"%s is a service or a bundle; it can't be ordered.", v.Name))
		}
		at := slices.IndexFunc(o.lines, func(x storebuying.OrderLine) bool { return x.VariantID == l.Variant })
		var was storebuying.OrderLine
		if at >= 0 {
			was = o.lines[at]
			if err := revision.Check(v.FullName(), l.Revision, was.Revision); err != nil {
				return InLine(i, err)
			}
		}
		line, err := readOrderLine(v, l, was, asked[v.ID])
		if err != nil {
			return InLine(i, err)
		}
		if err := was.Figures().CheckChange(line.Quantity, v.FullName()); at >= 0 && err != nil {
			return InLine(i, err)
		}
		if o.PlacedAt != nil {
			if line.Quantity.IsPositive() && line.Price == nil {
				return InLine(i, unpriced(v))
			}
			said, cost := buying.Change(v.FullName(), was.Figures(), line.Figures(), v.Unit.Format)
			if said != "" {
				changes = append(changes, said)
			}
			if cost != "" {
				costs = append(costs, cost)
			}
		}
		switch {
		case line.Quantity.IsZero() && at >= 0:
			gone = append(gone, was.ID)
			o.lines = slices.Delete(o.lines, at, at+1)
		case line.Quantity.IsZero():
		case at >= 0:
			line.Revision++
			o.lines[at] = line
		default:
			line.OrderID, line.Revision = o.ID, 1
			o.lines = append(o.lines, line)
		}
	}
	if err := storebuying.DropOrderLines(do.Tx, gone); err != nil {
		return err
	}
	if len(changes)+len(costs) > 0 {
		now := do.Shop.Now()
		o.ChangedAt = &now
		if err := storebuying.AddOrderEvent(do.Tx, storebuying.OrderEvent{OrderID: o.ID, UserID: do.Who.ID, At: now,
			What:   "Changed",
			Detail: strings.Join(changes, "; "), Costs: strings.Join(costs, "; ")}); err != nil {
			return err
		}
	}
	return o.keep(do.Tx)
}

// asked is what the supplier is proposed to ask for some variants, with its own number.
func (o *openOrder) asked(tx store.Tx, found map[uint64]goods.Sellable,
	today time.Time) (map[uint64]storebuying.OrderLine, error) {
	ids := make([]uint64, 0, len(found))
	for id := range found {
		ids = append(ids, id)
	}
	before, err := Quoted(tx.Q, o.supplier, ids, today)
	if err != nil {
		return nil, err
	}
	parts, err := storebuying.PartNumbers(tx.Q, o.SupplierID, ids)
	if err != nil {
		return nil, err
	}
	proposed := make(map[uint64]storebuying.OrderLine, len(found))
	for id, v := range found {
		bought := buying.Single()
		for _, p := range v.Packs {
			if p.Bought {
				bought.Pack, bought.Factor = p.Name, p.Factor
			}
		}
		var last *buying.Offer
		part := parts[id]
		if b, ok := before[id]; ok {
			last = &b.Offer
			part = text.Or(b.Part, part)
		}
		expected := v.Expected[0]
		if expected == nil {
			expected = v.Expected[1]
		}
		offer := buying.Propose(last, bought, expected, &v.LastCost, o.supplier.SupplierTerms, o.minor)
		proposed[id] = storebuying.OrderLine{VariantID: id, Pack: offer.Pack, Factor: offer.Factor, Price: offer.Price,
			Discount: offer.Discount,
			Percent:  v.BuyPercent, PartNumber: part}
	}
	return proposed, nil
}

// readOrderLine reads a typed line on top of the line that there was, or of what is
// proposed.
func readOrderLine(v goods.Sellable, in OrderLineInput, was, proposed storebuying.OrderLine) (storebuying.OrderLine,
	error) {
	line := was
	if line.VariantID == 0 {
		line = proposed
	}
	var err error
	quantity := decimal.Zero
	if strings.TrimSpace(in.Quantity) != "" {
		if quantity, err = v.Unit.Parse("quantity", in.Quantity); err != nil {
			return line, err
		}
	}
	if !quantity.Equal(line.Quantity) {
		line.Put(line.Figures().Resettle(quantity))
	}
	if in.Pack != nil {
		name, factor := "", decimal.New(1, 0)
		if *in.Pack != 0 {
			at := slices.IndexFunc(v.Packs, func(p sale.Pack) bool { return p.ID == *in.Pack })
			if at < 0 {
				return line, fault.Field("pack_id", *in.Pack, "a pack of "+v.Name, "%s has no pack %d.", v.Name,
					*in.Pack)
			}
			name, factor = v.Packs[at].Name, v.Packs[at].Factor
		}
		if name != line.Pack || !factor.Equal(line.Factor) {
			offer := buying.Offer{Pack: line.Pack, Factor: line.Factor, Price: line.Price,
				Discount: line.Discount}.Repack(name, factor)
			line.Pack, line.Factor, line.Price = offer.Pack, offer.Factor, offer.Price
		}
	}
	if strings.TrimSpace(in.Price) != "" {
		amount, err := money.ParseCost("price", in.Price)
		if err != nil {
			return line, err
		}
		line.Price = &amount
	}
	if strings.TrimSpace(in.Discount) != "" {
		if line.Discount, err = price.ParsePercent("discount", in.Discount); err != nil {
			return line, err
		}
		if err := buying.CheckDiscount(line.Discount); err != nil {
			return line, err
		}
	}
	if in.PartNumber != nil {
		line.PartNumber = text.Tidy(*in.PartNumber)
		if text.Len(line.PartNumber) > 60 {
			return line, fault.Field("part_number", line.PartNumber, "60 characters or fewer",
				"The supplier's number is too long.")
		}
	}
	return line, nil
}

func unpriced(v goods.Sellable) error {
	return fault.Field("price", "", "what the supplier asks; 0 if nothing", "%s: what does it cost?", v.FullName())
}

// OrderScan is a code that is scanned into an order.
type OrderScan struct {
	Code string `json:"code"`
}

// ScanOrder adds to an order what was scanned: a piece, a pack, so many of them.
func ScanOrder(do deed.Deed, id uint64, in OrderScan) (shopscan.DeliveryScanned, error) {
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (shopscan.DeliveryScanned, error) {
		o, err := lockOrder(do.Tx, do.Who, id)
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		scan, err := shopscan.Read(do.Tx.Q, in.Code, 20)
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		if !scan.One() {
			return scan.Meant()
		}
		quantity := scan.Units
		variant := scan.Found[0].ID
		for _, l := range o.lines {
			if l.VariantID == variant {
				quantity = quantity.Add(l.Quantity)
			}
		}
		if err := putLines(do, &o, []OrderLineInput{{Variant: variant,
			Quantity: quantity.String()}}); err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		items, err := goods.Sellables(do.Tx.Q, []uint64{variant}, do.Shop.Now())
		v := items[variant]
		return shopscan.DeliveryScanned{Said: v.FullName() + ": " + v.Unit.Format(quantity) + " in this order.",
			ID: o.ID, Revision: o.Revision, Variant: variant}, err
	})
}
