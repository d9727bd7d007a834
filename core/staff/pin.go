package staff

import (
	"time"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// How a PIN is guarded: after so many wrong ones it is locked for a time.
const (
	MostWrongPINs = 5
	PINLockedFor  = 5 * time.Minute
)

// CheckPIN refuses a PIN that is not 4 to 8 digits, or that anybody would try first: one digit
// over and over, or digits in a row.
func CheckPIN(pin string) error {
	if n := text.Len(pin); n < 4 || n > 8 {
		return fault.Field("pin", "", "4 to 8 digits", "A PIN has 4 to 8 digits.")
	}
	same, up, down := true, true, true
	for i := range len(pin) {
		if pin[i] < '0' || pin[i] > '9' {
			return fault.Field("pin", "", "4 to 8 digits", "A PIN has digits only.")
		}
		if i == 0 {
			continue
		}
		same = same && pin[i] == pin[0]
		up = up && pin[i] == pin[i-1]+1
		down = down && pin[i] == pin[i-1]-1
	}
	if same || up || down {
		return fault.Field("pin", "", "digits that nobody guesses", "That PIN is one of the first that anybody would try.")
	}
	return nil
}

// PINGuard is how often a PIN was wrong, and until when it is locked.
type PINGuard struct {
	Wrong int
	Until time.Time
}

// Locked refuses to try a PIN that is locked.
func (g PINGuard) Locked(name string, now time.Time) error {
	if !now.Before(g.Until) {
		return nil
	}
	minutes := int((g.Until.Sub(now) + time.Minute - 1) / time.Minute)
	unit := "minutes"
	if minutes == 1 {
		unit = "minute"
	}
	return &fault.Error{Kind: fault.Forbidden, Field: "pin", Want: "to wait, or the password",
		Detail: "The PIN of " + name + " is locked for " + itoa(minutes) + " more " + unit +
			" after five wrong ones."}
}

// Tried is the guard after a try.
func (g PINGuard) Tried(right bool, now time.Time) PINGuard {
	if right {
		return PINGuard{}
	}
	if !g.Until.IsZero() && !now.Before(g.Until) {
		g = PINGuard{} // the lock is over
	}
	g.Wrong++
	if g.Wrong >= MostWrongPINs {
		g.Until = now.Add(PINLockedFor)
	}
	return g
}

// WrongPIN is the refusal of a wrong PIN, with how many tries are left.
func (g PINGuard) WrongPIN(name string, now time.Time) error {
	if err := g.Locked(name, now); err != nil {
		return err
	}
	left := MostWrongPINs - g.Wrong
	tries := "tries"
	if left == 1 {
		tries = "try"
	}
	return &fault.Error{Kind: fault.Forbidden, Field: "pin", Want: "the PIN of " + name,
		Detail: "That is not the PIN of " + name + "; " + itoa(left) + " " + tries + " left."}
}

func itoa(n int) string { return string(rune('0' + n)) } // below ten

// byPIN are the deeds that a PIN is enough for; the rest needs the password.
var byPIN = map[Deed]bool{DeedLook: true, DeedSell: true, DeedReturn: true, DeedDrawer: true, DeedLabels: true,
	DeedDevices: true, DeedChange: true, DeedOffMore: true, DeedPrice: true, DeedBelowCost: true, DeedNoReceipt: true,
	DeedOpenBox: true, DeedVoid: true, DeedCustomer: true, DeedStock: true, DeedRefundCash: true, DeedMakeHere: true,
	DeedPeek: true, DeedCount: true, DeedReceive: true, DeedAccount: true, DeedMove: true, DeedSettleMore: true,
	DeedTerms:      true,
	DeedMoneyAlone: true}

// ApprovalField is the field that a deed is refused by which somebody else may approve.
const ApprovalField = "approval"

// NeedsApproval refuses a deed that the person may not do alone, so that it can be approved on the
// spot; what says what it is about.
func (a Actor) NeedsApproval(deed Deed, what string) error {
	if a.Can(deed) {
		return nil
	}
	refused := fault.Of(a.May(deed))
	return &fault.Error{Kind: fault.Forbidden, Field: ApprovalField, Value: string(deed),
		Want:   "the PIN of somebody who may",
		Detail: what + " needs a yes. " + refused.Detail}
}
