package sale

import (
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/stock"
)

// Credit is a voucher or store credit: money that the shop owes to whoever brings it.
type Credit struct {
	ID        uint64          `json:"id"`
	Kind      TenderKind      `json:"kind"`
	Code      string          `json:"code"`
	Balance   decimal.Decimal `json:"balance"`
	GivenAt   time.Time       `json:"given_at"`
	BlockedAt *time.Time      `json:"blocked_at"`
	Customer  uint64          `json:"customer_id,omitempty"`
}

// CreditState is where the life of a voucher or store credit has come to.
type CreditState string

// The states of a voucher or store credit.
const (
	CreditGiven   CreditState = "given"
	CreditUsed    CreditState = "used"
	CreditBlocked CreditState = "blocked"
)

// State is where its life has come to.
func (c Credit) State() CreditState {
	switch {
	case c.BlockedAt != nil:
		return CreditBlocked
	case !c.Balance.IsPositive():
		return CreditUsed
	}
	return CreditGiven
}

// creditLetters begin the codes of each kind.
var creditLetters = map[TenderKind]string{ByVoucher: "VO", ByCredit: "SC"}

// CreditDigits is how many digits of a code are chosen by chance.
const CreditDigits = 13

// CreditCode makes the code of a voucher or store credit out of a number by chance: its letters,
// 13 digits and a check digit (GS1 General Specifications, 7.9, modulo 10), in groups that are
// easy to read out: VO-1234-5678-9012-34.
func CreditCode(kind TenderKind, by uint64) string {
	body := fmt.Sprintf("%0*d", CreditDigits, by%10_000_000_000_000)
	digits := body + string(barcode.CheckDigit(body))
	return creditLetters[kind] + "-" + digits[:4] + "-" + digits[4:8] + "-" + digits[8:12] + "-" + digits[12:]
}

// PartOfCode is the code of a voucher or store credit as it is told to those who look through many: enough to know one
// that is at hand by, and not enough to pay with it.
func PartOfCode(code string) string {
	if len(code) < 7 {
		return code
	}
	return code[:3] + "····-····-····" + code[len(code)-3:]
}

var creditCode = regexp.MustCompile(`^(VO|SC)(\d{13})(\d)$`)

var ungrouped = strings.NewReplacer("-", "", " ", "", "\u2010", "", "\u2011", "", "\u2013", "", "\u2212", "")

// IsCredit reports whether a text looks like the code of a voucher or store credit.
func IsCredit(typed string) bool {
	return creditCode.MatchString(strings.ToUpper(ungrouped.Replace(strings.TrimSpace(typed))))
}

// ReadCredit reads the code of a voucher or store credit as it was scanned or typed, in any
// grouping; a wrong check digit is refused with the right one.
func ReadCredit(typed string) (kind TenderKind, code string, err error) {
	m := creditCode.FindStringSubmatch(strings.ToUpper(ungrouped.Replace(strings.TrimSpace(typed))))
	if m == nil {
		return "", "", fault.Field("voucher", typed, "a code such as VO-1234-5678-9012-3"+"4",
			"%q is not the code of a voucher or store credit.", typed)
	}
	if right := string(barcode.CheckDigit(m[2])); right != m[3] {
		return "", "", fault.Field("voucher", typed, "the code as it is printed, ending in "+right,
			"%s is misread: its last digit should be %s.", typed, right)
	}
	kind = ByVoucher
	if m[1] == creditLetters[ByCredit] {
		kind = ByCredit
	}
	digits := m[2] + m[3]
	return kind, m[1] + "-" + digits[:4] + "-" + digits[4:8] + "-" + digits[8:12] + "-" + digits[12:], nil
}

// Use refuses to pay with what is blocked, or with more than there is on it.
func (c Credit) Use(amount decimal.Decimal, minor money.Minor) error {
	switch {
	case c.BlockedAt != nil:
		return fault.Refuse("voucher", c.Code, "one that is not blocked", "%s was blocked on %s. It can't be used.", c.Code,
			c.BlockedAt.Format("2 Jan 2006"))
	case amount.GreaterThan(c.Balance):
		return fault.Refuse("voucher", c.Code, "no more than "+minor.Text(c.Balance), "%s has %s left, not %s.", c.Code,
			minor.Text(c.Balance), minor.Text(amount))
	}
	return nil
}

