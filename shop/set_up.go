package shop

import (
	"context"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/store"
)

// Layout is what a new shop begins with.
type Layout struct {
	Name, Zone, Prefix string
	Branches           []BranchPlan
	Taxes              []TaxPlan
}

// BranchPlan is a branch with its shelves, the first one the default, and its
// registers by code.
type BranchPlan struct {
	Name      string
	Shelves   []string
	Registers []RegisterPlan
}

// RegisterPlan is a register; its code begins its sale numbers.
type RegisterPlan struct{ Code, Name string }

// TaxPlan is a tax class with its rate in percent.
type TaxPlan struct {
	Name    string
	Percent int64
}

// SetUp makes the shop itself, once: a database that has a shop is left alone.
// It reports whether it made one.
func (s *Shop) SetUp(ctx context.Context, plan Layout) (bool, error) {
	if err := barcode.CheckPrefix(plan.Prefix); err != nil {
		return false, err
	}
	made := false
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		made = false
		have, err := tx.Setting("shop_name")
		if err != nil || have != "" {
			return err
		}
		for name, value := range map[string]string{"shop_name": plan.Name, "zone": plan.Zone, "barcode_prefix": plan.Prefix} {
			if err := tx.Set(name, value); err != nil {
				return err
			}
		}
		for _, b := range plan.Branches {
			if err := b.write(tx); err != nil {
				return err
			}
		}
		for _, t := range plan.Taxes {
			class := store.TaxClass{Name: t.Name}
			if err := tx.Insert(&class); err != nil {
				return err
			}
			rate := store.TaxRate{TaxClassID: class.ID, FromAt: time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC), Percent: decimal.New(t.Percent, 0)}
			if err := tx.Insert(&rate); err != nil {
				return err
			}
		}
		made = true
		return nil
	})
	return made, err
}

func (b BranchPlan) write(tx store.Tx) error {
	branch := store.Branch{Name: b.Name}
	if err := tx.Insert(&branch); err != nil {
		return err
	}
	for i, name := range b.Shelves {
		if err := tx.Insert(&store.Shelf{BranchID: branch.ID, Name: name, IsDefault: i == 0}); err != nil {
			return err
		}
	}
	for _, r := range b.Registers {
		if err := tx.Insert(&store.Register{BranchID: branch.ID, Name: r.Name, Code: r.Code}); err != nil {
			return err
		}
	}
	return nil
}

// SetCategoryColours gives categories the colour of their tiles, by path.
func (s *Shop) SetCategoryColours(ctx context.Context, who Actor, colours map[string]string) error {
	_, err := once(ctx, s, who, DeedCatalog, "", func(tx store.Tx) (bool, error) {
		for path, colour := range colours {
			if err := tx.SetCategoryColour(path, colour); err != nil {
				return false, err
			}
		}
		return true, nil
	})
	return err
}

// Verify holds all records against each other.
func (s *Shop) Verify(ctx context.Context, who Actor) ([]store.Check, error) {
	if err := who.May(DeedVerify); err != nil {
		return nil, err
	}
	return s.Store.Verify(ctx)
}
