package catalog

import (
	"strconv"
	"strings"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
)

// OnHand is what is there already of variants that are made: it becomes one document of
// opening stock. Each is how many there are of every one, Worth what all of one variant is
// worth where that is known rather than its cost; Cells say otherwise for some. A branch of 0 is
// that where the person works.
type OnHand struct {
	Branch uint64      `json:"branch_id"`
	Each   string      `json:"each"`
	Worth  string      `json:"worth"`
	CameOn string      `json:"came_on"`
	Cells  []CellStock `json:"cells"`
}

// CellStock is what is there of one cell.
type CellStock struct {
	Choice   []string `json:"choice"`
	Quantity string   `json:"quantity"`
	Worth    string   `json:"worth"`
	Lot      string   `json:"lot"`
	Expiry   string   `json:"expiry"`
	Serials  string   `json:"serials"`
}

// opened reads what is there of each cell.
func (in OnHand) opened(p *Planned, u unit.Unit) ([]stock.Opened, error) {
	at := map[string]CellStock{}
	for _, c := range in.Cells {
		at[catalog.Choice(c.Choice).Key()] = c
	}
	var list []stock.Opened
	for _, c := range p.Cells {
		o, err := in.cell(p, c, at[c.choice.Key()], u)
		if err != nil {
			if e := fault.Of(err); e != nil && len(p.Cells) > 1 {
				return nil, e.About(c.choice.Label())
			}
			return nil, err
		}
		if o.Quantity.IsPositive() {
			list = append(list, o)
		}
	}
	return list, nil
}

func (in OnHand) cell(p *Planned, c cell, own CellStock, u unit.Unit) (stock.Opened, error) {
	o := stock.Opened{Name: catalog.FullName(p.Row.Name, c.choice.Label()), Tracking: stock.Tracking(p.Row.Tracking),
		Cost: c.Cost}
	if o.Cost == nil {
		o.Cost = p.Row.Cost
	}
	var err error
	if o.Serials, err = serial.ReadList(own.Serials); err != nil {
		return o, err
	}
	quantity := text.Or(own.Quantity, in.Each)
	if len(o.Serials) > 0 && own.Quantity == "" {
		quantity = strconv.Itoa(len(o.Serials))
	}
	if quantity == "" {
		return o, nil
	}
	if o.Quantity, err = u.Parse("each", quantity); err != nil {
		return o, err
	}
	if o.Worth, err = number.Optional("worth", text.Or(own.Worth, in.Worth), money.ParseCost); err != nil {
		return o, err
	}
	if o.Worth != nil {
		o.Cost = nil // it is the worth that is known
	}
	if o.Lot.Number, err = serial.LotNumber(own.Lot); err != nil {
		return o, err
	}
	if strings.TrimSpace(own.Expiry) != "" {
		if o.Lot.Expiry, err = number.Day("expiry", own.Expiry); err != nil {
			return o, err
		}
	}
	if strings.TrimSpace(in.CameOn) != "" {
		o.CameOn, err = number.Day("came_on", in.CameOn)
	}
	return o, err
}

// post takes what is there of the cells of a product, which are made, into stock; it returns the
// number of the document, empty for none.
func (in OnHand) post(do deed.Deed, p *Planned, u unit.Unit) (string, error) {
	list, err := in.opened(p, u)
	if err != nil || len(list) == 0 {
		return "", err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return "", err
	}
	made := map[string]uint64{}
	for _, c := range p.Cells {
		made[catalog.FullName(p.Row.Name, c.choice.Label())] = c.Id
	}
	for i, o := range list {
		if err := o.Check(set.Minor(), set.Day(do.Shop.Now())); err != nil {
			return "", err
		}
		list[i].Variant = made[o.Name]
	}
	branch := in.Branch
	if branch == 0 {
		branch = do.Who.Branch
	}
	done, err := deed.PostOpening(do, branch, list)
	return done.Number, err
}

// KeepPicture keeps a picture for what is being made; nothing shows it before it is named there.
func KeepPicture(do deed.Deed, name string, data []byte) (Changed, error) {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return Changed{}, err
	}
	p, err := ReadPicture(text.Or(name, "The picture"), data)
	if err != nil {
		return Changed{}, err
	}
	return deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		id, err := goods.KeepPicture(do.Tx, p)
		return Changed{id, "The picture is kept."}, err
	})
}

// addPictures gives a product that is made the pictures that were kept for it.
func addPictures(tx store.Tx, product uint64, ids []uint64) error {
	if len(ids) == 0 {
		return nil
	}
	names, err := goods.PictureNames(tx.Q, ids)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if _, ok := names[id]; !ok {
			return fault.Missing("picture_ids", id, "There is no picture %d.", id)
		}
	}
	return goods.AddPictures(tx, product, ids)
}
