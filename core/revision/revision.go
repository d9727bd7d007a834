// Package revision keeps two people who edit one thing from undoing each other's work.
// Its main rule: what is saved on top of a newer revision is refused, in words.
package revision

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"strconv"

	"itemrack/core/fault"
)

// Check refuses to save what (such as "This delivery") when the revision that was shown
// is not the one that is kept. A program that says none, 0, saves whatever is there.
func Check(what string, shown, kept uint64) error {
	if shown == 0 || shown == kept {
		return nil
	}
	return changed(what, strconv.FormatUint(shown, 10), strconv.FormatUint(kept, 10))
}

// Of is the revision of what counts none: it is another one as soon as anything of it is. What is
// given must be what json.Marshal can write.
func Of(kept any) string {
	text, err := json.Marshal(kept)
	if err != nil {
		panic(err) // of a type that no program gives
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:8])
}

// CheckOf is Check for what counts no revisions: shown is Of what was shown, empty where a program
// says none.
func CheckOf(what, shown string, kept any) error { return CheckIs(what, shown, Of(kept)) }

// CheckIs is CheckOf for what knows its revision.
func CheckIs(what, shown, kept string) error {
	if shown == "" || shown == kept {
		return nil
	}
	return changed(what, shown, kept)
}

func changed(what, shown, kept string) error {
	return fault.Clash("revision", shown, "revision "+kept,
		"%s was changed meanwhile, by somebody else or in another window, so nothing of this was saved. "+
			"What is typed here stays; look at what changed in a window of its own.", what)
}
