package stock

import (
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/shop/stockroom"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
	storesendings "itemrack/store/sendings"
	"itemrack/web/kit"
)

// sendingStates are the states by which the list of sendings is narrowed.
var sendingStates = []stock.SendingState{stock.SendingWanted, stock.SendingPacking, stock.SendingOnWay,
	stock.SendingSettled,
	stock.SendingDropped}

func sendings(c *kit.Call) error {
	columns := []kit.Column[storesendings.SendingRow]{kit.Col("number",
		func(r storesendings.SendingRow) any { return r.Number }),
		kit.Col("state", func(r storesendings.SendingRow) any { return r.State }),
		kit.Col("from", func(r storesendings.SendingRow) any { return r.From }),
		kit.Col("to", func(r storesendings.SendingRow) any { return r.To }),
		kit.Col("units", func(r storesendings.SendingRow) any { return r.Units }),
		kit.Col("on the way", func(r storesendings.SendingRow) any { return r.OnWay }),
		kit.Col("over", func(r storesendings.SendingRow) any { return r.Over }),
		kit.Col("left", func(r storesendings.SendingRow) any { return c.InZone(r.LeftAt) }),
		kit.Col("by", func(r storesendings.SendingRow) any { return r.By }),
		kit.Col("note", func(r storesendings.SendingRow) any { return r.Note })}
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	other := uint64(0) // the first branch that goods can go to
	if at := slices.IndexFunc(branches, func(b office.Branch) bool { return b.ID != c.Who.Branch }); at >= 0 {
		other = branches[at].ID
	}
	return kit.Listed(c, "sendings", "Stock", "Sendings", columns,
		func(q store.Q, page int) ([]storesendings.SendingRow, bool, error) {
			return storesendings.Sendings(q, c.Query("kind"), page)
		}, map[string]any{"States": sendingStates, "Other": other, "Branches": branches, "Here": c.Who.Branch,
			"State": c.Query("kind")})
}

// hang is a hanger on a rail or rope of a sending.
type hang struct {
	Line          uint64
	Figure, Label string
	Under         string
	Low           bool
}

// sendingPage is a sending as its page and the parts of it show it.
type sendingPage struct {
	S                                     stockroom.SendingView
	Edits, Arrives, Packs, Takes, Settles bool
	Wanted                                bool
	From, Rope, To                        []hang
	More                                  int // lines that do not hang on the rope for want of room
	Shelves                               []stock.Shelf
	Costs                                 bool
}

const (
	mostOnRope = 5
	mostOnRail = 6
)

func readSendingPage(c *kit.Call) (sendingPage, error) {
	id, err := c.Number("id")
	if err != nil {
		return sendingPage{}, err
	}
	p := sendingPage{Costs: c.Who.Can(staff.DeedCosts)}
	if p.S, err = stockroom.ReadSending(c.Shop, c.Q(), id); err != nil {
		return p, err
	}
	state := stock.SendingState(p.S.State)
	p.Wanted = state == stock.SendingWanted
	p.Edits, p.Arrives = state.Edits(p.S.Number) == nil, state.Arrives(p.S.Number) == nil
	p.Packs = p.Edits && c.Who.At(p.S.FromID, "") == nil
	p.Takes = p.Arrives && c.Who.At(p.S.ToID, "") == nil
	p.Settles = p.Arrives && c.Who.Can(staff.DeedWriteOff)
	if p.Shelves, err = book.ShelvesOf(c.Q(), p.S.ToID); err != nil {
		return p, err
	}
	p.hangAll()
	return p, nil
}

