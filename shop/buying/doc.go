// Package buying takes deliveries into stock: drafts, scans into them, landed cost, posting.
package buying
