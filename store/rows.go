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
	ID        uint64 `json:"id"`
	BranchID  uint64 `json:"branch_id"`
	Name      string `json:"name"`
	IsDefault bool   `json:"is_default"`
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
	ID           uint64 `json:"id"`
	Login        string `json:"login"`
	Name         string `json:"name"`
	PasswordHash string `json:"-"`
	Role         string `json:"role"`
	BranchID     uint64 `json:"branch_id"`
}

// APIToken lets a program act as a user; only its hash is kept.
type APIToken struct {
	ID        uint64    `json:"id"`
	UserID    uint64    `json:"user_id"`
	TokenHash string    `json:"-"`
	CreatedAt time.Time `json:"created_at"`
}

// TaxClass and TaxRate are what tax.Class is built from.
type TaxClass struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// TaxRate is a rate of a class from a moment on.
type TaxRate struct {
	ID         uint64          `json:"id"`
	TaxClassID uint64          `json:"tax_class_id"`
	FromAt     time.Time       `json:"from_at"`
	Percent    decimal.Decimal `json:"percent"`
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
	ID            uint64           `json:"id"`
	Name          string           `json:"name"`
	ShortName     string           `json:"short_name"`
	Style         string           `json:"style"`
	CategoryID    uint64           `json:"category_id"`
	SupplierID    *uint64          `json:"supplier_id"`
	TaxClassID    uint64           `json:"tax_class_id"`
	OwnTaxClass   bool             `json:"own_tax_class"`
	BuyTaxClassID *uint64          `json:"buy_tax_class_id"`
	Unit          string           `json:"unit"`
	Tracking      string           `json:"tracking"`
	SKUPattern    string           `gorm:"column:sku_pattern" json:"sku_pattern"`
	CreatedAt     time.Time        `json:"created_at"`
	Description   string           `json:"description"`
	SupplierText  string           `json:"supplier_text"`
	Brand         string           `json:"brand"`
	Discontinued  bool             `json:"discontinued"`
	Cost          *decimal.Decimal `json:"cost"`
	Markup        *decimal.Decimal `json:"markup"`
	Ending        *string          `json:"ending"`
	RestockLevel  *decimal.Decimal `json:"restock_level"`
	Content       *decimal.Decimal `json:"content"`
	Measure       string           `json:"measure"`
	Bundle        bool             `json:"bundle"`
	PictureID     *uint64          `json:"picture_id"`
	Words         string           `json:"-"`
}

// ValueSet is values that products share: the colours, the clothing sizes.
type ValueSet struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// Value is one value of a set; Swatch is in the form of catalog.ParseSwatch.
type Value struct {
	ID         uint64 `json:"id"`
	ValueSetID uint64 `json:"value_set_id"`
	Position   int    `json:"position"`
	Name       string `json:"name"`
	Swatch     string `json:"swatch"`
}

// TableName names the table for GORM; VALUE is a word of SQL.
func (Value) TableName() string { return "set_value" }

// Axis is a direction in which a product varies, with the set its values are of.
type Axis struct {
	ID         uint64 `json:"id"`
	ProductID  uint64 `json:"product_id"`
	Position   int    `json:"position"`
	Name       string `json:"name"`
	ValueSetID uint64 `json:"value_set_id"`
}

// AxisValue is one value of an axis.
type AxisValue struct {
	ID       uint64 `json:"id"`
	AxisID   uint64 `json:"axis_id"`
	Position int    `json:"position"`
	ValueID  uint64 `json:"value_id"`
	Retired  bool   `json:"retired"`
}

// Variant is one sellable thing. Label joins its values: "Coral · M".
// RestockLevel is the one that holds, OwnRestockLevel what the variant itself
// says; ListPrice is what it costs on the Regular list now.
type Variant struct {
	ID              uint64           `json:"id"`
	ProductID       uint64           `json:"product_id"`
	SKU             string           `gorm:"column:sku" json:"sku"`
	Label           string           `json:"label"`
	Value1ID        *uint64          `gorm:"column:value1_id" json:"value1_id"`
	Value2ID        *uint64          `gorm:"column:value2_id" json:"value2_id"`
	Value3ID        *uint64          `gorm:"column:value3_id" json:"value3_id"`
	RestockLevel    *decimal.Decimal `json:"restock_level"`
	OwnRestockLevel *decimal.Decimal `json:"own_restock_level"`
	Cost            *decimal.Decimal `json:"cost"`
	ListPrice       *decimal.Decimal `json:"list_price"`
	Retired         bool             `json:"retired"`
	PictureID       *uint64          `json:"picture_id"`
}

