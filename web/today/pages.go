package today

import (
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/store/book"
	"itemrack/store/counts"
	"itemrack/store/devices"
	storelists "itemrack/store/lists"
	"itemrack/store/trade"
	"itemrack/web/kit"
)

func today(c *kit.Call) error {
	s := c.Shop
	low, lowCount, err := book.Low(c.Q(), 12)
	if err != nil {
		return err
	}
	off, err := book.NotForSale(c.Q(), 8)
	if err != nil {
		return err
	}
	registers, err := trade.Registers(c.Q())
	if err != nil {
		return err
	}
	open, err := counts.OpenCounts(c.Q())
	if err != nil {
		return err
	}
	began := c.Terms.DayBegan(s.Now())
	count, gross, err := trade.TodaySales(c.Q(), began, s.Now())
	if err != nil {
		return err
	}
	lastCount, lastGross, err := trade.TodaySales(c.Q(), began.AddDate(0, 0, -7), s.Now().AddDate(0, 0, -7))
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
	return c.Page(
		"today",
		"Today",
		"Today",
		map[string]any{
			"Lists":     lists,
			"Low":       low,
			"LowCount":  lowCount,
			"Off":       off,
			"Registers": registers,
			"Counts":    open,
			"Takings": sale.Takings{Sales: count, Gross: gross}.Says(sale.Takings{Sales: lastCount, Gross: lastGross},
				began.In(c.Terms.Zone).Format("Monday"), c.Terms.Currency),
			"Loose":   loose,
			"Settles": c.Who.Can(staff.DeedReturn),
			"Sells":   c.Who.Can(staff.DeedSell),
		},
	)
}
