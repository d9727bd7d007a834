package office

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/office"
)

// hashing follows the second recommendation of RFC 9106, section 4, with less
// memory so that two people can sign in at once on a small machine.
var hashing = &argon2id.Params{Memory: 32 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// hashes bounds how many passwords are worked on at once: each takes the memory above.
var hashes = make(chan struct{}, 2)

// hashed does work on a password when it is its turn.
func hashed(ctx context.Context, work func() error) error {
	select {
	case hashes <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-hashes }()
	return work()
}

// NewPerson is somebody who is to sign in.
type NewPerson struct {
	Login    string     `json:"login"`
	Name     string     `json:"name"`
	Password string     `json:"password"`
	Role     staff.Role `json:"role"`
	Branch   uint64     `json:"branch_id"`
	Branches []uint64   `json:"branches"` // where the person works besides
	PIN      string     `json:"pin"`      // for the register; empty leaves it as it is
}

// facts checks what a person is called and does.
func (p NewPerson) facts() (office.User, error) {
	u := office.User{Login: text.Key(p.Login), Name: text.Tidy(p.Name), Role: string(p.Role), BranchID: p.Branch}
	switch {
	case !slices.Contains(staff.Roles, p.Role):
		return u, fault.Field("role", p.Role, "manager, register or stock", "There is no role %q.", p.Role)
	case u.Login == "" || strings.Contains(u.Login, " ") || text.Len(u.Login) > 60:
		return u, fault.Field("login", p.Login, "a short name without spaces", "A person needs a login without spaces.")
	case u.Name == "" || text.Len(u.Name) > 80:
		return u, fault.Field("name", p.Name, "a name of 1 to 80 characters", "A person needs a name.")
	}
	return u, nil
}

// row checks what was typed of a new person, and hashes the password.
func (p NewPerson) row(ctx context.Context) (office.User, error) {
	u, err := p.facts()
	if err != nil {
		return u, err
	}
	u.Version = 1
	if p.PIN != "" {
		if u.PINHash, err = deed.HashPIN(p.PIN); err != nil {
			return u, err
		}
	}
	u.PasswordHash, err = hashOf(ctx, u.Login, p.Password)
	return u, err
}

// hashOf checks a password and hashes it.
func hashOf(ctx context.Context, login, password string) (string, error) {
	if err := staff.CheckPassword(login, password); err != nil {
		return "", err
	}
	var hash string
	err := hashed(ctx, func() error {
		var err error
		hash, err = argon2id.CreateHash(password, hashing)
		return err
	})
	return hash, err
}

// MakePerson lets a person sign in. Whoever runs the program may.
func MakePerson(ctx context.Context, s *deed.Shop, p NewPerson) (uint64, error) {
	user, err := p.row(ctx)
	if err != nil {
		return 0, err
	}
	err = s.Store.Do(ctx, func(tx store.Tx) error { return addPerson(tx, &user, p.Branches) })
	return user.ID, err
}

func addPerson(tx store.Tx, user *office.User, branches []uint64) error {
	have, err := office.UserByLogin(tx.Q, user.Login)
	if err != nil {
		return err
	}
	if have.ID != 0 {
		return fault.Clash("login", user.Login, "another login", "%s signs in as %s already.", have.Name, have.Login)
	}
	if err := knownBranches(tx.Q, append(slices.Clone(branches), user.BranchID)); err != nil {
		return err
	}
	return office.SaveUser(tx, user, branches)
}

func knownBranches(q store.Q, ids []uint64) error {
	all, err := office.Branches(q)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if !slices.ContainsFunc(all, func(b office.Branch) bool { return b.ID == id }) {
			return fault.Field("branch_id", id, "a branch of the shop", "There is no branch %d.", id)
		}
	}
	return nil
}

// PersonView is a person as the settings show one.
type PersonView struct {
	ID       uint64     `json:"id"`
	Login    string     `json:"login"`
	Name     string     `json:"name"`
	Role     staff.Role `json:"role"`
	Branch   uint64     `json:"branch_id"`
	Branches []uint64   `json:"branches"`
	ClosedAt *time.Time `json:"closed_at"`
	HasPIN   bool       `json:"has_pin"`
	Revision string     `json:"revision"`
}

// viewOf is a person as the settings show one.
func viewOf(u office.User) PersonView {
	v := PersonView{ID: u.ID, Login: u.Login, Name: u.Name, Role: staff.Role(u.Role), Branch: u.BranchID,
		Branches: u.Branches(), ClosedAt: u.ClosedAt, HasPIN: u.PINHash != ""}
	v.Revision = revision.Of(v)
	return v
}

// People lists who signs in, those who left last.
func People(ctx context.Context, s *deed.Shop, who staff.Actor) ([]PersonView, error) {
	if err := who.May(staff.DeedSettings); err != nil {
		return nil, err
	}
	users, err := office.Users(s.Store.Read(ctx))
	list := make([]PersonView, len(users))
	for i, u := range users {
		list[i] = viewOf(u)
	}
	return list, err
}

