// Package labels keeps the kinds of label that a shop designed.
package labels