// hangAll hangs the lines on the two rails and the rope between them; the rope takes one hanger a
// product when there is much on it.
func (p *sendingPage) hangAll() {
	byProduct := map[uint64]int{}
	on := 0
	for _, l := range p.S.Lines {
		if l.Way.IsPositive() {
			on++
		}
	}
	for _, l := range p.S.Lines {
		name := shortName(l.Item)
		unit := l.Item.Unit
		if len(p.From) < mostOnRail {
			p.From = append(p.From, hang{Line: l.ID, Figure: unit.Format(l.AtFrom), Label: name})
		}
		if len(p.To) < mostOnRail {
			h := hang{Line: l.ID, Figure: unit.Format(l.AtTo), Label: name}
			switch {
			case l.Excess.IsPositive():
				h.Under, h.Low = unit.Format(l.Excess)+" over", true
			case l.Sent.IsPositive() && l.Way.IsZero():
				h.Under = "all " + unit.Format(l.Sent) + " ✓"
			case l.Arrived.IsPositive():
				h.Under = unit.Format(l.Arrived) + " of " + unit.Format(l.Sent)
			}
			p.To = append(p.To, h)
		}
		if !l.Way.IsPositive() {
			continue
		}
		if at, seen := byProduct[l.Item.ProductID]; seen && on > mostOnRope {
			if at >= 0 {
				was, _ := decimal.NewFromString(p.Rope[at].Figure)
				p.Rope[at].Figure, p.Rope[at].Label, p.Rope[at].Under = was.Add(l.Way).String(), l.Item.Name, ""
			} else {
				p.More++
			}
			continue
		}
		if len(p.Rope) == mostOnRope {
			byProduct[l.Item.ProductID] = -1
			p.More++
			continue
		}
		byProduct[l.Item.ProductID] = len(p.Rope)
		p.Rope = append(p.Rope, hang{Line: l.ID, Figure: unit.Format(l.Way), Label: name, Under: "of " + unit.Format(l.Sent)})
	}
}

// shortName is what a hanger says of goods: the values of the variant, else the name.
func shortName(v goods.Sellable) string {
	if v.Label == "" {
		return v.Name
	}
	return strings.ReplaceAll(v.Label, " / ", " ")
}

func sendingPageOf(c *kit.Call) error {
	p, err := readSendingPage(c)
	if err != nil {
		return err
	}
	return c.Page("sending", "Stock", "Sending "+p.S.Number, p)
}

func sendingBody(c *kit.Call) error {
	p, err := readSendingPage(c)
	if err != nil {
		return err
	}
	return c.Fragment("sending_body", p)
}

// sendingTag is the swing tag of a line of a sending, with what settles it.
func sendingTag(c *kit.Call) error {
	p, err := readSendingPage(c)
	if err != nil {
		return err
	}
	line := fiber.Params[uint64](c.Ctx, "line")
	reasons, err := office.Reasons(c.Q())
	if err != nil {
		return err
	}
	for _, l := range p.S.Lines {
		if l.ID != line {
			continue
		}
		looks, err := goods.Looks(c.Q(), []uint64{l.Variant})
		if err != nil {
			return err
		}
		return c.Fragment("sending_tag", map[string]any{"P": p, "L": l, "Reasons": reasons, "Look": looks[l.Variant],
			"After": l.AtTo.Add(l.Way), "All": l.AtFrom.Add(l.Way).Add(l.AtTo)})
	}
	return c.Fragment("sending_tag", map[string]any{"P": p, "L": nil})
}

// sendingRack is the rack on which what goes is typed.
func sendingRack(c *kit.Call) error {
	p, err := readSendingPage(c)
	if err != nil {
		return err
	}
	product, err := goods.ReadProduct(c.Q(), fiber.Params[uint64](c.Ctx, "product"), p.S.FromID, c.Shop.Now())
	if err != nil {
		return err
	}
	figures := map[uint64]decimal.Decimal{}
	for _, l := range p.S.Lines {
		q := l.Packed
		if p.Wanted {
			q = l.Wanted
		}
		if l.Lot == 0 && l.Condition == stock.ForSale {
			figures[l.Variant] = q
		}
	}
	what := "packed"
	if p.Wanted {
		what = "wanted"
	}
	rack := kit.Hang(product, kit.RackNumber, what, func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		cell := kit.CellView{Hint: "0", Note: product.UnitOf.Format(v.Here) + " there"}
		if q := figures[v.ID]; q.IsPositive() {
			cell.Value = q.String()
		}
		return cell, figures[v.ID]
	})
	rack.Dense = true
	return c.Fragment("sending_rack", map[string]any{"P": product, "Rack": rack})
}

