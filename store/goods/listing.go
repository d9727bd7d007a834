package goods

import (
	"strings"

	"github.com/shopspring/decimal"
	"gorm.io/gorm"

	"itemrack/core/fault"
	"itemrack/core/search"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// ListFilter narrows a list of products or variants. Category takes in those
// below it; a variant's conditions hold for a product when any of its variants
// meets them all. Nil bounds are open.
type ListFilter struct {
	Words        string           `json:"words"`
	Category     uint64           `json:"category"`
	Supplier     uint64           `json:"supplier"`
	Brand        string           `json:"brand"`
	Value        string           `json:"value"`     // of any axis, by its name
	Attribute    string           `json:"attribute"` // name, or name=value
	Tracking     string           `json:"tracking"`
	PriceFrom    *decimal.Decimal `json:"price_from"`
	PriceTo      *decimal.Decimal `json:"price_to"`
	MarginFrom   *decimal.Decimal `json:"margin_from"`
	MarginTo     *decimal.Decimal `json:"margin_to"`
	StockFrom    *decimal.Decimal `json:"stock_from"`
	StockTo      *decimal.Decimal `json:"stock_to"`
	Discontinued string           `json:"discontinued"` // "yes", "no" or either
	NoBarcode    bool             `json:"no_barcode"`
	NoPicture    bool             `json:"no_picture"`
	NoPrice      bool             `json:"no_price"`
	UnderCost    bool             `json:"under_cost"`
	Low          bool             `json:"low"`
	Branch       uint64           `json:"branch"`    // of which something lies, or lay, there
	Condition    string           `json:"condition"` // of which something is, or was, in it
	Stocked      bool             `json:"-"`         // of goods that have stock; a bundle while some are made up
	IDs          []uint64         `json:"ids"`       // only these products
	Sort         string           `json:"sort"`      // a column's name, with - in front for falling
}

// sorts are the orders a list can have, each for products and for variants. The door
// keeps the figures among them, each with an index.
var sorts = map[string][2]string{
	"name":     {"p.name", "p.name"},
	"created":  {"p.created_at", "p.created_at"},
	"category": {"c.path", "c.path"},
	"supplier": {"s.name", "s.name"},
	"brand":    {"p.brand", "p.brand"},
	"sku":      {"p.style", "v.sku"},
	"price":    {"f.price_min", "v.list_price"},
	"on_hand":  {"f.on_hand", "k.quantity"},
	"for_sale": {"f.for_sale", "k.for_sale"},
	"value":    {"f.value", "k.value"},
	"margin":   {"f.margin_min", "k.margin"},
}

// byProduct are the orders that have a product's variants beside one another.
var byProduct = map[string]bool{
	"":         true,
	"name":     true,
	"created":  true,
	"category": true,
	"supplier": true,
	"brand":    true,
}

// pooled are the orders by a figure that the door keeps.
var pooled = map[string]bool{"on_hand": true, "for_sale": true, "value": true, "margin": true}

// CheckSort returns an error for an order that a list can't have.
func CheckSort(sort string) error {
	if _, ok := sorts[strings.TrimPrefix(sort, "-")]; !ok && sort != "" {
		return fault.Field("sort", sort,
			"name, created, category, supplier, brand, sku, price, margin, on_hand, for_sale or value",
			"A list can't be sorted by %q.", sort)
	}
	return nil
}

// Words narrows products by words, each by its beginning.
func Words(list *gorm.DB, text string) *gorm.DB {
	if query := search.Query(text); query != "" {
		return list.Where("MATCH (p.words) AGAINST (? IN BOOLEAN MODE)", query)
	}
	if strings.TrimSpace(text) != "" {
		return list.Where("1 = 0")
	}
	return list
}

// productsWhere puts what a filter asks of a product.
func productsWhere(q db.Q, list *gorm.DB, f ListFilter) (*gorm.DB, error) {
	list = Words(list, f.Words)
	if f.Category != 0 {
		var path string
		if err := db.SQL(q).Raw("SELECT path_key FROM category WHERE id = ?",
			f.Category).Scan(&path).Error; err != nil {
			return nil, err
		}
		list = list.Where("p.category_id IN (SELECT id FROM category WHERE path_key = ? OR path_key LIKE ?)", path,
			db.Like(path)+" > %")
	}
	if f.Supplier != 0 {
		list = list.Where("EXISTS (SELECT 1 FROM product_supplier x WHERE x.product_id = p.id AND x.supplier_id = ?)",
			f.Supplier)
	}
	if f.Brand != "" {
		list = list.Where("p.brand = ?", f.Brand)
	}
	if f.Tracking != "" {
		list = list.Where("p.tracking = ?", f.Tracking)
	}
	if name, value, exact := strings.Cut(f.Attribute, "="); f.Attribute != "" {
		clause := "EXISTS (SELECT 1 FROM product_attribute t WHERE t.product_id = p.id AND t.name_key = ?"
		args := []any{text.Key(name)}
		if exact {
			clause += " AND t.value = ?"
			args = append(args, strings.TrimSpace(value))
		}
		list = list.Where(clause+")", args...)
	}
	switch f.Discontinued {
	case "yes":
		list = list.Where("p.discontinued")
	case "no":
		list = list.Where("NOT p.discontinued")
	}
	if f.Stocked {
		list = list.Where("(p.tracking <> 'not stocked' OR p.bundle AND EXISTS (SELECT 1 FROM variant x JOIN " +
			"cost_pool y ON " +
			"y.variant_id = x.id WHERE x.product_id = p.id AND y.quantity > 0))")
	}
	if f.NoPicture {
		list = list.Where("p.picture_id IS NULL")
	}
	if len(f.IDs) > 0 {
		list = list.Where("p.id IN ?", f.IDs)
	}
	return list, nil
}

// variantsWhere is what a filter asks of a variant, as SQL; empty for nothing.
func variantsWhere(f ListFilter) (string, []any) {
	var clauses []string
	var args []any
	add := func(clause string, more ...any) { clauses, args = append(clauses, clause), append(args, more...) }
	bound := func(what string, from, to *decimal.Decimal) {
		if from != nil {
			add(what+" >= ?", *from)
		}
		if to != nil {
			add(what+" <= ?", *to)
		}
	}
	bound("v.list_price", f.PriceFrom, f.PriceTo)
	bound("k.margin", f.MarginFrom, f.MarginTo)
	bound("k.for_sale", f.StockFrom, f.StockTo)
	if f.Value != "" {
		add(
			"EXISTS (SELECT 1 FROM axis_value y JOIN set_value w ON w.id = y.value_id WHERE y.id IN (v.value1_id, "+
				"v.value2_id, v.value3_id) AND w.name_key = ?)",
			text.Key(f.Value))
	}
	if f.Branch != 0 || f.Condition != "" {
		clause, of := "EXISTS (SELECT 1 FROM balance x JOIN shelf y ON y.id = x.shelf_id WHERE x.variant_id = v.id", []any{}
		if f.Branch != 0 {
			clause, of = clause+" AND y.branch_id = ?", append(of, f.Branch)
		}
		if f.Condition != "" {
			clause, of = clause+" AND x.condition = ?", append(of, f.Condition)
		}
		add(clause+")", of...)
	}
	if f.NoBarcode {
		add("NOT EXISTS (SELECT 1 FROM barcode b WHERE b.variant_id = v.id)")
	}
	if f.NoPrice {
		add("v.list_price IS NULL")
	}
	if f.UnderCost {
		add("k.under")
	}
	if f.Low {
		add("k.low")
	}
	return strings.Join(clauses, " AND "), args
}

// order is the ORDER BY of a list; of is 0 for products and 1 for variants.
func order(sort string, of int) string {
	name, falls := strings.TrimPrefix(sort, "-"), ""
	if strings.HasPrefix(sort, "-") {
		falls = " DESC"
	}
	if name == "" {
		name = "name"
	}
	by := sorts[name][of] + falls
	switch {
	case of == 0 && name == "price" && falls != "":
		return "f.price_max DESC, f.product_id DESC"
	case of == 0 && (pooled[name] || name == "price"): // as its index has it
		return by + ", f.product_id" + falls
	case of == 1 && pooled[name]:
		return by + ", k.variant_id" + falls
	case of == 1 && !byProduct[name]:
		return by + ", v.id" + falls
	}
	if name != "name" {
		by += ", p.name"
	}
	by += ", p.id"
	if of == 1 {
		by += ", v.id"
	}
	return by
}

// ProductIDs finds the products of a list in its order, from an offset on.
func ProductIDs(q db.Q, f ListFilter, offset, most int) ([]uint64, error) {
	if err := CheckSort(f.Sort); err != nil {
		return nil, err
	}
	list := db.SQL(q).Table("product p")
	switch name := strings.TrimPrefix(f.Sort, "-"); {
	case name == "category":
		list = list.Joins("JOIN category c ON c.id = p.category_id")
	case name == "supplier":
		list = list.Joins("LEFT JOIN supplier s ON s.id = p.supplier_id")
	case (pooled[name] || name == "price") && f.Words != "":
		list = list.Joins("JOIN product_figure f ON f.product_id = p.id") // the words find fewer
	case pooled[name] || name == "price":
		list = db.SQL(q).Table("product_figure f").Joins("STRAIGHT_JOIN product p ON p.id = f.product_id")
	}
	list, err := productsWhere(q, list.Select("p.id"), f)
	if err != nil {
		return nil, err
	}
	if clause, args := variantsWhere(f); clause != "" {
		list = list.Where(
			"EXISTS (SELECT 1 FROM variant v JOIN cost_pool k ON k.variant_id = v.id WHERE v.product_id = p.id AND "+clause+")",
			args...)
	}
	var ids []uint64
	return ids, list.Order(order(f.Sort, 0)).Offset(offset).Limit(most).Scan(&ids).Error
}

// VariantIDs finds the variants of a list in its order, from an offset on.
func VariantIDs(q db.Q, f ListFilter, offset, most int) ([]uint64, error) {
	if err := CheckSort(f.Sort); err != nil {
		return nil, err
	}
	const pool = "JOIN cost_pool k ON k.variant_id = v.id"
	const around = "JOIN category c ON c.id = p.category_id LEFT JOIN supplier s ON s.id = p.supplier_id"
	clause, args := variantsWhere(f)
	for _, w := range search.Words(f.Words) { // of the products found, the variants that are meant
		if clause != "" {
			clause += " AND "
		}
		clause += "(CONCAT_WS(' ', v.label, v.sku, p.name, p.short_name, p.brand, c.path, s.name) COLLATE " +
			"utf8mb4_unicode_ci REGEXP ? OR " +
			"EXISTS (SELECT 1 FROM barcode b WHERE b.variant_id = v.id AND b.code LIKE ?) " +
			"OR EXISTS (SELECT 1 FROM product_attribute t WHERE t.product_id = p.id AND t.value REGEXP ?) OR EXISTS " +
			"(SELECT 1 FROM product_supplier x WHERE x.product_id = p.id AND x.part_number REGEXP ?))"
		args = append(args, `\b`+w, w+"%", `\b`+w, `\b`+w)
	}
	list := db.SQL(q).Table("product p").Joins("JOIN variant v ON v.product_id = p.id " + pool + " " + around)
	if name := strings.TrimPrefix(f.Sort, "-"); f.Words == "" &&
		(name == "price" || name == "sku") { // walks their index
		list = db.SQL(q).
			Table("variant v").
			Joins("STRAIGHT_JOIN product p ON p.id = v.product_id " + pool + " " + around)
	} else if f.Words == "" && pooled[name] {
		list = db.SQL(q).Table("cost_pool k").Joins("STRAIGHT_JOIN variant v ON v.id = k.variant_id STRAIGHT_JOIN " +
			"product p ON p.id = v.product_id " + around)
	}
	if name := strings.TrimPrefix(f.Sort, "-"); clause == "" && f.Words == "" && (name == "" || name == "name") {
		// passed over in the indexes
		list = db.SQL(q).
			Table("product p FORCE INDEX (name) STRAIGHT_JOIN variant v FORCE INDEX (in_order) ON v.product_id = p.id")
		list, err := productsWhere(q, list.Select("v.id"), f)
		if err != nil {
			return nil, err
		}
		by := "p.name"
		if f.Sort == "-name" {
			by += " DESC"
		}
		var ids []uint64
		return ids, list.Order(by).Offset(offset).Limit(most).Scan(&ids).Error
	}
	if byProduct[strings.TrimPrefix(f.Sort, "-")] {
		// each product that is found has a variant that is: so many of them hold the page
		products, err := productsWhere(q, db.SQL(q).Table("product p").Joins(around).Select("p.id"), f)
		if err != nil {
			return nil, err
		}
		if clause != "" {
			products = products.Where(
				"EXISTS (SELECT 1 FROM variant v "+pool+" WHERE v.product_id = p.id AND "+clause+")",
				args...)
		}
		list = list.Select("v.id").
			Joins("JOIN (?) z ON z.id = p.id", products.Order(order(f.Sort, 0)).Limit(offset+most))
	} else {
		var err error
		if list, err = productsWhere(q, list.Select("v.id"), f); err != nil {
			return nil, err
		}
	}
	if clause != "" {
		list = list.Where(clause, args...)
	}
	var ids []uint64
	return ids, list.Order(order(f.Sort, 1)).Offset(offset).Limit(most).Scan(&ids).Error
}
