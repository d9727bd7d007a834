package office

import (
	"context"
	"encoding/json"
	"fmt"

	"itemrack/core/fault"
	"itemrack/core/paper"
	"itemrack/core/staff"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store/devices"
)

// Paper is what came out of a printer, drawn.
type Paper struct {
	devices.PrintJob
	Drawn []paper.Page
}

// Papers lists what came out of the printers last.
func Papers(ctx context.Context, s *deed.Shop, most int) ([]Paper, error) {
	jobs, err := devices.Prints(s.Store.Read(ctx), most)
	list := make([]Paper, len(jobs))
	for i, j := range jobs {
		list[i].PrintJob = j
		if err := json.Unmarshal([]byte(j.Pages), &list[i].Drawn); err != nil {
			return nil, err
		}
	}
	return list, err
}

// SetDevice puts a stand-in into a state, such as out of paper.
func SetDevice(do deed.Deed, name, state string) (string, error) {
	return deed.Once(do.Under(""), staff.DeedDevices, func(do deed.Deed) (string, error) {
		for _, known := range device.States[name] {
			if known == state {
				return state, devices.SetDevice(do.Tx, name, state)
			}
		}
		return "", fault.Field("state", state, fmt.Sprint(device.States[name]), "The %s can't be %q.", name, state)
	})
}
