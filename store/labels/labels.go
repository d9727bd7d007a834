package labels

import (
	"github.com/shopspring/decimal"
	"gorm.io/gorm"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// LabelTemplates lists the kinds of label that the shop made.
func LabelTemplates(q db.Q) ([]LabelTemplate, error) {
	var rows []LabelTemplate
	return rows, db.SQL(q).Raw("SELECT * FROM label_template ORDER BY name").Scan(&rows).Error
}

// LockLabelTemplate reads a kind of label of the shop's own, locked until the transaction ends.
func LockLabelTemplate(tx db.Tx, id uint64) (LabelTemplate, error) {
	var t LabelTemplate
	err := db.SQL(tx.Q).Raw("SELECT * FROM label_template WHERE id = ? FOR UPDATE", id).Scan(&t).Error
	if err == nil && t.ID == 0 {
		err = fault.Missing("template", id, "There is no label own-%d.", id)
	}
	return t, err
}

// SaveLabelTemplate keeps a kind of label; a new one gets its number.
func SaveLabelTemplate(tx db.Tx, t *LabelTemplate) error {
	err := db.SQL(tx.Q).Save(t).Error
	if db.Duplicate(err) {
		return fault.Clash("name", t.Name, "a name of its own", "There is a label %s already.", t.Name)
	}
	return err
}

// DropLabelTemplate drops a kind of label.
func DropLabelTemplate(tx db.Tx, id uint64) error {
	return db.SQL(tx.Q).Exec("DELETE FROM label_template WHERE id = ?", id).Error
}

// LabelFact is what a label says of a variant beside its name and price.
type LabelFact struct {
	Axes      []string         `json:"axes"`
	Values    []string         `json:"values"`
	Part      string           `json:"part"`
	Content   *decimal.Decimal `json:"content"`
	Measure   string           `json:"measure"`
	PictureID uint64           `json:"picture_id"`
}

// LabelFacts reads what labels say of some variants: the value on each axis, the
// usual supplier's part number, the content and the picture.
func LabelFacts(q db.Q, ids []uint64) (map[uint64]LabelFact, error) {
	facts := map[uint64]LabelFact{}
	if len(ids) == 0 {
		return facts, nil
	}
	var rows []struct {
		ID                     uint64
		A1, A2, A3, V1, V2, V3 string
		Part, Measure          string
		Content                *decimal.Decimal
		PictureID              uint64
	}
	err := db.SQL(q).
		Raw(`SELECT v.id, COALESCE(a1.name, '') AS a1, COALESCE(a2.name, '') AS a2, COALESCE(a3.name, '') AS a3,
			COALESCE(n1.name, '') AS v1, COALESCE(n2.name, '') AS v2, COALESCE(n3.name, '') AS v3,
		COALESCE(s.part_number, '') AS part, p.measure, p.content, COALESCE(v.picture_id, p.picture_id, 0) AS
		picture_id FROM variant v JOIN product p ON p.id = v.product_id
		LEFT JOIN axis_value x1 ON x1.id = v.value1_id LEFT JOIN set_value n1 ON n1.id = x1.value_id LEFT JOIN axis
		a1 ON a1.id = x1.axis_id
		LEFT JOIN axis_value x2 ON x2.id = v.value2_id LEFT JOIN set_value n2 ON n2.id = x2.value_id LEFT JOIN axis
		a2 ON a2.id = x2.axis_id
		LEFT JOIN axis_value x3 ON x3.id = v.value3_id LEFT JOIN set_value n3 ON n3.id = x3.value_id LEFT JOIN axis
		a3 ON a3.id = x3.axis_id
		LEFT JOIN product_supplier s ON s.product_id = p.id AND s.supplier_id = p.supplier_id WHERE v.id IN ?`, ids).
		Scan(&rows).
		Error
	for _, r := range rows {
		f := LabelFact{Part: r.Part, Content: r.Content, Measure: r.Measure, PictureID: r.PictureID}
		for i, value := range []string{r.V1, r.V2, r.V3} {
			if value != "" {
				f.Axes, f.Values = append(f.Axes, []string{r.A1, r.A2, r.A3}[i]), append(f.Values, value)
			}
		}
		facts[r.ID] = f
	}
	return facts, err
}

// LabelTemplate is a kind of label that the shop made; Body is JSON.
type LabelTemplate struct {
	ID      uint64 `json:"id"`
	Name    string `json:"name"`
	NameKey string `json:"-"`
	Body    string `json:"body"`
}

// BeforeSave keeps the key with the name.
func (r *LabelTemplate) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}
