package goods

import (
	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// KeepPicture keeps a picture and returns its number; the same one is kept once.
func KeepPicture(tx db.Tx, p Picture) (uint64, error) {
	var id uint64
	find := func() error { return db.SQL(tx.Q).Raw("SELECT id FROM picture WHERE sum = ?", p.Sum).Scan(&id).Error }
	if err := find(); err != nil || id != 0 {
		return id, err
	}
	err := db.SQL(tx.Q).Create(&p).Error
	if db.Duplicate(err) {
		return id, find()
	}
	return p.ID, err
}

// ReadPicture reads a picture, whole or its thumbnail alone.
func ReadPicture(q db.Q, id uint64, small bool) (Picture, error) {
	columns := "id, sum, type, width, height, data"
	if small {
		columns = "id, sum, small_type, small_width, small_height, small"
	}
	var p Picture
	if err := db.SQL(q).Raw("SELECT "+columns+" FROM picture WHERE id = ?", id).Scan(&p).Error; err != nil {
		return p, err
	}
	if p.ID == 0 {
		return p, fault.Missing("picture", id, "There is no picture %d.", id)
	}
	return p, nil
}

// Thumbnails reads the thumbnails of some pictures.
func Thumbnails(q db.Q, ids []uint64) (map[uint64]Picture, error) {
	found := map[uint64]Picture{}
	if len(ids) == 0 {
		return found, nil
	}
	var rows []Picture
	err := db.SQL(q).
		Raw("SELECT id, sum, small_type, small_width, small_height, small FROM picture WHERE id IN ?", ids).
		Scan(&rows).
		Error
	for _, p := range rows {
		found[p.ID] = p
	}
	return found, err
}

// PictureNames gives the file names under which some pictures are exported.
func PictureNames(q db.Q, ids []uint64) (map[uint64]string, error) {
	names := map[uint64]string{}
	if len(ids) == 0 {
		return names, nil
	}
	var rows []Picture
	err := db.SQL(q).Raw("SELECT id, sum, type FROM picture WHERE id IN ?", ids).Scan(&rows).Error
	for _, p := range rows {
		names[p.ID] = p.Sum[:12] + "." + p.Type
	}
	return names, err
}

// PicturesOf lists the pictures of a product, the one that stands for it first.
func PicturesOf(q db.Q, product uint64) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).
		Raw("SELECT picture_id FROM product_picture WHERE product_id = ? ORDER BY position, picture_id", product).
		Scan(&ids).
		Error
}

// AddPictures puts pictures after those that a product has.
func AddPictures(tx db.Tx, product uint64, ids []uint64) error {
	have, err := PicturesOf(tx.Q, product)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := db.SQL(tx.Q).Exec("INSERT IGNORE INTO product_picture (product_id, picture_id, position) VALUES "+
			"(?, ?, ?)", product, id, len(have)).Error; err != nil {
			return err
		}
		have = append(have, id)
	}
	return firstPicture(tx, product)
}

// DropPicture takes a picture off a product.
func DropPicture(tx db.Tx, product, picture uint64) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM product_picture WHERE product_id = ? AND picture_id = ?", product,
		picture).Error; err != nil {
		return err
	}
	return firstPicture(tx, product)
}

// LeadPicture lets a picture stand for its product.
func LeadPicture(tx db.Tx, product, picture uint64) error {
	if err := db.SQL(tx.Q).Exec("UPDATE product_picture SET position = IF(picture_id = ?, 0, position + 1) WHERE "+
		"product_id = ?", picture, product).Error; err != nil {
		return err
	}
	return firstPicture(tx, product)
}

func firstPicture(tx db.Tx, product uint64) error {
	return db.SQL(tx.Q).
		Exec("UPDATE product SET picture_id = (SELECT x.picture_id FROM product_picture x WHERE x.product_id = "+
			"product.id ORDER BY x.position, x.picture_id LIMIT 1) WHERE id = ?", product).
		Error
}
