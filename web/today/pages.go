package today

import (
	"github.com/shopspring/decimal"

	corebuying "itemrack/core/buying"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/stockroom"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/counts"
	"itemrack/store/devices"
	"itemrack/store/goods"
	storelists "itemrack/store/lists"
	storesendings "itemrack/store/sendings"
	"itemrack/store/till"
	"itemrack/web/kit"
)

func today(c *kit.Call) error {
	s := c.Shop
	first, err := goods.ProductIDs(c.Q(), goods.ListFilter{}, 0, 1)
	if err != nil {
		return err
	}
	empty := len(first) == 0
	low, lowCount, err := book.Low(c.Q(), 8)
	if err != nil {
		return err
	}
	off, err := stockroom.NotForSale(deed.By(c.Until, s, c.Who, ""), 0, "", 0)
	if err != nil {
		return err
	}
	registers, err := till.Registers(c.Q())
	if err != nil {
		return err
	}
	open, err := counts.OpenCounts(c.Q())
	if err != nil {
		return err
	}
	began := c.Terms.DayBegan(s.Now())
	count, gross, err := till.TodaySales(c.Q(), began, s.Now())
	if err != nil {
		return err
	}
	lastCount, lastGross, err := till.TodaySales(c.Q(), began.AddDate(0, 0, -7), s.Now().AddDate(0, 0, -7))
	if err != nil {
		return err
	}
	loose, err := devices.Loose(c.Q(), s.Now())
	if err != nil {
		return err
	}
	var lists []storelists.ImportJob
	if c.Who.Can(staff.DeedCatalog) {
		if lists, err = storelists.OpenImportJobs(c.Q(), s.Now().AddDate(0, 0, -3), 5); err != nil {
			return err
		}
	}
	low12 := make([]uint64, len(low))
	for i, r := range low {
		low12[i] = r.ID
	}
	coming, err := storebuying.OnOrder(c.Q(), low12, 0)
	if err != nil {
		return err
	}
	expiring, err := book.Expiring(c.Q(), c.Terms.Day(s.Now()), 4)
	if err != nil {
		return err
	}
	var lots []lotView
	for _, l := range expiring {
		lots = append(lots, lotView{l, serial.Lot{Expiry: l.Expiry}.Expired(c.Terms.Day(s.Now()))})
	}
	buys, err := buying(c)
	if err != nil {
		return err
	}
	owing, err := till.Owing(c.Q(), 8)
	if err != nil {
		return err
	}
	hurried, err := goods.Hurried(c.Q(), 8)
	if err != nil {
		return err
	}
	due, err := dueCounts(c)
	if err != nil {
		return err
	}
	sendings, err := storesendings.OpenSendings(c.Q(), c.Who.Branch)
	if err != nil {
		return err
	}
	drawers := make([]drawerView, len(registers))
	for i, r := range registers {
		drawers[i] = drawerView{r, r.Drawer != 0 && sale.LeftOpen(*r.OpenedAt, began)}
	}
	openRegister := uint64(0)
	for _, r := range registers {
		if openRegister == 0 && r.Drawer != 0 && c.Who.At(r.BranchID, r.Branch) == nil {
			openRegister = r.ID
		}
	}
	return c.Page(
		"today",
		"Today",
		"Today",
		map[string]any{
			"Lists":        lists,
			"Low":          low,
			"LowCount":     lowCount,
			"Coming":       coming,
			"Buying":       buys,
			"Lots":         lots,
			"Empty":        lowCount == 0 && empty,
			"Off":          off,
			"OffFirst":     off.First(4),
			"Registers":    drawers,
			"Owing":        owing,
			"OpenRegister": openRegister,
			"Hurried":      hurried,
			"Counts":       open,
			"Due":          due,
			"Sendings":     sendings,
			"Takings": sale.Takings{Sales: count, Gross: gross}.Says(sale.Takings{Sales: lastCount, Gross: lastGross},
				began.In(c.Terms.Zone).Format("Monday"), c.Terms.Currency),
			"Loose":   loose,
			"Settles": c.Who.Can(staff.DeedReturn),
			"Sells":   c.Who.Can(staff.DeedSell),
		},
	)
}

// dueView is a count that is due; Late is for how many days.
type dueView struct {
	counts.ScheduleView
	Says string
	Late int
}

// dueCounts are the counts that the person has to do today, or has missed.
func dueCounts(c *kit.Call) ([]dueView, error) {
	list, err := counts.SchedulesOf(c.Q(), c.Who.ID)
	today := c.Terms.Day(c.Shop.Now())
	var due []dueView
	for _, v := range list {
		if v.Core().Due(today) {
			due = append(due, dueView{v, v.Core().Says(), int(today.Sub(v.NextOn).Hours() / 24)})
		}
	}
	return due, err
}

// drawerView is a register with its drawer; Left says that it was left open overnight.
type drawerView struct {
	till.RegisterView
	Left bool
}

// lotView is a lot that expires soon, or has expired.
type lotView struct {
	book.ExpiringLot
	Expired bool
}

// buyingView is what of buying needs a hand: orders that are late or due within a week,
// deliveries that were begun, bills that are due, and credits that are expected for long.
type buyingView struct {
	Orders  []orderView
	Late    int
	Drafts  []storebuying.DeliveryView
	Bills   []storebuying.BillView
	Due     decimal.Decimal
	Credits []storebuying.CreditExpected
	// MoreOrders and MoreBills say that there are others.
	MoreOrders, MoreBills bool
}

type orderView struct {
	storebuying.OrderView
	Late int
}

// How much Today shows, looks ahead, and after how many days a credit is expected for long.
const (
	fewest   = 7 // lines of each list
	soonDays = 7
	longDays = 14
)

func buying(c *kit.Call) (buyingView, error) {
	var v buyingView
	now := c.Shop.Now()
	today := c.Terms.Day(now)
	soon := today.AddDate(0, 0, soonDays)
	orders, _, err := storebuying.Orders(c.Q(), storebuying.OrderFilter{WantedBy: &soon}, 1)
	if err != nil {
		return v, err
	}
	for i, o := range orders {
		late := corebuying.DaysLate(o.State, o.WantedOn, today)
		if late > 0 {
			v.Late++
		}
		if i < fewest {
			v.Orders = append(v.Orders, orderView{o, late})
		}
	}
	v.MoreOrders = len(orders) > fewest
	if c.Who.Can(staff.DeedReceive) {
		if v.Drafts, err = storebuying.DeliveryDrafts(c.Q(), 8); err != nil {
			return v, err
		}
	}
	if !c.Who.Can(staff.DeedCosts) {
		return v, nil
	}
	if v.Bills, _, err = storebuying.Bills(c.Q(), storebuying.BillFilter{DueBy: &soon}, 1); err != nil {
		return v, err
	}
	for _, b := range v.Bills {
		v.Due = v.Due.Add(b.Open)
	}
	v.MoreBills = len(v.Bills) > fewest
	v.Bills = v.Bills[:min(fewest, len(v.Bills))]
	credits, err := storebuying.Credits(c.Q(), 0)
	for _, credit := range credits {
		if credit.Since.Before(now.AddDate(0, 0, -longDays)) {
			v.Credits = append(v.Credits, credit)
		}
	}
	return v, err
}
