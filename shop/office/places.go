package office

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/office"
	"itemrack/store/till"
)

// BranchInput is a branch as it is typed. Shelf is the first shelf of a new one, Floor where none is
// said; Register the code of its first register, empty for none.
type BranchInput struct {
	Name     string `json:"name"`
	Position int    `json:"position"`
	Closed   bool   `json:"closed"`
	Shelf    string `json:"shelf"`
	Register string `json:"register"`
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// BranchSaved is a branch with its revision.
type BranchSaved struct {
	office.Branch
	Revision string `json:"revision"`
}

// SaveBranch keeps a branch; 0 makes a new one, with its first shelf.
func SaveBranch(do deed.Deed, id uint64, in BranchInput) (BranchSaved, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (BranchSaved, error) {
		b, err := saveBranch(do.Tx, id, in)
		return BranchSaved{b, revision.Of(b)}, err
	})
}

func saveBranch(tx store.Tx, id uint64, in BranchInput) (office.Branch, error) {
	name, err := stock.PlaceName(in.Name)
	if err == nil {
		err = stock.CheckPosition(in.Position)
	}
	if err != nil {
		return office.Branch{}, err
	}
	if id == 0 {
		return newBranch(tx, name, in)
	}
	have, err := office.LockBranch(tx, id)
	if err != nil {
		return have, err
	}
	if err := revision.CheckOf(have.Name, in.Revision, have); err != nil {
		return have, err
	}
	if in.Closed != have.Closed {
		if err := closeBranch(tx, have, in.Closed); err != nil {
			return have, err
		}
	}
	b := office.Branch{ID: id, Name: name, Position: in.Position, Closed: in.Closed}
	return b, office.SaveBranch(tx, &b)
}

func newBranch(tx store.Tx, name string, in BranchInput) (office.Branch, error) {
	b := office.Branch{Name: name, Position: in.Position}
	shelf, err := stock.PlaceName(text.Or(in.Shelf, "Floor"))
	if err != nil {
		return b, fault.Of(err).In("shelf")
	}
	if err := office.SaveBranch(tx, &b); err != nil {
		return b, err
	}
	if err := book.SaveShelf(tx, &book.Shelf{BranchID: b.ID, Name: shelf, IsDefault: true}); err != nil {
		return b, err
	}
	if text.Tidy(in.Register) == "" {
		return b, nil
	}
	_, err = addRegister(tx, RegisterInput{Branch: b.ID, Code: in.Register, Name: "Register " + in.Register})
	return b, err
}

// closeBranch closes a branch that is empty, or opens it again, with its shelves.
func closeBranch(tx store.Tx, b office.Branch, closed bool) error {
	shelves, err := book.LockShelves(tx, b.ID)
	if err != nil {
		return err
	}
	if closed {
		ids := make([]uint64, len(shelves))
		for i, s := range shelves {
			ids[i] = s.ID
		}
		l := stock.Leaving{}
		if l.Units, err = book.Lying(tx.Q, ids); err != nil {
			return err
		}
		if l.Open, err = office.OpenAt(tx.Q, b.ID); err != nil {
			return err
		}
		open, err := office.Branches(tx.Q)
		if err != nil {
			return err
		}
		l.Last = len(open) == 1
		if err := l.CheckClose(b.Name); err != nil {
			return err
		}
	}
	for i := range shelves {
		if shelves[i].Closed == closed || !closed && !shelves[i].IsDefault {
			continue
		}
		shelves[i].Closed = closed
		if err := book.SaveShelf(tx, &shelves[i]); err != nil {
			return err
		}
	}
	return nil
}

