package buying

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// KeptCosts is what a line keeps of what it costs when somebody counts it anew who sees no
// costs: the total of the line while its quantity stays, else what one cost.
func KeptCosts(each, total *decimal.Decimal, was, now decimal.Decimal) (*decimal.Decimal, *decimal.Decimal) {
	if total != nil && was.Equal(now) {
		return nil, total
	}
	return each, nil
}

// CostMissing refuses a line of which nobody knows what one cost; sees says whether whoever
// posts it sees costs, and can say it.
func CostMissing(name string, sees bool) error {
	if sees {
		return fault.Field("cost", "", "what one cost; 0 if it cost nothing", "%s: what did one cost?", name)
	}
	return fault.Refuse("cost", "", "somebody who sees costs to enter it and take the delivery in",
		"%s: nobody has said what one costs. The delivery is kept as it is.", name)
}
