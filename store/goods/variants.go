package goods

import (
	"slices"
	"strings"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// UpdateVariant changes some columns of a variant.
func UpdateVariant(tx db.Tx, id uint64, columns map[string]any) error {
	return db.SQL(tx.Q).Table("variant").Where("id = ?", id).Updates(columns).Error
}

// DropVariants drops variants that nothing refers to but the catalog itself;
// book.Forget dropped their pools before.
func DropVariants(tx db.Tx, ids []uint64) error {
	if len(ids) == 0 {
		return nil
	}
	for _, table := range []string{"barcode", "price", "basket_line", "delivery_line", "count_event", "count_row"} {
		where := " WHERE variant_id IN ?"
		if strings.HasPrefix(table, "count") || table == "delivery_line" || table == "basket_line" {
			var n int
			if err := db.SQL(tx.Q).Raw("SELECT EXISTS (SELECT 1 FROM "+table+where+")",
				ids).Scan(&n).Error; err != nil {
				return err
			}
			if n == 1 {
				return fault.Refuse("variant", "", "a variant that no basket, count or delivery names",
					"A basket, a count or a delivery names it; it can be retired, and not dropped.")
			}
			continue
		}
		if err := db.SQL(tx.Q).Exec("DELETE FROM "+table+where, ids).Error; err != nil {
			return err
		}
	}
	if err := db.SQL(tx.Q).Exec("DELETE FROM bundle_part WHERE bundle_id IN ?", ids).Error; err != nil {
		return err
	}
	err := db.SQL(tx.Q).Exec("DELETE FROM variant WHERE id IN ?", ids).Error
	if db.Referenced(err) {
		return fault.Refuse("variant", "", "a variant that nothing refers to",
			"It has stock, sales or a bundle; it can be retired, and not dropped.")
	}
	return err
}

// DropAxisValue drops a value from an axis of a product.
func DropAxisValue(tx db.Tx, id uint64) error {
	return db.SQL(tx.Q).Exec("DELETE FROM axis_value WHERE id = ?", id).Error
}

// RetireAxisValue says whether a value of an axis is still bought, and the same
// of the variants that have it.
func RetireAxisValue(tx db.Tx, id uint64, retired bool) error {
	if err := db.SQL(tx.Q).Exec("UPDATE axis_value SET retired = ? WHERE id = ?", retired, id).Error; err != nil {
		return err
	}
	return db.SQL(tx.Q).
		Exec("UPDATE variant SET retired = ? WHERE value1_id = ? OR value2_id = ? OR value3_id = ?", retired, id, id,
			id).
		Error
}

// NewVariants writes variants; book.Restand gives them their empty pools.
func NewVariants(tx db.Tx, list []Variant) error {
	if len(list) == 0 {
		return nil
	}
	err := db.Insert(tx, &list)
	if db.Duplicate(err) {
		return fault.Clash("sku", "", "SKUs that are free", "One of the SKUs was taken meanwhile. Try again.")
	}
	if err != nil {
		return err
	}
	return claimSKUs(tx, list)
}

// VariantNames reads what some variants are called.
func VariantNames(q db.Q, ids []uint64) (map[uint64][2]string, error) {
	names := map[uint64][2]string{}
	if len(ids) == 0 {
		return names, nil
	}
	var rows []struct {
		ID          uint64
		Name, Label string
	}
	err := db.SQL(q).
		Raw("SELECT v.id, p.name, v.label FROM variant v JOIN product p ON p.id = v.product_id WHERE v.id IN ?",
			slices.Compact(slices.Sorted(slices.Values(ids)))).
		Scan(&rows).
		Error
	for _, r := range rows {
		names[r.ID] = [2]string{r.Name, r.Label}
	}
	return names, err
}

// AxisName is the name of an axis of products, and whether its values have swatches.
type AxisName struct {
	Name     string
	Swatches bool
}

// AxisNames lists what the axes of products are called, each name once.
func AxisNames(q db.Q) ([]AxisName, error) {
	var names []AxisName
	err := db.SQL(q).Raw("SELECT a.name, MAX(v.swatch <> '') AS swatches FROM axis a JOIN axis_value x ON x.axis_id = " +
		"a.id JOIN set_value v ON v.id = x.value_id GROUP BY a.name ORDER BY a.name").Scan(&names).Error
	return slices.CompactFunc(names, func(a, b AxisName) bool { return text.Same(a.Name, b.Name) }), err
}

// AddValues writes values of a set, and fills in the number.
func AddValues(tx db.Tx, row *[]Value) error { return db.Insert(tx, row) }

// AddAxes writes axes of products, and fills in the number.
func AddAxes(tx db.Tx, row *[]Axis) error { return db.Insert(tx, row) }

// AddAxisValues writes values of axes, and fills in the number.
func AddAxisValues(tx db.Tx, row *[]AxisValue) error { return db.Insert(tx, row) }

// AddAxisValue writes a value of an axis, and fills in the number.
func AddAxisValue(tx db.Tx, row *AxisValue) error { return db.Insert(tx, row) }
