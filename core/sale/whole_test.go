package sale_test

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/unit"
)

var day = time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)

// shop is goods on one shelf: each with many in stock at a cost, and its price.
type shop struct {
	held  stock.Holding
	found map[uint64]sale.Sellable
}

func shopOf(prices ...string) *shop {
	pc, err := unit.ByCode("pc")
	if err != nil {
		panic(err)
	}
	s := &shop{held: stock.Holding{Minor: money.Hundredth, Items: map[uint64]stock.Item{},
		Shelves: map[uint64]stock.Shelf{1: {Branch: 1}}, Pools: map[uint64]cost.Pool{},
		Balances: map[stock.Key]decimal.Decimal{}},
		found: map[uint64]sale.Sellable{}}
	for i, p := range prices {
		id := uint64(i + 1)
		v := sale.Sellable{ID: id, ProductID: id, Name: "Thing " + p, Tracking: stock.Counted, Unit: pc, Percent: d("20"),
			Price: d(p), HasPrice: true, Book: price.Book{Minor: money.Hundredth, Basis: tax.With}}
		s.found[id] = v
		s.held.Items[id] = v.Item()
		s.held.Pools[id] = cost.Pool{Quantity: d("1000"), Value: d("1000")}
		s.held.Balances[stock.Key{Variant: id, Shelf: 1, Condition: stock.ForSale}] = d("1000")
	}
	return s
}

func (s *shop) draft(kind stock.Kind) *stock.Draft {
	return stock.NewDraft(s.held, stock.Document{Kind: kind, Number: "Q1-00001", Branch: 1, HappenedAt: day,
		RecordedAt: day})
}

// basket puts so many of each of its goods on a basket.
func (s *shop) basket(off sale.Off, quantities ...string) sale.Basket {
	b := sale.Basket{List: 1, Off: off}
	for i, q := range quantities {
		v := s.found[uint64(i+1)]
		b.Lines = append(b.Lines, sale.BasketLine{ID: v.ID, Variant: v.ID, Quantity: d(q), Price: v.Price})
	}
	return b
}

func off(t require.TestingT, typed string) sale.Off {
	o, err := sale.ReadOff(typed, money.Hundredth)
	require.NoError(t, err)
	return o
}

func totals(lines []sale.Line) []string {
	var list []string
	for _, l := range lines {
		list = append(list, l.Total().StringFixed(2))
	}
	return list
}

// TestABasketDiscountIsShared holds 10.00 off 30.00 + 20.00 + 17.00.
func TestABasketDiscountIsShared(t *testing.T) {
	s := shopOf("30.00", "20.00", "17.00")
	lines := sale.Priced(s.basket(off(t, "10.00"), "1", "1", "1"), s.found)
	assert.Equal(t, []string{"25.52", "17.02", "14.46"}, totals(lines), "4.48, 2.98 and 2.54 less")
	assert.Equal(t, "57.00", sale.Sum(lines).Gross.StringFixed(2))
	assert.Equal(t, "10", sale.SharedOff(s.basket(off(t, "10"), "1", "1", "1"), s.found).String())
}

// TestARefundIsWhatWasPaid holds 2 × 25.00 + 50.00 less 10.00, and 3 × 7.99 less 4.00.
func TestARefundIsWhatWasPaid(t *testing.T) {
	s := shopOf("25.00", "50.00")
	lines := sale.Priced(s.basket(off(t, "10.00"), "2", "1"), s.found)
	assert.Equal(t, []string{"45.00", "45.00"}, totals(lines))
	one := shopOf("7.99")
	lines = sale.Priced(one.basket(off(t, "4.00"), "3"), one.found)
	assert.Equal(t, []string{"19.97"}, totals(lines))
	three := sale.Line{Quantity: d("3"), Price: d("9.49"), Percent: d("20"), Minor: money.Hundredth}
	assert.Equal(t, "4.75", three.Tax().StringFixed(2), "of the line, not 3 × 1.58")
}

