package kit

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"maps"

	"github.com/gofiber/fiber/v3"

	"itemrack/sheet"
)

// chunk is how much of a file is gathered before it is sent.
const chunk = 64 << 10

// File sends a file while it is written, for as long as that takes; what it takes of memory does not grow with it. What
// goes wrong before the first of it is sent is answered as any refusal; later the connection is broken off, so that
// nobody takes a part for the whole. Write goes on when the request's handler is done: of the request it may ask for
// nothing but what the address says.
func (c *Call) File(name string, format sheet.Format, write func(w *bufio.Writer) error) error {
	request := c.Ctx
	request.Set(fiber.HeaderContentType, format.Type())
	request.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="%s.%s"`, name, format))
	c.Ctx, c.streams = asked{queries: maps.Clone(request.Queries())}, true
	from, to := io.Pipe()
	go func() {
		defer c.end()
		_ = to.CloseWithError(written(bufio.NewWriterSize(to, chunk), write))
	}()
	body := sending{bufio.NewReaderSize(from, chunk), from}
	if _, err := body.Peek(1); err != nil && !errors.Is(err, io.EOF) {
		request.Response().Reset()
		return err
	}
	request.Response().SetBodyStream(body, -1)
	return nil
}

// written writes a file whole. A fault of the program is an error here as it is within a handler.
func written(w *bufio.Writer, write func(w *bufio.Writer) error) (err error) {
	defer func() {
		if fault := recover(); fault != nil {
			err = fmt.Errorf("a file could not be written: %v", fault)
		}
	}()
	if err := write(w); err != nil {
		return err
	}
	return w.Flush()
}

// sending is a file on its way. Closed, because it is sent or because nobody takes it any more, its writing ends.
type sending struct {
	*bufio.Reader
	from *io.PipeReader
}

// Close ends the writing.
func (s sending) Close() error { return s.from.Close() }

// asked is what is left of a request when its handler is done: what its address asked for.
type asked struct {
	fiber.Ctx
	queries map[string]string
}

// Query is what the address says under a name, or else the value given.
func (a asked) Query(key string, otherwise ...string) string {
	if value, ok := a.queries[key]; ok && value != "" {
		return value
	}
	if len(otherwise) > 0 {
		return otherwise[0]
	}
	return ""
}
