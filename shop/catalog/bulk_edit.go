package catalog

import (
	"encoding/json"
	"fmt"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/store/book"
	storegoods "itemrack/store/goods"
	"itemrack/store/lists"
	storeprices "itemrack/store/prices"
)

// BulkChange changes one thing of many products: those ticked, or all of a list.
// What is one of category, supplier, brand, tax_class, restock_level, markup,
// ending, discontinued, price_percent, price_amount or price_ending; To is the
// new value, empty to take the category's where there is one.
type BulkChange struct {
	Products []uint64 `json:"products"`
	What     string   `json:"what"`
	To       string   `json:"to"`
}

// BulkRow is what a bulk change does to one product, or a variant's price.
type BulkRow struct {
	Product uint64  `json:"product_id"`
	Variant uint64  `json:"variant_id,omitempty"`
	Name    string  `json:"name"`
	Before  string  `json:"before"`
	After   string  `json:"after"`
	Remark  string  `json:"remark,omitempty"`
	From    *string `json:"-"` // as it is kept, for undoing
	To      *string `json:"-"`
}

// BulkResult is what a bulk change does, or did. Left says of each thing that
// stays as it is why it does.
type BulkResult struct {
	ID   uint64    `json:"id,omitempty"`
	Says string    `json:"says"`
	Rows []BulkRow `json:"rows"`
	Left []string  `json:"left,omitempty"`
}

// keptChange is a row of a bulk change as it is kept for undoing.
type keptChange struct {
	What    string  `json:"what"`
	Product uint64  `json:"p"`
	Variant uint64  `json:"v,omitempty"`
	Name    string  `json:"n"`
	From    *string `json:"f"`
	To      *string `json:"t"`
}

// mostBulk bounds a bulk change.
const mostBulk = 20_000

// PreviewBulk works out what a bulk change would do, by the same function that
// does it.
func PreviewBulk(do deed.Deed, in BulkChange) (BulkResult, error) {
	var result BulkResult
	_, err := deed.Once(do.Under(""), staff.DeedCatalog, func(do deed.Deed) (BulkResult, error) {
		var err error
		result, err = bulk(do, in)
		if err == nil {
			err = deed.ErrTried
		}
		return result, err
	})
	if err == deed.ErrTried { //nolint:errorlint // it is that very value
		err = nil
	}
	return result, err
}

// ChangeBulk changes one thing of many products at once; it can be undone as one.
func ChangeBulk(do deed.Deed, in BulkChange) (BulkResult, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (BulkResult, error) {
		result, err := bulk(do, in)
		if err != nil {
			return result, err
		}
		if len(result.Rows) == 0 {
			return result, fault.Refuse("to", in.To, "another value", "Nothing would change.")
		}
		changes := make([]keptChange, len(result.Rows))
		for i, r := range result.Rows {
			changes[i] = keptChange{in.What, r.Product, r.Variant, r.Name, r.From, r.To}
		}
		row := lists.BulkEdit{
			UserID:  do.Who.ID,
			At:      do.Shop.Now(),
			Says:    text.Cut(result.Says, 250),
			Changes: deed.JSON(changes),
		}
		if err := lists.AddBulkEdit(do.Tx, &row); err != nil {
			return result, err
		}
		result.ID = row.ID
		if len(result.Rows) > 200 {
			result.Rows = result.Rows[:200]
		}
		return result, nil
	})
}

// columnOf is the column of product that a bulk change writes.
var columnOf = map[string]string{
	"category":      "category_id",
	"supplier":      "supplier_id",
	"brand":         "brand",
	"tax_class":     "tax_class_id",
	"restock_level": "restock_level",
	"markup":        "markup",
	"ending":        "ending",
	"discontinued":  "discontinued",
}

