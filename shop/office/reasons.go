package office

import (
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

// ReasonView is a reason with its revision.
type ReasonView struct {
	reason.Reason
	Revision string `json:"revision"`
}

// Reasons lists the reasons, closed ones too.
func Reasons(q store.Q) ([]ReasonView, error) {
	rows, err := office.Reasons(q)
	list := make([]ReasonView, len(rows))
	for i, r := range rows {
		list[i] = ReasonView{r, revision.Of(r)}
	}
	return list, err
}

// SaveReason keeps a reason; 0 makes a new one.
func SaveReason(do deed.Deed, id uint64, in ReasonInput) (ReasonView, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (ReasonView, error) {
		if id != 0 {
			have, err := office.LockReason(do.Tx, id)
			if err != nil {
				return ReasonView{}, err
			}
			if err := revision.CheckOf(have.Name, in.Revision, have); err != nil {
				return ReasonView{}, err
			}
			in.Kind = have.Kind
		}
		r, err := reason.Check(in.Reason)
		if err != nil {
			return ReasonView{}, err
		}
		r.ID = id
		err = office.KeepReason(do.Tx, &r)
		return ReasonView{r, revision.Of(r)}, err
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

// Way is how far it is from one branch to another; Minutes is nil where nobody says.
type Way struct {
	From     uint64 `json:"from_id"`
	To       uint64 `json:"to_id"`
	Minutes  *int   `json:"minutes"`
	Revision string `json:"revision"`
}

// Ways lists how far it is from each branch to each other.
func Ways(q store.Q) ([]Way, error) {
	branches, err := office.Branches(q)
	if err != nil {
		return nil, err
	}
	known, err := office.Ways(q)
	if err != nil {
		return nil, err
	}
	said := map[[2]uint64]*int{}
	for _, w := range known {
		said[[2]uint64{w.From, w.To}] = &w.Minutes
	}
	list := []Way{}
	for _, from := range branches {
		for _, to := range branches {
			if minutes := said[[2]uint64{from.ID, to.ID}]; from.ID != to.ID {
				list = append(list, Way{from.ID, to.ID, minutes, revision.Of(minutes)})
			}
		}
	}
	return list, nil
}

// SaveWay keeps how far it is between two branches.
func SaveWay(do deed.Deed, in WayInput) (Way, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (Way, error) {
		saved := Way{in.From, in.To, in.Minutes, revision.Of(in.Minutes)}
		if in.From == in.To {
			return saved, fault.Field("to_id", in.To, "another branch", "A branch is no way from itself.")
		}
		if in.Minutes != nil && (*in.Minutes < 0 || *in.Minutes > 10_000) {
			return saved, fault.Field("minutes", *in.Minutes, "0 to 10,000, or nothing", "It can't be %d minutes.",
				*in.Minutes)
		}
		if err := knownBranches(do.Tx.Q, []uint64{in.From, in.To}); err != nil {
			return saved, err
		}
		have, err := office.LockWay(do.Tx, in.From, in.To)
		if err != nil {
			return saved, err
		}
		if err := revision.CheckOf("How far it is between these branches", in.Revision, have); err != nil {
			return saved, err
		}
		return saved, office.KeepWay(do.Tx, in.From, in.To, in.Minutes)
	})
}
