package register_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/device"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store"
	"itemrack/store/till"
)

// TestASaleTakesFewRoundTrips counts the questions to the database, printer and all: as
// many for one line as for six.
func TestASaleTakesFewRoundTrips(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Open(t, 1)
	for _, v := range made.Variants {
		s.Stock(t, v.ID, "10", "13.95")
	}
	sell := func(key string, lines int) int64 {
		in := register.SaleInput{Register: 1, Cash: "300"}
		for _, v := range made.Variants[:lines] {
			in.Lines = append(in.Lines, register.SaleLineInput{Variant: v.ID, Quantity: "1"})
		}
		counted, n := store.Counting(ctx)
		_, err := register.Sell(deed.By(counted, s.Shop, s.Tobi, key), in)
		require.NoError(t, err)
		return n.Load()
	}
	sell("first", 1) // makes the register's range of numbers
	assert.LessOrEqual(t, sell("six for the first time", 6), int64(6))
	assert.LessOrEqual(t, sell("one", 1), int64(3))
	assert.Equal(t, sell("one more", 1), sell("six", 6), "no question per line")

	_, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: made.Variants[0].ID})
	require.NoError(t, err)
	counted, n := store.Counting(ctx)
	view, err := register.AddToBasket(deed.By(counted, s.Shop, s.Tobi, "scan"), 1,
		register.BasketAdd{Code: made.Variants[1].Barcode})
	require.NoError(t, err)
	assert.LessOrEqual(t, n.Load(), int64(4), "a scan")
	counted, n = store.Counting(ctx)
	_, err = register.Sell(deed.By(counted, s.Shop, s.Tobi, "basket"), register.SaleInput{Register: 1, Basket: view.ID,
		Cash: "100", Total: view.Totals.Gross.String()})
	require.NoError(t, err)
	assert.LessOrEqual(t, n.Load(), int64(3), "of a basket")
	s.InStep(t)
}

// TestSomethingElseIsSoldThanWasHeld changes, by another server, a basket and the shop before a sale whose goods the
// first server holds as it begins: what is in the basket is sold, and no number of the register is left out.
func TestSomethingElseIsSoldThanWasHeld(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	for _, v := range made.Variants {
		s.Stock(t, v.ID, "10", "13.95")
	}
	s.Open(t, 1)
	other := s.Beside(t)
	scan := func(by *deed.Shop, n int) {
		_, err := register.AddToBasket(deed.By(ctx, by, s.Tobi, ""), 1, register.BasketAdd{Variant: made.Variants[n].ID})
		require.NoError(t, err)
	}
	cashed := func(sold int) string {
		view, err := register.Basket(deed.By(ctx, other, s.Tobi, ""), 1)
		require.NoError(t, err)
		require.Len(t, view.Lines, sold)
		done, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: view.ID, Cash: "500",
			Total: view.Due.String()})
		require.NoError(t, err)
		posted, err := till.SaleByNumber(s.Store.Read(ctx), done.Number)
		require.NoError(t, err)
		assert.Len(t, posted.Lines, sold)
		return done.Number
	}
	for n, meanwhile := range []func() int{
		func() int { return 1 },
		func() int { scan(other, 1); return 2 },
		func() int {
			view, err := register.Basket(deed.By(ctx, other, s.Tobi, ""), 1)
			require.NoError(t, err)
			scan(other, 2)
			_, err = register.ChangeBasketLine(deed.By(ctx, other, s.Tobi, ""), 1, view.Lines[0].ID,
				register.BasketChange{Quantity: "0"})
			require.NoError(t, err)
			return 1
		},
		func() int {
			_, err := register.AddVoucher(deed.By(ctx, other, s.Tobi, ""), 1, register.VoucherInput{Amount: "20"})
			require.NoError(t, err)
			view, err := register.Basket(deed.By(ctx, other, s.Tobi, ""), 1)
			require.NoError(t, err)
			_, err = register.ChangeBasketLine(deed.By(ctx, other, s.Tobi, ""), 1, view.Lines[0].ID,
				register.BasketChange{Quantity: "0"})
			require.NoError(t, err)
			return 0
		},
		func() int {
			_, err := register.BringBack(deed.By(ctx, other, s.Maren, ""), 1, []register.BackInput{{Sale: "Q1-00001", Line: 1,
				Quantity: "1", Condition: "For sale"}})
			require.NoError(t, err)
			return 1
		},
		func() int {
			_, err := office.AddRegister(deed.By(ctx, other, s.Maren, ""), office.RegisterInput{Branch: 1, Code: "Q9"})
			require.NoError(t, err)
			return 1
		},
		func() int { return 1 },
	} {
		scan(s.Shop, 0)
		assert.Equal(t, fmt.Sprintf("Q1-%05d", n+1), cashed(meanwhile()))
	}
	s.InStep(t)
}