func bulk(do deed.Deed, in BulkChange) (BulkResult, error) {
	if len(in.Products) == 0 {
		return BulkResult{}, fault.Field("products", "", "at least one product", "Tick the products to change.")
	}
	if len(in.Products) > mostBulk {
		return BulkResult{}, fault.Field("products", len(in.Products), "20,000 or fewer",
			"%d products are too many for one change.", len(in.Products))
	}
	if err := storegoods.LockProducts(do.Tx, in.Products); err != nil {
		return BulkResult{}, err
	}
	if strings.HasPrefix(in.What, "price_") {
		return bulkPrices(do, in)
	}
	column, ok := columnOf[in.What]
	if !ok {
		return BulkResult{}, fault.Field("what", in.What,
			"category, supplier, brand, tax_class, restock_level, markup, ending, discontinued, price_percent, "+
				"price_amount or price_ending",
			"Products have no %q to change.", in.What)
	}
	value, shown, err := bulkValue(do, in)
	if err != nil {
		return BulkResult{}, err
	}
	before, err := storegoods.ProductColumn(do.Tx.Q, column, in.Products)
	if err != nil {
		return BulkResult{}, err
	}
	result := BulkResult{Rows: []BulkRow{}}
	var changed []uint64
	for _, b := range before {
		if sameText(b.Value, value) {
			continue
		}
		changed = append(changed, b.ID)
		result.Rows = append(result.Rows,
			BulkRow{Product: b.ID, Name: b.Name, Before: b.Shown, After: shown, From: b.Value, To: value})
	}
	result.Says = fmt.Sprintf("%s of %d products: %s", strings.ReplaceAll(in.What, "_", " "), len(changed), shown)
	return result, writeColumn(do, in.What, value, changed)
}

// writeColumn writes one value for some products, and what follows from it.
func writeColumn(do deed.Deed, what string, value *string, products []uint64) error {
	if len(products) == 0 {
		return nil
	}
	if err := storegoods.SetProductColumn(do.Tx, columnOf[what], value, products); err != nil {
		return err
	}
	if what == "supplier" && value != nil {
		if err := storegoods.SuppliedBy(do.Tx, products); err != nil {
			return err
		}
	}
	return resettle(do, products)
}

func sameText(a, b *string) bool {
	if a == nil || b == nil {
		return a == b
	}
	if da, err := decimal.NewFromString(*a); err == nil {
		if db, err := decimal.NewFromString(*b); err == nil {
			return da.Equal(db)
		}
	}
	return *a == *b
}

// bulkValue reads the new value as it is kept, and as it is shown.
func bulkValue(do deed.Deed, in BulkChange) (*string, string, error) {
	typed := strings.TrimSpace(in.To)
	figure := func(d *decimal.Decimal, err error) (*string, string, error) {
		if err != nil || d == nil {
			return nil, "as its category", err
		}
		kept := d.String()
		return &kept, kept, nil
	}
	switch in.What {
	case "category":
		categories, err := storegoods.Categories(do.Tx.Q)
		if err != nil {
			return nil, "", err
		}
		path, err := meantCategory(categories, typed)
		if err != nil {
			return nil, "", err
		}
		row, err := storegoods.KeepCategory(do.Tx, path)
		kept := fmt.Sprint(row.ID)
		return &kept, row.Path, err
	case "supplier":
		if typed == "" {
			return nil, "none", nil
		}
		row, err := storegoods.KeepSupplier(do.Tx, typed)
		kept := fmt.Sprint(row.ID)
		return &kept, row.Name, err
	case "brand":
		if text.Len(typed) > 80 {
			return nil, "", fault.Field("to", typed, "80 characters or fewer", "The brand is too long.")
		}
		return &typed, typed, nil
	case "tax_class":
		classes, err := storeprices.TaxClasses(do.Tx.Q)
		if err != nil {
			return nil, "", err
		}
		for _, c := range classes {
			if text.Same(c.Name, typed) {
				kept := fmt.Sprint(c.ID)
				return &kept, c.Name, nil
			}
		}
		if typed == "" {
			return nil, "as its category", nil
		}
		return nil, "", fault.Field("to", typed, "a tax class of the shop", "There is no tax class %q.", typed)
	case "restock_level":
		return figure(number.Optional("to", typed, unit.Kilogram.Parse))
	case "markup":
		return figure(number.Optional("to", typed, price.ParsePercent))
	case "ending":
		ending, err := price.OptionalEnding(typed, money.Thousandth)
		if ending == nil {
			return nil, "as its category", err
		}
		return ending, text.Or(*ending, "none"), err
	}
	switch strings.ToLower(typed) {
	case "yes":
		kept := "1"
		return &kept, "yes", nil
	case "no":
		kept := "0"
		return &kept, "no", nil
	}
	return nil, "", fault.Field("to", typed, "yes or no", "%q is neither yes nor no.", typed)
}

