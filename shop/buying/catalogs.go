package buying

import (
	"bytes"
	"cmp"
	"errors"
	"io"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/sheet"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// CatalogRow is what becomes of a row of a supplier's catalog.
type CatalogRow struct {
	Line    int    `json:"line"`
	Part    string `json:"part_number"`
	Name    string `json:"name"`
	Outcome string `json:"outcome"` // made, changed, the same, or refused
	Says    string `json:"says"`
}

// CostChange is goods of ours that a catalog lists at another cost of one than is offered so far.
type CostChange struct {
	Variant uint64           `json:"variant_id"`
	Name    string           `json:"name"`
	SKU     string           `json:"sku"`
	Was     *decimal.Decimal `json:"was" see:"costs"` // nil where nobody knew
	Now     decimal.Decimal  `json:"now" see:"costs"`
	Percent *decimal.Decimal `json:"percent" see:"costs"` // of what it was
	From    *time.Time       `json:"from"`                // the day from which it holds; nil for at once
}

// CatalogRead is what became of a supplier's catalog. Changes are the costs of our goods that it
// changes, the dearest turn first; Rows are the first rows that are not the same, those that are
// refused before the others. Left are the lines kept so far that the file does not name. Nothing
// is done where a row is refused, or it was only tried.
type CatalogRead struct {
	Made    int          `json:"made"`
	Changed int          `json:"changed"`
	Same    int          `json:"same"`
	Refused int          `json:"refused"`
	Left    int          `json:"left"`
	Ours    int          `json:"ours"` // lines that are goods of ours
	Changes []CostChange `json:"changes"`
	Rows    []CatalogRow `json:"rows"`
	Done    bool         `json:"done"`
}

// mostTold is how many rows of a catalog are told one by one.
const mostTold = 200

// CatalogInput says how a catalog is read: Dry only tries it, and with Whole what the file does
// not name goes.
type CatalogInput struct {
	Dry   bool
	Whole bool
}

// ReadCatalogIn reads a supplier's catalog in, CSV or XLSX, and keeps it: lines of the same part
// number, or GTIN, are changed, the others made. It is all or nothing.
func ReadCatalogIn(do deed.Deed, supplier uint64, data []byte, in CatalogInput) (CatalogRead, error) {
	if in.Dry {
		do.Key = ""
	}
	var tried CatalogRead
	done, err := deed.Once(do, staff.DeedSupplier, func(do deed.Deed) (CatalogRead, error) {
		row, _, err := goods.LockSupplier(do.Tx, supplier)
		if err != nil {
			return CatalogRead{}, err
		}
		c := catalogReader{s: do.Shop, tx: do.Tx, supplier: row, at: do.Shop.Now(), seen: map[string]int{}}
		if c.terms, err = do.Tx.Terms(); err != nil {
			return CatalogRead{}, err
		}
		if err := c.read(data); err != nil {
			return CatalogRead{}, err
		}
		before, err := storebuying.CatalogCount(do.Tx.Q, supplier)
		if err != nil {
			return CatalogRead{}, err
		}
		c.said.Left = int(before) - c.said.Changed - c.said.Same
		c.sort()
		if in.Dry || c.said.Refused > 0 {
			tried = c.said
			return c.said, deed.ErrTried
		}
		if err := storebuying.KeepCatalog(do.Tx, c.kept); err != nil {
			return CatalogRead{}, err
		}
		if in.Whole {
			if err := storebuying.DropCatalogBefore(do.Tx, supplier, c.at); err != nil {
				return CatalogRead{}, err
			}
		}
		c.said.Done = true
		return c.said, nil
	})
	if errors.Is(err, deed.ErrTried) {
		return tried, nil
	}
	return done, err
}

// catalogReader reads one catalog.
type catalogReader struct {
	s        *deed.Shop
	tx       store.Tx
	supplier goods.Supplier
	terms    terms.Terms
	at       time.Time
	seen     map[string]int // the line in which an item stands
	kept     []storebuying.CatalogItem
	said     CatalogRead
}

// readItem is an item with its line in the file.
type readItem struct {
	buying.CatalogItem
	line int
}

func (c *catalogReader) read(data []byte) error {
	c.said.Changes, c.said.Rows = []CostChange{}, []CatalogRow{}
	file, err := sheet.Open(bytes.NewReader(data))
	if err != nil {
		return err
	}
	defer file.Close()
	const batch = 1000
	var match catalog.Matching
	var items []readItem
	for {
		line, record, err := file.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		if match == nil {
			match = catalog.Match(record, buying.CatalogColumns, nil)
			if err := match.Check(buying.CatalogColumns, "name"); err != nil {
				return err
			}
			continue
		}
		item, err := buying.ReadCatalogItem(func(column string) string {
			if at := slices.Index(match, column); at >= 0 && at < len(record) {
				return record[at]
			}
			return ""
		}, file.DecimalComma(), c.terms.Minor())
		if key := item.Key(); err == nil && c.seen[key] > 0 {
			err = fault.Field("part number", text.Or(item.Part, item.GTIN), "each item once",
				"%s stands in line %d already.", text.Or(item.Part, item.GTIN), c.seen[key])
		} else if err == nil {
			c.seen[key] = line
		}
		if refusal := fault.Of(err); refusal != nil {
			c.said.Refused++
			c.tell(CatalogRow{line, item.Part, item.Name, rowRefused, refusal.Whole()})
			continue
		} else if err != nil {
			return err
		}
		if items = append(items, readItem{item, line}); len(items) == batch {
			if err := c.compare(items); err != nil {
				return err
			}
			items = nil
		}
	}
	if len(c.seen) == 0 && c.said.Refused == 0 {
		return fault.Field("file", "", "a row for each item", "The file has nothing in it to keep.")
	}
	return c.compare(items)
}

// tell notes what becomes of a row, while there are not too many; refused ones always find room.
func (c *catalogReader) tell(row CatalogRow) {
	if len(c.said.Rows) < mostTold || row.Outcome == rowRefused && c.said.Refused <= mostTold {
		c.said.Rows = append(c.said.Rows, row)
	}
}

// compare holds items against what is kept and what our goods cost so far.
func (c *catalogReader) compare(items []readItem) error {
	if len(items) == 0 {
		return nil
	}
	keys := make([]string, len(items))
	lines := make([]buying.ReadLine, len(items))
	for i, item := range items {
		keys[i], lines[i] = item.Key(), buying.ReadLine{GTIN: item.GTIN, Theirs: item.Part}
	}
	had, err := storebuying.CatalogByKeys(c.tx.Q, c.supplier.ID, keys)
	if err != nil {
		return err
	}
	whose, _, err := owners(c.tx.Q, c.supplier.ID, lines)
	if err != nil {
		return err
	}
	ours := slices.DeleteFunc(slices.Clone(whose), func(v uint64) bool { return v == 0 })
	offered, err := Quoted(c.tx.Q, c.supplier, ours, c.terms.Day(c.at))
	if err != nil {
		return err
	}
	names, err := goods.Named(c.tx.Q, ours)
	if err != nil {
		return err
	}
	for i, item := range items {
		row := CatalogRow{item.line, item.Part, item.Name, rowMade, ""}
		if was, ok := had[keys[i]]; ok && was.Item().Same(item.CatalogItem) {
			row.Outcome = rowSame
			c.said.Same++
		} else if ok {
			row.Outcome = rowChanged
			c.said.Changed++
		} else {
			c.said.Made++
		}
		if whose[i] != 0 {
			c.said.Ours++
			row.Says = "ours: " + names[whose[i]].Name
			c.change(item.CatalogItem, whose[i], names[whose[i]], offered)
		}
		if row.Outcome != rowSame {
			c.tell(row)
		}
		c.kept = append(c.kept, storebuying.CatalogItemOf(c.supplier.ID, item.CatalogItem, c.at, whose[i]))
	}
	return nil
}

// change notes what an item changes in the cost of goods of ours.
func (c *catalogReader) change(item buying.CatalogItem, variant uint64, named goods.Name,
	offered map[uint64]buying.Quoted) {
	now := item.Each()
	if now == nil {
		return
	}
	change := CostChange{Variant: variant, Name: named.Name, SKU: named.SKU, Now: *now, From: item.From}
	if q, ok := offered[variant]; ok && q.Price != nil {
		was := q.Each()
		if was.Equal(*now) {
			return
		}
		change.Was, change.Percent = &was, buying.CostChange(was, *now)
	}
	c.said.Changes = append(c.said.Changes, change)
}

// sort puts the dearest turn first, and what is refused before the rest.
func (c *catalogReader) sort() {
	slices.SortStableFunc(c.said.Changes, func(a, b CostChange) int {
		if (a.Percent == nil) != (b.Percent == nil) {
			return map[bool]int{true: 1, false: -1}[a.Percent == nil]
		}
		if a.Percent == nil {
			return cmp.Compare(a.Name, b.Name)
		}
		return b.Percent.Cmp(*a.Percent)
	})
	slices.SortStableFunc(c.said.Rows, func(a, b CatalogRow) int {
		return cmp.Compare(map[bool]int{true: 0, false: 1}[a.Outcome == rowRefused],
			map[bool]int{true: 0, false: 1}[b.Outcome == rowRefused])
	})
	c.said.Rows = c.said.Rows[:min(len(c.said.Rows), mostTold)]
}

// Quoted is what a supplier is known to ask for some variants on a day: what it asked the last
// time, or what its catalog says since.
func Quoted(q store.Q, supplier goods.Supplier, variants []uint64, today time.Time) (map[uint64]buying.Quoted, error) {
	asked, err := storebuying.SuppliedBy(q, supplier.ID, variants)
	if err != nil {
		return nil, err
	}
	listed, err := storebuying.CatalogFor(q, supplier.ID, variants)
	if err != nil {
		return nil, err
	}
	known := map[uint64]buying.Quoted{}
	for _, v := range variants {
		var last *buying.Quoted
		if a, ok := asked[v]; ok {
			last = &buying.Quoted{Offer: buying.Offer{Pack: a.Pack, Factor: a.Factor, Price: &a.Price,
				Discount: a.Discount}, Part: a.PartNumber, At: a.At}
		}
		var item *buying.CatalogItem
		l, ok := listed[v]
		if ok {
			i := l.Item()
			item = &i
		}
		if now := buying.Current(last, item, l.ReadAt, supplier.Discount, today); now != nil {
			known[v] = *now
		}
	}
	return known, nil
}

// Offered is goods that nobody here has and that a supplier's catalog offers, as the product
// that would be made of them.
type Offered struct {
	Item       storebuying.CatalogItemView `json:"item"`
	Each       *decimal.Decimal            `json:"each" see:"costs"`   // what one is listed at
	Landed     *decimal.Decimal            `json:"landed" see:"costs"` // what one is expected to cost
	Category   string                      `json:"category"`
	Price      *decimal.Decimal            `json:"price"` // by the rule it would have, else as suggested
	ByRule     bool                        `json:"by_rule"`
	Margin     string                      `json:"margin" see:"costs"`
	UnderCost  bool                        `json:"under_cost" see:"costs"`
	CanMake    bool                        `json:"can_make"` // the person may make it
	discount   decimal.Decimal
	suggestion shopcatalog.PriceSuggestion
}

// noCategory is where goods go whose supplier has nothing here yet.
const noCategory = "To sort"

// OfferedAs finds what suppliers offer under a code that nobody here knows.
func OfferedAs(s *deed.Shop, q store.Q, who staff.Actor, code string) ([]Offered, error) {
	code, _, err := coded(code)
	if err != nil {
		return nil, err
	}
	items, err := storebuying.CatalogByGTIN(q, code)
	if err != nil {
		return nil, err
	}
	list := []Offered{}
	for _, item := range items {
		o, err := propose(s, q, item, "", "")
		if err != nil {
			return nil, err
		}
		o.CanMake = who.Can(staff.DeedNewGoods)
		list = append(list, o)
	}
	return list, nil
}

// propose works out the product that a line of a catalog would be; category and price are what
// was typed instead.
func propose(s *deed.Shop, q store.Q, item storebuying.CatalogItemView, category, price string) (Offered, error) {
	o := Offered{Item: item, Category: category, Each: item.Item().Each()}
	from, _, err := goods.ReadSupplier(q, item.SupplierID)
	if err != nil {
		return o, err
	}
	o.discount = from.Discount
	if o.Category == "" {
		if o.Category, err = storebuying.UsualCategory(q, item.SupplierID, item.Brand); err != nil {
			return o, err
		}
		o.Category = text.Or(o.Category, noCategory)
	}
	ask := shopcatalog.PriceQuestion{Category: o.Category, Supplier: item.Supplier, Price: price}
	if o.Each != nil {
		ask.Cost = o.Each.String()
	}
	if o.suggestion, err = shopcatalog.SuggestIn(s, q, ask); err != nil {
		return o, err
	}
	var byRule *decimal.Decimal
	if o.suggestion.HasPrice {
		byRule = &o.suggestion.Price
	}
	o.Price, o.ByRule = buying.PriceFor(byRule, item.Suggested), byRule != nil && price == ""
	if byRule == nil && o.Price != nil {
		ask.Price = o.Price.String()
		if o.suggestion, err = shopcatalog.SuggestIn(s, q, ask); err != nil {
			return o, err
		}
	}
	if o.Landed = o.suggestion.Landed; o.Landed == nil {
		o.Landed = o.Each
	}
	o.Margin, o.UnderCost = o.suggestion.Margin, o.suggestion.UnderCost
	return o, nil
}

// MakeOfferedInput says what is otherwise than proposed: an empty field is as it was.
type MakeOfferedInput struct {
	Item     uint64 `json:"item_id"`
	Category string `json:"category"`
	Price    string `json:"price"`
}

// MakeOffered makes the product that a supplier's catalog offers, whole: with its name, brand,
// number, GTIN, pack, expected cost and price.
func MakeOffered(do deed.Deed, in MakeOfferedInput) (shopcatalog.MadeProduct, error) {
	return deed.Once(do, staff.DeedNewGoods, func(do deed.Deed) (shopcatalog.MadeProduct, error) {
		item, err := storebuying.LockCatalogItem(do.Tx, in.Item)
		if err != nil {
			return shopcatalog.MadeProduct{}, err
		}
		if item.ProductID != 0 {
			return shopcatalog.MadeProduct{}, fault.Clash("item_id", item.Name, "goods that are not here yet",
				"%s is here already, as %s.", item.Name, item.SKU)
		}
		o, err := propose(do.Shop, do.Tx.Q, item, in.Category, in.Price)
		if err != nil {
			return shopcatalog.MadeProduct{}, err
		}
		facts := shopcatalog.NewProduct{Name: item.Name, Category: o.Category, Brand: item.Brand,
			Supplier: item.Supplier, Part: item.PartNumber,
			Tracking: "counted", Barcode: item.GTIN}
		if o.Each != nil {
			facts.Cost = o.Each.String()
		}
		if o.Price != nil && !o.ByRule { // what the rule makes follows the rule
			facts.Price = o.Price.String()
		}
		made, err := shopcatalog.Make(do, facts)
		if err != nil {
			return made, err
		}
		variant := made.Variants[0].ID
		if !item.Factor.Equal(decimal.New(1, 0)) {
			pack := shopcatalog.PackInput{Name: text.Cut(item.Pack, 40), Factor: item.Factor.String(), Bought: true}
			if _, err := shopcatalog.KeepPack(do, made.ID, 0, pack); err != nil {
				return made, err
			}
			if item.Cost != nil {
				if err := storebuying.KeepSupplied(do.Tx, []storebuying.Supplied{{SupplierID: item.SupplierID, VariantID: variant,
					PartNumber: item.PartNumber, Pack: pack.Name,
					Factor: item.Factor, Price: *item.Cost, Discount: o.discount, At: do.Shop.Now(),
					Source: "the catalog"}}); err != nil {
					return made, err
				}
			}
		}
		return made, storebuying.MeansVariant(do.Tx, item.ID, item.GTIN, variant)
	})
}
