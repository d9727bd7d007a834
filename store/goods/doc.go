// Package goods keeps the catalog: products, variants, categories, values, barcodes, pictures;
// finds and lists them.
package goods
