package goods

import "itemrack/store/internal/db"

// Look is how goods are told apart: by eye, and by scanner.
type Look struct {
	PictureID uint64
	Swatch    string
	Codes     []string // barcodes, of packs too
}

// Looks reads how some variants look, in one round trip.
func Looks(q db.Q, variants []uint64) (map[uint64]Look, error) {
	looks := map[uint64]Look{}
	if len(variants) == 0 {
		return looks, nil
	}
	in := db.IDs(variants)
	return looks, db.Read(q, db.Part{
		SQL: `SELECT v.id, COALESCE(v.picture_id, p.picture_id, 0), COALESCE(NULLIF(a.swatch, ''), NULLIF(b.swatch,
			''), NULLIF(c.swatch, ''), '')
			FROM variant v JOIN product p ON p.id = v.product_id
			LEFT JOIN axis_value x ON x.id = v.value1_id LEFT JOIN set_value a ON a.id = x.value_id
			LEFT JOIN axis_value y ON y.id = v.value2_id LEFT JOIN set_value b ON b.id = y.value_id
			LEFT JOIN axis_value z ON z.id = v.value3_id LEFT JOIN set_value c ON c.id = z.value_id WHERE v.id IN
			(` + in + ")",
		Row: func(scan func(into ...any) error) error {
			var id uint64
			l := Look{Codes: []string{}}
			err := scan(&id, &l.PictureID, &l.Swatch)
			looks[id] = l
			return err
		},
	}, db.Part{
		SQL: "SELECT variant_id, code FROM barcode WHERE variant_id IN (" + in + ") ORDER BY id",
		Row: func(scan func(into ...any) error) error {
			var id uint64
			var code string
			err := scan(&id, &code)
			l := looks[id]
			l.Codes = append(l.Codes, code)
			looks[id] = l
			return err
		},
	})
}
