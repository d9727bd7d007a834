package stockroom

import (
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// MoveLine is goods that go to another shelf. Condition is For sale where none is said; without a lot the
// one that expires first goes. Name is told by the program.
type MoveLine struct {
	Variant   uint64 `json:"variant_id"`
	Name      string `json:"name"`
	Lot       string `json:"lot"`
	Expiry    string `json:"expiry"`
	Condition string `json:"condition"`
	Quantity  string `json:"quantity"`
	Serials   string `json:"serials"`
}

// MoveScan is a code that is scanned into the lines of a move that is being made.
type MoveScan struct {
	Code  string     `json:"code"`
	Lines []MoveLine `json:"lines"`
}

// MoveScanned has the lines with what was scanned, or the shelf that was. Where the code is not of one
// variant, Pick or Offers say what it may have meant.
type MoveScanned struct {
	Lines  []MoveLine    `json:"lines"`
	Said   string        `json:"said"`
	Shelf  uint64        `json:"shelf_id,omitempty"`
	Pick   *goods.Found  `json:"pick,omitempty"`
	Offers []goods.Found `json:"offers,omitempty"`
}

// ScanMove adds what was scanned to the lines of a move. Nothing is kept.
func ScanMove(do deed.Deed, in MoveScan) (MoveScanned, error) {
	out := MoveScanned{Lines: in.Lines}
	if err := do.Who.May(staff.DeedMove); err != nil {
		return out, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	meant, err := scan.Read(q, in.Code, 20)
	if err != nil {
		return out, err
	}
	if out.Shelf = meant.Shelf(); out.Shelf != 0 {
		out.Said = meant.Found[0].Name + "."
		return out, nil
	}
	if !meant.One() {
		told, err := meant.Meant()
		out.Pick, out.Offers = told.Pick, told.Offers
		return out, err
	}
	found := meant.Found[0]
	items, err := goods.Sellables(q, []uint64{found.ID}, do.Shop.Now())
	if err != nil {
		return out, err
	}
	item := items[found.ID]
	plain := make([]scan.GoodsLine, len(in.Lines))
	from := text.Or(found.Condition, string(stock.ForSale))
	meant.Found[0].Condition = ""
	for i, l := range in.Lines {
		if text.Or(l.Condition, string(stock.ForSale)) != from {
			continue
		}
		plain[i] = scan.GoodsLine{Variant: l.Variant, Quantity: l.Quantity, Serials: l.Serials, Lot: l.Lot, Expiry: l.Expiry}
	}
	if out.Said, err = meant.Put(&plain, item, "to move", 0); err != nil {
		return out, err
	}
	out.Lines = make([]MoveLine, len(plain))
	copy(out.Lines, in.Lines)
	for i, l := range plain {
		line := &out.Lines[i]
		if l.Variant == 0 {
			continue // it is of another condition
		}
		line.Condition, line.Variant, line.Quantity, line.Serials, line.Lot, line.Expiry = from, l.Variant,
			l.Quantity, l.Serials, l.Lot, l.Expiry
		if line.Name == "" {
			line.Name = item.FullName()
		}
	}
	return out, nil
}

// MoveInput moves goods to a shelf: from another one of its branch, or from wherever they lie there
// where From is 0.
type MoveInput struct {
	From  uint64     `json:"from_shelf_id"`
	To    uint64     `json:"to_shelf_id"`
	Note  string     `json:"note"`
	Lines []MoveLine `json:"lines"`
}

// MoveGoods moves goods between shelves of a branch, as one document. A refusal names its line:
// "lines.0.quantity".
func MoveGoods(do deed.Deed, in MoveInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedMove, func(do deed.Deed) (deed.Posted, error) {
		if err := noteFits(in.Note); err != nil {
			return deed.Posted{}, err
		}
		wants, variants, numbers, err := readMoves(do.Tx.Q, in)
		if err != nil {
			return deed.Posted{}, err
		}
		held, err := book.Hold(do.Tx, variants, numbers)
		if err != nil {
			return deed.Posted{}, err
		}
		to, known := held.Shelves[in.To]
		if !known {
			return deed.Posted{}, fault.Field("to_shelf_id", in.To, "a shelf", "Say on which shelf the goods go.")
		}
		if err := deed.At(do.Tx.Q, do.Who, to.Branch); err != nil {
			return deed.Posted{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		draft, err := newDraft(do, held, stock.Moving, to.Branch, in.Note)
		if err != nil {
			return deed.Posted{}, err
		}
		for i, w := range wants {
			w.Branch, w.Day = to.Branch, set.Day(do.Shop.Now())
			if w.Quantity, err = quantityOf(held.Items[w.Variant], in.Lines[i].Quantity, w.Serials); err == nil {
				err = draft.Move(w, in.To)
			}
			if err != nil {
				return deed.Posted{}, inLine(i, err)
			}
		}
		return deed.Post(do.Tx, held, draft)
	})
}

func readMoves(q store.Q, in MoveInput) ([]stock.Want, []uint64, []string, error) {
	if len(in.Lines) == 0 || len(in.Lines) > 500 {
		return nil, nil, nil, fault.Field("lines", len(in.Lines), "1 to 500 lines", "Scan what is to be moved.")
	}
	var wants []stock.Want
	var variants []uint64
	var numbers []string
	for i, l := range in.Lines {
		serials, err := serial.ReadList(l.Serials)
		if err != nil {
			return nil, nil, nil, inLine(i, err)
		}
		lot, err := lotSaid(q, l)
		if err != nil {
			return nil, nil, nil, inLine(i, err)
		}
		wants = append(wants, stock.Want{Line: i + 1, Variant: l.Variant, Shelf: in.From, Lot: lot, Serials: serials,
			Condition: stock.Condition(text.Or(l.Condition, string(stock.ForSale))), Unsold: true})
		variants, numbers = append(variants, l.Variant), append(numbers, serials...)
	}
	return wants, variants, numbers, nil
}

// lotSaid finds the lot that a line names; 0 for none.
func lotSaid(q store.Q, l MoveLine) (uint64, error) {
	if l.Lot == "" {
		return 0, nil
	}
	var expiry *time.Time
	if l.Expiry != "" {
		day, err := number.Day("expiry", l.Expiry)
		if err != nil {
			return 0, err
		}
		expiry = &day
	}
	return book.LotNamed(q, l.Variant, l.Lot, expiry)
}

// quantityOf reads how many are meant; of goods with serial numbers as many as there are numbers.
func quantityOf(item stock.Item, typed string, serials []string) (decimal.Decimal, error) {
	if item.Tracking == stock.BySerial && typed == "" {
		return decimal.New(int64(len(serials)), 0), nil
	}
	q, err := item.Unit.Parse("quantity", typed)
	if err == nil && !q.IsPositive() {
		err = fault.Field("quantity", typed, "more than 0", "%s: say how many.", item.Name)
	}
	return q, err
}

// inLine names the line that a refusal is about.
func inLine(i int, err error) error {
	if f := fault.Of(err); f != nil {
		return f.In(fmt.Sprintf("lines.%d.%s", i, f.Field))
	}
	return err
}

// noteFits refuses a note that is too long.
func noteFits(note string) error {
	if text.Len(note) > 250 {
		return fault.Field("note", note, "250 characters or fewer", "The note is too long.")
	}
	return nil
}

// newDraft begins a document of a branch that happens now, with the next number of its kind.
func newDraft(do deed.Deed, held stock.Holding, kind stock.Kind, branch uint64, note string) (*stock.Draft, error) {
	number, err := deed.NextNumber(do.Tx, kind)
	if err != nil {
		return nil, err
	}
	now := do.Shop.Now()
	return stock.NewDraft(held, stock.Document{Kind: kind, Number: number, Branch: branch, By: do.Who.ID, HappenedAt: now,
		RecordedAt: now, Note: note}), nil
}
