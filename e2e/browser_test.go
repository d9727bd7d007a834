// Package e2e does whole jobs in a real browser, as a person does them.
package e2e

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"regexp"
	"runtime/debug"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
	"itemrack/web"
	"itemrack/web/kit"
)

//go:embed third_party/axe.min.js
var axe string

var browser *rod.Browser

// scratch is a folder of the tests of this package, which goes with them.
var scratch string

// TestMain starts one browser for the package.
func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	var err error
	if scratch, err = os.MkdirTemp("", "itemrack-e2e"); err != nil {
		panic(err)
	}
	l := launcher.New().Bin("/usr/bin/chromium-headless-shell").Headless(true).NoSandbox(true).Leakless(false).
		UserDataDir(filepath.Join(scratch, "browser")).
		Set("disable-background-networking").Set("disable-component-update").Set("disable-sync").Set("no-first-run").
		Set("disable-gpu").Set("force-prefers-reduced-motion").
		// pages side by side are each as quick as a page alone
		Set("disable-background-timer-throttling").Set("disable-backgrounding-occluded-windows").
		Set("disable-renderer-backgrounding").
		Set("disable-extensions").Set("proxy-server", "127.0.0.1:9").Set("proxy-bypass-list", "127.0.0.1")
	address, err := l.Launch()
	if err != nil {
		panic(err)
	}
	browser = rod.New().ControlURL(address)
	if err := browser.Connect(); err != nil {
		panic(err)
	}
	code := m.Run()
	_ = browser.Close()
	l.Kill()
	l.Cleanup()
	_ = os.RemoveAll(scratch)
	os.Exit(code)
}

// serve serves a shop on a free port and returns its address.
func serve(t testing.TB, s *testkit.Shop) string {
	t.Helper()
	return cuttable(t, s).base()
}

// cutServer is a server that can be away for a while, and come back at the same address.
type cutServer struct {
	t    testing.TB
	s    *testkit.Shop
	at   string
	stop func()
}

// cuttable serves a shop on a free port until the line is cut.
func cuttable(t testing.TB, s *testkit.Shop) *cutServer {
	t.Helper()
	c := &cutServer{t: t, s: s, at: "127.0.0.1:0", stop: func() {}}
	c.up()
	t.Cleanup(func() { c.stop() })
	return c
}

func (c *cutServer) base() string { return "http://" + c.at }

