package till

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/scan"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// SaleView is a sale with its document and lines.
type SaleView struct {
	Sale
	Number     string         `json:"number"`
	HappenedAt time.Time      `json:"happened_at"`
	Branch     string         `json:"branch"`
	BranchID   uint64         `json:"branch_id"`
	Register   string         `json:"register"`
	Clerk      string         `json:"clerk"`
	Reversed   bool           `json:"reversed"`
	Customer   string         `json:"customer"`
	Lines      []SaleLineView `gorm:"-" json:"lines"`
	Paid       sale.Payment   `gorm:"-" json:"paid"`
	Given      []sale.Credit  `gorm:"-" json:"given"` // vouchers that were given with it
}

// SaleLineView is a line of a sale with what has come back of it. BackSerials
// are the numbers that came back.
type SaleLineView struct {
	SaleLine
	Unit         string          `json:"unit"`
	Bundle       bool            `json:"bundle"`
	Back         decimal.Decimal `json:"back"`
	Refunded     decimal.Decimal `json:"refunded"`
	TaxBack      decimal.Decimal `json:"tax_back"`
	CostReturned decimal.Decimal `json:"cost_returned" see:"costs"`
	Lowered      decimal.Decimal `json:"lowered"` // of what was refunded: for goods that the customer kept
	TaxLowered   decimal.Decimal `json:"tax_lowered"`
	BackSerials  string          `json:"back_serials"`
	Parts        []SalePart      `gorm:"-" json:"parts"` // what a bundle took from stock: its parts, or itself made up
}

// SaleByNumber reads a sale.
func SaleByNumber(q db.Q, number string) (SaleView, error) { return readSale(q, number, "") }

// LockSale reads a sale and keeps others from returning any of it until the
// transaction ends.
func LockSale(tx db.Tx, number string) (SaleView, error) {
	return readSale(tx.Q, number, " FOR UPDATE")
}

func readSale(q db.Q, number, lock string) (SaleView, error) {
	var v SaleView
	if lock != "" {
		var id uint64
		if err := db.SQL(q).Raw("SELECT s.document_id FROM sale s WHERE s.document_id = (SELECT id FROM document "+
			"WHERE number = ?)"+lock, scan.Document(number)).Scan(&id).Error; err != nil {
			return v, err
		}
	}
	err := db.SQL(q).
		Raw(`SELECT s.*, d.number, d.happened_at, d.branch_id, b.name AS branch, r.name AS register, u.name AS clerk,
		EXISTS (SELECT 1 FROM document x WHERE x.reverses_id = d.id) AS reversed, COALESCE(c.name, '') AS customer
		FROM document d JOIN sale s ON s.document_id = d.id LEFT JOIN customer c ON c.id = s.customer_id JOIN branch
		b ON b.id = d.branch_id JOIN register r ON
		r.id = s.register_id JOIN user u ON u.id = d.user_id
		WHERE d.number = ?`, scan.Document(number)).
		Scan(&v).
		Error
	if err != nil {
		return v, err
	}
	if v.DocumentID == 0 {
		return v, fault.Missing("sale", number, "There is no sale %s.", number)
	}
	err = db.SQL(q).
		Raw(`SELECT l.*, p.unit, p.bundle, COALESCE(SUM(x.quantity), 0) AS back, COALESCE(SUM(x.amount), 0) AS
			refunded, COALESCE(SUM(x.tax), 0) AS tax_back,
		COALESCE(SUM(IF(x.quantity = 0, x.amount, 0)), 0) AS lowered, COALESCE(SUM(IF(x.quantity = 0, x.tax, 0)), 0)
		AS tax_lowered,
		COALESCE(SUM(x.cost), 0) AS cost_returned, COALESCE(GROUP_CONCAT(NULLIF(IF(x.quantity <
			0 OR EXISTS (SELECT 1 FROM document u WHERE u.reverses_id = x.document_id), '', x.serials), '')), '') AS back_serials
		FROM sale_line l JOIN variant v ON v.id = l.variant_id JOIN product p ON p.id = v.product_id LEFT JOIN
		return_line x ON x.sale_line_id = l.id
		WHERE l.document_id = ? GROUP BY l.id ORDER BY l.line`, v.DocumentID).
		Scan(&v.Lines).
		Error
	if err != nil {
		return v, err
	}
	if err != nil {
		return v, err
	}
	if v.Paid, err = Tendered(q, v.DocumentID); err != nil {
		return v, err
	}
	if v.Given, err = GivenWith(q, v.DocumentID); err != nil {
		return v, err
	}
	var parts []SalePart
	err = db.SQL(q).
		Raw("SELECT s.* FROM sale_part s JOIN sale_line l ON l.id = s.sale_line_id WHERE l.document_id = ? ORDER BY "+
			"s.id", v.DocumentID).
		Scan(&parts).
		Error
	for i := range v.Lines {
		for _, p := range parts {
			if p.SaleLineID == v.Lines[i].ID {
				v.Lines[i].Parts = append(v.Lines[i].Parts, p)
			}
		}
	}
	return v, err
}

