package settings

import (
	"fmt"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/reason"
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/device"
	"itemrack/shop/office"
	"itemrack/store/book"
	storedevices "itemrack/store/devices"
	storeoffice "itemrack/store/office"
	"itemrack/store/till"
	"itemrack/web/kit"
)

// begin makes the shop of an empty database; nobody is signed in yet.
func begin(c *kit.Call) error {
	var in office.FirstStart
	if err := c.Read(&in); err != nil {
		return err
	}
	who, err := office.Begin(c.Until, c.Shop, in)
	if err != nil {
		return err
	}
	if err := c.Enter(who); err != nil {
		return err
	}
	return c.JSON(map[string]string{"name": who.Name})
}

// empty refuses what is only for a shop that is set up.
func empty(c *kit.Call) error {
	is, err := office.IsEmpty(c.Until, c.Shop)
	if err != nil {
		return err
	}
	if !is {
		return fault.Clash("name", "", "to sign in", "There is a shop already. Sign in.")
	}
	return nil
}

func devices(c *kit.Call) error {
	type one struct {
		Name, State string
		States      []string
	}
	var list []one
	opened, err := till.OpenedLast(c.Q(), 8)
	if err != nil {
		return err
	}
	for _, name := range []string{device.ReceiptPrinter, device.LabelPrinter, device.CardTerminal, device.Mailbox} {
		state, err := storedevices.Of(c.Shop.Store).DeviceState(c.Until, name)
		if err != nil {
			return err
		}
		list = append(list, one{name, state, device.States[name]})
	}
	papers, err := office.Papers(c.Until, c.Shop, 8)
	if err != nil {
		return err
	}
	mails, err := storedevices.Mails(c.Q(), 20)
	if err != nil {
		return err
	}
	return c.Page("devices", "Register", "Stand-ins", map[string]any{"Devices": list, "Papers": papers, "Mails": mails,
		"Opened": opened})
}

// mail sends a mail as it was sent: an .eml file.
func mail(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	m, err := storedevices.ReadMail(c.Q(), id)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, "message/rfc822")
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="mail-%d.eml"`, id))
	return c.Ctx.Send(m.Raw)
}

// start is the page of an empty shop.
func start(c *kit.Call) error {
	if err := empty(c); err != nil {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/login")
	}
	return c.Page("start", "", "Open the shop",
		map[string]any{"Currencies": money.Currencies, "Costings": cost.Methods})
}

// way is how far it is between two branches.
type way struct {
	office.Way
	FromName, ToName string
}

// ways lists each pair of branches once.
func ways(branches []storeoffice.Branch, all []office.Way) []way {
	place, names := map[uint64]int{}, map[uint64]string{}
	for i, b := range branches {
		place[b.ID], names[b.ID] = i, b.Name
	}
	var list []way
	for _, w := range all {
		if place[w.From] < place[w.To] {
			list = append(list, way{w, names[w.From], names[w.To]})
		}
	}
	return list
}

// reasons is the page of why stock and money change.
func reasons(c *kit.Call) error {
	list, err := office.Reasons(c.Q())
	if err != nil {
		return err
	}
	by := map[reason.Kind][]office.ReasonView{}
	for _, r := range list {
		by[r.Kind] = append(by[r.Kind], r)
	}
	return c.Page("reasons", "", "Reasons", map[string]any{"Kinds": reason.Kinds, "By": by, "Accounts": reason.Accounts()})
}

// branches is the page of where stock is.
func branches(c *kit.Call) error {
	list, err := office.Places(c.Q())
	if err != nil {
		return err
	}
	return c.Page("branches", "", "Branches and shelves", map[string]any{"Branches": list})
}

// conditions is the page of the conditions that goods can be in.
func conditions(c *kit.Call) error {
	list, err := office.Conditions(c.Q())
	if err != nil {
		return err
	}
	type one struct {
		office.ConditionView
		BuiltIn bool
	}
	rows := make([]one, len(list))
	for i, f := range list {
		rows[i] = one{f, stock.BuiltIn(f.Name)}
	}
	return c.Page("conditions", "", "Conditions", map[string]any{"Rows": rows})
}

func settings(c *kit.Call) error {
	s, err := office.ReadSettings(c.Deed())
	if err != nil {
		return err
	}
	branches, err := storeoffice.Branches(c.Q())
	if err != nil {
		return err
	}
	documents, _, err := book.Documents(c.Q(), "", 1)
	if err != nil {
		return err
	}
	all, err := office.Ways(c.Q())
	if err != nil {
		return err
	}
	data := map[string]any{"S": s, "Branches": branches, "Begun": len(documents) > 0, "Steps": sale.Steps(c.Terms.Minor()),
		"Ways": ways(branches, all)}
	if s.Practice {
		if data["Practised"], err = book.ReadPractised(c.Q()); err != nil {
			return err
		}
	}
	return c.Page("settings", "", "Settings", data)
}