// TestARepeatedScanIsAnsweredAlike asks for each of some scans twice: what came of it, with the numbers of its lines,
// is the same, and is what the register then has.
func TestARepeatedScanIsAnsweredAlike(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	board := s.Simple(t, "Foil board", "serial", "549.00")
	s.Open(t, 1)
	for i, in := range []register.BasketAdd{{Variant: made.Variants[0].ID}, {Code: made.Variants[1].Barcode},
		{Code: "3 x " + made.Variants[0].SKU}, {Code: made.Variants[2].SKU, Quantity: "2"}, {Variant: board},
		{Variant: board, Quantity: "2"}} {
		key := fmt.Sprint("scan ", i)
		first, err := register.AddToBasket(s.By(s.Tobi, key), 1, in)
		require.NoError(t, err)
		require.NotZero(t, first.Line)
		again, err := register.AddToBasket(s.By(s.Tobi, key), 1, in)
		require.NoError(t, err)
		now, err := register.Basket(s.By(s.Tobi), 1)
		require.NoError(t, err)
		now.Said, now.Line, now.Before = first.Said, first.Line, first.Before
		assert.Equal(t, asJSON(t, first), asJSON(t, again), "asked again")
		assert.Equal(t, asJSON(t, now), asJSON(t, first), "as it is kept")
		at := slices.IndexFunc(now.Lines, func(l register.BasketLineView) bool { return l.ID == first.Line })
		require.GreaterOrEqual(t, at, 0, "the line that was touched is there")
		assert.True(t, in.Variant == 0 || in.Variant == now.Lines[at].Variant)
	}
}

// asJSON is what a program is answered.
func asJSON(t *testing.T, what any) string {
	data, err := json.Marshal(what)
	require.NoError(t, err)
	return string(data)
}

// TestACopyIsOfToday changes, by another server on the same database, what the first one
// may have a copy of.
func TestACopyIsOfToday(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Paddle float", "counted", "")
	s.Stock(t, v, "50", "10.00")
	s.Open(t, 1)
	other := s.Beside(t)
	asked := func() string {
		view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: v})
		require.NoError(t, err)
		gross := view.Totals.Gross.StringFixed(2)
		_, err = register.DropBasket(s.By(s.Tobi), 1)
		require.NoError(t, err)
		return gross
	}
	things, err := catalog.Categories(s.By(s.Maren))
	require.NoError(t, err)
	for markup, want := range map[string]string{"100": "24.00", "150": "30.00", "40": "16.80"} {
		_, err := catalog.SaveCategory(deed.By(ctx, other, s.Maren, ""), things[1].ID,
			catalog.CategoryInput{Parent: things[0].ID, Name: "Things", Markup: markup})
		require.NoError(t, err)
		assert.Equal(t, want, asked(), "markup %s", markup)
	}
}

// TestThePriceThatWasShownIsPaid sells a basket that has grown in another window.
func TestThePriceThatWasShownIsPaid(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Open(t, 1)
	for _, v := range made.Variants[:2] {
		s.Stock(t, v.ID, "10", "13.95")
	}
	shown, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: made.Variants[0].ID})
	require.NoError(t, err)
	left, err := register.LeftToPay(s.By(s.Tobi), 1, cash("50"))
	require.NoError(t, err)
	assert.Equal(t, "15.05", left.Change.StringFixed(2))
	left, err = register.LeftToPay(s.By(s.Tobi), 1, cash("20.5"))
	require.NoError(t, err)
	assert.Equal(t, "14.45", left.InCash.StringFixed(2))
	_, err = register.LeftToPay(s.By(s.Tobi), 1, cash("2o"))
	assert.Equal(t, "cash", fault.Of(err).Field)

	grown, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: made.Variants[1].ID})
	require.NoError(t, err)
	pay := register.SaleInput{Register: 1, Basket: shown.ID, Cash: "50", Total: shown.Totals.Gross.String()}
	_, err = register.Sell(s.By(s.Tobi, "old window"), pay)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "total", fault.Of(err).Field)
	pay.Total, pay.Cash = grown.Totals.Gross.String(), "100"
	_, err = register.Sell(s.By(s.Tobi, "looked again"), pay)
	require.NoError(t, err)
	s.InStep(t)
}

func cash(amount string) []register.TenderInput {
	return []register.TenderInput{{Kind: sale.Cash, Amount: amount}}
}

