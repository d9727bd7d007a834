package settings

import (
	"itemrack/shop/office"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

type deviceInput struct {
	State string `json:"state"`
}

func apiSetDevice(c *kit.Call, in deviceInput) (string, error) {
	return office.SetDevice(c.Until, c.Shop, c.Who, c.Text("name"), in.State)
}

func apiSettings(c *kit.Call) (office.Settings, error) {
	return office.ReadSettings(c.Until, c.Shop, c.Who)
}

func apiBeginForReal(c *kit.Call, in office.EndPractice) (book.Practised, error) {
	return office.BeginForReal(c.Until, c.Shop, c.Who, c.Key(), in)
}

func apiSaveSettings(c *kit.Call, in office.SettingsInput) (office.SavedSettings, error) {
	return office.SaveSettings(c.Until, c.Shop, c.Who, c.Key(), in)
}

func apiAddRange(c *kit.Call, in office.RangeInput) (goods.BarcodeRange, error) {
	return office.AddRange(c.Until, c.Shop, c.Who, c.Key(), in)
}

type switchInput struct {
	Open bool `json:"open"`
}

func apiSwitchRange(c *kit.Call, id uint64, in switchInput) (bool, error) {
	return office.SwitchRange(c.Until, c.Shop, c.Who, id, in.Open)
}
