package web

import "itemrack/shop"

// settingsPages are the addresses of settings.
var settingsPages = []route{
	unsigned("GET", "/start", (*call).start),
	unsigned("POST", "/start", (*call).begin),
	page("GET", "/settings", shop.DeedLook, (*call).settings),
	page("GET", "/devices", shop.DeedDevices, (*call).devices),
}

// settingsAPI are the addresses of settings.
var settingsAPI = []route{
	ask("GET", "/settings", shop.DeedLook, "Read what the shop is set to", apiSettings),
	take("POST", "/practice/end", shop.DeedSettings, "End the shop's practice: clear all documents, or keep them", apiBeginForReal),
	take("PUT", "/settings", shop.DeedSettings, "Change the settings", apiSaveSettings),
	take("POST", "/barcode-ranges", shop.DeedSettings, "Open a further range of own numbers", apiAddRange),
	takeOn("PUT", "/barcode-ranges/:id", shop.DeedSettings, "Open or close a range of own numbers", apiSwitchRange),
	take("PUT", "/devices/:name", shop.DeedDevices, "Put a stand-in into a state", apiSetDevice),
}

// settingsPlace is what the shop is set to, its first start, its stand-ins.
var settingsPlace = Place{Pages: settingsPages, API: settingsAPI}
