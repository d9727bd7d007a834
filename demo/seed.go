package demo

import (
	"context"
	"fmt"
	"math/rand/v2"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
)

var (
	seedColours = []catalog.Value{{Name: "Coral", Swatch: "#D9604C"}, {Name: "Slate", Swatch: "#54646F"},
		{Name: "Kelp", Swatch: "#3F6B4F"}, {Name: "Sand", Swatch: "#D8C29A"}}
	seedSizes = []string{"XS", "S", "M", "L", "XL"}
	seedFirst = []string{"Tidal", "Harbour", "Estuary", "Reef", "Headland", "Lagoon", "Spindrift", "Breakwater",
		"Saltern", "Skerry"}
	seedSecond = []string{"rash vest", "wetsuit", "shorts", "jacket", "cap", "towel", "leggings", "boots", "gloves",
		"poncho"}
)

// seedBatch is how many variants are made in one transaction.
const seedBatch = 4000

// Seed fills a shop with so many variants, 20 to a product, with opening stock,
// through the same import that people use. Tell is told how many are done.
func Seed(ctx context.Context, s *deed.Shop, who staff.Actor, variants int, seed uint64, tell func(done int)) error {
	random := rand.New(rand.NewPCG(seed, 0x5eed))
	var rows []catalog.ListRow
	perProduct := len(seedColours) * len(seedSizes)
	for n := 0; n < variants; n++ {
		product, cell := n/perProduct, n%perProduct
		price := decimal.New(int64(995+100*random.IntN(90)), -2)
		cost, opening := price.Mul(decimal.New(4, -1)).Round(2), decimal.New(int64(random.IntN(30)), 0)
		restock := decimal.New(3, 0)
		rows = append(rows, catalog.ListRow{Line: n + 2, Tracking: stock.Counted, Style: fmt.Sprintf("G%05d", product),
			Product:  fmt.Sprintf("%s %s %05d", seedFirst[product%10], seedSecond[product/10%10], product),
			Category: []string{"Season", seedSecond[product/10%10]}, Supplier: fmt.Sprintf("Supplier %02d", product%40),
			Axes: []catalog.ListValue{{Axis: "Colour", Value: seedColours[cell/len(seedSizes)]},
				{Axis: "Size", Value: catalog.Value{Name: seedSizes[cell%len(seedSizes)]}}},
			Price: &price, Cost: &cost, Opening: &opening, Restock: &restock})
		if len(rows) == seedBatch || n == variants-1 {
			report, err := lists.ImportRows(deed.By(ctx, s, who, ""), lists.RowsOf(rows), 1, false)
			if err != nil {
				return err
			}
			if report.Refused > 0 {
				return fmt.Errorf("%d generated rows were refused: is the shop seeded already?", report.Refused)
			}
			rows = rows[:0]
			tell(n + 1)
		}
	}
	return nil
}
