// Package lists reads stock lists and opening stock in, and writes them out.
package lists
