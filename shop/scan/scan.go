// Package scan finds what a code means that was scanned or typed on a page, and puts it
// onto lines that are being typed. Its main rule: every page reads a scan the same way.
package scan

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/scan"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/store"
	"itemrack/store/goods"
)

// Scanned is what a scan came to. Units is how many base units it stands for.
type Scanned struct {
	scan.Asked
	Units decimal.Decimal
	Found []goods.Found
	fills bool // serial numbers of goods that may have been counted without
}

// One reports whether the code is of one variant.
func (s Scanned) One() bool { return len(s.Found) == 1 && s.Found[0].Kind == "variant" }

// Order is the number in the database of the order that the code is of; 0 for none.
func (s Scanned) Order() uint64 {
	if len(s.Found) == 1 && s.Found[0].Kind == "order" {
		return s.Found[0].ID
	}
	return 0
}

// Shelf is the number in the database of the shelf that the code is of; 0 for none.
func (s Scanned) Shelf() uint64 {
	if len(s.Found) == 1 && s.Found[0].Kind == "shelf" {
		return s.Found[0].ID
	}
	return 0
}

// Numbers makes a code that nobody knows the serial number of the goods that were scanned before
// it, where it may be one.
func (s *Scanned) Numbers(item goods.Sellable) {
	if len(s.Found) > 0 || item.Tracking != stock.BySerial || s.Times != "" || !scan.CouldNumber(s.Code) {
		return
	}
	list, err := serial.ReadList(s.Code)
	if err != nil || len(list) == 0 {
		return
	}
	s.Found = []goods.Found{{Kind: "variant", ID: item.ID, Product: item.ProductID, Serial: serial.Normal(s.Code)}}
	s.Units, s.fills = decimal.New(int64(len(list)), 0), true
}

// Asking is a scan of which the meaning is being looked up: its first query can be sent with others.
type Asking struct {
	scan.Asked
	*goods.Lookup
}

// Ask begins to find what a code means, which may have a number before it: "12 x 2000000000015".
func Ask(q store.Q, typed string, most int) (Asking, error) {
	asked, err := scan.Read(typed)
	if err != nil {
		return Asking{Asked: asked}, err
	}
	if asked.Alone() {
		return Asking{Asked: asked}, fault.Field("code", typed, asked.Times+" x and a code", "%s of what? Scan its code "+
			"after it.", asked.Times)
	}
	look, err := goods.LookUp(q, asked.Code, most)
	return Asking{asked, look}, err
}

// Meaning is what the code means.
func (a Asking) Meaning(q store.Q) (Scanned, error) {
	s := Scanned{Asked: a.Asked, Units: a.Each}
	var err error
	if s.Found, err = a.Found(q); err == nil && s.One() {
		s.Units = a.Units(s.Found[0].Factor, s.Found[0].Quantity)
	}
	return s, err
}

// Read finds what a code means.
func Read(q store.Q, typed string, most int) (Scanned, error) {
	asking, err := Ask(q, typed, most)
	if err != nil {
		return Scanned{Asked: asking.Asked}, err
	}
	return asking.Meaning(q)
}

// Adding is what a scan of one variant puts into a basket, in counts what was said
// besides; the lot that it says is to be found yet. A label of the shop's scale is scanned
// by itself.
func (s Scanned) Adding(in sale.Adding) (uint64, sale.Adding, error) {
	found := s.Found[0]
	in.Serial, in.Amount = found.Serial, found.Amount
	if found.Condition != "" {
		in.Condition = stock.Condition(found.Condition)
	}
	if s.Times != "" {
		in.Quantity = s.Times
	}
	if found.Pack != nil {
		in.Pack = *found.Pack // the line counts packs
	}
	if found.Quantity != nil {
		in.Quantity = s.Units.String()
	}
	if in.Amount != nil && s.Times != "" {
		return 0, in, fault.Field("code", s.Times+" x "+s.Code, "each label by itself",
			"Scan each of the scale's labels by itself.")
	}
	return found.ID, in, nil
}

