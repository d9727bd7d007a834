package buying

import (
	"time"

	"itemrack/core/fault"
)

// CheckBillDays refuses a bill that is due before its day.
func CheckBillDays(billed, due time.Time) error {
	if due.Before(billed) {
		return fault.Field("due_on", said(due), said(billed)+" or later", "A bill of %s can't be due on %s.", said(billed),
			said(due))
	}
	return nil
}

// CheckPaidOn refuses a payment of a day to come.
func CheckPaidOn(paid, today time.Time) error {
	if paid.After(today) {
		return fault.Field("paid_on", said(paid), "today or an earlier day", "What is paid on %s is not paid yet.", said(paid))
	}
	return nil
}

func said(day time.Time) string { return day.Format("2 January 2006") }
