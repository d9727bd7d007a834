package web

import (
	"bytes"
	"encoding/json"
	"io"
	"reflect"

	"itemrack/core/fault"
	"itemrack/shop"
)

// route is one address: who may use it follows from its deed. A route of the API
// also says what it takes and answers, from the types of its handler, and what it
// is for; pages have no doc.
type route struct {
	Method, Path string
	Deed         shop.Deed
	Handler      func(*call) error
	Doc          string
	In, Out      reflect.Type // JSON bodies; nil for none
	Kinds        []string     // media types of a body that is no JSON
	Streamed     bool         // the body is worked on as it comes in
	Unsigned     bool         // nobody need be signed in
}

// page is an address that people open.
func page(method, path string, deed shop.Deed, handler func(*call) error) route {
	return route{Method: method, Path: path, Deed: deed, Handler: handler}
}

// ask is a route of the API that takes no body.
func ask[Out any](method, path string, deed shop.Deed, doc string, work func(c *call) (Out, error)) route {
	return route{Method: method, Path: path, Deed: deed, Doc: doc, Out: reflect.TypeFor[Out](), Handler: func(c *call) error {
		out, err := work(c)
		return answer(c, out, err)
	}}
}

// on is a route of the API about the thing that :id in its path names.
func on[Out any](method, path string, deed shop.Deed, doc string, work func(c *call, id uint64) (Out, error)) route {
	return ask(method, path, deed, doc, func(c *call) (Out, error) {
		id, err := c.number("id")
		if err != nil {
			var none Out
			return none, err
		}
		return work(c, id)
	})
}

// take is a route of the API that takes a JSON body.
func take[In, Out any](method, path string, deed shop.Deed, doc string, work func(c *call, in In) (Out, error)) route {
	r := ask(method, path, deed, doc, func(c *call) (Out, error) {
		var in In
		if err := c.read(&in); err != nil {
			var none Out
			return none, err
		}
		return work(c, in)
	})
	r.In = reflect.TypeFor[In]()
	return r
}

// takeOn is a route of the API that takes a JSON body for the thing that :id in
// its path names.
func takeOn[In, Out any](method, path string, deed shop.Deed, doc string, work func(c *call, id uint64, in In) (Out, error)) route {
	return take(method, path, deed, doc, func(c *call, in In) (Out, error) {
		id, err := c.number("id")
		if err != nil {
			var none Out
			return none, err
		}
		return work(c, id, in)
	})
}

// raw says that the body is of one of these media types, and no JSON.
func (r route) raw(kinds ...string) route {
	r.Kinds = kinds
	return r
}

// asItComes says that the body is worked on as it comes in, and is not held whole.
func (r route) asItComes() route {
	r.Streamed = true
	return r
}

// unsigned is an address for which nobody need be signed in.
func unsigned(method, path string, handler func(*call) error) route {
	return route{Method: method, Path: path, Handler: handler, Unsigned: true}
}

// answer sends what a deed returned, or its refusal.
func answer[T any](c *call, result T, err error) error {
	if err != nil {
		return err
	}
	return c.JSON(result)
}

// read reads a JSON body strictly: an unknown field is an error that names it. No
// body at all is one in which nothing is said.
func (c *call) read(into any) error {
	if len(c.Body()) == 0 {
		return nil
	}
	decoder := json.NewDecoder(bytes.NewReader(c.Body()))
	decoder.DisallowUnknownFields()
	if err := decoder.Decode(into); err != nil {
		return fault.Field("body", "", "JSON as in /api/v1/openapi.json", "The request can't be read: %v.", err)
	}
	return nil
}

// upload is the body of a request as it came, and the name it was given.
func (c *call) upload() (string, []byte) { return string([]byte(c.Query("name"))), c.Body() }

// stream is the body of a request as it comes in.
func (c *call) stream() io.Reader {
	if stream := c.RequestCtx().RequestBodyStream(); stream != nil {
		return stream
	}
	return bytes.NewReader(c.Body())
}

// list is a page of a list, and whether there is another.
type list[T any] struct {
	Items []T  `json:"items"`
	More  bool `json:"more"`
}

// listOf is a page of a list, empty rather than null where nothing is in it.
func listOf[T any](rows []T, more bool) list[T] {
	if rows == nil {
		rows = []T{}
	}
	return list[T]{rows, more}
}
