package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/count"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	shopregister "itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// history plays days of the shop, with the clock set to each moment.
type history struct {
	ctx    context.Context
	shop   *deed.Shop
	set    terms.Terms
	rand   *rand.Rand
	days   int
	people map[string]staff.Actor
	goods  []book.StockRow
	by     map[string]uint64 // variant by SKU
	serial int
	sales  []string // numbers of this week's sales
	// customers are those whom the shop knows, and vouchers the codes that were given.
	customers []uint64
	vouchers  []string
	// unbilled are deliveries whose bill comes later, in the order in which they come.
	unbilled []waiting
	late     uint64 // the order that is late
}

func newHistory(ctx context.Context, s *deed.Shop, days int, seed uint64) (*history, error) {
	h := &history{ctx: ctx, shop: s, rand: rand.New(rand.NewPCG(seed, 0x5a17)), days: days, by: map[string]uint64{}}
	var err error
	if h.set, err = s.Store.Read(ctx).Terms(); err != nil {
		return nil, err
	}
	if h.people, err = people(ctx, s); err != nil {
		return nil, err
	}
	if err := importList(ctx, s.At(day(s, days+1, h.set.Zone).Add(9*time.Hour)), h.people["maren"]); err != nil {
		return nil, err
	}
	for page, more := 1, true; more; page++ {
		var rows []book.StockRow
		if rows, more, err = book.StockList(s.Store.Read(ctx), book.StockQuery{}, page); err != nil {
			return nil, err
		}
		h.goods = append(h.goods, rows...)
	}
	for _, row := range h.goods {
		h.by[row.SKU] = row.ID
	}
	services, _, err := goods.Products(s.Store.Read(ctx), goods.ListFilter{Words: "lesson"}, 1)
	if err != nil || len(services) == 0 {
		return nil, fmt.Errorf("the demo's lesson is missing: %w", err)
	}
	lesson, err := goods.ReadProduct(s.Store.Read(ctx), services[0].ID, 1, s.Now())
	if err != nil {
		return nil, err
	}
	h.by["lesson"] = lesson.Variants[0].ID
	return h, nil
}

// play goes through the days, the last of them today up to now, and tells how many are done.
func (h *history) play(told func(days int)) error {
	for ago := h.days; ago >= 0; ago-- {
		told(h.days - ago)
		if err := h.playDay(ago); err != nil {
			return fmt.Errorf("%d days ago: %w", ago, err)
		}
	}
	return nil
}

func (h *history) playDay(ago int) error {
	morning := day(h.shop, ago, h.set.Zone).Add(8*time.Hour + 55*time.Minute)
	end := morning.Add(8 * time.Hour)
	if ago == 0 {
		end = h.shop.Now()
		if end.Before(morning.Add(time.Hour)) { // a demo begun at night: the shop has just opened
			morning = end.Add(-time.Hour)
		}
	}
	if err := h.deliveries(ago, morning); err != nil {
		return err
	}
	clerk := h.people[[]string{"tobi", "ines"}[h.rand.IntN(2)]]
	if ago == h.days {
		if err := h.makeCustomers(morning.Add(-time.Hour)); err != nil {
			return err
		}
	}
	if _, err := shopregister.OpenDrawer(deed.By(h.ctx, h.shop.At(morning), clerk, ""), 1, "120.00"); err != nil {
		return err
	}
	if err := h.sell(ago, morning, end, clerk); err != nil {
		return err
	}
	if err := h.atRegister(ago, end.Add(-30*time.Minute), clerk); err != nil {
		return err
	}
	if err := h.counts(ago, end); err != nil {
		return err
	}
	if err := h.between(ago, end.Add(-40*time.Minute)); err != nil {
		return err
	}
	if err := h.bills(ago, end.Add(-20*time.Minute)); err != nil {
		return err
	}
	if err := h.onOrder(ago, end.Add(-10*time.Minute)); err != nil {
		return err
	}
	if ago == 0 {
		return nil
	}
	return h.cashUp(ago, end, clerk)
}