func TestDiscountsAsTheyAreTyped(t *testing.T) {
	for typed, says := range map[string]string{"10 %": "10 %", "10%": "10 %", " 7.5 % ": "7.5 %", "4": "4.00",
		"4.50": "4.50", "": "",
		"0": "", "0 %": "", "100 %": "100 %"} {
		assert.Equal(t, says, off(t, typed).Says(money.Hundredth), typed)
	}
	for _, typed := range []string{"101 %", "-1", "-1 %", "ten", "%", "1.005", "1e3 %"} {
		_, err := sale.ReadOff(typed, money.Hundredth)
		require.Error(t, err, typed)
		assert.Equal(t, "off", fault.Of(err).Field, typed)
	}
	assert.Error(t, off(t, "5.01").Fits(d("5.00"), money.Hundredth), "more than it costs")
	assert.NoError(t, off(t, "5.00").Fits(d("5.00"), money.Hundredth))
	assert.True(t, off(t, "1.01").Beyond(d("10"), d("10.00"), money.Hundredth))
	assert.False(t, off(t, "1.00").Beyond(d("10"), d("10.00"), money.Hundredth))
	assert.False(t, off(t, "10 %").Beyond(d("10"), d("34.95"), money.Hundredth), "3.50 is a little more than 10 %")
	assert.True(t, off(t, "11 %").Beyond(d("10"), d("10.00"), money.Hundredth))
	assert.False(t, sale.Off{}.Beyond(d("0"), d("0"), money.Hundredth))
}

// TestCashIsRounded holds 12.37 in cash → 12.35, with the −0.02 on its account; cards pay 12.37.
func TestCashIsRounded(t *testing.T) {
	step := d("0.05")
	paid, err := sale.Pay(d("12.37"), []sale.Tender{{Kind: sale.Cash, Amount: d("20")}}, step, money.Hundredth)
	require.NoError(t, err)
	assert.Equal(t, "12.35 0.02 7.65", paid.Of(sale.Cash).String()+" "+paid.Of(sale.CashRounded).String()+" "+
		paid.Change().String())
	draft := shopOf().draft(stock.Sale)
	paid.Post(draft)
	postings := draftPostings(t, draft)
	assert.Equal(t, "0.02", postings[ledger.CashRounding].String(), "a debit: the shop gets so much less")
	assert.Equal(t, "12.35", postings[ledger.Cash].String())
	paid, err = sale.Pay(d("12.37"), []sale.Tender{{Kind: sale.Card, Amount: d("12.37")}}, step, money.Hundredth)
	require.NoError(t, err)
	assert.Equal(t, "12.37", paid.Of(sale.Card).String())
	assert.Len(t, paid, 1)
	for due, want := range map[string]string{"12.32": "12.3", "12.33": "12.35", "12.375": "12.4", "0.02": "0"} {
		assert.Equal(t, want, sale.Rounded(d(due), step).String(), due)
	}
	for _, wrong := range []string{"0.03", "-1", "x", "0.005"} {
		_, err := sale.Step("cash_rounding", wrong, money.Hundredth)
		require.Error(t, err, wrong)
	}
	for minor, steps := range map[money.Minor][]string{-2: {"5", "10", "100"}, money.Hundredth: {"0.05", "0.10", "1"},
		1: {"0.005", "0.050"}} {
		for _, typed := range steps {
			_, err := sale.Step("cash_rounding", typed, minor)
			require.NoError(t, err, "%s of %d places", typed, minor.Places())
		}
	}
	for minor, most := range map[money.Minor]string{-2: "1000000", money.Hundredth: "10000", 1: "1000"} {
		require.NoError(t, sale.CheckVoucher(d(most), 0, minor))
		require.Error(t, sale.CheckVoucher(d(most).Add(minor.Smallest()), 0, minor))
	}
}

func draftPostings(t require.TestingT, draft *stock.Draft) map[ledger.Account]decimal.Decimal {
	document, _ := draft.Document()
	all := map[ledger.Account]decimal.Decimal{}
	for _, p := range document.Postings {
		all[p.Account] = p.Amount
	}
	return all
}

