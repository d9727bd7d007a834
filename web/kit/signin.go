package kit

import (
	"embed"
	"strings"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/office"
)

//go:embed *.html *.js *.css icon.svg third_party
var files embed.FS

// Shared is what all pages share: the layout, the rail, the rack, and signing out.
var Shared = Place{Pages: []Route{Page("POST", "/logout", staff.DeedLook, (*Call).logout)}, Files: files}

func (c *Call) login() error {
	if empty, err := office.IsEmpty(c.Ctx.Context(), c.Shop); err != nil || empty {
		if err != nil {
			return err
		}
		return c.Redirect().Status(fiber.StatusSeeOther).To("/start")
	}
	return c.Page("login", "", "Sign in", map[string]string{"To": safePath(c.Query("to"))})
}

// safePath keeps a way back inside the shop's own pages.
func safePath(to string) string {
	if !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.Contains(to, "\\") {
		return "/"
	}
	return to
}

func (c *Call) signIn() error {
	to := safePath(c.FormValue("to"))
	who, err := office.SignIn(c.Ctx.Context(), c.Shop, c.FormValue("login"), c.FormValue("password"))
	if e := fault.Of(err); e != nil {
		c.Status(fiber.StatusForbidden)
		return c.Page("login", "", "Sign in",
			map[string]string{"To": to, "Login": c.FormValue("login"), "Said": e.Detail})
	}
	if err != nil {
		return err
	}
	if err := c.Enter(who); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}

// Enter begins a session for a person.
func (c *Call) Enter(who staff.Actor) error {
	current, err := c.server.sessions.Get(c.Ctx)
	if err != nil {
		return err
	}
	defer current.Release()
	if err := current.Regenerate(); err != nil {
		return err
	}
	current.Set("user", who.ID)
	return current.Save()
}

func (c *Call) logout() error {
	current, err := c.server.sessions.Get(c.Ctx)
	if err != nil {
		return err
	}
	defer current.Release()
	if err := current.Destroy(); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/login")
}
