package lists

import (
	"context"
	"maps"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/trade"
)

type opening struct {
	variant  uint64
	quantity decimal.Decimal
	cost     decimal.Decimal
	lot      serial.Lot
	minor    money.Minor
	serials  []string
	shelf    uint64
}

// postOpening posts opening stock as one document.
func postOpening(s *deed.Shop, tx store.Tx, who staff.Actor, branch uint64, list []opening) (string, error) {
	variants := make([]uint64, len(list))
	var serials []string
	for i, o := range list {
		variants[i] = o.variant
		serials = append(serials, o.serials...)
	}
	held, err := book.Hold(tx, variants, serials)
	if err != nil {
		return "", err
	}
	shelf, err := held.Where(branch)
	if err != nil {
		return "", err
	}
	name, err := deed.NextNumber(tx, "OS")
	if err != nil {
		return "", err
	}
	now := s.Now()
	draft := stock.NewDraft(held,
		stock.Document{Kind: stock.Opening, Number: name, Branch: branch, By: who.ID, HappenedAt: now, RecordedAt: now})
	for i, o := range list {
		o.minor = held.Minor
		value := o.value()
		key := stock.Key{Variant: o.variant, Shelf: shelf, Condition: stock.ForSale}
		if o.shelf != 0 {
			key.Shelf = o.shelf
		}
		if o.lot.Number != "" {
			lot, err := book.KeepLot(tx, o.variant, o.lot.Number, o.lot.Expiry)
			if err != nil {
				return "", err
			}
			key.Lot = lot.ID
		}
		if err := draft.Open(i+1, key, o.quantity, value, o.serials); err != nil {
			return "", err
		}
	}
	_, err = deed.Post(tx, held, draft)
	return name, err
}

// OpenStockInput is opening stock of a branch that is typed: what lies on a shelf,
// its default one for 0.
type OpenStockInput struct {
	Branch uint64           `json:"branch_id"`
	Shelf  uint64           `json:"shelf_id"`
	Lines  []scan.GoodsLine `json:"lines"`
}

// OpenStock posts opening stock that was typed, as one document. A refusal names
// the line in its field: "lines.0.quantity".
func OpenStock(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in OpenStockInput) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (deed.Posted, error) {
		im := &openingImport{listImport: listImport{shop: s, tx: tx, who: who, with: importOptions{branch: in.Branch}}}
		if err := im.shelves(); err != nil {
			return deed.Posted{}, err
		}
		if in.Shelf != 0 && !slices.Contains(slices.Collect(maps.Values(im.shelfOf)), in.Shelf) {
			return deed.Posted{}, fault.Missing("shelf_id", in.Shelf, "The branch has no shelf %d.", in.Shelf)
		}
		lines, err := readOpening(s, tx.Q, in.Lines)
		if err != nil {
			return deed.Posted{}, err
		}
		for i, l := range lines {
			if l.Refused != nil {
				return deed.Posted{}, buying.InLine(i, l.Refused)
			}
			if l.opening.quantity.IsPositive() {
				l.opening.shelf = in.Shelf
				im.opening = append(im.opening, l.opening)
			}
		}
		if len(im.opening) == 0 {
			return deed.Posted{}, fault.Field("lines", "", "a quantity on at least one line", "Say what is on hand.")
		}
		name, err := postOpening(s, tx, who, in.Branch, im.opening)
		return deed.Posted{Number: name, At: s.Now()}, err
	})
}

// OpeningView is a typed line of opening stock, worked out: Refused says why it
// can't be posted.
type OpeningView struct {
	scan.GoodsLine
	Item    goods.Sellable
	Value   decimal.Decimal // quantity × cost, as it will be posted
	Refused *fault.Error
	opening opening
}

// TryOpening works typed lines of opening stock out, and what they are worth
// together.
func TryOpening(ctx context.Context, s *deed.Shop, who staff.Actor,
	in []scan.GoodsLine) ([]OpeningView, decimal.Decimal, error) {
	worth := decimal.Zero
	if err := who.May(staff.DeedCatalog); err != nil {
		return nil, worth, err
	}
	lines, err := readOpening(s, s.Store.Read(ctx), in)
	for _, l := range lines {
		worth = worth.Add(l.Value)
	}
	return lines, worth, err
}

// readOpening reads typed lines, each by itself: one that is wrong leaves the
// others as they are. A line without a quantity is none.
func readOpening(s *deed.Shop, q store.Q, in []scan.GoodsLine) ([]OpeningView, error) {
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
		lines[i] = OpeningView{GoodsLine: l, Item: items[l.Variant]}
		if strings.TrimSpace(l.Quantity) == "" {
			continue
		}
		o, err := readOpeningLine(lines[i].Item, l)
		if err != nil {
			if lines[i].Refused = fault.Of(err); lines[i].Refused == nil {
				return nil, err
			}
			continue
		}
		o.minor = set.Minor()
		lines[i].opening, lines[i].Value = o, o.value()
	}
	return lines, nil
}

func readOpeningLine(item goods.Sellable, l scan.GoodsLine) (opening, error) {
	o := opening{variant: item.ID}
	if item.ID == 0 {
		return o, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
	}
	var err error
	if o.quantity, err = item.Unit.Parse("quantity", l.Quantity); err != nil {
		return o, err
	}
	if strings.TrimSpace(l.Cost) == "" {
		return o, fault.Field("cost", "", "what one cost; 0 if it cost nothing", "%s: the cost of one is missing.",
			item.FullName())
	}
	if o.cost, err = money.ParseCost("cost", l.Cost); err != nil {
		return o, err
	}
	var row trade.DeliveryLine
	if err := buying.ReadTracking(&row, item, l); err != nil {
		return o, err
	}
	o.lot.Number, o.serials = row.LotNumber, serial.Kept(row.Serials)
	if row.Expiry != nil {
		o.lot.Expiry = *row.Expiry
	}
	if err := o.check(item); err != nil {
		return o, err
	}
	return o, nil
}

// OpeningScan is a code that is scanned into the lines of opening stock that are
// being typed.
type OpeningScan struct {
	Code  string           `json:"code"`
	Lines []scan.GoodsLine `json:"lines"`
}

// OpeningScanned has the lines with what was scanned; when that is not of one
// variant they are as they were, and Pick or Offers say what it may have meant.
type OpeningScanned struct {
	scan.DeliveryScanned
	Lines []scan.GoodsLine `json:"lines"`
}

// ScanOpening adds what was scanned to typed lines of opening stock. Nothing is
// kept.
func ScanOpening(ctx context.Context, s *deed.Shop, who staff.Actor, in OpeningScan) (OpeningScanned, error) {
	out := OpeningScanned{Lines: in.Lines}
	if err := who.May(staff.DeedCatalog); err != nil {
		return out, err
	}
	q := s.Store.Read(ctx)
	scan, err := scan.Read(q, in.Code, 20)
	if err != nil {
		return out, err
	}
	if !scan.One() {
		out.DeliveryScanned, err = scan.Meant()
		return out, err
	}
	items, err := goods.Sellables(q, []uint64{scan.Found[0].ID}, s.Now())
	if err != nil {
		return out, err
	}
	item, before := items[scan.Found[0].ID], len(in.Lines)
	if out.Said, err = scan.Put(&out.Lines, item, "on hand"); err != nil {
		return out, err
	}
	if known := item.Goods.Cost; len(out.Lines) > before && known.IsPositive() {
		out.Lines[before].Cost = known.String() // what one costs as far as is known
	}
	return out, nil
}
