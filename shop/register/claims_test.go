package register_test

import (
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/shop/buying"
	"itemrack/shop/customers"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	storecustomers "itemrack/store/customers"
	"itemrack/store/till"
)

// TestANumberComesBackOnce: by the sale by which it is out, and by no other claim.
func TestANumberComesBackOnce(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Board", "serial", "600.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "2", Cost: "310",
		Serials: "A1, A2"}}})
	s.Open(t, 1)
	sell := func() string {
		t.Helper()
		done, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "600",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: "1", Serial: "A1"}}})
		require.NoError(t, err)
		return done.Number
	}
	back := func(number string) error {
		_, err := register.TakeBack(s.By(s.Maren), register.ReturnInput{Register: 1, Sale: number,
			Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1", Serials: "A1", Condition: "For sale"}}})
		return err
	}
	first := sell()
	_, err := register.TakeBack(s.By(s.Maren), register.ReturnInput{Register: 1,
		Unsold: []register.UnsoldInput{{Variant: v, Unsold: sale.Unsold{Quantity: "1", Price: "600", Serial: "a1"}}}})
	require.True(t, fault.Is(err, fault.Refused), "it is out by a sale: %v", err)
	assert.Contains(t, err.Error(), first)
	require.NoError(t, back(first))
	assert.Error(t, back(first), "once")
	second := sell()
	assert.Error(t, back(first), "the second sale has it")
	require.NoError(t, back(second))

	// it leaves by a sale, and comes back by a document that is none of that sale's
	third := sell()
	require.NoError(t, s.Spoil("UPDATE unit SET state = 'missing' WHERE number = 'A1'"))
	_, err = register.TakeBack(s.By(s.Maren), register.ReturnInput{Register: 1,
		Unsold: []register.UnsoldInput{{Variant: v, Unsold: sale.Unsold{Quantity: "1", Price: "5", Serial: "A1",
			Condition: "For sale"}}}})
	require.NoError(t, err)
	fourth := sell()
	err = back(third)
	require.True(t, fault.Is(err, fault.Refused), "money twice for one thing: %v", err)
	assert.Equal(t, "serials", fault.Of(err).Field)
	require.NoError(t, back(fourth))
}

// TestALotThatTheSaleNeverTook does not come back by it.
func TestALotThatTheSaleNeverTook(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Sun cream", "lot", "14.50")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{
		{Variant: v, Quantity: "5", Cost: "6", Lot: "K1", Expiry: "2127-04-30"},
		{Variant: v, Quantity: "5", Cost: "7", Lot: "K2", Expiry: "2128-04-30"}}})
	s.Open(t, 1)
	sold := s.Sold(t, v, "1").Number
	var other uint64
	for id, lot := range s.Held(t, v).Lots {
		if lot.Number == "K2" {
			other = id
		}
	}
	for _, lot := range []uint64{other, 999} {
		_, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: sold,
			Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1", Lot: lot}}})
		require.Error(t, err)
		assert.True(t, strings.HasSuffix(fault.Of(err).Field, "lot_id"), err)
	}
	s.InStep(t)
}

// TestWhoeverBringsItBack: what is owed of a sale comes off the account of who bought it, on anybody's basket, and pays
// for nothing else.
func TestWhoeverBringsItBack(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "24.00")
	s.Stock(t, v, "9", "5")
	s.Open(t, 1)
	days := 30
	made := func(name string) uint64 {
		c, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: name, DaysToPay: &days}})
		require.NoError(t, err)
		return c.ID
	}
	ann, ben := made("Ann"), made("Ben")
	owes := func(who uint64) string {
		sum, err := storecustomers.Owes(s.Store.Read(t.Context()), who)
		require.NoError(t, err)
		return sum.StringFixed(2)
	}
	for _, exchanged := range []bool{false, true} {
		s.Basket(t, 1, v)
		_, err := register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &ann})
		require.NoError(t, err)
		sold, err := s.Pay(t, 1, "", way(sale.OnAccount, "24.00"))
		require.NoError(t, err)
		require.Equal(t, "24.00", owes(ann))
		if exchanged {
			s.Basket(t, 1, v)
		}
		_, err = register.BringBack(s.By(s.Tobi), 1, []register.BackInput{{Sale: sold.Number, Line: 1, Quantity: "1"}})
		require.NoError(t, err)
		_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &ben})
		require.NoError(t, err)
		shown, err := register.Basket(s.By(s.Tobi), 1)
		require.NoError(t, err)
		var ways []register.TenderInput
		assert.Equal(t, map[bool]string{false: "0.00", true: "24.00"}[exchanged], shown.Due.StringFixed(2), "as it is posted")
		if exchanged {
			ways = append(ways, way(sale.Cash, "24.00"))
		}
		_, err = s.Pay(t, 1, "", ways...)
		require.NoError(t, err)
		assert.Equal(t, "0.00 0.00", owes(ann)+" "+owes(ben), "exchanged: %v", exchanged)
		s.InStep(t)
	}
}