// Barcode is a number under which a variant, or a pack of it, is scanned.
type Barcode struct {
	ID        uint64  `json:"id"`
	VariantID uint64  `json:"variant_id"`
	Code      string  `json:"code"`
	CodeKey   string  `json:"code_key"`
	PackID    *uint64 `json:"pack_id"`
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
	ProductID  uint64 `gorm:"primaryKey" json:"product_id"`
	SupplierID uint64 `gorm:"primaryKey" json:"supplier_id"`
	PartNumber string `json:"part_number"`
}

// ProductAttribute is something free said of a product.
type ProductAttribute struct {
	ProductID uint64 `gorm:"primaryKey" json:"product_id"`
	Name      string `gorm:"primaryKey" json:"name"`
	Value     string `json:"value"`
}

// ProductPicture is a picture of a product; the first one stands for it.
type ProductPicture struct {
	ProductID uint64 `gorm:"primaryKey" json:"product_id"`
	PictureID uint64 `gorm:"primaryKey" json:"picture_id"`
	Position  int    `json:"position"`
}

// Picture is a bitmap with its thumbnail.
type Picture struct {
	ID          uint64 `json:"id"`
	Sum         string `json:"sum"`
	Type        string `json:"type"`
	Width       int    `json:"width"`
	Height      int    `json:"height"`
	Data        []byte `json:"-"`
	SmallType   string `json:"small_type"`
	SmallWidth  int    `json:"small_width"`
	SmallHeight int    `json:"small_height"`
	Small       []byte `json:"-"`
}

// BundlePart is a component of a bundle: how many of a variant are in one.
type BundlePart struct {
	BundleID  uint64          `gorm:"primaryKey" json:"bundle_id"`
	VariantID uint64          `gorm:"primaryKey" json:"variant_id"`
	Quantity  decimal.Decimal `json:"quantity"`
}

// PriceList is a price list with its rule; Ending is in the form of
// price.ParseEnding.
type PriceList struct {
	ID          uint64          `json:"id"`
	Name        string          `json:"name"`
	RuleKind    string          `json:"rule_kind"`
	RulePercent decimal.Decimal `json:"rule_percent"`
	RuleAmount  decimal.Decimal `json:"rule_amount"`
	RuleListID  *uint64         `json:"rule_list_id"`
	Ending      string          `json:"ending"`
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
}

// Lot is a batch of a variant.
type Lot struct {
	ID        uint64    `json:"id"`
	VariantID uint64    `json:"variant_id"`
	Number    string    `json:"number"`
	Expiry    time.Time `json:"expiry"`
}

