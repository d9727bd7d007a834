package buying

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// HandStep is one thing that somebody does who takes a delivery in by hand: a scan, or what is
// typed of the goods that were scanned. Steps are kept on the device and sent in order, each
// under a key of its own, so that it counts once however often it is sent. Session is the
// device's name for the delivery.
type HandStep struct {
	Session string      `json:"session"`
	What    buying.Step `json:"what"`
	Code    string      `json:"code"` // that was scanned
	// Variant is the goods that a step is about that is no scan.
	Variant  uint64 `json:"variant_id"`
	Quantity string `json:"quantity"` // how many there are, or how many more
	Shelf    uint64 `json:"shelf_id"`
	Lot      string `json:"lot"`
	Expiry   string `json:"expiry"`
	Serials  string `json:"serials"`
}

// HandLine is goods of a delivery as they are shown in the hand: what it has got of them, on all
// shelves, of what was outstanding.
type HandLine struct {
	Variant  uint64           `json:"variant_id"`
	Name     string           `json:"name"`
	Label    string           `json:"label"`
	SKU      string           `json:"sku"`
	Barcode  string           `json:"barcode"`
	Swatch   string           `json:"swatch"`
	Picture  uint64           `json:"picture_id"`
	Unit     string           `json:"unit"`
	Tracking stock.Tracking   `json:"tracking"`
	Got      decimal.Decimal  `json:"got"`
	Of       *decimal.Decimal `json:"of"` // outstanding before the delivery; nil where none was ordered
	Over     decimal.Decimal  `json:"over"`
	Short    decimal.Decimal  `json:"short"`
	Proposed bool             `json:"proposed"` // taken as ordered, not counted
	Lot      string           `json:"lot"`
	Expiry   string           `json:"expiry"`
	Numbers  int              `json:"numbers"` // serial numbers noted
	Asks     string           `json:"asks"`    // what is still to be said: "lot", "numbers", or nothing
	NoCost   bool             `json:"no_cost"` // nobody knows what one costs
	Hangers  int              `json:"hangers"` // how many are drawn; 0 where they are too many
	Filled   int              `json:"filled"`  // and how many of them are here
	Verdict  string           `json:"verdict"` // "over", "not ordered", or nothing
	Codes    []string         `json:"codes"`   // under which it is scanned
}

// Hand is a delivery as it stands in the hand. Lines are all, or, as an answer to a step, the one
// that it was about.
type Hand struct {
	DeliveryRef
	Session  string             `json:"session"`
	Posted   string             `json:"posted"` // number of its document, once it is in stock
	Supplier string             `json:"supplier"`
	Orders   []string           `json:"orders"`
	Branch   string             `json:"branch"`
	Shelf    *shopscan.ToShelf  `json:"shelf"` // where what comes next goes; nil for the default one
	Shelves  []shopscan.ToShelf `json:"shelves"`
	Now      uint64             `json:"now_variant_id"` // what was scanned last
	Lines    []HandLine         `json:"lines"`
	Units    decimal.Decimal    `json:"units"`
	ToCome   decimal.Decimal    `json:"to_come"` // outstanding of the orders and not here
	Said     string             `json:"said"`
	Verdict  string             `json:"verdict"`
	Offers   []goods.Found      `json:"offers"` // what words may have meant
	Ready    bool               `json:"ready"`  // all lines are told, and nothing is left to be said before it is taken in
	rows     []storebuying.DeliveryLine
}

// mostSession is how long the name of a device's delivery is at most.
const mostSession = 64

