package catalog

import (
	"slices"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
)

// Extension is values added to the axes of a product: for each axis by name,
// the new values. LeftOut are new cells that are not made.
type Extension struct {
	Axes      []AxisInput `json:"axes"`
	LeftOut   [][]string  `json:"left_out"`
	OwnPrices []CellText  `json:"own_prices"`
	Cost      string      `json:"cost"` // of one of each new variant, where it is not the product's
	OwnCosts  []CellText  `json:"own_costs"`
	OnHand    OnHand      `json:"on_hand"`
}

// AddValues adds values to a product's axes and makes the variants that they
// bring, and only those: cells that were left out stay left out.
func AddValues(do deed.Deed, product uint64, in Extension) (MadeProduct, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (MadeProduct, error) {
		view, err := LockProduct(do, product)
		if err != nil {
			return MadeProduct{}, err
		}
		sets, err := knownValues(do.Tx.Q)
		if err != nil {
			return MadeProduct{}, err
		}
		for i := range in.Axes { // the new values are of the set that the axis has
			if at := slices.IndexFunc(view.Axes, func(a catalog.Axis) bool {
				return text.Same(a.Name,
					in.Axes[i].Name)
			}); at >= 0 {
				in.Axes[i].Set = view.Axes[at].Set
			}
		}
		fresh, err := axesOf(in.Axes, sets)
		if err != nil {
			return MadeProduct{}, err
		}
		p := &Planned{Row: view.Product, Axes: view.Axes, AxisIDs: view.AxisIDs, ValueIDs: view.ValueIDs}
		skip := catalog.Missing(view.Axes, view.Choices(), nil) // not made before: stays so
		if err := AddAxisValues(do.Tx, p, fresh); err != nil {
			return MadeProduct{}, err
		}
		for _, c := range in.LeftOut {
			skip = append(skip, c)
		}
		if err := p.fill(catalog.Missing(p.Axes, view.Choices(), skip)); err != nil {
			return MadeProduct{}, err
		}
		if err := p.exceptions(NewProduct{OwnPrices: in.OwnPrices, OwnCosts: in.OwnCosts}, view.UnitOf,
			view.Pricing.Book.Minor); err != nil {
			return MadeProduct{}, err
		}
		cost, err := number.Optional("cost", in.Cost, money.ParseCost)
		if err != nil {
			return MadeProduct{}, err
		}
		for i := range p.Cells {
			if cost != nil && p.Cells[i].Cost == nil && (p.Row.Cost == nil || !cost.Equal(*p.Row.Cost)) {
				p.Cells[i].Cost = cost
			}
		}
		if err := WriteCells(do, []*Planned{p}, do.Shop.Now()); err != nil {
			return MadeProduct{}, err
		}
		if err := Settled(do, []uint64{product}); err != nil {
			return MadeProduct{}, err
		}
		made := p.made()
		made.Document, err = in.OnHand.post(do, p, view.UnitOf)
		return made, err
	})
}

// AddAxisValues puts new values at the end of the named axes.
func AddAxisValues(tx store.Tx, p *Planned, fresh []catalog.Axis) error {
	p.Axes = slices.Clone(p.Axes)
	added := 0
	for _, a := range fresh {
		at := slices.IndexFunc(p.Axes, func(x catalog.Axis) bool { return text.Same(x.Name, a.Name) })
		if at < 0 {
			return fault.Field("axes", a.Name, "an axis of the product", "%s does not vary by %q.", p.Row.Name, a.Name)
		}
		have := len(p.Axes[at].Values)
		p.Axes[at].Values = append(slices.Clone(p.Axes[at].Values), a.Values...)
		if err := catalog.CheckAxes(p.Axes); err != nil {
			return err
		}
		_, ids, err := ValueIDs(tx, p.Axes[at].ValueSet(), a.Values)
		if err != nil {
			return err
		}
		for i, v := range a.Values {
			row := goods.AxisValue{AxisID: p.AxisIDs[at], Position: have + i, ValueID: ids[text.Key(v.Name)]}
			if err := goods.AddAxisValue(tx, &row); err != nil {
				return err
			}
			p.ValueIDs[at] = append(p.ValueIDs[at], row.ID)
			added++
		}
	}
	if added == 0 {
		return fault.Field("axes", "", "at least one new value", "Name the colour or size to add.")
	}
	return nil
}
