package goods

import (
	"strings"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Categories lists the category tree by path.
func Categories(q db.Q) ([]Category, error) {
	var rows []Category
	return rows, db.SQL(q).Raw("SELECT * FROM category ORDER BY path").Scan(&rows).Error
}

// KeepCategory makes sure that a category path exists and returns its last one.
func KeepCategory(tx db.Tx, path []string) (Category, error) {
	var parent *uint64
	var row Category
	for i := range path {
		full := strings.Join(path[:i+1], catalog.PathMark)
		if text.Len(full) > catalog.LongestPath {
			return row, fault.Field("category", text.Cut(full, 80), "fewer or shorter categories above",
				"The path of the category is longer than %d characters.", catalog.LongestPath)
		}
		row = Category{}
		if err := db.SQL(tx.Q).Raw("SELECT * FROM category WHERE path_key = ?",
			text.Key(full)).Scan(&row).Error; err != nil {
			return row, err
		}
		if row.ID == 0 {
			row = Category{ParentID: parent, Name: path[i], Path: full}
			if err := db.SQL(tx.Q).Create(&row).Error; err != nil {
				return row, err
			}
		}
		id := row.ID
		parent = &id
	}
	return row, nil
}

// LockCategories keeps others from changing the tree until the transaction ends,
// and returns it.
func LockCategories(tx db.Tx) ([]Category, error) {
	var rows []Category
	return rows, db.SQL(tx.Q).Raw("SELECT * FROM category ORDER BY path FOR UPDATE").Scan(&rows).Error
}

// SaveCategory changes the columns of a category.
func SaveCategory(tx db.Tx, id uint64, columns map[string]any) error {
	if path, moved := columns["path"].(string); moved {
		columns["path_key"] = text.Key(path)
	}
	err := db.SQL(tx.Q).Table("category").Where("id = ?", id).Updates(columns).Error
	if db.Duplicate(err) {
		return fault.Clash("name", columns["path"], "a name of its own",
			"There is a category %v already; merge the two instead.", columns["path"])
	}
	return err
}

// MergeCategory gives all that one category has to another and drops it.
func MergeCategory(tx db.Tx, from, into uint64) error {
	for _, statement := range []string{"UPDATE product SET category_id = ? WHERE category_id = ?",
		"UPDATE shelf_count SET category_id = ? WHERE category_id = ?"} {
		if err := db.SQL(tx.Q).Exec(statement, into, from).Error; err != nil {
			return err
		}
	}
	return DropCategory(tx, from)
}

// DropCategory drops a category; one that is in use is refused.
func DropCategory(tx db.Tx, id uint64) error {
	err := db.SQL(tx.Q).Exec("DELETE FROM category WHERE id = ?", id).Error
	if db.Referenced(err) {
		return fault.Refuse("category", id, "a category without products",
			"The category has products, categories below it or counts. Merge it into another instead.")
	}
	return err
}

// CategoryProducts counts the products right in each category.
func CategoryProducts(q db.Q) (map[uint64]int, error) {
	var rows []struct {
		CategoryID uint64
		N          int
	}
	err := db.SQL(q).Raw("SELECT category_id, COUNT(*) AS n FROM product GROUP BY category_id").Scan(&rows).Error
	counts := make(map[uint64]int, len(rows))
	for _, r := range rows {
		counts[r.CategoryID] = r.N
	}
	return counts, err
}

// Settle works out what holds for a product, and where it comes from.
func (in Inheritance) Settle(p Product) catalog.Settled {
	own := catalog.Defaults{Name: p.Name, Markup: p.Markup, Ending: price.SaidEnding(p.Ending), Restock: p.RestockLevel}
	if p.OwnTaxClass {
		own.TaxClass = p.TaxClassID
	}
	return catalog.Settle(append([]catalog.Defaults{own}, in.above(p.CategoryID, p.SupplierID)...))
}

// SettleCategory works out what holds in a category.
func (in Inheritance) SettleCategory(id uint64) catalog.Settled {
	return catalog.Settle(in.above(id, nil))
}

// CategoryTile is a category as the register offers it.
type CategoryTile struct {
	ID        uint64 `json:"id"`
	Name      string `json:"name"`
	Path      string `json:"path"`
	Colour    string `json:"colour"`
	PictureID uint64 `json:"picture_id"`
	Products  int    `json:"products"`
}

// CategoryTiles lists the categories that hold products.
func CategoryTiles(q db.Q) ([]CategoryTile, error) {
	var rows []CategoryTile
	return rows, db.SQL(q).
		Raw(`SELECT c.id, c.name, c.path, c.colour, COALESCE(c.picture_id, 0) AS picture_id, COUNT(p.id) AS
			products FROM category c JOIN product p ON p.category_id = c.id
		GROUP BY c.id ORDER BY c.path`).
		Scan(&rows).
		Error
}

// AddCategory writes a category, and fills in the number.
func AddCategory(tx db.Tx, row *Category) error { return db.Insert(tx, row) }
