package kit

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
)

// Bounds of what comes in. Lists and pictures for them are streamed, and bounded by the
// deed that takes them.
const (
	bodyLimit = 25 << 20         // the largest request that is held whole, in bytes
	formLimit = 64 << 10         // that of somebody who is not signed in yet
	idle      = 30 * time.Second // how long a request may stand still
	drained   = 64 << 10         // so much that nobody wanted is read, to keep the connection
)

// incoming is the body of a request as it comes in. It may be slow, but not stand still.
// What is cut off before its end is an error, however long it was said to be.
type incoming struct {
	body   io.Reader
	conn   net.Conn
	length int // as it was said; −1 when it was not
	got    int
	ended  bool
	last   bool // nothing is read on this connection any more
}

// Read reads on.
func (b *incoming) Read(into []byte) (int, error) {
	if b.ended {
		return 0, io.EOF
	}
	if b.conn != nil {
		_ = b.conn.SetReadDeadline(time.Now().Add(idle))
	}
	n, err := b.body.Read(into)
	b.got += n
	if errors.Is(err, io.EOF) && (b.length >= 0 && b.got == b.length || b.length < 0 && !b.hungUp()) {
		b.ended = true
		return n, io.EOF
	}
	if err != nil {
		return n, fault.Field("body", b.got, "the whole of it",
			"The request was cut off after %d bytes; nothing of it was kept.", b.got)
	}
	return n, nil
}

// hungUp reports whether the other side is gone: a body in chunks that was cut off between two
// of them ends like one that is complete. What comes behind it is not looked at; the
// connection ends with the answer.
func (b *incoming) hungUp() bool {
	b.last = true
	_ = b.conn.SetReadDeadline(time.Now().Add(30 * time.Millisecond))
	n, err := b.conn.Read(make([]byte, 1))
	return n == 0 && errors.Is(err, io.EOF)
}

// incomingOf is the body of a request, the same one each time.
func incomingOf(c fiber.Ctx) *incoming {
	if b, ok := c.Locals("incoming").(*incoming); ok {
		return b
	}
	b := &incoming{body: bytes.NewReader(nil), ended: true}
	if stream := c.RequestCtx().RequestBodyStream(); stream != nil {
		b = &incoming{body: stream, conn: c.RequestCtx().Conn(), length: max(c.Request().Header.ContentLength(), -1)}
	}
	c.Locals("incoming", b)
	return b
}

// whole reads the body of a request, up to a bound, into memory.
func whole(c fiber.Ctx, most int) error {
	if !c.Request().IsBodyStream() {
		return nil
	}
	b := incomingOf(c)
	tooLong := fault.Field("body", c.Request().Header.ContentLength(), size(most)+" or less",
		"The request is larger than %s.", size(most))
	if b.length > most {
		return tooLong
	}
	data, err := io.ReadAll(io.LimitReader(b, int64(most)+1))
	if err != nil {
		return err
	}
	if len(data) > most {
		return tooLong
	}
	if !b.ended { // it is as long as the bound
		if n, err := b.Read(make([]byte, 1)); n > 0 || !errors.Is(err, io.EOF) {
			return tooLong
		}
	}
	c.Request().SetBody(data)
	return nil
}

func size(bytes int) string {
	if bytes < 1<<20 {
		return fmt.Sprintf("%d kB", bytes>>10)
	}
	return fmt.Sprintf("%d MB", bytes>>20)
}

// guardBodies holds what comes in within bounds, however it comes: nothing is unpacked,
// forms are small, lengths agree. What a handler leaves of a body is never taken for the
// next request: it is read to a bound, or the connection ends.
func guardBodies(c fiber.Ctx) error {
	err := checkBody(c)
	if err == nil {
		err = c.Next()
	}
	b, read := c.Locals("incoming").(*incoming)
	if read && b.last {
		c.Response().Header.SetConnectionClose()
	}
	if !c.Request().IsBodyStream() {
		return err
	}
	b = incomingOf(c)
	if b.length >= 0 && b.length-b.got <= drained {
		_, _ = io.CopyN(io.Discard, b, drained+1)
	}
	if !b.ended {
		c.Response().Header.SetConnectionClose()
	}
	return err
}

func checkBody(c fiber.Ctx) error {
	head := &c.Request().Header
	if packed := c.Get(fiber.HeaderContentEncoding); packed != "" && !strings.EqualFold(packed, "identity") {
		return fiber.NewError(http.StatusUnsupportedMediaType, "Send the request as it is, not packed")
	}
	if head.ContentLength() == -1 && len(head.Peek(fiber.HeaderContentLength)) > 0 || blankInName(head.RawHeaders()) {
		c.Response().Header.SetConnectionClose()
		return fiber.NewError(http.StatusBadRequest, "The heads of the request contradict each other")
	}
	kind := string(head.ContentType())
	switch {
	case strings.HasPrefix(kind, fiber.MIMEMultipartForm):
		return fiber.NewError(http.StatusUnsupportedMediaType, "Send a file as the body itself, not in a form")
	case strings.HasPrefix(kind, fiber.MIMEApplicationForm):
		return whole(c, formLimit)
	}
	return nil
}

// blankInName reports whether the name of a head has a blank in it, by which two programs
// could read two different lengths.
func blankInName(heads []byte) bool {
	for line := range bytes.Lines(heads) {
		if name, _, ok := bytes.Cut(line, []byte(":")); ok && bytes.ContainsAny(name, " \t") {
			return true
		}
	}
	return false
}

// sameOrigin refuses what another site has a browser send. Programs with a token are not
// asked: nobody else has it.
func sameOrigin(c fiber.Ctx) error {
	if c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead || bearer(c) != "" {
		return c.Next()
	}
	refused := &fault.Error{Kind: fault.Forbidden, Field: "Origin", Want: "the shop's own pages",
		Detail: "The request did not come from one of the shop's pages."}
	// the browser itself says; a page that names no referrer has no origin
	if site := c.Get("Sec-Fetch-Site"); site != "" {
		if site != "same-origin" && site != "none" {
			return refused
		}
		return c.Next()
	}
	if origin := c.Get(fiber.HeaderOrigin); origin != "" {
		if from, err := url.Parse(origin); err != nil || from.Host != c.Host() {
			return refused
		}
	}
	return c.Next()
}

// unkept says that answers are not to be kept by anybody, unless their handler says more.
func unkept(c fiber.Ctx) error {
	c.Set(fiber.HeaderCacheControl, "no-store")
	return c.Next()
}

// known finds out who asks, before anything of the request is read.
func (s *Server) known(c fiber.Ctx) error {
	ctx, cancel := context.WithTimeout(context.Background(), deadline)
	defer cancel()
	who, err := s.identify(ctx, c)
	if err != nil {
		return err
	}
	c.Locals("who", who)
	return c.Next()
}
