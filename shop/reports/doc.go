// Package reports explains figures, and proves that the records agree.
package reports
