package register

import (
	"github.com/gofiber/fiber/v3"

	coresale "itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	shopregister "itemrack/shop/register"
	"itemrack/store"
	"itemrack/store/goods"
	officerows "itemrack/store/office"
	"itemrack/store/till"
	"itemrack/web/kit"
)

func apiRegisters(c *kit.Call) ([]till.RegisterView, error) { return till.Registers(c.Q()) }

type floatInput struct {
	Float string `json:"float"`
}

func apiOpenDrawer(c *kit.Call, id uint64, in floatInput) (shopregister.DrawerRef, error) {
	return shopregister.OpenDrawer(c.Deed(), id, in.Float)
}

type countedInput struct {
	Counted []coresale.Denomination `json:"counted"`
}

func apiCashUp(c *kit.Call, id uint64, in countedInput) (shopregister.CashUp, error) {
	return shopregister.CashUpDrawer(c.Deed(), id, in.Counted)
}

func apiMoveCash(c *kit.Call, id uint64, in shopregister.MoveInput) (deed.Posted, error) {
	return shopregister.MoveCash(c.Deed(), id, in)
}

func apiPayAccount(c *kit.Call, id uint64, in shopregister.AccountInput) (deed.Posted, error) {
	return shopregister.PayAccount(c.Deed(), id, in)
}

func apiOpenBox(c *kit.Call, id uint64, in shopregister.OpenInput) (shopregister.DrawerRef, error) {
	return shopregister.OpenBox(c.Deed(), id, in)
}

func apiBasket(c *kit.Call, id uint64) (shopregister.BasketView, error) {
	return shopregister.Basket(c.Deed(), id)
}

type leftInput struct {
	Tenders []shopregister.TenderInput `json:"tenders"`
}

func apiLeft(c *kit.Call, id uint64, in leftInput) (coresale.Left, error) {
	return shopregister.LeftToPay(c.Deed(), id, in.Tenders)
}

func apiDropBasket(c *kit.Call, id uint64) (shopregister.BasketView, error) {
	return shopregister.DropBasket(c.Deed(), id)
}

func apiAddToBasket(c *kit.Call, id uint64, in shopregister.BasketAdd) (shopregister.BasketView, error) {
	return shopregister.AddToBasket(c.Deed(), id, in)
}

func apiChangeBasketLine(c *kit.Call, id uint64, in shopregister.BasketChange) (shopregister.BasketView, error) {
	return shopregister.ChangeBasketLine(c.Deed(), id, fiber.Params[uint64](c.Ctx, "line"), in)
}

func apiAgree(c *kit.Call, id uint64, in shopregister.BasketFacts) (shopregister.BasketView, error) {
	return shopregister.Agree(c.Deed(), id, in)
}

func apiHold(c *kit.Call, id uint64, in shopregister.HoldInput) (shopregister.BasketView, error) {
	return shopregister.Hold(c.Deed(), id, in)
}

type takeUpInput struct {
	Basket uint64 `json:"basket_id"`
	Merge  bool   `json:"merge"` // make it one with the basket that the register is at
}

func apiTakeUp(c *kit.Call, id uint64, in takeUpInput) (shopregister.BasketView, error) {
	return shopregister.TakeUp(c.Deed(), id, in.Basket, in.Merge)
}

type moveInput struct {
	Register uint64 `json:"register_id"`
}

func apiMove(c *kit.Call, id uint64, in moveInput) (shopregister.BasketView, error) {
	return shopregister.MoveTo(c.Deed(), id, in.Register)
}

func apiAddVoucher(c *kit.Call, id uint64, in shopregister.VoucherInput) (shopregister.BasketView, error) {
	return shopregister.AddVoucher(c.Deed(), id, in)
}

func apiDropVoucher(c *kit.Call, id uint64) (shopregister.BasketView, error) {
	return shopregister.DropVoucher(c.Deed(), id, fiber.Params(c.Ctx, "n", -1))
}

type backsInput struct {
	Backs []shopregister.BackInput `json:"backs"`
}

func apiBringBack(c *kit.Call, id uint64, in backsInput) (shopregister.BasketView, error) {
	return shopregister.BringBack(c.Deed(), id, in.Backs)
}

func apiDropBack(c *kit.Call, id uint64) (shopregister.BasketView, error) {
	return shopregister.DropBack(c.Deed(), id, fiber.Params[uint64](c.Ctx, "back"))
}

func apiHeld(c *kit.Call, id uint64) ([]till.Held, error) {
	at, err := till.ReadRegister(c.Q(), id)
	if err != nil {
		return nil, err
	}
	return till.OnHold(c.Q(), at.BranchID)
}

func apiSell(c *kit.Call, in shopregister.SaleInput) (shopregister.SaleResult, error) {
	return shopregister.Sell(c.Deed(), in)
}

func apiSale(c *kit.Call) (till.SaleView, error) { return till.SaleByNumber(c.Q(), c.Text("number")) }

func apiReturns(c *kit.Call, page int) ([]till.ReturnRow, bool, error) {
	return till.Returns(c.Q(), page)
}

func apiReturn(c *kit.Call) (till.BackView, error) {
	return till.ReturnByNumber(c.Q(), c.Text("number"))
}

