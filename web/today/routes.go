// Package today shows what needs a hand.
package today

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/", staff.DeedLook, today)}

//go:embed *.html
var files embed.FS

// Place is what needs a hand.
var Place = kit.Place{Name: "Today", Path: "/", Key: "t", Deed: staff.DeedLook, Pages: pages, Files: files}
