// Package office opens the shop, keeps its settings and lets people in.
package office
