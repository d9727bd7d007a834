package office

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"strings"

	"github.com/alexedwards/argon2id"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/office"
)

// hashing follows the second recommendation of RFC 9106, section 4, with less
// memory so that two people can sign in at once on a small machine.
var hashing = &argon2id.Params{Memory: 32 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// NewPerson is somebody who is to sign in.
type NewPerson struct {
	Login, Name, Password string
	Role                  staff.Role
	Branch                uint64
}

// row checks what was typed of a person.
func (p NewPerson) row() (office.User, error) {
	known := false
	for _, r := range staff.Roles {
		known = known || r == p.Role
	}
	switch {
	case !known:
		return office.User{}, fault.Field("role", p.Role, "manager, register or stock", "There is no role %q.", p.Role)
	case strings.TrimSpace(p.Login) == "" || strings.ContainsAny(strings.TrimSpace(p.Login), " \t"):
		return office.User{}, fault.Field("login", p.Login, "a short name without spaces",
			"A person needs a login without spaces.")
	case strings.TrimSpace(p.Name) == "":
		return office.User{}, fault.Field("manager", p.Name, "a name", "A person needs a name.")
	case text.Len(p.Login) > 60 || text.Len(p.Name) > 80:
		return office.User{}, fault.Field("login", p.Login, "60 characters or fewer", "The login or name is too long.")
	case len(p.Password) < 8:
		return office.User{}, fault.Field("password", "", "8 characters or more",
			"The password has fewer than 8 characters.")
	}
	hash, err := argon2id.CreateHash(p.Password, hashing)
	return office.User{
		Login:        strings.ToLower(strings.TrimSpace(p.Login)),
		Name:         strings.TrimSpace(p.Name),
		PasswordHash: hash,
		Role:         string(p.Role),
		BranchID:     p.Branch,
	}, err
}

// MakePerson lets a person sign in. Whoever runs the program may; it is not a
// deed of the pages.
func MakePerson(ctx context.Context, s *deed.Shop, p NewPerson) (uint64, error) {
	user, err := p.row()
	if err != nil {
		return 0, err
	}
	err = s.Store.Do(ctx, func(tx store.Tx) error {
		have, err := office.UserByLogin(tx.Q, user.Login)
		if err != nil {
			return err
		}
		if have.ID != 0 {
			return fault.Clash("login", user.Login, "another login", "%s signs in as %s already.", have.Name,
				have.Login)
		}
		return office.AddUser(tx, &user)
	})
	return user.ID, err
}

// nobody is compared against when there is no such login, so that the answer
// takes as long.
var nobody, _ = argon2id.CreateHash("nobody at all", hashing)

// SignIn checks a login and password. What is wrong is not told apart.
func SignIn(ctx context.Context, s *deed.Shop, login, password string) (staff.Actor, error) {
	user, err := office.UserByLogin(s.Store.Read(ctx), strings.ToLower(strings.TrimSpace(login)))
	if err != nil {
		return staff.Actor{}, err
	}
	hash := user.PasswordHash
	if user.ID == 0 {
		hash = nobody
	}
	right, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil || user.ID == 0 || !right {
		return staff.Actor{}, &fault.Error{
			Kind:   fault.Forbidden,
			Field:  "password",
			Want:   "the login and password of one person",
			Detail: "That login and password do not belong together.",
		}
	}
	return actor(user), nil
}

func actor(u office.User) staff.Actor {
	return staff.Actor{ID: u.ID, Name: u.Name, Role: staff.Role(u.Role), Branch: u.BranchID}
}

// Person returns who somebody is; an Actor with ID 0 when there is nobody.
func Person(ctx context.Context, s *deed.Shop, id uint64) (staff.Actor, error) {
	user, err := office.ReadUser(s.Store.Read(ctx), id)
	return actor(user), err
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
	user, err := office.UserByLogin(q, strings.ToLower(login))
	if err == nil && user.ID == 0 {
		err = fault.Missing("login", login, "Nobody signs in as %s.", login)
	}
	return actor(user), err
}

// PersonByToken finds whom an API token acts for; ID is 0 for nobody.
func PersonByToken(ctx context.Context, s *deed.Shop, token string) (staff.Actor, error) {
	user, err := office.UserByToken(s.Store.Read(ctx), token)
	return actor(user), err
}

// MakeToken makes an API token that acts for a person. It is shown once; only
// its hash is kept.
func MakeToken(ctx context.Context, s *deed.Shop, who staff.Actor) (string, error) {
	secret := make([]byte, 32)
	if _, err := rand.Read(secret); err != nil {
		return "", err
	}
	token := "ir_" + base64.RawURLEncoding.EncodeToString(secret)
	return token, s.Store.Do(ctx, func(tx store.Tx) error {
		return office.AddToken(tx, &office.APIToken{UserID: who.ID, TokenHash: office.Hash(token), CreatedAt: s.Now()})
	})
}
