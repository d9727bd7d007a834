package counts

import (
	"slices"
	"time"

	"github.com/gofiber/fiber/v3"

	corecount "itemrack/core/count"
	"itemrack/core/fault"
	shopcounts "itemrack/shop/counts"
	"itemrack/shop/deed"
	storecounts "itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

func apiPlanCount(c *kit.Call, in shopcounts.CountPlan) (shopcounts.CountRef, error) {
	return shopcounts.PlanCount(c.Deed(), in)
}

func apiCount(c *kit.Call, id uint64) (shopcounts.CountFigures, error) {
	return shopcounts.CountStands(c.Deed(), id)
}

func apiCountEvent(c *kit.Call, id uint64, in shopcounts.CountInput) (shopcounts.Counted, error) {
	if in.DoneMS != 0 {
		clock, err := c.DeviceClock()
		if err != nil {
			return shopcounts.Counted{}, err
		}
		if in.AgoMS, err = corecount.Ago(in.DoneMS, clock); err != nil {
			return shopcounts.Counted{}, err
		}
	}
	return shopcounts.Count(c.Deed(), id, in)
}

func apiStrike(c *kit.Call, id uint64) (shopcounts.CountRef, error) {
	return shopcounts.Strike(c.Deed(), id, fiber.Params[uint64](c.Ctx, "event"))
}

type stateInput struct {
	State corecount.State `json:"state"`
}

func apiMoveCount(c *kit.Call, id uint64, in stateInput) (shopcounts.CountRef, error) {
	return shopcounts.MoveCount(c.Deed(), id, in.State)
}

func apiSettle(c *kit.Call, id uint64, in shopcounts.SettleInput) (deed.Posted, error) {
	return shopcounts.SettleCount(c.Deed(), id, in)
}

func apiCounts(c *kit.Call, page int) ([]storecounts.CountView, bool, error) {
	return storecounts.Counts(c.Q(), page)
}

func apiRow(c *kit.Call, id uint64, in shopcounts.RowInput) (shopcounts.CountRef, error) {
	return shopcounts.ChangeRow(c.Deed(), id, fiber.Params[uint64](c.Ctx, "row"), in)
}

func apiRelease(c *kit.Call, id uint64) (shopcounts.CountRef, error) {
	return shopcounts.ReleaseCount(c.Deed(), id)
}

func apiGiveUp(c *kit.Call, id uint64) (shopcounts.CountRef, error) {
	return shopcounts.GiveUp(c.Deed(), id)
}

func apiCounters(c *kit.Call, id uint64, in shopcounts.CountersInput) (shopcounts.CountRef, error) {
	return shopcounts.ChangeCounters(c.Deed(), id, in)
}

func apiNews(c *kit.Call, id uint64) (shopcounts.News, error) {
	since := c.Shop.Now()
	if typed := c.Query("since"); typed != "" {
		at, err := time.Parse(time.RFC3339Nano, typed)
		if err != nil {
			return shopcounts.News{}, fault.Field("since", typed, "a moment as 2026-11-27T10:00:00Z",
				"%q is not a moment.", typed)
		}
		since = at
	}
	return shopcounts.ReadNews(c.Deed(), id, fiber.Query[uint64](c.Ctx, "after"), since)
}

// known is goods of a count as a device keeps them, to tell them while it has no line.
type known struct {
	Variant  uint64   `json:"variant_id"`
	Name     string   `json:"name"`
	Label    string   `json:"label"`
	SKU      string   `json:"sku"`
	Tracking string   `json:"tracking"`
	Swatch   string   `json:"swatch"`
	Picture  uint64   `json:"picture_id"`
	Codes    []string `json:"codes"`
}

// mostKnown is how many goods of a count a device keeps.
const mostKnown = 3000

func apiGoods(c *kit.Call, id uint64) ([]known, error) {
	rows, _, err := storecounts.RowsPage(c.Q(), id, "", "", 1, mostKnown)
	if err != nil {
		return nil, err
	}
	var ids []uint64
	for _, r := range rows {
		if !slices.Contains(ids, r.VariantID) {
			ids = append(ids, r.VariantID)
		}
	}
	items, err := goods.Sellables(c.Q(), ids, c.Shop.Now())
	if err != nil {
		return nil, err
	}
	looks, err := goods.Looks(c.Q(), ids)
	if err != nil {
		return nil, err
	}
	list := make([]known, len(ids))
	for i, v := range ids {
		item, look := items[v], looks[v]
		list[i] = known{Variant: v, Name: item.Name, Label: item.Label, SKU: item.SKU,
			Tracking: string(item.Tracking), Swatch: look.Swatch,
			Picture: look.PictureID, Codes: append([]string{}, look.Codes...)}
	}
	return list, nil
}

func apiSchedules(c *kit.Call) ([]shopcounts.ScheduleView, error) { return shopcounts.Schedules(c.Q()) }

func apiDue(c *kit.Call) ([]shopcounts.Due, error) {
	return shopcounts.DueOf(c.Until, c.Shop, c.Who.ID)
}

func apiMakeSchedule(c *kit.Call, in shopcounts.ScheduleInput) (shopcounts.ScheduleView, error) {
	return shopcounts.SaveSchedule(c.Deed(), 0, in)
}

func apiChangeSchedule(c *kit.Call, id uint64, in shopcounts.ScheduleInput) (shopcounts.ScheduleView, error) {
	return shopcounts.SaveSchedule(c.Deed(), id, in)
}

func apiPrepare(c *kit.Call, id uint64, in shopcounts.PrepareInput) (shopcounts.CountRef, error) {
	return shopcounts.Prepare(c.Deed(), id, in)
}

func apiCalendar(c *kit.Call) (shopcounts.CalendarKey, error) {
	return shopcounts.NewCalendar(c.Deed())
}

func apiHistory(c *kit.Call, page int) ([]storecounts.History, bool, error) {
	return storecounts.Histories(c.Q(), page)
}
