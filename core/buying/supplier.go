package buying

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
)

// SupplierTerms are what was agreed with a supplier. Discount and Freight are percent of
// the goods, the freight only an expectation; MinimumOrder is net of tax.
type SupplierTerms struct {
	Discount     decimal.Decimal `json:"discount" see:"costs"`
	Freight      decimal.Decimal `json:"freight" see:"costs"`
	DaysToPay    int             `json:"days_to_pay"`
	LeadDays     int             `json:"lead_days"`
	MinimumOrder decimal.Decimal `json:"minimum_order" see:"costs"`
}

// The most that terms can say: days, and freight in percent.
const (
	mostDays    = 730
	mostFreight = 1000
)

var hundred = decimal.New(100, 0)

// Check says whether a supplier can have such terms.
func (t SupplierTerms) Check() error {
	if err := CheckDiscount(t.Discount); err != nil {
		return err
	}
	switch {
	case t.Freight.IsNegative() || t.Freight.GreaterThan(decimal.New(mostFreight, 0)):
		return fault.Field("freight", t.Freight, "0 to 1000", "Freight of %s %% is not possible.", t.Freight)
	case t.DaysToPay < 0 || t.DaysToPay > mostDays:
		return fault.Field("days_to_pay", t.DaysToPay, "0 to 730", "A bill can't be due in %d days.", t.DaysToPay)
	case t.LeadDays < 0 || t.LeadDays > mostDays:
		return fault.Field("lead_days", t.LeadDays, "0 to 730", "Goods can't take %d days to come.", t.LeadDays)
	}
	return nil
}

// CheckDiscount says whether a supplier can give so many percent off.
func CheckDiscount(percent decimal.Decimal) error {
	if percent.IsNegative() || percent.GreaterThan(hundred) {
		return fault.Field("discount", percent, "0 to 100", "A discount of %s %% is not possible.", percent)
	}
	return nil
}

// Wanted is the day proposed for an order that is made on a day: after the lead time.
func (t SupplierTerms) Wanted(today time.Time) time.Time { return today.AddDate(0, 0, t.LeadDays) }

// Due is the day on which a bill of a day is to be paid.
func (t SupplierTerms) Due(billed time.Time) time.Time { return billed.AddDate(0, 0, t.DaysToPay) }

// ExpectedLanded is what something is expected to cost that the supplier lists at an
// amount: less the discount, and with the freight that is usual, in the minor unit.
func (t SupplierTerms) ExpectedLanded(listed decimal.Decimal, minor money.Minor) decimal.Decimal {
	return minor.Round(t.landed(less(listed, t.Discount)))
}

// Listed is at what the supplier lists something that is expected to cost an amount: the
// other way round, to 6 decimals.
func (t SupplierTerms) Listed(landed decimal.Decimal) decimal.Decimal {
	if !t.Discount.LessThan(hundred) {
		return landed
	}
	net := landed.Mul(hundred).DivRound(hundred.Add(t.Freight), 2*money.CostPlaces)
	return net.Mul(hundred).DivRound(hundred.Sub(t.Discount), money.CostPlaces)
}

// Plain reports whether what the supplier lists is what something is expected to cost.
func (t SupplierTerms) Plain() bool { return t.Discount.IsZero() && t.Freight.IsZero() }

// landed puts the usual freight on a net amount.
func (t SupplierTerms) landed(net decimal.Decimal) decimal.Decimal {
	return net.Mul(hundred.Add(t.Freight)).Div(hundred)
}

// less takes so many percent off.
func less(amount, percent decimal.Decimal) decimal.Decimal {
	return amount.Mul(hundred.Sub(percent)).Div(hundred)
}
