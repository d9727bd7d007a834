package register_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/device"
	"itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/till"
)

func TestSerialNumbersThroughTheShop(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Brackwater 10′6 board", "serial", "549.00")
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{
			Supplier: 1,
			Branch:   1,
			Lines:    []scan.GoodsLine{{Variant: board, Quantity: "3", Cost: "310", Serials: "ab 1, AB2"}},
		},
	)
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	require.ErrorContains(t, err, "3 units, and 2 serial numbers", "three delivered, two numbers typed")
	_, err = buying.SaveDelivery(s.By(s.Maren), draft.ID,
		buying.DeliveryInput{
			Supplier: 1,
			Branch:   1,
			Lines:    []scan.GoodsLine{{Variant: board, Quantity: "3", Cost: "310", Serials: "ab 1, AB2\nAB3"}},
		},
	)
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	s.Receive(t,
		buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "325", Serials: "AB4"}}})
	s.Open(t, 1)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "ab4"})
	require.NoError(t, err)
	assert.Equal(t, []string{"AB4"}, basket.Lines[0].Serials)
	_, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "AB4"})
	assert.ErrorContains(t, err, "on the basket already")
	basket, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: board})
	require.NoError(t, err)
	assert.Equal(t, "Choose its serial number, or owe it.", basket.Lines[1].Short)
	assert.Equal(t, []string{"AB1", "AB2", "AB3", "AB4"}, basket.Lines[1].Choices)
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "2000"})
	assert.ErrorContains(t, err, "choose a serial number")
	one := "AB1"
	_, err = register.ChangeBasketLine(s.By(s.Tobi), 1, basket.Lines[1].ID,
		register.BasketChange{Serial: &one})
	require.NoError(t, err)
	done, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "2000"})
	require.NoError(t, err)
	sold, err := till.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, []string{"325.00", "310.00"},
		[]string{sold.Lines[0].Cost.StringFixed(2), sold.Lines[1].Cost.StringFixed(2)})
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1", Serials: "AB2"}},
	},
	)
	assert.ErrorContains(t, err, "was not sold on this line")
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	units, err := book.Units(s.Store.Read(ctx), board, 10)
	require.NoError(t, err)
	states := map[string]string{}
	for _, u := range units {
		states[u.Number] = u.State + " " + u.Condition
	}
	assert.Equal(
		t,
		map[string]string{
			"AB1": "sold For sale",
			"AB2": "in stock For sale",
			"AB3": "in stock For sale",
			"AB4": "in stock To look over",
		},
		states,
	)
	s.InStep(t)

	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Code: "ab2"})
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Code: "AB2"})
	assert.ErrorContains(t, err, "counted already")
	figures, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"AB3"}, figures.Rows[0].Missing)
	_, err = counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	s.InStep(t)
}

func TestLotsThroughTheShop(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream SPF 50", "lot", "14.50")
	line := func(q, lot, expiry string) buying.DeliveryInput {
		return buying.DeliveryInput{
			Lines: []scan.GoodsLine{{Variant: cream, Quantity: q, Cost: "6", Lot: lot, Expiry: expiry}},
		}
	}
	s.Receive(t, line("50", "K615", "2127-04-30"))
	s.Receive(t, line("32", "K614", "2126-12-31"))
	at := s.At(time.Date(2126, 12, 31, 23, 0, 0, 0, time.UTC))
	s.Open(t, 1)
	done, err := register.Sell(deed.By(ctx, at, s.Tobi, ""), register.SaleInput{
		Register: 1,
		Lines:    []register.SaleLineInput{{Variant: cream, Quantity: "45"}},
		Cash:     "1000",
	},
	)
	require.NoError(t, err)
	held, err := book.Look(s.Store.Read(ctx), []uint64{cream})
	require.NoError(t, err)
	assert.Equal(t, "37", held.ForSale()[cream].String())
	back, err := register.TakeBack(deed.By(ctx, at, s.Tobi, ""), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "40"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "580.00", back.Amount.StringFixed(2))
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	toCheck := map[string]string{}
	for _, p := range places {
		if p.Condition == "To look over" {
			toCheck[p.Lot] = p.Quantity.String()
		}
	}
	assert.Equal(t, map[string]string{"K614": "27", "K615": "13"}, toCheck, "the lot sold last comes back first")
	later := s.At(time.Date(2127, 1, 1, 12, 0, 0, 0, time.UTC))
	_, err = stockroom.ChangeCondition(deed.By(ctx, later, s.Tobi, ""), stockroom.ChangeInput{Variant: cream, Branch: 1,
		Lot: 2, From: "To look over", To: "For sale", Quantity: "1"})
	assert.ErrorContains(t, err, "past its expiry")
	_, err = register.TakeBack(deed.By(ctx, later, s.Tobi, ""), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "5", Condition: "For sale"}},
	},
	)
	assert.ErrorContains(t, err, "it can't go back for sale", "what is left out has expired meanwhile")
	s.InStep(t)
}

