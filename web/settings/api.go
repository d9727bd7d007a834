package settings

import (
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/till"
	"itemrack/web/kit"
)

type deviceInput struct {
	State string `json:"state"`
}

func apiSetDevice(c *kit.Call, in deviceInput) (string, error) {
	return office.SetDevice(c.Deed(), c.Text("name"), in.State)
}

func apiCameOf(c *kit.Call) (deed.Came, error) { return deed.CameOf(c.Deed(), c.Text("key")) }

func apiSettings(c *kit.Call) (office.Settings, error) {
	return office.ReadSettings(c.Deed())
}

func apiBeginForReal(c *kit.Call, in office.EndPractice) (book.Practised, error) {
	return office.BeginForReal(c.Deed(), in)
}

func apiSaveSettings(c *kit.Call, in office.SettingsInput) (office.SavedSettings, error) {
	return office.SaveSettings(c.Deed(), in)
}

func apiAddRange(c *kit.Call, in office.RangeInput) (goods.BarcodeRange, error) {
	return office.AddRange(c.Deed(), in)
}

type switchInput struct {
	Open bool `json:"open"`
}

func apiSwitchRange(c *kit.Call, id uint64, in switchInput) (bool, error) {
	return office.SwitchRange(c.Deed(), id, in.Open)
}

func apiSaveTill(c *kit.Call, in office.TillSettingsInput) (office.SavedSettings, error) {
	return office.SaveTill(c.Deed(), in)
}

func apiMakeReason(c *kit.Call, in office.ReasonInput) (office.ReasonView, error) {
	return office.SaveReason(c.Deed(), 0, in)
}

func apiChangeReason(c *kit.Call, id uint64, in office.ReasonInput) (office.ReasonView, error) {
	return office.SaveReason(c.Deed(), id, in)
}

func apiConditions(c *kit.Call) ([]office.ConditionView, error) { return office.Conditions(c.Q()) }

func apiMakeCondition(c *kit.Call, in office.ConditionInput) (office.ConditionView, error) {
	return office.SaveCondition(c.Deed(), 0, in)
}

func apiChangeCondition(c *kit.Call, id uint64, in office.ConditionInput) (office.ConditionView, error) {
	return office.SaveCondition(c.Deed(), id, in)
}

func apiAddBranch(c *kit.Call, in office.BranchInput) (office.BranchSaved, error) {
	return office.SaveBranch(c.Deed(), 0, in)
}

func apiChangeBranch(c *kit.Call, id uint64, in office.BranchInput) (office.BranchSaved, error) {
	return office.SaveBranch(c.Deed(), id, in)
}

func apiAddShelf(c *kit.Call, in office.ShelfInput) (office.ShelfSaved, error) {
	return office.SaveShelf(c.Deed(), 0, in)
}

func apiChangeShelf(c *kit.Call, id uint64, in office.ShelfInput) (office.ShelfSaved, error) {
	return office.SaveShelf(c.Deed(), id, in)
}

func apiAddRegister(c *kit.Call, in office.RegisterInput) (till.Register, error) {
	return office.AddRegister(c.Deed(), in)
}

func apiWays(c *kit.Call) ([]office.Way, error) { return office.Ways(c.Q()) }

func apiSaveWay(c *kit.Call, in office.WayInput) (office.Way, error) {
	return office.SaveWay(c.Deed(), in)
}

func apiChangePIN(c *kit.Call, in office.PINChange) (changed, error) {
	who, err := office.ChangePIN(c.Deed(), in)
	if err != nil {
		return changed{}, err
	}
	return changed{"Your PIN is set."}, c.Renew(who)
}
