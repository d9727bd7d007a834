package e2e

import (
	"bytes"
	"image/png"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/catalog"
	"itemrack/shop/testkit"
)

// loaded is what a page is made of: files and bytes of style and script, and how many of those came over the wire.
type loaded struct {
	Files, Bytes, Fetched, Pictures, LargestPicture int
}

// made reads what the page was made of.
func (p *person) made() loaded {
	p.t.Helper()
	var l loaded
	found := p.MustEval(`() => {
		const all = performance.getEntriesByType("resource");
		const of = (what) => all.filter((e) => what.test(new URL(e.name).pathname));
		const pictures = of(/^\/pictures\//);
		return {
			Files: 1 + all.length - pictures.length,
			Bytes: of(/^\/static\/.*\.(js|css)$/).reduce((sum, e) => sum + e.encodedBodySize, 0),
			Fetched: of(/^\/static\/.*\.(js|css)$/).filter((e) => e.transferSize > 0).length,
			Pictures: pictures.length,
			LargestPicture: Math.max(0, ...pictures.map((e) => e.encodedBodySize)),
		};
	}`)
	if err := found.Unmarshal(&l); err != nil {
		p.t.Fatal(err)
	}
	return l
}

// TestPagesLoadLittle opens the main pages: at most 60 kB of style and script, packed, at most 15 requests beside
// pictures, and pictures of at most 3 kB in lists; and who has seen a place and goes to another by its name on the rail
// loads the page alone.
func TestPagesLoadLittle(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	vest := s.Vest(t)
	s.Stock(t, vest.Variants[0].ID, "3", "13.95")
	var photo bytes.Buffer
	require.NoError(t, png.Encode(&photo, testkit.Shot(900, 700, 255)))
	_, err := catalog.AddPicture(s.By(s.Maren), vest.ID, "vest.png", photo.Bytes())
	require.NoError(t, err)
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("maren")
	for _, path := range []string{"/", "/catalog", "/catalog/1", "/catalog/new", "/catalog/quick", "/prices", "/buying",
		"/buying/orders/new", "/stock", "/stock/move", "/register/1", "/register/1/take-back", "/counts", "/counts/new",
		"/customers", "/labels", "/settings", "/catalog/import", "/buying/hand"} {
		p.open(path)
		p.MustWaitIdle()
		l := p.made()
		assert.LessOrEqual(t, l.Bytes, 60_000, path)
		assert.Greater(t, l.Bytes, 10_000, "%s: measured", path)
		assert.LessOrEqual(t, l.Files, 15, path)
		assert.LessOrEqual(t, l.LargestPicture, 3<<10, path)
		if path == "/catalog" {
			assert.Positive(t, l.Pictures, "a picture was seen")
		}
	}
	p = sit(t, p.base, 1280, 800).as("maren")
	for _, place := range []string{"Catalog", "Buying", "Stock", "Register", "Counts"} {
		link := p.MustElementR("nav .place", place)
		link.MustHover()
		p.until(`name => performance.getEntriesByType("resource").some((e) => e.name.endsWith("/bundle/" + name + ".js") && e.responseEnd > 0)`,
			strings.ToLower(place))
		p.leave(func() { link.MustClick() })
		assert.Zero(t, p.made().Fetched, "%s fetched something anew", place)
	}
}
