package kit

import (
	"bufio"
	"errors"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/sheet"
)

// TestAFileIsSentWhileItIsWritten: its first part comes before it is whole, what goes wrong at once is a refusal, and
// what goes wrong later breaks the connection off; whoever writes is told when nobody takes it any more.
func TestAFileIsSentWhileItIsWritten(t *testing.T) {
	app := fiber.New()
	goOn, ended := make(chan bool), make(chan error, 9)
	part := strings.Repeat("a line of a list\n", chunk/16)
	writers := map[string]func(c *Call, w *bufio.Writer) error{
		"whole": func(c *Call, w *bufio.Writer) error {
			_, err := w.WriteString(part)
			<-goOn
			return errors.Join(err, func() error { _, err := w.WriteString("end " + c.Query("as")); return err }())
		},
		"refused": func(*Call, *bufio.Writer) error { return errors.New("refused") },
		"broken": func(_ *Call, w *bufio.Writer) error {
			_, err := w.WriteString(part)
			return errors.Join(err, errors.New("broken"))
		},
		"faulty": func(*Call, *bufio.Writer) error { panic("a fault") },
		"endless": func(_ *Call, w *bufio.Writer) error {
			for {
				if _, err := w.WriteString(part); err != nil {
					return err
				}
			}
		},
	}
	app.Get("/:name", func(c fiber.Ctx) error {
		write := writers[c.Params("name")]
		call := &Call{Ctx: c, end: func() {}}
		return call.File("list", sheet.CSV, func(w *bufio.Writer) error {
			err := write(call, w)
			ended <- err
			return err
		})
	})
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = app.Shutdown() })
	get := func(name string) *http.Response {
		answer, err := http.Get("http://" + listener.Addr().String() + "/" + name + "?as=it+was+asked")
		require.NoError(t, err)
		return answer
	}

	answer := get("whole")
	first := make([]byte, 100)
	_, err = io.ReadFull(answer.Body, first)
	require.NoError(t, err, "it comes before the rest is written")
	close(goOn)
	rest, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	assert.Equal(t, part+"end it was asked", string(first)+string(rest))
	assert.NoError(t, <-ended)
	assert.Contains(t, answer.Header.Get("Content-Disposition"), "list.csv")

	for _, name := range []string{"refused", "faulty"} {
		answer = get(name)
		assert.Equal(t, http.StatusInternalServerError, answer.StatusCode, name)
		assert.Empty(t, answer.Header.Get("Content-Disposition"), name)
	}
	answer = get("broken")
	_, err = io.ReadAll(answer.Body)
	assert.Error(t, err, "a part is not taken for the whole")
	answer = get("endless")
	_, err = io.ReadFull(answer.Body, first)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	for err := range ended {
		if errors.Is(err, io.ErrClosedPipe) {
			return
		}
	}
}