// bulkPrices changes the Regular prices of products: by a percentage, an amount
// or to an ending. Variants that follow their product go on following it; what a
// rule prices is left, and said.
func bulkPrices(do deed.Deed, in BulkChange) (BulkResult, error) {
	set, err := do.Tx.Terms()
	if err != nil {
		return BulkResult{}, err
	}
	change, err := price.ParseChange(price.ChangeKind(in.What), in.To, set.Minor())
	if err != nil {
		return BulkResult{}, err
	}
	result := BulkResult{Rows: []BulkRow{}}
	for start := 0; start < len(in.Products); start += 200 {
		views, err := storegoods.ProductViews(do.Tx.Q, in.Products[start:min(start+200, len(in.Products))], 0, do.Shop.Now())
		if err != nil {
			return result, err
		}
		var prices []storeprices.Price
		for _, v := range views {
			more, err := bulkProductPrices(*v, change, &result)
			if err != nil {
				return result, err
			}
			prices = append(prices, more...)
		}
		if err := setPrices(do, prices); err != nil {
			return result, err
		}
	}
	result.Says = fmt.Sprintf("%d prices: %s %s", len(result.Rows), strings.ReplaceAll(in.What, "_", " "), in.To)
	return result, book.Restand(do.Tx, in.Products, do.Shop.Now())
}

// setPrices writes prices of the Regular list that begin now.
func setPrices(do deed.Deed, prices []storeprices.Price) error {
	if len(prices) == 0 {
		return nil
	}
	for i := range prices {
		prices[i].PriceListID, prices[i].FromAt, prices[i].UserID = price.Regular, do.Shop.Now(), &do.Who.ID
	}
	return storeprices.AddPrices(do.Tx, &prices)
}

// bulkProductPrices works out the new prices of a product and its variants, and
// notes them in the result.
func bulkProductPrices(view storegoods.ProductView, change price.Change,
	result *BulkResult) ([]storeprices.Price, error) {
	var prices []storeprices.Price
	minor := view.Pricing.Book.Minor
	take := func(variant *uint64, name string, v storegoods.VariantView) error {
		is, marked := change.Apply(v.Price)
		if is.Equal(v.Price) {
			return nil
		}
		if !is.IsPositive() {
			return fault.Field("to", is, "a change that leaves a price", "%s would cost %s.", name, minor.Text(is))
		}
		before, after := minor.Text(v.Price), minor.Text(is)
		row := BulkRow{
			Product: view.ID,
			Variant: deed.Deref(variant),
			Name:    name,
			Before:  before,
			After:   after,
			From:    &before,
			To:      &after,
		}
		if marked {
			row.Remark = "the ending could not be had below"
		}
		if goods := view.Goods(v); view.Pricing.Book.Stand(is, goods.Percent, goods.Held).Under {
			row.Remark = "under cost"
		}
		result.Rows = append(result.Rows, row)
		prices = append(prices, storeprices.Price{ProductID: view.ID, VariantID: variant, Amount: is})
		return nil
	}
	followed, ruled := false, false
	for _, v := range view.Variants {
		var err error
		switch {
		case v.PriceSource == price.OwnPrice:
			err = take(&v.ID, catalog.FullName(view.Name, v.Label), v)
		case v.PriceSource == price.ProductPrice && !followed:
			followed = true
			err = take(nil, view.Name, v)
		case v.PriceSource == price.ByRule && !ruled:
			ruled = true
			result.Left = append(result.Left, view.Name+" is priced by a rule, and stays: change its markup instead.")
		}
		if err != nil {
			return nil, err
		}
	}
	return prices, nil
}