// TestCashAndAccountsAreReversed: cash that was moved, and what was paid on account, as if it had never been; with the
// drawer cashed up the one says what mends it, and the other comes out of the drawer that is open.
func TestCashAndAccountsAreReversed(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "24.00")
	s.Stock(t, v, "9", "5")
	s.Open(t, 1)
	should := func() string {
		t.Helper()
		open, err := s.AskedAll("SELECT id FROM drawer WHERE open_register_id = 1")
		require.NoError(t, err)
		drawer, err := strconv.ParseUint(open[0], 10, 64)
		require.NoError(t, err)
		figures, err := till.ReadDrawerFigures(s.Store.Read(t.Context()), drawer)
		require.NoError(t, err)
		return figures.Core().ShouldBe().StringFixed(2)
	}
	move := func(kind sale.MoveKind, amount, why string) string {
		t.Helper()
		done, err := register.MoveCash(s.By(s.Maren), 1, register.MoveInput{Kind: kind, Amount: amount,
			Reason: s.Why(t, reason.Kind(kind), why)})
		require.NoError(t, err)
		return done.Number
	}
	undo := func(number string) error {
		_, err := stockroom.Reverse(s.By(s.Maren), number, "")
		return err
	}
	in, out := move(sale.PutIn, "50.00", "Change from the bank"), move(sale.TakenOut, "120.00", "To the bank")
	require.True(t, fault.Is(undo(in), fault.Refused), "only 30.00 are there")
	require.NoError(t, undo(out))
	require.NoError(t, undo(in))
	require.Error(t, undo(in), "once")
	assert.Equal(t, "100.00", should())

	days := 30
	ann, err := customers.Make(s.By(s.Maren), customers.Input{Facts: customer.Facts{Name: "Ann", DaysToPay: &days}})
	require.NoError(t, err)
	s.Basket(t, 1, v)
	_, err = register.Agree(s.By(s.Tobi), 1, register.BasketFacts{Customer: &ann.ID})
	require.NoError(t, err)
	_, err = s.Pay(t, 1, "", way(sale.OnAccount, "24.00"))
	require.NoError(t, err)
	owes := func() string {
		sum, err := storecustomers.Owes(s.Store.Read(t.Context()), ann.ID)
		require.NoError(t, err)
		return sum.StringFixed(2)
	}
	pay := func(kind sale.TenderKind, key string) string {
		t.Helper()
		done, err := register.PayAccount(s.By(s.Tobi, key), 1, register.AccountInput{Customer: ann.ID, Kind: kind,
			Amount: "24"})
		require.NoError(t, err)
		require.Equal(t, "0.00", owes())
		return done.Number
	}
	for _, kind := range []sale.TenderKind{sale.Cash, sale.Card} {
		paid := pay(kind, "k"+string(kind))
		require.NoError(t, undo(paid))
		require.Error(t, undo(paid), "once")
		assert.Equal(t, "24.00 100.00", owes()+" "+should(), kind)
		s.InStep(t)
	}
	paid, late := pay(sale.Cash, "k3"), move(sale.PutIn, "5.00", "Change from the bank")
	_, err = register.CashUpDrawer(s.By(s.Tobi), 1, []sale.Denomination{{Value: testkit.D("1"), Count: 129}})
	require.NoError(t, err)
	err = undo(late)
	require.True(t, fault.Is(err, fault.Refused), "%v", err)
	assert.Contains(t, err.Error(), "mended by cash")
	require.Error(t, undo(paid), "no drawer is open")
	s.Open(t, 1)
	require.NoError(t, undo(paid))
	assert.Equal(t, "24.00 76.00", owes()+" "+should(), "out of the drawer that is open now")
	s.InStep(t)
}