// PersonID names a person.
type PersonID struct {
	ID       uint64 `json:"id"`
	Revision string `json:"revision"`
}

// AddPerson lets a person sign in.
func AddPerson(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in NewPerson) (PersonID, error) {
	if err := who.May(staff.DeedSettings); err != nil {
		return PersonID{}, err
	}
	user, err := in.row(ctx)
	if err != nil {
		return PersonID{}, err
	}
	return deed.Once(ctx, s, who, staff.DeedSettings, key, func(tx store.Tx) (PersonID, error) {
		one := user
		if err := addPerson(tx, &one, in.Branches); err != nil {
			return PersonID{}, err
		}
		return named(tx, one.ID)
	})
}

// PersonChange is what a manager changes of a person. A password is set anew where it is
// given; then, and when the person is closed, sessions and tokens end.
type PersonChange struct {
	NewPerson
	Closed   bool   `json:"closed"`
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// ChangePerson changes a person. The last manager can't be closed or become another.
func ChangePerson(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in PersonChange) (PersonID, error) {
	if err := who.May(staff.DeedSettings); err != nil {
		return PersonID{}, err
	}
	facts, err := in.facts()
	if err != nil {
		return PersonID{}, err
	}
	hash := ""
	if in.Password != "" {
		if hash, err = hashOf(ctx, facts.Login, in.Password); err != nil {
			return PersonID{}, err
		}
	}
	pin := ""
	if in.PIN != "" {
		if pin, err = deed.HashPIN(in.PIN); err != nil {
			return PersonID{}, err
		}
	}
	return deed.Once(ctx, s, who, staff.DeedSettings, key, func(tx store.Tx) (PersonID, error) {
		if err := office.LockUsers(tx); err != nil {
			return PersonID{}, err
		}
		u, err := office.ReadUser(tx.Q, id)
		if err != nil {
			return PersonID{}, err
		}
		if u.ID == 0 {
			return PersonID{}, fault.Missing("person", id, "There is no person %d.", id)
		}
		shown := viewOf(u)
		shown.Revision = ""
		if err := revision.CheckOf(u.Name, in.Revision, shown); err != nil {
			return PersonID{}, err
		}
		if err := lastManager(tx, u, in); err != nil {
			return PersonID{}, err
		}
		if err := knownBranches(tx.Q, append(slices.Clone(in.Branches), in.Branch)); err != nil {
			return PersonID{}, err
		}
		u.Login, u.Name, u.Role, u.BranchID = facts.Login, facts.Name, facts.Role, facts.BranchID
		if hash != "" {
			u.PasswordHash = hash
			u.Version++
		}
		if pin != "" {
			u.PINHash, u.PINWrong, u.PINUntil = pin, 0, nil
		}
		switch {
		case in.Closed && u.ClosedAt == nil:
			now := s.Now()
			u.ClosedAt = &now
			u.Version++
		case !in.Closed:
			u.ClosedAt = nil
		}
		if err := office.SaveUser(tx, &u, in.Branches); err != nil {
			return PersonID{}, err
		}
		return named(tx, id)
	})
}

// named names a person as it is kept now.
func named(tx store.Tx, id uint64) (PersonID, error) {
	u, err := office.ReadUser(tx.Q, id)
	return PersonID{id, viewOf(u).Revision}, err
}

// lastManager refuses to leave the shop without somebody who manages it.
func lastManager(tx store.Tx, u office.User, in PersonChange) error {
	if u.Role != string(staff.Manager) || in.Role == staff.Manager && !in.Closed {
		return nil
	}
	all, err := office.Users(tx.Q)
	if err != nil {
		return err
	}
	for _, o := range all {
		if o.ID != u.ID && o.Role == string(staff.Manager) && o.ClosedAt == nil {
			return nil
		}
	}
	return fault.Refuse("role", in.Role, "another manager first", "%s is the only manager; name another one first.",
		u.Name)
}

// PINChange is one's own password, and the PIN that is to be.
type PINChange struct {
	Password string `json:"old_password"`
	PIN      string `json:"pin"`
}

// ChangePIN sets one's own PIN for the register.
func ChangePIN(ctx context.Context, s *deed.Shop, who staff.Actor, in PINChange) (staff.Actor, error) {
	if err := who.WithPassword(); err != nil {
		return who, err
	}
	u, err := office.ReadUser(s.Store.Read(ctx), who.ID)
	if err != nil {
		return who, err
	}
	right, err := matches(ctx, in.Password, u.PasswordHash)
	if err != nil {
		return who, err
	}
	if !right {
		return who, fault.Field("old_password", "", "the password that you sign in with", "That is not your password.")
	}
	hash, err := deed.HashPIN(in.PIN)
	if err != nil {
		return who, err
	}
	return who, s.Store.Do(ctx, func(tx store.Tx) error {
		if u, err = office.LockUser(tx, who.ID); err != nil {
			return err
		}
		u.PINHash, u.PINWrong, u.PINUntil = hash, 0, nil
		return office.SaveUser(tx, &u, u.Branches())
	})
}

// AtRegister is somebody who may come to a register with a PIN.
type AtRegister struct {
	ID   uint64     `json:"id"`
	Name string     `json:"name"`
	Role staff.Role `json:"role"`
}

// WithPIN lists who may come to a register of a branch with a PIN, by name; with a deed, only those
// who may do it there.
func WithPIN(ctx context.Context, s *deed.Shop, branch uint64, may staff.Deed) ([]AtRegister, error) {
	users, err := office.Users(s.Store.Read(ctx))
	list := []AtRegister{}
	for _, u := range users {
		who := actor(u)
		who.ByPIN = true
		if u.ClosedAt == nil && u.PINHash != "" && who.At(branch, "") == nil && (may == "" || who.Can(may)) {
			list = append(list, AtRegister{u.ID, u.Name, staff.Role(u.Role)})
		}
	}
	return list, err
}

// PasswordChange is somebody's own password, and the one that is to be.
type PasswordChange struct {
	Old string `json:"old_password"`
	New string `json:"password"`
}

// ChangePassword changes one's own password; all other sessions end. It returns who one is
// from then on.
func ChangePassword(ctx context.Context, s *deed.Shop, who staff.Actor, in PasswordChange) (staff.Actor, error) {
	if err := who.WithPassword(); err != nil {
		return who, err
	}
	u, err := office.ReadUser(s.Store.Read(ctx), who.ID)
	if err != nil {
		return who, err
	}
	right, err := matches(ctx, in.Old, u.PasswordHash)
	if err != nil {
		return who, err
	}
	if !right {
		return who, fault.Field("old_password", "", "the password that you sign in with", "That is not your password.")
	}
	hash, err := hashOf(ctx, u.Login, in.New)
	if err != nil {
		return who, err
	}
	err = s.Store.Do(ctx, func(tx store.Tx) error {
		if u, err = office.ReadUser(tx.Q, who.ID); err != nil {
			return err
		}
		u.PasswordHash = hash
		u.Version++
		return office.SaveUser(tx, &u, u.Branches())
	})
	return actor(u), err
}

func matches(ctx context.Context, password, hash string) (bool, error) {
	right := false
	err := hashed(ctx, func() error {
		var err error
		right, err = argon2id.ComparePasswordAndHash(password, hash)
		return err
	})
	return right, err
}

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

// PersonOf finds a person for a request that began at a moment, by the session that was read for it.
func PersonOf(ctx context.Context, sessions office.Sessions, session string, id uint64,
	began time.Time) (staff.Actor, error) {
	user, err := sessions.User(ctx, session, id, began)
	return present(user), err
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
func MakeToken(ctx context.Context, s *deed.Shop, who staff.Actor, in TokenInput) (NewToken, error) {
	if err := who.WithPassword(); err != nil {
		return NewToken{}, err
	}
	row := office.APIToken{UserID: who.ID, Name: text.Tidy(in.Name), CreatedAt: s.Now()}
	switch {
	case text.Len(row.Name) > 60:
		return NewToken{}, fault.Field("name", in.Name, "60 characters or fewer", "The name is too long.")
	case in.Days < 0 || in.Days > 3650:
		return NewToken{}, fault.Field("days", in.Days, "0 to 3650", "A token lasts for 0 to 3650 days.")
	case in.Days > 0:
		until := s.Now().AddDate(0, 0, in.Days)
		row.ExpiresAt = &until
	}
	secret := make([]byte, 32)
	if _, err := rand.Read(secret); err != nil {
		return NewToken{}, err
	}
	token := "ir_" + base64.RawURLEncoding.EncodeToString(secret)
	row.TokenHash = office.Hash(token)
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		row.ID = 0
		return office.AddToken(tx, &row)
	})
	return NewToken{row.ID, token}, err
}

// Tokens lists one's own tokens; a manager sees everybody's.
func Tokens(ctx context.Context, s *deed.Shop, who staff.Actor) ([]office.APIToken, error) {
	return office.Tokens(s.Store.Read(ctx), ownTokens(who))
}

func ownTokens(who staff.Actor) uint64 {
	if who.Can(staff.DeedSettings) {
		return 0
	}
	return who.ID
}

// EndToken ends a token of one's own; a manager anybody's.
func EndToken(ctx context.Context, s *deed.Shop, who staff.Actor, id uint64) (bool, error) {
	if err := who.WithPassword(); err != nil {
		return false, err
	}
	ended := false
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		var err error
		ended, err = office.DropToken(tx, id, ownTokens(who))
		return err
	})
	if err == nil && !ended {
		err = fault.Missing("token", id, "There is no token %d of yours.", id)
	}
	return ended, err
}
