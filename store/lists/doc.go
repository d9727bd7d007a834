// Package lists keeps imports, saved views and changes of many products.
package lists
