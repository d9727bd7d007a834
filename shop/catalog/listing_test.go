package catalog_test

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/catalog"
	"itemrack/shop/lists"
	"itemrack/shop/testkit"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// manyProducts fills a shop with more than two pages of products, of one to three
// variants, many of them alike in price, stock and category.
func manyProducts(t *testing.T, s *testkit.Shop) {
	var list strings.Builder
	list.WriteString("product,size,category,supplier,brand,tax class,price,cost,opening quantity\n")
	for i := range 120 {
		for n := range 1 + i%3 {
			size := ""
			if i%3 > 0 {
				size = []string{"S", "M", "L"}[n]
			}
			price := fmt.Sprint(10 + i%7)
			if i%11 == 0 {
				price = ""
			}
			fmt.Fprintf(&list, "Thing %03d,%s,Swim > Sort %d,Supplier %d,Brand %d,Standard,%s,%d,%d\n", i, size, i%4,
				i%3, i%2, price, 4+i%5, i%6)
		}
	}
	report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(list.String()), 1, false)
	require.NoError(t, err)
	require.Zero(t, report.Refused)
}

// every reads all pages of a list.
func every[T any](t *testing.T, f goods.ListFilter, s *testkit.Shop,
	read func(store.Q, goods.ListFilter, int) ([]T, bool, error)) []T {
	var all []T
	for page := 1; ; page++ {
		rows, more, err := read(s.Store.Read(ctx), f, page)
		require.NoError(t, err)
		all = append(all, rows...)
		if !more {
			return all
		}
		require.Len(t, rows, store.PageSize)
	}
}

// TestEachRowIsOnOnePage reads all pages of the catalog in every order, up and
// down: each product and variant is there once, and they stand in that order.
func TestEachRowIsOnOnePage(t *testing.T) {
	s := testkit.New(t)
	manyProducts(t, s)
	figure := func(d *decimal.Decimal) decimal.Decimal {
		if d == nil {
			return decimal.New(-1, 9) // what has none comes first
		}
		return *d
	}
	words := map[string]func(goods.VariantRow) string{
		"":         name,
		"name":     name,
		"category": func(r goods.VariantRow) string { return r.Category },
		"supplier": func(r goods.VariantRow) string { return r.Supplier },
		"brand":    func(r goods.VariantRow) string { return r.Brand },
		"sku":      func(r goods.VariantRow) string { return r.SKU },
		"created":  func(goods.VariantRow) string { return "" },
	}
	figures := map[string]func(goods.VariantRow) decimal.Decimal{
		"price":    func(r goods.VariantRow) decimal.Decimal { return figure(r.Price) },
		"margin":   func(r goods.VariantRow) decimal.Decimal { return figure(r.Margin) },
		"on_hand":  func(r goods.VariantRow) decimal.Decimal { return r.OnHand },
		"for_sale": func(r goods.VariantRow) decimal.Decimal { return r.ForSale },
		"value":    func(r goods.VariantRow) decimal.Decimal { return r.Value },
	}
	variants := func(q store.Q, f goods.ListFilter, page int) ([]goods.VariantRow, bool, error) {
		return goods.Variants(q, f, page)
	}
	products := func(q store.Q, f goods.ListFilter, page int) ([]goods.ProductRow, bool, error) {
		return goods.Products(q, f, page)
	}
	for sort := range allOf(words, figures) {
		for _, falls := range []string{"", "-"} {
			for _, filter := range []goods.ListFilter{{}, {Category: 2}, {Words: "thing"}} {
				if filter.Sort = falls + sort; sort == "" && falls == "-" {
					continue
				}
				rows := every(t, filter, s, variants)
				ids := map[uint64]bool{}
				for _, r := range rows {
					ids[r.ID] = true
				}
				require.Equal(t, len(rows), len(ids), "%+v: variants", filter)
				if filter.Category == 0 {
					require.Equal(t, 240, len(rows), "%+v", filter)
				}
				sorted := slices.IsSortedFunc(rows, func(a, b goods.VariantRow) int {
					c := 0
					if text, ok := words[sort]; ok {
						c = strings.Compare(text(a), text(b))
					} else {
						c = figures[sort](a).Cmp(figures[sort](b))
					}
					if falls != "" {
						c = -c
					}
					return c
				})
				assert.True(t, sorted, "variants by %s", filter.Sort)
				seen := map[uint64]bool{}
				found := every(t, filter, s, products)
				assert.True(t,
					slices.IsSortedFunc(found, func(a, b goods.ProductRow) int { return standing(filter.Sort, a, b) }),
					"products by %s", filter.Sort)
				for _, p := range found {
					require.False(t, seen[p.ID], "%s is there twice by %s", p.Name, filter.Sort)
					seen[p.ID] = true
				}
				want := 120
				if filter.Category != 0 {
					want = 30
				}
				require.Equal(t, want, len(seen), "%+v", filter)
			}
		}
	}
	stock := every(
		t,
		goods.ListFilter{},
		s,
		func(q store.Q, _ goods.ListFilter, page int) ([]book.StockRow, bool, error) {
			return book.StockList(q, book.StockQuery{}, page)
		},
	)
	ids := map[uint64]bool{}
	for _, r := range stock {
		ids[r.ID] = true
	}
	assert.Equal(t, 240, len(ids), "stock")
	assert.Equal(t, 240, len(stock))
	s.InStep(t)
}