// ShelfInput is a shelf as it is typed. Default makes it the one that goods go to unless another is named.
type ShelfInput struct {
	Branch   uint64 `json:"branch_id"`
	Name     string `json:"name"`
	Position int    `json:"position"`
	Default  bool   `json:"is_default"`
	Closed   bool   `json:"closed"`
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// ShelfSaved is a shelf with its revision.
type ShelfSaved struct {
	book.Shelf
	Revision string `json:"revision"`
}

// SaveShelf keeps a shelf of a branch; 0 makes a new one.
func SaveShelf(do deed.Deed, id uint64, in ShelfInput) (ShelfSaved, error) {
	return deed.Once(do, staff.DeedPlaces, func(do deed.Deed) (ShelfSaved, error) {
		shelf, err := saveShelf(do.Tx, do.Who, id, in)
		return ShelfSaved{shelf, revision.Of(shelf)}, err
	})
}

func saveShelf(tx store.Tx, who staff.Actor, id uint64, in ShelfInput) (book.Shelf, error) {
	name, err := stock.PlaceName(in.Name)
	if err == nil {
		err = stock.CheckPosition(in.Position)
	}
	if err != nil {
		return book.Shelf{}, err
	}
	if err := deed.At(tx.Q, who, in.Branch); err != nil {
		return book.Shelf{}, err
	}
	branch, err := office.LockBranch(tx, in.Branch)
	if err != nil {
		return book.Shelf{}, err
	}
	if branch.Closed {
		return book.Shelf{}, fault.Refuse("branch_id", branch.Name, "an open branch", "%s is closed.", branch.Name)
	}
	shelves, err := book.LockShelves(tx, in.Branch)
	if err != nil {
		return book.Shelf{}, err
	}
	row := book.Shelf{ID: id, BranchID: in.Branch, Name: name, Position: in.Position, IsDefault: in.Default,
		Closed: in.Closed}
	if id != 0 {
		at := slices.IndexFunc(shelves, func(s book.Shelf) bool { return s.ID == id })
		if at < 0 {
			return row, fault.Missing("shelf_id", id, "The branch has no shelf %d.", id)
		}
		if err := changeShelf(tx, shelves[at], &row, in.Revision); err != nil {
			return row, err
		}
	}
	if row.IsDefault && row.Closed {
		return row, stock.Leaving{Default: true}.CheckClose(name)
	}
	for i := range shelves {
		if row.IsDefault && shelves[i].IsDefault && shelves[i].ID != id {
			shelves[i].IsDefault = false
			if err := book.SaveShelf(tx, &shelves[i]); err != nil {
				return row, err
			}
		}
	}
	return row, book.SaveShelf(tx, &row)
}

// changeShelf refuses a change of a shelf that can't be.
func changeShelf(tx store.Tx, have book.Shelf, to *book.Shelf, shown string) error {
	if err := revision.CheckOf(have.Name, shown, have); err != nil {
		return err
	}
	if have.IsDefault {
		to.IsDefault = true // another one takes it over
	}
	if !to.Closed || have.Closed {
		return nil
	}
	units, err := book.Lying(tx.Q, []uint64{have.ID})
	if err != nil {
		return err
	}
	return stock.Leaving{Units: units, Default: have.IsDefault}.CheckClose(have.Name)
}

// RegisterInput is a register as it is typed. The code begins the numbers of its sales.
type RegisterInput struct {
	Branch uint64 `json:"branch_id"`
	Code   string `json:"code"`
	Name   string `json:"name"`
}

// AddRegister puts another register up at a branch.
func AddRegister(do deed.Deed, in RegisterInput) (till.Register, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (till.Register, error) {
		if err := knownBranches(do.Tx.Q, []uint64{in.Branch}); err != nil {
			return till.Register{}, err
		}
		return addRegister(do.Tx, in)
	})
}

func addRegister(tx store.Tx, in RegisterInput) (till.Register, error) {
	r := till.Register{BranchID: in.Branch}
	var err error
	if r.Code, err = stock.RegisterCode(in.Code); err != nil {
		return r, err
	}
	if r.Name, err = stock.PlaceName(text.Or(in.Name, "Register "+r.Code)); err != nil {
		return r, err
	}
	return r, till.AddRegister(tx, &r)
}

// BranchView is a branch with its shelves and registers, and how much lies on each shelf.
type BranchView struct {
	office.Branch
	Revision  string              `json:"revision"`
	Shelves   []ShelfView         `json:"shelves"`
	Registers []till.RegisterView `json:"registers"`
}

// ShelfView is a shelf with how many units of how many variants lie on it.
type ShelfView struct {
	book.Shelf
	Code     string          `json:"code"`
	Units    decimal.Decimal `json:"units"`
	Variants int             `json:"variants"`
	Revision string          `json:"revision"`
}

// Places reads the branches with their shelves and registers, closed ones last.
func Places(q store.Q) ([]BranchView, error) {
	branches, err := office.AllBranches(q)
	if err != nil {
		return nil, err
	}
	shelves, err := book.ShelfRows(q)
	if err != nil {
		return nil, err
	}
	lying, err := book.OnShelves(q)
	if err != nil {
		return nil, err
	}
	registers, err := till.Registers(q)
	if err != nil {
		return nil, err
	}
	list := make([]BranchView, len(branches))
	for i, b := range branches {
		list[i] = BranchView{Branch: b, Revision: revision.Of(b), Shelves: []ShelfView{}, Registers: []till.RegisterView{}}
		for _, s := range shelves {
			if s.BranchID == b.ID {
				on := lying[s.ID]
				list[i].Shelves = append(list[i].Shelves, ShelfView{Shelf: s, Code: book.ShelfCode(s.ID), Units: on.Units,
					Variants: on.Variants, Revision: revision.Of(s)})
			}
		}
		for _, r := range registers {
			if r.BranchID == b.ID {
				list[i].Registers = append(list[i].Registers, r)
			}
		}
	}
	return list, nil
}
