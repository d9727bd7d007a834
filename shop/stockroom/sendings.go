package stockroom

import (
	"slices"
	"time"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/revision"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/sendings"
)

// SendingInput begins a sending. Wanted asks for it: the receiver says what it wants, and the sender
// packs it.
type SendingInput struct {
	From     uint64 `json:"from_branch_id"`
	To       uint64 `json:"to_branch_id"`
	Wanted   bool   `json:"wanted"`
	WantedOn string `json:"wanted_on"` // a day, empty for any
	Note     string `json:"note"`
}

// SendingRef names a sending.
type SendingRef struct {
	ID     uint64 `json:"id"`
	Number string `json:"number"`
	Said   string `json:"said,omitempty"`
}

// BeginSending begins a sending between two branches; the person works at one of them.
func BeginSending(do deed.Deed, in SendingInput) (SendingRef, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (SendingRef, error) {
		branches, err := office.Branches(do.Tx.Q)
		if err != nil {
			return SendingRef{}, err
		}
		for field, id := range map[string]uint64{"from_branch_id": in.From, "to_branch_id": in.To} {
			if !slices.ContainsFunc(branches, func(b office.Branch) bool { return b.ID == id }) {
				return SendingRef{}, fault.Field(field, id, "an open branch of the shop", "Choose both branches.")
			}
		}
		if in.From == in.To {
			return SendingRef{}, fault.Field("to_branch_id", in.To, "another branch",
				"A sending goes from one branch to another.")
		}
		if err := atEither(do.Tx.Q, do.Who, in.From, in.To); err != nil {
			return SendingRef{}, err
		}
		day, err := wantedOn(do, in.WantedOn, nil)
		if err != nil {
			return SendingRef{}, err
		}
		if err := noteFits(in.Note); err != nil {
			return SendingRef{}, err
		}
		row := sendings.Sending{FromID: in.From, ToID: in.To, State: string(stock.SendingPacking), WantedOn: day,
			Note: text.Tidy(in.Note), CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now()}
		what := "Begun"
		if in.Wanted {
			row.State, what = string(stock.SendingWanted), "Wanted"
		}
		if row.Number, err = deed.NextNumber(do.Tx, stock.Sent); err != nil {
			return SendingRef{}, err
		}
		if err := sendings.AddSending(do.Tx, &row); err != nil {
			return SendingRef{}, err
		}
		return SendingRef{ID: row.ID, Number: row.Number}, sendings.NoteSending(do.Tx, row.ID, what, row.CreatedAt,
			do.Who.ID, 0)
	})
}

// wantedOn reads the day on which a sending is wanted: one to come, or the one it was.
func wantedOn(do deed.Deed, typed string, was *time.Time) (*time.Time, error) {
	if text.Tidy(typed) == "" {
		return nil, nil
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return nil, err
	}
	first := set.Day(do.Shop.Now())
	if was != nil && was.Before(first) {
		first = *was
	}
	day, err := number.DayToCome("wanted_on", typed, first)
	return &day, err
}

// atEither refuses a deed on a sending to somebody who works at neither end of it.
func atEither(q store.Q, who staff.Actor, from, to uint64) error {
	if who.At(from, "") == nil {
		return nil
	}
	return deed.At(q, who, to)
}

// sending reads a sending for a deed of somebody who works at one of its ends, with its lines; it is
// locked until the transaction ends.
func sending(tx store.Tx, who staff.Actor, id uint64) (sendings.SendingRow, []stock.SendingLine, error) {
	r, err := sendings.LockSending(tx, id)
	if err != nil {
		return r, nil, err
	}
	if err := atEither(tx.Q, who, r.FromID, r.ToID); err != nil {
		return r, nil, err
	}
	lines, err := sendings.SendingLines(tx.Q, id)
	return r, lines, err
}

// unsent is sending, of one that has not left.
func unsent(tx store.Tx, who staff.Actor, id uint64) (sendings.SendingRow, []stock.SendingLine, error) {
	r, lines, err := sending(tx, who, id)
	if err == nil {
		err = stock.SendingState(r.State).Edits(r.Number)
	}
	return r, lines, err
}

