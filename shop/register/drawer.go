package register

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/shop/stockroom"
	"itemrack/store/book"
	"itemrack/store/office"
	storetill "itemrack/store/till"
)

// DrawerRef names a drawer.
type DrawerRef struct {
	Session uint64 `json:"session_id"`
}

// OpenDrawer opens the drawer of a register with its float.
func OpenDrawer(do deed.Deed, register uint64, float string) (DrawerRef, error) {
	return deed.Once(do, staff.DeedDrawer, func(do deed.Deed) (DrawerRef, error) {
		set, err := do.Tx.Terms()
		if err != nil {
			return DrawerRef{}, err
		}
		amount, err := set.Minor().Parse("float", float)
		if err != nil {
			return DrawerRef{}, err
		}
		view, err := storetill.ReadRegister(do.Tx.Q, register)
		if err != nil {
			return DrawerRef{}, err
		}
		if err := do.Who.At(view.BranchID, view.Branch); err != nil {
			return DrawerRef{}, err
		}
		row := storetill.Drawer{
			RegisterID:     register,
			OpenRegisterID: &register,
			OpenedBy:       do.Who.ID,
			OpenedAt:       do.Shop.Now(),
			Float:          amount,
		}
		if err := storetill.OpenDrawer(do.Tx, &row); err != nil {
			return DrawerRef{}, err
		}
		return DrawerRef{row.ID}, nil
	})
}

// CashUp is how a drawer ended.
type CashUp struct {
	Drawer     uint64          `json:"drawer_id"`
	Number     string          `json:"number"`
	Counted    decimal.Decimal `json:"counted"`
	ShouldBe   decimal.Decimal `json:"should_be"`
	Difference decimal.Decimal `json:"difference"`
}

// CashUpDrawer closes the drawer of a register with what was counted in it. What
// is over or short is posted.
func CashUpDrawer(do deed.Deed, register uint64, counted []sale.Denomination) (CashUp, error) {
	return deed.Once(do, staff.DeedDrawer, func(do deed.Deed) (CashUp, error) {
		set, err := do.Tx.Terms()
		if err != nil {
			return CashUp{}, err
		}
		view, err := storetill.ReadRegister(do.Tx.Q, register)
		if err != nil {
			return CashUp{}, err
		}
		if err := do.Who.At(view.BranchID, view.Branch); err != nil {
			return CashUp{}, err
		}
		if view.Drawer == 0 {
			return CashUp{}, fault.Clash("register", register, "a register whose drawer is open",
				"The drawer of %s is not open.", view.Name)
		}
		amount, err := sale.CountCash(counted, set.Currency)
		if err != nil {
			return CashUp{}, err
		}
		row, err := storetill.ReadDrawer(do.Tx, view.Drawer)
		if err != nil {
			return CashUp{}, err
		}
		if row.ClosedAt != nil {
			return CashUp{}, fault.Clash("register", register, "a register whose drawer is open",
				"The drawer of %s was cashed up meanwhile.", view.Name)
		}
		_, open, backs, err := storetill.Lines(do.Tx.Q, register)
		if err != nil {
			return CashUp{}, err
		}
		if err := sale.CheckCashUp(view.Name, len(open.Lines)+len(backs)+len(open.Vouchers)); err != nil {
			return CashUp{}, err
		}
		figures, err := storetill.ReadDrawerFigures(do.Tx.Q, row.ID)
		if err != nil {
			return CashUp{}, err
		}
		drawer := figures.Core()
		shouldBe, difference := drawer.ShouldBe(), drawer.Difference(amount)
		name, err := deed.NextNumber(do.Tx, stock.CashUp)
		if err != nil {
			return CashUp{}, err
		}
		now := stock.NotBefore(do.Shop.Now(), row.OpenedAt)
		draft := stock.NewDraft(
			stock.Holding{},
			stock.Document{
				Kind:       stock.CashUp,
				Number:     name,
				Branch:     view.BranchID,
				By:         do.Who.ID,
				HappenedAt: now,
				RecordedAt: now,
			},
		)
		sale.CashUp(draft, difference)
		posted, err := deed.Post(do.Tx, stock.Holding{}, draft)
		if err != nil {
			return CashUp{}, err
		}
		row.ClosedAt, row.ClosedBy, row.ShouldBe, row.Counted, row.DocumentID = &now, &do.Who.ID, &shouldBe, &amount,
			&posted.Document
		return CashUp{row.ID, name, amount, shouldBe, difference}, storetill.CashUpDrawer(do.Tx, row)
	})
}

// MoveInput is cash that is put into a drawer or taken out of it, with the reason why.
type MoveInput struct {
	Kind   sale.MoveKind `json:"kind"`
	Amount string        `json:"amount"`
	Reason uint64        `json:"reason_id"`
	Note   string        `json:"note"`
}