// printed says what was printed again.
type printed struct {
	Printed string `json:"printed"`
}

func apiReprint(c *kit.Call) (printed, error) {
	return printed{c.Text("number")}, shopregister.Reprint(c.Deed(), c.Text("number"))
}

func apiPrintGift(c *kit.Call) (printed, error) {
	return printed{c.Text("number")}, shopregister.PrintGift(c.Deed(), c.Text("number"))
}

func apiMailReceipt(c *kit.Call, in shopregister.MailInput) (shopregister.Mailed, error) {
	return shopregister.MailReceipt(c.Deed(), c.Text("number"), in)
}

func apiVoid(c *kit.Call, in shopregister.VoidInput) (deed.Posted, error) {
	return shopregister.Void(c.Deed(), c.Text("number"), in)
}

func apiTakeBack(c *kit.Call, in shopregister.ReturnInput) (shopregister.ReturnResult, error) {
	return shopregister.TakeBack(c.Deed(), in)
}

type basketListInput struct {
	List     uint64         `json:"price_list_id"`
	Approval *deed.Approval `json:"approval"` // of somebody who may, where the person may not
}

func apiBasketList(c *kit.Call, id uint64, in basketListInput) (shopregister.BasketView, error) {
	return shopregister.PutOnList(c.Deed(), id, in.List, in.Approval)
}

func apiSales(c *kit.Call, page int) ([]till.SaleRow, bool, error) { return till.Sales(c.Q(), page) }

func apiDrawers(c *kit.Call, page int) ([]till.DrawerRow, bool, error) {
	return till.Drawers(c.Q(), page)
}

func apiVouchers(c *kit.Call, page int) ([]coresale.Credit, bool, error) {
	return vouchersOf(c)(c.Q(), page)
}

// vouchersOf lists vouchers and store credit; of their codes those see a part who may not block them.
func vouchersOf(c *kit.Call) func(q store.Q, page int) ([]coresale.Credit, bool, error) {
	return func(q store.Q, page int) ([]coresale.Credit, bool, error) {
		rows, more, err := till.Vouchers(q, page)
		for i := range rows {
			if !c.Who.Can(staff.DeedVoid) {
				rows[i].Code = coresale.PartOfCode(rows[i].Code)
			}
		}
		return rows, more, err
	}
}

func apiVoucher(c *kit.Call) (shopregister.VoucherLife, error) {
	return shopregister.Voucher(c.Deed(), c.Text("code"))
}

func apiBlockVoucher(c *kit.Call, in shopregister.BlockInput) (shopregister.VoucherLife, error) {
	return shopregister.BlockVoucher(c.Deed(), c.Text("code"), in)
}

func apiReasons(c *kit.Call) ([]office.ReasonView, error) { return office.Reasons(c.Q()) }

func apiApprovals(c *kit.Call, page int) ([]officerows.ApprovalRow, bool, error) {
	return officerows.Approvals(c.Q(), page)
}

func apiOwing(c *kit.Call) ([]till.OwedNumber, error) { return till.Owing(c.Q(), 100) }

func apiGiveNumber(c *kit.Call, id uint64, in shopregister.NumberInput) (deed.Posted, error) {
	return shopregister.GiveNumber(c.Deed(), id, in)
}

func apiWithPIN(c *kit.Call) ([]office.AtRegister, error) {
	return office.WithPIN(c.Until, c.Shop, c.Who.Branch, staff.Deed(c.Query("may")))
}

// here says who is at the register.
type here struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

func apiComeToRegister(c *kit.Call, in deed.Approval) (here, error) {
	who, err := deed.ByPIN(c.Until, c.Shop, in.Person, in.PIN)
	if err != nil {
		return here{}, err
	}
	return here{who.ID, who.Name}, c.Change(who)
}

func apiLock(c *kit.Call) (here, error) { return here{c.Who.ID, c.Who.Name}, c.Lock() }

func apiMakeHere(c *kit.Call, id uint64, in shopregister.HurriedInput) (shopregister.Hurried, error) {
	return shopregister.MakeHere(c.Deed(), id, in)
}

func apiTilePages(c *kit.Call) ([]till.TilePage, error) { return till.TilePages(c.Q()) }

func apiSaveTiles(c *kit.Call, id uint64, in shopregister.TilePageInput) (till.TilePage, error) {
	return shopregister.SaveTiles(c.Deed(), id, in)
}

func apiMakeTiles(c *kit.Call, in shopregister.TilePageInput) (till.TilePage, error) {
	return shopregister.SaveTiles(c.Deed(), 0, in)
}

// dropped says what is gone.
type dropped struct {
	ID uint64 `json:"id"`
}

func apiDropTiles(c *kit.Call, id uint64) (dropped, error) {
	return dropped{id}, shopregister.DropTiles(c.Deed(), id)
}

func apiHurried(c *kit.Call) ([]goods.HurriedRow, error) { return goods.Hurried(c.Q(), 100) }

// completed says what is complete.
type completed struct {
	ID uint64 `json:"id"`
}

func apiComplete(c *kit.Call, id uint64) (completed, error) {
	return completed{id}, shopregister.Complete(c.Deed(), id)
}
