package goods

import (
	"time"

	"github.com/shopspring/decimal"
	"gorm.io/gorm"

	"itemrack/core/buying"
	"itemrack/core/revision"
	"itemrack/core/text"
)

// Category is a branch of the category tree; Path is its names from the root,
// joined by " > ". The other figures are what its products take over; those
// that it does not say come from the category above. Ending is in the form of
// price.ParseEnding.
type Category struct {
	ID           uint64           `json:"id"`
	ParentID     *uint64          `json:"parent_id"`
	Name         string           `json:"name"`
	Path         string           `json:"path"`
	PathKey      string           `json:"-"`
	Colour       string           `json:"colour"`
	TaxClassID   *uint64          `json:"tax_class_id"`
	Markup       *decimal.Decimal `json:"markup" see:"costs"`
	Ending       *string          `json:"ending"`
	RestockLevel *decimal.Decimal `json:"restock_level"`
	ExpiryDays   *int             `json:"expiry_days"` // before its expiry from when a lot is told
	PictureID    *uint64          `json:"picture_id"`
}

// BeforeSave keeps the key with the path.
func (r *Category) BeforeSave(*gorm.DB) error {
	r.PathKey = text.Key(r.Path)
	return nil
}

// Supplier is who the shop buys from, and what was agreed with them; Markup and Ending
// are what its products take over where their category says nothing. One that is closed is
// not offered any more.
type Supplier struct {
	ID            uint64           `json:"id"`
	Name          string           `json:"name"`
	NameKey       string           `json:"-"`
	Markup        *decimal.Decimal `json:"markup" see:"costs"`
	Ending        *string          `json:"ending"`
	AccountNumber string           `json:"account_number"` // ours, with them
	CurrencyNote  string           `json:"currency_note"`
	Note          string           `json:"note"`
	buying.SupplierTerms
	ClosedAt *time.Time `json:"closed_at"`
	Revision uint64     `json:"revision"`
}

// SupplierContact is a person to ask at a supplier.
type SupplierContact struct {
	ID         uint64 `json:"-"`
	SupplierID uint64 `json:"-"`
	Name       string `json:"name"`
	Mail       string `json:"mail"`
	Phone      string `json:"phone"`
	Note       string `json:"note"` // "orders", "in the evening"
}

// BeforeSave keeps the key with the name.
func (r *Supplier) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// Product is what is offered, with its variants. TaxClassID is the one that
// holds, its category's unless OwnTaxClass; the figures that are nil are taken
// over. Words are what it is found by.
type Product struct {
	ID            uint64           `json:"id"`
	Name          string           `json:"name"`
	NameKey       string           `json:"-"`
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
	Cost          *decimal.Decimal `json:"cost" see:"costs"`
	Markup        *decimal.Decimal `json:"markup" see:"costs"`
	Ending        *string          `json:"ending"`
	RestockLevel  *decimal.Decimal `json:"restock_level"`
	// RestockPercent is set where the level follows deliveries: so many percent of what is on
	// hand after one.
	RestockPercent *decimal.Decimal `json:"restock_percent"`
	Weight         *decimal.Decimal `json:"weight"`      // of one unit, in kg
	ExpiryDays     *int             `json:"expiry_days"` // before its expiry from when a lot is told
	Content        *decimal.Decimal `json:"content"`
	Measure        string           `json:"measure"`
	Bundle         bool             `json:"bundle"`
	PictureID      *uint64          `json:"picture_id"`
	Words          string           `json:"-"`
	Revision       uint64           `gorm:"default:1" json:"revision"`
}

// BeforeSave keeps the key with the name.
func (r *Product) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// ValueSet is values that products share: the colours, the clothing sizes.
type ValueSet struct {
	ID      uint64 `json:"id"`
	Name    string `json:"name"`
	NameKey string `json:"-"`
}

// BeforeSave keeps the key with the name.
func (r *ValueSet) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// Value is one value of a set; Swatch is in the form of catalog.ParseSwatch.
type Value struct {
	ID         uint64 `json:"id"`
	ValueSetID uint64 `json:"value_set_id"`
	Position   int    `json:"position"`
	Name       string `json:"name"`
	NameKey    string `json:"-"`
	Swatch     string `json:"swatch"`
}

// BeforeSave keeps the key with the name.
func (r *Value) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
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
	Cost            *decimal.Decimal `json:"cost" see:"costs"`
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
	NameKey   string          `json:"-"`
	Factor    decimal.Decimal `json:"factor"`
	Bought    bool            `json:"bought"`
	Revision  string          `gorm:"-" json:"revision"`
}

// Revised is the pack with its revision.
func (r Pack) Revised() Pack {
	r.Revision, r.NameKey = "", ""
	r.Revision = revision.Of(r)
	return r
}

// BeforeSave keeps the key with the name.
func (r *Pack) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
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
	Name      string `json:"name"`
	NameKey   string `gorm:"primaryKey" json:"-"`
	Value     string `json:"value"`
}

// BeforeSave keeps the key with the name.
func (r *ProductAttribute) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
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
