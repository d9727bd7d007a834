package goods

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/scan"
	"itemrack/store/internal/db"
)

// Found is what a scan or a search came to. Kind is "variant", "product", "shelf", "document",
// "order", "sending" or "count". A scanned pack, lot, weight or price comes with it.
type Found struct {
	Kind      string           `json:"kind"`
	ID        uint64           `json:"id"`
	Product   uint64           `json:"product_id,omitempty"`
	Name      string           `json:"name"`
	Detail    string           `json:"detail,omitempty"`
	Code      string           `json:"code,omitempty"`
	Serial    string           `json:"serial,omitempty"`
	Lot       string           `json:"lot,omitempty"`
	Expiry    *time.Time       `json:"expiry,omitempty"`
	Pack      *uint64          `json:"pack_id,omitempty"`
	Factor    *decimal.Decimal `json:"factor,omitempty"`    // how many units the pack holds
	Quantity  *decimal.Decimal `json:"quantity,omitempty"`  // the weight on a scale's label
	Amount    *decimal.Decimal `json:"amount,omitempty"`    // the price on a scale's label
	Condition string           `json:"condition,omitempty"` // that the label says, other than for sale
	Meant     string           `json:"meant,omitempty"`     // the words that were searched for instead of those typed
}

// Paper reports whether it is a document, or what becomes one, rather than goods.
func (f Found) Paper() bool {
	return f.Kind == "document" || f.Kind == "order" || f.Kind == "sending" || f.Kind == "count"
}

// Lookup is a text that is being looked up as core/scan says: the first way by itself, which finds most of what
// is scanned and can be sent with other queries, then the others.
type Lookup struct {
	text  string
	most  int
	tries []scan.Try
	first [][]Found
	sent  bool
}

// LookUp begins to look a text up.
func LookUp(q db.Q, text string, most int) (*Lookup, error) {
	scales, err := scales(q)
	if err != nil {
		return nil, err
	}
	l := &Lookup{text: strings.TrimSpace(text), most: most}
	l.tries = scan.Tries(l.text, scales)
	return l, nil
}

// First is the query of the first way, to be sent once; none where nothing is looked up.
func (l *Lookup) First() []db.Part {
	if l == nil {
		return nil
	}
	l.sent = true
	var parts []db.Part
	parts, l.first = ways(l.tries[:min(1, len(l.tries))], l.most)
	return parts
}

// Found is what the text came to; only what no way finds is words, with typing errors forgiven when nothing
// else is found.
func (l *Lookup) Found(q db.Q) ([]Found, error) {
	if len(l.tries) == 0 {
		return []Found{}, nil
	}
	if !l.sent {
		if err := db.Read(q, l.First()...); err != nil {
			return nil, err
		}
	}
	if len(l.first[0]) > 0 {
		return l.first[0], nil
	}
	parts, others := ways(l.tries[1:], l.most)
	if err := db.Read(q, parts...); err != nil {
		return nil, err
	}
	for _, found := range others {
		if len(found) > 0 {
			return found, nil
		}
	}
	found, err := byWords(q, l.text, l.most)
	if err != nil || len(found) > 0 {
		return found, err
	}
	meant, err := Meant(q, l.text)
	if err != nil || meant == "" {
		return []Found{}, err
	}
	found, err = byWords(q, meant, l.most)
	for i := range found {
		found[i].Meant = meant
	}
	return found, err
}

// Find looks a text up.
func Find(q db.Q, text string, most int) ([]Found, error) {
	l, err := LookUp(q, text, most)
	if err != nil {
		return nil, err
	}
	return l.Found(q)
}

// scales reads how the numbers of the shop's scales begin.
func scales(q db.Q) (scan.Scales, error) {
	set, err := q.Terms()
	if err != nil {
		return scan.Scales{}, err
	}
	s := scan.Scales{Minor: set.Minor()}
	if s.Weight, err = q.Setting(ScalePrefix); err != nil {
		return s, err
	}
	s.Price, err = q.Setting(ScalePricePrefix)
	return s, err
}

