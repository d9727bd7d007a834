package barcode

import (
	"fmt"

	"github.com/makiuchi-d/gozxing/datamatrix/encoder"
)

// The codewords of ASCII encodation (ISO/IEC 16022, section 5.2.3).
const (
	padding    = 129
	digitPairs = 130
	fnc1       = 232
)

// separatorByte is FNC1 as it is transmitted between element strings.
const separatorByte = 29

// dataMatrix draws an element string, such as Elements.String returns, as a
// square GS1 DataMatrix: FNC1 first, ASCII encodation, ECC 200. Text that is no
// element string is an error.
func dataMatrix(text string) ([][]bool, string, error) {
	e, err := ParseElements(text)
	if err != nil {
		return nil, "", err
	}
	text = e.String()
	words := []byte{fnc1}
	for i := 0; i < len(text); i++ {
		switch {
		case text[i] == separatorByte:
			words = append(words, fnc1)
		case i+1 < len(text) && Digits(text[i:i+2]):
			words = append(words, digitPairs+(text[i]-'0')*10+text[i+1]-'0')
			i++
		default:
			words = append(words, text[i]+1)
		}
	}
	info, err := encoder.SymbolInfo_Lookup(len(words), encoder.SymbolShapeHint_FORCE_SQUARE, nil, nil, true)
	if err != nil {
		return nil, "", fmt.Errorf("it is too long")
	}
	if len(words) < info.GetDataCapacity() {
		words = append(words, padding)
	}
	for len(words) < info.GetDataCapacity() { // randomised padding, section 5.2.3
		pad := padding + (149*(len(words)+1))%253 + 1
		if pad > 254 {
			pad -= 254
		}
		words = append(words, byte(pad))
	}
	words, err = encoder.ErrorCorrection_EncodeECC200(words, info)
	if err != nil {
		return nil, "", err
	}
	placed := encoder.NewDefaultPlacement(words, info.GetSymbolDataWidth(), info.GetSymbolDataHeight())
	placed.Place()
	return withFinders(placed, info), text, nil
}

// withFinders sets the placed modules into their regions, each with its solid
// left and lower side and its broken upper and right side.
func withFinders(placed *encoder.DefaultPlacement, info *encoder.SymbolInfo) [][]bool {
	rows := make([][]bool, info.GetSymbolHeight())
	high, wide := info.GetMatrixHeight(), info.GetMatrixWidth()
	for y := range rows {
		rows[y] = make([]bool, info.GetSymbolWidth())
		inY := y % (high + 2)
		for x := range rows[y] {
			inX := x % (wide + 2)
			switch {
			case inX == 0 || inY == high+1:
				rows[y][x] = true
			case inY == 0:
				rows[y][x] = inX%2 == 0
			case inX == wide+1:
				rows[y][x] = inY%2 == 1
			default:
				rows[y][x] = placed.GetBit(x/(wide+2)*wide+inX-1, y/(high+2)*high+inY-1)
			}
		}
	}
	return rows
}
