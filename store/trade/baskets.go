package trade

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/store/internal/db"
)

// DropBasket ends a basket: it was paid, or given up.
func DropBasket(tx db.Tx, id uint64) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM basket_line WHERE basket_id = ?", id).Error; err != nil {
		return err
	}
	return db.SQL(tx.Q).Exec("DELETE FROM basket WHERE id = ?", id).Error
}

// Basket is a sale while it is being made, at the prices of a list; a register
// has one open at a time.
type Basket struct {
	ID             uint64    `json:"id"`
	RegisterID     uint64    `json:"register_id"`
	OpenRegisterID *uint64   `json:"open_register_id"`
	UserID         uint64    `json:"user_id"`
	OpenedAt       time.Time `json:"opened_at"`
	PriceListID    uint64    `json:"price_list_id"`
}

// BasketLine keeps the price at which it was scanned, and when that was. Quantity
// is in packs where PackID names one.
type BasketLine struct {
	ID        uint64          `json:"id"`
	BasketID  uint64          `json:"basket_id"`
	VariantID uint64          `json:"variant_id"`
	PackID    *uint64         `json:"pack_id"`
	Quantity  decimal.Decimal `json:"quantity"`
	Price     decimal.Decimal `json:"price"`
	PricedAt  time.Time       `json:"priced_at"`
	Labelled  bool            `json:"labelled"` // the price is that of a label of the shop's scale
	Serials   string          `json:"serials"`
	LotID     uint64          `json:"lot_id"`
}

// CurrentBasket reads the basket that a register is at; ID is 0 for none.
func CurrentBasket(q db.Q, register uint64) (Basket, error) {
	var t Basket
	return t, db.SQL(q).Raw("SELECT * FROM basket WHERE open_register_id = ?", register).Scan(&t).Error
}
