package label

import (
	"encoding/json"
	"testing"

	"itemrack/core/fault"
	"itemrack/core/paper"
)

func FuzzTemplate(f *testing.F) {
	for _, t := range Shipped() {
		data, err := json.Marshal(t)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(data)
	}
	f.Add([]byte(`{"name":"x","width":1e308,"height":-0,"fields":[{"kind":"name","em":1e-300}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		template, err := Parse(data)
		if err != nil {
			if fault.Of(err) == nil {
				t.Fatalf("%v is no sentence for people", err)
			}
			return
		}
		if template.Validate() != nil {
			return
		}
		template.Remarks()
		measure := func(text string, _ paper.Face, em float64) float64 { return float64(len(text)) * em / 2 }
		item := Item{Name: "Tidewater rash vest", Price: "£34.95", Barcode: "2000000000015", SKU: "TWV-COR-M",
			Lot:    "K614",
			Values: []AxisValue{{"Colour", "Coral"}, {"Size", "M"}}}
		_, _, err = template.Print([]Order{{item, 3}}, 0, measure)
		if err != nil && fault.Of(err) == nil {
			t.Fatalf("%v is no sentence for people", err)
		}
	})
}