// TestAReturnIsReversed as if nothing had come back: goods, numbers, lots, what was paid back and how, by both ways of
// costing; and what can't be says by what it is mended.
func TestAReturnIsReversed(t *testing.T) {
	for name, begin := range map[string]func(testing.TB) *testkit.Shop{"average": testkit.New,
		"first in": testkit.FirstIn} {
		t.Run(name, func(t *testing.T) {
			s := begin(t)
			plain := s.Simple(t, "Whistle", "counted", "24.00")
			s.Stock(t, plain, "3", "5")
			s.Stock(t, plain, "6", "7")
			board, cream := s.Simple(t, "Board", "serial", "60.00"), s.Simple(t, "Sun cream", "lot", "14.50")
			s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{
				{Variant: board, Quantity: "1", Cost: "31", Serials: "A1"},
				{Variant: cream, Quantity: "5", Cost: "6", Lot: "K1", Expiry: "2127-04-30"}}})
			s.Open(t, 1)
			sold, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "500",
				Lines: []register.SaleLineInput{{Variant: plain, Quantity: "4"}, {Variant: board, Quantity: "1", Serial: "A1"},
					{Variant: cream, Quantity: "2"}}})
			require.NoError(t, err)
			stands := func() string {
				said := ""
				for _, v := range []uint64{plain, board, cream} {
					p := s.Held(t, v).Pools[v]
					said += p.Quantity.String() + " " + p.Value.StringFixed(2) + "; "
				}
				return said
			}
			lines := []register.ReturnLineInput{{Line: 1, Quantity: "2"}, {Line: 2, Quantity: "1", Serials: "A1"},
				{Line: 3, Quantity: "1"}}
			was := stands()
			for _, how := range []sale.RefundHow{sale.AsPaid, sale.ToCredit} {
				back, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: sold.Number, Lines: lines,
					Refund: how})
				require.NoError(t, err)
				require.NotEqual(t, was, stands())
				_, err = stockroom.Reverse(s.By(s.Maren), back.Number, "the wrong receipt")
				require.NoError(t, err)
				_, err = stockroom.Reverse(s.By(s.Maren), back.Number, "")
				require.Error(t, err, "once")
				assert.Equal(t, was, stands(), how)
				s.InStep(t)
			}
			again, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: sold.Number,
				Lines: []register.ReturnLineInput{{Line: 1, Quantity: "4"}, {Line: 2, Quantity: "1", Serials: "A1"}}})
			require.NoError(t, err, "all of it can come back still")
			assert.Equal(t, "156.00", again.Amount.StringFixed(2))
			_, err = stockroom.Reverse(s.By(s.Maren), sold.Number, "")
			require.Error(t, err, "some of it came back")
			_, err = stockroom.Reverse(s.By(s.Maren), again.Number, "")
			require.NoError(t, err)
			_, err = stockroom.Reverse(s.By(s.Maren), sold.Number, "")
			require.NoError(t, err, "nothing of it is back any more")
			assert.Equal(t, "9 57.00; 1 31.00; 5 30.00; ", stands())
			s.InStep(t)
		})
	}
}

// TestAReturnThatCantBeReversed says why, and what mends it.
func TestAReturnThatCantBeReversed(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "24.00")
	s.Stock(t, v, "9", "5")
	s.Open(t, 1)
	back := func(number string, how sale.RefundHow) register.ReturnResult {
		t.Helper()
		done, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{Register: 1, Sale: number, Refund: how,
			Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
		require.NoError(t, err)
		return done
	}
	refused := func(number, why string) {
		t.Helper()
		_, err := stockroom.Reverse(s.By(s.Maren), number, "")
		require.True(t, fault.Is(err, fault.Refused), "%v", err)
		assert.Contains(t, err.Error(), why)
	}
	s.Basket(t, 1, v)
	card, err := s.Pay(t, 1, "k1", way(sale.Card, "24.00"))
	require.NoError(t, err)
	refused(back(card.Number, sale.AsPaid).Number, "the card has its money")
	credit := back(s.Sold(t, v, "1").Number, sale.ToCredit)
	s.Basket(t, 1, v)
	_, err = s.Pay(t, 1, "k2", register.TenderInput{Kind: sale.ByCredit, Code: credit.Credit.Code, Amount: "24.00"})
	require.NoError(t, err)
	refused(credit.Number, "some was used already")
	late := back(s.Sold(t, v, "1").Number, sale.AsPaid)
	_, err = register.CashUpDrawer(s.By(s.Tobi), 1, []sale.Denomination{{Value: testkit.D("1"), Count: 124}})
	require.NoError(t, err)
	refused(late.Number, "cashed up")
	s.InStep(t)
}
