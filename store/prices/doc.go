// Package prices keeps price lists, prices and tax classes.
package prices
