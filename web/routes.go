package web

import (
	"context"
	"fmt"
	"net/url"
	"strings"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
	"itemrack/shop"
	"itemrack/store"
)

// mount puts every route in place.
func (s *Server) mount(app *fiber.App) {
	app.Get("/login", func(c fiber.Ctx) error { return (&call{Ctx: c, server: s}).login() })
	app.Post("/login", func(c fiber.Ctx) error { return (&call{Ctx: c, server: s}).signIn() })
	app.Get("/api/v1/openapi.json", s.openAPI)
	for _, p := range s.places {
		for _, r := range p.Pages {
			app.Add([]string{r.Method}, r.Path, s.handle(r))
		}
		for _, r := range p.API {
			app.Add([]string{r.Method}, "/api/v1"+r.Path, s.handle(r))
		}
	}
}

// handle finds out who asks and whether they may, and calls the handler.
func (s *Server) handle(r route) fiber.Handler {
	if r.Unsigned {
		return s.unsigned(r.Handler)
	}
	return func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(context.Background(), deadline)
		defer cancel()
		ctx, statements := store.Counting(ctx)
		defer func() { c.Set("Server-Timing", fmt.Sprintf("db;desc=\"%d statements\"", statements.Load())) }()
		who, err := s.identify(ctx, c)
		if err != nil {
			return err
		}
		if who.ID == 0 {
			if strings.HasPrefix(c.Path(), "/api/") {
				return c.Status(fiber.StatusUnauthorized).JSON(problem{Type: "about:blank", Title: "not signed in", Status: fiber.StatusUnauthorized,
					Detail: "Sign in, or send a token.", Field: "Authorization", Want: "Bearer and a token of itemrack token"}, "application/problem+json")
			}
			return c.Redirect().Status(fiber.StatusSeeOther).To("/login?to=" + url.QueryEscape(c.OriginalURL()))
		}
		c.Locals("who", who)
		if err := who.May(r.Deed); err != nil {
			return err
		}
		if c.Request().Header.ContentLength() > bodyLimit && !r.Streamed {
			return fault.Field("body", c.Request().Header.ContentLength(), fmt.Sprintf("%d MB or less", bodyLimit>>20), "The request is larger than %d MB.", bodyLimit>>20)
		}
		return r.Handler(&call{Ctx: c, server: s, who: who, ctx: ctx})
	}
}

// unsigned calls a handler for whom nobody need be signed in.
func (s *Server) unsigned(handler func(*call) error) fiber.Handler {
	return func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(context.Background(), deadline)
		defer cancel()
		return handler(&call{Ctx: c, server: s, ctx: ctx})
	}
}

// identify finds who asks: the owner of a token, or of the session.
func (s *Server) identify(ctx context.Context, c fiber.Ctx) (shop.Actor, error) {
	if token := bearer(c); token != "" {
		return s.shop.PersonByToken(ctx, token)
	}
	current, err := s.sessions.Get(c)
	if err != nil {
		return shop.Actor{}, err
	}
	defer current.Release()
	id, ok := current.Get("user").(uint64)
	if !ok {
		return shop.Actor{}, nil
	}
	return s.shop.Person(ctx, id)
}

// number reads a number in the path.
func (c *call) number(name string) (uint64, error) {
	n := fiber.Params[uint64](c.Ctx, name)
	if n == 0 {
		return 0, fault.Missing(name, c.Params(name), "There is no page for %q.", c.Params(name))
	}
	return n, nil
}

// key is the request key that the client sent.
func (c *call) key() string { return c.Get("Idempotency-Key") }
