package office

import (
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/office"
)

// EndPractice begins for real. Unless what was practised is kept it is cleared:
// every document, and all that is on hand. Name is the shop's, typed again, since
// nothing brings it back.
type EndPractice struct {
	Keep bool   `json:"keep"`
	Name string `json:"name"`
}

// BeginForReal ends the shop's practice, once: from then on what is posted stays.
// It returns what had been practised.
func BeginForReal(do deed.Deed, in EndPractice) (book.Practised, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (book.Practised, error) {
		practising, err := book.LockPractice(do.Tx)
		if err != nil {
			return book.Practised{}, err
		}
		if !practising {
			return book.Practised{}, fault.Clash("practice", "", "a shop that practises",
				"The shop works for real already: nothing was cleared.")
		}
		name, err := office.Setting(do.Tx.Q, "shop_name")
		if err != nil {
			return book.Practised{}, err
		}
		if !in.Keep && !text.Same(text.Tidy(in.Name), name) {
			return book.Practised{}, fault.Field("name", in.Name, name,
				"Type the shop's name, %s, to clear what was practised.", name)
		}
		done, err := book.ReadPractised(do.Tx.Q)
		if err != nil {
			return done, err
		}
		if !in.Keep {
			if err := book.ClearPractice(do.Tx, do.Shop.Now()); err != nil {
				return done, err
			}
		}
		return done, office.Set(do.Tx, book.PracticeSetting, "")
	})
}
