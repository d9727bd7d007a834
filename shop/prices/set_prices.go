package prices

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/unit"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/prices"
)

// PriceChange sets prices of a product on a list, of all of it, of its variants
// or of a pack. From is when they begin, as a person types it in the shop's zone;
// empty is now.
type PriceChange struct {
	List     uint64           `json:"price_list_id"`
	Price    string           `json:"price"`
	Variants []VariantPricing `json:"variants"`
	Pack     uint64           `json:"pack_id"`
	Quantity string           `json:"from_quantity"` // from how many on; empty is any number
	From     string           `json:"from"`          // 2026-12-01 or 2026-12-01T09:00
}

// VariantPricing is a variant's own price; an empty one gives it its product's
// again.
type VariantPricing struct {
	Variant uint64 `json:"variant_id"`
	Price   string `json:"price"`
}

// PriceResult says which variants follow the product's price and which keep one
// of their own.
type PriceResult struct {
	Follow []string `json:"follow"`
	Own    []string `json:"own"`
	Under  []string `json:"under_cost"`
}

// SetPrices changes prices from a moment on. Prices that do not change are not
// written again.
func SetPrices(do deed.Deed, product uint64, in PriceChange) (PriceResult, error) {
	return deed.Once(do, staff.DeedPrices, func(do deed.Deed) (PriceResult, error) {
		return Change(do, product, in)
	})
}

// Change is SetPrices within a deed.
func Change(do deed.Deed, product uint64, in PriceChange) (PriceResult, error) {
	view, err := catalog.LockProduct(do, product)
	if err != nil {
		return PriceResult{}, err
	}
	row, err := newPrice(do, view, in)
	if err != nil {
		return PriceResult{}, err
	}
	if strings.TrimSpace(in.Price) != "" {
		amount, err := view.Pricing.Book.Minor.Parse("price", in.Price)
		if err != nil {
			return PriceResult{}, err
		}
		row.Amount = amount
		if err := prices.SetPrice(do.Tx, row); err != nil {
			return PriceResult{}, err
		}
	}
	for _, v := range in.Variants {
		if err := setVariantPrice(do, view, row, v); err != nil {
			return PriceResult{}, err
		}
	}
	if err := book.Restand(do.Tx, []uint64{product}, do.Shop.Now()); err != nil {
		return PriceResult{}, err
	}
	return priceResult(do, product, row.PriceListID)
}

// newPrice is the row that a change of prices writes, without its amount.
func newPrice(do deed.Deed, view goods.ProductView, in PriceChange) (prices.Price, error) {
	row := prices.Price{ProductID: view.ID, PriceListID: max(in.List, price.Regular), UserID: &do.Who.ID}
	if !slices.ContainsFunc(view.Pricing.Book.Lists, func(l price.List) bool { return l.ID == row.PriceListID }) {
		return row, fault.Missing("price_list_id", in.List, "There is no price list %d.", in.List)
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return row, err
	}
	from, err := do.Shop.Moment(set, "from", in.From)
	if err != nil {
		return row, err
	}
	if err := price.CheckBegin("price", from, do.Shop.Now()); err != nil {
		return row, err
	}
	row.FromAt, row.Later = from, from.After(do.Shop.Now())
	if in.Pack != 0 {
		if !slices.ContainsFunc(view.Packs, func(p goods.Pack) bool { return p.ID == in.Pack }) {
			return row, fault.Missing("pack_id", in.Pack, "%s has no pack %d.", view.Name, in.Pack)
		}
		row.PackID = &in.Pack
	}
	if strings.TrimSpace(in.Quantity) != "" {
		of := view.UnitOf
		if in.Pack != 0 {
			of = unit.Piece
		}
		if row.FromQuantity, err = of.Parse("from_quantity", in.Quantity); err != nil {
			return row, err
		}
		if row.FromQuantity.Equal(decimal.New(1, 0)) {
			row.FromQuantity = decimal.Zero
		}
	}
	return row, nil
}

