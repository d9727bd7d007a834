// Package book keeps the stock book. Its main rule: Post is the only door into it, over a
// holding that is locked until the transaction ends.
package book