// coming is sending, of one that has left and is not settled.
func coming(tx store.Tx, who staff.Actor, id uint64) (sendings.SendingRow, []stock.SendingLine, error) {
	r, lines, err := sending(tx, who, id)
	if err == nil {
		err = stock.SendingState(r.State).Arrives(r.Number)
	}
	return r, lines, err
}

// SendingChange changes the head of a sending that has not left.
type SendingChange struct {
	WantedOn string `json:"wanted_on"`
	Note     string `json:"note"`
	Revision string `json:"revision"` // of the head that was shown
}

// headOf is what of a sending can be changed.
func headOf(r sendings.SendingRow) any {
	return struct {
		WantedOn *time.Time
		Note     string
	}{r.WantedOn, r.Note}
}

// ChangeSending changes the head of a sending that has not left.
func ChangeSending(do deed.Deed, id uint64, in SendingChange) (SendingRef, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (SendingRef, error) {
		r, _, err := unsent(do.Tx, do.Who, id)
		if err != nil {
			return SendingRef{}, err
		}
		if err := revision.CheckOf("Sending "+r.Number, in.Revision, headOf(r)); err != nil {
			return SendingRef{}, err
		}
		day, err := wantedOn(do, in.WantedOn, r.WantedOn)
		if err != nil {
			return SendingRef{}, err
		}
		if err := noteFits(in.Note); err != nil {
			return SendingRef{}, err
		}
		var on *string
		if day != nil {
			t := day.Format(time.DateOnly)
			on = &t
		}
		return SendingRef{ID: id, Number: r.Number},
			sendings.SetSending(do.Tx, id, stock.SendingState(r.State), on, text.Tidy(in.Note))
	})
}

// SendingPut puts goods into a sending that has not left: what was scanned, which adds; or how many of a
// variant are wanted or packed in all, none taking it out again.
type SendingPut struct {
	Code      string `json:"code"`
	Variant   uint64 `json:"variant_id"`
	Lot       uint64 `json:"lot_id"`
	Condition string `json:"condition"`
	Quantity  string `json:"quantity"`
	Serials   string `json:"serials"`
	Was       string `json:"was"` // how many there were when it was shown; another number is refused. Empty says nothing
}

// SendingPutResult says what became of it. Pick is a product whose variant is to be chosen, Offers what
// words found.
type SendingPutResult struct {
	Said   string        `json:"said"`
	Line   uint64        `json:"line_id"`
	Pick   *goods.Found  `json:"pick,omitempty"`
	Offers []goods.Found `json:"offers,omitempty"`
}

// PutInSending puts goods into a sending that has not left: into what is wanted while nobody packs, else
// into what is packed.
func PutInSending(do deed.Deed, id uint64, in SendingPut) (SendingPutResult, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (SendingPutResult, error) {
		r, lines, err := unsent(do.Tx, do.Who, id)
		if err != nil {
			return SendingPutResult{}, err
		}
		put, out, err := readPut(do.Tx, &in)
		if err != nil || put.Variant == 0 {
			return out, err
		}
		held, err := book.Known(do.Tx.Q, []uint64{put.Variant}, put.Numbers)
		if err != nil {
			return SendingPutResult{}, err
		}
		p := stock.SendingPut{Line: put, Adds: in.Code != "", Wanted: r.State == string(stock.SendingWanted),
			Quantity: in.Quantity,
			Was:      in.Was, From: r.FromID}
		line, said, err := held.PutInSending(lines, p)
		if err != nil {
			return SendingPutResult{}, err
		}
		if line.Packed.IsZero() && line.Wanted.IsZero() {
			return SendingPutResult{Said: said}, sendings.DropSendingLine(do.Tx, line.ID)
		}
		err = sendings.KeepSendingLine(do.Tx, id, &line)
		return SendingPutResult{Said: said, Line: line.ID}, err
	})
}