// TestTheWaysAreOfToday renames a branch and says how far it is, by another server: the next scan says so.
func TestTheWaysAreOfToday(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Paddle float", "counted", "12.00")
	s.Stock(t, v, "5", "4.00")
	s.Receive(t, buying.DeliveryInput{Branch: 2, Lines: []scan.GoodsLine{{Variant: v, Quantity: "3", Cost: "4.00"}}})
	s.Open(t, 1)
	other := s.Beside(t)
	said := func() string {
		view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: v})
		require.NoError(t, err)
		require.Len(t, view.Lines[0].Places, 1)
		place := view.Lines[0].Places[0]
		return fmt.Sprint(place.Name, " ", place.Quantity, " ", place.Minutes)
	}
	before := said()
	for name, minutes := range map[string]int{"Boot-Haus ß 漢": 7, "Boathouse": 90} {
		_, err := office.SaveWay(deed.By(ctx, other, s.Maren, ""), office.WayInput{From: 1, To: 2, Minutes: &minutes})
		require.NoError(t, err)
		_, err = office.SaveBranch(deed.By(ctx, other, s.Maren, ""), 2, office.BranchInput{Name: name})
		require.NoError(t, err)
		assert.Equal(t, fmt.Sprint(name, " 3 ", minutes), said(), "not %s", before)
	}
}

// TestAScanLooksOneWayFirst: what no barcode or SKU finds is still found as a number, a label, a document or words,
// and a barcode goes before a serial number that reads the same.
func TestAScanLooksOneWayFirst(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Board", "serial", "549.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "310",
		Serials: "BW 1"}}})
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "9", "5")
	s.Open(t, 1)
	sold := s.Sold(t, made.Variants[0].ID, "1")
	add := func(code string) (register.BasketView, error) {
		return register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: code})
	}
	view, err := add("bw1")
	require.NoError(t, err)
	assert.Equal(t, []string{"BW1"}, view.Lines[0].Serials, "a serial number")
	view, err = add("3 x " + made.Variants[0].SKU)
	require.NoError(t, err)
	assert.Equal(t, "3", view.Lines[1].Quantity.String(), "a SKU, so many times")
	view, err = add(sold.Number)
	require.NoError(t, err)
	assert.Equal(t, sold.Number, view.Receipt, "a receipt")
	view, err = add("tidewater")
	require.NoError(t, err)
	require.NotNil(t, view.Pick, "words")
	_, err = add("nothing that is here")
	assert.True(t, fault.Is(err, fault.NotFound))
	view, err = add("2 x ")
	require.NoError(t, err, "of what was scanned before")
	assert.Len(t, view.Lines, 2)
	assert.Equal(t, "2", view.Lines[1].Quantity.String())
}

// TestASaleIsOfToday sells what another server changed the moment before: at the new price, as what it is now, by
// numbers without a gap, and printed by a printer that was out of paper since.
func TestASaleIsOfToday(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Paddle float", "counted", "12.00")
	s.Stock(t, v, "50", "4.00")
	s.Open(t, 1)
	other := s.Beside(t)
	product := s.Sellables(t, v)[v].ProductID
	sell := func(key string) register.SaleResult {
		sold, err := register.Sell(s.By(s.Tobi, key), register.SaleInput{Register: 1, Cash: "100",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
		require.NoError(t, err)
		again, err := register.Sell(s.By(s.Tobi, key), register.SaleInput{Register: 1, Cash: "100",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
		require.NoError(t, err)
		assert.Equal(t, sold.Document, again.Document)
		assert.NotZero(t, sold.Document)
		return sold
	}
	assert.Equal(t, "12.00", sell("a").Total.StringFixed(2))
	for i, amount := range []string{"13.50", "9.95", "21.00"} {
		_, err := prices.SetPrices(deed.By(ctx, other, s.Maren, ""), product, prices.PriceChange{Price: amount})
		require.NoError(t, err)
		sold := sell("b" + amount)
		assert.Equal(t, amount, sold.Total.StringFixed(2))
		assert.Equal(t, fmt.Sprintf("Q1-%05d", i+2), sold.Number)
	}
	_, err := office.SetDevice(deed.By(ctx, other, s.Maren, ""), device.ReceiptPrinter, device.OutOfPaper)
	require.NoError(t, err)
	sold := sell("no paper")
	assert.Contains(t, sold.Printer, "paper")
	_, err = office.SetDevice(deed.By(ctx, other, s.Maren, ""), device.ReceiptPrinter, device.Ready)
	require.NoError(t, err)
	assert.Empty(t, sell("paper").Printer)
	s.InStep(t)
}

// TestACountHoldsFromTheMomentItBegins: what a count on another server holds still is not sold, and is again once
// that count is given up.
func TestACountHoldsFromTheMomentItBegins(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Paddle float", "counted", "12.00")
	s.Stock(t, v, "50", "4.00")
	s.Open(t, 1)
	other := s.Beside(t)
	sell := func() error {
		_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "100",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
		return err
	}
	for range 2 {
		require.NoError(t, sell())
		count, err := counts.PlanCount(deed.By(ctx, other, s.Maren, ""), counts.CountPlan{Branch: 1, Whole: true,
			HeldStill: true})
		require.NoError(t, err)
		assert.ErrorContains(t, sell(), count.Number)
		_, err = counts.GiveUp(deed.By(ctx, other, s.Maren, ""), count.ID)
		require.NoError(t, err)
	}
	require.NoError(t, sell())
	s.InStep(t)
}
