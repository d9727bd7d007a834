// Package staff knows who may do what: the roles, and the deeds that each is let do. Its main
// rule: what no role is let do is refused, in words.
package staff
