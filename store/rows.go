package store

import (
	"time"

	"github.com/shopspring/decimal"
)

// The rows of the tables, as GORM writes and reads them.

// Branch is a shop or a store room.
type Branch struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// Shelf is a place in a branch.
type Shelf struct {
	ID        uint64
	BranchID  uint64
	Name      string
	IsDefault bool
}

// Register is where sales are made; Code begins its sale numbers.
type Register struct {
	ID       uint64 `json:"id"`
	BranchID uint64 `json:"branch_id"`
	Name     string `json:"name"`
	Code     string `json:"code"`
}

// User is a person who signs in.
type User struct {
	ID           uint64
	Login        string
	Name         string
	PasswordHash string
	Role         string
	BranchID     uint64
}

// APIToken lets a program act as a user; only its hash is kept.
type APIToken struct {
	ID        uint64
	UserID    uint64
	TokenHash string
	CreatedAt time.Time
}

// TaxClass and TaxRate are what tax.Class is built from.
type TaxClass struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// TaxRate is a rate of a class from a moment on.
type TaxRate struct {
	ID         uint64
	TaxClassID uint64
	FromAt     time.Time
	Percent    decimal.Decimal
}

// Category is a branch of the category tree; Path is its names from the root,
// joined by " > ".
type Category struct {
	ID       uint64  `json:"id"`
	ParentID *uint64 `json:"parent_id"`
	Name     string  `json:"name"`
	Path     string  `json:"path"`
	Colour   string  `json:"colour"`
}

// Supplier is who the shop buys from.
type Supplier struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// Product is what is offered, with its variants.
type Product struct {
	ID         uint64
	Name       string
	ShortName  string
	Style      string
	CategoryID uint64
	SupplierID *uint64
	TaxClassID uint64
	Unit       string
	Tracking   string
	SKUPattern string `gorm:"column:sku_pattern"`
	CreatedAt  time.Time
}

// Axis is a direction in which a product varies.
type Axis struct {
	ID        uint64
	ProductID uint64
	Position  int
	Name      string
}

// AxisValue is one value of an axis.
type AxisValue struct {
	ID       uint64
	AxisID   uint64
	Position int
	Name     string
	Swatch   string
}

// Variant is one sellable thing. Label joins its values: "Coral · M".
type Variant struct {
	ID           uint64
	ProductID    uint64
	SKU          string `gorm:"column:sku"`
	Label        string
	Value1ID     *uint64 `gorm:"column:value1_id"`
	Value2ID     *uint64 `gorm:"column:value2_id"`
	Value3ID     *uint64 `gorm:"column:value3_id"`
	RestockLevel *decimal.Decimal
}

// Barcode is a number under which a variant is scanned.
type Barcode struct {
	ID        uint64
	VariantID uint64
	Code      string
	CodeKey   string
}

// Price is what a product, or one variant of it, sells for from a moment on.
type Price struct {
	ID        uint64
	ProductID uint64
	VariantID *uint64
	FromAt    time.Time
	Amount    decimal.Decimal
}

// Lot is a batch of a variant.
type Lot struct {
	ID        uint64
	VariantID uint64
	Number    string
	Expiry    time.Time
}

// DrawerSession is a drawer from float to closing. OpenRegisterID is the
// register while the session is open, and unique: one at a time.
type DrawerSession struct {
	ID             uint64
	RegisterID     uint64
	OpenRegisterID *uint64
	OpenedBy       uint64
	OpenedAt       time.Time
	Float          decimal.Decimal
	ClosedBy       *uint64
	ClosedAt       *time.Time
	Expected       *decimal.Decimal
	Counted        *decimal.Decimal
	DocumentID     *uint64
}

// Ticket is a sale while it is being made; a register has one open at a time.
type Ticket struct {
	ID             uint64
	RegisterID     uint64
	OpenRegisterID *uint64
	UserID         uint64
	OpenedAt       time.Time
}

// TicketLine keeps the price at which it was scanned.
type TicketLine struct {
	ID        uint64
	TicketID  uint64
	VariantID uint64
	Quantity  decimal.Decimal
	Price     decimal.Decimal
	Serials   string
}

