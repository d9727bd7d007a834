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
// joined by " > ". The other figures are what its products take over; those
// that it does not say come from the category above. Ending is in the form of
// price.ParseEnding.
type Category struct {
	ID           uint64           `json:"id"`
	ParentID     *uint64          `json:"parent_id"`
	Name         string           `json:"name"`
	Path         string           `json:"path"`
	Colour       string           `json:"colour"`
	TaxClassID   *uint64          `json:"tax_class_id"`
	Markup       *decimal.Decimal `json:"markup"`
	Ending       *string          `json:"ending"`
	RestockLevel *decimal.Decimal `json:"restock_level"`
	PictureID    *uint64          `json:"picture_id"`
}

// Supplier is who the shop buys from; Markup and Ending are what its products
// take over where their category says nothing.
type Supplier struct {
	ID     uint64           `json:"id"`
	Name   string           `json:"name"`
	Markup *decimal.Decimal `json:"markup"`
	Ending *string          `json:"ending"`
}

// Product is what is offered, with its variants. TaxClassID is the one that
// holds, its category's unless OwnTaxClass; the figures that are nil are taken
// over. Words are what it is found by.
type Product struct {
	ID            uint64
	Name          string
	ShortName     string
	Style         string
	CategoryID    uint64
	SupplierID    *uint64
	TaxClassID    uint64
	OwnTaxClass   bool
	BuyTaxClassID *uint64
	Unit          string
	Tracking      string
	SKUPattern    string `gorm:"column:sku_pattern"`
	CreatedAt     time.Time
	Description   string
	SupplierText  string
	Brand         string
	Discontinued  bool
	Cost          *decimal.Decimal
	Markup        *decimal.Decimal
	Ending        *string
	RestockLevel  *decimal.Decimal
	Content       *decimal.Decimal
	Measure       string
	Bundle        bool
	PictureID     *uint64
	Words         string `json:"-"`
}

// ValueSet is values that products share: the colours, the clothing sizes.
type ValueSet struct {
	ID   uint64
	Name string
}

// Value is one value of a set; Swatch is in the form of catalog.ParseSwatch.
type Value struct {
	ID         uint64
	ValueSetID uint64
	Position   int
	Name       string
	Swatch     string
}

// TableName names the table for GORM; VALUE is a word of SQL.
func (Value) TableName() string { return "set_value" }

// Axis is a direction in which a product varies, with the set its values are of.
type Axis struct {
	ID         uint64
	ProductID  uint64
	Position   int
	Name       string
	ValueSetID uint64
}

// AxisValue is one value of an axis.
type AxisValue struct {
	ID       uint64
	AxisID   uint64
	Position int
	ValueID  uint64
	Retired  bool
}

// Variant is one sellable thing. Label joins its values: "Coral · M".
// RestockLevel is the one that holds, OwnRestockLevel what the variant itself
// says; ListPrice is what it costs on the Regular list now.
type Variant struct {
	ID              uint64
	ProductID       uint64
	SKU             string `gorm:"column:sku"`
	Label           string
	Value1ID        *uint64 `gorm:"column:value1_id"`
	Value2ID        *uint64 `gorm:"column:value2_id"`
	Value3ID        *uint64 `gorm:"column:value3_id"`
	RestockLevel    *decimal.Decimal
	OwnRestockLevel *decimal.Decimal
	Cost            *decimal.Decimal
	ListPrice       *decimal.Decimal
	Retired         bool
	PictureID       *uint64
}

// Barcode is a number under which a variant, or a pack of it, is scanned.
type Barcode struct {
	ID        uint64
	VariantID uint64
	Code      string
	CodeKey   string
	PackID    *uint64
}

// BarcodeRange is a range of numbers of the shop's own.
type BarcodeRange struct {
	ID     uint64 `json:"id"`
	Name   string `json:"name"`
	Prefix string `json:"prefix"`
	First  uint64 `json:"first"`
	Last   uint64 `json:"last"`
	Next   uint64 `json:"next"`
	Open   bool   `json:"open"`
}

// Pack is a unit of a product that holds so many base units.
type Pack struct {
	ID        uint64          `json:"id"`
	ProductID uint64          `json:"-"`
	Name      string          `json:"name"`
	Factor    decimal.Decimal `json:"factor"`
	Bought    bool            `json:"bought"`
}

// ProductSupplier is a supplier of a product, with its own number for it.
type ProductSupplier struct {
	ProductID  uint64 `gorm:"primaryKey"`
	SupplierID uint64 `gorm:"primaryKey"`
	PartNumber string
}

// ProductAttribute is something free said of a product.
type ProductAttribute struct {
	ProductID uint64 `gorm:"primaryKey"`
	Name      string `gorm:"primaryKey"`
	Value     string
}

