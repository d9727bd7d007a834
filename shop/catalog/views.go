package catalog

import (
	"context"
	"strings"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/lists"
)

// ViewInput is a list as a person likes to see it: the query of its address.
type ViewInput struct {
	Name  string `json:"name"`
	Query string `json:"query"`
}

// SaveView keeps a view of the catalog under a name, for one person.
func SaveView(ctx context.Context, s *deed.Shop, who staff.Actor, in ViewInput) (bool, error) {
	return deed.Once(ctx, s, who, staff.DeedLook, "", func(tx store.Tx) (bool, error) {
		name := text.Tidy(in.Name)
		if name == "" || text.Len(name) > 60 {
			return false, fault.Field("name", in.Name, "1 to 60 characters",
				"A view needs a name of 1 to 60 characters.")
		}
		if text.Len(in.Query) > 2000 {
			return false, fault.Field("query", in.Query[:40], "2,000 characters or fewer",
				"The view is too long to keep.")
		}
		return true, lists.SaveView(tx,
			lists.SavedView{UserID: who.ID, Name: name, Query: strings.TrimPrefix(in.Query, "?")})
	})
}

// DropView forgets a view of a person.
func DropView(ctx context.Context, s *deed.Shop, who staff.Actor, id uint64) (bool, error) {
	return deed.Once(ctx, s, who, staff.DeedLook, "",
		func(tx store.Tx) (bool, error) { return true, lists.DropView(tx, who.ID, id) })
}
