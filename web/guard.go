package web

import (
	"crypto/subtle"
	"net"
	"strings"
	"time"

	"cleverniche/study/imports"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/requestid"
)

// Bounds of what a request brings.
const (
	mostHead = 128 << 10                   // its first lines, with the address: a sieve may name a thousand words
	mostBody = 2 << 20                     // what is read of anybody's
	mostList = imports.MostUpload + 64<<10 // a list of one's own, in parts, with the page's token before them
)

// guard lets through what is meant for this application: asked for by a name of its own (or a page
// of a site that calls itself by this machine's address could read everything), and of a bounded
// size. A large body is read when its request has shown the page's token only.
func guard(s *frame.Server, hosts []string, secret frame.Tokens) fiber.Handler {
	return func(c fiber.Ctx) error {
		if !ownName(c.Hostname(), hosts) {
			c.RequestCtx().SetConnectionClose()
			return c.Status(fiber.StatusMisdirectedRequest).SendString("This application is not served by that name: " +
				"see --hosts.\n")
		}
		c.Set(fiber.HeaderCacheControl, "no-store")
		head := &c.Request().Header
		size := head.ContentLength() // −1 when it is not told
		if asks := head.IsGet() || head.IsHead(); asks && size <= 0 || size >= 0 && size <= mostBody {
			if asks && len(head.Peek(fiber.HeaderTransferEncoding)) > 0 {
				c.RequestCtx().SetConnectionClose()
			} else {
				c.Request().Body() // all of it: what is left unread would be taken for the next request
			}
			return c.Next()
		}
		c.RequestCtx().SetConnectionClose() // what is not read is not waited for
		token := c.Get("X-Csrf-Token")
		if token == "" || subtle.ConstantTimeCompare([]byte(token), []byte(c.Cookies(s.CSRFCookie()))) != 1 ||
			!secret.Signed(token) {
			return s.Refuse(c, errNoToken)
		}
		if size < 0 || size > mostList || !strings.HasPrefix(string(head.ContentType()), "multipart/form-data") {
			return fiber.ErrRequestEntityTooLarge
		}
		return c.Next()
	}
}

var errNoToken = fiber.NewError(fiber.StatusForbidden, "a large body without a token")

// ownName reports whether a host is a name of this machine's own, or one of those listed.
func ownName(host string, hosts []string) bool {
	host = strings.ToLower(strings.TrimSuffix(strings.Trim(host, "[]"), "."))
	if host == "localhost" || strings.HasSuffix(host, ".localhost") { // RFC 6761 §6.3
		return true
	}
	if ip := net.ParseIP(host); ip != nil && ip.IsLoopback() {
		return true
	}
	for _, own := range hosts {
		if strings.EqualFold(host, strings.Trim(own, "[]")) {
			return true
		}
	}
	return false
}

// note writes a line of the log for every request, with its ID; addresses without what they ask for.
func note(s *frame.Server) fiber.Handler {
	return func(c fiber.Ctx) error {
		begun := s.Study.Now()
		err := c.Next()
		if err != nil { // so that the status is the one that is sent
			if failed := s.Fail(c, err); failed != nil {
				return failed
			}
		}
		s.Log.Debug("request", "id", requestid.FromContext(c), "method", c.Method(), "path", c.Route().Path,
			"status", c.Response().StatusCode(), "took", s.Study.Now().Sub(begun).Round(time.Microsecond))
		return nil
	}
}
