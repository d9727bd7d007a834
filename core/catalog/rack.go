package catalog

// NotMade stands in a Slot for a cell that has no variant.
const NotMade = -1

// Slot is a cell of a rack: the index of its variant in the list the rack was
// built from, or NotMade.
type Slot struct {
	Choice  Choice
	Variant int
}

// Rail is one row of a rack: a colour with its sizes.
type Rail struct {
	Label  string
	Swatch string
	Slots  []Slot
}

// Rack is how a product's variants hang: one rail for each value of the first
// axis (and third, where there is one), the second axis along it. A product
// with one axis has a single rail, one without axes a single cell.
type Rack struct {
	Down    string
	Across  string
	Columns []string
	Rails   []Rail
}

// Hang builds the rack of some variants.
func Hang(axes []Axis, variants []Choice) Rack {
	at := map[string]int{}
	for i, c := range variants {
		at[c.Key()] = i
	}
	slot := func(c Choice) Slot {
		if i, ok := at[c.Key()]; ok {
			return Slot{c, i}
		}
		return Slot{c, NotMade}
	}
	switch len(axes) {
	case 0:
		return Rack{Columns: []string{""}, Rails: []Rail{{Slots: []Slot{slot(Choice{})}}}}
	case 1:
		rack := Rack{Across: axes[0].Name}
		rail := Rail{}
		for _, v := range axes[0].Values {
			rack.Columns = append(rack.Columns, v.Name)
			rail.Slots = append(rail.Slots, slot(Choice{v.Name}))
		}
		rack.Rails = []Rail{rail}
		return rack
	}
	rack := Rack{Down: axes[0].Name, Across: axes[1].Name}
	for _, v := range axes[1].Values {
		rack.Columns = append(rack.Columns, v.Name)
	}
	third := []Value{{}}
	if len(axes) == 3 {
		third = axes[2].Values
		rack.Down += " · " + axes[2].Name
	}
	for _, down := range axes[0].Values {
		for _, t := range third {
			rail := Rail{Label: down.Name, Swatch: down.Swatch}
			if len(axes) == 3 {
				rail.Label += " · " + t.Name
			}
			for _, across := range axes[1].Values {
				c := Choice{down.Name, across.Name}
				if len(axes) == 3 {
					c = append(c, t.Name)
				}
				rail.Slots = append(rail.Slots, slot(c))
			}
			rack.Rails = append(rack.Rails, rail)
		}
	}
	return rack
}
