package prices_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

func TestPriceListsBreaksAndDatedPrices(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	v := made.Variants[0].ID // 34.95
	s.Stock(t, v, "60", "13.95")
	club, err := prices.SavePriceList(s.By(s.Maren), 0,
		prices.ListInput{Name: "Club", Kind: "other list", Base: 1, Percent: "−10", Ending: "1/0.95/nearest"})
	require.NoError(t, err)
	_, err = prices.SavePriceList(s.By(s.Maren), club.ID,
		prices.ListInput{Name: "Club", Kind: "other list", Base: club.ID, Percent: "-10"})
	assert.True(t, fault.Is(err, fault.Refused), "it would start from itself")
	result, err := prices.SetPrices(s.By(s.Maren), made.ID,
		prices.PriceChange{Price: "31.50", Quantity: "10"})
	require.NoError(t, err)
	assert.Len(t, result.Own, 2, "the two of 36.95 keep their own")
	_, err = prices.SetPrices(s.By(s.Maren), made.ID,
		prices.PriceChange{Price: "39.95", From: s.Now().AddDate(0, 0, 4).Format("2006-01-02T15:04")})
	assert.NoError(t, err)
	_, err = prices.SetPrices(s.By(s.Maren), made.ID, prices.PriceChange{Price: "39.95", From: "2020-01-01"})
	assert.Error(t, err, "not in the past")

	s.Open(t, 1)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: v})
	require.NoError(t, err)
	line := basket.Lines[0]
	assert.Equal(t, "34.95", line.Price.StringFixed(2))
	basket, err = register.ChangeBasketLine(s.By(s.Tobi), 1, line.ID, register.BasketChange{Quantity: "12"})
	require.NoError(t, err)
	assert.Equal(t, []string{"31.50", "378.00"},
		[]string{basket.Lines[0].Price.StringFixed(2), basket.Totals.Gross.StringFixed(2)})
	basket, err = register.PutOnList(s.By(s.Maren), 1, club.ID, nil)
	require.NoError(t, err)
	assert.Equal(t, "27.95", basket.Lines[0].Price.StringFixed(2), "31.50 − 10 % = 28.35, nearest ending .95 is 27.95")
	later := s.At(s.Now().AddDate(0, 0, 20))
	basket, err = register.ChangeBasketLine(deed.By(ctx, later, s.Tobi, ""), 1, line.ID,
		register.BasketChange{Quantity: "1"})
	require.NoError(t, err)
	assert.Equal(t, "31.95", basket.Lines[0].Price.StringFixed(2),
		"34.95 − 10 % = 31.455: the price that began meanwhile does not count")
	basket, err = register.AddToBasket(deed.By(ctx, later, s.Tobi, ""), 1, register.BasketAdd{Variant: v})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 2, "what is scanned now is a line of its own")
	assert.Equal(t, "35.95", basket.Lines[1].Price.StringFixed(2))

	why, err := prices.ExplainPrice(s.By(s.Tobi), v, "12", "")
	require.NoError(t, err)
	require.Len(t, why, 2)
	assert.Contains(t, why[0].Answer.Why[0].Says, "from 10")
	assert.Equal(t, "27.95", why[1].Answer.Amount.StringFixed(2))
	_, err = prices.DropLaterPrices(s.By(s.Maren), made.ID, prices.DropPrice{})
	require.NoError(t, err)
	why, err = prices.ExplainPrice(deed.By(ctx, later, s.Tobi, ""), v, "", "")
	require.NoError(t, err)
	assert.Equal(t, "34.95", why[0].Answer.Amount.StringFixed(2))
	_, err = prices.DropPriceList(s.By(s.Maren), price.Regular)
	assert.True(t, fault.Is(err, fault.Refused))
}

func TestListsFollowDatedPrices(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	_, err := prices.SetPrices(s.By(s.Maren), made.ID,
		prices.PriceChange{
			Price: "40.00",
			From:  s.Now().Add(48 * time.Hour).In(s.Terms(t).Zone).Format("2006-01-02T15:04"),
		},
	)
	require.NoError(t, err)
	listed := func(sh *deed.Shop) string {
		require.NoError(t, prices.PricesDue(ctx, sh))
		rows, _, err := goods.Variants(sh.Store.Read(ctx), goods.ListFilter{Sort: "price"}, 1)
		require.NoError(t, err)
		return rows[0].Price.StringFixed(2)
	}
	assert.Equal(t, "34.95", listed(s.Shop))
	assert.Equal(t, "36.95", listed(s.At(s.Now().AddDate(0, 0, 3))), "the four that follow cost 40.00 now")
}

func TestPricesWithoutTax(t *testing.T) {
	s := testkit.Bare(t)
	plan := testkit.Plan
	plan.WithoutTax = true
	_, err := office.SetUp(ctx, s.Shop, plan)
	require.NoError(t, err)
	_, err = office.MakePerson(
		ctx,
		s.Shop,
		office.NewPerson{
			Login:    "maren",
			Name:     "Maren Holt",
			Password: testkit.Password,
			Role:     staff.Manager,
			Branch:   1,
		},
	)
	require.NoError(t, err)
	s.Maren, err = office.PersonByLogin(ctx, s.Shop, "maren")
	require.NoError(t, err)
	s.Tobi, s.Callum = s.Maren, s.Maren
	v := s.Simple(t, "Whistle", "counted", "9.49")
	s.Stock(t, v, "9", "4")
	s.Open(t, 1)
	done := s.Sold(t, v, "3")
	assert.Equal(t, []string{"34.16", "5.69"}, []string{done.Total.StringFixed(2), done.Tax.StringFixed(2)},
		"28.47 and 20 %")
	back, err := register.TakeBack(s.By(s.Maren), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "3"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "34.16", back.Amount.StringFixed(2))
	s.InStep(t)
}
