package sheet

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"itemrack/core/fault"
)

func all(t testing.TB, data string) ([][]string, error) {
	t.Helper()
	r, err := Open(strings.NewReader(data))
	if err != nil {
		return nil, err
	}
	defer r.Close()
	var rows [][]string
	for {
		_, record, err := r.Next()
		if errors.Is(err, io.EOF) {
			return rows, nil
		}
		if err != nil {
			return rows, err
		}
		rows = append(rows, append([]string{}, record...))
	}
}

func TestSeparatorsAndEncodings(t *testing.T) {
	want := [][]string{{"product", "price"}, {"Größe, lang", "1"}}
	latin, err := charmap.Windows1252.NewEncoder().String("product;price\r\n\"Größe, lang\";1\r\n")
	require.NoError(t, err)
	wide, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).
		NewEncoder().
		String("product\tprice\nGröße, lang\t1\n")
	require.NoError(t, err)
	for name, data := range map[string]string{
		"commas": "product,price\n\"Größe, lang\",1\n", "mark": "\ufeffproduct|price\n\n  \nGröße, lang|1",
		"Windows-1252": latin, "UTF-16": wide, "a comma in a quoted head": "product;price\n\"Größe, lang\";1\n"} {
		rows, err := all(t, data)
		require.NoError(t, err, name)
		assert.Equal(t, want, rows, name)
	}
	long := "product,price\n" + strings.Repeat("é", 300_000) + ",1\n" // a letter lies across the buffer's end
	rows, err := all(t, long)
	require.NoError(t, err)
	assert.Equal(t, strings.Repeat("é", 300_000), rows[1][0])
}

func TestLinesAreThoseOfTheFile(t *testing.T) {
	r, err := Open(strings.NewReader("a,b\n\n\"x\ny\",1\nz,2\n"))
	require.NoError(t, err)
	var lines []int
	for {
		line, _, err := r.Next()
		if err != nil {
			break
		}
		lines = append(lines, line)
	}
	assert.Equal(t, []int{1, 3, 5}, lines)
}

func TestWhatIsNoTable(t *testing.T) {
	for name, data := range map[string]string{"empty": "", "open quote": "a,b\n\"x,1\n", "bytes": "a\x00b",
		"PDF": "%PDF-1.7", "old spreadsheet": "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "a ZIP": "PK\x03\x04nonsense",
		"far too wide": strings.Repeat(",", 400)} {
		_, err := all(t, data)
		require.Error(t, err, name)
		require.NotNil(t, fault.Of(err), "%s: %v", name, err)
		assert.Equal(t, "file", fault.Of(err).Field, name)
	}
}

func TestWhatIsWrittenIsReadAgain(t *testing.T) {
	rows := [][]any{
		{
			"00123",
			decimal.RequireFromString("34.95"),
			decimal.RequireFromString("-4"),
			true,
			time.Date(2026, 12, 31, 0, 0, 0, 0, time.UTC),
			nil,
			7,
		},
		{
			"2000000000015",
			decimal.RequireFromString("13.994012"),
			decimal.RequireFromString("0.30"),
			false,
			nil,
			"=1+1",
			0,
		},
		{"Größe, \"lang\"", nil, nil, nil, nil, "-5 %", nil},
	}
	want := [][]string{{"code", "price", "n", "yes", "day", "text", "count"},
		{"00123", "34.95", "-4", "yes", "2026-12-31", "", "7"},
		{"2000000000015", "13.994012", "0.3", "no", "", "=1+1", "0"}, {"Größe, \"lang\"", "", "", "", "", "-5 %", ""}}
	for _, f := range []Format{CSV, XLSX} {
		var out bytes.Buffer
		w, err := NewWriter(f, &out, want[0])
		require.NoError(t, err)
		for _, r := range rows {
			require.NoError(t, w.Write(append([]any{}, r...)))
		}
		require.NoError(t, w.Close())
		got, err := all(t, out.String())
		require.NoError(t, err, f)
		require.Len(t, got, 4)
		for i := range got {
			for len(got[i]) < 7 {
				got[i] = append(got[i], "")
			}
			got[i][5] = strings.TrimPrefix(got[i][5], "'") // no formula
		}
		if f == XLSX {
			got[1][4] = "2026-12-31" // a date is a number there
		}
		assert.Equal(t, want, got, f)
	}
	_, err := ParseFormat("ods")
	assert.Error(t, err)
}

