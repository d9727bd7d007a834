package office

import (
	"time"

	"itemrack/store/internal/db"
)

// The rows of the tables, as GORM writes and reads them.

// Branch is a shop or a store room.
type Branch struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// User is a person who signs in.
type User struct {
	ID           uint64 `json:"id"`
	Login        string `json:"login"`
	Name         string `json:"name"`
	PasswordHash string `json:"-"`
	Role         string `json:"role"`
	BranchID     uint64 `json:"branch_id"`
}

// APIToken lets a program act as a user; only its hash is kept.
type APIToken struct {
	ID        uint64    `json:"id"`
	UserID    uint64    `json:"user_id"`
	TokenHash string    `json:"-"`
	CreatedAt time.Time `json:"created_at"`
}

// AddUser writes a person, and fills in the number.
func AddUser(tx db.Tx, row *User) error { return db.Insert(tx, row) }

// AddToken writes a token of a person, and fills in the number.
func AddToken(tx db.Tx, row *APIToken) error { return db.Insert(tx, row) }

// AddBranch writes a branch, and fills in the number.
func AddBranch(tx db.Tx, row *Branch) error { return db.Insert(tx, row) }
