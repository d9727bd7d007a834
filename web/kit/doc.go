// Package kit is what all areas of the web serve with: routes with their types, pages and their
// parts, the rack, sign-in, the description of the API.
package kit
