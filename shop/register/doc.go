// Package register sells, takes back, and keeps baskets and drawers.
package register