func TestCardTerminalAndPrinter(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	s.Open(t, 1)
	set := func(name, state string) {
		_, err := office.SetDevice(s.By(s.Tobi), name, state)
		require.NoError(t, err)
	}
	in := register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Card: "4.00"}
	set(device.CardTerminal, device.Declines)
	_, err := register.Sell(s.By(s.Tobi, "c1"), in)
	assert.ErrorContains(t, err, "declined")
	set(device.CardTerminal, device.NoAnswer)
	_, err = register.Sell(s.By(s.Tobi, "c1"), in)
	assert.ErrorContains(t, err, "no answer")
	set(device.CardTerminal, device.Ready)
	set(device.ReceiptPrinter, device.OutOfPaper)
	done, err := register.Sell(s.By(s.Tobi, "c1"), in)
	require.NoError(t, err)
	assert.Contains(t, done.Printer, "out of paper", "the sale stands")
	assert.ErrorContains(t, register.Reprint(s.By(s.Tobi), done.Number), "out of paper")
	set(device.ReceiptPrinter, device.Ready)
	require.NoError(t, register.Reprint(s.By(s.Tobi), done.Number))
	papers, err := office.Papers(ctx, s.Shop, 5)
	require.NoError(t, err)
	require.Len(t, papers, 1)
	_, err = register.Sell(s.By(s.Tobi), in)
	assert.Equal(t, "Idempotency-Key", fault.Of(err).Field)

	in.Lines[0].Quantity, in.Card = "9", "36.00"
	_, err = register.Sell(s.By(s.Tobi, "c2"), in)
	assert.True(t, fault.Is(err, fault.Refused))
	charged, err := devices.Of(s.Store).Charged(ctx, fmt.Sprintf("sale/%d/c2", s.Tobi.ID))
	require.NoError(t, err)
	assert.False(t, charged, "a sale that is refused charges no card")

	back, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "4.00", back.Card.StringFixed(2))
	_, err = office.SetDevice(s.By(s.Tobi), device.CardTerminal, "on fire")
	assert.Error(t, err)
	s.InStep(t)
}

func TestDrawer(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Cash: "4"})
	assert.ErrorContains(t, err, "is not open")
	s.Open(t, 1)
	_, err = register.OpenDrawer(s.By(s.Tobi), 1, "50")
	assert.ErrorContains(t, err, "open already")
	first := s.Sold(t, v, "2")
	s.Sold(t, v, "1")
	_, err = stockroom.Reverse(s.By(s.Maren), first.Number, "rung up twice")
	require.NoError(t, err)
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     first.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	assert.ErrorContains(t, err, "made void")
	_, err = register.CashUpDrawer(s.By(s.Tobi), 1, nil)
	assert.Equal(t, "counted", fault.Of(err).Field, "an empty form closes nothing")
	closing, err := register.CashUpDrawer(s.By(s.Tobi), 1,
		[]sale.Denomination{{Value: testkit.D("50"), Count: 2}, {Value: testkit.D("1"), Count: 3}})
	require.NoError(t, err)
	assert.Equal(t, "104.00 103.00 -1.00",
		closing.ShouldBe.StringFixed(2)+" "+closing.Counted.StringFixed(2)+" "+closing.Difference.StringFixed(2))
	_, err = register.CashUpDrawer(s.By(s.Tobi), 1, nil)
	assert.ErrorContains(t, err, "is not open")
	_, err = stockroom.Reverse(s.By(s.Maren), "Q1-00002", "")
	assert.ErrorContains(t, err, "drawer of sale Q1-00002 is cashed up")
	s.InStep(t)
}

func TestSixteenRegistersSellTheLastTen(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "10", "1.37")
	s.Open(t, 1)
	s.Open(t, 2)
	var wait sync.WaitGroup
	results := make([]error, 16)
	for i := range results {
		wait.Go(func() {
			_, results[i] = register.Sell(s.By(s.Tobi, fmt.Sprint("r", i)), register.SaleInput{
				Register: uint64(1 + i%2),
				Lines:    []register.SaleLineInput{{Variant: v, Quantity: "1"}},
				Cash:     "5",
			},
			)
		})
	}
	wait.Wait()
	sold, refused := 0, 0
	for _, err := range results {
		if err == nil {
			sold++
			continue
		}
		require.True(t, fault.Is(err, fault.Refused), "%v", err)
		assert.Contains(t, err.Error(), "none is For sale here")
		refused++
	}
	assert.Equal(t, []int{10, 6}, []int{sold, refused})
	s.InStep(t)
}

func TestTheSameRequestTwentyTimesAtOnce(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "1", "1")
	s.Open(t, 1)
	var wait sync.WaitGroup
	var mutex sync.Mutex
	numbers := map[string]int{}
	for range 20 {
		wait.Go(func() {
			done, err := register.Sell(s.By(s.Tobi, "once"), register.SaleInput{
				Register: 1,
				Lines:    []register.SaleLineInput{{Variant: v, Quantity: "1"}},
				Card:     "4.00",
			},
			)
			mutex.Lock()
			defer mutex.Unlock()
			if assert.NoError(t, err) {
				numbers[done.Number]++
			}
		})
	}
	wait.Wait()
	assert.Equal(t, map[string]int{"Q1-00001": 20}, numbers)
	s.InStep(t)
}