// Drawer is a drawer from float to closing. OpenRegisterID is the
// register while the session is open, and unique: one at a time.
type Drawer struct {
	ID             uint64           `json:"id"`
	RegisterID     uint64           `json:"register_id"`
	OpenRegisterID *uint64          `json:"open_register_id"`
	OpenedBy       uint64           `json:"opened_by"`
	OpenedAt       time.Time        `json:"opened_at"`
	Float          decimal.Decimal  `json:"float"`
	ClosedBy       *uint64          `json:"closed_by"`
	ClosedAt       *time.Time       `json:"closed_at"`
	ShouldBe       *decimal.Decimal `json:"should_be"`
	Counted        *decimal.Decimal `json:"counted"`
	DocumentID     *uint64          `json:"document_id"`
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

// Sale is what a sale's document took in.
type Sale struct {
	DocumentID    uint64          `gorm:"primaryKey" json:"document_id"`
	RegisterID    uint64          `json:"register_id"`
	DrawerID      uint64          `json:"drawer_id"`
	Gross         decimal.Decimal `json:"gross"`
	Tax           decimal.Decimal `json:"tax"`
	Handed        decimal.Decimal `json:"handed"`
	ChangeGiven   decimal.Decimal `json:"change_given"`
	Card          decimal.Decimal `json:"card"`
	CardReference string          `json:"card_reference"`
}

// SaleLine is a line of a sale as it was sold. Quantity is in base units, Price
// is of one pack of Factor units where Pack names one; WithTax says whether tax
// is in it.
type SaleLine struct {
	ID         uint64          `json:"id"`
	DocumentID uint64          `json:"document_id"`
	Line       int             `json:"line"`
	VariantID  uint64          `json:"variant_id"`
	Name       string          `json:"name"`
	Detail     string          `json:"detail"`
	SKU        string          `gorm:"column:sku" json:"sku"`
	Serials    string          `json:"serials"`
	Quantity   decimal.Decimal `json:"quantity"`
	Price      decimal.Decimal `json:"price"`
	Percent    decimal.Decimal `json:"percent"`
	Paid       decimal.Decimal `json:"paid"`
	Tax        decimal.Decimal `json:"tax"`
	Cost       decimal.Decimal `json:"cost"`
	Pack       string          `json:"pack"`
	Factor     decimal.Decimal `json:"factor"`
	WithTax    bool            `json:"with_tax"`
}

// SalePart is what a bundle on a line of a sale took from stock of one component.
type SalePart struct {
	ID         uint64          `json:"id"`
	SaleLineID uint64          `json:"sale_line_id"`
	VariantID  uint64          `json:"variant_id"`
	Quantity   decimal.Decimal `json:"quantity"`
	Cost       decimal.Decimal `json:"cost"`
	Serials    string          `json:"serials"`
}

// SaleReturn is what a return's document gave back.
type SaleReturn struct {
	DocumentID uint64          `gorm:"primaryKey" json:"document_id"`
	SaleID     uint64          `json:"sale_id"`
	DrawerID   uint64          `json:"drawer_id"`
	Amount     decimal.Decimal `json:"amount"`
	Tax        decimal.Decimal `json:"tax"`
	Cash       decimal.Decimal `json:"cash"`
	Card       decimal.Decimal `json:"card"`
}

// ReturnLine is what came back of a line of a sale.
type ReturnLine struct {
	ID         uint64          `json:"id"`
	DocumentID uint64          `json:"document_id"`
	SaleLineID uint64          `json:"sale_line_id"`
	Serials    string          `json:"serials"`
	Condition  string          `json:"condition"`
	Quantity   decimal.Decimal `json:"quantity"`
	Amount     decimal.Decimal `json:"amount"`
	Tax        decimal.Decimal `json:"tax"`
	Cost       decimal.Decimal `json:"cost"`
}

// Delivery is goods that came in. Until DocumentID is set it is a draft;
// PostedNumber is the supplier's number once it is posted, and unique.
type Delivery struct {
	ID              uint64          `json:"id"`
	DocumentID      *uint64         `json:"document_id"`
	SupplierID      uint64          `json:"supplier_id"`
	BranchID        uint64          `json:"branch_id"`
	SupplierNumber  string          `json:"supplier_number"`
	PostedNumber    *string         `json:"posted_number"`
	Note            string          `json:"note"`
	CostsIncludeTax bool            `json:"costs_include_tax"`
	Extra           decimal.Decimal `json:"extra"`
	Spread          string          `json:"spread"`
	CreatedBy       uint64          `json:"created_by"`
	CreatedAt       time.Time       `json:"created_at"`
	Net             decimal.Decimal `json:"net"`
	Tax             decimal.Decimal `json:"tax"`
	Gross           decimal.Decimal `json:"gross"`
}

// DeliveryLine is a variant, lot and cost of a delivery.
type DeliveryLine struct {
	ID         uint64          `json:"id"`
	DeliveryID uint64          `json:"delivery_id"`
	VariantID  uint64          `json:"variant_id"`
	Quantity   decimal.Decimal `json:"quantity"`
	Cost       decimal.Decimal `json:"cost"`
	Percent    decimal.Decimal `json:"percent"`
	LotNumber  string          `json:"lot_number"`
	Expiry     *time.Time      `json:"expiry"`
	Serials    string          `json:"serials"`
}

// ShelfCount is a count of one category at a branch.
type ShelfCount struct {
	ID         uint64    `json:"id"`
	Number     string    `json:"number"`
	BranchID   uint64    `json:"branch_id"`
	CategoryID uint64    `json:"category_id"`
	Note       string    `json:"note"`
	Blind      bool      `json:"blind"`
	State      string    `json:"state"`
	CreatedBy  uint64    `json:"created_by"`
	CreatedAt  time.Time `json:"created_at"`
	DocumentID *uint64   `json:"document_id"`
}

// CountRow is a row of a count: planned, or scanned without being planned.
type CountRow struct {
	ID           uint64           `json:"id"`
	ShelfCountID uint64           `json:"shelf_count_id"`
	OpenBranchID *uint64          `json:"open_branch_id"`
	VariantID    uint64           `json:"variant_id"`
	LotID        uint64           `json:"lot_id"`
	Condition    string           `json:"condition"`
	Planned      bool             `json:"planned"`
	Counted      *decimal.Decimal `json:"counted"`
	Expected     *decimal.Decimal `json:"expected"`
	Variance     *decimal.Decimal `json:"variance"`
	Value        *decimal.Decimal `json:"value"`
	Reason       string           `json:"reason"`
}

// CountEvent is one scan or typed quantity of a count's log.
type CountEvent struct {
	ID           uint64          `json:"id"`
	ShelfCountID uint64          `json:"shelf_count_id"`
	VariantID    uint64          `json:"variant_id"`
	LotID        uint64          `json:"lot_id"`
	Condition    string          `json:"condition"`
	Serial       string          `json:"serial"`
	Scanned      bool            `json:"scanned"`
	Quantity     decimal.Decimal `json:"quantity"`
	OnHand       decimal.Decimal `json:"on_hand"`
	UserID       uint64          `json:"user_id"`
	At           time.Time       `json:"at"`
	StruckAt     *time.Time      `json:"struck_at"`
	StruckBy     *uint64         `json:"struck_by"`
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
	Reference string          `gorm:"primaryKey" json:"reference"`
	Amount    decimal.Decimal `json:"amount"`
	State     string          `json:"state"`
	At        time.Time       `json:"at"`
}

// SavedView is a list as a person likes to see it.
type SavedView struct {
	ID     uint64 `json:"id"`
	UserID uint64 `json:"-"`
	Name   string `json:"name"`
	Query  string `json:"query"`
}

// BulkEdit is a change of many products that can be undone; Changes is JSON.
type BulkEdit struct {
	ID       uint64     `json:"id"`
	UserID   uint64     `json:"user_id"`
	At       time.Time  `json:"at"`
	Says     string     `json:"says"`
	Changes  string     `json:"changes"`
	UndoneAt *time.Time `json:"undone_at"`
}

// LabelTemplate is a kind of label that the shop made; Body is JSON.
type LabelTemplate struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
	Body string `json:"body"`
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

// AddBasketLine writes a line of a basket, and fills in the number.
func (tx Tx) AddBasketLine(row *BasketLine) error { return insert(tx, row) }

// AddBulkEdit writes a change of many products, and fills in the number.
func (tx Tx) AddBulkEdit(row *BulkEdit) error { return insert(tx, row) }

// AddPrices writes prices, and fills in the number.
func (tx Tx) AddPrices(row *[]Price) error { return insert(tx, row) }

// AddCategory writes a category, and fills in the number.
func (tx Tx) AddCategory(row *Category) error { return insert(tx, row) }

// AddCount writes a shelf count, and fills in the number.
func (tx Tx) AddCount(row *ShelfCount) error { return insert(tx, row) }

// AddCountEvent writes an event of a count, and fills in the number.
func (tx Tx) AddCountEvent(row *CountEvent) error { return insert(tx, row) }

// AddValues writes values of a set, and fills in the number.
func (tx Tx) AddValues(row *[]Value) error { return insert(tx, row) }

// AddProducts writes products, and fills in the number.
func (tx Tx) AddProducts(row *[]Product) error { return insert(tx, row) }

// AddAxes writes axes of products, and fills in the number.
func (tx Tx) AddAxes(row *[]Axis) error { return insert(tx, row) }

// AddAttributes writes attributes of products, and fills in the number.
func (tx Tx) AddAttributes(row *[]ProductAttribute) error { return insert(tx, row) }

// AddAxisValues writes values of axes, and fills in the number.
func (tx Tx) AddAxisValues(row *[]AxisValue) error { return insert(tx, row) }

// AddBarcodes writes barcodes, and fills in the number.
func (tx Tx) AddBarcodes(row *[]Barcode) error { return insert(tx, row) }

// AddAxisValue writes a value of an axis, and fills in the number.
func (tx Tx) AddAxisValue(row *AxisValue) error { return insert(tx, row) }

// AddUser writes a person, and fills in the number.
func (tx Tx) AddUser(row *User) error { return insert(tx, row) }

// AddToken writes a token of a person, and fills in the number.
func (tx Tx) AddToken(row *APIToken) error { return insert(tx, row) }

// AddSale writes a sale, and fills in the number.
func (tx Tx) AddSale(row *Sale) error { return insert(tx, row) }

// AddSaleLines writes the lines of a sale, and fills in the number.
func (tx Tx) AddSaleLines(row *[]SaleLine) error { return insert(tx, row) }

// AddSaleParts writes what a bundle that was sold took from stock, and fills in the number.
func (tx Tx) AddSaleParts(row *[]SalePart) error { return insert(tx, row) }

// AddBarcodeRange writes a range of own numbers, and fills in the number.
func (tx Tx) AddBarcodeRange(row *BarcodeRange) error { return insert(tx, row) }

// AddTaxClass writes a tax class, and fills in the number.
func (tx Tx) AddTaxClass(row *TaxClass) error { return insert(tx, row) }

// AddTaxRate writes a tax rate, and fills in the number.
func (tx Tx) AddTaxRate(row *TaxRate) error { return insert(tx, row) }

// AddBranch writes a branch, and fills in the number.
func (tx Tx) AddBranch(row *Branch) error { return insert(tx, row) }

// AddShelf writes a shelf, and fills in the number.
func (tx Tx) AddShelf(row *Shelf) error { return insert(tx, row) }

// AddRegister writes a register, and fills in the number.
func (tx Tx) AddRegister(row *Register) error { return insert(tx, row) }

// AddReturn writes what came back of a sale, and fills in the number.
func (tx Tx) AddReturn(row *SaleReturn) error { return insert(tx, row) }

// AddReturnLines writes the lines of a return, and fills in the number.
func (tx Tx) AddReturnLines(row *[]ReturnLine) error { return insert(tx, row) }