// UndoBulk takes a bulk change back. What was changed by hand since stays, and is
// listed.
func UndoBulk(do deed.Deed, id uint64) (BulkResult, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (BulkResult, error) {
		set, err := do.Tx.Terms()
		if err != nil {
			return BulkResult{}, err
		}
		edit, err := lists.LockBulkEdit(do.Tx, id)
		if err != nil {
			return BulkResult{}, err
		}
		if edit.UndoneAt != nil {
			return BulkResult{}, fault.Clash("bulk_edit", id, "a change that stands",
				"That change was undone already, at %s.", edit.UndoneAt.In(set.Zone).Format("15:04 on 2 Jan"))
		}
		var changes []keptChange
		if err := json.Unmarshal([]byte(edit.Changes), &changes); err != nil {
			return BulkResult{}, err
		}
		result := BulkResult{ID: id, Rows: []BulkRow{}, Left: []string{}}
		if err := undo(do, changes, &result); err != nil {
			return result, err
		}
		result.Says = fmt.Sprintf("%d of %d changes are undone.", len(result.Rows), len(changes))
		if len(result.Rows) > 200 {
			result.Rows = result.Rows[:200]
		}
		return result, lists.UndoneBulkEdit(do.Tx, id, do.Shop.Now())
	})
}

// changedSince says why undoing leaves something.
const changedSince = " was changed since, and stays."

func undo(do deed.Deed, changes []keptChange, result *BulkResult) error {
	if len(changes) == 0 {
		return nil
	}
	var products []uint64
	for _, c := range changes {
		products = append(products, c.Product)
	}
	if err := storegoods.LockProducts(do.Tx, products); err != nil {
		return err
	}
	if strings.HasPrefix(changes[0].What, "price_") {
		return undoPrices(do, changes, products, result)
	}
	now, err := storegoods.ProductColumn(do.Tx.Q, columnOf[changes[0].What], products)
	if err != nil {
		return err
	}
	at := map[uint64]*string{}
	for _, n := range now {
		at[n.ID] = n.Value
	}
	back := map[string][]uint64{}
	for _, c := range changes {
		if !sameText(at[c.Product], c.To) {
			result.Left = append(result.Left, c.Name+changedSince)
			continue
		}
		key := "\x00"
		if c.From != nil {
			key = *c.From
		}
		back[key] = append(back[key], c.Product)
		result.Rows = append(result.Rows, BulkRow{Product: c.Product, Name: c.Name})
	}
	for key, ids := range back {
		value := &key
		if key == "\x00" {
			value = nil
		}
		if err := writeColumn(do, changes[0].What, value, ids); err != nil {
			return err
		}
	}
	return nil
}

func undoPrices(do deed.Deed, changes []keptChange, products []uint64, result *BulkResult) error {
	pricing, err := storeprices.Find(do.Tx.Q, products, do.Shop.Now())
	if err != nil {
		return err
	}
	var prices []storeprices.Price
	for _, c := range changes {
		rows := pricing.Rows(c.Product, c.Variant, 0)
		now := pricing.Book.Find(price.Goods{Own: rows}, price.Regular, decimal.New(1, 0), do.Shop.Now())
		if c.From == nil || c.To == nil || pricing.Book.Minor.Text(now.Amount) != *c.To {
			result.Left = append(result.Left, c.Name+changedSince)
			continue
		}
		amount, err := decimal.NewFromString(*c.From)
		if err != nil {
			return err
		}
		prices = append(prices,
			storeprices.Price{ProductID: c.Product, VariantID: deed.Reference(c.Variant), Amount: amount})
		result.Rows = append(result.Rows,
			BulkRow{Product: c.Product, Variant: c.Variant, Name: c.Name, Before: *c.To, After: *c.From})
	}
	if err := setPrices(do, prices); err != nil {
		return err
	}
	return book.Restand(do.Tx, products, do.Shop.Now())
}
