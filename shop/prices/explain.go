package prices

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/store/goods"
)

// WhyPrice is what a customer pays for a variant on each list, and why.
type WhyPrice struct {
	List    string       `json:"price_list"`
	Answer  price.Answer `json:"answer"`
	Margin  string       `json:"margin" see:"costs"`
	Markup  string       `json:"markup" see:"costs"`
	Pack    string       `json:"pack,omitempty"`
	Later   []LaterPrice `json:"later,omitempty"`
	OwnRows int          `json:"own_rows"`
}

// LaterPrice is a price that has not begun yet.
type LaterPrice struct {
	From   time.Time       `json:"from"`
	Amount decimal.Decimal `json:"amount"`
}

// ExplainPrice works out what a customer pays for a quantity of a variant at a
// moment, on each list.
func ExplainPrice(do deed.Deed, variant uint64, quantity string, at string) ([]WhyPrice, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return nil, err
	}
	read := do.Shop.Store.Read(do.Ctx)
	set, err := read.Terms()
	if err != nil {
		return nil, err
	}
	moment, err := do.Shop.Moment(set, "at", at)
	if err != nil {
		return nil, err
	}
	found, err := goods.Sellables(read, []uint64{variant}, moment)
	if err != nil {
		return nil, err
	}
	v, ok := found[variant]
	if !ok {
		return nil, fault.Missing("variant", variant, "There is no variant %d.", variant)
	}
	q := decimal.New(1, 0)
	if strings.TrimSpace(quantity) != "" {
		if q, err = v.Unit.Parse("quantity", quantity); err != nil {
			return nil, err
		}
	}
	var list []WhyPrice
	for _, l := range v.Book.Lists {
		a := v.PriceOf(l.ID, 0, q, moment)
		if !do.Who.Can(staff.DeedCosts) {
			a = a.WithoutCosts()
		}
		why := WhyPrice{List: l.Name, Answer: a, Margin: a.MarginText(), Markup: a.MarkupText()}
		for _, rows := range []price.Rows{v.Goods.Own, v.Goods.Product} {
			for _, r := range rows[l.ID] {
				if r.Since.After(moment) {
					why.Later = append(why.Later, LaterPrice{r.Since, r.Amount})
				}
			}
		}
		list = append(list, why)
	}
	return list, nil
}