// Sale is what a sale's document took in.
type Sale struct {
	DocumentID      uint64 `gorm:"primaryKey"`
	RegisterID      uint64
	DrawerSessionID uint64
	Gross           decimal.Decimal
	Tax             decimal.Decimal
	Handed          decimal.Decimal
	ChangeGiven     decimal.Decimal
	Card            decimal.Decimal
	CardReference   string
}

// SaleLine is a line of a sale as it was sold.
type SaleLine struct {
	ID         uint64
	DocumentID uint64
	Line       int
	VariantID  uint64
	Name       string
	Detail     string
	SKU        string `gorm:"column:sku"`
	Serials    string
	Quantity   decimal.Decimal
	Price      decimal.Decimal
	Percent    decimal.Decimal
	Paid       decimal.Decimal
	Tax        decimal.Decimal
	Cost       decimal.Decimal
}

// SaleReturn is what a return's document gave back.
type SaleReturn struct {
	DocumentID      uint64 `gorm:"primaryKey"`
	SaleID          uint64
	DrawerSessionID uint64
	Amount          decimal.Decimal
	Tax             decimal.Decimal
	Cash            decimal.Decimal
	Card            decimal.Decimal
}

// ReturnLine is what came back of a line of a sale.
type ReturnLine struct {
	ID         uint64
	DocumentID uint64
	SaleLineID uint64
	Serials    string
	Condition  string
	Quantity   decimal.Decimal
	Amount     decimal.Decimal
	Tax        decimal.Decimal
	Cost       decimal.Decimal
}

// Delivery is goods that came in. Until DocumentID is set it is a draft;
// PostedNumber is the supplier's number once it is posted, and unique.
type Delivery struct {
	ID              uint64
	DocumentID      *uint64
	SupplierID      uint64
	BranchID        uint64
	SupplierNumber  string
	PostedNumber    *string
	Note            string
	CostsIncludeTax bool
	Extra           decimal.Decimal
	Spread          string
	CreatedBy       uint64
	CreatedAt       time.Time
	Net             decimal.Decimal
	Tax             decimal.Decimal
	Gross           decimal.Decimal
}

// DeliveryLine is a variant, lot and cost of a delivery.
type DeliveryLine struct {
	ID         uint64
	DeliveryID uint64
	VariantID  uint64
	Quantity   decimal.Decimal
	Cost       decimal.Decimal
	Percent    decimal.Decimal
	LotNumber  string
	Expiry     *time.Time
	Serials    string
}

// ShelfCount is a count of one category at a branch.
type ShelfCount struct {
	ID         uint64
	Number     string
	BranchID   uint64
	CategoryID uint64
	Note       string
	Blind      bool
	State      string
	CreatedBy  uint64
	CreatedAt  time.Time
	DocumentID *uint64
}

// CountRow is a row of a count: planned, or scanned without being planned.
type CountRow struct {
	ID           uint64
	ShelfCountID uint64
	OpenBranchID *uint64
	VariantID    uint64
	LotID        uint64
	Condition    string
	Planned      bool
	Counted      *decimal.Decimal
	Expected     *decimal.Decimal
	Variance     *decimal.Decimal
	Value        *decimal.Decimal
	Reason       string
}

// CountEvent is one scan or typed quantity of a count's log.
type CountEvent struct {
	ID           uint64
	ShelfCountID uint64
	VariantID    uint64
	LotID        uint64
	Condition    string
	Serial       string
	Scanned      bool
	Quantity     decimal.Decimal
	OnHand       decimal.Decimal
	UserID       uint64
	At           time.Time
	StruckAt     *time.Time
	StruckBy     *uint64
}

// PrintJob is a paper that came out of a printer stand-in.
type PrintJob struct {
	ID     uint64    `json:"id"`
	Device string    `json:"device"`
	Title  string    `json:"title"`
	Pages  string    `json:"-"`
	At     time.Time `json:"at"`
}

// CardCharge is what the card terminal stand-in did under a reference.
type CardCharge struct {
	Reference string `gorm:"primaryKey"`
	Amount    decimal.Decimal
	State     string
	At        time.Time
}

// Insert writes a row, or several, of any table but the book's and fills in
// their numbers.
func (tx Tx) Insert(rows any) error { return tx.db.CreateInBatches(rows, 500).Error }
