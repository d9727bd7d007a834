package kit

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/store"
)

// mount puts every route in place.
func (s *Server) mount(app *fiber.App) {
	look := []string{fiber.MethodGet, fiber.MethodHead}
	app.Add(look, "/login", s.unsigned((*Call).login))
	app.Post("/login", s.unsigned((*Call).signIn))
	app.Add(look, "/api/v1/openapi.json", s.openAPI)
	var routes []Route
	for _, p := range s.places {
		routes = append(routes, p.Pages...)
		for _, r := range p.API {
			r.Path = "/api/v1" + r.Path
			routes = append(routes, r)
		}
	}
	// /catalog/new before /catalog/:id, whichever place they are of
	slices.SortStableFunc(routes,
		func(a, b Route) int { return strings.Count(a.Path, ":") - strings.Count(b.Path, ":") })
	for _, r := range routes {
		methods := []string{r.Method}
		if r.Method == fiber.MethodGet {
			methods = append(methods, fiber.MethodHead)
		}
		app.Add(methods, r.Path, s.handle(r))
	}
}

// handle finds out who asks and whether they may, and calls the handler.
func (s *Server) handle(r Route) fiber.Handler {
	if r.Unsigned {
		return s.unsigned(r.Handler)
	}
	return func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(context.Background(), deadline)
		if c.Query("format") != "" { // a file takes as long as it takes
			cancel()
			ctx, cancel = context.WithCancel(context.Background())
		}
		call := &Call{Ctx: c, server: s, Shop: s.Shop, end: cancel}
		defer func() {
			if !call.streams {
				cancel()
			}
		}()
		ctx, statements := store.Counting(ctx)
		defer func() { c.Set("Server-Timing", fmt.Sprintf("db;desc=\"%d statements\"", statements.Load())) }()
		who, _ := c.Locals("who").(staff.Actor)
		if who.ID == 0 {
			if strings.HasPrefix(c.Path(), "/api/") {
				return c.Status(fiber.StatusUnauthorized).
					JSON(Problem{Type: "about:blank", Title: "not signed in", Status: fiber.StatusUnauthorized,
						Detail: "Sign in, or send a token.", Field: "Authorization", Want: "Bearer and a token of " +
							"itemrack token"}, "application/problem+json")
			}
			return c.Redirect().Status(fiber.StatusSeeOther).To("/login?to=" + url.QueryEscape(c.OriginalURL()))
		}
		if who.Locked && !r.WhenLocked && c.Method() == fiber.MethodGet && !forPrograms(c, 0) {
			return c.Redirect().Status(fiber.StatusSeeOther).To("/locked?to=" + url.QueryEscape(c.OriginalURL()))
		}
		if err := isOf(c, who); err != nil {
			return err
		}
		if err := who.May(r.Deed); err != nil && !(who.Locked && r.WhenLocked) {
			return err
		}
		if !r.Streamed {
			if err := whole(c, bodyLimit); err != nil {
				return err
			}
		}
		if c.Get(deed.KeyField) != "" {
			ctx = deed.Asked(ctx, fingerprint(c, r))
		}
		call.Who, call.Until = who, ctx
		if c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead || !strings.HasPrefix(c.Path(), "/api/") {
			if err := call.learn(); err != nil {
				return err
			}
		}
		return r.Handler(call)
	}
}

// fingerprint tells one request from another: where it goes and what it says. A body that
// is worked on as it comes in does not count.
func fingerprint(c fiber.Ctx, r Route) string {
	said := sha256.New()
	fmt.Fprintf(said, "%s %s\n", c.Method(), c.OriginalURL())
	if !r.Streamed {
		said.Write(c.Body())
	}
	return hex.EncodeToString(said.Sum(nil))
}

// unsigned calls a handler for whom nobody need be signed in.
func (s *Server) unsigned(handler func(*Call) error) fiber.Handler {
	return func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(context.Background(), deadline)
		defer cancel()
		call := &Call{Ctx: c, server: s, Shop: s.Shop, Until: ctx}
		if err := whole(c, formLimit); err != nil {
			return err
		}
		if err := call.learn(); err != nil {
			return err
		}
		return handler(call)
	}
}

// learn reads what the shop is set to, for the pages.
func (c *Call) learn() error {
	var err error
	c.Terms, err = c.Q().Terms()
	c.Locals("terms", c.Terms)
	return err
}

// identify finds who asks: the owner of a token, or of the session.
func (s *Server) identify(ctx context.Context, c fiber.Ctx) (staff.Actor, error) {
	if token := bearer(c); token != "" {
		return office.PersonByToken(ctx, s.Shop, token)
	}
	began := time.Now()
	current, err := s.sessions.Get(c)
	if err != nil {
		return staff.Actor{}, err
	}
	defer current.Release()
	id, ok := current.Get("user").(uint64)
	if !ok {
		return staff.Actor{}, nil
	}
	c.Locals("session", current.ID())
	version, _ := current.Get("version").(uint64)
	byPIN, _ := current.Get("pin").(bool)
	who, err := office.PersonOf(ctx, s.kept, office.Session{Secret: current.ID(), Person: id, Version: version,
		ByPIN: byPIN}, began)
	who.Locked, _ = current.Get("locked").(bool)
	return who, err
}
