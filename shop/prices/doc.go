// Package prices sets prices and tax rates, and says why something costs what it costs.
package prices
