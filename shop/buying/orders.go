package buying

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// OrderInput is the head of a purchase order as it is typed.
type OrderInput struct {
	Supplier uint64           `json:"supplier_id"`
	Branch   uint64           `json:"branch_id"`
	WantedOn string           `json:"wanted_on"` // empty for the supplier's lead time from today
	Note     string           `json:"note"`
	Lines    []OrderLineInput `json:"lines"`    // of a new order
	Revision uint64           `json:"revision"` // as it was shown; another one is refused
}

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

// OrderRef names an order.
type OrderRef struct {
	ID       uint64       `json:"id"`
	Number   string       `json:"number"`
	Revision uint64       `json:"revision"`
	State    buying.State `json:"state"`
}

func refOf(o storebuying.Order) OrderRef { return OrderRef{o.ID, o.Number, o.Revision, o.State} }

// openOrder is an order that is worked on in a transaction.
type openOrder struct {
	storebuying.Order
	lines    []storebuying.OrderLine
	supplier goods.Supplier
	set      terms.Terms
	minor    money.Minor
}

// MakeOrder begins an order as a draft.
func MakeOrder(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in OrderInput) (OrderRef, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, key, func(tx store.Tx) (OrderRef, error) {
		o, err := beginOrder(s, tx, who, in)
		if err != nil {
			return OrderRef{}, err
		}
		if err := putLines(s, tx, who, &o, in.Lines); err != nil {
			return OrderRef{}, err
		}
		return refOf(o.Order), storebuying.SaveOrder(tx, &o.Order)
	})
}

// beginOrder keeps the head of a new order.
func beginOrder(s *deed.Shop, tx store.Tx, who staff.Actor, in OrderInput) (openOrder, error) {
	o := openOrder{Order: storebuying.Order{State: buying.Draft, BranchID: in.Branch, CreatedBy: who.ID, CreatedAt: s.Now()}}
	supplier, _, err := goods.ReadSupplier(tx.Q, in.Supplier)
	if err != nil {
		return o, fault.Field("supplier_id", in.Supplier, "a supplier of the shop", "Choose whom to order from.")
	}
	if supplier.ClosedAt != nil {
		return o, fault.Refuse("supplier_id", supplier.Name, "another supplier",
			"%s is closed; nothing is ordered there any more.", supplier.Name)
	}
	o.SupplierID, o.supplier = supplier.ID, supplier
	set, err := tx.Terms()
	if err != nil {
		return o, err
	}
	o.set, o.minor = set, set.Minor()
	if strings.TrimSpace(in.WantedOn) == "" {
		day := o.supplier.Wanted(set.Day(s.Now()))
		o.WantedOn = &day
	}
	if err := o.head(tx, who, in); err != nil {
		return o, err
	}
	n, err := book.NextNumber(tx, "order", 1)
	if err != nil {
		return o, err
	}
	o.Number, o.Revision = fmt.Sprintf("P-%04d", n), 1
	if err := storebuying.SaveOrder(tx, &o.Order); err != nil {
		return o, err
	}
	return o, storebuying.AddOrderEvent(tx, storebuying.OrderEvent{OrderID: o.ID, UserID: who.ID, At: s.Now(),
		What: string(buying.Draft)})
}

// head reads what was typed of the head but the supplier.
func (o *openOrder) head(tx store.Tx, who staff.Actor, in OrderInput) error {
	if in.Branch != 0 {
		o.BranchID = in.Branch
	}
	if err := knownBranch(tx.Q, o.BranchID); err != nil {
		return err
	}
	if err := deed.At(tx.Q, who, o.BranchID); err != nil {
		return err
	}
	if text.Len(in.Note) > 500 {
		return fault.Field("note", in.Note, "500 characters or fewer", "The note is too long.")
	}
	o.Note = text.Prose(in.Note)
	if strings.TrimSpace(in.WantedOn) == "" {
		return nil
	}
	day, err := number.Day("wanted_on", in.WantedOn)
	o.WantedOn = &day
	return err
}

