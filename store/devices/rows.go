package devices

import (
	"time"

	"github.com/shopspring/decimal"
)

// PrintJob is a paper that came out of a printer stand-in.
type PrintJob struct {
	ID     uint64    `json:"id"`
	Device string    `json:"device"`
	Title  string    `json:"title"`
	Pages  string    `json:"-"`
	At     time.Time `json:"at"`
}

// CardCharge is what the card terminal stand-in did under a reference.
type CardCharge struct {
	Reference string          `gorm:"primaryKey" json:"reference"`
	Amount    decimal.Decimal `json:"amount"`
	State     string          `json:"state"`
	At        time.Time       `json:"at"`
}

// Mail is what the mailbox stand-in sent; Raw is it as RFC 5322 has it.
type Mail struct {
	ID        uint64    `json:"id"`
	At        time.Time `json:"at"`
	Recipient string    `json:"recipient"`
	Subject   string    `json:"subject"`
	Raw       []byte    `json:"-"`
}

// TableName is the table of mails.
func (Mail) TableName() string { return "mail" }
