package label

import (
	"itemrack/core/barcode"
	"itemrack/core/paper"
)

// standard is the fields of a price label of 40 × 25 mm.
func standard() []Field {
	return []Field{{Kind: Name, X: 1.5, Y: 1.4, W: 37, H: 3.4, Em: 2.8, Bold: true},
		{Kind: Values, X: 1.5, Y: 4.9, W: 22, H: 3.6, Em: 2.7},
		{Kind: Price, X: 23.6, Y: 4.8, W: 14.9, H: 4, Em: 3.3, Bold: true, Align: paper.End},
		{Kind: Barcode, X: 0, Y: 9, W: 40, H: 15}}
}

// Shipped are the templates that come with the program; a shop copies one to
// make its own.
func Shipped() []Template {
	return []Template{
		{
			Code:   "a4-40x25",
			Name:   "A4 sheet, 55 labels of 40 × 25 mm",
			Width:  40,
			Height: 25,
			Sheet:  Sheet{Paper: A4, Columns: 5, Rows: 11, Left: 5, Top: 11},
			Fields: standard(),
		},
		{
			Code:   "roll-40x25",
			Name:   "Roll, labels of 40 × 25 mm",
			Width:  40,
			Height: 25,
			Sheet:  Sheet{Paper: Roll},
			Fields: standard(),
		},
		{
			Code:   "letter-50x25",
			Name:   "Letter sheet, 40 labels of 50 × 25 mm",
			Width:  50,
			Height: 25,
			Sheet:  Sheet{Paper: Letter, Columns: 4, Rows: 10, Left: 7.95, Top: 14.7},
			Fields: []Field{
				{
					Kind: Name,
					X:    2,
					Y:    1.4,
					W:    46,
					H:    3.4,
					Em:   2.8,
					Bold: true,
				}, {Kind: Values, X: 2, Y: 4.9, W: 28, H: 3.6, Em: 2.7},
				{
					Kind:  Price,
					X:     31,
					Y:     4.8,
					W:     17,
					H:     4,
					Em:    3.3,
					Bold:  true,
					Align: paper.End,
				}, {Kind: Barcode, X: 2, Y: 9, W: 46, H: 15}},
		},
		{
			Code:   "a4-70x37",
			Name:   "A4 sheet, 24 labels of 70 × 37 mm",
			Width:  70,
			Height: 37,
			Sheet:  Sheet{Paper: A4, Columns: 3, Rows: 8, Top: 0.5},
			Fields: []Field{
				{
					Kind: Name,
					X:    4,
					Y:    3,
					W:    62,
					H:    8,
					Em:   3.6,
					Bold: true,
				}, {Kind: Values, X: 4, Y: 11.4, W: 38, H: 4.4, Em: 3.2}, {Kind: SKU, X: 4, Y: 15.8, W: 38, H: 3.6, Em: 2.4},
				{
					Kind:  Price,
					X:     43,
					Y:     11,
					W:     23,
					H:     7,
					Em:    5,
					Bold:  true,
					Align: paper.End,
				}, {Kind: Barcode, X: 8, Y: 19.6, W: 54, H: 15.4}},
		},
		{
			Code:   "roll-25x15",
			Name:   "Roll, small labels of 25 × 15 mm",
			Width:  25,
			Height: 15,
			Sheet:  Sheet{Paper: Roll},
			Fields: []Field{
				{
					Kind: ShortName,
					X:    1,
					Y:    0.8,
					W:    23,
					H:    2.6,
					Em:   2.2,
					Bold: true,
				}, {Kind: Values, X: 1, Y: 3.5, W: 13.8, H: 2.7, Em: 2},
				{
					Kind: Price,
					X:    1,
					Y:    6.6,
					W:    13.8,
					H:    3.6,
					Em:   3,
					Bold: true,
				}, {Kind: SKU, X: 1, Y: 11.6, W: 13.8, H: 2.2, Em: 1.6},
				{Kind: Barcode, X: 15, Y: 4.6, W: 9.8, H: 9.8, Symbol: barcode.AsDataMatrix}},
		},
		{
			Code:   "roll-57x32",
			Name:   "Roll, labels of 57 × 32 mm",
			Width:  57,
			Height: 32,
			Sheet:  Sheet{Paper: Roll},
			Fields: []Field{
				{
					Kind: Name,
					X:    2,
					Y:    1.6,
					W:    53,
					H:    7.2,
					Em:   3.2,
					Bold: true,
				}, {Kind: Values, X: 2, Y: 9.2, W: 32, H: 4, Em: 3},
				{Kind: Price, X: 34.4, Y: 8.8, W: 20.6, H: 5, Em: 4.4, Bold: true, Align: paper.End},
				{Kind: Barcode, X: 3, Y: 14.2, W: 51, H: 16.4}},
		},
		{
			Code:   "roll-100x50",
			Name:   "Roll, large labels of 100 × 50 mm",
			Width:  100,
			Height: 50,
			Sheet:  Sheet{Paper: Roll},
			Fields: []Field{
				{
					Kind: Name,
					X:    4,
					Y:    3,
					W:    92,
					H:    13,
					Em:   5.4,
					Bold: true,
				}, {Kind: Values, X: 4, Y: 17, W: 60, H: 6, Em: 4.4},
				{Kind: SKU, X: 4, Y: 23, W: 60, H: 4.4, Em: 3.2},
				{Kind: Part, X: 4, Y: 27.4, W: 60, H: 4.4, Em: 3.2, Words: "Part "},
				{
					Kind:  Lot,
					X:     4,
					Y:     32,
					W:     30,
					H:     4.4,
					Em:    3.2,
					Words: "Lot ",
				}, {Kind: Expiry, X: 35, Y: 32, W: 29, H: 4.4, Em: 3.2, Words: "Use by "},
				{Kind: Serial, X: 4, Y: 36.4, W: 60, H: 4.4, Em: 3.2, Words: "No. "},
				{
					Kind:  Price,
					X:     66,
					Y:     17,
					W:     30,
					H:     9,
					Em:    6.6,
					Bold:  true,
					Align: paper.End,
				}, {Kind: Barcode, X: 65, Y: 28, W: 32, H: 20, Symbol: barcode.AsEAN13},
				{Kind: Text, X: 4, Y: 42, W: 60, H: 5, Em: 3.2, Words: "Thank you for coming by."}},
		},
		{
			Code:   "shelf-a4",
			Name:   "A4 sheet, 14 shelf-edge strips of 100 × 38 mm",
			Width:  100,
			Height: 38,
			Sheet:  Sheet{Paper: A4, Columns: 2, Rows: 7, Left: 5, Top: 15.5},
			Fields: []Field{
				{
					Kind: Name,
					X:    4,
					Y:    3,
					W:    92,
					H:    6,
					Em:   4.4,
					Bold: true,
				}, {Kind: Values, X: 4, Y: 9.2, W: 60, H: 4.2, Em: 3.2},
				{Kind: FormerPrice, X: 58, Y: 13.4, W: 38, H: 4.6, Em: 3.4, Align: paper.End},
				{
					Kind:  Price,
					X:     50,
					Y:     18,
					W:     46,
					H:     12,
					Em:    10,
					Bold:  true,
					Align: paper.End,
				}, {Kind: UnitPrice, X: 54, Y: 31, W: 42, H: 4, Em: 2.8, Align: paper.End},
				{Kind: Barcode, X: 3, Y: 16, W: 44, H: 19}},
		},
		{
			Code:   "tag-a4",
			Name:   "A4 sheet, 12 swing tags of 50 × 80 mm with picture",
			Width:  50,
			Height: 80,
			Sheet:  Sheet{Paper: A4, Columns: 4, Rows: 3, Left: 5, Top: 20, GapY: 8},
			Fields: []Field{
				{
					Kind: Picture,
					X:    7,
					Y:    12,
					W:    36,
					H:    26,
				}, {Kind: Name, X: 4, Y: 39.6, W: 42, H: 8.4, Em: 3.4, Bold: true, Align: paper.Middle},
				{Kind: Values, X: 4, Y: 48.4, W: 42, H: 4.2, Em: 3.2, Align: paper.Middle},
				{
					Kind:  Price,
					X:     4,
					Y:     53,
					W:     42,
					H:     8,
					Em:    6,
					Bold:  true,
					Align: paper.Middle,
				}, {Kind: Barcode, X: 3, Y: 62, W: 44, H: 16}},
		},
	}
}

// ByCode finds a template of a list; an empty code is the first.
func ByCode(list []Template, code string) (Template, bool) {
	if code == "" {
		return list[0], true
	}
	for _, t := range list {
		if t.Code == code {
			return t, true
		}
	}
	return Template{}, false
}
