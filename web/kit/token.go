package kit

import (
	"crypto/hmac"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"strings"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
	"itemrack/core/staff"
)

// The head and the form's field in which a page brings its token back.
const (
	tokenHead  = "X-Csrf-Token"
	tokenField = "_csrf"
)

// pageToken is what pages of a session bring back with each change, so that no other site can ask for one in a person's
// name. It is worked out from the session's own secret: to give it, nothing is written.
func pageToken(session string) string {
	if session == "" {
		return ""
	}
	mac := hmac.New(sha256.New, []byte(session))
	_, _ = mac.Write([]byte("pages of this session"))
	return base64.RawURLEncoding.EncodeToString(mac.Sum(nil))
}

// sessionOf is the secret of the session that a request came with, empty for none.
func sessionOf(c fiber.Ctx) string {
	id, _ := c.Locals("session").(string)
	return id
}

// fromPage refuses a change that brings no token of the session's pages.
func fromPage(c fiber.Ctx) error {
	if needsNone(c) {
		return c.Next()
	}
	brought := c.Get(tokenHead)
	if brought == "" && strings.HasPrefix(c.Get(fiber.HeaderContentType), fiber.MIMEApplicationForm) {
		brought = c.FormValue(tokenField)
	}
	if subtle.ConstantTimeCompare([]byte(brought), []byte(pageToken(sessionOf(c)))) == 1 {
		return c.Next()
	}
	return &fault.Error{Kind: fault.Forbidden, Field: tokenField, Want: "the page, loaded again",
		Detail: "This page is too old, or the request did not come from it. Load it again."}
}

// needsNone reports whether a request needs no token of a page: one that changes nothing, one made by a program with a
// token of its own brings no cookie that counts, one of somebody who is not signed in has nothing to protect, and one
// of which the browser says that it came from our own page is no forgery.
func needsNone(c fiber.Ctx) bool {
	who, _ := c.Locals("who").(staff.Actor)
	return c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead || bearer(c) != "" || who.ID == 0 || ownPage(c)
}

// ownPage reports whether a browser says that a request to the API came from a page of the same origin. No
// page can say so of another (Fetch Metadata, W3C); older browsers say nothing and bring the token.
func ownPage(c fiber.Ctx) bool {
	return strings.HasPrefix(c.Path(), "/api/") && c.Get("Sec-Fetch-Site") == "same-origin"
}