// lockOrder reads an order to work on it.
func lockOrder(tx store.Tx, who staff.Actor, id uint64) (openOrder, error) {
	view, lines, err := storebuying.LockOrder(tx, id)
	if err != nil {
		return openOrder{}, err
	}
	o := openOrder{Order: view.Order, lines: lines}
	if err := deed.At(tx.Q, who, o.BranchID); err != nil {
		return o, err
	}
	supplier, _, err := goods.ReadSupplier(tx.Q, o.SupplierID)
	if err != nil {
		return o, err
	}
	set, err := tx.Terms()
	o.supplier, o.set, o.minor = supplier, set, set.Minor()
	return o, err
}

// keep writes the order with its lines and what follows from them.
func (o *openOrder) keep(tx store.Tx) error {
	figures := storebuying.FiguresOf(o.lines)
	if o.PlacedAt != nil {
		o.State = buying.StateOf(figures)
	}
	for i := range o.lines {
		o.lines[i].Outstanding = decimal.Zero
		if o.PlacedAt != nil {
			o.lines[i].Outstanding = figures[i].Outstanding()
		}
	}
	t := buying.OrderOf(o.supplier.SupplierTerms, figures, o.minor)
	o.Units, o.Net, o.Tax, o.Gross = t.Units, t.Net, t.Tax, t.Gross
	o.ToCome = decimal.Zero
	if o.State.Open() {
		o.ToCome = t.ToCome
	}
	o.Revision++
	if err := storebuying.SaveOrderLines(tx, o.lines); err != nil {
		return err
	}
	return storebuying.SaveOrder(tx, &o.Order)
}

// note adds a knot to the order's thread.
func (o *openOrder) note(s *deed.Shop, tx store.Tx, who staff.Actor, what, detail string) error {
	return storebuying.AddOrderEvent(tx, storebuying.OrderEvent{OrderID: o.ID, UserID: who.ID, At: s.Now(), What: what,
		Detail: detail})
}

// ChangeOrder changes the head of an order that is not all in.
func ChangeOrder(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in OrderInput) (OrderRef, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, key, func(tx store.Tx) (OrderRef, error) {
		o, err := lockOrder(tx, who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if err := revision.Check("This order", in.Revision, o.Revision); err != nil {
			return OrderRef{}, err
		}
		if err := o.changeable(); err != nil {
			return OrderRef{}, err
		}
		if in.Supplier != 0 && in.Supplier != o.SupplierID {
			return OrderRef{}, fault.Refuse("supplier_id", in.Supplier, "to copy it as a new order",
				"An order stays with its supplier.")
		}
		was := o.Order
		if strings.TrimSpace(in.WantedOn) == "" {
			o.WantedOn = nil
		}
		if err := o.head(tx, who, in); err != nil {
			return OrderRef{}, err
		}
		if o.PlacedAt != nil {
			var said []string
			if day(was.WantedOn) != day(o.WantedOn) {
				said = append(said, "wanted "+day(was.WantedOn)+" → "+day(o.WantedOn))
			}
			if was.BranchID != o.BranchID {
				said = append(said, "to another branch")
			}
			if was.Note != o.Note {
				said = append(said, "the note")
			}
			if len(said) > 0 {
				now := s.Now()
				o.ChangedAt = &now
				if err := o.note(s, tx, who, "Changed", strings.Join(said, ", ")); err != nil {
					return OrderRef{}, err
				}
			}
		}
		err = o.keep(tx)
		return refOf(o.Order), err
	})
}

func day(of *time.Time) string {
	if of == nil {
		return "any day"
	}
	return of.Format("2 Jan 2006")
}

// changeable refuses to change an order of which nothing is outstanding.
func (o *openOrder) changeable() error {
	if o.PlacedAt != nil && !o.State.Open() {
		return fault.Refuse("order_id", o.Number, "to copy it as a new order",
			"%s is %s; there is nothing left to change.",
			o.Number, strings.ToLower(string(o.State)))
	}
	return nil
}

