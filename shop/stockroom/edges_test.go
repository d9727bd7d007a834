package stockroom_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
)

var ctx = context.Background()

func TestChangeOfConditionRefused(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "2", "1")
	good := stockroom.ChangeInput{Variant: v, Branch: 1, From: "For sale", To: "For scrap", Quantity: "1"}
	for field, spoil := range map[string]func(*stockroom.ChangeInput){
		"condition": func(c *stockroom.ChangeInput) { c.To = "Gone" },
		"quantity":  func(c *stockroom.ChangeInput) { c.Quantity = "3" },
		"variant":   func(c *stockroom.ChangeInput) { c.Variant = 99 },
	} {
		bad := good
		spoil(&bad)
		_, err := stockroom.ChangeCondition(s.By(s.Tobi), bad)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	done, err := stockroom.ChangeCondition(s.By(s.Tobi, "k"), good)
	require.NoError(t, err)
	again, err := stockroom.ChangeCondition(s.By(s.Tobi, "k"), good)
	require.NoError(t, err)
	assert.Equal(t, done.Number, again.Number)
	assert.Equal(t, "1", s.Held(t, v).ForSale()[v].String())
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "2", s.Held(t, v).ForSale()[v].String())
	s.InStep(t)
}

func TestWhatCantBeReversed(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	s.Open(t, 1)
	number := s.Sold(t, v, "2").Number
	back, err := s.TakeBack(1, number, 1, "1", "")
	require.NoError(t, err)
	_, err = stockroom.Reverse(s.By(s.Maren), number, "")
	assert.ErrorContains(t, err, "came back already")
	undone, err := stockroom.Reverse(s.By(s.Maren), back.Number, "")
	require.NoError(t, err)
	_, err = stockroom.Reverse(s.By(s.Maren), undone.Number, "")
	assert.ErrorContains(t, err, "mended by the document that it reversed, made anew")
	_, err = stockroom.Reverse(s.By(s.Maren), "X-1", "")
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = stockroom.Reverse(s.By(s.Tobi), number, "")
	assert.True(t, fault.Is(err, fault.Forbidden))
	s.InStep(t)
}
