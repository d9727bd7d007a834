// Package labels prints labels of what is on the rack, and keeps the kinds of label.
package labels
