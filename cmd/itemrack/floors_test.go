package main

import (
	"os"
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// floors says what each floor may import of the project; a name with a slash at its
// end takes in all below it.
var floors = map[string][]string{
	"core":   {"core/"},
	"store":  {"core/"},
	"device": {"core/", "device/"},
	"sheet":  {"core/"},
	"shop":   {"core/", "store", "store/", "device", "device/", "sheet"},
	"web":    {"core/", "shop/", "store", "store/", "device", "device/", "sheet"},
	"demo":   {"core/", "demo/", "shop/", "store", "store/"},
	"e2e":    {"core/", "shop/", "store", "store/", "web", "web/kit"},
	"cmd":    {"core/", "demo", "device", "sheet", "shop/", "store", "store/", "web", "web/kit"},
}

// sideways is the one order in which the areas of a floor may import each other: each
// those that stand before it.
var sideways = map[string][]string{
	"store": {"internal/db", "office", "prices", "goods", "book", "customers", "buying", "till", "sendings", "counts",
		"labels",
		"lists", "devices",
		"migrations", ""},
	"shop": {"deed", "scan", "catalog", "prices", "buying", "stockroom", "lists", "customers", "register",
		"counts", "reports",
		"labels", "office", "testkit"},
	"web": {"kit", "catalog", "today", "prices", "buying", "stock", "customers", "register", "counts", "lists",
		"labels", "settings",
		""},
}

// coreMay is what core may import from outside of the project and the standard
// library: a decimal library, barcode encoders and the rules of Unicode.
var coreMay = []string{"github.com/shopspring/decimal", "github.com/boombuler/barcode",
	"github.com/makiuchi-d/gozxing/datamatrix/encoder", "golang.org/x/text"}

// TestNoArrowGoesUp lists the packages with go list and holds the floors, and the order
// of the areas on each.
func TestNoArrowGoesUp(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}{{range .Imports}} {{.}}{{end}}`, "itemrack/...").
		Output()
	require.NoError(t, err)
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		words := strings.Fields(line)
		name := strings.TrimPrefix(words[0], "itemrack/")
		for _, imported := range words[1:] {
			own, inside := strings.CutPrefix(imported, "itemrack/")
			if inside {
				seen++
				assert.True(t, allowed(name, own), "%s imports %s", name, own)
				assert.True(t, own != "core/ledger" || strings.HasPrefix(name, "core/"), "%s chooses accounts", name)
				continue
			}
			if strings.HasPrefix(name, "core/") && strings.Contains(strings.Split(imported, "/")[0], ".") {
				assert.True(t, outside(imported), "%s imports %s", name, imported)
			}
			if strings.HasPrefix(name, "core/") {
				assert.NotContains(t,
					[]string{"database/sql", "net/http", "html/template", "os", "math/rand", "math/rand/v2"}, imported,
					name)
			}
		}
	}
	assert.Greater(t, seen, 40, "the list was read")
}

// allowed reports whether a package may import another of the project.
func allowed(name, imported string) bool {
	floor, area, _ := strings.Cut(name, "/")
	below, other, _ := strings.Cut(imported, "/")
	if order := sideways[floor]; floor == below && order != nil {
		at, before := slices.Index(order, area), slices.Index(order, other)
		return at >= 0 && before >= 0 && before < at
	}
	return may(floors[floor], imported)
}

func may(list []string, name string) bool {
	for _, l := range list {
		if l == name || strings.HasSuffix(l, "/") && strings.HasPrefix(name, l) {
			return true
		}
	}
	return false
}

func outside(name string) bool {
	for _, m := range coreMay {
		if name == m || strings.HasPrefix(name, m+"/") {
			return true
		}
	}
	return false
}

// TestCoreBuildsForTheBrowser holds that no rule needs an operating system.
func TestCoreBuildsForTheBrowser(t *testing.T) {
	build := exec.Command("go", "build", "itemrack/core/...")
	build.Env = append(os.Environ(), "GOOS=js", "GOARCH=wasm", "CGO_ENABLED=0")
	out, err := build.CombinedOutput()
	assert.NoError(t, err, string(out))
}
