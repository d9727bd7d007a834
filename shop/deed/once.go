package deed

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/store"
	"itemrack/store/office"
)

// JSON writes a value that can be written, to be kept.
func JSON(v any) string {
	data, err := json.Marshal(v)
	if err != nil {
		return ""
	}
	return string(data)
}

// ErrTried rolls a dry run back after everything was tried.
var ErrTried = errors.New("dry run")

// maxKey is the longest request key.
const maxKey = 100

// KeyField is the field that a refused request key is told by.
const KeyField = office.KeyField

// askedKey is the key under which a context carries the fingerprint of a request.
type askedKey struct{}

// Asked is a context that carries the fingerprint of a request: where it went and what
// it said. Another request under the same request key is told from a repeated one by it.
func Asked(ctx context.Context, fingerprint string) context.Context {
	return context.WithValue(ctx, askedKey{}, fingerprint)
}

// Once does a deed under its request key. When the key was used before for such a deed by this person, the first
// result comes back and nothing is done. Without a key the deed is done each time it is asked for.
func Once[T any](do Deed, what staff.Deed, work func(do Deed) (T, error)) (T, error) {
	return OnceAhead(do, what, store.Ahead{}, work)
}

// OnceAhead is Once with what is read as the transaction begins.
func OnceAhead[T any](do Deed, what staff.Deed, ahead store.Ahead, work func(do Deed) (T, error)) (T, error) {
	var out T
	if err := do.Who.May(what); err != nil {
		return out, err
	}
	if text.Len(do.Key) > maxKey {
		return out, fault.Field(office.KeyField, do.Key, "100 characters or fewer", "The request key is too long.")
	}
	name := ""
	if do.Key != "" {
		name = keyed(what, do.Who, do.Key)
	}
	asked, _ := do.Ctx.Value(askedKey{}).(string)
	err := office.Once(do.Ctx, do.Shop.Store, name, asked, do.Shop.Now(), ahead, func(tx store.Tx) (string, error) {
		var zero T
		out = zero
		var err error
		if out, err = work(do.In(tx)); err != nil {
			return "", err
		}
		result, err := json.Marshal(out)
		return string(result), err
	}, func(result string) error { return json.Unmarshal([]byte(result), &out) })
	return out, err
}

// keyed is the name under which the result of a deed of a person is kept.
func keyed(what staff.Deed, who staff.Actor, key string) string {
	return fmt.Sprintf("%s/%d/%s", what, who.ID, key)
}

// Came is what came of a request: whether it was done, and the number of the document that it made, if it made one.
type Came struct {
	Done   bool   `json:"done"`
	Number string `json:"number"`
}

// CameOf is what came of a request of a person under a key, of which the answer was lost.
func CameOf(do Deed, key string) (Came, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return Came{}, err
	}
	var names []string
	for what := range staff.Permissions {
		names = append(names, keyed(what, do.Who, key))
	}
	result, done, err := office.ResultOf(do.Shop.Store.Read(do.Ctx), names)
	var of struct{ Number string }
	if json.Unmarshal([]byte(result), &of) != nil { // what it came to has no number
		of.Number = ""
	}
	return Came{done, of.Number}, err
}