func (c *cutServer) up() {
	c.t.Helper()
	app, err := web.New(c.s.Shop, kit.Config{})
	require.NoError(c.t, err)
	bare, err := net.Listen("tcp", c.at)
	require.NoError(c.t, err)
	listener := &line{Listener: bare}
	c.at = listener.Addr().String()
	ended := make(chan error, 1)
	go func() { ended <- app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	c.stop = func() {
		ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
		defer cancel()
		// a browser holds lines open on which it never asked anything: they are cut
		if err := app.ShutdownWithContext(ctx); !errors.Is(err, context.DeadlineExceeded) {
			require.NoError(c.t, err)
		}
		listener.cut()
		require.NoError(c.t, <-ended)
		c.stop = func() {}
	}
}

// line is a listener that knows what came over it, so that it can be cut.
type line struct {
	net.Listener
	sync.Mutex
	open []net.Conn
}

// Accept takes a connection.
func (l *line) Accept() (net.Conn, error) {
	conn, err := l.Listener.Accept()
	if err == nil {
		l.Lock()
		l.open = append(l.open, conn)
		l.Unlock()
	}
	return conn, err
}

// cut ends all connections.
func (l *line) cut() {
	l.Lock()
	defer l.Unlock()
	for _, conn := range l.open {
		_ = conn.Close()
	}
}

// person is somebody at a browser.
type person struct {
	*rod.Page
	t    testing.TB
	base string
}

// long is how long a test may take with a page; a benchmark takes its time.
func long(t testing.TB) time.Duration {
	if _, bench := t.(*testing.B); bench {
		return time.Hour
	}
	return 400 * time.Second
}

// sit gives a person a browser window of a size, not signed in.
func sit(t testing.TB, base string, width, height int) *person {
	t.Helper()
	private, err := browser.Incognito()
	require.NoError(t, err)
	page, err := private.Page(proto.TargetCreateTarget{URL: "about:blank"})
	require.NoError(t, err)
	t.Cleanup(func() { _ = private.Close() })
	// what goes wrong in the browser fails this test alone, so that the browser is closed
	page = page.Timeout(long(t)).WithPanic(func(wrong any) { t.Fatalf("%v\n%s", wrong, debug.Stack()) })
	// a page with something typed asks before it is left: a test that leaves it means to
	go page.EachEvent(func(e *proto.PageJavascriptDialogOpening) {
		_ = proto.PageHandleJavaScriptDialog{Accept: true}.Call(page)
	})()
	p := &person{Page: page, t: t, base: base}
	p.MustSetViewport(width, height, 1, width < 500)
	// each page has the caret, as if it were the only one
	require.NoError(t, proto.EmulationSetFocusEmulationEnabled{Enabled: true}.Call(page))
	return p
}

// as signs a person in.
func (p *person) as(login string) *person {
	p.t.Helper()
	p.open("/login")
	p.MustElement("#login").MustInput(login)
	p.MustElement("#password").MustInput(testkit.Password)
	p.leave(func() { p.keys(input.Enter) })
	return p
}

// open goes to a page.
func (p *person) open(path string) {
	p.t.Helper()
	for try := 0; ; try++ { // a page that is still on its way aborts this one
		err := p.Navigate(p.base + path)
		if err == nil {
			break
		}
		if !strings.Contains(err.Error(), "ERR_ABORTED") || try == 20 {
			p.t.Fatalf("%s: %v", path, err)
		}
		time.Sleep(100 * time.Millisecond)
	}
	p.MustWaitLoad()
	p.MustElement("main")
}

// leave does something that brings another page, and waits until the mark that it
// leaves on this one is gone.
func (p *person) leave(do func()) {
	p.t.Helper()
	p.MustEval("() => { window.leaving = true }")
	do()
	end := time.Now().Add(30 * time.Second)
	for time.Now().Before(end) { // a page on its way may never answer
		if gone, err := p.Timeout(time.Second).Eval("() => !window.leaving && document.readyState === 'complete'"); err == nil &&
			gone.Value.Bool() {
			return
		}
		time.Sleep(10 * time.Millisecond)
	}
	p.t.Fatalf("%s was not left; it says: %s", p.MustInfo().URL, p.said())
}

// keys presses keys one after another.
func (p *person) keys(keys ...input.Key) {
	p.t.Helper()
	for _, k := range keys {
		p.Keyboard.MustType(k)
	}
}

// chord presses a key while Ctrl is held.
func (p *person) ctrlEnter() { p.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo() }

// types writes where the caret is.
func (p *person) types(text string) {
	p.t.Helper()
	for _, r := range text {
		p.Keyboard.MustType(input.Key(r))
	}
}

// scan is a wedge scanner: keys in a burst, then Enter. They come in one go, so
// that a busy machine does not make a slow scanner of it; TestTheScanLine types
// them one by one.
func (p *person) scan(code string) {
	p.t.Helper()
	if p.MustEval(`() => document.activeElement.id === "scan"`).Bool() { // the caret waits there already
		p.types(code)
		p.keys(input.Enter)
		return
	}
	p.MustEval(
		`code => { for (const key of [...code, "Enter"]) document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true })) }`,
		code)
}

// fill writes into a field in place of what it holds, and leaves it.
func (p *person) fill(selector, text string) {
	p.t.Helper()
	var err error
	for range 60 { // the page may draw the field anew meanwhile
		if err = p.write(selector, text); err == nil {
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
	p.t.Fatalf("%s could not be filled with %q: %v", selector, text, err)
}

func (p *person) write(selector, text string) error {
	e, err := p.Element(selector)
	if err != nil {
		return err
	}
	e = e.Timeout(3 * time.Second) // a field that was drawn anew never comes to rest
	if err := e.SelectAllText(); err != nil {
		return err
	}
	return e.Input(text) // tells the page of the change, too
}

// focus puts the caret somewhere.
func (p *person) focus(selector string) {
	p.t.Helper()
	p.MustElement(selector)
	p.MustEval("s => document.querySelector(s).focus()", selector)
}

// choose takes an option of a select by its text.
func (p *person) choose(selector, option string) {
	p.t.Helper()
	p.MustElement(selector).MustSelect(option)
}

// sees waits until an element holds a text.
func (p *person) sees(selector, text string) {
	p.t.Helper()
	got := ""
	end := time.Now().Add(10 * time.Second)
	for time.Now().Before(end) {
		found, err := p.Eval("s => [...document.querySelectorAll(s)].map(e => e.value || e.innerText).join('\\n')",
			selector)
		if err == nil {
			got = found.Value.Str()
			if strings.Contains(strings.Join(strings.Fields(got), " "), text) {
				return
			}
		}
		time.Sleep(40 * time.Millisecond)
	}
	p.t.Fatalf("%s holds %q, not %q, at %s, which says: %s", selector, got, text, p.MustInfo().URL, p.said())
}

// said is what the page says of what was done.
func (p *person) said() string {
	return p.MustEval("() => [...document.querySelectorAll('.field-error, #said')].map((e) => e.innerText).join(' ')").
		Str()
}

// until waits until a function of the page gives true. It asks now and then: a page that is asked at every frame draws
// every frame.
func (p *person) until(js string, args ...any) {
	p.t.Helper()
	end := time.Now().Add(60 * time.Second)
	for time.Now().Before(end) {
		if found, err := p.Eval(js, args...); err == nil && found.Value.Bool() {
			return
		}
		time.Sleep(30 * time.Millisecond)
	}
	p.t.Fatalf("%s never came true at %s, which says: %s", js, p.MustInfo().URL, p.said())
}

// misses waits until an element holds a text no more.
func (p *person) misses(selector, text string) {
	p.t.Helper()
	p.until(`(s, text) => ![...document.querySelectorAll(s)].some((e) => e.innerText.includes(text))`, selector,
		text)
}

// text is what an element says.
func (p *person) text(selector string) string {
	p.t.Helper()
	return strings.Join(strings.Fields(p.MustElement(selector).MustText()), " ")
}

// checked is what of each page was held against axe: its kinds of element, in a theme, by rules.
var checked struct {
	sync.Mutex
	seen map[string]bool
}

// fresh reports whether a page has an element of a kind that was not held against rules on such a page yet.
func (p *person) fresh(rules []string) bool {
	p.t.Helper()
	kinds := p.MustEval(`() => [...new Set([...document.body.querySelectorAll("*")].filter((e) => e.checkVisibility()).map((e) =>
		[e.tagName, ...[...e.classList].sort(), e.getAttribute("role"), e.type, e.disabled].join(" ")))]`).Arr()
	page := digits.ReplaceAllString(p.MustEval(`() => location.pathname + " " + document.documentElement.dataset.theme`).Str(),
		"0") + strings.Join(rules, " ")
	checked.Lock()
	defer checked.Unlock()
	if checked.seen == nil {
		checked.seen = map[string]bool{}
	}
	fresh := false
	for _, kind := range kinds {
		key := page + " " + kind.Str()
		fresh = fresh || !checked.seen[key]
		checked.seen[key] = true
	}
	return fresh
}

var digits = regexp.MustCompile(`[0-9]+`)

// accessible fails the test when axe finds something on the page; rules names those
// to hold the page against, none for all. A page on which there is nothing new is not looked at again.
func (p *person) accessible(rules ...string) {
	p.t.Helper()
	if !p.fresh(rules) {
		return
	}
	if !p.MustEval("() => Boolean(window.axe)").Bool() {
		_, err := p.Evaluate(&rod.EvalOptions{JS: "() => {" + axe + "}", ByValue: true})
		require.NoError(p.t, err)
	}
	found, err := p.Evaluate(
		rod.Eval(`rules => axe.run(document, {resultTypes: ['violations'], preload: false, ...(rules.length ? {runOnly: rules} : {})}).then(r => r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.failureSummary + ' ' + n.html.slice(0, 160))).join('\n\n'))`, append([]string{}, rules...)).
			ByPromise(),
	)
	require.NoError(p.t, err)
	if said := found.Value.Str(); said != "" {
		p.t.Errorf("%s is not accessible:\n%s", p.MustInfo().URL, said)
	}
}

// fits fails the test when the page is wider than the window.
func (p *person) fits() {
	p.t.Helper()
	wide := p.MustEval("() => document.documentElement.scrollWidth - innerWidth").Int()
	if wide > 0 {
		p.t.Errorf("%s is %d px too wide", p.MustInfo().URL, wide)
	}
}

// cell is a cell of a rack, by its label.
func cell(label string) string { return fmt.Sprintf(`.rack-cell[aria-label^="%s"]`, label) }
