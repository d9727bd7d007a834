// Package revision keeps two people who edit one thing from undoing each other's work.
// Its main rule: what is saved on top of a newer revision is refused, in words.
package revision

import (
	"strconv"

	"itemrack/core/fault"
)

// Check refuses to save what (such as "This delivery") when the revision that was shown
// is not the one that is kept. A program that says none, 0, saves whatever is there.
func Check(what string, shown, kept uint64) error {
	if shown == 0 || shown == kept {
		return nil
	}
	return fault.Clash("revision", shown, "revision "+strconv.FormatUint(kept, 10),
		"%s was changed meanwhile, by somebody else or in another window, so nothing of this was saved. "+
			"What is typed here stays; look at what changed in a window of its own.", what)
}
