// Package sendings keeps what goes from one branch to another, line by line.
package sendings
