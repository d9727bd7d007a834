package deed

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"time"

	"github.com/alexedwards/argon2id"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/store"
	"itemrack/store/office"
)

// pinHashing is light: a PIN of few digits is guarded by its lock, not by its hash, and must
// change the person at a register at once.
var pinHashing = &argon2id.Params{Memory: 8 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// HashPIN checks a PIN and hashes it.
func HashPIN(pin string) (string, error) {
	if err := staff.CheckPIN(pin); err != nil {
		return "", err
	}
	return argon2id.CreateHash(pin, pinHashing)
}

// Actor is who a person is.
func Actor(u office.User) staff.Actor {
	return staff.Actor{ID: u.ID, Name: u.Name, Role: staff.Role(u.Role), Branch: u.BranchID, Branches: u.Branches(),
		Version: u.Version}
}

// AtRegister is who a person is who came with a PIN: somebody else again once the PIN is another.
func AtRegister(u office.User) staff.Actor {
	who := Actor(u)
	who.ByPIN = true
	sum := sha256.Sum256(fmt.Appendf(nil, "%d %s", u.Version, u.PINHash))
	who.Version = binary.BigEndian.Uint64(sum[:])
	return who
}

// ByPIN finds who a person is by the PIN. Wrong ones are counted, and five in a row lock it.
func ByPIN(ctx context.Context, s *Shop, person uint64, pin string) (staff.Actor, error) {
	var who staff.Actor
	var refused error
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		refused = nil
		u, err := office.LockUser(tx, person)
		if err != nil {
			return err
		}
		if u.ID == 0 || u.ClosedAt != nil {
			return fault.Missing("person_id", person, "There is nobody with number %d.", person)
		}
		if u.PINHash == "" {
			return fault.Refuse("pin", u.Name, "to set one under their own name first", "%s has no PIN yet.", u.Name)
		}
		guard, now := staff.PINGuard{Wrong: u.PINWrong}, s.Now()
		if u.PINUntil != nil {
			guard.Until = *u.PINUntil
		}
		if err := guard.Locked(u.Name, now); err != nil {
			return err
		}
		right, err := argon2id.ComparePasswordAndHash(pin, u.PINHash)
		if err != nil {
			return err
		}
		guard = guard.Tried(right, now)
		if !right {
			refused = guard.WrongPIN(u.Name, now)
		}
		who = AtRegister(u)
		var until *time.Time
		if !guard.Until.IsZero() {
			until = &guard.Until
		}
		return office.Guarded(tx, u.ID, guard.Wrong, until)
	})
	if err == nil {
		err = refused
	}
	return who, err
}

// Approval is somebody's yes: who says it, and the PIN.
type Approval struct {
	Person uint64 `json:"person_id"`
	PIN    string `json:"pin"`
}

// Approver finds out who says yes; nobody where no approval came along.
func Approver(ctx context.Context, s *Shop, in *Approval) (staff.Actor, error) {
	if in == nil || in.Person == 0 {
		return staff.Actor{}, nil
	}
	return ByPIN(ctx, s, in.Person, in.PIN)
}

// Asking is a person who does a deed, with somebody beside who may say yes to what the person may
// not do alone. It is made anew for each try of a transaction.
type Asking struct {
	Who, By staff.Actor
	now     time.Time
	given   []office.Approval
}

// Asks begins to ask.
func Asks(s *Shop, who, by staff.Actor) *Asking { return &Asking{Who: who, By: by, now: s.Now()} }

// May refuses what neither the person nor the one beside may do; what was said yes to is kept.
func (a *Asking) May(deed staff.Deed, what string) error {
	if a.Who.Can(deed) {
		return nil
	}
	if a.By.ID == 0 {
		return a.Who.NeedsApproval(deed, what)
	}
	if err := a.By.May(deed); err != nil {
		refused := *fault.Of(err)
		refused.Field = staff.ApprovalField
		return &refused
	}
	a.given = append(a.given, office.Approval{At: a.now, Deed: string(deed), What: text.Cut(what, 250), AskedBy: a.Who.ID,
		ApprovedBy: a.By.ID})
	return nil
}

// Note keeps a yes of the person's own, for what others will go on with.
func (a *Asking) Note(deed staff.Deed, what string) {
	if a.Who.Can(deed) {
		a.given = append(a.given, office.Approval{At: a.now, Deed: string(deed), What: text.Cut(what, 250), AskedBy: a.Who.ID,
			ApprovedBy: a.Who.ID})
	}
}

// Quiet reports whether nothing was said yes to.
func (a *Asking) Quiet() bool { return len(a.given) == 0 }

// Keep writes what was said yes to: at a register, for a basket or a document; 0 for none.
func (a *Asking) Keep(tx store.Tx, register, basket, document uint64) error {
	for i := range a.given {
		row := a.given[i]
		row.RegisterID, row.BasketID, row.DocumentID = Reference(register), Reference(basket), Reference(document)
		if err := office.KeepApproval(tx, &row); err != nil {
			return err
		}
	}
	return nil
}