// TakeInHand does a step of a delivery that is taken in by hand. The first one begins its draft.
func TakeInHand(do deed.Deed, in HandStep) (Hand, error) {
	return deed.Once(do, staff.DeedReceive, func(do deed.Deed) (Hand, error) {
		id, at, err := sessionOf(do, in.Session)
		if err != nil {
			return Hand{}, err
		}
		said, err := handStep(do, id, at, in)
		if err != nil {
			return Hand{}, err
		}
		if said.Variant != 0 {
			at.Variant = said.Variant
		}
		if said.Shelf != nil {
			at.Shelf = said.Shelf.ID
		}
		if err := storebuying.KeepHand(do.Tx, id, in.Session, at); err != nil {
			return Hand{}, err
		}
		var only []uint64 // the others are as they were
		if in.What != buying.StepAll && said.Variant != 0 {
			only = []uint64{said.Variant}
		}
		h, err := readHand(do.Shop, do.Tx.Q, id, in.Session, at, only)
		h.Said, h.Verdict, h.Offers = said.Said, said.Verdict, said.Offers
		if said.Pick != nil {
			h.Offers = []goods.Found{*said.Pick}
		}
		return h, err
	})
}

// ReadHand is a delivery that is taken in by hand, as it stands; with a session that nothing was
// done in yet, what the device needs to begin.
func ReadHand(s *deed.Shop, q store.Q, who staff.Actor, session string) (Hand, error) {
	var id uint64
	var at storebuying.Hand
	var err error
	if isKey(session) {
		if id, at, err = storebuying.HandOf(q, session); err != nil {
			return Hand{}, err
		}
	}
	if id == 0 {
		h := Hand{Session: session, Lines: []HandLine{}, Orders: []string{}, Offers: []goods.Found{}}
		h.Shelves, err = toShelves(q, who.Branch)
		return h, err
	}
	return readHand(s, q, id, session, at, nil)
}

// sessionOf finds the draft of a session, or begins one.
func sessionOf(do deed.Deed, session string) (uint64, storebuying.Hand, error) {
	if session == "" || text.Len(session) > mostSession || !isKey(session) {
		return 0, storebuying.Hand{}, fault.Field("session", text.Cut(session, 40), "1 to 64 letters and digits",
			"The delivery in the hand has no name that can be kept.")
	}
	id, at, err := storebuying.LockHand(do.Tx, session)
	if err != nil || id != 0 {
		return id, at, err
	}
	d := storebuying.Delivery{BranchID: do.Who.Branch, CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now()}
	if err := readHead(do, &d, DeliveryInput{Branch: do.Who.Branch, BillLater: true}); err != nil {
		return 0, at, err
	}
	if err := deed.At(do.Tx.Q, do.Who, d.BranchID); err != nil {
		return 0, at, err
	}
	ref, err := keepDelivery(do.Tx, &d, nil, nil)
	return ref.ID, at, err
}

