package buying_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
)

// cells gives what stands under each column of a row.
func cells(row map[string]string) func(column string) string {
	return func(column string) string { return row[column] }
}

func TestARowOfACatalog(t *testing.T) {
	item, err := buying.ReadCatalogItem(cells(map[string]string{"part number": " KT-1 ", "gtin": "2099000000019",
		"name": "Sea  towel 漢", "cost": "50,40", "pack of": "6", "suggested price": "19,95", "from": "2027-01-31"}),
		true, pennies)
	require.NoError(t, err)
	assert.Equal(t, "p kt-1", item.Key())
	assert.Equal(t, "Sea towel 漢, pack of 6, 8.4", item.Name+", "+item.Pack+", "+item.Each().String())
	assert.Equal(t, "2027-01-31", item.From.Format(time.DateOnly))
	bare, err := buying.ReadCatalogItem(cells(map[string]string{"name": "Robe", "gtin": "2099000000019"}), false, pennies)
	require.NoError(t, err)
	assert.Equal(t, "g 02099000000019", bare.Key(), "told by its GTIN where it has no number")
	assert.Nil(t, bare.Each())
	assert.True(t, bare.Same(bare))
	assert.False(t, bare.Same(item))
	for field, row := range map[string]map[string]string{"name": {"part number": "1"}, "part number": {"name": "x"},
		"gtin": {"name": "x", "gtin": "12345"}, "cost": {"name": "x", "part number": "1", "cost": "-1"},
		"pack of":         {"name": "x", "part number": "1", "pack of": "0"},
		"suggested price": {"name": "x", "part number": "1", "suggested price": "1.005"},
		"from":            {"name": "x", "part number": "1", "from": "soon"},
		"brand":           {"name": "x", "part number": "1", "brand": strings.Repeat("é", 81)}} {
		_, err := buying.ReadCatalogItem(cells(row), false, pennies)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
}

// TestWhatIsAskedNow: what was asked the last time, until the catalog says otherwise.
func TestWhatIsAskedNow(t *testing.T) {
	day := func(text string) time.Time {
		at, err := time.Parse(time.DateOnly, text)
		require.NoError(t, err)
		return at
	}
	price := d("10")
	asked := &buying.Quoted{Offer: buying.Offer{Factor: d("1"), Price: &price, Discount: d("8")}, Part: "A",
		At: day("2026-06-01")}
	listed := d("66")
	item := &buying.CatalogItem{Part: "B", Cost: &listed, Pack: "box", Factor: d("6")}
	from := day("2026-12-01")
	for _, c := range []struct {
		asked *buying.Quoted
		item  *buying.CatalogItem
		from  *time.Time
		read  string
		want  string
	}{{asked, nil, nil, "2026-01-01", "10"}, {asked, item, nil, "2026-05-01", "10"},
		{asked, item, nil, "2026-07-01", "11"},
		{asked, item, &from, "2026-07-01", "10"}, {nil, item, nil, "2026-01-01", "11"},
		{nil, &buying.CatalogItem{}, nil, "2026-07-01", "none"}} {
		if c.item != nil {
			copied := *c.item
			copied.From, c.item = c.from, &copied
		}
		got := buying.Current(c.asked, c.item, day(c.read), d("5"), day("2026-11-26"))
		said := "none"
		if got != nil {
			said = got.Each().String()
		}
		assert.Equal(t, c.want, said, c)
	}
	now := buying.Current(nil, item, day("2026-07-01"), d("5"), day("2026-11-26"))
	assert.Equal(t, "B box 5", now.Part+" "+now.Pack+" "+now.Discount.String(), "with the discount that was agreed")
	assert.Equal(t, "10", buying.CostChange(d("10"), d("11")).String())
	assert.Equal(t, "-33.3", buying.CostChange(d("3"), d("2")).String())
	assert.Nil(t, buying.CostChange(d("0"), d("2")))
}

// FuzzReadCatalogItem reads rows that nobody wrote: what is taken can be kept, and is the same as itself.
func FuzzReadCatalogItem(f *testing.F) {
	f.Add("KT-1|2099000000019|Towel|Kelp|8,40|box|6|19,95|2027-01-01", true)
	f.Add("||||||||", false)
	f.Add("1|(01)02099000000019|\u200b|é|1e9|x|0.001|¥5|1/1/1", false)
	columns := make([]string, len(buying.CatalogColumns))
	for i, c := range buying.CatalogColumns {
		columns[i] = c.Name
	}
	f.Fuzz(func(t *testing.T, row string, comma bool) {
		parts := map[string]string{}
		for i, cell := range strings.Split(row, "|") {
			if i < len(columns) {
				parts[columns[i]] = cell
			}
		}
		item, err := buying.ReadCatalogItem(cells(parts), comma, pennies)
		if err != nil {
			require.NotNil(t, fault.Of(err), "%v", err)
			return
		}
		require.NotEmpty(t, item.Name)
		require.True(t, item.Factor.IsPositive())
		require.Greater(t, len(item.Key()), 2, "it can be told from others")
		require.True(t, item.Same(item))
	})
}
