// Package fault holds the one error shape that rules return. Its main rule: an
// error a person can act on names the field, the value it had and what would be
// right, so that every screen and every answer of the API can say the same.
package fault

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
)

// Kind tells what sort of refusal an Error is; web turns it into a status.
type Kind string

// The kinds of refusal.
const (
	Invalid   Kind = "invalid"   // a field holds something that can't be right
	NotFound  Kind = "not found" // the thing named is not there
	Refused   Kind = "refused"   // a rule of the shop says no
	Conflict  Kind = "conflict"  // somebody or something was there first
	Forbidden Kind = "forbidden" // the person's role does not allow it
)

// Error is a refusal with what a person needs to mend it. Field, Value and Want
// may be empty when the refusal is not about one field.
type Error struct {
	Kind   Kind
	Field  string // name of the field as the API spells it
	Value  string // what it held
	Want   string // what would be right, a short sentence
	Detail string // the sentence to show
}

// Error returns the sentence to show.
func (e *Error) Error() string { return e.Detail }

// Field makes an Invalid error about one field; detail is a sentence.
func Field(field string, value any, want, detail string, args ...any) *Error {
	return &Error{
		Kind:   Invalid,
		Field:  field,
		Value:  fmt.Sprint(value),
		Want:   want,
		Detail: fmt.Sprintf(detail, args...),
	}
}

// Missing makes a NotFound error.
func Missing(field string, value any, detail string, args ...any) *Error {
	return &Error{Kind: NotFound, Field: field, Value: fmt.Sprint(value), Detail: fmt.Sprintf(detail, args...)}
}

// Refuse makes a Refused error.
func Refuse(field string, value any, want, detail string, args ...any) *Error {
	return &Error{
		Kind:   Refused,
		Field:  field,
		Value:  fmt.Sprint(value),
		Want:   want,
		Detail: fmt.Sprintf(detail, args...),
	}
}

// Clash makes a Conflict error.
func Clash(field string, value any, want, detail string, args ...any) *Error {
	return &Error{
		Kind:   Conflict,
		Field:  field,
		Value:  fmt.Sprint(value),
		Want:   want,
		Detail: fmt.Sprintf(detail, args...),
	}
}

// About returns the Error with the name of the thing it is about before the sentence.
func (e Error) About(name string) *Error {
	e.Detail = name + ": " + e.Detail
	return &e
}

// In returns the Error told at another field.
func (e Error) In(field string) *Error {
	e.Field = field
	return &e
}

// Or returns the Error with one more thing that would be right.
func (e Error) Or(want string) *Error {
	e.Want += ", or " + want
	return &e
}

// Of returns the Error inside err, or nil if there is none.
func Of(err error) *Error {
	var e *Error
	if errors.As(err, &e) {
		return e
	}
	return nil
}

// Is reports whether err holds an Error of this kind.
func Is(err error, kind Kind) bool {
	e := Of(err)
	return e != nil && e.Kind == kind
}

// Advice is the sentence that says what would be right instead, for those who can do something about a
// refusal; empty where the sentence to show has said it all. A few signs, as "1", may stand there by chance.
func (e Error) Advice() string {
	switch {
	case e.Want == "" || e.Kind == Conflict || e.Kind == Forbidden ||
		len(e.Want) > 4 && strings.Contains(e.Detail, e.Want):
		return ""
	case e.Kind == Refused && helps.MatchString(e.Want):
		return "What helps is " + e.Want + "."
	}
	return "Right would be: " + e.Want + "."
}

var helps = regexp.MustCompile(`^(to|an?|another|one|numbers) `)

// Whole is the sentence to show with the advice.
func (e Error) Whole() string { return strings.TrimSpace(e.Detail + " " + e.Advice()) }
