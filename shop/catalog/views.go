package catalog

import (
	"strings"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store/lists"
)

// ViewInput is a list as a person likes to see it: the query of its address.
type ViewInput struct {
	Name  string `json:"name"`
	Query string `json:"query"`
}

// SaveView keeps a view of the catalog under a name, for one person.
func SaveView(do deed.Deed, in ViewInput) (bool, error) {
	return deed.Once(do.Under(""), staff.DeedLook, func(do deed.Deed) (bool, error) {
		name := text.Tidy(in.Name)
		if name == "" || text.Len(name) > 60 {
			return false, fault.Field("name", in.Name, "1 to 60 characters",
				"A view needs a name of 1 to 60 characters.")
		}
		if text.Len(in.Query) > 2000 {
			return false, fault.Field("query", in.Query[:40], "2,000 characters or fewer",
				"The view is too long to keep.")
		}
		return true, lists.SaveView(do.Tx,
			lists.SavedView{UserID: do.Who.ID, Name: name, Query: strings.TrimPrefix(in.Query, "?")})
	})
}

// DropView forgets a view of a person.
func DropView(do deed.Deed, id uint64) (bool, error) {
	return deed.Once(do.Under(""), staff.DeedLook, func(do deed.Deed) (bool, error) {
		return true,
			lists.DropView(do.Tx, do.Who.ID, id)
	})
}
