package reports

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/shop/prices"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// ExplainPart is one step of an explanation; Number is the document it opens.
type ExplainPart struct {
	Label  string `json:"label"`
	Amount string `json:"amount"`
	Number string `json:"number,omitempty"`
}

// Explanation shows what a figure is made of.
type Explanation struct {
	Figure string        `json:"figure"`
	Amount string        `json:"amount"`
	Rule   string        `json:"rule"`
	Parts  []ExplainPart `json:"parts"`
	Latest []ExplainPart `json:"latest"` // the last documents behind it
}

// Figures that can be explained.
const (
	FigureOnHand    = "on_hand"
	FigureAvailable = "available"
	FigureAverage   = "average_cost"
	FigurePrice     = "price"
)

// Explain opens a figure of a variant: what it is made of, down to documents.
func Explain(do deed.Deed, variant uint64, figure string) (Explanation, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return Explanation{}, err
	}
	if figure == FigureAverage {
		if err := do.Who.May(staff.DeedCosts); err != nil {
			return Explanation{}, err
		}
	}
	if figure == FigurePrice {
		return explainPrice(do, variant)
	}
	q := do.Shop.Store.Read(do.Ctx)
	set, err := q.Terms()
	if err != nil {
		return Explanation{}, err
	}
	held, err := book.Look(q, []uint64{variant})
	if err != nil {
		return Explanation{}, err
	}
	item, pool := held.Items[variant], held.Pools[variant]
	var e Explanation
	switch figure {
	case FigureOnHand:
		e = Explanation{
			Figure: "On hand",
			Amount: item.Unit.Format(pool.Quantity),
			Rule:   "Everything that came in less everything that went out, in every condition and at every branch.",
		}
		err = e.addKinds(q, variant, "", item.Unit)
	case FigureAvailable:
		day := set.Day(do.Shop.Now())
		if item.Bundle {
			if e, err = availableBundle(do.Shop, q, variant, day); err != nil {
				return e, err
			}
			break
		}
		e = Explanation{
			Figure: "Available",
			Amount: item.Unit.Format(held.Available(variant, 0, day)),
			Rule: "What is on hand, less what is in a condition that is not for sale, what is past its expiry, and what " +
				"counts lock.",
		}
		e.addConditions(held, variant)
		past, locked := held.Unsold(variant, day)
		if !past.IsZero() {
			e.Parts = append(e.Parts, ExplainPart{Label: "Past its expiry", Amount: item.Unit.Format(past.Neg())})
		}
		for _, number := range slices.Sorted(maps.Keys(locked)) {
			e.Parts = append(e.Parts, ExplainPart{Label: "Locked by " + number, Amount: item.Unit.Format(locked[number].Neg())})
		}
	case FigureAverage:
		e = Explanation{
			Figure: "Average cost",
			Amount: set.Currency.Symbol + pool.Average().StringFixed(4),
			Rule:   "Value ÷ quantity of all there is. Goods go out at it and come in at what they cost.",
		}
		if item.Tracking == stock.BySerial {
			e.Rule = "Each unit has its own cost; this is the mean of those in stock."
		}
		e.Parts = append(e.Parts, ExplainPart{Label: "Value", Amount: set.Currency.Format(pool.Value)},
			ExplainPart{Label: "÷ quantity", Amount: item.Unit.Format(pool.Quantity)})
		if pool.Method == cost.FIFO {
			e.Rule = "Value ÷ quantity of all there is. What came in first goes out first, at what it cost; what " +
				"comes back is the next to go."
			err = e.addLayers(set, q, variant, item.Unit)
			break
		}
		err = e.addValues(set, q, variant)
	default:
		return e, fault.Field("figure", figure, "on_hand, available, average_cost or price",
			"There is no figure %q to explain.", figure)
	}
	if err != nil {
		return e, err
	}
	moves, _, err := book.Movements(q, variant, book.MovementFilter{Limit: 6})
	for _, m := range moves {
		amount := signed(item.Unit, m.Quantity)
		if figure == FigureAverage {
			amount += " worth " + set.Currency.Format(m.Value.Abs())
		}
		e.Latest = append(
			e.Latest,
			ExplainPart{
				Label:  m.HappenedAt.In(set.Zone).Format("2 Jan 15:04") + " " + m.Kind,
				Amount: amount,
				Number: m.Number,
			},
		)
	}
	return e, err
}

