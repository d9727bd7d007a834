package register_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/scan"
	"itemrack/core/stock"
	"itemrack/shop/counts"
	"itemrack/shop/labels"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/office"
	"itemrack/store/till"
)

// secondsOf makes four vests, one of them Seconds, and opens register 1. It returns the code on the label of one.
func secondsOf(t *testing.T, s *testkit.Shop) (variant uint64, code string) {
	t.Helper()
	vest := s.Vest(t).Variants[0].ID
	s.Stock(t, vest, "4", "10")
	_, err := stockroom.ChangeCondition(s.By(s.Tobi), stockroom.ChangeInput{Variant: vest, Branch: 1, From: "For sale",
		To: "Seconds", Quantity: "1"})
	require.NoError(t, err)
	s.Open(t, 1)
	list, err := office.Conditions(s.Store.Read(ctx))
	require.NoError(t, err)
	for _, f := range list {
		if f.Name == stock.Seconds {
			code = scan.ConditionCode(vest, f.ID)
		}
	}
	return vest, code
}

// TestSecondsAreSoldApart: by their label, at their price, from what is Seconds, beside new ones of the same variant.
func TestSecondsAreSoldApart(t *testing.T) {
	s := testkit.New(t)
	vest, code := secondsOf(t, s)
	view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: code})
	require.NoError(t, err)
	assert.Contains(t, view.Said, "Seconds added")
	assert.Equal(t, "27.96", view.Lines[0].Price.String(), "20 % less than 34.95")
	assert.Equal(t, "1", view.Lines[0].Here.String(), "of one there")
	view, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: vest})
	require.NoError(t, err)
	require.Len(t, view.Lines, 2, "a new one is a line of its own")
	assert.Equal(t, "34.95", view.Lines[1].Price.String())
	assert.Equal(t, []stock.Condition{stock.ForSale, stock.Seconds}, view.Lines[1].Conditions)
	view, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: code})
	require.NoError(t, err)
	require.Len(t, view.Lines, 2)
	assert.Contains(t, view.Lines[0].Short, "1 short", "there are not two")
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: view.ID, Cash: "200"})
	assert.Error(t, err, "three new ones do not stand in for it")
	view, err = register.ChangeBasketLine(s.By(s.Tobi), 1, view.Lines[0].ID,
		register.BasketChange{Quantity: "1"})
	require.NoError(t, err)
	sold, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: view.ID, Cash: "200"})
	require.NoError(t, err)
	row, err := till.SaleByNumber(s.Store.Read(ctx), sold.Number)
	require.NoError(t, err)
	assert.Equal(t, "Seconds For sale", row.Lines[0].Condition+" "+row.Lines[1].Condition)
	assert.Contains(t, row.Lines[0].Detail, ", Seconds")
	assert.Equal(t, "10", row.Lines[0].Cost.String(), "what it cost stays with it")
	held := s.Held(t, vest)
	assert.Equal(t, "2", held.OnHand(vest, 1, stock.ForSale).String())
	assert.Equal(t, "0", held.OnHand(vest, 1, stock.Seconds).String())
	s.InStep(t)
}

// TestALineChangesItsCondition, and has the price of the other one; a condition that is not sold is refused.
func TestALineChangesItsCondition(t *testing.T) {
	s := testkit.New(t)
	vest, _ := secondsOf(t, s)
	view := s.Basket(t, 1, vest)
	to := func(c string) (register.BasketView, error) {
		return register.ChangeBasketLine(s.By(s.Tobi), 1, view.Lines[0].ID, register.BasketChange{Condition: &c})
	}
	got, err := to("Seconds")
	require.NoError(t, err)
	assert.Equal(t, "27.96 Seconds", got.Lines[0].Price.String()+" "+string(got.Lines[0].Condition))
	got, err = to("For sale")
	require.NoError(t, err)
	assert.Equal(t, "34.95", got.Lines[0].Price.String())
	for _, bad := range []string{"Lent", "Gone", "On the way", "💥"} {
		_, err = to(bad)
		assert.Equal(t, "condition", fault.Of(err).Field, bad)
		_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "50",
			Lines: []register.SaleLineInput{{Variant: vest, Quantity: "1", Condition: bad}}})
		assert.Equal(t, "condition", fault.Of(err).Field, bad)
	}
}

// TestAPriceOfItsOwnInACondition is set by who sets prices, read as it is typed, and not over another's change.
func TestAPriceOfItsOwnInACondition(t *testing.T) {
	s := testkit.New(t)
	vest, code := secondsOf(t, s)
	set := func(typed, revision string) ([]prices.InCondition, error) {
		return prices.SetInCondition(s.By(s.Maren), vest,
			prices.InConditionInput{Condition: "Seconds", Price: typed, Revision: revision})
	}
	list, err := prices.InConditions(s.Shop, s.Store.Read(ctx), vest)
	require.NoError(t, err)
	require.Len(t, list, 1)
	before := list[0].Revision
	for typed, want := range map[string]string{"12,50": "12.5", "30 %": "24.47", "": "27.96"} {
		list, err = set(typed, list[0].Revision)
		require.NoError(t, err, typed)
		assert.Equal(t, want, list[0].Price.String(), typed)
	}
	list, err = set("15", list[0].Revision)
	require.NoError(t, err)
	_, err = set("16", before)
	assert.Error(t, err, "it was changed meanwhile")
	for _, bad := range []string{"-1", "1.005", "120 %", "%", "soon"} {
		_, err = set(bad, list[0].Revision)
		require.NotNil(t, fault.Of(err), bad)
		assert.Equal(t, "price", fault.Of(err).Field, bad)
	}
	_, err = prices.SetInCondition(s.By(s.Tobi), vest,
		prices.InConditionInput{Condition: "Seconds", Price: "1"})
	assert.Equal(t, fault.Forbidden, fault.Of(err).Kind)
	view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: code})
	require.NoError(t, err)
	assert.Equal(t, "15", view.Lines[0].Price.String())
	sheet, err := labels.Labels(s.By(s.Tobi), labels.LabelRequest{Condition: "Seconds",
		Labels: []labels.LabelWish{{Variant: vest, Copies: 1}}})
	require.NoError(t, err)
	assert.Equal(t, 1, sheet.Count)
	_, err = labels.Labels(s.By(s.Tobi), labels.LabelRequest{Condition: "Lent",
		Labels: []labels.LabelWish{{Variant: vest, Copies: 1}}})
	assert.Equal(t, "condition", fault.Of(err).Field)
}

// TestTheLabelOfSecondsElsewhere: a count and a move take it as what is Seconds, a delivery does not.
func TestTheLabelOfSecondsElsewhere(t *testing.T) {
	s := testkit.New(t)
	vest, code := secondsOf(t, s)
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Whole: true})
	require.NoError(t, err)
	counted, err := counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Code: code})
	require.NoError(t, err)
	assert.Equal(t, "Seconds", counted.Condition)
	moved, err := stockroom.ScanMove(s.By(s.Callum), stockroom.MoveScan{Code: code,
		Lines: []stockroom.MoveLine{{Variant: vest, Quantity: "2"}}})
	require.NoError(t, err)
	require.Len(t, moved.Lines, 2)
	assert.Equal(t, "2 ", moved.Lines[0].Quantity+" "+moved.Lines[0].Condition)
	assert.Equal(t, "1 Seconds", moved.Lines[1].Quantity+" "+moved.Lines[1].Condition)
}