func TestNumbersAsTheyAreShown(t *testing.T) {
	for raw, want := range map[string]string{"13.949999999999999": "13.95", "34.9499999999999": "34.95",
		"1.4000000000001E13": "14000000000001", "2.000000000015E12": "2000000000015",
		"0012345678905123": "0012345678905123", "34.95": "34.95", "TWV-EEE": "TWV-EEE", "1E-2": "0.01"} {
		assert.Equal(t, want, shown(raw), raw)
	}
}

func FuzzOpen(f *testing.F) {
	f.Add([]byte("product,price\nA,1\n"))
	f.Add([]byte("\xff\xfea\x00,\x00"))
	f.Add([]byte("a;b\n\"x\";\xe9\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if bytes.HasPrefix(data, []byte("PK")) {
			return
		}
		readAll(t, data)
	})
}

// readAll reads a file to its end, or to what is wrong with it.
func readAll(t *testing.T, data []byte) {
	began := time.Now()
	defer func() {
		if long := time.Since(began); long > 5*time.Second {
			t.Fatalf("%d bytes took %v", len(data), long)
		}
	}()
	r, err := Open(bytes.NewReader(data))
	if err == nil {
		defer r.Close()
	}
	for n := 0; err == nil && n < 10_000; n++ {
		_, _, err = r.Next()
	}
	if err != nil && !errors.Is(err, io.EOF) && fault.Of(err) == nil {
		t.Fatal(fmt.Errorf("not a sentence for people: %w", err))
	}
}

// FuzzXLSX puts what it tries into a book that is else whole, as the sheet or as all of it.
func FuzzXLSX(f *testing.F) {
	var book bytes.Buffer
	w, err := NewWriter(XLSX, &book, []string{"product", "price"})
	require.NoError(f, err)
	require.NoError(f, w.Write([]any{"=Vest", decimal.New(3495, -2)}))
	require.NoError(f, w.Close())
	whole := book.Bytes()
	f.Add(whole, false)
	f.Add(whole[:len(whole)/2], false)
	for _, sheet := range []string{`<worksheet><sheetData><row r="1"><c r="A1" t="s"><v>9</v></c></row></sheetData></worksheet>`,
		`<worksheet><sheetData><row r="99999999"><c r="XFD1" t="inlineStr"><is><t>x</t></is></c></row></sheetData></worksheet>`,
		`<worksheet><sheetData><row><c><v>1e999</v></c><c r="A0"/>`, "\x00"} {
		f.Add([]byte(sheet), true)
	}
	f.Fuzz(func(t *testing.T, data []byte, inside bool) {
		if inside {
			data = withSheet(t, whole, data)
		} else if !bytes.HasPrefix(data, []byte("PK")) {
			return
		}
		readAll(t, data)
	})
}

// withSheet is a book with another first sheet.
func withSheet(t *testing.T, book, sheet []byte) []byte {
	from, err := zip.NewReader(bytes.NewReader(book), int64(len(book)))
	require.NoError(t, err)
	var out bytes.Buffer
	to := zip.NewWriter(&out)
	for _, part := range from.File {
		w, err := to.Create(part.Name)
		require.NoError(t, err)
		if part.Name == "xl/worksheets/sheet1.xml" {
			_, err = w.Write(sheet)
			require.NoError(t, err)
			continue
		}
		r, err := part.Open()
		require.NoError(t, err)
		_, err = io.Copy(w, r)
		require.NoError(t, err)
	}
	require.NoError(t, to.Close())
	return out.Bytes()
}
