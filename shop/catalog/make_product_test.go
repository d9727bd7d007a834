package catalog_test

import (
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/catalog"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

func TestMakeAProductAndAddAColour(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	require.Len(t, made.Variants, 6)
	assert.Equal(t, "TWV-COR-S", made.Variants[0].SKU)
	assert.Equal(t, "2000000000015", made.Variants[0].Barcode)
	view, err := goods.ReadProduct(s.Store.Read(ctx), made.ID, 1, s.Now())
	require.NoError(t, err)
	assert.Equal(t, "34.95", view.Variants[0].Price.StringFixed(2))
	assert.Equal(t, "36.95", view.Variants[2].Price.StringFixed(2))

	more, err := catalog.AddValues(s.By(s.Maren), made.ID,
		catalog.Extension{
			Axes: []catalog.AxisInput{
				{Name: "Colour", Values: []catalog.ValueInput{{Name: "Kelp", Swatch: "#3F6B4F"}}}},
			LeftOut: [][]string{{"Kelp", "S"}},
		},
	)
	require.NoError(t, err)
	require.Len(t, more.Variants, 2)
	assert.Equal(t, "TWV-KEL-M", more.Variants[0].SKU)
	more, err = catalog.AddValues(s.By(s.Maren), made.ID,
		catalog.Extension{Axes: []catalog.AxisInput{{Name: "Size", Values: []catalog.ValueInput{{Name: "XL"}}}}})
	require.NoError(t, err)
	assert.Len(t, more.Variants, 3, "the cell left out before stays left out")

	_, err = catalog.AddValues(s.By(s.Maren), made.ID,
		catalog.Extension{Axes: []catalog.AxisInput{{Name: "Size", Values: []catalog.ValueInput{{Name: "xl"}}}}})
	assert.ErrorContains(t, err, "twice")
	_, err = catalog.AddValues(s.By(s.Maren), made.ID,
		catalog.Extension{Axes: []catalog.AxisInput{{Name: "Length", Values: []catalog.ValueInput{{Name: "Long"}}}}})
	assert.ErrorContains(t, err, "does not vary")

	result, err := prices.SetPrices(s.By(s.Maren), made.ID, prices.PriceChange{Price: "35.95"})
	require.NoError(t, err)
	assert.Len(t, result.Own, 2, "those with a price of their own are listed")
	assert.Len(t, result.Follow, 9)
	s.InStep(t)
}

func TestMakeProductRefuses(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	good := catalog.NewProduct{Name: "Thing", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "1.00"}
	for field, spoil := range map[string]func(*catalog.NewProduct){
		"name":         func(p *catalog.NewProduct) { p.Name = " " },
		"price":        func(p *catalog.NewProduct) { p.Price = "1,5x" },
		"category":     func(p *catalog.NewProduct) { p.Category = " > " },
		"tax_class_id": func(p *catalog.NewProduct) { p.TaxClass = 99 },
		"tracking":     func(p *catalog.NewProduct) { p.Tracking = "loosely" },
		"unit":         func(p *catalog.NewProduct) { p.Unit = "yard" },
		"sku_pattern":  func(p *catalog.NewProduct) { p.SKUPattern = "{colour}" },
	} {
		bad := good
		spoil(&bad)
		_, err := catalog.MakeProduct(s.By(s.Maren), bad)
		require.Error(t, err, field)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
		assert.NotEmpty(t, fault.Of(err).Want)
	}
	good.Name = "tidewater RASH vest"
	_, err := catalog.MakeProduct(s.By(s.Maren), good)
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = catalog.MakeProduct(s.By(s.Tobi), good)
	assert.True(t, fault.Is(err, fault.Forbidden))
}

// TestManyVariantsAtOnce sells baskets of the same variants in opposite orders.
func TestManyVariantsAtOnce(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	var forward, backward []register.SaleLineInput
	for _, v := range made.Variants {
		s.Stock(t, v.ID, "100", "10")
		forward = append(forward, register.SaleLineInput{Variant: v.ID, Quantity: "1"})
		backward = append([]register.SaleLineInput{{Variant: v.ID, Quantity: "1"}}, backward...)
	}
	s.Open(t, 1)
	s.Open(t, 2)
	var wait sync.WaitGroup
	for i := range 24 {
		wait.Go(func() {
			lines := forward
			if i%2 == 1 {
				lines = backward
			}
			_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: uint64(1 + i%2), Lines: lines, Cash: "1000"})
			assert.NoError(t, err)
		})
	}
	wait.Wait()
	s.InStep(t)
}
