package scan

import (
	"itemrack/store/goods"
)

// GoodsLine is a line of a delivery, or of opening stock, as it is typed. Serials
// are separated by commas or line ends; Expiry is a date as number.Day reads it.
type GoodsLine struct {
	Variant  uint64 `json:"variant_id"`
	Quantity string `json:"quantity"`
	Cost     string `json:"cost"`
	Total    string `json:"total"` // of the line, in place of what one costs
	Lot      string `json:"lot"`
	Expiry   string `json:"expiry"`
	Serials  string `json:"serials"`
	Shelf    uint64 `json:"shelf_id"` // 0 for the branch's default one
}

// DeliveryScanned says what a scan did to a delivery. When it is not of one
// variant nothing is changed, and Pick or Offers say what it may have meant.
type DeliveryScanned struct {
	Said     string        `json:"said,omitempty"`
	Pick     *goods.Found  `json:"pick,omitempty"`
	Offers   []goods.Found `json:"offers,omitempty"`
	ID       uint64        `json:"id,omitempty"`       // of the draft
	Revision uint64        `json:"revision,omitempty"` // of the draft, with what was added
	Verdict  string        `json:"verdict,omitempty"`  // "over" or "not ordered", where an order says so
	Variant  uint64        `json:"variant_id,omitempty"`
	Shelf    *ToShelf      `json:"shelf,omitempty"` // that was scanned: what comes next goes there
}

// ToShelf is a shelf that goods go to.
type ToShelf struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}
