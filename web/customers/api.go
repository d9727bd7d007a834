package customers

import (
	"fmt"

	shopcustomers "itemrack/shop/customers"
	"itemrack/store/customers"
	"itemrack/web/kit"
)

func address(id uint64) string { return fmt.Sprintf("/customers/%d", id) }

func apiList(c *kit.Call, page int) ([]customers.Row, bool, error) {
	return customers.Find(c.Q(), c.Query("q"), page)
}

func apiMake(c *kit.Call, in shopcustomers.Input) (shopcustomers.Ref, error) {
	return shopcustomers.Make(c.Deed(), in)
}

func apiOne(c *kit.Call, id uint64) (shopcustomers.Record, error) {
	record, _, err := shopcustomers.Read(c.Deed(), id, c.PageNumber())
	return record, err
}

func apiChange(c *kit.Call, id uint64, in shopcustomers.Input) (shopcustomers.Ref, error) {
	return shopcustomers.Change(c.Deed(), id, in)
}

func apiForget(c *kit.Call, id uint64) (shopcustomers.Ref, error) {
	return shopcustomers.Forget(c.Deed(), id)
}

func apiMerge(c *kit.Call, id uint64, in shopcustomers.MergeInput) (shopcustomers.Ref, error) {
	return shopcustomers.Merge(c.Deed(), id, in)
}
