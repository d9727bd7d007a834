package lists

import (
	"maps"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// OpeningLine is a line of opening stock as it is typed: what one cost, or what all of it is
// worth, and the day it came in, empty for today.
type OpeningLine struct {
	scan.GoodsLine
	Worth  string `json:"worth"`
	CameOn string `json:"came_on"`
}

// OpenStockInput is opening stock of a branch that is typed: what lies on a shelf,
// its default one for 0.
type OpenStockInput struct {
	Branch uint64        `json:"branch_id"`
	Shelf  uint64        `json:"shelf_id"`
	Lines  []OpeningLine `json:"lines"`
}

// OpenStock posts opening stock that was typed, as one document. A refusal names
// the line in its field: "lines.0.quantity".
func OpenStock(do deed.Deed, in OpenStockInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (deed.Posted, error) {
		im := &openingImport{listImport: listImport{Deed: do, with: importOptions{branch: in.Branch}}}
		if err := im.shelves(); err != nil {
			return deed.Posted{}, err
		}
		if in.Shelf != 0 && !slices.Contains(slices.Collect(maps.Values(im.shelfOf)), in.Shelf) {
			return deed.Posted{}, fault.Missing("shelf_id", in.Shelf, "The branch has no shelf %d.", in.Shelf)
		}
		lines, err := readOpening(do.Shop, do.Tx.Q, in.Lines)
		if err != nil {
			return deed.Posted{}, err
		}
		for i, l := range lines {
			if l.Refused != nil {
				return deed.Posted{}, buying.InLine(i, l.Refused)
			}
			if l.opening.Quantity.IsPositive() {
				l.opening.Shelf = in.Shelf
				im.opening = append(im.opening, l.opening)
			}
		}
		if len(im.opening) == 0 {
			return deed.Posted{}, fault.Field("lines", "", "a quantity on at least one line", "Say what is on hand.")
		}
		return deed.PostOpening(do, in.Branch, im.opening)
	})
}

// OpeningView is a typed line of opening stock, worked out: Refused says why it
// can't be posted.
type OpeningView struct {
	OpeningLine
	Item    goods.Sellable
	Value   decimal.Decimal // what it is worth, as it will be posted
	Refused *fault.Error
	opening stock.Opened
}

// TryOpening works typed lines of opening stock out, and what they are worth
// together.
func TryOpening(do deed.Deed, in []OpeningLine) ([]OpeningView, decimal.Decimal, error) {
	worth := decimal.Zero
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return nil, worth, err
	}
	lines, err := readOpening(do.Shop, do.Shop.Store.Read(do.Ctx), in)
	for _, l := range lines {
		worth = worth.Add(l.Value)
	}
	return lines, worth, err
}

// readOpening reads typed lines, each by itself: one that is wrong leaves the
// others as they are. A line without a quantity is none.
func readOpening(s *deed.Shop, q store.Q, in []OpeningLine) ([]OpeningView, error) {
	ids := make([]uint64, len(in))
	for i, l := range in {
		ids[i] = l.Variant
	}
	items, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return nil, err
	}
	set, err := q.Terms()
	if err != nil {
		return nil, err
	}
	lines := make([]OpeningView, len(in))
	for i, l := range in {
		lines[i] = OpeningView{OpeningLine: l, Item: items[l.Variant]}
		if strings.TrimSpace(l.Quantity) == "" {
			continue
		}
		o, err := readOpeningLine(lines[i].Item, l)
		if err == nil {
			err = o.Check(set.Minor(), set.Day(s.Now()))
		}
		if err != nil {
			if lines[i].Refused = fault.Of(err); lines[i].Refused == nil {
				return nil, err
			}
			continue
		}
		lines[i].opening, lines[i].Value = o, o.Value(set.Minor())
	}
	return lines, nil
}

func readOpeningLine(item goods.Sellable, l OpeningLine) (stock.Opened, error) {
	o := stock.Opened{Variant: item.ID, Name: item.FullName(), Tracking: item.Tracking}
	if item.ID == 0 {
		return o, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
	}
	var err error
	if o.Quantity, err = item.Unit.Parse("quantity", l.Quantity); err != nil {
		return o, err
	}
	if o.Cost, err = number.Optional("cost", l.Cost, money.ParseCost); err != nil {
		return o, err
	}
	if o.Worth, err = number.Optional("worth", l.Worth, money.ParseCost); err != nil {
		return o, err
	}
	var row storebuying.DeliveryLine
	if err := buying.ReadTracking(&row, item, l.GoodsLine); err != nil {
		return o, err
	}
	o.Lot.Number, o.Serials = row.LotNumber, serial.Kept(row.Serials)
	if row.Expiry != nil {
		o.Lot.Expiry = *row.Expiry
	}
	if strings.TrimSpace(l.CameOn) != "" {
		o.CameOn, err = number.Day("came_on", l.CameOn)
	}
	return o, err
}

// OpeningScan is a code that is scanned into the lines of opening stock that are
// being typed.
type OpeningScan struct {
	Code  string        `json:"code"`
	Lines []OpeningLine `json:"lines"`
}

// OpeningScanned has the lines with what was scanned; when that is not of one
// variant they are as they were, and Pick or Offers say what it may have meant.
type OpeningScanned struct {
	scan.DeliveryScanned
	Lines []OpeningLine `json:"lines"`
}

// ScanOpening adds what was scanned to typed lines of opening stock. Nothing is
// kept.
func ScanOpening(do deed.Deed, in OpeningScan) (OpeningScanned, error) {
	out := OpeningScanned{Lines: in.Lines}
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return out, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	asked, err := scan.Read(q, in.Code, 20)
	if err != nil {
		return out, err
	}
	if !asked.One() {
		out.DeliveryScanned, err = asked.Meant()
		return out, err
	}
	items, err := goods.Sellables(q, []uint64{asked.Found[0].ID}, do.Shop.Now())
	if err != nil {
		return out, err
	}
	item, before := items[asked.Found[0].ID], len(in.Lines)
	plain := make([]scan.GoodsLine, before)
	for i, l := range in.Lines {
		plain[i] = l.GoodsLine
	}
	if out.Said, err = asked.Put(&plain, item, "on hand", 0); err != nil {
		return out, err
	}
	out.Lines = make([]OpeningLine, len(plain))
	copy(out.Lines, in.Lines)
	for i, l := range plain {
		out.Lines[i].GoodsLine = l
	}
	if known := item.Goods.Cost; len(out.Lines) > before && known.IsPositive() {
		out.Lines[before].Cost = known.String() // what one costs as far as is known
	}
	return out, nil
}
