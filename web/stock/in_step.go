package stock

import (
	"bufio"
	"context"
	"encoding/json"
	"log/slog"
	"time"

	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/reports"
	"itemrack/store/book"
	"itemrack/web/kit"
)

// inStep shows the checks; what comes of them comes by inStepChecks.
func inStep(c *kit.Call) error {
	accounts, err := book.Accounts(c.Q())
	if err != nil {
		return err
	}
	return c.Page("in_step", "Stock", "In step", map[string]any{"Checks": book.Checks(), "Accounts": accounts})
}

// proved is a line of what inStepChecks sends: a check, or at the end how it ended.
type proved struct {
	book.Check
	Done   bool   `json:"done,omitempty"`
	Failed string `json:"failed,omitempty"`
}

// inStepChecks does the checks and sends a line of JSON for each as it is done.
func inStepChecks(c *kit.Call) error {
	if err := c.Who.May(staff.DeedVerify); err != nil {
		return err
	}
	shop, who := c.Shop, c.Who
	c.Set("Content-Type", "application/x-ndjson")
	return c.SendStreamWriter(func(w *bufio.Writer) {
		const longest = 10 * time.Minute
		ctx, stop := context.WithTimeout(context.Background(), longest)
		defer stop()
		tell := func(line proved) {
			if json.NewEncoder(w).Encode(line) != nil || w.Flush() != nil {
				stop() // nobody looks any more
			}
		}
		_, err := reports.Verify(deed.By(ctx, shop, who, ""), func(check book.Check) { tell(proved{Check: check}) })
		last := proved{Done: true}
		if err != nil {
			slog.Error("checks failed", "err", err)
			last.Failed = "The checks could not be finished. Try again."
		}
		tell(last)
	})
}
