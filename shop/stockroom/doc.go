// Package stockroom changes conditions, makes up kits, and reverses documents.
package stockroom
