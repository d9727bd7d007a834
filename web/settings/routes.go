// Package settings shows what the shop is set to, its first start, its stand-ins.
package settings

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Unsigned("GET", "/start", start), kit.Unsigned("POST", "/start", begin),
	kit.Page("GET", "/settings", staff.DeedLook, settings), kit.Page("GET", "/settings/people", staff.DeedSettings,
		people),
	kit.Page("GET", "/settings/reasons", staff.DeedSettings, reasons),
	kit.Page("GET", "/settings/branches", staff.DeedPlaces, branches),
	kit.Page("GET", "/settings/conditions", staff.DeedSettings, conditions),
	kit.Page("GET", "/me", staff.DeedLook, me), kit.Page("GET", "/devices", staff.DeedDevices, devices),
	kit.Page("GET", "/devices/mail/:id", staff.DeedCosts, mail)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Ask("GET", "/requests/:key", staff.DeedLook,
		"Read what came of a request of which the answer was lost, by its key",
		apiCameOf),
	kit.Ask("GET", "/settings", staff.DeedLook, "Read what the shop is set to", apiSettings),
	kit.Take("POST", "/practice/end", staff.DeedSettings, "End the shop's practice: clear all documents, or keep them",
		apiBeginForReal),
	kit.Take("PUT", "/settings", staff.DeedSettings, "Change the settings", apiSaveSettings),
	kit.Take("PUT", "/settings/register", staff.DeedSettings, "Change what the registers do", apiSaveTill),
	kit.Take("POST", "/reasons", staff.DeedSettings, "Make a reason why stock or money changes", apiMakeReason),
	kit.TakeOn("PUT", "/reasons/:id", staff.DeedSettings, "Change a reason, or close it", apiChangeReason),
	kit.Take("POST", "/branches", staff.DeedSettings, "Open another branch, with its first shelf", apiAddBranch),
	kit.TakeOn("PUT", "/branches/:id", staff.DeedSettings, "Change a branch, or close it when it is empty",
		apiChangeBranch),
	kit.Take("POST", "/shelves", staff.DeedPlaces, "Put up another shelf", apiAddShelf),
	kit.TakeOn("PUT", "/shelves/:id", staff.DeedPlaces, "Change a shelf, or close it when it is empty", apiChangeShelf),
	kit.Take("POST", "/registers", staff.DeedSettings, "Put up another register", apiAddRegister),
	kit.All("/conditions", staff.DeedLook, "List the conditions that goods can be in", apiConditions),
	kit.Take("POST", "/conditions", staff.DeedSettings, "Make another condition", apiMakeCondition),
	kit.TakeOn("PUT", "/conditions/:id", staff.DeedSettings, "Change a condition, or close it", apiChangeCondition),
	kit.All("/branch-ways", staff.DeedLook, "List how many minutes one is from branch to branch", apiWays),
	kit.Take("PUT", "/branch-ways", staff.DeedSettings, "Say how many minutes one is from one branch to another and back",
		apiSaveWay),
	kit.Take("POST", "/barcode-ranges", staff.DeedSettings, "Open a further range of own numbers", apiAddRange),
	kit.TakeOn("PUT", "/barcode-ranges/:id", staff.DeedSettings, "Open or close a range of own numbers",
		apiSwitchRange),
	kit.All("/people", staff.DeedSettings, "List the people, those who left last", apiPeople),
	kit.Take("POST", "/people", staff.DeedSettings, "Let a person sign in", apiAddPerson),
	kit.TakeOn("PUT", "/people/:id", staff.DeedSettings,
		"Change a person: role, branches, password, and whether the person has left", apiChangePerson),
	kit.Take("POST", "/me/password", staff.DeedLook, "Change one's own password; all other sessions end",
		apiChangePassword),
	kit.Take("POST", "/me/pin", staff.DeedLook, "Set one's own PIN for the registers", apiChangePIN),
	kit.All("/tokens", staff.DeedLook, "List one's own tokens; a manager sees everybody's", apiTokens),
	kit.Take("POST", "/tokens", staff.DeedLook, "Make a token that acts for oneself; it is shown once", apiMakeToken),
	kit.On("DELETE", "/tokens/:id", staff.DeedLook, "End a token", apiEndToken),
	kit.Take("PUT", "/devices/:name", staff.DeedDevices, "Put a stand-in into a state", apiSetDevice),
}

//go:embed *.html *.js
var files embed.FS

// Place is what the shop is set to, its first start, its stand-ins.
var Place = kit.Place{Pages: pages, API: api, Files: files}