// PutOrderLines sets lines of an order, each by itself: others stay as they are, whoever
// works on them. A line that somebody changed meanwhile is refused.
func PutOrderLines(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in []OrderLineInput) (OrderRef, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, key, func(tx store.Tx) (OrderRef, error) {
		o, err := lockOrder(tx, who, id)
		if err != nil {
			return OrderRef{}, err
		}
		err = putLines(s, tx, who, &o, in)
		return refOf(o.Order), err
	})
}

// putLines sets lines of an order that is locked, and keeps it.
func putLines(s *deed.Shop, tx store.Tx, who staff.Actor, o *openOrder, in []OrderLineInput) error {
	if err := o.changeable(); err != nil {
		return err
	}
	ids := make([]uint64, len(in))
	for i, l := range in {
		ids[i] = l.Variant
	}
	found, err := goods.Sellables(tx.Q, ids, s.Now())
	if err != nil {
		return err
	}
	asked, err := o.asked(tx, found, o.set.Day(s.Now()))
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
	if err := storebuying.DropOrderLines(tx, gone); err != nil {
		return err
	}
	if len(changes)+len(costs) > 0 {
		now := s.Now()
		o.ChangedAt = &now
		if err := storebuying.AddOrderEvent(tx, storebuying.OrderEvent{OrderID: o.ID, UserID: who.ID, At: now, What: "Changed",
			Detail: strings.Join(changes, "; "), Costs: strings.Join(costs, "; ")}); err != nil {
			return err
		}
	}
	return o.keep(tx)
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
func readOrderLine(v goods.Sellable, in OrderLineInput, was, proposed storebuying.OrderLine) (storebuying.OrderLine, error) {
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
func ScanOrder(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in OrderScan) (shopscan.DeliveryScanned, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, key, func(tx store.Tx) (shopscan.DeliveryScanned, error) {
		o, err := lockOrder(tx, who, id)
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		scan, err := shopscan.Read(tx.Q, in.Code, 20)
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
		if err := putLines(s, tx, who, &o, []OrderLineInput{{Variant: variant,
			Quantity: quantity.String()}}); err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		items, err := goods.Sellables(tx.Q, []uint64{variant}, s.Now())
		v := items[variant]
		return shopscan.DeliveryScanned{Said: v.FullName() + ": " + v.Unit.Format(quantity) + " in this order.",
			ID: o.ID, Revision: o.Revision, Variant: variant}, err
	})
}

// PlaceOrder makes a draft an order that goods are awaited of.
func PlaceOrder(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64) (OrderRef, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, key, func(tx store.Tx) (OrderRef, error) {
		o, err := lockOrder(tx, who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if o.PlacedAt != nil {
			return OrderRef{}, fault.Clash("order_id", o.Number, "a draft", "%s was placed already.", o.Number)
		}
		if err := o.place(s, tx, who); err != nil {
			return OrderRef{}, err
		}
		err = o.keep(tx)
		return refOf(o.Order), err
	})
}

// place makes a draft that is locked an order that goods are awaited of.
func (o *openOrder) place(s *deed.Shop, tx store.Tx, who staff.Actor) error {
	if len(o.lines) == 0 {
		return fault.Field("lines", "", "at least one quantity", "Nothing is ordered yet.")
	}
	ids := make([]uint64, len(o.lines))
	for i, l := range o.lines {
		ids[i] = l.VariantID
	}
	found, err := goods.Sellables(tx.Q, ids, s.Now())
	if err != nil {
		return err
	}
	for i, l := range o.lines {
		if l.Price == nil {
			return InLine(i, unpriced(found[l.VariantID]))
		}
	}
	now := s.Now()
	o.PlacedAt = &now
	if err := storebuying.KeepSupplied(tx, suppliedIn(o.Order, o.lines, now)); err != nil {
		return err
	}
	return o.note(s, tx, who, string(buying.Placed), "")
}

// suppliedIn is what a supplier asks in an order.
func suppliedIn(o storebuying.Order, lines []storebuying.OrderLine, at time.Time) []storebuying.Supplied {
	rows := make([]storebuying.Supplied, 0, len(lines))
	for _, l := range lines {
		if l.Price != nil {
			rows = append(rows, storebuying.Supplied{SupplierID: o.SupplierID, VariantID: l.VariantID,
				PartNumber: l.PartNumber, Pack: l.Pack,
				Factor: l.Factor, Price: *l.Price, Discount: l.Discount, At: at, Source: o.Number})
		}
	}
	return rows
}

// CallOffInput says what of an order is called off: the outstanding of some lines, or of
// all where none is named.
type CallOffInput struct {
	Variants []uint64 `json:"variant_ids"`
	Note     string   `json:"note"`
}

// CallOffOrder calls off what is outstanding of an order.
func CallOffOrder(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in CallOffInput) (OrderRef, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, key, func(tx store.Tx) (OrderRef, error) {
		o, err := lockOrder(tx, who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if !o.State.Open() {
			return OrderRef{}, fault.Refuse("order_id", o.Number, "an order that goods are awaited of",
				"%s is %s; nothing of it is outstanding.", o.Number, strings.ToLower(string(o.State)))
		}
		if text.Len(in.Note) > 250 {
			return OrderRef{}, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
		}
		off, err := o.callOff(s, tx, who, in.Variants, in.Note)
		if err != nil {
			return OrderRef{}, err
		}
		if off.IsZero() {
			return OrderRef{}, fault.Refuse("variant_ids", in.Variants, "a line with something outstanding",
				"Nothing of that is outstanding.")
		}
		now := s.Now()
		o.ChangedAt = &now
		err = o.keep(tx)
		return refOf(o.Order), err
	})
}

// callOff calls off what is outstanding of some lines, or of all, and returns how many units.
func (o *openOrder) callOff(s *deed.Shop, tx store.Tx, who staff.Actor, variants []uint64,
	why string) (decimal.Decimal, error) {
	off := decimal.Zero
	for i, l := range o.lines {
		if len(variants) > 0 && !slices.Contains(variants, l.VariantID) {
			continue
		}
		off = off.Add(l.Figures().Outstanding())
		if l.Figures().Outstanding().IsPositive() {
			o.lines[i].Put(l.Figures().CallOff())
			o.lines[i].Revision++
		}
	}
	if off.IsZero() {
		return off, nil
	}
	detail := off.String()
	if why != "" {
		detail += ", " + why
	}
	return off, o.note(s, tx, who, string(buying.CalledOff), detail)
}

// DropOrder gives up a draft.
func DropOrder(ctx context.Context, s *deed.Shop, who staff.Actor, id uint64) (OrderRef, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, "", func(tx store.Tx) (OrderRef, error) {
		o, err := lockOrder(tx, who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if o.PlacedAt != nil {
			return OrderRef{}, fault.Refuse("order_id", o.Number, "to call off what is outstanding",
				"%s is placed; a placed order stays.", o.Number)
		}
		return refOf(o.Order), storebuying.DropOrder(tx, id)
	})
}

// CopyOrder begins a new order with the lines of another, at what they cost there.
func CopyOrder(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64) (OrderRef, error) {
	return deed.Once(ctx, s, who, staff.DeedOrder, key, func(tx store.Tx) (OrderRef, error) {
		from, lines, err := storebuying.ReadOrder(tx.Q, id)
		if err != nil {
			return OrderRef{}, err
		}
		o, err := beginOrder(s, tx, who, OrderInput{Supplier: from.SupplierID, Branch: from.BranchID, Note: from.Note})
		if err != nil {
			return OrderRef{}, err
		}
		for _, l := range lines {
			l.ID, l.OrderID, l.Arrived, l.CalledOff, l.Revision = 0, o.ID, decimal.Zero, decimal.Zero, 1
			o.lines = append(o.lines, l)
		}
		err = o.keep(tx)
		return refOf(o.Order), err
	})
}
