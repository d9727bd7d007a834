package scan

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	coretext "itemrack/core/text"
	"itemrack/store"
	"itemrack/store/goods"
)

var times = regexp.MustCompile(`^(\d{1,6}(?:\.\d{1,3})?)\s*[xX×*]\s*(\S.*)$`)

// scanned is what a scanned or typed code came to. Units is how many base units it
// stands for: those before a times sign, times what a pack holds or what a scale
// weighed. Times is the number before the sign, empty for none.
type scanned struct {
	Code  string
	Times string
	Units decimal.Decimal
	Found []goods.Found
}

// One reports whether the code is of one variant.
func (s scanned) One() bool { return len(s.Found) == 1 && s.Found[0].Kind == "variant" }

// ReadScan finds what a code means, which may have a number before it: "12 x
// 2000000000015".
func ReadScan(q store.Q, text string, most int) (scanned, error) {
	scan := scanned{Code: strings.TrimSpace(text), Units: decimal.New(1, 0)}
	if m := times.FindStringSubmatch(scan.Code); m != nil {
		scan.Times, scan.Code = m[1], m[2]
		var err error
		if scan.Units, err = decimal.NewFromString(scan.Times); err != nil {
			return scan, fault.Field("code", text, "a number before the times sign", "%q is not a number.", scan.Times)
		}
	}
	var err error
	scan.Found, err = goods.Find(q, scan.Code, most)
	if err == nil && scan.One() {
		for _, by := range []*decimal.Decimal{scan.Found[0].Factor, scan.Found[0].Quantity} {
			if by != nil {
				scan.Units = scan.Units.Mul(*by)
			}
		}
	}
	return scan, err
}

// Put adds a scan to typed lines and says what became of it.
func (s scanned) Put(lines *[]GoodsLine, item goods.Sellable, where string) (string, error) {
	if item.Tracking == stock.NotStocked {
		return "", fault.Refuse("code", s.Code, "a product with stock", "%s is a service or a bundle; it has no stock of its own.", item.FullName())
	}
	at, err := s.into(lines, item)
	if err != nil {
		return "", err
	}
	said := item.FullName() + ": " + (*lines)[at].Quantity + " " + where
	if lot := (*lines)[at].Lot; lot != "" {
		said += " of lot " + lot
	}
	return said + ".", nil
}

// Meant says what a code that is not of one variant may have meant.
func (s scanned) Meant() (DeliveryScanned, error) {
	switch {
	case len(s.Found) == 0:
		return DeliveryScanned{}, fault.Missing("code", s.Code, "Nothing here is called %s. Set it aside, or make the product first.", s.Code)
	case s.Found[0].Kind == "document":
		return DeliveryScanned{}, fault.Refuse("code", s.Code, "a product", "%s is a document, not a product.", s.Code)
	case len(s.Found) == 1:
		return DeliveryScanned{Pick: &s.Found[0]}, nil
	}
	return DeliveryScanned{Offers: s.Found}, nil
}

// into adds a scan to the line of its variant and lot, else to one that says no lot
// yet, or to a new one, and returns which. A code without a lot goes to the last
// line of its variant.
func (s scanned) into(lines *[]GoodsLine, item goods.Sellable) (int, error) {
	found := s.Found[0]
	add := GoodsLine{Variant: item.ID, Quantity: s.Units.String(), Serials: found.Serial}
	if item.Tracking == stock.ByLot {
		add.Lot = found.Lot
		if found.Expiry != nil {
			add.Expiry = found.Expiry.Format(time.DateOnly)
		}
	}
	at := -1
	for i, l := range *lines {
		if l.Variant != add.Variant {
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
			return at, fault.Clash("code", add.Serials, "each number once", "%s No. %s is there already.", item.FullName(), add.Serials)
		}
		line.Serials = strings.Trim(line.Serials+","+add.Serials, ",")
	}
	have, err := item.Unit.Parse("quantity", coretext.Or(line.Quantity, "0"))
	line.Quantity = have.Add(s.Units).String()
	return at, err
}