// TodaySales adds up the sales of a span of time, less what was reversed.
func TodaySales(q db.Q, from, to time.Time) (count int, gross decimal.Decimal, err error) {
	var row struct {
		Count int
		Gross decimal.Decimal
	}
	err = db.SQL(q).
		Raw(`SELECT COUNT(*) AS count, COALESCE(SUM(s.gross), 0) AS gross FROM document d JOIN sale s ON
			s.document_id = d.id
		LEFT JOIN document x ON x.reverses_id = d.id WHERE d.kind = 'Sale' AND d.happened_at >= ? AND d.happened_at
		< ? AND x.id IS NULL`, from, to).
		Scan(&row).
		Error
	return row.Count, row.Gross, err
}

// HasReturns reports whether any of a sale came back.
func HasReturns(q db.Q, document uint64) (bool, error) {
	var n int
	err := db.SQL(q).Raw("SELECT COUNT(*) FROM sale_return r JOIN document d ON d.id = r.document_id LEFT JOIN document x ON "+
		"x.reverses_id = d.id WHERE r.sale_id = ? AND d.reverses_id IS NULL AND x.id IS NULL", document).Scan(&n).Error
	return n > 0, err
}

// Sale is what a sale's document took in.
type Sale struct {
	DocumentID uint64          `gorm:"primaryKey" json:"document_id"`
	RegisterID uint64          `json:"register_id"`
	DrawerID   uint64          `json:"drawer_id"`
	Gross      decimal.Decimal `json:"gross"`
	Tax        decimal.Decimal `json:"tax"`
	CustomerID *uint64         `json:"customer_id"`
	OffWhy     string          `json:"off_why"`  // why something was given off all of it
	Vouchers   decimal.Decimal `json:"vouchers"` // given with it, besides Gross
	Note       string          `json:"note"`
}

// SaleLine is a line of a sale as it was sold. Quantity is in base units, Price
// is of one pack of Factor units where Pack names one; WithTax says whether tax
// is in it.
type SaleLine struct {
	ID         uint64           `json:"id"`
	DocumentID uint64           `json:"document_id"`
	Line       int              `json:"line"`
	VariantID  uint64           `json:"variant_id"`
	Name       string           `json:"name"`
	Detail     string           `json:"detail"`
	SKU        string           `gorm:"column:sku" json:"sku"`
	Serials    string           `json:"serials"`
	Quantity   decimal.Decimal  `json:"quantity"`
	Price      decimal.Decimal  `json:"price"`
	Percent    decimal.Decimal  `json:"percent"`
	Paid       decimal.Decimal  `json:"paid"`
	Tax        decimal.Decimal  `json:"tax"`
	Cost       decimal.Decimal  `json:"cost" see:"costs"`
	Pack       string           `json:"pack"`
	Factor     decimal.Decimal  `json:"factor"`
	WithTax    bool             `json:"with_tax"`
	ListPrice  *decimal.Decimal `json:"list_price"` // where another price was set
	Off        decimal.Decimal  `json:"off"`        // given off in all, as prices are kept
	OwnOff     decimal.Decimal  `json:"own_off"`    // of that, for the line itself
	OffWhy     string           `json:"off_why"`
	Note       string           `json:"note"`
	Owed       bool             `json:"owed"` // its number is given later
	Condition  string           `json:"condition"`
	PassedOver string           `json:"passed_over"` // lots that would have been taken before the one that was chosen
}

