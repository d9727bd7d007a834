package web

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
	"itemrack/web/kit"
)

// listening serves a shop on a port, for requests that no client would send.
func listening(t *testing.T, s *testkit.Shop) string {
	t.Helper()
	app, err := New(s.Shop, kit.Config{})
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	ended := make(chan error, 1)
	go func() { ended <- app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() {
		ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		require.NoError(t, app.ShutdownWithContext(ctx))
		require.NoError(t, <-ended)
	})
	return listener.Addr().String()
}

// sent writes raw bytes on one connection and returns the answers that come until it ends,
// or nothing more comes.
func sent(t *testing.T, address, raw string) []*http.Response {
	t.Helper()
	conn, err := net.Dial("tcp", address)
	require.NoError(t, err)
	defer conn.Close()
	_, _ = conn.Write([]byte(raw)) // the other side may end it before all is written
	reader := bufio.NewReader(conn)
	var answers []*http.Response
	for {
		_ = conn.SetReadDeadline(time.Now().Add(700 * time.Millisecond))
		answer, err := http.ReadResponse(reader, nil)
		if err != nil {
			return answers
		}
		_, _ = io.Copy(io.Discard, answer.Body)
		answers = append(answers, answer)
	}
}

// TestWhatIsLeftOfABodyIsNoRequest hides a request in the body of one that is refused before
// it is read, in every way in which a body can come.
func TestWhatIsLeftOfABodyIsNoRequest(t *testing.T) {
	s := testkit.New(t)
	address := listening(t, s)
	hidden := "GET /healthz HTTP/1.1\r\nHost: x\r\n\r\n"
	long := strings.Repeat(" ", 200<<10) + hidden
	for name, raw := range map[string]string{
		"a short body": fmt.Sprintf("POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\n"+
			"Content-Length: %d\r\n\r\n%s", len(hidden), hidden),
		"a long body": fmt.Sprintf("POST /api/v1/imports HTTP/1.1\r\nHost: x\r\nContent-Length: %d\r\n\r\n%s",
			len(long), long),
		"in chunks": fmt.Sprintf("POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: "+
			"chunked\r\n\r\n%x\r\n%s\r\n0\r\n\r\n",
			len(hidden), hidden),
		"with a look": fmt.Sprintf("GET /login HTTP/1.1\r\nHost: x\r\nContent-Length: %d\r\n\r\n%s", len(hidden),
			hidden),
		"to nowhere": fmt.Sprintf("POST /nowhere HTTP/1.1\r\nHost: x\r\nContent-Length: %d\r\n\r\n%s", len(long),
			long),
		"two lengths": fmt.Sprintf("POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nContent-Length: "+
			"5\r\nContent-Length: %d\r\n\r\n%s",
			len(hidden), hidden),
		"a length and chunks": fmt.Sprintf("POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nContent-Length: "+
			"5\r\nTransfer-Encoding: "+
			"chunked\r\n\r\n0\r\n\r\n%s", hidden),
		"chunks and a length": fmt.Sprintf("POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n"+
			"Content-Length: 5\r\n\r\n0\r\n\r\n%s", hidden),
		"a blank in the name": fmt.Sprintf("POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nContent-Length : %d\r\n\r\n%s",
			len(hidden),
			hidden),
		"a head out of form": "POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nNo colon here\r\n\r\n" + hidden,
	} {
		answers := sent(t, address, raw)
		assert.LessOrEqual(t, len(answers), 1, name)
		for _, a := range answers {
			assert.GreaterOrEqual(t, a.StatusCode, 200, name)
			assert.NotEqual(t, "application/json", strings.TrimSuffix(a.Header.Get("Content-Type"), "; charset=utf-8"),
				"%s: healthz answered", name)
		}
	}
	kept := sent(t, address, strings.Repeat(
		"POST /api/v1/sales HTTP/1.1\r\nHost: x\r\nContent-Length: 2\r\n\r\n{}", 3))
	assert.Len(t, kept, 3, "a connection whose bodies end goes on")
}

// TestBodiesAreBounded however they come, and read by nobody before sign-in.
func TestBodiesAreBounded(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	c.signIn("maren")
	var packed bytes.Buffer
	w := gzip.NewWriter(&packed)
	_, err := w.Write(bytes.Repeat([]byte(" "), 64<<20))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	status, _ := c.json("POST", "/api/v1/products", packed.String(), "Content-Encoding", "gzip")
	assert.Equal(t, http.StatusUnsupportedMediaType, status, "nothing is unpacked")
	status, body := c.json("POST", "/api/v1/products", strings.Repeat(" ", 26<<20)+"{}")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "larger than 25 MB")
	status, _ = c.send("POST", "/login", "multipart/form-data; boundary=x", "--x--")
	assert.Equal(t, http.StatusUnsupportedMediaType, status)
	status, _ = newClient(t, s).send("POST", "/login", "application/x-www-form-urlencoded",
		"login="+strings.Repeat("x", 70<<10))
	assert.Equal(t, http.StatusUnprocessableEntity, status)

	address := listening(t, s)
	conn, err := net.Dial("tcp", address) // says much, sends little: it is answered at once
	require.NoError(t, err)
	defer conn.Close()
	_, err = fmt.Fprint(conn, "POST /api/v1/imports?kind=catalog HTTP/1.1\r\nHost: x\r\nContent-Length: "+
		"300000000\r\n\r\n"+strings.Repeat("product\n", 1100))
	require.NoError(t, err)
	require.NoError(t, conn.SetReadDeadline(time.Now().Add(5*time.Second)))
	answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
	require.NoError(t, err)
	assert.Equal(t, http.StatusUnauthorized, answer.StatusCode)
	assert.True(t, answer.Close)
}

