package kit

import (
	"reflect"

	"itemrack/core/staff"
)

// Route is one address: who may use it follows from its deed. A route of the API
// also says what it takes and answers, from the types of its handler, and what it
// is for; pages have no doc.
type Route struct {
	Method, Path string
	Deed         staff.Deed
	Handler      func(*Call) error
	Doc          string
	In, Out      reflect.Type // JSON bodies; nil for none
	Queries      []Query      // what may stand behind the question mark
	Kinds        []string     // media types of a body that is no JSON
	Streamed     bool         // the body is worked on as it comes in
	Unsigned     bool         // nobody need be signed in
	WhenLocked   bool         // also while the register waits for a PIN
}

// Query is what may stand behind the question mark of an address.
type Query struct{ Name, Doc string }

// Asks says what may stand behind the question mark: names, each with what it is for.
func (r Route) Asks(pairs ...string) Route {
	for i := 0; i+1 < len(pairs); i += 2 {
		r.Queries = append(r.Queries, Query{pairs[i], pairs[i+1]})
	}
	return r
}

// Page is an address that people open.
func Page(method, path string, deed staff.Deed, handler func(*Call) error) Route {
	return Route{Method: method, Path: path, Deed: deed, Handler: handler}
}

// Ask is a route of the API that takes no body.
func Ask[Out any](method, path string, deed staff.Deed, doc string, work func(c *Call) (Out, error)) Route {
	return Route{
		Method: method,
		Path:   path,
		Deed:   deed,
		Doc:    doc,
		Out:    reflect.TypeFor[Out](),
		Handler: func(c *Call) error {
			out, err := work(c)
			return answer(c, out, err)
		},
	}
}

// Lists is a route of the API that lists something, a page at a time.
func Lists[T any](path string, deed staff.Deed, doc string, read func(c *Call, page int) ([]T, bool, error)) Route {
	return Ask("GET", path, deed, doc+", a page at a time", func(c *Call) (List[T], error) {
		rows, more, err := read(c, c.PageNumber())
		return ListOf(rows, more), err
	}).Asks("page", "the number of the page, from 1")
}

// All is a route of the API that lists all there is of something.
func All[T any](path string, deed staff.Deed, doc string, read func(c *Call) ([]T, error)) Route {
	return Ask("GET", path, deed, doc, func(c *Call) ([]T, error) {
		rows, err := read(c)
		if rows == nil {
			rows = []T{}
		}
		return rows, err
	})
}

// On is a route of the API about the thing that :id in its path names.
func On[Out any](method, path string, deed staff.Deed, doc string, work func(c *Call, id uint64) (Out, error)) Route {
	return Ask(method, path, deed, doc, func(c *Call) (Out, error) {
		id, err := c.Number("id")
		if err != nil {
			var none Out
			return none, err
		}
		return work(c, id)
	})
}

// Take is a route of the API that takes a JSON body.
func Take[In, Out any](method, path string, deed staff.Deed, doc string, work func(c *Call, in In) (Out, error)) Route {
	r := Ask(method, path, deed, doc, func(c *Call) (Out, error) {
		var in In
		if err := c.Read(&in); err != nil {
			var none Out
			return none, err
		}
		return work(c, in)
	})
	r.In = reflect.TypeFor[In]()
	return r
}

// TakeOn is a route of the API that takes a JSON body for the thing that :id in
// its path names.
func TakeOn[In, Out any](method, path string, deed staff.Deed, doc string,
	work func(c *Call, id uint64, in In) (Out, error)) Route {
	return Take(method, path, deed, doc, func(c *Call, in In) (Out, error) {
		id, err := c.Number("id")
		if err != nil {
			var none Out
			return none, err
		}
		return work(c, id, in)
	})
}

// MayTake says that a route that takes no body may have a JSON one, too.
func MayTake[In any](r Route) Route {
	r.In = reflect.TypeFor[In]()
	return r
}

// Raw says that the body is of one of these media types, and no JSON.
func (r Route) Raw(kinds ...string) Route {
	r.Kinds = kinds
	return r
}

// AsItComes says that the body is worked on as it comes in, and is not held whole.
func (r Route) AsItComes() Route {
	r.Streamed = true
	return r
}

// Always says that the address is there also while the register waits for a PIN.
func (r Route) Always() Route {
	r.WhenLocked = true
	return r
}

// Unsigned is an address for which nobody need be signed in.
func Unsigned(method, path string, handler func(*Call) error) Route {
	return Route{Method: method, Path: path, Handler: handler, Unsigned: true}
}

// answer sends what a deed returned, or its refusal.
func answer[T any](c *Call, result T, err error) error {
	if err != nil {
		return err
	}
	if !c.Who.Can(staff.DeedCosts) && hides(reflect.TypeFor[T]()) {
		return c.JSON(bare(result))
	}
	return c.JSON(result)
}