// SalePart is what a bundle on a line of a sale took from stock of one component.
type SalePart struct {
	ID         uint64          `json:"id"`
	SaleLineID uint64          `json:"sale_line_id"`
	VariantID  uint64          `json:"variant_id"`
	Quantity   decimal.Decimal `json:"quantity"`
	Cost       decimal.Decimal `json:"cost" see:"costs"`
	Serials    string          `json:"serials"`
}

// SaleReturn is what a return's document gave back.
type SaleReturn struct {
	DocumentID uint64          `gorm:"primaryKey" json:"document_id"`
	SaleID     *uint64         `json:"sale_id"` // nil without a receipt
	DrawerID   uint64          `json:"drawer_id"`
	Amount     decimal.Decimal `json:"amount"`
	Tax        decimal.Decimal `json:"tax"`
	CustomerID *uint64         `json:"customer_id"`
}

// ReturnLine is what came back of a line of a sale.
type ReturnLine struct {
	ID         uint64          `json:"id"`
	DocumentID uint64          `json:"document_id"`
	SaleLineID *uint64         `json:"sale_line_id"`
	VariantID  uint64          `json:"variant_id"`
	Serials    string          `json:"serials"`
	Condition  string          `json:"condition"`
	Quantity   decimal.Decimal `json:"quantity"`
	Amount     decimal.Decimal `json:"amount"`
	Tax        decimal.Decimal `json:"tax"`
	Cost       decimal.Decimal `json:"cost" see:"costs"`
}

// SaleRow is a sale in a list.
type SaleRow struct {
	ID         uint64          `json:"document_id"`
	Number     string          `json:"number"`
	HappenedAt time.Time       `json:"happened_at"`
	Branch     string          `json:"branch"`
	Register   string          `json:"register"`
	Clerk      string          `json:"clerk"`
	Gross      decimal.Decimal `json:"gross"`
	Tax        decimal.Decimal `json:"tax"`
	Cash       decimal.Decimal `json:"cash"`
	Card       decimal.Decimal `json:"card"`
	Void       bool            `json:"void"`
}

