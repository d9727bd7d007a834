package kit

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/extractors"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/requestid"
	"github.com/gofiber/fiber/v3/middleware/session"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/office"
)

// deadline is how long a request may keep the database busy.
const deadline = 60 * time.Second

// Server serves one shop.
type Server struct {
	*House
	Shop     *deed.Shop
	sessions *session.Store
	kept     office.Sessions
	pages    sync.Map // *pageSet by what it writes amounts and moments in
	proxies  proxies
}

// Config is how a shop is served. Secure says that people reach it over TLS: by its own
// certificate, or through a proxy. Proxies are the addresses of proxies that are believed
// what they say of the address and scheme that a request came from.
type Config struct {
	Secure  bool
	Proxies []string
}

// New builds the application of a shop in a house.
func New(s *deed.Shop, with Config, house *House) (*fiber.App, error) {
	server := &Server{Shop: s, House: house, proxies: readProxies(with.Proxies)}
	usual, err := terms.Read(nil)
	if err != nil {
		return nil, err
	}
	if _, err := server.pagesFor(usual); err != nil {
		return nil, err
	}
	storage := office.WebSessions(s.Store)
	server.kept = storage
	server.sessions = session.NewStore(
		session.Config{Storage: storage, IdleTimeout: office.SessionIdle, AbsoluteTimeout: 7 * 24 * time.Hour,
			Extractor: extractors.FromCookie("itemrack"), CookieSecure: with.Secure, CookieHTTPOnly: true,
			CookieSameSite: "Lax", CookieSessionOnly: true},
	)
	app := fiber.New(
		fiber.Config{
			AppName:           "Item Rack",
			Immutable:         true,
			BodyLimit:         bodyLimit,
			StreamRequestBody: true,
			ErrorHandler:      server.fail,
			ReadTimeout:       idle,
			WriteTimeout:      2 * time.Minute,
			TrustProxy:        len(with.Proxies) > 0,
			TrustProxyConfig:  fiber.TrustProxyConfig{Proxies: with.Proxies},
			IdleTimeout:       2 * time.Minute,
			ReadBufferSize:    16 << 10,
			JSONEncoder:       encode,
		},
	)
	app.Use(requestid.New())
	app.Use(logRequests)
	app.Use(recover.New())
	if with.Secure {
		app.Use(stayOnTLS)
	}
	app.Use(
		helmet.New(
			helmet.Config{
				ContentSecurityPolicy: "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri " +
					"'self'; form-action 'self'; frame-ancestors 'none'",
			},
		),
	)
	// The short answers of deeds are not worth the time that packing them takes, and a file would be read whole for it.
	app.Use(compress.New(compress.Config{Next: func(c fiber.Ctx) bool {
		return c.Query("format") != "" || strings.HasPrefix(c.Path(), "/api/") && c.Method() != fiber.MethodGet &&
			c.Method() != fiber.MethodHead
	}}))
	look := []string{fiber.MethodGet, fiber.MethodHead}
	app.Add(look, "/static/"+server.version+"/*", house.assets.serve)
	app.Add(look, "/healthz", server.health)
	app.Use(unkept, guardBodies, sameOrigin, server.known)
	app.Use(fromPage)
	server.mount(app)
	app.Use(func(c fiber.Ctx) error { return fault.Missing("path", c.Path(), "There is no page %s.", c.Path()) })
	return app, nil
}

// stayOnTLS tells browsers that came over TLS to come so from then on, for a year (RFC 6797).
func stayOnTLS(c fiber.Ctx) error {
	if c.Scheme() == "https" {
		c.Set(fiber.HeaderStrictTransportSecurity, "max-age=31536000")
	}
	return c.Next()
}

func bearer(c fiber.Ctx) string {
	token, ok := strings.CutPrefix(c.Get(fiber.HeaderAuthorization), "Bearer ")
	if !ok {
		return ""
	}
	return token
}

// logRequests writes a line for each request.
func logRequests(c fiber.Ctx) error {
	began := time.Now()
	err := c.Next()
	if err != nil { // answer now, so that the status is known
		if failed := c.App().ErrorHandler(c, err); failed != nil {
			_ = c.SendStatus(http.StatusInternalServerError)
		}
	}
	level := slog.LevelInfo
	if strings.HasPrefix(c.Path(), "/static/") || c.Path() == "/healthz" {
		level = slog.LevelDebug
	}
	slog.Log(context.Background(), level, "request", "id", requestid.FromContext(c), "method", c.Method(), "path",
		c.Path(), "status", c.Response().StatusCode(), "ms", time.Since(began).Milliseconds())
	return nil
}