// ProductPicture is a picture of a product; the first one stands for it.
type ProductPicture struct {
	ProductID uint64 `gorm:"primaryKey"`
	PictureID uint64 `gorm:"primaryKey"`
	Position  int
}

// Picture is a bitmap with its thumbnail.
type Picture struct {
	ID          uint64
	Sum         string
	Type        string
	Width       int
	Height      int
	Data        []byte
	SmallType   string
	SmallWidth  int
	SmallHeight int
	Small       []byte
}

// BundlePart is a component of a bundle: how many of a variant are in one.
type BundlePart struct {
	BundleID  uint64 `gorm:"primaryKey"`
	VariantID uint64 `gorm:"primaryKey"`
	Quantity  decimal.Decimal
}

// PriceList is a price list with its rule; Ending is in the form of
// price.ParseEnding.
type PriceList struct {
	ID          uint64
	Name        string
	RuleKind    string
	RulePercent decimal.Decimal
	RuleAmount  decimal.Decimal
	RuleListID  *uint64
	Ending      string
}

// Price is what a product, one variant or a pack of it sells for on a list from
// a moment on, for quantities of FromQuantity or more.
type Price struct {
	ID           uint64
	ProductID    uint64
	VariantID    *uint64
	PackID       *uint64
	PriceListID  uint64
	FromAt       time.Time
	FromQuantity decimal.Decimal
	Amount       decimal.Decimal
	UserID       *uint64
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

// Ticket is a sale while it is being made, at the prices of a list; a register
// has one open at a time.
type Ticket struct {
	ID             uint64
	RegisterID     uint64
	OpenRegisterID *uint64
	UserID         uint64
	OpenedAt       time.Time
	PriceListID    uint64
}

// TicketLine keeps the price at which it was scanned, and when that was. Quantity
// is in packs where PackID names one.
type TicketLine struct {
	ID        uint64
	TicketID  uint64
	VariantID uint64
	PackID    *uint64
	Quantity  decimal.Decimal
	Price     decimal.Decimal
	PricedAt  time.Time
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

// SaleLine is a line of a sale as it was sold. Quantity is in base units, Price
// is of one pack of Factor units where Pack names one; WithTax says whether tax
// is in it.
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
	Pack       string
	Factor     decimal.Decimal
	WithTax    bool
}

// SalePart is what a bundle on a line of a sale took from stock of one component.
type SalePart struct {
	ID         uint64
	SaleLineID uint64
	VariantID  uint64
	Quantity   decimal.Decimal
	Cost       decimal.Decimal
	Serials    string
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

// SavedView is a list as a person likes to see it.
type SavedView struct {
	ID     uint64 `json:"id"`
	UserID uint64 `json:"-"`
	Name   string `json:"name"`
	Query  string `json:"query"`
}

// BulkEdit is a change of many products that can be undone; Changes is JSON.
type BulkEdit struct {
	ID       uint64
	UserID   uint64
	At       time.Time
	Says     string
	Changes  string
	UndoneAt *time.Time
}

// LabelTemplate is a kind of label that the shop made; Body is JSON.
type LabelTemplate struct {
	ID   uint64
	Name string
	Body string
}

// ImportJob is a file that is read in, and how far that has come.
type ImportJob struct {
	ID             uint64    `json:"id"`
	Kind           string    `json:"kind"`
	Name           string    `json:"name"`
	Size           int64     `json:"size"`
	State          string    `json:"state"`
	DryRun         bool      `json:"dry_run"`
	UserID         uint64    `json:"-"`
	BranchID       uint64    `json:"branch_id"`
	CreatedAt      time.Time `json:"created_at"`
	SeenAt         time.Time `json:"-"`
	Matching       string    `json:"-"`
	Done           int       `json:"done"`
	Total          int       `json:"total"`
	Made           int       `json:"made"`
	Changed        int       `json:"changed"`
	Same           int       `json:"same"`
	Refused        int       `json:"refused"`
	Pictures       int       `json:"pictures"`
	Says           string    `json:"says"`
	DocumentNumber string    `json:"document_number"`
}

// ImportRow is what becomes of one row of a file. Record is the row as it stood,
// JSON, kept for those that are refused.
type ImportRow struct {
	ImportID uint64 `gorm:"primaryKey" json:"-"`
	Line     int    `gorm:"primaryKey" json:"line"`
	Outcome  string `json:"outcome"`
	Product  string `json:"product"`
	Variant  string `json:"variant"`
	SKU      string `gorm:"column:sku" json:"sku"`
	Detail   string `json:"detail,omitempty"`
	Field    string `json:"field,omitempty"`
	Want     string `json:"want,omitempty"`
	Record   string `json:"-"`
}