// TestACutUploadIsRefused, and nothing of it kept.
func TestACutUploadIsRefused(t *testing.T) {
	s := testkit.New(t)
	c := manager(t, s)
	rows := "product,category\n" + strings.Repeat("Whistle,Swim\n", 1000)
	for _, head := range []string{"Content-Length: 500000\r\n\r\n" + rows, "Content-Length: 500\r\n\r\nproduct\n",
		fmt.Sprintf("Transfer-Encoding: chunked\r\n\r\n%x\r\n%s\r\n", len(rows), rows),
		fmt.Sprintf("Transfer-Encoding: chunked\r\n\r\n%x\r\n%s", len(rows)+9, rows)} {
		address := listening(t, s)
		conn, err := net.Dial("tcp", address)
		require.NoError(t, err)
		_, err = fmt.Fprintf(conn, "POST /api/v1/imports?kind=catalog&name=x.csv HTTP/1.1\r\nHost: "+
			"x\r\nAuthorization: Bearer %s\r\n%s",
			c.token, head)
		require.NoError(t, err)
		require.NoError(t, conn.(*net.TCPConn).CloseWrite())
		answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
		require.NoError(t, err)
		said, _ := io.ReadAll(answer.Body)
		assert.GreaterOrEqual(t, answer.StatusCode, 400, string(said))
		assert.Contains(t, answer.Header.Get("Content-Type"), "json")
		require.NoError(t, conn.Close())
	}
	for id := range 3 {
		_, list := c.get(fmt.Sprint("/api/v1/imports/", id+1))
		assert.NotContains(t, list, `"state":"ready"`)
	}
	address := listening(t, s)
	whole := sent(t, address, fmt.Sprintf("POST /api/v1/imports?kind=catalog&name=x.csv HTTP/1.1\r\nHost: "+
		"x\r\nAuthorization: "+
		"Bearer %s\r\nTransfer-Encoding: chunked\r\n\r\n%x\r\n%s\r\n0\r\n\r\n", c.token, len(rows), rows))
	require.Len(t, whole, 1)
	assert.Equal(t, http.StatusOK, whole[0].StatusCode, "one in chunks that is complete is kept")
}

// TestAnswersAreNotKept by anybody, and looks leave nothing behind.
func TestAnswersAreNotKept(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	c := manager(t, s)
	address := listening(t, s)
	ask := func(method, path string) *http.Response {
		request, err := http.NewRequest(method, "http://"+address+path, nil)
		require.NoError(t, err)
		request.Header.Set("Authorization", "Bearer "+c.token)
		answer, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		_, _ = io.Copy(io.Discard, answer.Body)
		require.NoError(t, answer.Body.Close())
		return answer
	}
	for _, path := range []string{"/api/v1/products", "/api/v1/products/1", "/stock?format=csv", "/catalog/export",
		"/catalog/1",
		"/api/v1/nowhere", "/"} {
		got, head := ask("GET", path), ask("HEAD", path)
		assert.Equal(t, "no-store", got.Header.Get("Cache-Control"), path)
		assert.Equal(t, got.StatusCode, head.StatusCode, path)
		assert.Equal(t, got.Header.Get("Content-Type"), head.Header.Get("Content-Type"), path)
	}
	for _, path := range []string{"/api", "/api/", "/api/v1", "/api/v2/x", "/api/v1/products/x"} {
		for _, method := range []string{"GET", "POST", "DELETE", "PATCH"} {
			request, err := http.NewRequest(method, "http://"+address+path, strings.NewReader("{}"))
			require.NoError(t, err)
			request.Header.Set("Accept", "text/html")
			answer, err := http.DefaultClient.Do(request)
			require.NoError(t, err)
			assert.Contains(t, answer.Header.Get("Content-Type"), "json", "%s %s", method, path)
			require.NoError(t, answer.Body.Close())
		}
	}
	for _, to := range []string{"//evil.example", "/\\evil.example", "/\t/evil.example", "/\r\nSet-Cookie: a=b",
		"https://evil.example",
		"/%0d%0aSet-Cookie:a=b", "/ok?x=1", "javascript:alert(1)", "/x\x00", "\u2028/x"} {
		who := newClient(t, s)
		request, err := http.NewRequest("POST", "http://"+address+"/login", strings.NewReader(
			"login=maren&password="+testkit.Password+"&to="+strings.NewReplacer("%", "%25", "&", "%26", "\r", "%0d",
				"\n", "%0a", "\t",
				"%09", " ", "%20", "\x00", "%00").Replace(to)))
		require.NoError(t, err)
		request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		answer, err := http.DefaultTransport.RoundTrip(request)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		at := answer.Header.Get("Location")
		assert.True(t, strings.HasPrefix(at, "/") && !strings.HasPrefix(at, "//") &&
			!strings.ContainsAny(at, "\\\t\r\n"),
			"%q leads to %q", to, at)
		for _, cookie := range answer.Cookies() {
			assert.Equal(t, "itemrack", cookie.Name)
		}
		assert.Empty(t, who.cookies)
	}
}
