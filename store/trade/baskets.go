package trade

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/price"
	"itemrack/store/internal/db"
)

// OpenBasket returns the basket that a register is at, made if there is none.
func OpenBasket(tx db.Tx, register, user uint64, now time.Time) (Basket, error) {
	var t Basket
	find := func() error {
		return db.SQL(tx.Q).Raw("SELECT * FROM basket WHERE open_register_id = ? FOR UPDATE", register).Scan(&t).Error
	}
	if err := find(); err != nil || t.ID != 0 {
		return t, err
	}
	t = Basket{RegisterID: register, OpenRegisterID: &register, UserID: user, OpenedAt: now, PriceListID: price.Regular}
	err := db.SQL(tx.Q).Create(&t).Error
	if db.Duplicate(err) {
		t = Basket{}
		err = find()
	}
	return t, err
}

// LockBasket reads a basket, locked until the transaction ends; ID is 0 when it
// is gone.
func LockBasket(tx db.Tx, id uint64) (Basket, error) {
	var t Basket
	return t, db.SQL(tx.Q).Raw("SELECT * FROM basket WHERE id = ? FOR UPDATE", id).Scan(&t).Error
}

// CurrentBasket reads the basket that a register is at; ID is 0 for none.
func CurrentBasket(q db.Q, register uint64) (Basket, error) {
	var t Basket
	return t, db.SQL(q).Raw("SELECT * FROM basket WHERE open_register_id = ?", register).Scan(&t).Error
}

// BasketLines lists the lines of a basket.
func BasketLines(q db.Q, basket uint64) ([]BasketLine, error) {
	var rows []BasketLine
	return rows, db.SQL(q).Raw("SELECT * FROM basket_line WHERE basket_id = ? ORDER BY id", basket).Scan(&rows).Error
}

// SaveBasketLine changes a line's quantity and serial numbers, or removes it
// when the quantity is zero.
func SaveBasketLine(tx db.Tx, line BasketLine) error {
	if line.Quantity.IsZero() {
		return db.SQL(tx.Q).Exec("DELETE FROM basket_line WHERE id = ?", line.ID).Error
	}
	return db.SQL(tx.Q).Exec("UPDATE basket_line SET quantity = ?, price = ?, labelled = ?, serials = ? WHERE id = ?", line.Quantity, line.Price, line.Labelled, line.Serials, line.ID).Error
}

// SetBasketList puts a basket on a price list.
func SetBasketList(tx db.Tx, id, list uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE basket SET price_list_id = ? WHERE id = ?", list, id).Error
}

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
}

// AddBasketLine writes a line of a basket, and fills in the number.
func AddBasketLine(tx db.Tx, row *BasketLine) error { return db.Insert(tx, row) }