// lookUps are the queries of the ways to look a code up.
var lookUps = map[scan.By]string{
	scan.ByCode: `SELECT 'variant', v.id, v.product_id, p.name, v.label, v.sku, '', b.pack_id, k.factor, '' FROM
		scan_key s JOIN variant v ON v.id = s.variant_id JOIN product p ON p.id = v.product_id
		LEFT JOIN barcode b ON b.id = s.barcode_id LEFT JOIN pack k ON k.id = b.pack_id WHERE s.k = ? LIMIT ?`,
	scan.BySerial: "SELECT 'variant', v.id, v.product_id, p.name, v.label, v.sku, u.number, NULL, NULL, '' FROM unit " +
		"u JOIN variant v ON v.id = u.variant_id JOIN product p ON p.id = v.product_id WHERE u.number = ? LIMIT ?",
	scan.ByLabel: "SELECT 'variant', v.id, v.product_id, p.name, v.label, v.sku, '', NULL, NULL, c.name FROM " +
		"variant v JOIN product p ON " +
		"p.id = v.product_id JOIN stock_condition c ON c.id = ? WHERE v.id = ? LIMIT ?",
	scan.ByShelf: "SELECT 'shelf', s.id, 0, s.name, b.name, '', '', NULL, NULL, '' FROM shelf s JOIN branch b " +
		"ON b.id = s.branch_id " +
		"WHERE s.id = ? LIMIT ?",
	scan.ByDocument: "SELECT 'document', id, 0, kind, '', number, '', NULL, NULL, '' FROM document WHERE number " +
		"= ? AND kind <> 'Sending' UNION ALL " +
		"SELECT 'sending', id, 0, 'Sending', state, number, '', NULL, NULL, '' FROM sending WHERE number = ? UNION ALL " +
		"SELECT 'count', id, 0, 'Shelf count', state, number, '', NULL, NULL, '' FROM shelf_count WHERE number " +
		"= ? AND state <> 'Closed' UNION ALL " +
		"SELECT 'order', id, 0, 'Order', state, number, '', NULL, NULL, '' FROM purchase_order WHERE number = ? LIMIT ?",
}

// ways are the queries of some ways to look a code up, and where what each found will be.
func ways(tries []scan.Try, most int) ([]db.Part, [][]Found) {
	all := make([][]Found, len(tries))
	parts := make([]db.Part, len(tries))
	for i, t := range tries {
		args := []any{t.Key, most}
		if t.By == scan.ByDocument {
			args = []any{t.Key, t.Key, t.Key, t.Key, most}
		}
		if t.By == scan.ByLabel {
			args = []any{t.Condition, t.Key, most}
		}
		parts[i] = db.Part{SQL: lookUps[t.By], Args: args, Row: func(scan func(into ...any) error) error {
			f := Found{Lot: t.Lot, Quantity: t.Weight, Amount: t.Amount}
			err := scan(&f.Kind, &f.ID, &f.Product, &f.Name, &f.Detail, &f.Code, &f.Serial, &f.Pack, &f.Factor, &f.Condition)
			if t.Serial != "" {
				f.Serial = t.Serial
			}
			if !t.Expiry.IsZero() {
				f.Expiry = &t.Expiry
			}
			all[i] = append(all[i], f)
			return err
		}}
	}
	return parts, all
}

// The settings that say how the numbers of the shop's scales begin: of those with
// a weight, and of those with a price.
const (
	ScalePrefix      = "scale_prefix"
	ScalePricePrefix = "scale_price_prefix"
)

func byWords(q db.Q, text string, most int) ([]Found, error) {
	rows := []Found{}
	table := Words(db.SQL(q).Table("product p"), text)
	return rows, table.Select("'product' AS kind, p.id, p.name, p.style AS code").
		Order("p.name").
		Limit(most).
		Scan(&rows).
		Error
}