// availableBundle opens how many of a bundle there are: those made up, and those that the
// least of its parts allows.
func availableBundle(s *deed.Shop, q store.Q, variant uint64, day time.Time) (Explanation, error) {
	e := Explanation{
		Figure: "Available",
		Rule:   "Those that are made up, and as many more as the least of its parts allows.",
	}
	found, err := goods.Sellables(q, []uint64{variant}, s.Now())
	if err != nil {
		return e, err
	}
	bundled, err := goods.Bundled(q, found)
	if err != nil {
		return e, err
	}
	parts := bundled[variant]
	ids := []uint64{variant}
	for _, p := range parts {
		ids = append(ids, p.Variant)
	}
	held, err := book.Look(q, ids)
	if err != nil {
		return e, err
	}
	e.Amount = sale.Made(variant, parts, held, 0, day).String()
	e.Parts = []ExplainPart{{Label: "Made up", Amount: held.OnHand(variant, 0, stock.ForSale).String()}}
	for _, p := range parts {
		if p.Tracking == stock.NotStocked {
			continue
		}
		have := held.Available(p.Variant, 0, day)
		e.Parts = append(e.Parts, ExplainPart{
			Label:  fmt.Sprintf("%s: %s available, %s in each", p.Name, have, p.Quantity),
			Amount: have.Div(p.Quantity).Floor().String(),
		})
	}
	return e, nil
}

func signed(u unit.Unit, q decimal.Decimal) string {
	if q.IsPositive() {
		return "+" + u.Format(q)
	}
	return u.Format(q)
}

func (e *Explanation) addKinds(q store.Q, variant uint64, condition stock.Condition, u unit.Unit) error {
	sums, err := book.SumsByKind(q, variant, condition)
	for _, k := range sums {
		if !k.Quantity.IsZero() {
			e.Parts = append(e.Parts,
				ExplainPart{Label: fmt.Sprintf("%s (%d)", k.Kind, k.Documents), Amount: signed(u, k.Quantity)})
		}
	}
	return err
}

func (e *Explanation) addConditions(held stock.Holding, variant uint64) {
	u := held.Items[variant].Unit
	e.Parts = append(e.Parts, ExplainPart{Label: "On hand", Amount: u.Format(held.Pools[variant].Quantity)})
	var conditions []stock.Condition
	for _, f := range held.Conditions {
		if f.Name != stock.ForSale {
			conditions = append(conditions, f.Name)
		}
	}
	for _, c := range append(conditions, stock.OnTheWay) {
		if q := held.OnHand(variant, 0, c); !q.IsZero() {
			e.Parts = append(e.Parts, ExplainPart{Label: string(c), Amount: u.Format(q.Neg())})
		}
	}
}

func (e *Explanation) addValues(set terms.Terms, q store.Q, variant uint64) error {
	sums, err := book.SumsByKind(q, variant, "")
	for _, k := range sums {
		if !k.Value.IsZero() {
			e.Parts = append(
				e.Parts,
				ExplainPart{
					Label:  fmt.Sprintf("%s (%d), value", k.Kind, k.Documents),
					Amount: set.Currency.Format(k.Value),
				},
			)
		}
	}
	return err
}

// addLayers lists what is left of what came in, the next to go out first.
func (e *Explanation) addLayers(set terms.Terms, q store.Q, variant uint64, u unit.Unit) error {
	layers, err := book.Layers(q, variant, 50)
	for _, l := range layers {
		each := l.Value.DivRound(l.Quantity, money.CostPlaces)
		e.Parts = append(
			e.Parts,
			ExplainPart{
				Label: fmt.Sprintf("%s of %s, %s each", u.Format(l.Quantity),
					l.HappenedAt.In(set.Zone).Format("2 Jan 2006"), set.Currency.Symbol+each.StringFixed(4)),
				Amount: set.Currency.Format(l.Value),
				Number: l.Number,
			},
		)
	}
	return err
}

// explainPrice opens the price of a variant: what it is on each list, and why.
func explainPrice(do deed.Deed, variant uint64) (Explanation, error) {
	lists, err := prices.ExplainPrice(do, variant, "", "")
	if err != nil {
		return Explanation{}, err
	}
	set, err := do.Shop.Store.Read(do.Ctx).Terms()
	if err != nil {
		return Explanation{}, err
	}
	e := Explanation{
		Figure: "Price",
		Rule: "Its own price goes before its product's, and that before the rule of the list. Of several the " +
			"latest that has begun counts. Prices are " + set.Basis.String() + ".",
		Parts:  []ExplainPart{},
		Latest: []ExplainPart{},
	}
	for i, l := range lists {
		if l.Answer.Source == price.NoPrice {
			continue
		}
		amount := set.Currency.Format(l.Answer.Amount)
		if i == 0 {
			e.Amount = amount
		}
		for _, step := range l.Answer.Why {
			e.Parts = append(e.Parts, ExplainPart{Label: step.Says, Amount: step.Text(set.Minor())})
		}
		if l.Margin != "" {
			e.Parts = append(e.Parts,
				ExplainPart{Label: l.List + ": margin " + l.Margin + ", markup " + l.Markup, Amount: ""})
		}
		for _, later := range l.Later {
			e.Parts = append(
				e.Parts,
				ExplainPart{
					Label:  l.List + ": from " + later.From.In(set.Zone).Format("2 Jan 2006 15:04"),
					Amount: set.Currency.Format(later.Amount),
				},
			)
		}
	}
	return e, nil
}