// Sales lists the sales, newest first.
func Sales(q db.Q, page int) ([]SaleRow, bool, error) {
	var rows []SaleRow
	err := db.SQL(q).
		Raw(`SELECT d.id, d.number, d.happened_at, b.name AS branch, r.name AS register, u.name AS clerk, s.gross,
			s.tax, (SELECT COALESCE(SUM(t.amount), 0) FROM tender t WHERE t.document_id = s.document_id AND t.kind =
			'cash') AS cash,
			(SELECT COALESCE(SUM(t.amount), 0) FROM tender t WHERE t.document_id = s.document_id AND t.kind = 'card')
			AS card,
		EXISTS (SELECT 1 FROM document x WHERE x.reverses_id = d.id) AS void
		FROM sale s JOIN document d ON d.id = s.document_id JOIN branch b ON b.id = d.branch_id JOIN register r ON
		r.id = s.register_id JOIN user u ON u.id = d.user_id
		ORDER BY s.document_id DESC LIMIT ? OFFSET ?`, q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// BackView is a return with its document and lines.
type BackView struct {
	SaleReturn
	Number     string         `json:"number"`
	HappenedAt time.Time      `json:"happened_at"`
	Branch     string         `json:"branch"`
	RegisterID uint64         `json:"register_id"`
	Register   string         `json:"register"`
	Clerk      string         `json:"clerk"`
	Sale       string         `json:"sale"` // empty without a receipt
	Lines      []BackLineView `gorm:"-" json:"lines"`
	Paid       sale.Payment   `gorm:"-" json:"paid"` // below zero for what went back
}

// BackLineView is a line of a return.
type BackLineView struct {
	ReturnLine
	Name   string `json:"name"`
	Detail string `json:"detail"`
	Unit   string `json:"unit"`
}

// ReturnRow is a return in a list.
type ReturnRow struct {
	Number     string          `json:"number"`
	HappenedAt time.Time       `json:"happened_at"`
	Branch     string          `json:"branch"`
	Clerk      string          `json:"clerk"`
	Sale       string          `json:"sale"` // empty without a receipt
	Amount     decimal.Decimal `json:"amount"`
}

// Returns lists the returns, newest first.
func Returns(q db.Q, page int) ([]ReturnRow, bool, error) {
	var rows []ReturnRow
	n := q.PageRows()
	err := db.SQL(q).Raw(`SELECT d.number, d.happened_at, b.name AS branch, u.name AS clerk, COALESCE(s.number, '')
		AS sale, r.amount
		FROM sale_return r JOIN document d ON d.id = r.document_id JOIN branch b ON b.id = d.branch_id JOIN user u ON
		u.id = d.user_id
		LEFT JOIN document s ON s.id = r.sale_id WHERE d.reverses_id IS NULL ORDER BY r.document_id DESC LIMIT ? OFFSET ?`, n+1,
		(page-1)*n).Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// ReturnByNumber reads a return.
func ReturnByNumber(q db.Q, number string) (BackView, error) {
	var v BackView
	err := db.SQL(q).Raw(`SELECT r.*, d.number, d.happened_at, b.name AS branch, w.register_id, g.name AS register,
		u.name AS clerk,
		COALESCE(s.number, '') AS sale FROM document d JOIN sale_return r ON r.document_id = d.id JOIN branch b ON
		b.id = d.branch_id
		JOIN drawer w ON w.id = r.drawer_id JOIN register g ON g.id = w.register_id JOIN user u ON u.id = d.user_id
		LEFT JOIN document s
		ON s.id = r.sale_id WHERE d.number = ?`, scan.Document(number)).Scan(&v).Error
	if err != nil {
		return v, err
	}
	if v.DocumentID == 0 {
		return v, fault.Missing("return", number, "There is no return %s.", number)
	}
	if err := db.SQL(q).Raw(`SELECT l.*, COALESCE(s.name, p.name) AS name, COALESCE(s.detail, v.label) AS detail,
		p.unit FROM return_line l
		JOIN variant v ON v.id = l.variant_id JOIN product p ON p.id = v.product_id LEFT JOIN sale_line s ON s.id =
		l.sale_line_id
		WHERE l.document_id = ? ORDER BY l.id`, v.DocumentID).Scan(&v.Lines).Error; err != nil {
		return v, err
	}
	v.Paid, err = Tendered(q, v.DocumentID)
	return v, err
}

// SaleOfNumber is the last sale of a serial number; empty where it never was sold here.
func SaleOfNumber(q db.Q, variant uint64, number string) (string, error) {
	var sold string
	return sold, db.SQL(q).Raw(`SELECT d.number FROM entry e JOIN document d ON d.id = e.document_id WHERE
		e.variant_id = ? AND
		e.serial = ? AND d.kind = ? AND NOT EXISTS (SELECT 1 FROM document x WHERE x.reverses_id = d.id) ORDER BY
		e.id DESC LIMIT 1`,
		variant, number, stock.Sale).Scan(&sold).Error
}

// Gone lists the serial numbers of a sale that are not out by it any more, and did not come back by it: they came in or
// went out by another document since.
func Gone(q db.Q, document uint64) ([]string, error) {
	var list []string
	return list, db.SQL(q).Raw(`SELECT DISTINCT e.serial FROM entry s JOIN entry e ON e.variant_id = s.variant_id AND
		e.serial = s.serial AND e.id > s.id JOIN document d ON d.id = e.document_id LEFT JOIN document x ON
		x.reverses_id = d.id LEFT JOIN sale_return r ON r.document_id = d.id AND r.sale_id = s.document_id
		WHERE s.document_id = ? AND s.serial <> '' AND d.reverses_id IS NULL AND x.id IS NULL AND r.document_id IS NULL
		AND d.id <> s.document_id`, document).Scan(&list).Error
}
