package kit

import (
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"maps"
	"path"
	"slices"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
)

// House is what a program serves: its places of work, in the order in which they hang on the rail, and what their pages
// are made of. It is put together once, and serves any shop.
type House struct {
	places  []Place
	assets  assets
	version string            // of the assets, in their addresses
	bundles map[string]string // by the modules that are in them
}

// Furnish puts a house together of its places.
func Furnish(places ...Place) (*House, error) {
	all, of, err := gather(places)
	if err != nil {
		return nil, err
	}
	return &House{places: places, assets: all, version: all.version(), bundles: of}, nil
}

// assets are the modules, styles, fonts and drawings of all places, by the names
// under which they are served: js/NAME, css/NAME, or as they lie.
type assets map[string][]byte

// gather reads the assets of places, and puts their bundles to them. It says, too, in which bundle each module is.
func gather(places []Place) (assets, map[string]string, error) {
	all, of := assets{}, map[string]string{}
	for _, p := range places {
		err := fs.WalkDir(p.Files, ".", func(name string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || path.Ext(name) == ".html" {
				return err
			}
			data, err := fs.ReadFile(p.Files, name)
			if kind := path.Ext(name); path.Dir(name) == "." && (kind == ".js" || kind == ".css") {
				name = kind[1:] + "/" + name
				if kind == ".js" {
					of[name] = bundleOf(p, name)
				}
			}
			all[name] = data
			return err
		})
		if err != nil {
			return nil, nil, err
		}
	}
	made, err := bundled(all, of)
	maps.Copy(all, made)
	return all, of, err
}

// version names a state of the assets; it stands in their addresses, so that they
// can be kept for good.
func (a assets) version() string {
	sum := sha256.New()
	for _, name := range slices.Sorted(maps.Keys(a)) {
		sum.Write([]byte(name))
		sum.Write(a[name])
	}
	return hex.EncodeToString(sum.Sum(nil))[:12]
}

// serve sends one of the assets.
func (a assets) serve(c fiber.Ctx) error {
	data, ok := a[c.Params("*")]
	if !ok {
		return fault.Missing("path", c.Path(), "There is no file %s.", c.Path())
	}
	c.Type(path.Ext(c.Params("*")))
	c.Set(fiber.HeaderCacheControl, "public, max-age=31536000, immutable")
	return c.Send(data)
}
