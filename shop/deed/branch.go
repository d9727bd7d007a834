package deed

import (
	"itemrack/core/staff"
	"itemrack/store"
	"itemrack/store/office"
)

// At refuses a deed of a person at a branch where the person does not work.
func At(q store.Q, who staff.Actor, branch uint64) error {
	if who.At(branch, "") == nil {
		return nil
	}
	branches, err := office.AllBranches(q)
	if err != nil {
		return err
	}
	name := ""
	for _, b := range branches {
		if b.ID == branch {
			name = b.Name
		}
	}
	if name == "" {
		return nil // there is none: the deed says so
	}
	return who.At(branch, name)
}
