package goods

import (
	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// ValueSets lists the value sets with their values.
func ValueSets(q db.Q) ([]ValueSet, map[uint64][]Value, error) {
	var sets []ValueSet
	if err := db.SQL(q).Raw("SELECT * FROM value_set ORDER BY name").Scan(&sets).Error; err != nil {
		return nil, nil, err
	}
	var values []Value
	err := db.SQL(q).Raw("SELECT * FROM set_value ORDER BY value_set_id, position, id").Scan(&values).Error
	bySet := map[uint64][]Value{}
	for _, v := range values {
		bySet[v.ValueSetID] = append(bySet[v.ValueSetID], v)
	}
	return sets, bySet, err
}

// KeepValueSet makes sure that a value set of this name exists, locks it and returns
// its values.
func KeepValueSet(tx db.Tx, name string) (ValueSet, []Value, error) {
	var set ValueSet
	find := func() error {
		return db.SQL(tx.Q).Raw("SELECT * FROM value_set WHERE name_key = ? FOR UPDATE",
			text.Key(name)).Scan(&set).Error
	}
	if err := find(); err != nil {
		return set, nil, err
	}
	if set.ID == 0 {
		set.Name = name
		err := db.SQL(tx.Q).Create(&set).Error
		if db.Duplicate(err) {
			set = ValueSet{}
			err = find()
		}
		return set, nil, err
	}
	var values []Value
	return set, values, db.SQL(tx.Q).
		Raw("SELECT * FROM set_value WHERE value_set_id = ? ORDER BY position, id", set.ID).
		Scan(&values).
		Error
}

// LockValue reads a value of a set, locked until the transaction ends.
func LockValue(tx db.Tx, id uint64) (Value, error) {
	var v Value
	err := db.SQL(tx.Q).Raw("SELECT * FROM set_value WHERE id = ? FOR UPDATE", id).Scan(&v).Error
	if err == nil && v.ID == 0 {
		err = fault.Missing("id", id, "There is no value %d.", id)
	}
	return v, err
}

// RenameValue renames a value of a set, gives it a swatch and a place, and
// rewrites the labels of the variants that have it. It returns the products they
// are of.
func RenameValue(tx db.Tx, v Value) ([]uint64, error) {
	err := db.SQL(tx.Q).
		Exec("UPDATE set_value SET name = ?, name_key = ?, swatch = ?, position = ? WHERE id = ?", v.Name,
			text.Key(v.Name), v.Swatch, v.Position, v.ID).
		Error
	if db.Duplicate(err) {
		return nil, fault.Clash("name", v.Name, "a name of its own", "The set has a value %q already.", v.Name)
	}
	if err != nil {
		return nil, err
	}
	var products []uint64
	if err := db.SQL(tx.Q).Raw("SELECT DISTINCT a.product_id FROM axis_value x JOIN axis a ON a.id = x.axis_id "+
		"WHERE x.value_id = ?", v.ID).Scan(&products).Error; err != nil ||
		len(products) == 0 {
		return products, err
	}
	err = db.SQL(tx.Q).
		Exec(`UPDATE variant v LEFT JOIN axis_value x1 ON x1.id = v.value1_id LEFT JOIN set_value n1 ON n1.id =
			x1.value_id
		LEFT JOIN axis_value x2 ON x2.id = v.value2_id LEFT JOIN set_value n2 ON n2.id = x2.value_id LEFT JOIN
		axis_value x3 ON x3.id = v.value3_id LEFT JOIN set_value n3 ON n3.id = x3.value_id
		SET v.label = CONCAT_WS(' · ', n1.name, n2.name, n3.name) WHERE v.product_id IN ?`, products).
		Error
	return products, err
}

// SetSwatch says how a value of an axis looks, wherever its set is used.
func SetSwatch(tx db.Tx, axisValue uint64, swatch string) error {
	return db.SQL(tx.Q).Exec("UPDATE set_value v JOIN axis_value x ON x.value_id = v.id SET v.swatch = ? WHERE x.id = ?",
		swatch, axisValue).Error
}

// DropValue drops a value that no product uses.
func DropValue(tx db.Tx, id uint64) error {
	err := db.SQL(tx.Q).Exec("DELETE FROM set_value WHERE id = ?", id).Error
	if db.Referenced(err) {
		return fault.Refuse("value", id, "a value that no product has",
			"Products have this value; it can be retired on them, and not dropped.")
	}
	return err
}
