package office_test

import (
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/office"
	shopregister "itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// practising is a shop that practises, with something of every kind in it.
func practising(t *testing.T) (*testkit.Shop, catalog.MadeProduct) {
	plan := testkit.Plan
	plan.Practice, plan.Costing = true, string(cost.FIFO)
	s := testkit.Planned(t, plan)
	vest := s.Vest(t)
	v := vest.Variants[0].ID
	s.Stock(t, v, "10", "12.00")
	wrong := s.Stock(t, v, "3", "1.00")
	_, err := stockroom.Reverse(s.By(s.Maren), wrong.Number, "")
	require.NoError(t, err)
	cream := s.Simple(t, "Sun cream", "lot", "9.00")
	watch := s.Simple(t, "Paddle watch", "serial", "190.00")
	s.Receive(
		t,
		buying.DeliveryInput{
			Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "3", Lot: "K1", Expiry: "2127-04-30"},
				{Variant: watch, Quantity: "1", Cost: "90", Serials: "N1"}},
		},
	)
	s.Open(t, 1)
	sold := s.Sold(t, v, "2")
	_, err = shopregister.TakeBack(s.By(s.Tobi), shopregister.ReturnInput{
		Register: 1,
		Sale:     sold.Number,
		Lines:    []shopregister.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	_, err = shopregister.AddToBasket(s.By(s.Tobi), 1, shopregister.BasketAdd{Variant: v})
	require.NoError(t, err)
	list, err := catalog.Categories(s.By(s.Maren))
	require.NoError(t, err)
	c, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: list[0].ID})
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), c.ID, counts.CountInput{Variant: v, Quantity: "4"})
	require.NoError(t, err)
	s.DraftFor(t)
	s.InStep(t)
	return s, vest
}

func TestPracticeIsClearedByOneDeed(t *testing.T) {
	s, vest := practising(t)
	page, err := shopregister.Receipt(ctx, s.Shop, "Q1-00001")
	require.NoError(t, err)
	assert.Contains(t, page.SVG("receipt"), "Practice")
	for _, c := range []struct {
		who  staff.Actor
		in   office.EndPractice
		kind fault.Kind
	}{{s.Tobi, office.EndPractice{Name: "Saltmarsh Paddle & Swim"}, fault.Forbidden}, {s.Maren, office.EndPractice{},
		fault.Invalid}, {s.Maren, office.EndPractice{Name: "Another"}, fault.Invalid}} {
		_, err := office.BeginForReal(s.By(c.who), c.in)
		assert.True(t, fault.Is(err, c.kind), "%v", err)
	}
	done, err := office.BeginForReal(s.By(s.Maren, "begin"), office.EndPractice{Name: " saltmarsh  Paddle & swim "})
	require.NoError(t, err)
	assert.Equal(t, int64(6), done.Documents)
	assert.Equal(t, []int64{1, 1, 1, 1}, []int64{done.Sales, done.Counts, done.Drafts, done.Open})
	again, err := office.BeginForReal(s.By(s.Maren, "begin"), office.EndPractice{Name: "Saltmarsh Paddle & Swim"})
	require.NoError(t, err)
	assert.Equal(t, done, again, "asked again under its key, it is told what was done")
	_, err = office.BeginForReal(s.By(s.Maren), office.EndPractice{Name: "Saltmarsh Paddle & Swim"})
	assert.True(t, fault.Is(err, fault.Conflict))

	left, err := book.ReadPractised(s.Store.Read(ctx))
	require.NoError(t, err)
	assert.Zero(t, left)
	v := vest.Variants[0].ID
	held, err := book.Look(s.Store.Read(ctx), []uint64{v})
	require.NoError(t, err)
	assert.True(t, held.Pools[v].Quantity.IsZero() && held.Pools[v].Last.IsZero())
	assert.Equal(t, "34.95", s.View(t, vest.ID).Variants[0].Price.StringFixed(2), "products and prices stay")
	s.InStep(t)

	// and the shop works: the first real delivery and sale have the first numbers
	assert.Equal(t, "D-0001", s.Stock(t, v, "2", "12.00").Number)
	s.Open(t, 1)
	sold := s.Sold(t, v, "1")
	assert.Equal(t, "Q1-00001", sold.Number)
	page, err = shopregister.Receipt(ctx, s.Shop, sold.Number)
	require.NoError(t, err)
	assert.NotContains(t, page.SVG("receipt"), "Practice")
	s.InStep(t)
}

func TestPracticeMayBeKept(t *testing.T) {
	s, vest := practising(t)
	before, err := book.ReadPractised(s.Store.Read(ctx))
	require.NoError(t, err)
	_, err = office.BeginForReal(s.By(s.Maren), office.EndPractice{Keep: true})
	require.NoError(t, err)
	after, err := book.ReadPractised(s.Store.Read(ctx))
	require.NoError(t, err)
	assert.Equal(t, before, after)
	settings, err := office.ReadSettings(s.By(s.Maren))
	require.NoError(t, err)
	assert.False(t, settings.Practice)
	s.Sold(t, vest.Variants[0].ID, "1")
	s.InStep(t)
}

// TestPracticeEndsWhileTheShopSells clears the book while two registers sell: each
// sale is of the practice or real, and none is half of either.
func TestPracticeEndsWhileTheShopSells(t *testing.T) {
	s, vest := practising(t)
	v := vest.Variants[1].ID
	s.Stock(t, v, "500", "1.00")
	s.Open(t, 2)
	stop := make(chan struct{})
	var wait sync.WaitGroup
	for register := uint64(1); register <= 2; register++ {
		wait.Add(1)
		go func() {
			defer wait.Done()
			for {
				select {
				case <-stop:
					return
				default:
				}
				_, err := shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{
					Register: register,
					Lines:    []shopregister.SaleLineInput{{Variant: v, Quantity: "1"}},
					Cash:     "100",
				},
				)
				if err != nil { // cleared: no drawer is open, nothing is there
					assert.NotNil(t, fault.Of(err), "%v", err)
				}
			}
		}()
	}
	_, err := office.BeginForReal(s.By(s.Maren), office.EndPractice{Name: "Saltmarsh Paddle & Swim"})
	close(stop)
	wait.Wait()
	require.NoError(t, err)
	left, err := book.ReadPractised(s.Store.Read(ctx))
	require.NoError(t, err)
	assert.Zero(t, left)
	s.InStep(t)
}
