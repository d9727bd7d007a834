// Package counts keeps shelf counts and their logs.
package counts
