package till

import (
	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// TilePage is a page of tiles that the shop arranged for its registers.
type TilePage struct {
	ID       uint64 `json:"id"`
	Name     string `json:"name"`
	Position int    `json:"position"`
	Revision uint64 `json:"revision"`
	Tiles    []Tile `gorm:"-" json:"tiles"`
}

// Tile is of a category or a product.
type Tile struct {
	Category uint64 `json:"category_id"`
	Product  uint64 `json:"product_id"`
	Name     string `json:"name"`
	Colour   string `json:"colour"`
	Picture  uint64 `json:"picture_id"`
}

// TilePages lists the pages of tiles in their order, with their tiles.
func TilePages(q db.Q) ([]TilePage, error) { return tilePages(q, "") }

// LockTilePages is TilePages, locked until the transaction ends.
func LockTilePages(tx db.Tx) ([]TilePage, error) { return tilePages(tx.Q, " FOR UPDATE") }

func tilePages(q db.Q, lock string) ([]TilePage, error) {
	var pages []TilePage
	if err := db.SQL(q).Raw("SELECT * FROM tile_page ORDER BY position, id" + lock).Scan(&pages).Error; err != nil {
		return nil, err
	}
	at := map[uint64]int{}
	for i, p := range pages {
		at[p.ID], pages[i].Tiles = i, []Tile{}
	}
	return pages, db.Read(q, db.Part{
		SQL: `SELECT t.page_id, COALESCE(t.category_id, 0), COALESCE(t.product_id, 0), COALESCE(c.name,
			p.short_name), COALESCE(c.colour,
			k.colour, ''), COALESCE(c.picture_id, p.picture_id, 0), COALESCE(p.name, '') FROM tile t LEFT JOIN
			category c ON c.id = t.category_id
			LEFT JOIN product p ON p.id = t.product_id LEFT JOIN category k ON k.id = p.category_id ORDER BY
			t.page_id, t.position`,
		Row: func(scan func(into ...any) error) error {
			var page uint64
			var t Tile
			var long string
			err := scan(&page, &t.Category, &t.Product, &t.Name, &t.Colour, &t.Picture, &long)
			if t.Name == "" {
				t.Name = long
			}
			if i, known := at[page]; known {
				pages[i].Tiles = append(pages[i].Tiles, t)
			}
			return err
		},
	})
}

// KeepTilePage writes a page of tiles; a new one gets its number.
func KeepTilePage(tx db.Tx, p *TilePage) error {
	if err := db.SQL(tx.Q).Omit("Tiles").Save(p).Error; err != nil {
		return err
	}
	b := new(db.Batch)
	b.Add("DELETE FROM tile WHERE page_id = ?", p.ID)
	for i, t := range p.Tiles {
		var category, product any
		if t.Category != 0 {
			category = t.Category
		} else {
			product = t.Product
		}
		b.Add("INSERT INTO tile (page_id, position, category_id, product_id) VALUES (?, ?, ?, ?)", p.ID, i, category, product)
	}
	err := b.Run(tx)
	if db.Referenced(err) {
		return fault.Missing("tiles", "", "One of the tiles is of something that is gone.")
	}
	return err
}

// DropTilePage takes a page of tiles away.
func DropTilePage(tx db.Tx, id uint64) error {
	b := new(db.Batch)
	b.Add("DELETE FROM tile WHERE page_id = ?", id)
	b.Add("DELETE FROM tile_page WHERE id = ?", id)
	return b.Run(tx)
}