// sendingSlip is the slip of a sending as PDF.
func sendingSlip(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	v, err := stockroom.ReadSending(c.Shop, c.Q(), id)
	if err != nil {
		return err
	}
	shop, err := office.Setting(c.Q(), "shop_name")
	if err != nil {
		return err
	}
	slip := stock.SendingSlip{Shop: shop, Number: v.Number, From: v.From, To: v.To, Note: v.Note}
	if v.LeftAt != nil {
		slip.Left = v.LeftAt.In(c.Terms.Zone)
	}
	for _, l := range v.Lines {
		q := l.Packed
		if !q.IsPositive() {
			q = l.Wanted
		}
		code := l.Item.Barcode
		if code == "" {
			code = l.Item.SKU
		}
		slip.Lines = append(slip.Lines, stock.SlipLine{Code: code, Name: l.Item.Name, Label: l.Item.Label, SKU: l.Item.SKU,
			Lot: l.LotName, Condition: l.Condition, Quantity: l.Item.Unit.Format(q), Numbers: l.Numbers})
	}
	data, err := device.PDF("Sending "+v.Number, slip.Listing().Pages(face.Measure))
	if err != nil {
		return err
	}
	return c.Pdf(v.Number+".pdf", data)
}

// movePage is the page on which goods are moved between shelves.
func movePage(c *kit.Call) error {
	shelves, err := book.ShelvesOf(c.Q(), c.Who.Branch)
	if err != nil {
		return err
	}
	conditions, err := office.OpenConditions(c.Q())
	if err != nil {
		return err
	}
	return c.Page("move", "Stock", "Move goods", map[string]any{"Shelves": shelves, "To": fiber.Query[uint64](c.Ctx, "to"),
		"Conditions": conditions})
}

// moveRack is the rack on which what is moved of a product is typed: what lies on the shelf that it
// comes from.
func moveRack(c *kit.Call) error {
	product, err := c.ProductOf()
	if err != nil {
		return err
	}
	from := fiber.Query[uint64](c.Ctx, "from")
	held, err := book.Look(c.Q(), kit.VariantsOf(product))
	if err != nil {
		return err
	}
	rack := kit.Hang(product, kit.RackNumber, "to move", func(v goods.VariantView) (kit.CellView, decimal.Decimal) {
		there := held.OnShelf(v.ID, from, c.Who.Branch, stock.ForSale)
		return kit.CellView{Hint: "0", Note: product.UnitOf.Format(there) + " there",
				Off: product.Tracking == string(stock.BySerial)},
			decimal.Zero
	})
	rack.Dense = true
	rack.Untotal()
	return c.Fragment("sending_rack", map[string]any{"P": product, "Rack": rack})
}

func apiScanMove(c *kit.Call, in stockroom.MoveScan) (stockroom.MoveScanned, error) {
	return stockroom.ScanMove(c.Deed(), in)
}

func apiMove(c *kit.Call, in stockroom.MoveInput) (deed.Posted, error) {
	return stockroom.MoveGoods(c.Deed(), in)
}

func apiSendings(c *kit.Call, page int) ([]storesendings.SendingRow, bool, error) {
	return storesendings.Sendings(c.Q(), c.Query("state"), page)
}

func apiSending(c *kit.Call, id uint64) (stockroom.SendingView, error) {
	return stockroom.ReadSending(c.Shop, c.Q(), id)
}

func apiBeginSending(c *kit.Call, in stockroom.SendingInput) (stockroom.SendingRef, error) {
	return stockroom.BeginSending(c.Deed(), in)
}

func apiChangeSending(c *kit.Call, id uint64, in stockroom.SendingChange) (stockroom.SendingRef, error) {
	return stockroom.ChangeSending(c.Deed(), id, in)
}

func apiPutInSending(c *kit.Call, id uint64, in stockroom.SendingPut) (stockroom.SendingPutResult, error) {
	return stockroom.PutInSending(c.Deed(), id, in)
}

func apiPack(c *kit.Call, id uint64) (stockroom.SendingRef, error) {
	return stockroom.PackSending(c.Deed(), id)
}

func apiSendOff(c *kit.Call, id uint64) (deed.Posted, error) {
	return stockroom.SendOff(c.Deed(), id)
}

func apiCountHere(c *kit.Call, id uint64, in stockroom.HereInput) (stockroom.SendingPutResult, error) {
	return stockroom.CountHere(c.Deed(), id, in)
}

func apiArrive(c *kit.Call, id uint64, in stockroom.ArriveInput) (deed.Posted, error) {
	return stockroom.ArriveSending(c.Deed(), id, in)
}

func apiSettleSending(c *kit.Call, id uint64, in stockroom.SettleInput) (deed.Posted, error) {
	return stockroom.SettleSending(c.Deed(), id, in)
}

func apiDropSending(c *kit.Call, id uint64) (stockroom.SendingRef, error) {
	return stockroom.DropSending(c.Deed(), id)
}
