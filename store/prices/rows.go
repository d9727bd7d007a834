package prices

import (
	"time"

	"github.com/shopspring/decimal"
	"gorm.io/gorm"

	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// TaxClass and TaxRate are what tax.Class is built from.
type TaxClass struct {
	ID      uint64 `json:"id"`
	Name    string `json:"name"`
	NameKey string `json:"-"`
}

// BeforeSave keeps the key with the name.
func (r *TaxClass) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// TaxRate is a rate of a class from a moment on.
type TaxRate struct {
	ID         uint64          `json:"id"`
	TaxClassID uint64          `json:"tax_class_id"`
	FromAt     time.Time       `json:"from_at"`
	Percent    decimal.Decimal `json:"percent"`
}

// PriceList is a price list with its rule; Ending is in the form of
// price.ParseEnding.
type PriceList struct {
	ID          uint64          `json:"id"`
	Name        string          `json:"name"`
	NameKey     string          `json:"-"`
	RuleKind    string          `json:"rule_kind"`
	RulePercent decimal.Decimal `json:"rule_percent"`
	RuleAmount  decimal.Decimal `json:"rule_amount"`
	RuleListID  *uint64         `json:"rule_list_id"`
	Ending      string          `json:"ending"`
}

// BeforeSave keeps the key with the name.
func (r *PriceList) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// Price is what a product, one variant or a pack of it sells for on a list from
// a moment on, for quantities of FromQuantity or more.
type Price struct {
	ID           uint64          `json:"id"`
	ProductID    uint64          `json:"product_id"`
	VariantID    *uint64         `json:"variant_id"`
	PackID       *uint64         `json:"pack_id"`
	PriceListID  uint64          `json:"price_list_id"`
	FromAt       time.Time       `json:"from_at"`
	FromQuantity decimal.Decimal `json:"from_quantity"`
	Amount       decimal.Decimal `json:"amount"`
	UserID       *uint64         `json:"user_id"`
	Later        bool            `json:"-"` // it was to begin later when it was written
}

// AddTaxClass writes a tax class, and fills in the number.
func AddTaxClass(tx db.Tx, row *TaxClass) error { return db.Insert(tx, row) }

// AddTaxRate writes a tax rate, and fills in the number.
func AddTaxRate(tx db.Tx, row *TaxRate) error { return db.Insert(tx, row) }
