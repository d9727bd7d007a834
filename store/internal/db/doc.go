// Package db is the way to MariaDB: transactions, queries that are sent together, what the
// shop is set to, copies of what seldom changes. Its main rule: SQL stays below the store.
package db
