package buying

import (
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/buying"
	"itemrack/core/fault"
	corescan "itemrack/core/scan"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// NewGoods is goods in a delivery that nobody here knows, as they are typed: what they are, and
// how many came at what cost. An empty category is the one of most goods of the supplier; an
// empty price the rule's.
type NewGoods struct {
	Head       DeliveryInput `json:"head"` // of a delivery that nothing is kept of yet
	Code       string        `json:"code"`
	Name       string        `json:"name"`
	Category   string        `json:"category"`
	Tracking   string        `json:"tracking"`
	Unit       string        `json:"unit"`
	Pack       string        `json:"pack"` // its name; empty for "pack of 12"
	PackOf     string        `json:"pack_of"`
	Packs      string        `json:"packs"`
	Loose      string        `json:"loose"`
	Cost       string        `json:"cost"`
	Total      string        `json:"total"` // of the line, in place of what one costs
	Price      string        `json:"price"`
	Restock    string        `json:"restock_level"` // a quantity, or "20 %"
	ExpiryDays string        `json:"expiry_days"`
	Lot        string        `json:"lot"`
	Expiry     string        `json:"expiry"`
	Serials    string        `json:"serials"`
	Pictures   []uint64      `json:"picture_ids"`
}

// MadeGoods is a product that was made of goods in a delivery, with the delivery.
type MadeGoods struct {
	DeliveryRef
	Product catalog.MadeProduct `json:"product"`
	Said    string              `json:"said"`
}

// packed reads how many came, and at what.
func (in NewGoods) packed(q store.Q) (buying.Packed, error) {
	set, err := q.Terms()
	if err != nil {
		return buying.Packed{}, err
	}
	return buying.ReadPacked(in.Packs, in.PackOf, in.Loose, in.Cost, in.Total, set.Minor())
}

// PricedGoods is what goods that are being typed come to: how many, what one cost, and what they
// would sell for.
type PricedGoods struct {
	Units      decimal.Decimal         `json:"units"`
	Each       *decimal.Decimal        `json:"each" see:"costs"`
	Suggestion catalog.PriceSuggestion `json:"suggestion" see:"costs"`
}

// PriceGoods works out what goods come to while they are typed.
func PriceGoods(s *deed.Shop, q store.Q, supplier uint64, in NewGoods) (PricedGoods, error) {
	came, err := in.packed(q)
	if err != nil {
		return PricedGoods{}, err
	}
	priced := PricedGoods{Units: came.Units(), Each: came.One()}
	ask := catalog.PriceQuestion{Category: in.Category, Price: in.Price, Paid: true}
	if supplier != 0 {
		from, _, err := goods.ReadSupplier(q, supplier)
		if err != nil {
			return priced, err
		}
		ask.Supplier = from.Name
	}
	if ask.Category == "" {
		if ask.Category, err = storebuying.UsualCategory(q, supplier, ""); err != nil {
			return priced, err
		}
	}
	if priced.Each != nil {
		ask.Cost = priced.Each.String()
	}
	priced.Suggestion, err = catalog.SuggestIn(s, q, ask)
	return priced, err
}

// MakeGoods makes a product of goods that nobody here knows, and puts what came of them into the
// delivery, at once. With id 0 it begins one.
func MakeGoods(do deed.Deed, id uint64, in NewGoods) (MadeGoods, error) {
	return deed.Once(do, staff.DeedNewGoods, func(do deed.Deed) (MadeGoods, error) {
		view, rows, err := scannedInto(do, id, in.Head)
		if err != nil {
			return MadeGoods{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, view.BranchID); err != nil {
			return MadeGoods{}, err
		}
		if view.DocumentID != nil {
			return MadeGoods{}, fault.Clash("delivery", view.Number, "a delivery not posted yet",
				"It is posted already, as %s.", view.Number)
		}
		came, err := in.packed(do.Tx.Q)
		if err != nil {
			return MadeGoods{}, err
		}
		if !came.Units().IsPositive() {
			return MadeGoods{}, fault.Field("loose", in.Loose, "how many came", "How many came?")
		}
		if err := in.read(); err != nil {
			return MadeGoods{}, err
		}
		made, err := in.make(do, deed.Deref(view.SupplierID), came)
		if err != nil {
			return MadeGoods{}, err
		}
		line := scan.GoodsLine{Variant: made.Variants[0].ID, Quantity: came.Units().String(), Cost: in.Cost,
			Total: in.Total, Lot: in.Lot, Expiry: in.Expiry,
			Serials: in.Serials}
		orders, awaited, err := againstOf(do.Tx, id, in.Head)
		if err != nil {
			return MadeGoods{}, err
		}
		read, err := readLines(do, append(typedAgain(rows), line), view.CostsIncludeTax, awaited)
		if refusal := fault.Of(err); refusal != nil {
			refusal.Field = strings.TrimPrefix(refusal.Field, fmt.Sprintf("lines.%d.", len(rows)))
			return MadeGoods{}, refusal
		} else if err != nil {
			return MadeGoods{}, err
		}
		typedOver(read, rows)
		ref, err := keepDelivery(do.Tx, &view.Delivery, orders, read)
		return MadeGoods{ref, made, made.Name + ": made, and " + came.Units().String() +
			" of it are in this delivery."}, err
	})
}

// read takes the code apart that was scanned: it may say how many, and a lot or number.
func (in *NewGoods) read() error {
	code, said, err := coded(in.Code)
	if err != nil {
		return err
	}
	in.Code, in.Lot, in.Serials = code, text.Or(in.Lot, said.Lot), text.Or(in.Serials, said.Serial)
	if in.Expiry == "" && !said.Expiry.IsZero() {
		in.Expiry = said.Expiry.Format(time.DateOnly)
	}
	return nil
}

// coded is the code of the goods in what was scanned, with what else that says.
func coded(scanned string) (string, barcode.Elements, error) {
	asked, err := corescan.Read(scanned)
	if err != nil || !barcode.IsElements(asked.Code) {
		return asked.Code, barcode.Elements{}, err
	}
	elements, err := barcode.ParseElements(asked.Code)
	return elements.GTIN, elements, err
}

// make makes the product, with the pack that it came in.
func (in NewGoods) make(do deed.Deed, supplier uint64,
	came buying.Packed) (catalog.MadeProduct, error) {
	facts := catalog.NewProduct{Name: in.Name, Category: in.Category,
		Tracking: text.Or(in.Tracking, string(stock.Counted)), Unit: in.Unit, Barcode: in.Code,
		Price: in.Price, Restock: in.Restock, ExpiryDays: in.ExpiryDays, Pictures: in.Pictures}
	if supplier != 0 {
		from, _, err := goods.ReadSupplier(do.Tx.Q, supplier)
		if err != nil {
			return catalog.MadeProduct{}, err
		}
		facts.Supplier = from.Name
	}
	if text.Tidy(facts.Category) == "" {
		usual, err := storebuying.UsualCategory(do.Tx.Q, supplier, "")
		if err != nil {
			return catalog.MadeProduct{}, err
		}
		facts.Category = text.Or(usual, noCategory)
	}
	made, err := catalog.Make(do, facts)
	if err != nil || came.Of == nil {
		return made, err
	}
	_, err = catalog.KeepPack(do, made.ID, 0, catalog.PackInput{Name: text.Or(text.Tidy(in.Pack),
		"pack of "+came.Of.String()), Factor: came.Of.String(), Bought: true})
	return made, err
}
