// Package catalog builds the catalog: products and their variants, categories, values, barcodes,
// packs, bundles, pictures, and changes of many at once.
package catalog