// deliveries brings what comes on this day.
func (h *history) deliveries(ago int, at time.Time) error {
	at = at.Add(-30 * time.Minute)
	switch {
	case ago == h.days:
		if err := h.receive(at, "Brackwater Boards", "BB-2291", "24.00", h.boards(4), h.watches(3)); err != nil {
			return err
		}
		return h.receive(at.Add(10*time.Minute), "Pale Dune Supplies", "PD-8810", "6.50",
			h.lot("SUN", "48", "5.90", "K614", 60), h.lot("SUN", "60", "6.10", "K702", 420),
			h.lot("BAR", "96", "0.98", "L20", 45), h.lot("GLU", "12", "3.40", "G7", 300))
	case ago == h.days*3/4, ago == h.days/4:
		return h.receive(at, "Pale Dune Supplies", fmt.Sprintf("PD-88%02d", ago), "5.00",
			h.lot("SUN", "48", "6.05", fmt.Sprintf("K7%02d", ago), 400),
			h.lot("BAR", "144", "1.00", fmt.Sprintf("L2%02d", ago), 120), h.boards(2), h.watches(2))
	case ago == h.days/2:
		if err := h.receive(at, "Kelpline Textiles", "KT-441", "9.00", h.restock("SRV", "14.20")...); err != nil {
			return err
		}
		return h.receive(at.Add(10*time.Minute), "Brackwater Boards", "BB-2304", "12.00", h.boards(2))
	case ago == h.days/5:
		return h.receive(at, "Northfold Neoprene", "NN-1187", "22.00", h.restock("NWS", "53.10")...)
	case ago == 3:
		return h.receive(at, "Pale Dune Supplies", "PD-8932", "", h.lot("BAR", "48", "1.02", "L31", 90),
			h.lot("BAR", "36", "0.70", "L29", 18),
			h.plain("WAX", "40", "1.40"))
	case ago > 2 && ago%4 == 0: // the last days' shelves stay as they were sold down
		return h.refill(ago, at)
	}
	return nil
}

// refill brings what has sold down to its restock level from one supplier after another.
func (h *history) refill(ago int, at time.Time) error {
	q := h.shop.Store.Read(h.ctx)
	suppliers, err := goods.Suppliers(q)
	if err != nil {
		return err
	}
	from := suppliers[ago/4%len(suppliers)].Name
	var lines []scan.GoodsLine
	for page, more := 1, true; more; page++ {
		var rows []goods.VariantRow
		if rows, more, err = goods.Variants(q, goods.ListFilter{}, page); err != nil {
			return err
		}
		for _, v := range rows {
			least := decimal.New(2, 0)
			if v.RestockLevel != nil {
				least = v.RestockLevel.Add(decimal.New(1, 0))
			}
			if v.Supplier != from || v.Tracking != string(stock.Counted) || v.Discontinued || v.Cost == nil ||
				v.ForSale.GreaterThan(least) ||
				h.rand.IntN(5) == 0 {
				continue
			}
			lines = append(lines, scan.GoodsLine{Variant: v.ID, Quantity: fmt.Sprint(8 + h.rand.IntN(9)),
				Cost: v.Cost.String()})
		}
	}
	if len(lines) == 0 {
		return nil
	}
	supplier, err := h.supplierNamed(from)
	if err != nil {
		return err
	}
	order, err := h.order(at.AddDate(0, 0, -max(1, supplier.LeadDays)), supplier, true, lines...)
	if err != nil {
		return err
	}
	return h.come(at, order, lines, arrival{fmt.Sprintf("%.2s-%04d", strings.ToUpper(from), 5000-ago), ago%8 == 0,
		ago%12 != 0 || ago > 30})
}

func (h *history) boards(n int) scan.GoodsLine {
	return h.numbered("BWB", "BW26-0", n, "310.00")
}

func (h *history) watches(n int) scan.GoodsLine {
	return h.numbered("TPW", "TPW", n, "88.00")
}

func (h *history) numbered(sku, prefix string, n int, cost string) scan.GoodsLine {
	line := h.plain(sku, fmt.Sprint(n), cost)
	for range n {
		h.serial++
		line.Serials += fmt.Sprintf("%s%04d,", prefix, 1180+h.serial)
	}
	return line
}

func (h *history) plain(sku, quantity, cost string) scan.GoodsLine {
	return scan.GoodsLine{Variant: h.by[sku], Quantity: quantity, Cost: cost}
}