func TestSeveralWaysToPay(t *testing.T) {
	given := []sale.Tender{{Kind: sale.ByVoucher, Amount: d("20"), Credit: 7}, {Kind: sale.Card, Amount: d("25")},
		{Kind: sale.Cash, Amount: d("10")}}
	paid, err := sale.Pay(d("50"), given, d("0"), money.Hundredth)
	require.NoError(t, err)
	assert.Equal(t, "5", paid.Change().String())
	assert.True(t, paid.Sum().Equal(d("50")))
	_, err = sale.Pay(d("50"), given[:2], d("0"), money.Hundredth)
	assert.Equal(t, "cash", fault.Of(err).Field, "5.00 are missing")
	_, err = sale.Pay(d("10"), given[:1], d("0"), money.Hundredth)
	assert.Equal(t, "voucher", fault.Of(err).Field, "change comes from cash only")
	_, err = sale.Pay(d("10"), []sale.Tender{{Kind: "exchange", Amount: d("10")}}, d("0"), money.Hundredth)
	assert.Error(t, err, "nobody says what the basket says")
}

func refund(amount string, how sale.RefundHow, paid ...sale.Tender) string {
	said := ""
	for _, t := range new(sale.Refunding).Of(d(amount), paid, how) {
		said += string(t.Kind) + " " + t.Amount.String() + "; "
	}
	return said
}

// TestARefundGoesBackAsItWasPaid holds the order: card, account, voucher or store credit, cash.
func TestARefundGoesBackAsItWasPaid(t *testing.T) {
	paid := []sale.Tender{{Kind: sale.Cash, Amount: d("10")}, {Kind: sale.ByVoucher, Amount: d("20"), Credit: 3},
		{Kind: sale.Card, Amount: d("30"), Reference: "sale/1/a"}}
	assert.Equal(t, "card -25; ", refund("25", sale.AsPaid, paid...))
	assert.Equal(t, "card -30; voucher -15; ", refund("45", sale.AsPaid, paid...), "never above what the card paid")
	assert.Equal(t, "card -30; voucher -20; cash -10; ", refund("60", sale.AsPaid, paid...))
	assert.Equal(t, "store credit -60; ", refund("60", sale.ToCredit, paid...))
	assert.Equal(t, "cash -60; ", refund("60", sale.InCash, paid...))
	assert.Equal(t, "on account -5; ", refund("5", sale.AsPaid, sale.Tender{Kind: sale.OnAccount, Amount: d("9")}))
	assert.Error(t, sale.CheckHow("gold"))
}

func TestVouchers(t *testing.T) {
	code := sale.CreditCode(sale.ByVoucher, 1234567890123)
	kind, same, err := sale.ReadCredit(" vo " + code[3:8] + code[8:] + " ")
	require.NoError(t, err)
	assert.Equal(t, sale.ByVoucher, kind)
	assert.Equal(t, code, same)
	other := []byte(code)
	other[len(other)-1] = '0' + (other[len(other)-1]-'0'+1)%10
	_, _, err = sale.ReadCredit(string(other))
	assert.ErrorContains(t, err, "misread")
	assert.True(t, sale.IsCredit(code) && sale.IsCredit(sale.CreditCode(sale.ByCredit, 5)))
	assert.False(t, sale.IsCredit("2000000000015") || sale.IsCredit(""))

	now := day
	c := sale.Credit{Code: code, Balance: d("25")}
	assert.Equal(t, sale.CreditGiven, c.State())
	assert.NoError(t, c.Use(d("25"), money.Hundredth))
	assert.ErrorContains(t, c.Use(d("25.01"), money.Hundredth), "25.00 left")
	c.Balance = d("0")
	assert.Equal(t, sale.CreditUsed, c.State())
	c.BlockedAt = &now
	assert.Equal(t, sale.CreditBlocked, c.State())
	assert.ErrorContains(t, c.Use(d("0"), money.Hundredth), "blocked")
	for _, amount := range []string{"0", "-1", "10001"} {
		assert.Error(t, sale.CheckVoucher(d(amount), 0, money.Hundredth), amount)
	}

	// selling one is no income and no tax
	s := shopOf("10.00")
	b := s.basket(sale.Off{}, "1")
	b.Vouchers = []decimal.Decimal{d("25")}
	lines, err := sale.Ready(b, s.found, nil)
	require.NoError(t, err)
	due := sale.Due(sale.Sums(lines), b.Vouchers, decimal.Zero)
	assert.Equal(t, "35", due.String())
	paid, err := sale.Pay(due, []sale.Tender{{Kind: sale.Card, Amount: due}}, decimal.Zero, money.Hundredth)
	require.NoError(t, err)
	draft := s.draft(stock.Sale)
	_, err = sale.Sell(draft, 1, day, b, lines, paid, nil)
	require.NoError(t, err)
	postings := draftPostings(t, draft)
	assert.Equal(t, "-25", postings[ledger.Vouchers].String())
	assert.Equal(t, "-8.33", postings[ledger.Income].String())
	assert.Equal(t, "-1.67", postings[ledger.TaxOut].String())
}

