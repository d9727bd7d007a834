package kit

import (
	"embed"
	"errors"
	"log/slog"
	"net/url"
	"strings"
	"unicode/utf8"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/session"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/office"
	storeoffice "itemrack/store/office"
)

//go:embed *.html *.js *.css icon.svg third_party
var files embed.FS

// Shared is what all pages share: the layout, the rail, the rack, and signing out.
var Shared = Place{Pages: []Route{Page("POST", "/logout", staff.DeedLook, (*Call).logout).Always()}, Files: files}

func (c *Call) login() error {
	if empty, err := office.IsEmpty(c.Ctx.Context(), c.Shop); err != nil || empty {
		if err != nil {
			return err
		}
		return c.Redirect().Status(fiber.StatusSeeOther).To("/start")
	}
	return c.Page("login", "", "Sign in", map[string]string{"To": safePath(c.Query("to"))})
}

// SafePath is the address behind ?to=, kept inside the shop's own pages.
func (c *Call) SafePath() string { return safePath(c.Query("to")) }

// safePath keeps a way back inside the shop's own pages: a path of this host, written
// without signs that a browser or a proxy would read as something else.
func safePath(to string) string {
	parsed, err := url.Parse(to)
	if err != nil || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || parsed.IsAbs() ||
		parsed.Host != "" ||
		strings.ContainsFunc(to, func(r rune) bool {
			return r == '\\' || r <= ' ' || r == 0x7f ||
				r == utf8.RuneError
		}) {
		return "/"
	}
	return parsed.String()
}

func (c *Call) signIn() error {
	to := safePath(c.FormValue("to"))
	login := c.FormValue("login")
	who, err := office.SignIn(c.Until, c.Shop, c.server.address(c.Ctx), login, c.FormValue("password"))
	if e := fault.Of(err); e != nil {
		slog.Warn("sign-in refused", "login", text.Cut(login, 60), "address", c.server.address(c.Ctx), "why", e.Detail)
		c.Status(fiber.StatusForbidden)
		return c.Page("login", "", "Sign in",
			map[string]string{"To": to, "Login": login, "Said": e.Detail})
	}
	if err != nil {
		return err
	}
	slog.Info("signed in", "login", text.Cut(login, 60), "address", c.server.address(c.Ctx))
	if err := c.Enter(who); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}

// Enter begins a session for a person.
func (c *Call) Enter(who staff.Actor) error {
	return c.begin(who, false, func(*session.Session) error { return nil })
}

// Change changes who the session is of: somebody came to the register with a PIN.
func (c *Call) Change(who staff.Actor) error { return c.begin(who, false, goesOn) }

// Lock lets the session wait for a PIN.
func (c *Call) Lock() error { return c.begin(c.Who, true, goesOn) }

// Renew keeps the session of somebody whose password or PIN was just changed.
func (c *Call) Renew(who staff.Actor) error {
	if sessionOf(c.Ctx) == "" {
		return nil // a token asked
	}
	who.ByPIN = c.Who.ByPIN
	return c.begin(who, false, goesOn)
}

// goesOn refuses when there is no session that goes on.
func goesOn(current *session.Session) error {
	if current.Get("user") == nil {
		return fault.Refuse("pin", "", "a browser that is signed in", "A program with a token is always itself.")
	}
	return nil
}

// begin begins a session under a new secret, in place of the one that the request came with. One that was ended
// meanwhile does not come back by it.
func (c *Call) begin(who staff.Actor, locked bool, allowed func(*session.Session) error) error {
	current, err := c.server.sessions.Get(c.Ctx)
	if err != nil {
		return err
	}
	defer current.Release()
	if err := allowed(current); err != nil {
		return err
	}
	if !current.Fresh() {
		if err := current.Regenerate(); err != nil {
			return err
		}
	}
	current.Set("user", who.ID)
	current.Set("version", who.Version)
	current.Set("pin", who.ByPIN)
	current.Set("locked", locked)
	return current.Save()
}

func (c *Call) logout() error {
	current, err := c.server.sessions.Get(c.Ctx)
	if err != nil {
		return err
	}
	defer current.Release()
	if err := current.Destroy(); err != nil && !errors.Is(err, storeoffice.ErrNoSession) {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/login")
}
