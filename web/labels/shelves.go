package labels

import (
	"itemrack/core/label"
	"itemrack/core/scan"
	"itemrack/device"
	"itemrack/device/face"
	"itemrack/store/book"
	"itemrack/store/office"
	"itemrack/web/kit"
)

// shelfLabels is a PDF with a label for each shelf of the person's branch; what is scanned after one goes
// there.
func shelfLabels(c *kit.Call) error {
	shelves, err := book.ShelvesOf(c.Q(), c.Who.Branch)
	if err != nil {
		return err
	}
	branches, err := office.Branches(c.Q())
	if err != nil {
		return err
	}
	var list []label.ShelfLabel
	for _, s := range shelves {
		l := label.ShelfLabel{Name: s.Name, Code: scan.ShelfCode(s.ID)}
		for _, b := range branches {
			if b.ID == s.Branch {
				l.Branch = b.Name
			}
		}
		list = append(list, l)
	}
	pages, err := label.ShelfSheets(list, face.Measure)
	if err != nil {
		return err
	}
	data, err := device.PDF("Shelves", pages)
	if err != nil {
		return err
	}
	return c.Pdf("shelves.pdf", data)
}