// mostVoucher is the most that one voucher is given for, in the smallest parts of the currency.
var mostVoucher = decimal.New(1_000_000, 0)

// mostVouchers is how many vouchers one basket gives.
const mostVouchers = 20

// CheckVoucher refuses a voucher of nothing, or of far too much, and one more than a basket gives that
// has some already.
func CheckVoucher(amount decimal.Decimal, already int, minor money.Minor) error {
	if already >= mostVouchers {
		return fault.Refuse("amount", amount, "20 vouchers or fewer", "A basket gives %d vouchers at most.", mostVouchers)
	}
	if most := minor.Smallest().Mul(mostVoucher); !amount.IsPositive() || amount.GreaterThan(most) {
		return fault.Field("amount", amount, "more than 0, up to "+minor.Text(most), "A voucher can't be of %s.",
			minor.Text(amount))
	}
	return nil
}

// Give posts vouchers that are sold: no income and no tax, but money owed to the bearer.
func Give(draft *stock.Draft, amount decimal.Decimal) { draft.Post(ledger.Vouchers, amount.Neg()) }

// MoveKind is what cash does in a drawer besides sales.
type MoveKind string

// What cash does in a drawer besides sales.
const (
	PutIn    MoveKind = "put in"
	TakenOut MoveKind = "taken out"
)

// Signed is an amount as the drawer sees it.
func (k MoveKind) Signed(amount decimal.Decimal) decimal.Decimal {
	if k == TakenOut {
		return amount.Neg()
	}
	return amount
}

// CheckReturnBack refuses to reverse a return whose drawer is cashed up, for which a card was given its money, or which
// paid for a sale: the goods are sold anew instead.
func CheckReturnBack(number string, cashedUp bool, paid Payment) error {
	why := ""
	switch {
	case cashedUp:
		why = "its drawer is cashed up"
	case !paid.Of(Card).IsZero():
		why = "the card has its money back, and can't be charged again by it"
	case !paid.Of(Exchange).IsZero():
		why = "it was exchanged for a sale"
	default:
		return nil
	}
	return fault.Refuse("document", number, "to sell the goods anew",
		"%s can't be reversed: %s. Sell the goods anew instead.", number, why)
}

// CheckMoveBack refuses to reverse a move of cash whose drawer is cashed up: it was counted with it.
func CheckMoveBack(number string, cashedUp bool) error {
	if !cashedUp {
		return nil
	}
	return fault.Refuse("document", number, "cash put in or taken out now, with its reason",
		"The drawer of %s is cashed up. It is mended by cash that is put in or taken out now.", number)
}

// CheckDrawer refuses to let more cash out of a drawer than should be in it. How much that is it does not tell: who
// counts it, counts blind.
func CheckDrawer(field string, out, there decimal.Decimal, minor money.Minor) error {
	if !out.GreaterThan(there) {
		return nil
	}
	return fault.Refuse(field, minor.Text(out), "another way, or cash put in first",
		"Not that much is in the drawer: %s can't go out of it.", minor.Text(out))
}

// MoveCash posts cash that is put into a drawer or taken out of it, against the account of its
// reason. More than is there can't be taken out.
func MoveCash(draft *stock.Draft, kind MoveKind, amount, there decimal.Decimal, account ledger.Account,
	minor money.Minor) error {
	switch {
	case kind != PutIn && kind != TakenOut:
		return fault.Field("kind", kind, "put in or taken out", "Cash can't be %q.", kind)
	case !amount.IsPositive():
		return fault.Field("amount", amount, "more than 0", "Say how much it is.")
	case kind == TakenOut:
		if err := CheckDrawer("amount", amount, there, minor); err != nil {
			return err
		}
	}
	draft.Post(ledger.Cash, kind.Signed(amount))
	draft.Post(account, kind.Signed(amount).Neg())
	return nil
}
