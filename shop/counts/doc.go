// Package counts counts shelves while the shop sells on, and settles what differs.
package counts
