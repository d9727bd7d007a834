package office

import (
	"context"
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

// hashing is of Argon2id (RFC 9106) with less memory than the RFC recommends, so that two people can sign in at once on
// a small machine; more passes than it takes with that memory (19 MB and 2) make up for it.
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 3, Parallelism: 1, SaltLength: 16, KeyLength: 32}

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
func People(do deed.Deed) ([]PersonView, error) {
	if err := do.Who.May(staff.DeedSettings); err != nil {
		return nil, err
	}
	users, err := office.Users(do.Shop.Store.Read(do.Ctx))
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
func AddPerson(do deed.Deed, in NewPerson) (PersonID, error) {
	if err := do.Who.May(staff.DeedSettings); err != nil {
		return PersonID{}, err
	}
	user, err := in.row(do.Ctx)
	if err != nil {
		return PersonID{}, err
	}
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (PersonID, error) {
		one := user
		if err := addPerson(do.Tx, &one, in.Branches); err != nil {
			return PersonID{}, err
		}
		return named(do.Tx, one.ID)
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
func ChangePerson(do deed.Deed, id uint64, in PersonChange) (PersonID, error) {
	if err := do.Who.May(staff.DeedSettings); err != nil {
		return PersonID{}, err
	}
	facts, err := in.facts()
	if err != nil {
		return PersonID{}, err
	}
	hash := ""
	if in.Password != "" {
		if hash, err = hashOf(do.Ctx, facts.Login, in.Password); err != nil {
			return PersonID{}, err
		}
	}
	pin := ""
	if in.PIN != "" {
		if pin, err = deed.HashPIN(in.PIN); err != nil {
			return PersonID{}, err
		}
	}
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (PersonID, error) {
		if err := office.LockUsers(do.Tx); err != nil {
			return PersonID{}, err
		}
		u, err := office.ReadUser(do.Tx.Q, id)
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
		if err := lastManager(do.Tx, u, in); err != nil {
			return PersonID{}, err
		}
		if err := knownBranches(do.Tx.Q, append(slices.Clone(in.Branches), in.Branch)); err != nil {
			return PersonID{}, err
		}
		u.Login, u.Name, u.Role, u.BranchID = facts.Login, facts.Name, facts.Role, facts.BranchID
		was := u.Version
		if hash != "" {
			u.PasswordHash = hash
			u.Version++
		}
		if pin != "" {
			u.PINHash, u.PINWrong, u.PINUntil = pin, 0, nil
		}
		switch {
		case in.Closed && u.ClosedAt == nil:
			now := do.Shop.Now()
			u.ClosedAt = &now
			u.Version++
		case !in.Closed:
			u.ClosedAt = nil
		}
		if err := office.SaveUser(do.Tx, &u, in.Branches); err != nil {
			return PersonID{}, err
		}
		if u.Version != was {
			if err := office.EndKeys(do.Tx, u.ID); err != nil {
				return PersonID{}, err
			}
		}
		return named(do.Tx, id)
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
func ChangePIN(do deed.Deed, in PINChange) (staff.Actor, error) {
	if err := do.Who.WithPassword(); err != nil {
		return do.Who, err
	}
	u, err := office.ReadUser(do.Shop.Store.Read(do.Ctx), do.Who.ID)
	if err != nil {
		return do.Who, err
	}
	right, err := matches(do.Ctx, in.Password, u.PasswordHash)
	if err != nil {
		return do.Who, err
	}
	if !right {
		return do.Who, fault.Field("old_password", "", "the password that you sign in with", "That is not your password.")
	}
	hash, err := deed.HashPIN(in.PIN)
	if err != nil {
		return do.Who, err
	}
	who := do.Who
	err = do.Shop.Store.Do(do.Ctx, func(tx store.Tx) error {
		if u, err = office.LockUser(tx, do.Who.ID); err != nil {
			return err
		}
		u.PINHash, u.PINWrong, u.PINUntil = hash, 0, nil
		if who.ByPIN {
			who = deed.AtRegister(u)
		}
		return office.SaveUser(tx, &u, u.Branches())
	})
	return who, err
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

// ChangePassword changes one's own password; all other sessions, tokens and calendar addresses end. It returns who one
// is from then on.
func ChangePassword(do deed.Deed, in PasswordChange) (staff.Actor, error) {
	if err := do.Who.WithPassword(); err != nil {
		return do.Who, err
	}
	u, err := office.ReadUser(do.Shop.Store.Read(do.Ctx), do.Who.ID)
	if err != nil {
		return do.Who, err
	}
	right, err := matches(do.Ctx, in.Old, u.PasswordHash)
	if err != nil {
		return do.Who, err
	}
	if !right {
		return do.Who, fault.Field("old_password", "", "the password that you sign in with", "That is not your password.")
	}
	hash, err := hashOf(do.Ctx, u.Login, in.New)
	if err != nil {
		return do.Who, err
	}
	err = do.Shop.Store.Do(do.Ctx, func(tx store.Tx) error {
		if u, err = office.ReadUser(tx.Q, do.Who.ID); err != nil {
			return err
		}
		u.PasswordHash = hash
		u.Version++
		if err := office.EndKeys(tx, u.ID); err != nil {
			return err
		}
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
