package kit

import (
	"encoding/json"
	"reflect"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/register"
	"itemrack/store/goods"
)

// TestWhatTypesHide: a type hides something where a field of it does, however deep, or where it may hold any value.
func TestWhatTypesHide(t *testing.T) {
	type plain struct {
		Name string          `json:"name"`
		At   time.Time       `json:"at"`
		Paid decimal.Decimal `json:"paid"`
		Kept any             `json:"-"`
	}
	type secret struct {
		Cost decimal.Decimal `json:"cost" see:"costs"`
	}
	type chain struct {
		plain
		Next *chain `json:"next"`
	}
	type nested struct {
		chain
		Rows map[string][]*secret `json:"rows"`
	}
	type open struct {
		What any `json:"what"`
	}
	for _, v := range []any{plain{}, &chain{}, []plain{}, "text", 7, map[string]plain{}, register.BasketView{}} {
		assert.False(t, hides(reflect.TypeOf(v)), "%T", v)
	}
	for _, v := range []any{secret{}, nested{}, []nested{}, open{}, goods.ProductView{}} {
		assert.True(t, hides(reflect.TypeOf(v)), "%T", v)
	}
}

// TestBareIsTheRest: what is left of a value is as JSON has it, whether its type hides something or not.
func TestBareIsTheRest(t *testing.T) {
	type inner struct {
		Name string          `json:"name"`
		Cost decimal.Decimal `json:"cost" see:"costs"`
	}
	type outer struct {
		inner
		At    time.Time         `json:"at"`
		None  *inner            `json:"none"`
		Empty []inner           `json:"empty"`
		Few   []inner           `json:"few"`
		By    map[string]*inner `json:"by"`
		Left  string            `json:"left,omitempty"`
	}
	cost := decimal.RequireFromString("13.57")
	told, err := json.Marshal(bare(outer{inner: inner{"ß 漢", cost}, At: time.Unix(0, 0).UTC(), Few: []inner{{"a", cost}},
		By: map[string]*inner{"b": {"c", cost}}}))
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "ß 漢", "at": "1970-01-01T00:00:00Z", "none": null, "empty": null,
		"few": [{"name": "a"}], "by": {"b": {"name": "c"}}}`, string(told))
}

// TestPluralOfWhatMayBeMissing: a page says the figure, not where it lies in memory.
func TestPluralOfWhatMayBeMissing(t *testing.T) {
	one, more := 1, 14
	assert.Equal(t, "1 day", plural(&one, "day", "days"))
	assert.Equal(t, "14 days", plural(&more, "day", "days"))
	assert.Equal(t, "0 days", plural(0, "day", "days"))
	assert.Equal(t, "1.0 days", plural("1.0", "day", "days"))
}
