package e2e

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
	"itemrack/store/buying"
)

// TestGoodsThatNobodyKnows: a supplier's catalog is tried and kept; a number from it is made whole by one
// press where it is scanned; what no catalog has is made in the delivery, with Esc losing nothing.
func TestGoodsThatNobodyKnows(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	s.Vest(t)
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	file := filepath.Join(t.TempDir(), "kelpline.csv")
	require.NoError(t, os.WriteFile(file, []byte("part number,gtin,name,cost,suggested price\n"+
		"KT-1,2099000000019,Sea towel 漢,8.40,19.95\nKT-2,2099000000026,Robe,x,79\n"), 0o600))
	p.open("/buying/suppliers/1/catalog")
	p.accessible()
	p.MustElement("#catalog-file").MustSetFiles(file)
	p.sees("#catalog-tried", "1 new, 1 refused")
	p.sees("#catalog-tried", "is not an amount")
	assert.True(t, p.MustElement("#catalog-tried .act.first").MustProperty("disabled").Bool(), "nothing is kept")
	require.NoError(t, os.WriteFile(file, []byte("part number,gtin,name,cost,suggested price\n"+
		"KT-1,2099000000019,Sea towel 漢,8.40,19.95\nKT-2,2099000000026,Robe,31,79\n"), 0o600))
	p.open("/buying/suppliers/1/catalog")
	p.MustElement("#catalog-file").MustSetFiles(file)
	p.leave(func() { p.press("#catalog-tried .act", "Keep it") })
	p.sees("main", "2 lines kept")

	// at the register: proposed whole, one press, and it is in the basket
	p.open("/register/1")
	p.scan("2099000000019")
	p.sees("#said", "Kelpline Textiles offers it: Sea towel 漢, to sell at £19.95")
	p.press("#said .offered .act", "Make it")
	p.sees("#facts", "1 line · 1 unit")
	// on a page that takes no scans: it opens
	p.open("/prices")
	p.scan("2099000000026")
	p.sees("#said", "offers it: Robe")
	p.leave(func() { p.press("#said .offered .act", "Make it") })
	p.sees("h1", "Robe")

	// in a delivery, what no catalog has
	p.open("/buying/new?supplier=1")
	p.scan("2099000000033")
	p.press("#said .act", "Make it here")
	p.sees("#new-goods", "New here: 2099000000033")
	p.fill("#new_packs", "8")
	p.fill("#new_pack_of", "12")
	p.fill("#new_loose", "4")
	p.fill("#new_total", "150")
	p.sees("#new-price-line", "100 in all · one at 1.50")
	p.fill("#new_restock", "200 %")
	p.fill("#new_name", "Tide bar")
	p.keys(input.Enter)
	p.sees("#new-goods [data-error]", "is no restock level")
	p.accessible()
	p.fill("#new_restock", "20 %")
	p.keys(input.Enter)
	p.sees("#lines", "Tide bar")
	p.sees("#said", "100 of it are in this delivery")
	_, lines, err := buying.ReadDelivery(s.Store.Read(context.Background()), 1)
	require.NoError(t, err)
	require.Len(t, lines, 1)
	assert.Equal(t, "100 150", lines[0].Quantity.String()+" "+lines[0].Total.String())
	s.InStep(t)
}
