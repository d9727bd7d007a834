package office

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"time"

	"github.com/alexedwards/argon2id"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/office"
)

// nobody is compared against when there is no such login, so that the answer
// takes as long.
var nobody, _ = argon2id.CreateHash("nobody at all", hashing)

// counted is what tries are counted by, with how many there may be.
type counted struct {
	key   string
	limit staff.Limit
}

// tries are the counts of a try: of the login, however it is spelled, and of the address.
// One that is refused for the login does not count for the address, where others sit.
func tries(login, address string) []counted {
	var list []counted
	for _, l := range staff.ByLogin {
		list = append(list, counted{l.In.String() + " login " + text.Key(login), l})
	}
	for _, l := range staff.ByAddress {
		list = append(list, counted{l.In.String() + " address " + address, l})
	}
	return list
}

// SignIn checks a login and password that came from an address. What is wrong is not told
// apart; too many tries are refused.
func SignIn(ctx context.Context, s *deed.Shop, address, login, password string) (staff.Actor, error) {
	now := s.Now()
	if err := tried(ctx, s, login, address, now); err != nil {
		return staff.Actor{}, err
	}
	user, err := office.UserByLogin(s.Store.Read(ctx), login)
	if err != nil {
		return staff.Actor{}, err
	}
	hash := user.PasswordHash
	if user.ID == 0 || user.ClosedAt != nil {
		hash = nobody
	}
	right, err := matches(ctx, password, hash)
	if err != nil || user.ID == 0 || user.ClosedAt != nil || !right {
		if err != nil && ctx.Err() != nil {
			return staff.Actor{}, err
		}
		return staff.Actor{}, &fault.Error{
			Kind:   fault.Forbidden,
			Field:  "password",
			Want:   "the login and password of one person",
			Detail: "That login and password do not belong together.",
		}
	}
	return actor(user), s.Store.Do(ctx, func(tx store.Tx) error {
		for _, c := range tries(login, address) {
			if err := office.Untried(tx, c.key, c.limit.Slot(now), now.Add(-2*time.Hour)); err != nil {
				return err
			}
		}
		return nil
	})
}

// tried counts a try to sign in, and refuses one too many.
func tried(ctx context.Context, s *deed.Shop, login, address string, now time.Time) error {
	var refused error
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		refused = nil
		for _, c := range tries(login, address) {
			n, err := office.Tried(tx, c.key, c.limit.Slot(now))
			if err != nil {
				return err
			}
			if refused = c.limit.Check(n); refused != nil {
				break
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return refused
}

func actor(u office.User) staff.Actor { return deed.Actor(u) }

// Session is what a session says of who came: in which way, and by which state of what they sign in with.
type Session struct {
	Secret  string
	Person  uint64
	Version uint64
	ByPIN   bool
}

// PersonOf finds whose a session is that was read for a request that began at a moment; ID is 0 for nobody, and for
// whoever has left or signs in with something else by now.
func PersonOf(ctx context.Context, sessions office.Sessions, of Session, began time.Time) (staff.Actor, error) {
	user, err := sessions.User(ctx, of.Secret, of.Person, began)
	who := present(user)
	if of.ByPIN && who.ID != 0 {
		who = deed.AtRegister(user)
	}
	if err != nil || who.Version != of.Version {
		return staff.Actor{}, err
	}
	return who, nil
}

// present is who a person is that has not left.
func present(u office.User) staff.Actor {
	if u.ClosedAt != nil {
		return staff.Actor{}
	}
	return actor(u)
}

// PersonByLogin finds a person by login; the first manager when it is empty.
func PersonByLogin(ctx context.Context, s *deed.Shop, login string) (staff.Actor, error) {
	q := s.Store.Read(ctx)
	if login == "" {
		user, err := office.FirstManager(q)
		if err == nil && user.ID == 0 {
			err = fault.Missing("login", "", "There is no manager yet; set the shop up first.")
		}
		return actor(user), err
	}
	user, err := office.UserByLogin(q, login)
	if err == nil && present(user).ID == 0 {
		err = fault.Missing("login", login, "Nobody signs in as %s.", login)
	}
	return actor(user), err
}

// PersonByToken finds whom an API token acts for; ID is 0 for nobody.
func PersonByToken(ctx context.Context, s *deed.Shop, token string) (staff.Actor, error) {
	user, err := office.UserByToken(s.Store.Read(ctx), token, s.Now())
	return present(user), err
}

// TokenInput is a token that is to be made: what it is for, and for how many days, 0 for
// as long as it is not ended.
type TokenInput struct {
	Name string `json:"name"`
	Days int    `json:"days"`
}

// NewToken is a token that was just made. It is shown once; only its hash is kept.
type NewToken struct {
	ID    uint64 `json:"id"`
	Token string `json:"token"`
}

// MakeToken makes an API token that acts for a person.
func MakeToken(do deed.Deed, in TokenInput) (NewToken, error) {
	if err := do.Who.WithPassword(); err != nil {
		return NewToken{}, err
	}
	row := office.APIToken{UserID: do.Who.ID, Name: text.Tidy(in.Name), CreatedAt: do.Shop.Now()}
	switch {
	case text.Len(row.Name) > 60:
		return NewToken{}, fault.Field("name", in.Name, "60 characters or fewer", "The name is too long.")
	case in.Days < 0 || in.Days > 3650:
		return NewToken{}, fault.Field("days", in.Days, "0 to 3650", "A token lasts for 0 to 3650 days.")
	case in.Days > 0:
		until := do.Shop.Now().AddDate(0, 0, in.Days)
		row.ExpiresAt = &until
	}
	secret := make([]byte, 32)
	if _, err := rand.Read(secret); err != nil {
		return NewToken{}, err
	}
	token := "ir_" + base64.RawURLEncoding.EncodeToString(secret)
	row.TokenHash = office.Hash(token)
	err := do.Shop.Store.Do(do.Ctx, func(tx store.Tx) error {
		row.ID = 0
		return office.AddToken(tx, &row)
	})
	return NewToken{row.ID, token}, err
}

// Tokens lists one's own tokens; a manager sees everybody's.
func Tokens(do deed.Deed) ([]office.APIToken, error) {
	return office.Tokens(do.Shop.Store.Read(do.Ctx), ownTokens(do.Who))
}

func ownTokens(who staff.Actor) uint64 {
	if who.Can(staff.DeedSettings) {
		return 0
	}
	return who.ID
}

// EndToken ends a token of one's own; a manager anybody's.
func EndToken(do deed.Deed, id uint64) (bool, error) {
	if err := do.Who.WithPassword(); err != nil {
		return false, err
	}
	ended := false
	err := do.Shop.Store.Do(do.Ctx, func(tx store.Tx) error {
		var err error
		ended, err = office.DropToken(tx, id, ownTokens(do.Who))
		return err
	})
	if err == nil && !ended {
		err = fault.Missing("token", id, "There is no token %d of yours.", id)
	}
	return ended, err
}
