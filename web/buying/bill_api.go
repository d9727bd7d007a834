package buying

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/core/buying"
	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/deed"
	storebuying "itemrack/store/buying"
	"itemrack/web/kit"
)

// billAnswer is a bill with its lines, and what a draft comes to.
type billAnswer struct {
	Bill       storebuying.BillView      `json:"bill"`
	Lines      []storebuying.BillLine    `json:"lines"`
	Deliveries []uint64                  `json:"delivery_ids"`
	Billed     buying.Billed             `json:"billed" see:"costs"`
	Wrong      string                    `json:"wrong"`
	Payments   []storebuying.PaymentView `json:"payments"`
}

func apiBill(c *kit.Call, _ uint64) (billAnswer, error) {
	p, err := readBillPage(c)
	if err != nil {
		return billAnswer{}, err
	}
	a := billAnswer{Bill: p.B, Lines: []storebuying.BillLine{}, Deliveries: append([]uint64{}, p.Deliveries...),
		Billed: p.Billed, Wrong: p.Wrong}
	for _, l := range p.Lines {
		a.Lines = append(a.Lines, l.BillLine)
	}
	a.Payments, err = storebuying.PaymentsFor(c.Q(), p.B.ID)
	if a.Payments == nil {
		a.Payments = []storebuying.PaymentView{}
	}
	return a, err
}

func apiSaveBill(c *kit.Call, in shopbuying.BillInput) (shopbuying.BillRef, error) {
	return shopbuying.SaveBill(c.Deed(), fiber.Params[uint64](c.Ctx, "id"), in)
}

// billRoutes are the addresses of bills, payments and goods sent back for programs.
func billRoutes() []kit.Route {
	return []kit.Route{
		kit.Lists("/bills", staff.DeedCosts,
			"List suppliers' bills and credit notes: what is owed, by the day it is due",
			func(c *kit.Call, page int) ([]storebuying.BillView, bool, error) {
				return storebuying.Bills(c.Q(), billFilter(c), page)
			}).Asks("state", "owed (as usual), drafts or all", "supplier", "the number of a supplier"),
		kit.All("/owed", staff.DeedCosts, "What is owed to each supplier, by age",
			func(c *kit.Call) ([]owedRow, error) {
				list, _, err := owedBy(c, 0)
				return list, err
			}),
		kit.Take("POST", "/bills", staff.DeedBill,
			"Keep a supplier's bill as a draft; without lines it takes up what is not billed of its deliveries",
			apiSaveBill),
		kit.Ask("POST", "/bills/read", staff.DeedBill, "Begin a bill with a supplier's UBL 2.1 Invoice",
			func(c *kit.Call) (shopbuying.SentIn, error) {
				_, data := c.Upload()
				return shopbuying.ReadBill(c.Deed(), shopbuying.BillInput{Supplier: fiber.Query[uint64](c.Ctx, "supplier"),
					Branch: c.Who.Branch}, data)
			}).Raw("application/xml", "application/octet-stream").Asks("supplier", "the number of the supplier"),
		kit.Ask("POST", "/deliveries/read", staff.DeedReceive,
			"Begin a delivery with a supplier's UBL 2.1 DespatchAdvice",
			func(c *kit.Call) (shopbuying.SentIn, error) {
				_, data := c.Upload()
				in := shopbuying.DeliveryInput{Supplier: fiber.Query[uint64](c.Ctx, "supplier"),
					Branch: fiber.Query(c.Ctx, "branch", c.Who.Branch)}
				return shopbuying.ReadDelivery(c.Deed(), in, data)
			}).Raw("application/xml", "application/octet-stream").
			Asks("supplier", "the number of the supplier, where the file names no order of ours", "branch",
				"the number of the branch"),
		kit.Take("PUT", "/bills/:id", staff.DeedBill, "Change a draft of a bill", apiSaveBill),
		kit.On("GET", "/bills/:id", staff.DeedCosts, "Read a bill with its lines, what it comes to, and what was paid",
			apiBill),
		kit.On("DELETE", "/bills/:id", staff.DeedBill, "Give up a draft of a bill",
			func(c *kit.Call, id uint64) (shopbuying.BillRef, error) {
				return shopbuying.DropBill(c.Deed(), id)
			}),
		kit.On("POST", "/bills/:id/post", staff.DeedBill, "Post a bill",
			func(c *kit.Call, id uint64) (deed.Posted, error) {
				return shopbuying.PostBill(c.Deed(), id)
			}),
		kit.Take("POST", "/payments", staff.DeedPay,
			"Pay bills of a supplier, in part or whole, with credits set against them",
			func(c *kit.Call, in shopbuying.PaymentInput) (deed.Posted, error) {
				return shopbuying.Pay(c.Deed(), in)
			}),
		kit.Take("POST", "/payments/sum", staff.DeedPay, "What a payment would come to",
			func(c *kit.Call, in shopbuying.PaymentInput) (shopbuying.PaymentSum, error) {
				return shopbuying.SumPayment(c.Deed(), in)
			}),
		kit.All("/credits", staff.DeedCosts, "List the credits that are expected of suppliers, the oldest first",
			func(c *kit.Call) ([]storebuying.CreditExpected, error) {
				return storebuying.Credits(c.Q(), 0)
			}),
		kit.Take("POST", "/credit-notes", staff.DeedBill,
			"Enter a supplier's credit note for a credit that is expected",
			func(c *kit.Call, in shopbuying.CreditInput) (deed.Posted, error) {
				return shopbuying.EnterCredit(c.Deed(), in)
			}),
		kit.Take("POST", "/send-back", staff.DeedSendBack, "Send goods back to a supplier",
			func(c *kit.Call, in shopbuying.SendBackInput) (deed.Posted, error) {
				return shopbuying.SendBack(c.Deed(), in)
			}),
	}
}
