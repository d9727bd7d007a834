package register

import (
	"slices"

	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
	storetill "itemrack/store/till"
)

// HurriedInput is a product that is made while a customer waits: what it is called, what it costs the
// customer, how many there are, and what each cost the shop if that is known.
type HurriedInput struct {
	Code     string `json:"code"`
	Name     string `json:"name"`
	Category string `json:"category"`
	Price    string `json:"price"`
	Stock    string `json:"stock"`
	Cost     string `json:"cost"`

	Approval *deed.Approval `json:"approval"` // of somebody who may write stock on, where the person may not
}

// Hurried is a product that was made in a hurry, and the basket that it went into.
type Hurried struct {
	Product catalog.MadeProduct `json:"product"`
	Basket  BasketView          `json:"basket"`
}

// MakeHere makes a product at a register and puts one of it on the basket. It stands on Today until
// somebody completes it. What it writes on to stock wants a yes.
func MakeHere(do deed.Deed, register uint64, in HurriedInput) (Hurried, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return Hurried{}, err
	}
	return deed.Once(do, staff.DeedMakeHere, func(do deed.Deed) (Hurried, error) {
		till, err := openTill(do, register, 0)
		if err != nil {
			return Hurried{}, err
		}
		if err := till.Sells(); err != nil {
			return Hurried{}, err
		}
		if text.Tidy(in.Price) == "" {
			return Hurried{}, fault.Field("price", "", "what the customer pays for one", "Say what it costs.")
		}
		product := catalog.NewProduct{Name: in.Name, Category: text.Or(text.Tidy(in.Category), unsorted), Price: in.Price,
			Cost: in.Cost, Tracking: string(stock.Counted), Barcode: in.Code}
		product.OnHand = catalog.OnHand{Branch: till.Branch, Each: text.Or(text.Tidy(in.Stock), inHand)}
		if text.Tidy(in.Cost) == "" {
			product.OnHand.Worth = "0"
		}
		made, err := catalog.Make(do, product)
		if err != nil {
			return Hurried{}, err
		}
		ask := deed.Asks(do.Shop, do.Who, by)
		if err := ask.May(staff.DeedStock,
			text.Tidy(product.OnHand.Each)+" × "+text.Tidy(in.Name)+" added to stock"); err != nil {
			return Hurried{}, err
		}
		if err := goods.MarkHurried(do.Tx, made.ID, do.Shop.Now()); err != nil {
			return Hurried{}, err
		}
		if err := till.Begin(do.Tx, do.Who.ID, do.Shop.Now()); err != nil {
			return Hurried{}, err
		}
		if err := ask.Keep(do.Tx, till.Register, till.BasketID, 0); err != nil {
			return Hurried{}, err
		}
		known, err := see(do, till, append(variantsOf(till.Lines), made.Variants[0].ID))
		if err != nil {
			return Hurried{}, err
		}
		view, err := addAll(do, till, known.Goods[made.Variants[0].ID], sale.Adding{}, known)
		return Hurried{made, view}, err
	})
}

// inHand is how many there are of what nobody counted: the one that the customer holds.
const inHand = "1"

// unsorted is the category of what nobody put into one.
const unsorted = "Not sorted yet"

// Complete says that a product that was made in a hurry is complete.
func Complete(do deed.Deed, product uint64) error {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return err
	}
	return do.Shop.Store.Do(do.Ctx, func(tx store.Tx) error { return goods.MarkComplete(tx, product) })
}

// TilePageInput is a page of tiles as it is arranged.
type TilePageInput struct {
	Name     string           `json:"name"`
	Tiles    []storetill.Tile `json:"tiles"`
	Position int              `json:"position"`
	Revision uint64           `json:"revision"` // as it was shown; another one is refused
}

// mostTiles is how many tiles a page holds.
const mostTiles = 60

// SaveTiles keeps a page of tiles as it was arranged; 0 makes a new one.
func SaveTiles(do deed.Deed, id uint64, in TilePageInput) (storetill.TilePage, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (storetill.TilePage, error) {
		page := storetill.TilePage{Revision: 1}
		if id != 0 {
			all, err := storetill.LockTilePages(do.Tx)
			if err != nil {
				return page, err
			}
			at := slices.IndexFunc(all, func(p storetill.TilePage) bool { return p.ID == id })
			if at < 0 {
				return page, fault.Missing("id", id, "There is no page of tiles %d.", id)
			}
			page = all[at]
			if err := revision.Check("This page of tiles", in.Revision, page.Revision); err != nil {
				return page, err
			}
			page.Revision++
		}
		if page.Name = text.Tidy(in.Name); page.Name == "" || text.Len(page.Name) > 40 {
			return page, fault.Field("name", in.Name, "1 to 40 characters",
				"A page of tiles needs a name of 1 to 40 characters.")
		}
		if len(in.Tiles) > mostTiles {
			return page, fault.Field("tiles", len(in.Tiles), "60 or fewer", "A page holds 60 tiles.")
		}
		for _, t := range in.Tiles {
			if (t.Category == 0) == (t.Product == 0) {
				return page, fault.Field("tiles", "", "a category or a product on each tile",
					"A tile is of a category or a product.")
			}
		}
		page.Position, page.Tiles = in.Position, in.Tiles
		return page, storetill.KeepTilePage(do.Tx, &page)
	})
}

// DropTiles takes a page of tiles away.
func DropTiles(do deed.Deed, id uint64) error {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return err
	}
	return do.Shop.Store.Do(do.Ctx, func(tx store.Tx) error { return storetill.DropTilePage(tx, id) })
}
