package shop

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/store"
)

// scanned is what a scanned or typed code came to. Units is how many base units it
// stands for: those before a times sign, times what a pack holds or what a scale
// weighed. Times is the number before the sign, empty for none.
type scanned struct {
	Code  string
	Times string
	Units decimal.Decimal
	Found []store.Found
}

// one reports whether the code is of one variant.
func (s scanned) one() bool { return len(s.Found) == 1 && s.Found[0].Kind == "variant" }

// readScan finds what a code means, which may have a number before it: "12 x
// 2000000000015".
func readScan(q store.Q, text string, most int) (scanned, error) {
	scan := scanned{Code: strings.TrimSpace(text), Units: decimal.New(1, 0)}
	if m := times.FindStringSubmatch(scan.Code); m != nil {
		scan.Times, scan.Code = m[1], m[2]
		var err error
		if scan.Units, err = decimal.NewFromString(scan.Times); err != nil {
			return scan, fault.Field("code", text, "a number before the times sign", "%q is not a number.", scan.Times)
		}
	}
	var err error
	scan.Found, err = q.Find(scan.Code, most)
	if err == nil && scan.one() {
		for _, by := range []*decimal.Decimal{scan.Found[0].Factor, scan.Found[0].Quantity} {
			if by != nil {
				scan.Units = scan.Units.Mul(*by)
			}
		}
	}
	return scan, err
}

// DeliveryScan is a code that is scanned into a delivery.
type DeliveryScan struct {
	Code string `json:"code"`
}

// DeliveryScanned says what a scan did to a delivery. When it is not of one
// variant nothing is changed, and Pick or Offers say what it may have meant.
type DeliveryScanned struct {
	Said   string        `json:"said,omitempty"`
	Pick   *store.Found  `json:"pick,omitempty"`
	Offers []store.Found `json:"offers,omitempty"`
}

// ScanDelivery adds what was scanned to a draft: a piece, a pack, what a scale
// weighed; lot, expiry and serial number that stand in the code come with it.
func (s *Shop) ScanDelivery(ctx context.Context, who Actor, key string, id uint64, in DeliveryScan) (DeliveryScanned, error) {
	return once(ctx, s, who, DeedReceive, key, func(tx store.Tx) (DeliveryScanned, error) {
		d, rows, err := tx.LockDelivery(id)
		if err != nil {
			return DeliveryScanned{}, err
		}
		if d.DocumentID != nil {
			return DeliveryScanned{}, fault.Clash("delivery", d.Number, "a delivery not posted yet", "It is posted already, as %s.", d.Number)
		}
		scan, err := readScan(tx.Q, in.Code, 20)
		if err != nil {
			return DeliveryScanned{}, err
		}
		if !scan.one() {
			return scan.meant()
		}
		items, err := tx.Sellables([]uint64{scan.Found[0].ID}, s.Now())
		if err != nil {
			return DeliveryScanned{}, err
		}
		lines := typedAgain(rows)
		said, err := scan.put(&lines, items[scan.Found[0].ID], "in this delivery")
		if err != nil {
			return DeliveryScanned{}, err
		}
		read, err := s.readLines(tx, lines, d.CostsIncludeTax)
		if err != nil {
			return DeliveryScanned{}, err
		}
		return DeliveryScanned{Said: said}, tx.ReplaceLines(id, read)
	})
}

// put adds a scan to typed lines and says what became of it.
func (s scanned) put(lines *[]GoodsLine, item store.Sellable, where string) (string, error) {
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

// OpeningScan is a code that is scanned into the lines of opening stock that are
// being typed.
type OpeningScan struct {
	Code  string      `json:"code"`
	Lines []GoodsLine `json:"lines"`
}

// OpeningScanned has the lines with what was scanned; when that is not of one
// variant they are as they were, and Pick or Offers say what it may have meant.
type OpeningScanned struct {
	DeliveryScanned
	Lines []GoodsLine `json:"lines"`
}

// ScanOpening adds what was scanned to typed lines of opening stock. Nothing is
// kept.
func (s *Shop) ScanOpening(ctx context.Context, who Actor, in OpeningScan) (OpeningScanned, error) {
	out := OpeningScanned{Lines: in.Lines}
	if err := who.May(DeedCatalog); err != nil {
		return out, err
	}
	q := s.Store.Read(ctx)
	scan, err := readScan(q, in.Code, 20)
	if err != nil {
		return out, err
	}
	if !scan.one() {
		out.DeliveryScanned, err = scan.meant()
		return out, err
	}
	items, err := q.Sellables([]uint64{scan.Found[0].ID}, s.Now())
	if err != nil {
		return out, err
	}
	item, before := items[scan.Found[0].ID], len(in.Lines)
	if out.Said, err = scan.put(&out.Lines, item, "on hand"); err != nil {
		return out, err
	}
	if known := item.Goods.Cost; len(out.Lines) > before && known.IsPositive() {
		out.Lines[before].Cost = known.String() // what one costs as far as is known
	}
	return out, nil
}

// meant says what a code that is not of one variant may have meant.
func (s scanned) meant() (DeliveryScanned, error) {
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

// typedAgain turns the kept lines of a delivery into typed ones.
func typedAgain(rows []store.DeliveryLine) []GoodsLine {
	lines := make([]GoodsLine, len(rows))
	for i, r := range rows {
		lines[i] = GoodsLine{Variant: r.VariantID, Quantity: r.Quantity.String(), Cost: r.Cost.String(), Lot: r.LotNumber, Serials: r.Serials}
		if r.Expiry != nil {
			lines[i].Expiry = r.Expiry.Format(time.DateOnly)
		}
	}
	return lines
}

// into adds a scan to the line of its variant and lot, else to one that says no lot
// yet, or to a new one, and returns which. A code without a lot goes to the last
// line of its variant.
func (s scanned) into(lines *[]GoodsLine, item store.Sellable) (int, error) {
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
	have, err := item.Unit.Parse("quantity", text.Or(line.Quantity, "0"))
	line.Quantity = have.Add(s.Units).String()
	return at, err
}
