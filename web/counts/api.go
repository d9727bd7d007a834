package counts

import (
	"github.com/gofiber/fiber/v3"

	corecount "itemrack/core/count"
	shopcounts "itemrack/shop/counts"
	"itemrack/shop/deed"
	storecounts "itemrack/store/counts"
	"itemrack/web/kit"
)

func apiPlanCount(c *kit.Call, in shopcounts.CountPlan) (shopcounts.CountRef, error) {
	return shopcounts.PlanCount(c.Until, c.Shop, c.Who, c.Key(), in)
}

func apiCount(c *kit.Call, id uint64) (shopcounts.CountFigures, error) {
	return shopcounts.CountStands(c.Until, c.Shop, c.Who, id)
}

func apiCountEvent(c *kit.Call, id uint64, in shopcounts.CountInput) (shopcounts.Counted, error) {
	return shopcounts.Count(c.Until, c.Shop, c.Who, c.Key(), id, in)
}

func apiStrike(c *kit.Call, id uint64) (shopcounts.CountRef, error) {
	return shopcounts.Strike(c.Until, c.Shop, c.Who, c.Key(), id, fiber.Params[uint64](c.Ctx, "event"))
}

type stateInput struct {
	State corecount.State `json:"state"`
}

func apiMoveCount(c *kit.Call, id uint64, in stateInput) (shopcounts.CountRef, error) {
	return shopcounts.MoveCount(c.Until, c.Shop, c.Who, c.Key(), id, in.State)
}

func apiSettle(c *kit.Call, id uint64, in shopcounts.SettleInput) (deed.Posted, error) {
	return shopcounts.SettleCount(c.Until, c.Shop, c.Who, c.Key(), id, in)
}

func apiCounts(c *kit.Call, page int) ([]storecounts.CountView, bool, error) {
	return storecounts.Counts(c.Q(), page)
}
