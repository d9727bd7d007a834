package demo

import (
	"fmt"
	"time"

	"itemrack/shop/deed"
	"itemrack/shop/prices"
	"itemrack/shop/stockroom"
	"itemrack/store/book"
)

// between plays the sendings between the branches: one that is settled, one that is on the way in part,
// and one that the Boathouse wants.
func (h *history) between(ago int, at time.Time) error {
	const settled, shown, onWay, wanted = 12, 4, 1, 0
	ines := h.people["ines"]
	switch ago {
	case min(settled, h.days):
		id, err := h.sendOff(at, 1, 2, "for the summer window", h.styled("SRV", 3), "2")
		if err != nil {
			return err
		}
		_, err = stockroom.ArriveSending(deed.By(h.ctx, h.shop.At(at.Add(20*time.Hour)), ines, ""), id,
			stockroom.ArriveInput{All: true})
		return err
	case min(shown, h.days):
		return h.shownInTheWindow(at)
	case min(onWay, h.days):
		variants := h.styled("SRV", 5)
		id, err := h.sendOff(at, 1, 2, "for Saturday", variants, "3")
		if err != nil {
			return err
		}
		then := h.shop.At(at.Add(30 * time.Minute))
		view, err := stockroom.ReadSending(then, then.Store.Read(h.ctx), id)
		if err != nil {
			return err
		}
		for i, l := range view.Lines {
			here := fmt.Sprint([]int{3, 2, 4, 3, 0}[i%5])
			if here == "0" {
				continue
			}
			if _, err := stockroom.CountHere(deed.By(h.ctx, then, ines, ""), id,
				stockroom.HereInput{Line: l.ID, Quantity: here}); err != nil {
				return err
			}
		}
		_, err = stockroom.ArriveSending(deed.By(h.ctx, then, ines, ""), id, stockroom.ArriveInput{})
		return err
	case wanted:
		then := h.shop.At(at.Add(-time.Minute))
		ref, err := stockroom.BeginSending(deed.By(h.ctx, then, ines, ""), stockroom.SendingInput{From: 1, To: 2,
			Wanted: true, Note: "the rail is empty"})
		if err != nil {
			return err
		}
		for _, v := range h.styled("TLV", 3) {
			if _, err := stockroom.PutInSending(deed.By(h.ctx, then, ines, ""), ref.ID,
				stockroom.SendingPut{Variant: v, Quantity: "2"}); err != nil {
				return err
			}
		}
		return h.toTheWall(then)
	}
	return nil
}

// sendOff packs so many of each of some variants and lets them leave; what is not there stays.
func (h *history) sendOff(at time.Time, from, to uint64, note string, variants []uint64, q string) (uint64, error) {
	then, callum := h.shop.At(at), h.people["callum"]
	ref, err := stockroom.BeginSending(deed.By(h.ctx, then, h.people["ines"], ""), stockroom.SendingInput{From: from,
		To: to, Wanted: true, Note: note})
	if err != nil {
		return 0, err
	}
	for _, v := range variants {
		if _, err := stockroom.PutInSending(deed.By(h.ctx, then, h.people["ines"], ""), ref.ID,
			stockroom.SendingPut{Variant: v, Quantity: q}); err != nil {
			return 0, err
		}
	}
	if _, err := stockroom.PackSending(deed.By(h.ctx, then, callum, ""), ref.ID); err != nil {
		return 0, err
	}
	_, err = stockroom.SendOff(deed.By(h.ctx, then.At(at.Add(10*time.Minute)), callum, ""), ref.ID)
	return ref.ID, err
}

// hanging are variants of a style of which so many or more are for sale on the floor of the first branch.
func (h *history) hanging(style string, most, atLeast int) ([]uint64, error) {
	var list []uint64
	for _, v := range h.styled(style, len(h.goods)) {
		places, err := book.Places(h.shop.Store.Read(h.ctx), v)
		if err != nil {
			return nil, err
		}
		for _, p := range places {
			if p.BranchID == 1 && p.Shelf == "Floor" && p.Condition == "For sale" &&
				p.Quantity.IntPart() >= int64(atLeast) && len(list) < most {
				list = append(list, v)
			}
		}
	}
	return list, nil
}

// toTheWall moves a few goods from the floor to another shelf of the shop.
func (h *history) toTheWall(then *deed.Shop) error {
	shelves, err := book.ShelvesOf(h.shop.Store.Read(h.ctx), 1)
	if err != nil || len(shelves) < 2 {
		return err
	}
	move := stockroom.MoveInput{From: shelves[0].ID, To: shelves[1].ID, Note: "from the floor"}
	vests, err := h.hanging("SRV", 4, 1)
	if err != nil || len(vests) == 0 {
		return err
	}
	for _, v := range vests {
		move.Lines = append(move.Lines, stockroom.MoveLine{Variant: v, Quantity: "1"})
	}
	_, err = stockroom.MoveGoods(deed.By(h.ctx, then, h.people["callum"], ""), move)
	return err
}

// shownInTheWindow makes Seconds of what hung in the window, one of them at a price of its own, and lends two.
func (h *history) shownInTheWindow(at time.Time) error {
	then, ines := h.shop.At(at), h.people["ines"]
	vests, err := h.hanging("SRV", 3, 2)
	if err != nil || len(vests) == 0 {
		return err
	}
	for _, v := range vests {
		if _, err := stockroom.ChangeCondition(deed.By(h.ctx, then, ines, ""), stockroom.ChangeInput{Variant: v, Branch: 1,
			From: "For sale",
			To:   "Seconds", Quantity: "1", Note: "hung in the window"}); err != nil {
			return err
		}
	}
	if _, err := stockroom.ChangeCondition(deed.By(h.ctx, then, ines, ""), stockroom.ChangeInput{Variant: vests[0],
		Branch: 1, From: "For sale",
		To: "Lent", Quantity: "1", WithWhom: "the sailing club",
		BackBy: at.AddDate(0, 0, 9).Format(time.DateOnly)}); err != nil {
		return err
	}
	_, err = prices.SetInCondition(deed.By(h.ctx, then, h.people["maren"], ""), vests[0],
		prices.InConditionInput{Condition: "Seconds", Price: "25"})
	return err
}
