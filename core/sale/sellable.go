package sale

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/unit"
)

// Pack is a unit that holds so many base units of a product.
type Pack struct {
	ID     uint64          `json:"id"`
	Name   string          `json:"name"`
	Factor decimal.Decimal `json:"factor"`
	Bought bool            `json:"bought"`
}

// Part is what one of a bundle holds.
type Part struct {
	Variant  uint64
	Name     string
	Tracking stock.Tracking
	Quantity decimal.Decimal
}

// Sellable is what a basket, a delivery or a label needs to know of a variant. Price is
// for one on the Regular list; Percent is its tax when it is sold, BuyPercent when it is
// bought.
type Sellable struct {
	ID         uint64                 `json:"id"`
	ProductID  uint64                 `json:"product_id"`
	Name       string                 `json:"name"`
	ShortName  string                 `json:"short_name"`
	Label      string                 `json:"label"`
	SKU        string                 `json:"sku"`
	Barcode    string                 `json:"barcode"`
	Tracking   stock.Tracking         `json:"tracking"`
	Unit       unit.Unit              `json:"unit"`
	Percent    decimal.Decimal        `json:"percent"`
	BuyPercent decimal.Decimal        `json:"buy_percent"`
	Bundle     bool                   `json:"bundle"`
	Price      decimal.Decimal        `json:"price"`
	HasPrice   bool                   `json:"has_price"`
	LastCost   decimal.Decimal        `json:"last_cost" see:"costs"`
	Packs      []Pack                 `json:"packs"`
	Goods      price.Goods            `json:"-"`
	Packed     map[uint64]price.Goods `json:"-"` // by pack
	Book       price.Book             `json:"-"`
	Restock    *decimal.Decimal       `json:"-"` // restock level; nil for none
	Listed     *decimal.Decimal       `json:"-"` // the price on the Regular list that is kept for lists
	Expected   [2]*decimal.Decimal    `json:"-"` // what the variant, and its product, is expected to cost
	TaxClass   uint64                 `json:"-"`
	Bundled    bool                   `json:"-"` // a bundle holds it

	In map[stock.Condition]OwnPrice `json:"-"` // the conditions that it is sold in apart from new
}

// Item is what the book knows of it.
func (s Sellable) Item() stock.Item {
	i := stock.Item{
		Name:     s.FullName(),
		Tracking: s.Tracking,
		Unit:     s.Unit,
		Restock:  s.Restock,
		Product:  s.ProductID,
		TaxClass: s.TaxClass,
		Asked:    s.Listed,
		Expected: s.Expected,
		Bundle:   s.Bundle,
		Bundled:  s.Bundled,
	}
	if s.Bundle {
		i.Tracking = stock.Counted // as many as are made up
	}
	return i
}

// FullName is the product with the variant.
func (s Sellable) FullName() string { return catalog.FullName(s.Name, s.Label) }

// Pack finds one of the packs; 0 is none.
func (s Sellable) Pack(id uint64) (Pack, bool) {
	at := slices.IndexFunc(s.Packs, func(p Pack) bool { return p.ID == id })
	if at < 0 {
		return Pack{}, false
	}
	return s.Packs[at], true
}

// PriceOf works out the price of one, or of one pack, on a list for a quantity.
func (s Sellable) PriceOf(list, pack uint64, quantity decimal.Decimal, moment time.Time) price.Answer {
	if pack != 0 {
		return s.Book.Find(s.Packed[pack], list, quantity, moment)
	}
	return s.Book.Find(s.Goods, list, quantity, moment)
}

// Stocked reports whether selling it moves stock, of itself or of its parts.
func (s Sellable) Stocked() bool { return s.Bundle || s.Tracking != stock.NotStocked }

// LowestOf is the lowest of the last 90 days: what the Regular list asked at any moment of them, in
// base units, and sold, which is what it was sold for at the lowest; nil where there is none.
func (s Sellable) LowestOf(sold *decimal.Decimal, now time.Time) *decimal.Decimal {
	lowest := sold
	for day := 0; day <= LowestDays; day++ {
		a := s.PriceOf(price.Regular, 0, decimal.New(1, 0), now.AddDate(0, 0, -day))
		if a.Source != price.NoPrice && (lowest == nil || a.Amount.LessThan(*lowest)) {
			lowest = &a.Amount
		}
	}
	if lowest == nil {
		return nil
	}
	down := lowest.RoundDown(s.Book.Minor.Places())
	return &down
}
