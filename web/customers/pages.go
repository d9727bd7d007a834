package customers

import (
	"encoding/json"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/staff"
	"itemrack/device"
	shopcustomers "itemrack/shop/customers"
	"itemrack/store"
	"itemrack/store/customers"
	"itemrack/store/prices"
	"itemrack/store/till"
	"itemrack/web/kit"
)

func list(c *kit.Call) error {
	words := c.Query("q")
	columns := []kit.Column[customers.Row]{kit.Col("card", func(r customers.Row) any { return r.Code() }),
		kit.Col("name", func(r customers.Row) any { return r.Name }),
		kit.Col("mail", func(r customers.Row) any { return r.Mail }),
		kit.Col("phone", func(r customers.Row) any { return r.Phone }),
		kit.Col("address", func(r customers.Row) any { return r.Address }),
		kit.Col("days to pay", func(r customers.Row) any {
			if r.DaysToPay == nil {
				return nil
			}
			return *r.DaysToPay
		}),
		kit.Col("sales", func(r customers.Row) any { return r.Sales }),
		kit.Col("paid", func(r customers.Row) any { return c.Amount(r.Paid) }),
		kit.Col("owes", func(r customers.Row) any { return c.Amount(r.Owes) }),
		kit.Col("last sale", func(r customers.Row) any { return c.InZone(r.Last) })}
	return kit.Listed(c, "customers", "Register", "Customers", columns,
		func(q store.Q, page int) ([]customers.Row, bool, error) { return customers.Find(q, words, page) },
		map[string]any{"Words": words})
}

func fresh(c *kit.Call) error {
	lists, err := prices.PriceLists(c.Q())
	if err != nil {
		return err
	}
	return c.Page("customer_new", "Register", "New customer",
		map[string]any{"C": customers.Customer{Name: c.Query("name")}, "Lists": lists})
}

func one(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	record, more, err := shopcustomers.Read(c.Deed(), id, c.PageNumber())
	if err != nil {
		return err
	}
	if record.ID != id { // it was made one with another
		return c.Redirect().Status(fiber.StatusSeeOther).To(address(record.ID))
	}
	lists, err := prices.PriceLists(c.Q())
	if err != nil {
		return err
	}
	registers, err := till.Registers(c.Q())
	if err != nil {
		return err
	}
	register := uint64(0)
	for _, r := range registers {
		if r.Drawer != 0 && r.BranchID == c.Who.Branch && register == 0 {
			register = r.ID
		}
	}
	return c.Page("customer", "Register", record.Name, map[string]any{"R": record, "Lists": lists, "Pager": c.Pager(more),
		"Register": register, "Changes": c.Who.Can(staff.DeedCustomer) && record.ForgottenAt == nil,
		"Forgets": c.Who.Can(staff.DeedForget) && record.ForgottenAt == nil})
}

// card sends a customer's card, as large as a bank card.
func card(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	page, err := shopcustomers.Card(c.Deed(), id)
	if err != nil {
		return err
	}
	data, err := device.PDF("Customer card", page)
	if err != nil {
		return err
	}
	return c.Pdf("customer-card.pdf", data)
}

// export sends all that the shop knows of a customer, as a file that the customer can take along.
func export(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	all, err := shopcustomers.Export(c.Deed(), id)
	if err != nil {
		return err
	}
	data, err := json.MarshalIndent(all, "", "  ")
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, fiber.MIMEApplicationJSONCharsetUTF8)
	c.Set(fiber.HeaderContentDisposition, `attachment; filename="`+all.Card+`.json"`)
	return c.Ctx.Send(data)
}