// Meant says what a code that is not of one variant may have meant.
func (s Scanned) Meant() (DeliveryScanned, error) {
	switch {
	case len(s.Found) == 0:
		return DeliveryScanned{}, fault.Missing("code", s.Code,
			"Nothing here is called %s. Set it aside, or make the product first.", s.Code)
	case s.Found[0].Kind == "shelf":
		return DeliveryScanned{}, fault.Refuse("code", s.Code, "a product", "%s is a shelf, not a product.",
			s.Found[0].Name)
	case s.Found[0].Paper():
		return DeliveryScanned{}, fault.Refuse("code", s.Code, "a product", "%s is a document, not a product.", s.Code)
	case len(s.Found) == 1:
		return DeliveryScanned{Pick: &s.Found[0]}, nil
	}
	return DeliveryScanned{Offers: s.Found}, nil
}

// Put adds a scan to typed lines and says what became of it.
func (s Scanned) Put(lines *[]GoodsLine, item goods.Sellable, where string, shelf uint64) (string, error) {
	if item.Tracking == stock.NotStocked {
		return "", fault.Refuse("code", s.Code, "a product with stock",
			"%s is a service or a bundle; it has no stock of its own.", item.FullName())
	}
	if c := s.Found[0].Condition; c != "" {
		return "", fault.Refuse("code", s.Code, "the label of new goods", "That is the label of %s as %s.",
			item.FullName(), c)
	}
	at, err := s.into(lines, item, shelf)
	if err != nil {
		return "", err
	}
	said := item.FullName() + ": " + (*lines)[at].Quantity + " " + where
	if lot := (*lines)[at].Lot; lot != "" {
		said += " of lot " + lot
	}
	return said + ".", nil
}

// into adds a scan to the line of its variant and lot, else to one that says no lot
// yet, or to a new one, and returns which. A code without a lot goes to the last
// line of its variant. Where a shelf is said, only the lines of that count.
func (s Scanned) into(lines *[]GoodsLine, item goods.Sellable, shelf uint64) (int, error) {
	found := s.Found[0]
	add := GoodsLine{Variant: item.ID, Quantity: s.Units.String(), Serials: found.Serial, Shelf: shelf}
	if item.Tracking == stock.ByLot {
		add.Lot = found.Lot
		if found.Expiry != nil {
			add.Expiry = found.Expiry.Format(time.DateOnly)
		}
	}
	at := -1
	for i, l := range *lines {
		if l.Variant != add.Variant || shelf != 0 && l.Shelf != shelf {
			continue
		}
		if add.Lot != "" && l.Lot == add.Lot && l.Expiry == add.Expiry {
			at = i
			break
		}
		if add.Lot == "" || l.Lot == "" {
			at = i
		}
	}
	if at < 0 {
		*lines = append(*lines, add)
		return len(*lines) - 1, nil
	}
	line := &(*lines)[at]
	if add.Lot != "" {
		line.Lot, line.Expiry = add.Lot, add.Expiry
	}
	if add.Serials != "" {
		have, err := serial.ReadList(line.Serials)
		if err != nil {
			return at, err
		}
		if slices.Contains(have, add.Serials) {
			return at, fault.Clash("code", add.Serials, "each number once", "%s No. %s is there already.",
				item.FullName(), add.Serials)
		}
		line.Serials = strings.Trim(line.Serials+","+add.Serials, ",")
	}
	have, err := item.Unit.Parse("quantity", text.Or(line.Quantity, "0"))
	if err != nil {
		return at, err
	}
	if s.fills {
		numbers, err := serial.ReadList(line.Serials)
		line.Quantity = decimal.Max(have, decimal.New(int64(len(numbers)), 0)).String()
		return at, err
	}
	line.Quantity = have.Add(s.Units).String()
	return at, nil
}