// standing says how two products stand to each other in an order of figures: by
// price the cheapest variant counts, or falling the dearest.
func standing(sort string, a, b goods.ProductRow) int {
	c := 0
	switch strings.TrimPrefix(sort, "-") {
	case "price":
		c = a.PriceMin.Cmp(b.PriceMin)
		if sort[0] == '-' {
			c = a.PriceMax.Cmp(b.PriceMax)
		}
	case "on_hand":
		c = a.OnHand.Cmp(b.OnHand)
	case "for_sale":
		c = a.ForSale.Cmp(b.ForSale)
	case "value":
		c = a.Value.Cmp(b.Value)
	case "name", "":
		c = strings.Compare(a.Name, b.Name)
	}
	if strings.HasPrefix(sort, "-") {
		c = -c
	}
	return c
}

func name(r goods.VariantRow) string { return r.Name }

// allOf are the orders in either map.
func allOf(words map[string]func(goods.VariantRow) string,
	figures map[string]func(goods.VariantRow) decimal.Decimal) map[string]bool {
	all := map[string]bool{}
	for sort := range words {
		all[sort] = true
	}
	for sort := range figures {
		all[sort] = true
	}
	return all
}

// atOnce does something many times at once and returns what came of each.
func atOnce[T any](times int, do func(n int) T) []T {
	results := make([]T, times)
	var wait sync.WaitGroup
	for n := range times {
		wait.Go(func() { results[n] = do(n) })
	}
	wait.Wait()
	return results
}

// TestTheSameAtOnce asks for one thing many times at once: a product under one
// key, own barcodes, and products of one name.
func TestTheSameAtOnce(t *testing.T) {
	s := testkit.New(t)
	towel := func(key, name string) (catalog.MadeProduct, error) {
		return catalog.MakeProduct(s.By(s.Maren, key), catalog.NewProduct{
			Name:     name,
			Category: "Shore",
			TaxClass: 1,
			Tracking: "counted",
			Price:    "9.00",
			Axes:     []catalog.AxisInput{{Name: "Size", Text: "S-XL"}},
		},
		)
	}
	made := atOnce(8, func(int) catalog.MadeProduct {
		p, err := towel("the same key", "Towel")
		assert.NoError(t, err)
		return p
	})
	for _, p := range made {
		assert.Equal(t, made[0], p, "one key, one product")
	}
	seen := map[string]bool{}
	for _, p := range atOnce(8, func(n int) catalog.MadeProduct {
		p, err := towel("", fmt.Sprint("Towel ", n))
		assert.NoError(t, err)
		return p
	}) {
		for _, v := range p.Variants {
			assert.False(t, seen[v.Barcode], "%s is given twice", v.Barcode)
			seen[v.Barcode] = true
		}
	}
	assert.Len(t, seen, 32)
	for _, err := range atOnce(8, func(n int) error {
		_, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: fmt.Sprint("Lamp ", n),
			Category: "Boathouse > Lamps", Supplier: "Oar & Thole",
			TaxClass: 1, Tracking: "counted", Price: "9.00"})
		return err
	}) {
		assert.NoError(t, err, "eight make the same category and supplier")
	}
	stood := 0
	for _, err := range atOnce(8, func(int) error {
		_, err := towel("", "Same name")
		return err
	}) {
		if err == nil {
			stood++
		} else {
			assert.True(t, fault.Is(err, fault.Conflict), "%v", err)
		}
	}
	assert.Equal(t, 1, stood, "of eight products with one name one is made")
}
