package ledger_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"

	"itemrack/core/ledger"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestPostings(t *testing.T) {
	p := ledger.Postings{}
	p.Add(ledger.Cash, d("10"))
	p.Add(ledger.Income, d("-10"))
	p.Add(ledger.TaxOut, d("0"))
	assert.Len(t, p.List(), 2)
	assert.NoError(t, ledger.Balanced(p.List()))
	p.Add(ledger.Cash, d("0.01"))
	assert.Error(t, ledger.Balanced(p.List()))
}
