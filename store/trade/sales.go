package trade

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/scan"
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
	Lines      []SaleLineView `gorm:"-" json:"lines"`
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
		EXISTS (SELECT 1 FROM document x WHERE x.reverses_id = d.id) AS reversed
		FROM document d JOIN sale s ON s.document_id = d.id JOIN branch b ON b.id = d.branch_id JOIN register r ON
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
		COALESCE(SUM(x.cost), 0) AS cost_returned, COALESCE(GROUP_CONCAT(NULLIF(x.serials, '')), '') AS back_serials
		FROM sale_line l JOIN variant v ON v.id = l.variant_id JOIN product p ON p.id = v.product_id LEFT JOIN
		return_line x ON x.sale_line_id = l.id
		WHERE l.document_id = ? GROUP BY l.id ORDER BY l.line`, v.DocumentID).
		Scan(&v.Lines).
		Error
	if err != nil {
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

// CardRefunded is how much of a sale went back to its card.
func CardRefunded(q db.Q, sale uint64) (decimal.Decimal, error) {
	var sum decimal.Decimal
	err := db.SQL(q).Raw("SELECT COALESCE(SUM(card), 0) FROM sale_return WHERE sale_id = ?", sale).Scan(&sum).Error
	return sum, err
}

// HasReturns reports whether any of a sale came back.
func HasReturns(q db.Q, sale uint64) (bool, error) {
	var n int
	err := db.SQL(q).Raw("SELECT COUNT(*) FROM sale_return WHERE sale_id = ?", sale).Scan(&n).Error
	return n > 0, err
}

// Sale is what a sale's document took in.
type Sale struct {
	DocumentID    uint64          `gorm:"primaryKey" json:"document_id"`
	RegisterID    uint64          `json:"register_id"`
	DrawerID      uint64          `json:"drawer_id"`
	Gross         decimal.Decimal `json:"gross"`
	Tax           decimal.Decimal `json:"tax"`
	Handed        decimal.Decimal `json:"handed"`
	ChangeGiven   decimal.Decimal `json:"change_given"`
	Card          decimal.Decimal `json:"card"`
	CardReference string          `json:"card_reference"`
}

// SaleLine is a line of a sale as it was sold. Quantity is in base units, Price
// is of one pack of Factor units where Pack names one; WithTax says whether tax
// is in it.
type SaleLine struct {
	ID         uint64          `json:"id"`
	DocumentID uint64          `json:"document_id"`
	Line       int             `json:"line"`
	VariantID  uint64          `json:"variant_id"`
	Name       string          `json:"name"`
	Detail     string          `json:"detail"`
	SKU        string          `gorm:"column:sku" json:"sku"`
	Serials    string          `json:"serials"`
	Quantity   decimal.Decimal `json:"quantity"`
	Price      decimal.Decimal `json:"price"`
	Percent    decimal.Decimal `json:"percent"`
	Paid       decimal.Decimal `json:"paid"`
	Tax        decimal.Decimal `json:"tax"`
	Cost       decimal.Decimal `json:"cost" see:"costs"`
	Pack       string          `json:"pack"`
	Factor     decimal.Decimal `json:"factor"`
	WithTax    bool            `json:"with_tax"`
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
	SaleID     uint64          `json:"sale_id"`
	DrawerID   uint64          `json:"drawer_id"`
	Amount     decimal.Decimal `json:"amount"`
	Tax        decimal.Decimal `json:"tax"`
	Cash       decimal.Decimal `json:"cash"`
	Card       decimal.Decimal `json:"card"`
}

// ReturnLine is what came back of a line of a sale.
type ReturnLine struct {
	ID         uint64          `json:"id"`
	DocumentID uint64          `json:"document_id"`
	SaleLineID uint64          `json:"sale_line_id"`
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
			s.tax, s.handed - s.change_given AS cash, s.card,
		EXISTS (SELECT 1 FROM document x WHERE x.reverses_id = d.id) AS void
		FROM sale s JOIN document d ON d.id = s.document_id JOIN branch b ON b.id = d.branch_id JOIN register r ON
		r.id = s.register_id JOIN user u ON u.id = d.user_id
		ORDER BY s.document_id DESC LIMIT ? OFFSET ?`, q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}
