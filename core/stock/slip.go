package stock

import (
	"time"

	"itemrack/core/paper"
)

// SendingSlip is the slip that goes with a sending: its code opens the arrival by one scan.
type SendingSlip struct {
	Shop, Number, From, To, Note string
	Left                         time.Time
	Lines                        []SlipLine
}

// SlipLine is goods on a slip.
type SlipLine struct {
	Code, Name, Label, SKU, Lot string
	Condition                   Condition
	Quantity                    string
	Numbers                     []string
}

// Listing lays the slip out: a box to note beside each line what is there.
func (s SendingSlip) Listing() paper.Listing {
	l := paper.Listing{Shop: s.Shop, Title: "Sending " + s.Number, Code: s.Number,
		Says: []string{"from " + s.From + " to " + s.To,
			s.Note}, Foot: s.Number + " · " + s.From + " to " + s.To,
		Columns: []paper.ListingColumn{{Head: "Goods", X: paper.NameX},
			{Head: "Sent", X: 165, W: 22, Right: true}, {Head: "Here", X: 195, W: 22, Right: true, Boxed: true}}}
	if !s.Left.IsZero() {
		l.Says = append([]string{"left " + s.Left.Format("2 January 2006, 15:04")}, l.Says...)
	}
	for _, line := range s.Lines {
		row := paper.ListingRow{Code: line.Code, Name: line.Name, Under: []string{line.Label, line.SKU},
			Cells: []string{line.Quantity,
				""}, Ticks: line.Numbers}
		if line.Lot != "" {
			row.Under[1] += " · lot " + line.Lot
		}
		if line.Condition != ForSale {
			row.Under[1] += " · " + string(line.Condition)
		}
		l.Rows = append(l.Rows, row)
	}
	return l
}
