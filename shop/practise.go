package shop

import (
	"context"
	"strings"

	"itemrack/core/fault"
	"itemrack/store"
)

// EndPractice begins for real. Unless what was practised is kept it is cleared:
// every document, and all that is on hand. Name is the shop's, typed again, since
// nothing brings it back.
type EndPractice struct {
	Keep bool   `json:"keep"`
	Name string `json:"name"`
}

// BeginForReal ends the shop's practice, once: from then on what is posted stays.
// It returns what had been practised.
func (s *Shop) BeginForReal(ctx context.Context, who Actor, key string, in EndPractice) (store.Practised, error) {
	return once(ctx, s, who, DeedSettings, key, func(tx store.Tx) (store.Practised, error) {
		practising, err := tx.LockPractice()
		if err != nil {
			return store.Practised{}, err
		}
		if !practising {
			return store.Practised{}, fault.Clash("practice", "", "a shop that practises", "The shop works for real already: nothing was cleared.")
		}
		name, err := tx.Setting("shop_name")
		if err != nil {
			return store.Practised{}, err
		}
		if !in.Keep && !strings.EqualFold(strings.Join(strings.Fields(in.Name), " "), name) {
			return store.Practised{}, fault.Field("name", in.Name, name, "Type the shop's name, %s, to clear what was practised.", name)
		}
		done, err := tx.Practised()
		if err != nil {
			return done, err
		}
		if !in.Keep {
			if err := tx.ClearPractice(); err != nil {
				return done, err
			}
		}
		return done, tx.Set(store.PracticeSetting, "")
	})
}
