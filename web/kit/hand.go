package kit

import "github.com/gofiber/fiber/v3"

// handPolicy lets a page for the hand run the barcode reader that ships with it, beside what all
// pages may do.
const handPolicy = "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data:; media-src " +
	"'self' blob: mediastream:; " +
	"object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'none'"

// HandPage shows a page for the hand: it may use the camera, and opens without a server.
func (c *Call) HandPage(name, at, title string, data any) error {
	c.Set(fiber.HeaderContentSecurityPolicy, handPolicy)
	return c.Page(name, at, title, data)
}

// HandWorker is the module that keeps a page for the hand for when there is no server. Its address has no
// version: it stands for the page under all of them.
func HandWorker(c *Call) error {
	data, err := files.ReadFile("hand_worker.js")
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, fiber.MIMETextJavaScriptCharsetUTF8)
	c.Set(fiber.HeaderCacheControl, "no-cache")
	return c.Send(data)
}
