package prices_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/shop/catalog"
	"itemrack/shop/prices"
	"itemrack/shop/reports"
	"itemrack/shop/testkit"
)

var ctx = context.Background()

func TestAPriceMovesWhatFollowsIt(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:      "Cap",
		Category:  "Swim",
		TaxClass:  1,
		Tracking:  "counted",
		Price:     "40.00",
		Axes:      []catalog.AxisInput{{Name: "Size", Text: "S, M, L"}},
		OwnPrices: []catalog.CellText{{Choice: []string{"L"}, Text: "45.00"}},
	},
	)
	require.NoError(t, err)
	result, err := prices.SetPrices(s.By(s.Maren), made.ID, prices.PriceChange{Price: "42.00"})
	require.NoError(t, err)
	assert.Len(t, result.Follow, 2)
	require.Len(t, result.Own, 1)
	assert.Contains(t, result.Own[0], "45.00")
	p := s.View(t, made.ID)
	assert.Equal(
		t,
		[]string{"42.00", "42.00", "45.00"},
		[]string{p.Variants[0].Price.StringFixed(2), p.Variants[1].Price.StringFixed(2),
			p.Variants[2].Price.StringFixed(2)},
	)
	// a cell that is emptied follows again, one that is typed stands for itself
	_, err = prices.SetPrices(s.By(s.Maren), made.ID,
		prices.PriceChange{
			Variants: []prices.VariantPricing{{Variant: made.Variants[2].ID},
				{Variant: made.Variants[0].ID, Price: "41.00"}},
		},
	)
	require.NoError(t, err)
	p = s.View(t, made.ID)
	assert.Equal(
		t,
		[]string{"41.00", "42.00", "42.00"},
		[]string{p.Variants[0].Price.StringFixed(2), p.Variants[1].Price.StringFixed(2),
			p.Variants[2].Price.StringFixed(2)},
	)
	for _, bad := range []prices.PriceChange{{Price: "-1"}, {Price: "4,2,0"}, {Price: "1", Quantity: "0.5"},
		{Price: "1", From: "yesterday"}, {Price: "1", List: 99},
		{Variants: []prices.VariantPricing{{Variant: 999, Price: "1"}}}} {
		_, err := prices.SetPrices(s.By(s.Maren), made.ID, bad)
		assert.NotNil(t, fault.Of(err), "%+v", bad)
	}
	_, err = prices.SetPrices(s.By(s.Callum), made.ID, prices.PriceChange{Price: "1"})
	assert.True(t, fault.Is(err, fault.Forbidden), "prices are a manager's")
}

func TestAPriceExplainsItself(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	_, err := prices.SavePriceList(s.By(s.Maren), 0,
		prices.ListInput{Name: "Club", Kind: "other list", Base: price.Regular, Percent: "-10"})
	require.NoError(t, err)
	_, err = prices.SetPrices(s.By(s.Maren), made.ID,
		prices.PriceChange{Price: "38.00", From: "2126-12-24T09:00"})
	require.NoError(t, err)
	s.Stock(t, made.Variants[0].ID, "2", "13.95")
	said := func(who staff.Actor) string {
		e, err := reports.Explain(s.By(who), made.Variants[0].ID, reports.FigurePrice)
		require.NoError(t, err)
		assert.Equal(t, "£34.95", e.Amount)
		var said []string
		for _, p := range e.Parts {
			said = append(said, p.Label+" "+p.Amount)
		}
		return strings.Join(said, "\n")
	}
	all := said(s.Maren)
	assert.NotContains(t, said(s.Tobi), "margin", "what it cost is not a clerk's to see")
	for _, want := range []string{"34.95", "31.46", "from 24 Dec 2126 09:00", "margin 52.1"} {
		assert.Contains(t, all, want)
	}
	_, err = reports.Explain(s.By(s.Tobi), 999, reports.FigurePrice)
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = reports.Explain(s.By(s.Tobi), made.Variants[0].ID, "weather")
	assert.Error(t, err)
}

func TestAListIsDroppedWithItsPrices(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	staff, err := prices.SavePriceList(s.By(s.Maren), 0,
		prices.ListInput{Name: "Staff", Kind: "markup", Percent: "20"})
	require.NoError(t, err)
	club, err := prices.SavePriceList(s.By(s.Maren), 0,
		prices.ListInput{Name: "Club", Kind: "other list", Base: staff.ID, Percent: "10"})
	require.NoError(t, err)
	_, err = prices.SetPrices(s.By(s.Maren), made.ID, prices.PriceChange{List: staff.ID, Price: "20"})
	require.NoError(t, err)
	_, err = prices.DropPriceList(s.By(s.Maren), staff.ID)
	assert.True(t, fault.Is(err, fault.Refused), "another starts from it")
	_, err = prices.DropPriceList(s.By(s.Maren), club.ID)
	require.NoError(t, err)
	_, err = prices.DropPriceList(s.By(s.Maren), staff.ID)
	require.NoError(t, err)
	why, err := prices.ExplainPrice(s.By(s.Tobi), made.Variants[0].ID, "", "")
	require.NoError(t, err)
	assert.Len(t, why, 1)
	for _, bad := range []prices.ListInput{{}, {Name: "Regular"}, {Name: "X", Kind: "guess"},
		{Name: "X", Kind: "margin", Percent: "100"}, {Name: "X", Kind: "fixed", Amount: "-1"},
		{Name: "X", Kind: "markup", Percent: "10", Ending: "1/2/up"}, {Name: "X", Kind: "other list", Base: 99}} {
		_, err := prices.SavePriceList(s.By(s.Maren), 0, bad)
		assert.NotNil(t, fault.Of(err), "%+v", bad)
	}
}
