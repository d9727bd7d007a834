package goods_test

import (
	"context"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store"
	"itemrack/store/goods"
	"itemrack/store/office"
)

// copied are the kinds of copies there are, and by what their age is told: a count of the changes of the house, or the
// stamp of a product. A new kind is named here.
var copied = map[string]string{"settings": "house_change", "ways": "house_change", "registers": "house_change",
	"shelves": "house_change", "counts that hold": "house_change", "inheritance": "house_change",
	"price lists": "house_change", "tax classes": "house_change", "people": "house_change", "conditions": "house_change",
	"devices": "house_change", "goods": "product_change"}

// never says which tables a copy reads that need no watching: the key of a copy is all that is read of them.
var never = []string{"product_change"}

// TestAllThatCopiesReadIsWatched holds the queries of copies against the triggers of the database itself: each table
// that one reads has triggers that make the copy old at an insert, an update and a delete; and where an update only
// counts when some columns change, the copy reads none but those.
func TestAllThatCopiesReadIsWatched(t *testing.T) {
	s := testkit.New(t)
	m := s.Vest(t).Variants[1]
	s.Stock(t, m.ID, "10", "13.95")
	s.Open(t, 1)
	s.Basket(t, 1, m.ID)
	s.Sold(t, m.ID, "1")
	_, err := register.Basket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	_, err = goods.Sellables(s.Store.Read(context.Background()), []uint64{m.ID}, s.Now())
	require.NoError(t, err)
	_, err = office.WebSessions(s.Store).User(context.Background(), "none", s.Tobi.ID, s.Now())
	require.NoError(t, err)
	reads := store.CopyReads(s.Store)
	for name := range copied {
		assert.NotEmpty(t, reads[name], "the copies of %s were read", name)
	}
	tables := regexp.MustCompile(`(?i)\b(?:FROM|JOIN)\s+(\w+)`)
	for name, queries := range reads {
		by, known := copied[name]
		require.True(t, known, "by what is told how old copies of %s are?", name)
		for _, query := range queries {
			for _, found := range tables.FindAllStringSubmatch(query, -1) {
				if table := found[1]; !slices.Contains(never, table) {
					watched(t, s, name, query, table, by)
				}
			}
		}
	}
}

// watched looks whether what a query reads of a table makes a copy old when it changes.
func watched(t *testing.T, s *testkit.Shop, name, query, table, by string) {
	t.Helper()
	for _, event := range []string{"INSERT", "UPDATE", "DELETE"} {
		if table == "variant" && event == "INSERT" {
			continue // nothing is kept yet of a variant that is new
		}
		triggers, err := s.AskedAll("SELECT action_statement FROM information_schema.triggers WHERE trigger_schema = "+
			"DATABASE() AND event_object_table = ? AND event_manipulation = ?", table, event)
		require.NoError(t, err)
		at := slices.IndexFunc(triggers, func(text string) bool { return strings.Contains(text, by) })
		if !assert.GreaterOrEqual(t, at, 0, "copies of %s read %s, and nothing of %s tells of an %s", name, table, by, event) {
			continue
		}
		if event != "UPDATE" || !strings.Contains(triggers[at], "OLD.") || strings.Contains(triggers[at], "IN (OLD.") {
			continue
		}
		columns, err := s.AskedAll("SELECT column_name FROM information_schema.columns WHERE table_schema = DATABASE() AND "+
			"table_name = ?", table)
		require.NoError(t, err)
		for _, column := range columns {
			if column == "id" || !regexp.MustCompile(`\b`+column+`\b`).MatchString(query) {
				continue
			}
			assert.Contains(t, triggers[at], "NEW."+column, "copies of %s read %s of %s", name, column, table)
		}
	}
}
