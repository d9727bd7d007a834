package settings

import (
	"itemrack/core/staff"
	"itemrack/shop/office"
	storeoffice "itemrack/store/office"
	"itemrack/web/kit"
)

// people is the page of who works in the shop.
func people(c *kit.Call) error {
	list, err := office.People(c.Deed())
	if err != nil {
		return err
	}
	branches, err := storeoffice.Branches(c.Q())
	if err != nil {
		return err
	}
	tokens, err := office.Tokens(c.Deed())
	if err != nil {
		return err
	}
	return c.Page("people", "", "People",
		map[string]any{"People": list, "Branches": branches, "Roles": staff.Roles, "Tokens": tokens,
			"Nobody": office.PersonView{Role: staff.Clerk, Branch: c.Who.Branch}})
}

// me is the page of what one signs in with.
func me(c *kit.Call) error {
	tokens, err := storeoffice.Tokens(c.Q(), c.Who.ID)
	if err != nil {
		return err
	}
	return c.Page("me", "", "How you sign in", map[string]any{"Tokens": tokens})
}

func apiPeople(c *kit.Call) ([]office.PersonView, error) {
	return office.People(c.Deed())
}

func apiAddPerson(c *kit.Call, in office.NewPerson) (office.PersonID, error) {
	return office.AddPerson(c.Deed(), in)
}

func apiChangePerson(c *kit.Call, id uint64, in office.PersonChange) (office.PersonID, error) {
	return office.ChangePerson(c.Deed(), id, in)
}

// changed says that a password was changed.
type changed struct {
	Says string `json:"says"`
}

// apiChangePassword changes one's own password. The session goes on; all others end.
func apiChangePassword(c *kit.Call, in office.PasswordChange) (changed, error) {
	who, err := office.ChangePassword(c.Deed(), in)
	if err != nil {
		return changed{}, err
	}
	return changed{"The password is changed. All other sessions, tokens and calendar addresses have ended."}, c.Renew(who)
}

func apiTokens(c *kit.Call) ([]storeoffice.APIToken, error) {
	return office.Tokens(c.Deed())
}

func apiMakeToken(c *kit.Call, in office.TokenInput) (office.NewToken, error) {
	return office.MakeToken(c.Deed(), in)
}

func apiEndToken(c *kit.Call, id uint64) (bool, error) {
	return office.EndToken(c.Deed(), id)
}
