package db

import (
	"database/sql"

	"gorm.io/gorm"
)

// SQL is the way of a query, or of a transaction's, to the database. It is a
// function of this internal package so that nothing above the store can write SQL.
func SQL(q Q) *gorm.DB { return q.db }

// Of is the way of a store to the database, outside of any transaction.
func Of(s *Store) *gorm.DB { return s.db }

// Pool is the store's pool of connections.
func Pool(s *Store) *sql.DB { return s.sql }
