package prices

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// InCondition is what a variant costs in a condition that it is sold in apart from new. Own is the price of its
// own, where it has one; Price is what one costs then, nil where it has none yet.
type InCondition struct {
	Condition stock.Condition  `json:"condition"`
	Own       sale.OwnPrice    `json:"own"`
	Percent   *decimal.Decimal `json:"percent"` // less than new, as the shop says, where it has none of its own
	Price     *decimal.Decimal `json:"price"`
	Revision  string           `json:"revision"`
}

// InConditions lists what a variant costs in each condition that it is sold in apart from new.
func InConditions(s *deed.Shop, q store.Q, variant uint64) ([]InCondition, error) {
	found, err := goods.Sellables(q, []uint64{variant}, s.Now())
	if err != nil {
		return nil, err
	}
	v, known := found[variant]
	if !known {
		return nil, fault.Missing("variant", variant, "There is no variant %d.", variant)
	}
	own, err := prices.InConditions(q, variant)
	if err != nil {
		return nil, err
	}
	list := []InCondition{}
	for _, c := range v.Apart() {
		row := InCondition{Condition: c, Own: own[c], Percent: v.In[c].Percent, Revision: revision.Of(own[c])}
		if p, has := v.PriceIn(c, v.PriceOf(price.Regular, 0, decimal.New(1, 0), s.Now())); has {
			row.Price = &p
		}
		list = append(list, row)
	}
	return list, nil
}

// InConditionInput is the price of its own of a variant in a condition as it is typed: "12.50", "30 %", or empty
// for what the shop says.
type InConditionInput struct {
	Condition string `json:"condition"`
	Price     string `json:"price"`
	Revision  string `json:"revision"` // as it was shown; another one is refused
}

// SetInCondition sets the price of its own of a variant in a condition that it is sold in apart from new.
func SetInCondition(do deed.Deed, variant uint64, in InConditionInput) ([]InCondition, error) {
	return deed.Once(do, staff.DeedPrices, func(do deed.Deed) ([]InCondition, error) {
		found, err := goods.Sellables(do.Tx.Q, []uint64{variant}, do.Shop.Now())
		if err != nil {
			return nil, err
		}
		v, known := found[variant]
		if !known {
			return nil, fault.Missing("variant", variant, "There is no variant %d.", variant)
		}
		c := stock.Condition(in.Condition)
		if c == stock.ForSale {
			return nil, fault.Refuse("condition", c, "a condition apart from new", "What is new costs what the price lists say.")
		}
		if err := v.SoldIn(c, 0); err != nil {
			return nil, err
		}
		own, err := prices.LockInCondition(do.Tx, variant, c)
		if err != nil {
			return nil, err
		}
		if err := revision.CheckOf(v.FullName()+" as "+in.Condition, in.Revision, own); err != nil {
			return nil, err
		}
		p, err := readOwn(in.Price, v)
		if err != nil {
			return nil, err
		}
		if err := prices.SetInCondition(do.Tx, variant, c, p); err != nil {
			return nil, err
		}
		return InConditions(do.Shop, do.Tx.Q, variant)
	})
}

// readOwn reads a price of its own as it is typed.
func readOwn(typed string, v goods.Sellable) (sale.OwnPrice, error) {
	typed = strings.TrimSpace(typed)
	if typed == "" {
		return sale.OwnPrice{}, nil
	}
	var p sale.OwnPrice
	if percent, is := strings.CutSuffix(typed, "%"); is {
		d, ok := number.Parse(percent)
		if !ok {
			return p, fault.Field("price", typed, "a price such as 12.50, or 30 %", "%q is not a price.", typed)
		}
		p.Percent = &d
	} else {
		d, err := v.Book.Minor.Parse("price", typed)
		if err != nil {
			return p, err
		}
		p.Amount = &d
	}
	if err := p.Check(v.Book.Minor); err != nil {
		return p, fault.Of(err).In("price")
	}
	return p, nil
}