func TestCashIsPutInAndTakenOut(t *testing.T) {
	d0 := sale.Drawer{Float: d("100"), Cash: d("50"), PutIn: d("20"), Taken: d("30"), PaidOut: d("5")}
	assert.Equal(t, "135", d0.ShouldBe().String())
	assert.Equal(t, "-1.5", d0.Difference(d("133.50")).String())
	draft := shopOf().draft(stock.CashMoved)
	require.NoError(t, sale.MoveCash(draft, sale.TakenOut, d("30"), d("135"), ledger.Expenses, money.Hundredth))
	assert.Equal(t, "-30", draftPostings(t, draft)[ledger.Cash].String())
	assert.Error(t, sale.MoveCash(draft, sale.TakenOut, d("135.01"), d("135"), ledger.Expenses, money.Hundredth),
		"more than is there")
	assert.Error(t, sale.MoveCash(draft, sale.PutIn, d("0"), d("135"), ledger.Bank, money.Hundredth))
	assert.Error(t, sale.MoveCash(draft, "lost", d("1"), d("135"), ledger.Bank, money.Hundredth))
	assert.True(t, sale.LeftOpen(day.Add(-time.Hour), day))
	assert.False(t, sale.LeftOpen(day.Add(time.Hour), day))
}

// TestReasonsPostToTheirAccounts holds that what is given off is told under the account of its reason.
func TestReasonsPostToTheirAccounts(t *testing.T) {
	s := shopOf("24.00")
	reasons := []reason.Reason{{ID: 1, Kind: reason.GivenOff, Account: ledger.GivenOff},
		{ID: 2, Kind: reason.Price, Account: ledger.Income}}
	b := s.basket(sale.Off{}, "2")
	listed := d("24.00")
	b.Lines[0].Off = sale.Off{Kind: sale.OffAmount, Value: d("6.00"), Reason: 1}
	b.Lines[0].Price, b.Lines[0].ListPrice, b.Lines[0].Why = d("18.00"), &listed, 2
	lines, err := sale.Ready(b, s.found, nil)
	require.NoError(t, err)
	assert.Equal(t, "30.00", sale.Sums(lines).Gross.StringFixed(2), "2 × 18.00 less 6.00")
	paid, err := sale.Pay(d("30"), []sale.Tender{{Kind: sale.Cash, Amount: d("30")}}, decimal.Zero, money.Hundredth)
	require.NoError(t, err)
	draft := s.draft(stock.Sale)
	_, err = sale.Sell(draft, 1, day, b, lines, paid, reasons)
	require.NoError(t, err)
	postings := draftPostings(t, draft)
	assert.Equal(t, "5", postings[ledger.GivenOff].String(), "6.00 less its tax")
	assert.Equal(t, "-30", postings[ledger.Income].String(), "40.00 as it is listed, 10.00 less for the other price")
	assert.Equal(t, "-5", postings[ledger.TaxOut].String())
}

// TestMoneyAloneIsRefunded holds a refund while the customer keeps the goods, and what is left for them.
func TestMoneyAloneIsRefunded(t *testing.T) {
	sold := sale.Sold{Quantity: d("2"), Paid: d("20.00"), Tax: d("3.33"), Cost: d("8"), Minor: money.Hundredth}
	r, err := sold.Lower(d("5.00"))
	require.NoError(t, err)
	assert.Equal(t, "5 0.83 0", r.Amount.String()+" "+r.Tax.String()+" "+r.Cost.String())
	sold.Refunded, sold.Lowered, sold.TaxBack, sold.TaxLowered = r.Amount, r.Amount, r.Tax, r.Tax
	one, err := sold.TakeBack(d("1"))
	require.NoError(t, err)
	assert.Equal(t, "7.5", one.Amount.String(), "half of what is left")
	all, err := sold.TakeBack(d("2"))
	require.NoError(t, err)
	assert.Equal(t, "15 2.5", all.Amount.String()+" "+all.Tax.String())
	_, err = sold.Lower(d("15.01"))
	assert.ErrorContains(t, err, "15.00 of this line")
	_, err = sold.Lower(d("0"))
	assert.Error(t, err)
}

