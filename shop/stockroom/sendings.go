package stockroom

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/reason"
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
func BeginSending(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in SendingInput) (SendingRef, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (SendingRef, error) {
		branches, err := office.Branches(tx.Q)
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
		if err := atEither(tx.Q, who, in.From, in.To); err != nil {
			return SendingRef{}, err
		}
		day, err := wantedOn(s, tx, in.WantedOn, nil)
		if err != nil {
			return SendingRef{}, err
		}
		if err := noteFits(in.Note); err != nil {
			return SendingRef{}, err
		}
		row := sendings.Sending{FromID: in.From, ToID: in.To, State: string(stock.SendingPacking), WantedOn: day,
			Note: text.Tidy(in.Note), CreatedBy: who.ID, CreatedAt: s.Now()}
		what := "Begun"
		if in.Wanted {
			row.State, what = string(stock.SendingWanted), "Wanted"
		}
		if row.Number, err = deed.NextNumber(tx, "S"); err != nil {
			return SendingRef{}, err
		}
		if err := sendings.AddSending(tx, &row); err != nil {
			return SendingRef{}, err
		}
		return SendingRef{ID: row.ID, Number: row.Number}, sendings.NoteSending(tx, row.ID, what, row.CreatedAt, who.ID, 0)
	})
}

// wantedOn reads the day on which a sending is wanted: one to come, or the one it was.
func wantedOn(s *deed.Shop, tx store.Tx, typed string, was *time.Time) (*time.Time, error) {
	if text.Tidy(typed) == "" {
		return nil, nil
	}
	set, err := tx.Terms()
	if err != nil {
		return nil, err
	}
	first := set.Day(s.Now())
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
func ChangeSending(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in SendingChange) (SendingRef, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (SendingRef, error) {
		r, _, err := unsent(tx, who, id)
		if err != nil {
			return SendingRef{}, err
		}
		if err := revision.CheckOf("Sending "+r.Number, in.Revision, headOf(r)); err != nil {
			return SendingRef{}, err
		}
		day, err := wantedOn(s, tx, in.WantedOn, r.WantedOn)
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
			sendings.SetSending(tx, id, stock.SendingState(r.State), on, text.Tidy(in.Note))
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
func PutInSending(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in SendingPut) (SendingPutResult, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (SendingPutResult, error) {
		r, lines, err := unsent(tx, who, id)
		if err != nil {
			return SendingPutResult{}, err
		}
		put, out, err := readPut(tx, &in)
		if err != nil || put.Variant == 0 {
			return out, err
		}
		held, err := book.Known(tx.Q, []uint64{put.Variant}, put.Numbers)
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
			return SendingPutResult{Said: said}, sendings.DropSendingLine(tx, line.ID)
		}
		err = sendings.KeepSendingLine(tx, id, &line)
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
func PackSending(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64) (SendingRef, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (SendingRef, error) {
		r, lines, err := unsent(tx, who, id)
		if err != nil {
			return SendingRef{}, err
		}
		if err := deed.At(tx.Q, who, r.FromID); err != nil {
			return SendingRef{}, err
		}
		set, err := tx.Terms()
		if err != nil {
			return SendingRef{}, err
		}
		held, err := book.Look(tx.Q, variantsIn(lines))
		if err != nil {
			return SendingRef{}, err
		}
		for _, l := range held.Pack(r.FromID, lines, set.Day(s.Now())) {
			if err := sendings.KeepSendingLine(tx, id, &l); err != nil {
				return SendingRef{}, err
			}
		}
		if err := sendings.SetSendingState(tx, id, stock.SendingPacking); err != nil {
			return SendingRef{}, err
		}
		return SendingRef{ID: id, Number: r.Number}, sendings.NoteSending(tx, id, "Packing", s.Now(), who.ID, 0)
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
func SendOff(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (deed.Posted, error) {
		r, lines, err := unsent(tx, who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(tx.Q, who, r.FromID); err != nil {
			return deed.Posted{}, err
		}
		held, err := book.Hold(tx, variantsIn(lines), numbersIn(lines))
		if err != nil {
			return deed.Posted{}, err
		}
		set, err := tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		now := s.Now()
		draft := stock.NewDraft(held, stock.Document{Kind: stock.Sent, Number: r.Number, Branch: r.FromID, By: who.ID,
			HappenedAt: now, RecordedAt: now, Note: r.Note})
		left, err := draft.Send(r.FromID, r.ToID, lines, set.Day(now))
		if err != nil {
			return deed.Posted{}, err
		}
		done, err := deed.Post(tx, held, draft)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := sendings.KeepSendingLines(tx, id, left); err != nil {
			return deed.Posted{}, err
		}
		if err := sendings.SetSendingState(tx, id, stock.SendingOnWay); err != nil {
			return deed.Posted{}, err
		}
		what := "Left " + r.From + ", " + stock.TotalSending(left).Sent.String() + " units"
		return done, sendings.NoteSending(tx, id, what, now, who.ID, done.Document)
	})
}

// HereInput is what is counted as here of a sending that is on the way: a scan, which adds one; or how
// many of a line are here in all.
type HereInput struct {
	Code     string `json:"code"`
	Line     uint64 `json:"line_id"`
	Quantity string `json:"quantity"`
	Serials  string `json:"serials"`
}

// CountHere counts what arrives of a sending; ArriveSending takes it in.
func CountHere(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in HereInput) (SendingPutResult, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (SendingPutResult, error) {
		r, lines, err := coming(tx, who, id)
		if err != nil {
			return SendingPutResult{}, err
		}
		if err := deed.At(tx.Q, who, r.ToID); err != nil {
			return SendingPutResult{}, err
		}
		put := SendingPut{Code: in.Code, Serials: in.Serials, Quantity: in.Quantity}
		for _, l := range lines {
			if l.ID == in.Line && in.Line != 0 {
				put.Variant, put.Lot = l.Variant, l.Lot
			}
		}
		came, out, err := readPut(tx, &put)
		if err != nil || came.Variant == 0 {
			return out, err
		}
		held, err := book.Known(tx.Q, append(variantsIn(lines), came.Variant), came.Numbers)
		if err != nil {
			return SendingPutResult{}, err
		}
		line, said, err := held.CountHere(lines, stock.HereInput{Came: came, Line: in.Line, Adds: in.Code != "",
			Quantity: put.Quantity})
		if err != nil {
			return SendingPutResult{}, err
		}
		err = sendings.KeepSendingLine(tx, id, &line)
		return SendingPutResult{Said: said, Line: line.ID}, err
	})
}

// ArriveInput takes in what is counted as here, on a shelf, the default one for 0; All takes in all that
// is on the way.
type ArriveInput struct {
	Shelf uint64 `json:"shelf_id"`
	All   bool   `json:"all"`
}

// ArriveSending takes in what is here of a sending.
func ArriveSending(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in ArriveInput) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (deed.Posted, error) {
		r, lines, err := coming(tx, who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(tx.Q, who, r.ToID); err != nil {
			return deed.Posted{}, err
		}
		if in.All {
			lines = stock.AllHere(lines)
		}
		held, err := book.Hold(tx, variantsIn(lines), numbersIn(lines))
		if err != nil {
			return deed.Posted{}, err
		}
		if in.Shelf == 0 {
			if in.Shelf, err = held.Where(r.ToID); err != nil {
				return deed.Posted{}, err
			}
		}
		draft, err := newDraft(s, tx, who, held, "SA", stock.Arrived, r.ToID, r.Number)
		if err != nil {
			return deed.Posted{}, err
		}
		before := stock.TotalSending(lines)
		after, err := draft.Arrive(r.ToID, in.Shelf, lines)
		if err != nil {
			return deed.Posted{}, err
		}
		return finishSending(s, tx, who, r, held, draft, after, arrivedSays(before, stock.TotalSending(after)))
	})
}

func arrivedSays(before, after stock.SendingTotal) string {
	what := after.Arrived.Sub(before.Arrived).String() + " arrived"
	if over := after.Over.Sub(before.Over); over.IsPositive() {
		what += ", and " + over.String() + " over"
	}
	return what
}

// finishSending posts what became of a sending that is on the way, and keeps its lines. A document
// without entries, of what was only counted, is none.
func finishSending(s *deed.Shop, tx store.Tx, who staff.Actor, r sendings.SendingRow, held stock.Holding,
	draft *stock.Draft,
	lines []stock.SendingLine, what string) (deed.Posted, error) {
	doc, err := draft.Document()
	if err != nil {
		return deed.Posted{}, err
	}
	done := deed.Posted{Number: r.Number, At: doc.HappenedAt}
	if len(doc.Entries) > 0 {
		if done, err = deed.Post(tx, held, draft); err != nil {
			return deed.Posted{}, err
		}
	}
	for i := range lines {
		if err := sendings.KeepSendingLine(tx, r.ID, &lines[i]); err != nil {
			return deed.Posted{}, err
		}
	}
	if err := sendings.NoteSending(tx, r.ID, text.Cut(what, 250), s.Now(), who.ID, done.Document); err != nil {
		return deed.Posted{}, err
	}
	now := stock.SendingNow(lines)
	if now == stock.SendingSettled {
		if err := sendings.NoteSending(tx, r.ID, "Settled", s.Now(), who.ID, 0); err != nil {
			return deed.Posted{}, err
		}
	}
	return done, sendings.SetSendingState(tx, r.ID, now)
}

// SettleInput settles what is short or over of a line of a sending.
type SettleInput struct {
	Line     uint64 `json:"line_id"`
	How      string `json:"how"`
	Quantity string `json:"quantity"` // empty for all of it
	Serials  string `json:"serials"`
	Reason   uint64 `json:"reason_id"` // where something is lost or found
}

// SettleSending settles what is short or over of a sending.
func SettleSending(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in SettleInput) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedWriteOff, key, func(tx store.Tx) (deed.Posted, error) {
		r, lines, err := coming(tx, who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		at := slices.IndexFunc(lines, func(l stock.SendingLine) bool { return l.ID == in.Line })
		if at < 0 {
			return deed.Posted{}, fault.Missing("line_id", in.Line, "%s has no line %d.", r.Number, in.Line)
		}
		numbers, err := serial.ReadList(in.Serials)
		if err != nil {
			return deed.Posted{}, err
		}
		held, err := book.Hold(tx, []uint64{lines[at].Variant}, append(numbersIn(lines[at:at+1]), numbers...))
		if err != nil {
			return deed.Posted{}, err
		}
		plan, why, err := settlePlan(s, tx, held, r, lines[at], in, numbers)
		if err != nil {
			return deed.Posted{}, err
		}
		draft, err := newDraft(s, tx, who, held, "SS", stock.SentSettled, plan.How.At(r.FromID, r.ToID),
			text.Cut(text.Joined(r.Number, why), 250))
		if err != nil {
			return deed.Posted{}, err
		}
		if lines[at], err = draft.SettleSending(lines[at], plan); err != nil {
			return deed.Posted{}, err
		}
		what := fmt.Sprintf("%s %s: %s", plan.Quantity, held.Items[lines[at].Variant].Name, plan.How)
		return finishSending(s, tx, who, r, held, draft, lines, what)
	})
}

// settlePlan reads how a line is settled, with the name of the reason.
func settlePlan(s *deed.Shop, tx store.Tx, held stock.Holding, r sendings.SendingRow, l stock.SendingLine, in SettleInput,
	numbers []string) (stock.SettlePlan, string, error) {
	plan := stock.SettlePlan{From: r.FromID, To: r.ToID, How: stock.Settling(in.How), Numbers: numbers}
	if err := plan.How.Check(); err != nil {
		return plan, "", err
	}
	set, err := tx.Terms()
	if err != nil {
		return plan, "", err
	}
	plan.Day = set.Day(s.Now())
	open, all := l.OnWay(), l.NumbersOnWay()
	if plan.How.Over() {
		open, all = l.OverLeft(), l.NumbersOver()
	}
	if len(numbers) == 0 && text.Tidy(in.Quantity) == "" {
		plan.Numbers = all
	}
	plan.Quantity = open
	if text.Tidy(in.Quantity) != "" {
		if plan.Quantity, err = held.Items[l.Variant].Unit.Parse("quantity", in.Quantity); err != nil {
			return plan, "", err
		}
	} else if len(numbers) > 0 {
		plan.Quantity = decimal.New(int64(len(numbers)), 0)
	}
	if !plan.How.NeedsReason() {
		return plan, "", nil
	}
	reasons, err := office.Reasons(tx.Q)
	if err != nil {
		return plan, "", err
	}
	why, err := reason.Find(reasons, reason.Stock, in.Reason)
	plan.Account = why.Account
	return plan, why.Name, err
}

// DropSending gives a sending up that has not left.
func DropSending(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64) (SendingRef, error) {
	return deed.Once(ctx, s, who, staff.DeedSend, key, func(tx store.Tx) (SendingRef, error) {
		r, _, err := unsent(tx, who, id)
		if err != nil {
			return SendingRef{}, err
		}
		if err := sendings.SetSendingState(tx, id, stock.SendingDropped); err != nil {
			return SendingRef{}, err
		}
		return SendingRef{ID: id, Number: r.Number}, sendings.NoteSending(tx, id, "Given up", s.Now(), who.ID, 0)
	})
}

// SendingView is a sending with its lines worked out.
type SendingView struct {
	sendings.SendingRow
	Revision string                  `json:"revision"` // of its head
	Lines    []SendingLineView       `json:"lines"`
	Events   []sendings.SendingEvent `json:"events"`
	Total    stock.SendingTotal      `json:"total"`
	Worth    decimal.Decimal         `json:"worth" see:"costs"` // of what is on the way
}

// SendingLineView is a line of a sending: what is left at the sender's, on the way and at the receiver's of
// its goods in its condition, and what the line's units on the way are worth.
type SendingLineView struct {
	stock.SendingLine
	Item    goods.Sellable  `json:"item"`
	LotName string          `json:"lot"`
	Expiry  *time.Time      `json:"expiry"`
	AtFrom  decimal.Decimal `json:"at_from"`
	Way     decimal.Decimal `json:"on_the_way"` // of this line
	AtTo    decimal.Decimal `json:"at_to"`
	Excess  decimal.Decimal `json:"excess"` // arrived unsent and not settled
	Worth   decimal.Decimal `json:"worth" see:"costs"`
}

// ReadSending reads a sending with its lines worked out.
func ReadSending(s *deed.Shop, q store.Q, id uint64) (SendingView, error) {
	r, err := sendings.ReadSending(q, id)
	if err != nil {
		return SendingView{}, err
	}
	view := SendingView{SendingRow: r, Revision: revision.Of(headOf(r)), Lines: []SendingLineView{}}
	lines, err := sendings.SendingLines(q, id)
	if err != nil {
		return view, err
	}
	if view.Events, err = sendings.SendingEvents(q, id); err != nil {
		return view, err
	}
	view.Total = stock.TotalSending(lines)
	items, err := goods.Sellables(q, variantsIn(lines), s.Now())
	if err != nil {
		return view, err
	}
	held, err := book.Known(q, variantsIn(lines), numbersIn(lines))
	if err != nil {
		return view, err
	}
	for _, l := range lines {
		v := SendingLineView{SendingLine: l, Item: items[l.Variant], Way: l.OnWay(), Excess: l.OverLeft(),
			AtFrom: held.OnHand(l.Variant, r.FromID, l.Condition), AtTo: held.OnHand(l.Variant, r.ToID, l.Condition),
			Worth: held.WorthOf(l.Variant, l.OnWay(), l.NumbersOnWay())}
		if lot, ok := held.Lots[l.Lot]; ok {
			v.LotName = lot.Number
			if !lot.Expiry.IsZero() {
				v.Expiry = &lot.Expiry
			}
		}
		view.Worth = view.Worth.Add(v.Worth)
		view.Lines = append(view.Lines, v)
	}
	return view, nil
}