// readPut reads what a scan or a typed quantity is of; where a code is not of one variant it says what
// it may have meant.
func readPut(tx store.Tx, in *SendingPut) (stock.SendingLine, SendingPutResult, error) {
	numbers, err := serial.ReadList(in.Serials)
	line := stock.SendingLine{Variant: in.Variant, Lot: in.Lot, Condition: stock.Condition(in.Condition), Numbers: numbers}
	if err != nil || in.Code == "" {
		return line, SendingPutResult{}, err
	}
	meant, err := scan.Read(tx.Q, in.Code, 20)
	if err != nil {
		return line, SendingPutResult{}, err
	}
	if !meant.One() {
		told, err := meant.Meant()
		return stock.SendingLine{}, SendingPutResult{Pick: told.Pick, Offers: told.Offers}, err
	}
	found := meant.Found[0]
	line.Variant, in.Quantity = found.ID, meant.Units.String()
	if found.Condition != "" {
		line.Condition = stock.Condition(found.Condition)
	}
	if found.Serial != "" {
		line.Numbers = []string{found.Serial}
	}
	if found.Lot != "" {
		line.Lot, err = book.LotNamed(tx.Q, found.ID, found.Lot, found.Expiry)
	}
	return line, SendingPutResult{}, err
}

// PackSending begins to pack what is wanted: no more than is available at the sender's.
func PackSending(do deed.Deed, id uint64) (SendingRef, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (SendingRef, error) {
		r, lines, err := unsent(do.Tx, do.Who, id)
		if err != nil {
			return SendingRef{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, r.FromID); err != nil {
			return SendingRef{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return SendingRef{}, err
		}
		held, err := book.Look(do.Tx.Q, variantsIn(lines))
		if err != nil {
			return SendingRef{}, err
		}
		for _, l := range held.Pack(r.FromID, lines, set.Day(do.Shop.Now())) {
			if err := sendings.KeepSendingLine(do.Tx, id, &l); err != nil {
				return SendingRef{}, err
			}
		}
		if err := sendings.SetSendingState(do.Tx, id, stock.SendingPacking); err != nil {
			return SendingRef{}, err
		}
		return SendingRef{ID: id, Number: r.Number}, sendings.NoteSending(do.Tx, id, "Packing", do.Shop.Now(), do.Who.ID, 0)
	})
}

func variantsIn(lines []stock.SendingLine) []uint64 {
	ids := make([]uint64, len(lines))
	for i, l := range lines {
		ids[i] = l.Variant
	}
	return ids
}

func numbersIn(lines []stock.SendingLine) []string {
	var all []string
	for _, l := range lines {
		all = append(all, slices.Concat(l.Numbers, l.HereNumbers, l.OverNumbers)...)
	}
	return all
}

// SendOff lets a sending leave: what is packed goes out of the sender's stock and is on the way.
func SendOff(do deed.Deed, id uint64) (deed.Posted, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (deed.Posted, error) {
		r, lines, err := unsent(do.Tx, do.Who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, r.FromID); err != nil {
			return deed.Posted{}, err
		}
		held, err := book.Hold(do.Tx, variantsIn(lines), numbersIn(lines))
		if err != nil {
			return deed.Posted{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		now := do.Shop.Now()
		draft := stock.NewDraft(held, stock.Document{Kind: stock.Sent, Number: r.Number, Branch: r.FromID, By: do.Who.ID,
			HappenedAt: now, RecordedAt: now, Note: r.Note})
		left, err := draft.Send(r.FromID, r.ToID, lines, set.Day(now))
		if err != nil {
			return deed.Posted{}, err
		}
		done, err := deed.Post(do.Tx, held, draft)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := sendings.KeepSendingLines(do.Tx, id, left); err != nil {
			return deed.Posted{}, err
		}
		if err := sendings.SetSendingState(do.Tx, id, stock.SendingOnWay); err != nil {
			return deed.Posted{}, err
		}
		what := "Left " + r.From + ", " + stock.TotalSending(left).Sent.String() + " units"
		return done, sendings.NoteSending(do.Tx, id, what, now, do.Who.ID, done.Document)
	})
}

// DropSending gives a sending up that has not left.
func DropSending(do deed.Deed, id uint64) (SendingRef, error) {
	return deed.Once(do, staff.DeedSend, func(do deed.Deed) (SendingRef, error) {
		r, _, err := unsent(do.Tx, do.Who, id)
		if err != nil {
			return SendingRef{}, err
		}
		if err := sendings.SetSendingState(do.Tx, id, stock.SendingDropped); err != nil {
			return SendingRef{}, err
		}
		return SendingRef{ID: id, Number: r.Number}, sendings.NoteSending(do.Tx, id, "Given up", do.Shop.Now(), do.Who.ID, 0)
	})
}