// lot is a line whose lot expires so many days from now.
func (h *history) lot(sku, quantity, cost, number string, days int) scan.GoodsLine {
	line := h.plain(sku, quantity, cost)
	line.Lot, line.Expiry = number, day(h.shop, -days, h.set.Zone).Format(time.DateOnly)
	return line
}

// restock brings some of each variant of a style.
func (h *history) restock(style, cost string) []scan.GoodsLine {
	var lines []scan.GoodsLine
	for _, g := range h.goods {
		if len(g.SKU) > 3 && g.SKU[:4] == style+"-" && h.rand.IntN(3) > 0 {
			lines = append(lines, h.plain(g.SKU, fmt.Sprint(2+h.rand.IntN(6)), cost))
		}
	}
	return lines
}

func (h *history) receive(at time.Time, supplier, number, freight string, lines ...scan.GoodsLine) error {
	suppliers, err := goods.Suppliers(h.shop.Store.Read(h.ctx))
	if err != nil {
		return err
	}
	in := buying.DeliveryInput{Branch: 1, SupplierNumber: number, Extra: freight, Lines: lines}
	for _, s := range suppliers {
		if s.Name == supplier {
			in.Supplier = s.ID
		}
	}
	then := h.shop.At(at)
	draft, err := buying.SaveDelivery(deed.By(h.ctx, then, h.people["callum"], ""), 0, in)
	if err != nil {
		return err
	}
	// with the goods came their bill, which Maren enters
	_, err = buying.PostDelivery(deed.By(h.ctx, then, h.people["maren"], ""), draft.ID, buying.DeliveryPosting{})
	return err
}

// counts plays one count that is settled and, today, one that is half done.
func (h *history) counts(ago int, at time.Time) error {
	categories, err := goods.Categories(h.shop.Store.Read(h.ctx))
	if err != nil {
		return err
	}
	id := map[string]uint64{}
	for _, c := range categories {
		id[c.Path] = c.ID
	}
	switch ago {
	case h.days / 3, h.days * 2 / 3:
		category := "Swim > Goggles and caps"
		if ago > h.days/3 {
			category = "Paddle > Board care"
		}
		plan, err := h.countSome(at.Add(-time.Hour), id[category], -1)
		if err != nil {
			return err
		}
		then := h.shop.At(at.Add(-20 * time.Minute))
		if _, err := counts.MoveCount(deed.By(h.ctx, then, h.people["callum"], ""), plan, count.Settling); err != nil {
			return err
		}
		_, err = counts.SettleCount(deed.By(h.ctx, then, h.people["callum"], ""), plan,
			counts.SettleInput{Uncounted: "leave"})
		return err
	case 0:
		if _, err := h.countSome(at.Add(-time.Minute), id["Shore > Bags"], 3); err != nil {
			return err
		}
		if err := h.schedules(at.Add(-2 * time.Minute)); err != nil {
			return err
		}
		return h.byTwo(at.Add(-35 * time.Minute))
	}
	return nil
}

// countSome counts a category, up to so many rows; one row comes out one short.
func (h *history) countSome(at time.Time, category uint64, most int) (uint64, error) {
	then := h.shop.At(at)
	plan, err := counts.PlanCount(deed.By(h.ctx, then, h.people["callum"], ""), counts.CountPlan{Branch: 1,
		Category: category})
	if err != nil {
		return 0, err
	}
	figures, err := counts.CountStands(deed.By(h.ctx, then, h.people["maren"], ""), plan.ID)
	if err != nil {
		return 0, err
	}
	for i, f := range figures.Rows {
		if i == most {
			break
		}
		q := f.Expected
		if i == 1 && q.IsPositive() {
			q = q.Sub(decimal.New(1, 0))
		}
		in := counts.CountInput{
			Variant:   f.Key.Variant,
			Lot:       f.Key.Lot,
			Condition: string(f.Key.Condition),
			Quantity:  q.String(),
		}
		if _, err := counts.Count(deed.By(h.ctx, then, h.people["callum"], ""), plan.ID, in); err != nil {
			return 0, err
		}
	}
	return plan.ID, nil
}