func (s *Server) health(c fiber.Ctx) error {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	if err := s.Shop.Store.Ping(ctx); err != nil {
		return c.Status(http.StatusServiceUnavailable).JSON(fiber.Map{"status": "the database does not answer"})
	}
	return c.JSON(fiber.Map{"status": "ok"})
}

// status is the HTTP status of a kind of refusal.
var status = map[fault.Kind]int{
	fault.Invalid:   http.StatusUnprocessableEntity,
	fault.NotFound:  http.StatusNotFound,
	fault.Refused:   http.StatusConflict,
	fault.Conflict:  http.StatusConflict,
	fault.Forbidden: http.StatusForbidden,
}

// Problem is an error as RFC 9457 has it, with the field, its value and what
// would be right.
type Problem struct {
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	Detail string `json:"detail"`
	Field  string `json:"field,omitempty"`
	Value  string `json:"value,omitempty"`
	Want   string `json:"want,omitempty"`
	Advice string `json:"advice,omitempty"` // a sentence to show behind the detail
	ID     string `json:"instance,omitempty"`
}

func (s *Server) problemOf(c fiber.Ctx, err error) Problem {
	if e := fault.Of(err); e != nil {
		if e.Kind == fault.Forbidden {
			who, _ := c.Locals("who").(staff.Actor)
			slog.Warn("refused", "id", requestid.FromContext(c), "person", who.Name, "address", s.address(c), "path", c.Path(),
				"field", e.Field, "why", e.Detail)
		}
		return Problem{
			Type:   "about:blank",
			Title:  string(e.Kind),
			Status: status[e.Kind],
			Detail: e.Detail,
			Field:  e.Field,
			Value:  e.Value,
			Want:   e.Want,
			Advice: e.Advice(),
			ID:     requestid.FromContext(c),
		}
	}
	var refused *fiber.Error
	if errors.As(err, &refused) {
		return Problem{
			Type:   "about:blank",
			Title:  refused.Message,
			Status: refused.Code,
			Detail: refused.Message + ".",
			ID:     requestid.FromContext(c),
		}
	}
	slog.Error("request failed", "id", requestid.FromContext(c), "path", c.Path(), "err", err)
	if trouble := store.Trouble(err); trouble != "" {
		return Problem{
			Type:   "about:blank",
			Title:  "not at the moment",
			Status: http.StatusServiceUnavailable,
			Detail: trouble + " " + again(c),
			ID:     requestid.FromContext(c),
		}
	}
	return Problem{
		Type:   "about:blank",
		Title:  "error",
		Status: http.StatusInternalServerError,
		Detail: "Something went wrong here. " + again(c),
		ID:     requestid.FromContext(c),
	}
}

// again says what can be done after something went wrong, and what is known of it.
func again(c fiber.Ctx) string {
	switch {
	case c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead:
		return "Try again in a moment."
	case c.Get(deed.KeyField) != "":
		return "Whether it was done is not known. Send it again under the same key: it is done once."
	}
	return "Whether it was done is not known. Look before you try again."
}

// forPrograms reports whether a program is to be answered, and not a person: one that asks
// the API, or for JSON, or sends what no browser does.
func forPrograms(c fiber.Ctx, status int) bool {
	return c.Path() == "/api" || strings.HasPrefix(c.Path(), "/api/") || status == http.StatusBadRequest ||
		strings.Contains(c.Get(fiber.HeaderAccept), "json")
}

// fail answers an error: a problem to programs, a page to people.
func (s *Server) fail(c fiber.Ctx, err error) error {
	p := s.problemOf(c, err)
	if forPrograms(c, p.Status) {
		return c.Status(p.Status).JSON(p, "application/problem+json")
	}
	who, _ := c.Locals("who").(staff.Actor)
	view := &Call{Ctx: c, server: s, Shop: s.Shop, Who: who, Until: context.Background()}
	if set, ok := c.Locals("terms").(terms.Terms); ok {
		view.Terms = set
	} else if view.Terms, err = terms.Read(nil); err != nil {
		return err
	}
	c.Status(p.Status)
	if err := view.Page("problem", "", p.Detail, p); err == nil {
		return nil
	}
	view.Who = staff.Actor{} // without what the rail would read
	return view.Page("problem", "", p.Detail, p)
}

// fraction is what a moment has beyond its seconds, as JSON has it.
var fraction = regexp.MustCompile(`("\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d)\.\d+Z"`)

// encode writes an answer of the API: its moments to the second.
func encode(v any) ([]byte, error) {
	data, err := json.Marshal(v)
	return fraction.ReplaceAll(data, []byte(`${1}Z"`)), err
}
