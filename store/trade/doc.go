// Package trade keeps deliveries, baskets, sales, returns and drawers.
package trade
