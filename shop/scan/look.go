package scan

import (
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/store"
	"itemrack/store/customers"
	"itemrack/store/goods"
	"itemrack/store/till"
)

// mostCustomers is how many customers a look finds beside goods.
const mostCustomers = 6

// Look finds what a text means on a page that takes no scans of its own: goods and documents, and for
// those who sell customers, vouchers and store credit, too.
func Look(q store.Q, who staff.Actor, typed string, most int) ([]goods.Found, error) {
	sells := who.Can(staff.DeedSell)
	if sells && sale.IsCredit(typed) {
		_, code, err := sale.ReadCredit(typed)
		if err != nil {
			return nil, err
		}
		c, err := till.ReadVoucher(q, code)
		return []goods.Found{{Kind: "voucher", ID: c.ID, Name: string(c.Kind), Detail: string(c.State()), Code: c.Code}}, err
	}
	found, err := goods.Find(q, typed, most)
	if err != nil || !sells {
		return found, err
	}
	for _, f := range found { // a code, or words with a typing error, mean goods
		if f.Paper() || f.Serial != "" || f.Meant != "" {
			return found, nil
		}
	}
	known, _, err := customers.Find(q, typed, 1)
	for i, c := range known {
		if i == mostCustomers {
			break
		}
		found = append(found, goods.Found{Kind: "customer", ID: c.ID, Name: c.Name, Detail: "customer", Code: c.Code()})
	}
	return found, err
}
