package main

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// floors says what each package may import of the project; a name with a slash
// at its end takes in all below it.
var floors = map[string][]string{
	"core/":   {"core/"},
	"store":   {"core/"},
	"device":  {"core/", "device/"},
	"device/": {"core/", "device/"},
	"sheet":   {"core/"},
	"shop":    {"core/", "store", "device", "device/", "sheet"},
	"shop/":   {"core/", "store", "device", "shop"},
	"web":     {"core/", "shop", "store", "device", "device/", "sheet"},
	"demo":    {"core/", "shop", "store"},
	"cmd/":    {"core/", "demo", "device", "sheet", "shop", "store", "web"},
}

// coreMay is what core may import from outside of the project and the standard
// library: a decimal library and barcode encoders.
var coreMay = []string{"github.com/shopspring/decimal", "github.com/boombuler/barcode", "github.com/makiuchi-d/gozxing/datamatrix/encoder"}

// TestNoArrowGoesUp lists the packages with go list and holds the floors.
func TestNoArrowGoesUp(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}{{range .Imports}} {{.}}{{end}}`, "itemrack/...").Output()
	require.NoError(t, err)
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		words := strings.Fields(line)
		name := strings.TrimPrefix(words[0], "itemrack/")
		for _, imported := range words[1:] {
			own, inside := strings.CutPrefix(imported, "itemrack/")
			if inside {
				seen++
				assert.True(t, may(floorOf(name), own), "%s imports %s", name, own)
				continue
			}
			if strings.HasPrefix(name, "core/") && strings.Contains(strings.Split(imported, "/")[0], ".") {
				assert.True(t, outside(imported), "%s imports %s", name, imported)
			}
			if strings.HasPrefix(name, "core/") {
				assert.NotContains(t, []string{"database/sql", "net/http", "html/template", "os", "math/rand", "math/rand/v2"}, imported, name)
			}
		}
	}
	assert.Greater(t, seen, 40, "the list was read")
}

func floorOf(name string) []string {
	if list, ok := floors[name]; ok {
		return list
	}
	best := ""
	for prefix := range floors {
		if strings.HasSuffix(prefix, "/") && strings.HasPrefix(name, prefix) && len(prefix) > len(best) {
			best = prefix
		}
	}
	return floors[best]
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

// TestOneDoor holds that only the book's file writes the tables of the book; what a
// shop practised is cleared in one other.
func TestOneDoor(t *testing.T) {
	out, err := exec.Command("grep", "-rlE", `(INSERT INTO|UPDATE|DELETE FROM) (document|entry|balance|cost_pool|unit|ledger_posting)\b`, "--include=*.go", "--exclude=*_test.go", "../../store", "../../shop", "../../web", "../../demo", "../../device").Output()
	require.NoError(t, err)
	for _, file := range strings.Fields(string(out)) {
		assert.Contains(t, []string{"../../store/book.go", "../../store/product.go", "../../store/practice.go"}, file, "writes a table of the book")
	}
	said, _ := exec.Command("grep", "-nE", `(INSERT INTO|UPDATE|DELETE FROM) (document|entry|balance|unit|ledger_posting)\b|UPDATE cost_pool SET (quantity|value)`, "../../store/product.go").Output()
	assert.Empty(t, string(said), "the catalog makes empty pools and marks what is low, and nothing else")
}
