package office

import (
	"strconv"
	"strings"
	"time"

	"itemrack/core/text"
	"itemrack/store/internal/db"

	"gorm.io/gorm"
)

// The rows of the tables, as GORM writes and reads them.

// Branch is a shop or a store room.
type Branch struct {
	ID       uint64 `json:"id"`
	Name     string `json:"name"`
	NameKey  string `json:"-"`
	Position int    `json:"position"`
	Closed   bool   `json:"closed"`
}

// BeforeSave keeps the key with the name.
func (r *Branch) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// User is a person who signs in.
type User struct {
	ID           uint64     `json:"id"`
	Login        string     `json:"login"`
	Name         string     `json:"name"`
	PasswordHash string     `json:"-"`
	Role         string     `json:"role"`
	BranchID     uint64     `json:"branch_id"`
	ClosedAt     *time.Time `json:"closed_at"`
	Version      uint64     `gorm:"default:1" json:"-"`
	PINHash      string     `gorm:"column:pin_hash" json:"-"`
	PINWrong     int        `gorm:"column:pin_wrong" json:"-"`
	PINUntil     *time.Time `gorm:"column:pin_until" json:"-"`
	WorksAt      string     `gorm:"->" json:"-"` // the branches, with commas
}

// Branches are the branches that the person works at.
func (u User) Branches() []uint64 {
	var list []uint64
	for _, part := range strings.Split(u.WorksAt, ",") {
		if id, err := strconv.ParseUint(part, 10, 64); err == nil {
			list = append(list, id)
		}
	}
	return list
}

// APIToken lets a program act as a user; only its hash is kept.
type APIToken struct {
	ID        uint64     `json:"id"`
	UserID    uint64     `json:"user_id"`
	Person    string     `gorm:"->" json:"person"`
	Name      string     `json:"name"`
	TokenHash string     `json:"-"`
	CreatedAt time.Time  `json:"created_at"`
	ExpiresAt *time.Time `json:"expires_at"`
}

// AddUser writes a person, and fills in the number.
func AddUser(tx db.Tx, row *User) error { return SaveUser(tx, row, nil) }

// AddToken writes a token of a person, and fills in the number.
func AddToken(tx db.Tx, row *APIToken) error { return db.Insert(tx, row) }

// AddBranch writes a branch, and fills in the number.
func AddBranch(tx db.Tx, row *Branch) error { return db.Insert(tx, row) }