// MoveCash puts cash into the open drawer of a register, or takes some out.
func MoveCash(do deed.Deed, register uint64, in MoveInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedDrawer, func(do deed.Deed) (deed.Posted, error) {
		till, err := openTill(do, register, 0)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := till.Sells(); err != nil {
			return deed.Posted{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		amount, err := set.Minor().Parse("amount", in.Amount)
		if err != nil {
			return deed.Posted{}, err
		}
		note, err := sale.ReadNote(in.Note)
		if err != nil {
			return deed.Posted{}, err
		}
		reasons, err := office.Reasons(do.Tx.Q)
		if err != nil {
			return deed.Posted{}, err
		}
		why, err := reason.Find(reasons, reason.Kind(in.Kind), in.Reason)
		if err != nil {
			return deed.Posted{}, err
		}
		if _, err := storetill.ReadDrawer(do.Tx, till.Drawer); err != nil { // nobody else moves its cash meanwhile
			return deed.Posted{}, err
		}
		figures, err := storetill.ReadDrawerFigures(do.Tx.Q, till.Drawer)
		if err != nil {
			return deed.Posted{}, err
		}
		name, err := deed.NextNumber(do.Tx, stock.CashMoved)
		if err != nil {
			return deed.Posted{}, err
		}
		now := do.Shop.Now()
		draft := stock.NewDraft(stock.Holding{}, stock.Document{Kind: stock.CashMoved, Number: name, Branch: till.Branch,
			By: do.Who.ID, HappenedAt: now, RecordedAt: now, Note: text.Cut(text.Joined(string(in.Kind), why.Name, note), 250)})
		if err := sale.MoveCash(draft, in.Kind, amount, figures.Core().ShouldBe(), why.Account, set.Minor()); err != nil {
			return deed.Posted{}, err
		}
		return deed.Post(do.Tx, stock.Holding{}, draft,
			storetill.WithMove(storetill.DrawerMove{DrawerID: till.Drawer, Kind: in.Kind, Amount: amount, Reason: why.Name,
				Note: note}),
			storetill.Opens(register, do.Who.ID, now, string(in.Kind)))
	})
}

// OpenInput asks a drawer to open.
type OpenInput struct {
	Approval *deed.Approval `json:"approval"`
}

// OpenBox opens the drawer of a register without a sale.
func OpenBox(do deed.Deed, register uint64, in OpenInput) (DrawerRef, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return DrawerRef{}, err
	}
	return deed.Once(do, staff.DeedSell, func(do deed.Deed) (DrawerRef, error) {
		till, err := openTill(do, register, 0)
		if err != nil {
			return DrawerRef{}, err
		}
		ask := deed.Asks(do.Shop, do.Who, by)
		if err := ask.May(staff.DeedOpenBox, "The drawer of "+till.Name+" without a sale"); err != nil {
			return DrawerRef{}, err
		}
		if err := storetill.KeepOpened(do.Tx, storetill.Opened{RegisterID: register, At: do.Shop.Now(), UserID: do.Who.ID,
			Why: "no sale"}); err != nil {
			return DrawerRef{}, err
		}
		return DrawerRef{till.Drawer}, ask.Keep(do.Tx, register, 0, 0)
	})
}

// VoidInput makes a sale void.
type VoidInput struct {
	Note     string         `json:"note"`
	Approval *deed.Approval `json:"approval"`
}

// Void makes a sale void that was just made, while its drawer is open and none of it has come back.
func Void(do deed.Deed, number string, in VoidInput) (deed.Posted, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return deed.Posted{}, err
	}
	var cards []string
	done, err := deed.Once(do, staff.DeedSell, func(do deed.Deed) (deed.Posted, error) {
		ask := deed.Asks(do.Shop, do.Who, by)
		v, err := storetill.SaleByNumber(do.Tx.Q, number)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := do.Who.At(v.BranchID, v.Branch); err != nil {
			return deed.Posted{}, err
		}
		if err := ask.May(staff.DeedVoid, "Sale "+v.Number+" void"); err != nil {
			return deed.Posted{}, err
		}
		note, err := sale.ReadNote(in.Note)
		if err != nil {
			return deed.Posted{}, err
		}
		var posted deed.Posted
		if posted, cards, err = stockroom.Undo(do, v.Number, note); err != nil {
			return deed.Posted{}, err
		}
		return posted, ask.Keep(do.Tx, v.RegisterID, 0, posted.Document)
	})
	if err == nil {
		done.Owed = stockroom.Uncharge(do.Ctx, do.Shop, cards)
	}
	return done, err
}

// NumberInput is the serial number that a sale owed.
type NumberInput struct {
	Number string `json:"number"`
}

// GiveNumber gives a line of a sale the serial number that it owed, once.
func GiveNumber(do deed.Deed, line uint64, in NumberInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedSell, func(do deed.Deed) (deed.Posted, error) {
		owed, err := storetill.LockOwed(do.Tx, line)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, owed.BranchID); err != nil {
			return deed.Posted{}, err
		}
		numbers, err := serial.ReadList(in.Number)
		if err != nil {
			return deed.Posted{}, err
		}
		if len(numbers) != 1 {
			return deed.Posted{}, fault.Field("number", in.Number, "one serial number", "Type the number of %s.", owed.Name)
		}
		held, err := book.Hold(do.Tx, []uint64{owed.VariantID}, []string{owed.Serials, numbers[0]})
		if err != nil {
			return deed.Posted{}, err
		}
		name, err := deed.NextNumber(do.Tx, stock.NumberGiven)
		if err != nil {
			return deed.Posted{}, err
		}
		now := stock.NotBefore(do.Shop.Now(), owed.At)
		draft := stock.NewDraft(held, stock.Document{Kind: stock.NumberGiven, Number: name, Branch: owed.BranchID,
			By:         do.Who.ID,
			HappenedAt: now, RecordedAt: now, Note: "No. " + numbers[0] + " for sale " + owed.Sale})
		dearer, err := sale.GiveNumber(draft, owed.VariantID, owed.Serials, numbers[0])
		if err != nil {
			return deed.Posted{}, err
		}
		return deed.Post(do.Tx, held, draft, storetill.WithNumber(line, numbers[0], dearer))
	})
}
