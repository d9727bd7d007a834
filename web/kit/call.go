package kit

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/url"
	"reflect"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
)

// Q reads from the database while the request lasts.
func (c *Call) Q() store.Q {
	if c.read == nil {
		q := c.Shop.Store.Read(c.Until)
		c.read = &q
	}
	return *c.read
}

// Text reads a text in the path, copied: Fiber takes its memory back after the
// request.
func (c *Call) Text(name string) string {
	raw := c.Params(name)
	if plain, err := url.PathUnescape(raw); err == nil {
		return string([]byte(plain))
	}
	return string([]byte(raw))
}

// ProductOf reads the product that the address names.
func (c *Call) ProductOf() (goods.ProductView, error) {
	id, err := c.Number("id")
	if err != nil {
		return goods.ProductView{}, err
	}
	return goods.ReadProduct(c.Q(), id, c.Who.Branch, c.Shop.Now())
}

func VariantsOf(p goods.ProductView) []uint64 {
	ids := make([]uint64, len(p.Variants))
	for i, v := range p.Variants {
		ids[i] = v.ID
	}
	return ids
}

func FigureText(d *decimal.Decimal) string {
	if d == nil {
		return ""
	}
	return d.String()
}

func (c *Call) Pdf(name string, data []byte) error {
	c.Set(fiber.HeaderContentType, "application/pdf")
	c.Set(fiber.HeaderContentDisposition, `inline; filename="`+name+`"`)
	return c.Ctx.Send(data)
}

// Read reads a JSON body strictly: an unknown field is an error that names it, and so
// is anything behind the body.
func (c *Call) Read(into any) error {
	decoder := json.NewDecoder(bytes.NewReader(c.Body()))
	decoder.DisallowUnknownFields()
	err := decoder.Decode(into)
	if err == nil && decoder.More() {
		err = errors.New("there is more behind it")
	}
	var other *json.UnmarshalTypeError
	if errors.As(err, &other) && other.Field != "" {
		return otherKind(other, c.Body())
	}
	if err != nil {
		return fault.Field("body", "", "JSON as in /api/v1/openapi.json", "The request can't be read: %v.", err)
	}
	return nil
}

// kindNames say what a field takes, for a person.
var kindNames = map[reflect.Kind]string{reflect.Bool: "true or false", reflect.String: "a text",
	reflect.Slice:  "a list",
	reflect.Struct: "an object", reflect.Map: "an object", reflect.Float64: "a number"}

// otherKind names the field that holds something of another kind than it takes, and what it holds.
func otherKind(err *json.UnmarshalTypeError, body []byte) error {
	want := kindNames[err.Type.Kind()]
	switch kind := err.Type.Kind(); {
	case want != "":
	case kind >= reflect.Uint && kind <= reflect.Uint64:
		want = "a whole number from 0 on"
	default:
		want = "a whole number"
	}
	var fields map[string]json.RawMessage
	_ = json.Unmarshal(body, &fields) // a field of a line is named, and not shown
	held := strings.Trim(string(fields[err.Field]), `"`)
	if held == "" || len(held) > 60 {
		return fault.Field(err.Field, held, want, "%s takes %s.", err.Field, want)
	}
	return fault.Field(err.Field, held, want, "“%s” is not %s.", held, want)
}

// Upload is the body of a request as it came, and the name it was given.
func (c *Call) Upload() (string, []byte) { return string([]byte(c.Query("name"))), c.Body() }

// Stream is the body of a request as it comes in.
func (c *Call) Stream() io.Reader {
	if c.Request().IsBodyStream() {
		return incomingOf(c.Ctx)
	}
	return bytes.NewReader(c.Body())
}

// Number reads a number in the path.
func (c *Call) Number(name string) (uint64, error) {
	n := fiber.Params[uint64](c.Ctx, name)
	if n == 0 {
		return 0, fault.Missing(name, c.Params(name), "There is no page for %q.", c.Params(name))
	}
	return n, nil
}

// Key is the request key that the client sent.
func (c *Call) Key() string { return c.Get("Idempotency-Key") }

// DeviceClock is what the clock of the device shows that asks, in milliseconds since 1970 UTC.
func (c *Call) DeviceClock() (int64, error) {
	ms, err := strconv.ParseInt(c.Get("Device-Clock"), 10, 64)
	if err != nil {
		return 0, fault.Field("Device-Clock", c.Get("Device-Clock"), "milliseconds since 1970",
			"What the device's clock shows now is not told in the header Device-Clock.")
	}
	return ms, nil
}

// personField is the header, and the field of a refusal, that says whose a request is.
const personField = "Person"

// isOf refuses a request that was made for somebody else than who is signed in by now.
func isOf(c fiber.Ctx, who staff.Actor) error {
	of := c.Get(personField)
	if of == "" || of == strconv.FormatUint(who.ID, 10) {
		return nil
	}
	return fault.Clash(strings.ToLower(personField), of, "the person whose it is signed in",
		"Somebody else did that, and %s is signed in now.", who.Name)
}

// Deed is what the request asks for: done by who asks, under the request's key.
func (c *Call) Deed() deed.Deed {
	do := deed.By(c.Until, c.Shop, c.Who, c.Key())
	if basket, err := strconv.ParseUint(c.Get("Basket"), 10, 64); err == nil {
		do.Shown = &basket
	}
	return do
}

// Call is one request: who asks, and until when the answer matters.
type Call struct {
	fiber.Ctx
	Shop   *deed.Shop
	Who    staff.Actor
	Terms  terms.Terms // of the shop; deeds that programs ask for read their own
	Until  context.Context
	server *Server
	read   *store.Q

	streams bool   // its answer is still written when its handler is done
	end     func() // ends Until
}

// Optional is a figure as a cell; nil where there is none.
func Optional(d *decimal.Decimal) any {
	if d == nil {
		return nil
	}
	return *d
}

func Deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