// isKey reports whether a text is letters and digits only.
func isKey(s string) bool {
	return !slices.ContainsFunc([]rune(s), func(r rune) bool {
		return !('0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || r == '-')
	})
}

// handStep does what a step says.
func handStep(do deed.Deed, id uint64, at storebuying.Hand, in HandStep) (shopscan.DeliveryScanned, error) {
	switch in.What {
	case buying.StepScan:
		return scanDelivery(do, id, DeliveryScan{Code: in.Code, Shelf: at.Shelf, After: at.Variant})
	case buying.StepShelf:
		view, _, err := storebuying.LockDelivery(do.Tx, id)
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		return toShelf(do.Tx, view, in.Shelf)
	case buying.StepAll:
		_, err := fillDelivery(do, id)
		return shopscan.DeliveryScanned{Said: "All as ordered."}, err
	}
	if err := in.What.Check(); err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	_, err := changeLines(do, id, func(c changing) ([]storebuying.DeliveryLine, error) {
		items, err := goods.Sellables(do.Tx.Q, []uint64{in.Variant}, do.Shop.Now())
		if err != nil {
			return nil, err
		}
		item, ok := items[in.Variant]
		if !ok {
			return nil, fault.Missing("variant_id", in.Variant, "There is no variant %d.", in.Variant)
		}
		return in.change(do, c, item, at.Shelf)
	})
	return shopscan.DeliveryScanned{Variant: in.Variant}, err
}

// change changes the line of the goods that a step is about: that of the shelf, where one is said.
func (in HandStep) change(do deed.Deed, c changing, item goods.Sellable,
	shelf uint64) ([]storebuying.DeliveryLine, error) {
	rows := c.rows
	at := slices.IndexFunc(rows, func(l storebuying.DeliveryLine) bool {
		return l.VariantID == item.ID && (shelf == 0 || deed.Deref(l.ShelfID) == shelf)
	})
	if at < 0 {
		rows = append(rows, storebuying.DeliveryLine{VariantID: item.ID, ShelfID: deed.Reference(shelf),
			Percent: item.BuyPercent})
		at = len(rows) - 1
	}
	row := &rows[at]
	others := decimal.Zero
	for i, l := range rows {
		if i != at && l.VariantID == item.ID {
			others = others.Add(l.Quantity)
		}
	}
	var err error
	switch in.What {
	case buying.StepNumber, buying.StepMore:
		var typed decimal.Decimal
		sign, digits := buying.Signed(in.Quantity)
		if typed, err = item.Unit.Parse("quantity", digits); err != nil {
			return nil, err
		}
		got, err := in.What.Count(row.Got(), typed.Mul(sign), others, outstandingOf(c.awaited, item.ID))
		if err != nil {
			return nil, err
		}
		row.Quantity, row.How, row.Total = got.Quantity, got.How, nil
	case buying.StepWhole:
		got, err := in.What.Count(row.Got(), decimal.Zero, others, outstandingOf(c.awaited, item.ID))
		if err != nil {
			return nil, err
		}
		row.Quantity, row.How, row.Total = got.Quantity, got.How, nil
	case buying.StepTracking:
		if err = ReadTracking(row, item, shopscan.GoodsLine{Lot: in.Lot, Expiry: in.Expiry,
			Serials: in.Serials}); err == nil {
			row.Quantity = decimal.Max(row.Quantity, decimal.New(int64(len(serial.Kept(row.Serials))), 0))
		}
	}
	if err != nil {
		return nil, err
	}
	// what one costs is asked of the typed line, as when it is typed on the page
	read, err := readLines(do, typedAgain(rows), c.d.CostsIncludeTax, c.awaited)
	typedOver(read, rows)
	return read, err
}

// toShelves are the shelves of a branch.
func toShelves(q store.Q, branch uint64) ([]shopscan.ToShelf, error) {
	shelves, err := book.ShelvesOf(q, branch)
	list := make([]shopscan.ToShelf, len(shelves))
	for i, x := range shelves {
		list[i] = shopscan.ToShelf{ID: x.ID, Name: x.Name}
	}
	return list, err
}

// readHand reads a delivery as it is shown in the hand, with the lines of some goods only, or all.
func readHand(s *deed.Shop, q store.Q, id uint64, session string, at storebuying.Hand, only []uint64) (Hand, error) {
	view, rows, err := storebuying.ReadDelivery(q, id)
	if err != nil {
		return Hand{}, err
	}
	h := Hand{DeliveryRef: DeliveryRef{ID: id, Revision: view.Revision}, Session: session, Posted: view.Number,
		Supplier: view.Supplier, Branch: view.Branch,
		Orders: []string{}, Now: at.Variant, Lines: []HandLine{}, Offers: []goods.Found{}, rows: rows}
	if h.Shelves, err = toShelves(q, view.BranchID); err != nil {
		return h, err
	}
	if i := slices.IndexFunc(h.Shelves, func(x shopscan.ToShelf) bool { return x.ID == at.Shelf }); i >= 0 {
		h.Shelf = &h.Shelves[i]
	}
	orders, err := storebuying.OrdersOf(q, id)
	if err != nil {
		return h, err
	}
	awaited, err := storebuying.LinesOfOrders(q, orders)
	if err != nil {
		return h, err
	}
	numbers, err := storebuying.OrderNumbers(q, orders)
	if err != nil {
		return h, err
	}
	h.Orders = append(h.Orders, numbers...)
	return h, h.gather(s, q, awaited, only)
}

// gather puts the lines of a delivery together by goods, those that were scanned last first, then
// what is awaited.
func (h *Hand) gather(s *deed.Shop, q store.Q, awaited []storebuying.OrderLine, only []uint64) error {
	var turn []uint64
	for i := len(h.rows) - 1; i >= 0; i-- {
		turn = append(turn, h.rows[i].VariantID)
	}
	for _, a := range awaited { // what has come already is no part of this delivery
		if a.Outstanding.IsPositive() {
			turn = append(turn, a.VariantID)
		}
	}
	seen := map[uint64]bool{}
	turn = slices.DeleteFunc(turn, func(v uint64) bool { was := seen[v]; seen[v] = true; return was })
	got := map[uint64]decimal.Decimal{}
	for _, r := range h.rows {
		got[r.VariantID] = got[r.VariantID].Add(r.Quantity)
		h.Units = h.Units.Add(r.Quantity)
	}
	awaiting := map[uint64]decimal.Decimal{}
	for _, a := range awaited {
		awaiting[a.VariantID] = awaiting[a.VariantID].Add(a.Outstanding)
	}
	for v, out := range awaiting {
		h.ToCome = h.ToCome.Add(buying.Progress{Outstanding: out, Got: got[v]}.Short())
	}
	if only != nil {
		turn = only
	}
	items, err := goods.Sellables(q, turn, s.Now())
	if err != nil {
		return err
	}
	looks, err := goods.Looks(q, turn)
	if err != nil {
		return err
	}
	h.Ready = len(h.rows) > 0 && only == nil
	for _, v := range turn {
		line := handLine(items[v], looks[v], h.rows, awaited)
		h.Ready = h.Ready && (line.Got.IsZero() || line.Asks == "" && !line.NoCost)
		h.Lines = append(h.Lines, line)
	}
	return nil
}

// handLine is what a delivery has got of some goods.
func handLine(item goods.Sellable, look goods.Look, rows []storebuying.DeliveryLine,
	awaited []storebuying.OrderLine) HandLine {
	l := HandLine{Variant: item.ID, Name: item.Name, Label: item.Label, SKU: item.SKU, Barcode: item.Barcode,
		Swatch: look.Swatch, Picture: look.PictureID,
		Unit: item.Unit.Code, Tracking: item.Tracking, Codes: look.Codes}
	p := buying.Progress{Outstanding: outstandingOf(awaited, item.ID)}
	lots, numbered := true, decimal.Zero
	for _, r := range rows {
		if r.VariantID != item.ID {
			continue
		}
		p.Got = p.Got.Add(r.Quantity)
		l.Proposed = l.Proposed || r.How == buying.Proposed
		l.NoCost = l.NoCost || r.Cost == nil && r.Total == nil
		l.Lot = text.Or(r.LotNumber, l.Lot)
		if r.Expiry != nil {
			l.Expiry = r.Expiry.Format("02/01/2006")
		}
		lots = lots && r.LotNumber != ""
		numbered = numbered.Add(decimal.New(int64(len(serial.Kept(r.Serials))), 0))
	}
	ordered := slices.ContainsFunc(awaited, func(a storebuying.OrderLine) bool { return a.VariantID == item.ID })
	if ordered {
		l.Of = &p.Outstanding
		l.Over, l.Short = p.Over(), p.Short()
	}
	l.Got, l.Numbers = p.Got, int(numbered.IntPart())
	l.Asks = buying.StillAsks(item.Tracking, p.Got, lots, numbered)
	l.Verdict = p.Verdict(ordered, len(awaited) > 0)
	l.Hangers, l.Filled = p.Hangers()
	return l
}
