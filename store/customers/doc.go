// Package customers keeps whom the shop sells to.
package customers