func setVariantPrice(do deed.Deed, view goods.ProductView, row prices.Price, in VariantPricing) error {
	have, ok := view.Variant(in.Variant)
	if !ok {
		return fault.Missing("variant_id", in.Variant, "%s has no variant %d.", view.Name, in.Variant)
	}
	row.VariantID = &in.Variant
	if strings.TrimSpace(in.Price) == "" {
		return prices.DropPrices(do.Tx, view.ID, row.VariantID, row.PackID, row.PriceListID, time.Time{})
	}
	amount, err := view.Pricing.Book.Minor.Parse("price", in.Price)
	if err != nil {
		return err
	}
	row.Amount = amount
	if now := view.Pricing.Book.Find(view.Goods(have), row.PriceListID,
		decimal.Max(row.FromQuantity, decimal.New(1, 0)), row.FromAt); row.PackID == nil &&
		now.Source != price.NoPrice &&
		now.Source != price.ByRule &&
		now.From.Equal(row.FromQuantity) &&
		now.Amount.Equal(amount) {
		return nil
	}
	return prices.SetPrice(do.Tx, row)
}

func priceResult(do deed.Deed, product, list uint64) (PriceResult, error) {
	view, err := goods.ReadProduct(do.Tx.Q, product, 0, do.Shop.Now())
	if err != nil {
		return PriceResult{}, err
	}
	result := PriceResult{Follow: []string{}, Own: []string{}, Under: []string{}}
	for _, v := range view.Variants {
		a := view.Pricing.Book.Find(view.Goods(v), list, decimal.New(1, 0), do.Shop.Now())
		says := strings.TrimSpace(v.Label + " " + view.Pricing.Book.Minor.Text(a.Amount))
		if a.Source == price.OwnPrice {
			result.Own = append(result.Own, says)
		} else {
			result.Follow = append(result.Follow, v.Label)
		}
		if a.Under {
			result.Under = append(result.Under, says)
		}
	}
	return result, nil
}

// DropPrice is a price that was to begin later and is taken back.
type DropPrice struct {
	List    uint64 `json:"price_list_id"`
	Variant uint64 `json:"variant_id"`
	Pack    uint64 `json:"pack_id"`
}

// DropLaterPrices takes back the prices of something on a list that have not
// begun yet.
func DropLaterPrices(do deed.Deed, product uint64, in DropPrice) (PriceResult, error) {
	return deed.Once(do, staff.DeedPrices, func(do deed.Deed) (PriceResult, error) {
		if err := goods.LockProduct(do.Tx, product); err != nil {
			return PriceResult{}, err
		}
		list := max(in.List, price.Regular)
		if err := prices.DropPrices(do.Tx, product, deed.Reference(in.Variant), deed.Reference(in.Pack), list,
			do.Shop.Now()); err != nil {
			return PriceResult{}, err
		}
		return priceResult(do, product, list)
	})
}

// PricedAt is the setting that says up to when prices that have begun are in the
// lists.
const PricedAt = "priced_at"

// PricesDue brings what lists and searches see up to date with the time: prices that
// have begun since they were looked at last, and lots that have expired.
func PricesDue(ctx context.Context, s *deed.Shop) error {
	if err := expire(ctx, s); err != nil {
		return err
	}
	kept, err := office.Setting(s.Store.Read(ctx), PricedAt)
	if err != nil {
		return err
	}
	now := s.Now()
	last, err := time.Parse(time.RFC3339Nano, kept)
	if err != nil {
		last = time.Time{}.AddDate(1999, 0, 0)
	}
	due, err := prices.Due(s.Store.Read(ctx), last, now)
	if err != nil || len(due) == 0 && now.Sub(last) < time.Hour {
		return err
	}
	return s.Store.Do(ctx, func(tx store.Tx) error {
		if err := book.Restand(tx, due, now); err != nil {
			return err
		}
		return office.Set(tx, PricedAt, now.Format(time.RFC3339Nano))
	})
}

// expire takes lots that have expired out of what is available, once a day.
func expire(ctx context.Context, s *deed.Shop) error {
	q := s.Store.Read(ctx)
	set, err := q.Terms()
	if err != nil {
		return err
	}
	now := s.Now()
	today := set.Day(now).Format(time.DateOnly)
	if kept, err := q.Setting(book.ExpiredBefore); err != nil || kept == today {
		return err
	}
	return s.Store.Do(ctx, func(tx store.Tx) error {
		since, err := office.Setting(tx.Q, book.ExpiredBefore)
		if err != nil || since == today {
			return err
		}
		if err := book.Expire(tx, since, today, now); err != nil {
			return err
		}
		return office.Set(tx, book.ExpiredBefore, today)
	})
}
