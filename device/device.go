// Package device holds the stand-ins for what stands around a register: the
// receipt printer and the card terminal. They behave like the real thing and
// keep what happened in the database, so that every server sees the same.
package device

import (
	"context"
	"encoding/json"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/paper"
)

// The stand-ins, by the names under which their states are kept.
const (
	ReceiptPrinter = "receipt printer"
	LabelPrinter   = "label printer"
	CardTerminal   = "card terminal"
	Mailbox        = "mailbox"
)

// States that a stand-in can be put in.
const (
	Ready      = "ready"
	OutOfPaper = "out of paper"
	Declines   = "declines"
	NoAnswer   = "no answer"
	// AnswersLate charges, and lets whoever asked wait for the answer in vain; asked again it repeats it.
	AnswersLate = "answers late"
)

// NoAnswerField is the field of the refusal when the card terminal gives no answer: it is to be asked
// again under the same reference.
const NoAnswerField = "terminal"

// States lists the states of each stand-in.
var States = map[string][]string{
	ReceiptPrinter: {Ready, OutOfPaper},
	LabelPrinter:   {Ready, OutOfPaper},
	CardTerminal:   {Ready, Declines, NoAnswer, AnswersLate},
	Mailbox:        {Ready, NoAnswer},
}

// Memory is where stand-ins keep their states, papers and charges.
type Memory interface {
	DeviceState(ctx context.Context, name string) (string, error)
	// KeepPrint keeps a paper that came out of a printer.
	KeepPrint(ctx context.Context, device, title, pages string, at time.Time) error
	// KeepCharge keeps a charge under a reference unless one is there, and
	// returns what is kept.
	KeepCharge(ctx context.Context, reference string, amount decimal.Decimal, state string,
		at time.Time) (string, decimal.Decimal, error)
	ChangeCharge(ctx context.Context, reference, from, to string) (state string, err error)
	// Charged reports whether there is a charge under a reference.
	Charged(ctx context.Context, reference string) (bool, error)
}

// Paper is pages as a printer takes them.
type Paper string

// PaperOf makes pages ready for a printer.
func PaperOf(pages []paper.Page) (Paper, error) {
	first := make([]paper.Page, min(len(pages), 3))
	for i := range first {
		first[i] = pages[i].Rounded()
	}
	kept, err := json.Marshal(first)
	return Paper(kept), err
}

// Print puts pages through a printer stand-in. Out of paper is an error; what
// was to be printed can be printed again.
func Print(ctx context.Context, memory Memory, device, title string, pages []paper.Page, at time.Time) error {
	state, err := memory.DeviceState(ctx, device)
	if err != nil {
		return err
	}
	ready, err := PaperOf(pages)
	if err != nil {
		return err
	}
	return PrintIn(ctx, memory, device, state, title, ready, at)
}

// PrintIn is Print where the state of the printer was just read.
func PrintIn(ctx context.Context, memory Memory, device, state, title string, ready Paper, at time.Time) error {
	if state == OutOfPaper {
		return fault.Refuse("printer", device, "paper", "The %s is out of paper. Put paper in and print again.", device)
	}
	return memory.KeepPrint(ctx, device, title, string(ready), at)
}

// The states of a charge.
const (
	Approved = "approved"
	Returned = "returned"
	Refunded = "refunded"
	// Otherwise is a charge, or a refund, whose money the customer got in another way.
	Otherwise = "given otherwise"
)

// Charge asks the card terminal stand-in for an amount. The same reference is
// charged once: asked again, the terminal repeats its answer.
func Charge(ctx context.Context, memory Memory, reference string, amount decimal.Decimal, at time.Time) error {
	state, err := memory.DeviceState(ctx, CardTerminal)
	if err != nil {
		return err
	}
	if state == NoAnswer {
		return fault.Refuse(NoAnswerField, amount.StringFixed(2), "to ask again, or take cash",
			"The card terminal gives no answer. Ask again: nothing is charged twice.")
	}
	if state == Declines {
		return fault.Refuse("card", amount.StringFixed(2), "another card, or cash", "The card was declined.")
	}
	before := false
	if state == AnswersLate {
		if before, err = memory.Charged(ctx, reference); err != nil {
			return err
		}
	}
	kept, charged, err := memory.KeepCharge(ctx, reference, amount, Approved, at)
	if err != nil {
		return err
	}
	if state == AnswersLate && !before {
		return fault.Refuse(NoAnswerField, amount.StringFixed(2), "to ask again",
			"The card terminal did not answer in time. Ask again: nothing is charged twice.")
	}
	if kept == Approved && charged.Equal(amount) {
		return nil
	}
	return fault.Clash("card", amount.StringFixed(2), charged.StringFixed(2),
		"The terminal charged %s under this reference before, and it is %s.", charged.StringFixed(2), kept)
}

// answers refuses when the card terminal gives no answer.
func answers(ctx context.Context, memory Memory, amount string) error {
	state, err := memory.DeviceState(ctx, CardTerminal)
	if err == nil && state == NoAnswer {
		err = fault.Refuse("card", amount, "to ask again", "The card terminal gives no answer.")
	}
	return err
}

// Return gives back what was charged under a reference.
func Return(ctx context.Context, memory Memory, reference string) error {
	if err := answers(ctx, memory, ""); err != nil {
		return err
	}
	kept, err := memory.ChangeCharge(ctx, reference, Approved, Returned)
	if err == nil && kept != Returned && kept != "" {
		err = settled(reference)
	}
	return err
}

// settled refuses to give a card its money whose owner got it in another way.
func settled(reference string) error {
	return fault.Clash("reference", reference, "a card that is not settled yet",
		"The customer got that money in another way already; nothing was given back twice.")
}

// Refund puts an amount on a card. The same reference is refunded once. A terminal that declines
// refuses it: the customer is to get the money in another way.
func Refund(ctx context.Context, memory Memory, reference string, amount decimal.Decimal, at time.Time) error {
	if err := answers(ctx, memory, amount.StringFixed(2)); err != nil {
		return err
	}
	if state, err := memory.DeviceState(ctx, CardTerminal); err != nil {
		return err
	} else if state == Declines {
		return fault.Refuse("card", amount.StringFixed(2), "cash, or store credit", "The terminal puts nothing on that card.")
	}
	kept, _, err := memory.KeepCharge(ctx, reference, amount, Refunded, at)
	if err == nil && kept != Refunded {
		err = settled(reference)
	}
	return err
}
