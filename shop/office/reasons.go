package office

import (
	"context"

	"itemrack/core/fault"
	"itemrack/core/reason"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/office"
)

// ReasonInput is a reason as it is typed. One that is closed is no longer offered.
type ReasonInput struct {
	reason.Reason
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// SaveReason keeps a reason; 0 makes a new one.
func SaveReason(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in ReasonInput) (reason.Reason, error) {
	return deed.Once(ctx, s, who, staff.DeedSettings, key, func(tx store.Tx) (reason.Reason, error) {
		if id != 0 {
			have, err := office.LockReason(tx, id)
			if err != nil {
				return have, err
			}
			if err := revision.CheckOf(have.Name, in.Revision, have); err != nil {
				return have, err
			}
			in.Kind = have.Kind
		}
		r, err := reason.Check(in.Reason)
		if err != nil {
			return r, err
		}
		r.ID = id
		return r, office.KeepReason(tx, &r)
	})
}

// WayInput is how far it is between two branches, in minutes; nil where nobody says. Revision is that of the minutes
// that were shown.
type WayInput struct {
	From     uint64 `json:"from_id"`
	To       uint64 `json:"to_id"`
	Minutes  *int   `json:"minutes"`
	Revision string `json:"revision"`
}

// SavedWay is how far it is between two branches, as it was saved.
type SavedWay struct {
	From     uint64 `json:"from_id"`
	To       uint64 `json:"to_id"`
	Minutes  *int   `json:"minutes"`
	Revision string `json:"revision"`
}

// SaveWay keeps how far it is between two branches.
func SaveWay(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in WayInput) (SavedWay, error) {
	return deed.Once(ctx, s, who, staff.DeedSettings, key, func(tx store.Tx) (SavedWay, error) {
		saved := SavedWay{in.From, in.To, in.Minutes, revision.Of(in.Minutes)}
		if in.From == in.To {
			return saved, fault.Field("to_id", in.To, "another branch", "A branch is no way from itself.")
		}
		if in.Minutes != nil && (*in.Minutes < 0 || *in.Minutes > 10_000) {
			return saved, fault.Field("minutes", *in.Minutes, "0 to 10,000, or nothing", "It can't be %d minutes.",
				*in.Minutes)
		}
		if err := knownBranches(tx.Q, []uint64{in.From, in.To}); err != nil {
			return saved, err
		}
		have, err := office.LockWay(tx, in.From, in.To)
		if err != nil {
			return saved, err
		}
		if err := revision.CheckOf("How far it is between these branches", in.Revision, have); err != nil {
			return saved, err
		}
		return saved, office.KeepWay(tx, in.From, in.To, in.Minutes)
	})
}
