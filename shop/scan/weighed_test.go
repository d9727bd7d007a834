package scan_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/catalog"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

var ctx = context.Background()

func TestAWeighedItemIsScanned(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Sea salt",
		Category: "Shore",
		Supplier: "Oar & Thole",
		TaxClass: 1,
		Unit:     "kg",
		Tracking: "counted",
		Price:    "8.00",
		Barcode:  "2812345000007",
	},
	)
	require.NoError(t, err)
	s.Stock(t, made.Variants[0].ID, "10", "2")
	_, err = office.SaveSettings(s.By(s.Maren), office.SettingsInput{Name: "Saltmarsh", ScalePrefix: "28"})
	require.NoError(t, err)
	s.Open(t, 1)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "2812345012505"})
	require.NoError(t, err)
	assert.Equal(t, []string{"1.25", "10.00"},
		[]string{basket.Lines[0].Quantity.String(), basket.Totals.Gross.StringFixed(2)})
}
