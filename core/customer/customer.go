// Package customer knows whom the shop sells to. Its main rule: what documents say of a customer
// stays; name, mail and phone can be forgotten.
package customer

import (
	"fmt"
	"net/mail"
	"regexp"
	"strconv"
	"strings"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// Facts are what the shop knows of a customer. DaysToPay is nil for one who pays at once.
type Facts struct {
	Name      string `json:"name"`
	Mail      string `json:"mail"`
	Phone     string `json:"phone"`
	Address   string `json:"address"`
	Note      string `json:"note"`
	List      uint64 `json:"price_list_id"` // 0 for the regular prices
	DaysToPay *int   `json:"days_to_pay"`
}

// MostDays is how many days a customer has to pay at most.
const MostDays = 365

// Check tidies what was typed of a customer and refuses what can't be.
func Check(f Facts) (Facts, error) {
	f.Name, f.Mail, f.Phone = text.Tidy(f.Name), text.Tidy(f.Mail), text.Tidy(f.Phone)
	f.Address, f.Note = text.Prose(f.Address), text.Prose(f.Note)
	switch {
	case f.Name == "" || text.Len(f.Name) > 80:
		return f, fault.Field("name", f.Name, "1 to 80 characters", "A customer needs a name of 1 to 80 characters.")
	case text.Len(f.Mail) > 254 || f.Mail != "" && !mailed(f.Mail):
		return f, fault.Field("mail", f.Mail, "an address such as name@example.com", "%q is not a mail address.", f.Mail)
	case text.Len(f.Phone) > 40 || f.Phone != "" && len(Digits(f.Phone)) < 3:
		return f, fault.Field("phone", f.Phone, "a number such as 01632 960 123", "%q is not a phone number.", f.Phone)
	case text.Len(f.Address) > 400:
		return f, fault.Field("address", text.Cut(f.Address, 40), "400 characters or fewer", "The address is too long.")
	case text.Len(f.Note) > 400:
		return f, fault.Field("note", text.Cut(f.Note, 40), "400 characters or fewer", "The note is too long.")
	case f.DaysToPay != nil && (*f.DaysToPay < 0 || *f.DaysToPay > MostDays):
		return f, fault.Field("days_to_pay", *f.DaysToPay, "0 to 365", "Nobody has %d days to pay.", *f.DaysToPay)
	}
	return f, nil
}

// Favours are, in words, what somebody is given that was not theirs before: a price list, days to pay. Taking one away
// is none.
func Favours(before, now Facts, list string) []string {
	var favours []string
	if now.List != 0 && now.List != before.List {
		favours = append(favours, now.Name+" at the prices of "+list)
	}
	if now.DaysToPay != nil && (before.DaysToPay == nil || *now.DaysToPay > *before.DaysToPay) {
		favours = append(favours, fmt.Sprintf("%s with %s to pay", now.Name, text.Plural(*now.DaysToPay, "day", "days")))
	}
	return favours
}

func mailed(address string) bool {
	a, err := mail.ParseAddress(address)
	return err == nil && a.Address == address && a.Name == ""
}

// Digits is the form in which phone numbers are compared: their digits, of any script of the
// usual ones, without a leading 00 of a country.
func Digits(phone string) string {
	var b strings.Builder
	for _, r := range text.Key(phone) {
		if r >= '0' && r <= '9' {
			b.WriteRune(r)
		}
	}
	return strings.TrimPrefix(b.String(), "00")
}

// Code is what a customer's card says, in Code 128, by the number in the database: CU-00042.
func Code(id uint64) string { return fmt.Sprintf("CU-%05d", id) }

var card = regexp.MustCompile(`^(?i)CU-(\d{1,18})$`)

// Card reads what a customer's card says.
func Card(code string) (id uint64, ok bool) {
	m := card.FindStringSubmatch(strings.TrimSpace(code))
	if m == nil {
		return 0, false
	}
	id, err := strconv.ParseUint(m[1], 10, 64)
	return id, err == nil && id > 0
}

// Forgotten is what stays of a customer who is forgotten: no name, mail, phone, address or note.
func Forgotten(id uint64) Facts { return Facts{Name: "Forgotten customer " + Code(id)} }

// CheckMerge refuses to make one of a customer with itself, or with one who is gone.
func CheckMerge(keep, other uint64, gone bool) error {
	if keep == other {
		return fault.Field("other_id", other, "another customer", "That is the same customer.")
	}
	if gone {
		return fault.Refuse("other_id", other, "a customer who is there", "That customer was merged or forgotten already.")
	}
	return nil
}

// Together is what is known of two customers who are one: what the first says, and where it says
// nothing, what the second does.
func Together(keep, other Facts) Facts {
	for _, pair := range [][2]*string{{&keep.Mail, &other.Mail}, {&keep.Phone, &other.Phone},
		{&keep.Address, &other.Address},
		{&keep.Note, &other.Note}} {
		*pair[0] = text.Or(*pair[0], *pair[1])
	}
	if keep.List == 0 {
		keep.List = other.List
	}
	if keep.DaysToPay == nil {
		keep.DaysToPay = other.DaysToPay
	}
	return keep
}