func TestNearestPlacesFirst(t *testing.T) {
	list := []sale.Place{{Branch: 2, Minutes: -1}, {Branch: 3, Minutes: 25}, {Branch: 4, Minutes: 12},
		{Branch: 1, Minutes: 25}}
	sale.Nearest(list)
	var order []uint64
	for _, p := range list {
		order = append(order, p.Branch)
	}
	assert.Equal(t, []uint64{4, 1, 3, 2}, order)
}

// TestTheRegisterAddsUp plays any mix of discounts, ways to pay, returns and exchanges, and holds that
// the basket is its lines, its tax by rate, its postings and what is in the drawer, to the penny, and
// that refunds never come to more than was paid.
func TestTheRegisterAddsUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cents := func(name string, most int) decimal.Decimal {
			return decimal.New(int64(rapid.IntRange(0, most).Draw(t, name)), -2)
		}
		typedOff := func(name string) sale.Off {
			switch rapid.IntRange(0, 2).Draw(t, name+" kind") {
			case 1:
				return sale.Off{Kind: sale.OffPercent,
					Value: decimal.New(int64(rapid.IntRange(1, 1000).Draw(t, name)), -1), Reason: 1}
			case 2:
				return sale.Off{Kind: sale.OffAmount, Value: cents(name, 3000).Add(d("0.01")), Reason: 1}
			}
			return sale.Off{}
		}
		step := d("0" + rapid.SampledFrom(sale.Steps(money.Hundredth)).Draw(t, "step"))
		var prices []string
		for range rapid.IntRange(1, 5).Draw(t, "lines") {
			prices = append(prices, cents("price", 9999).StringFixed(2))
		}
		s := shopOf(prices...)
		var quantities []string
		basis := tax.Basis(rapid.Bool().Draw(t, "with tax"))
		for i := range prices {
			v := s.found[uint64(i+1)]
			v.Book.Basis = basis
			v.Percent = d(rapid.SampledFrom([]string{"0", "5", "20"}).Draw(t, "percent"))
			s.found[v.ID] = v
			quantities = append(quantities, decimal.New(int64(rapid.IntRange(1, 6).Draw(t, "quantity")), 0).String())
		}
		b := s.basket(typedOff("basket off"), quantities...)
		for i := range b.Lines {
			b.Lines[i].Off = typedOff("off")
		}
		if rapid.Bool().Draw(t, "gives a voucher") {
			b.Vouchers = append(b.Vouchers, cents("voucher", 5000).Add(d("0.01")))
		}
		reasons := []reason.Reason{{ID: 1, Kind: reason.GivenOff,
			Account: rapid.SampledFrom([]ledger.Account{ledger.Income, ledger.GivenOff}).Draw(t, "account")}}
		lines, err := sale.Ready(b, s.found, nil)
		require.NoError(t, err)
		sums := sale.Sums(lines)
		shown := sale.Sum(sale.Priced(b, s.found))
		require.True(t, shown.Gross.Equal(sums.Gross) && shown.Tax.Equal(sums.Tax), "what is shown is what is posted")
		byRate := decimal.Zero
		for _, r := range sums.Rates {
			byRate = byRate.Add(r.Tax)
		}
		require.True(t, byRate.Equal(sums.Tax), "tax by rate")

		due := sale.Due(sums, b.Vouchers, decimal.Zero)
		card := cents("card", 99999)
		if card.LessThan(due) && sale.Rounded(due.Sub(card), step).IsZero() {
			card = due // nothing in cash is no rounding
		}
		ways := []sale.Way{{Tender: sale.Tender{Kind: sale.Card, Amount: decimal.Min(card, due)}},
			{Tender: sale.Tender{Kind: sale.Cash}, All: true}}
		left, err := sale.Try(due, ways, step, money.Hundredth)
		require.NoError(t, err)
		paid, err := sale.Pay(due, left.Ways, step, money.Hundredth)
		require.NoError(t, err)
		require.True(t, paid.Sum().Equal(due))
		draft := s.draft(stock.Sale)
		taken, err := sale.Sell(draft, 1, day, b, lines, paid, reasons)
		require.NoError(t, err)
		document, err := draft.Document()
		require.NoError(t, err, "the postings add up to zero")
		postings := draftPostings(t, draft)
		income := postings[ledger.Income].Add(postings[ledger.GivenOff]).Neg()
		require.True(t, income.Add(sums.Tax).Equal(sums.Gross), "income %s, tax %s of %s", income, sums.Tax, sums.Gross)
		require.True(t, postings[ledger.Cash].Equal(paid.Of(sale.Cash)), "the drawer")
		require.Len(t, document.Entries, len(lines))

		// it comes back, in parts, in any order; money alone for what is kept
		var sold []sale.SoldLine
		for i, l := range lines {
			sold = append(sold, sale.SoldLine{ID: uint64(i + 1), Line: i + 1, Variant: l.Sellable.ID, Unit: l.Unit,
				Sold: sale.Sold{Quantity: l.Units, Paid: l.Sum.Total(), Tax: l.Sum.Tax(), Cost: taken[i].Cost,
					Minor: money.Hundredth}})
		}
		rest := paid
		refunded, drawer := decimal.Zero, paid.Of(sale.Cash)
		held := draft.Holding()
		for range rapid.IntRange(0, 8).Draw(t, "returns") {
			back := &sale.Returning{Number: "Q1-00001", Lines: sold, Shelf: 1, Day: day, Minor: money.Hundredth,
				Draft: stock.NewDraft(held, stock.Document{Kind: stock.Return, Branch: 1, HappenedAt: day, RecordedAt: day})}
			in := sale.Back{Line: rapid.IntRange(1, len(sold)).Draw(t, "line")}
			if rapid.IntRange(0, 3).Draw(t, "money alone") == 0 {
				in.Amount = cents("amount", 2000).StringFixed(2)
			} else {
				in.Quantity = decimal.New(int64(rapid.IntRange(1, 6).Draw(t, "back")), 0).String()
			}
			if back.Take(in) != nil {
				continue // more than was sold, or is left
			}
			r := sale.Refunding{Step: step, Due: cents("sold on the same basket", 3000)}
			kept := decimal.Min(back.Sum.Amount, r.Due)
			how := rapid.SampledFrom([]sale.RefundHow{sale.AsPaid, sale.ToCredit, sale.InCash}).Draw(t, "how")
			give := r.Of(back.Sum.Amount, rest, how)
			require.False(t, give.Of(sale.Exchange).Neg().GreaterThan(kept))
			require.True(t, give.Sum().Equal(back.Sum.Amount.Neg()), "%s for %s", give.Sum(), back.Sum.Amount)
			require.NoError(t, back.Post(give))
			_, err := back.Draft.Document()
			require.NoError(t, err, "the postings of a return add up to zero")
			require.True(t, draftPostings(t, back.Draft)[ledger.Cash].Equal(give.Of(sale.Cash)))
			held, sold = back.Draft.Holding(), back.Lines
			refunded, drawer = refunded.Add(back.Sum.Amount), drawer.Add(give.Of(sale.Cash))
			for i := range rest {
				for _, g := range give {
					if g.Kind == rest[i].Kind && g.Kind == sale.Card {
						rest[i].Amount = rest[i].Amount.Add(g.Amount)
						require.False(t, rest[i].Amount.IsNegative(), "never more on the card than it paid")
					}
				}
			}
		}
		require.False(t, refunded.GreaterThan(sums.Gross), "%s refunded of %s", refunded, sums.Gross)
		for _, l := range sold {
			require.False(t, l.Refunded.GreaterThan(l.Paid) || l.TaxBack.GreaterThan(l.Tax))
			if l.Back.Equal(l.Quantity) {
				require.True(t, l.Refunded.Equal(l.Paid) && l.TaxBack.Equal(l.Tax) && l.CostReturned.Equal(l.Cost),
					"all of it back is all that was paid")
			}
		}
	})
}
