package stock

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/buying"
	storesendings "itemrack/store/sendings"
	"itemrack/web/kit"
)

func documents(c *kit.Call) error {
	columns := []kit.Column[book.DocumentView]{kit.Col("number", func(r book.DocumentView) any { return r.Number }),
		kit.Col("kind", func(r book.DocumentView) any { return r.Kind }),
		kit.Col("when", func(r book.DocumentView) any { return c.InZone(&r.HappenedAt) }),
		kit.Col("branch", func(r book.DocumentView) any { return r.Branch }),
		kit.Col("who", func(r book.DocumentView) any { return r.Who }),
		kit.Col("note", func(r book.DocumentView) any { return r.Note }),
		kit.Col("reverses", func(r book.DocumentView) any { return r.Reverses }),
		kit.Col("reversed by", func(r book.DocumentView) any { return r.ReversedBy })}
	return kit.Listed(
		c,
		"documents",
		"Stock",
		"Documents",
		columns,
		func(q store.Q, page int) ([]book.DocumentView, bool, error) {
			return book.Documents(q, c.Query("kind"), page)
		},
		map[string]any{"Kind": c.Query("kind"),
			"Kinds": stock.Kinds()},
	)
}

func document(c *kit.Call) error {
	d, err := book.Document(c.Q(), c.Text("number"))
	if err != nil {
		return err
	}
	entries, err := book.EntryViews(c.Q(), d.ID)
	if err != nil {
		return err
	}
	postings, err := book.Postings(c.Q(), d.ID)
	if err != nil {
		return err
	}
	data := map[string]any{"D": d, "Entries": entries, "Postings": postings}
	if c.Who.Can(staff.DeedReverse) && d.ReversedBy == "" && stock.Kind(d.Kind).Reversible() {
		data["Reverses"] = true
	}
	if stock.Kind(d.Kind) == stock.Delivery {
		id, err := buying.DeliveryOf(c.Q(), d.ID)
		if err != nil {
			return err
		}
		delivery, _, err := buying.ReadDelivery(c.Q(), id)
		if err != nil {
			return err
		}
		data["Delivery"] = delivery
	}
	if of := sendingOf(d); of != "" {
		id, err := storesendings.SendingOf(c.Q(), of)
		if err != nil {
			return err
		}
		data["Sending"] = id
	}
	units, value := decimal.Zero, decimal.Zero
	for _, e := range entries {
		units, value = units.Add(e.Quantity), value.Add(e.Value)
	}
	data["Units"], data["Value"] = units, value
	return c.Page("document", "Stock", d.Kind+" "+d.Number, data)
}

// sendingOf is the number of the sending that a document is of; empty for none. Arrivals and what settles
// begin their note with it.
func sendingOf(d book.DocumentView) string {
	switch stock.Kind(d.Kind) {
	case stock.Sent:
		return d.Number
	case stock.Arrived, stock.SentSettled:
		number, _, _ := strings.Cut(d.Note, ",")
		return number
	}
	return ""
}
