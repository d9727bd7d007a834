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
	"github.com/gofiber/fiber/v3/middleware/csrf"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/limiter"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/requestid"
	"github.com/gofiber/fiber/v3/middleware/session"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/shop/deed"
	"itemrack/store/office"
)

// deadline is how long a request may keep the database busy.
const deadline = 60 * time.Second

// bodyLimit is the largest request that is held whole, in bytes; lists and
// pictures for them are streamed, and bounded by the deed that takes them.
const bodyLimit = 25 << 20

// Server serves one shop.
type Server struct {
	Shop     *deed.Shop
	sessions *session.Store
	pages    sync.Map // *pageSet by what it writes amounts and moments in
	places   []Place
	version  string // of the static files, in their addresses
}

// New builds the application of a shop from its places, in the order in which they
// hang on the rail.
func New(s *deed.Shop, places ...Place) (*fiber.App, error) {
	server := &Server{Shop: s, places: places}
	files, err := gather(places)
	if err != nil {
		return nil, err
	}
	server.version = files.version()
	usual, err := terms.Read(nil)
	if err != nil {
		return nil, err
	}
	if _, err := server.pagesFor(usual); err != nil {
		return nil, err
	}
	storage := office.WebSessions(s.Store)
	server.sessions = session.NewStore(
		session.Config{Storage: storage, IdleTimeout: 12 * time.Hour, Extractor: extractors.FromCookie("itemrack"),
			CookieHTTPOnly: true, CookieSameSite: "Lax", CookieSessionOnly: true},
	)
	app := fiber.New(
		fiber.Config{
			AppName:           "Item Rack",
			Immutable:         true,
			BodyLimit:         bodyLimit,
			StreamRequestBody: true,
			ErrorHandler:      server.fail,
			ReadTimeout:       30 * time.Second,
			IdleTimeout:       2 * time.Minute,
			ReadBufferSize:    16 << 10,
			JSONEncoder:       encode,
		},
	)
	app.Use(requestid.New())
	app.Use(logRequests)
	app.Use(recover.New())
	app.Use(
		helmet.New(
			helmet.Config{
				ContentSecurityPolicy: "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri " +
					"'self'; form-action 'self'; frame-ancestors 'none'",
			},
		),
	)
	app.Use(compress.New())
	app.Get("/static/"+server.version+"/*", files.serve)
	app.Get("/healthz", server.health)
	app.Use(csrf.New(csrf.Config{Session: server.sessions, IdleTimeout: 12 * time.Hour, Next: byToken,
		Extractor: extractors.Chain(extractors.FromHeader(csrf.HeaderName),
			extractors.FromForm("_csrf")), CookieHTTPOnly: true, CookieSessionOnly: true, CookieName: "itemrack_csrf",
		ErrorHandler: func(fiber.Ctx, error) error {
			return &fault.Error{
				Kind:   fault.Forbidden,
				Field:  "_csrf",
				Want:   "the page, loaded again",
				Detail: "This page is too old, or the request did not come from it. Load it again.",
			}
		}}))
	app.Use(
		"/login",
		limiter.New(
			limiter.Config{
				Max:          30,
				Expiration:   time.Minute,
				Storage:      storage,
				Next:         func(c fiber.Ctx) bool { return c.Method() != fiber.MethodPost },
				KeyGenerator: func(c fiber.Ctx) string { return "login/" + c.IP() + "/" + c.FormValue("login") },
				LimitReached: func(fiber.Ctx) error {
					return &fault.Error{
						Kind:   fault.Forbidden,
						Field:  "login",
						Want:   "a minute's wait",
						Detail: "Too many tries. Wait a minute.",
					}
				},
			},
		),
	)
	server.mount(app)
	app.Use(func(c fiber.Ctx) error { return fault.Missing("path", c.Path(), "There is no page %s.", c.Path()) })
	return app, nil
}

// byToken reports whether a request is made by a program with a token: it needs
// no CSRF token, for it brings no cookie that counts. Reading the API needs none
// either.
func byToken(c fiber.Ctx) bool {
	return bearer(c) != "" || strings.HasPrefix(c.Path(), "/api/") && c.Method() == fiber.MethodGet
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
	ID     string `json:"instance,omitempty"`
}

func problemOf(c fiber.Ctx, err error) Problem {
	if e := fault.Of(err); e != nil {
		return Problem{
			Type:   "about:blank",
			Title:  string(e.Kind),
			Status: status[e.Kind],
			Detail: e.Detail,
			Field:  e.Field,
			Value:  e.Value,
			Want:   e.Want,
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
	return Problem{
		Type:   "about:blank",
		Title:  "error",
		Status: http.StatusInternalServerError,
		Detail: "Something went wrong here. Nothing was changed; try again.",
		ID:     requestid.FromContext(c),
	}
}

// fail answers an error: a problem to programs, a page to people.
func (s *Server) fail(c fiber.Ctx, err error) error {
	p := problemOf(c, err)
	if strings.HasPrefix(c.Path(), "/api/") || strings.Contains(c.Get(fiber.HeaderAccept), "json") {
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
	return view.Page("problem", "", p.Detail, p)
}

// fraction is what a moment has beyond its seconds, as JSON has it.
var fraction = regexp.MustCompile(`("\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d)\.\d+Z"`)

// encode writes an answer of the API: its moments to the second.
func encode(v any) ([]byte, error) {
	data, err := json.Marshal(v)
	return fraction.ReplaceAll(data, []byte(`${1}Z"`)), err
}
