// Package sheet reads and writes tables as CSV and XLSX, row by row, so that a
// file of any length takes little memory. Its main rule: a cell is the text that
// a person sees; nothing is guessed from it here.
package sheet

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"itemrack/core/catalog"
	"itemrack/core/fault"
)

// Reader reads the rows of a table. Next returns io.EOF after the last one; rows
// without any text are passed over. Line is the row's line in the file.
type Reader interface {
	Next() (line int, record []string, err error)
	// DecimalComma says whether numbers in the file have a comma before their
	// decimals: where semicolons separate, commas are free for that.
	DecimalComma() bool
	Close() error
}

// MostCells bounds the columns of a row, mostInAll the cells of a file, and longestRow the
// bytes of a row.
const (
	MostCells  = 300
	mostInAll  = 12_000_000
	longestRow = 1 << 20
)

// rowBound ends a file in which one row goes on and on.
type rowBound struct {
	from io.Reader
	left int // until the row that is being read is too long
}

// Read reads on.
func (b *rowBound) Read(into []byte) (int, error) {
	if b.left <= 0 {
		return 0, fault.Field("file", "over 1 MB", "rows of 1 MB or less",
			"A row of the file is longer than 1 MB. Is a quotation mark in it not closed?")
	}
	n, err := b.from.Read(into)
	b.left -= n
	return n, err
}

// Open reads a file as XLSX or CSV, whichever it is. CSV (RFC 4180) is separated
// by commas, semicolons, tabs or strokes and encoded in UTF-8, UTF-16 with its
// mark, or else Windows-1252. What is neither is an Invalid error on "file".
func Open(file io.ReadSeeker) (Reader, error) {
	start := make([]byte, 8)
	n, err := io.ReadFull(file, start)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return nil, err
	}
	start = start[:n]
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	switch {
	case n == 0:
		return nil, fault.Field("file", "", "a head line and rows below it", "The file is empty.")
	case bytes.HasPrefix(start, []byte("PK\x03\x04")):
		return openXLSX(file)
	case bytes.HasPrefix(start, []byte("\xd0\xcf\x11\xe0")):
		return nil, fault.Field("file", "", "XLSX or CSV",
			"The file is of an old spreadsheet format. Save it as XLSX or CSV.")
	case bytes.HasPrefix(start, []byte("%PDF")):
		return nil, fault.Field("file", "", "XLSX or CSV",
			"The file is a PDF, not a table. Save the table as XLSX or CSV.")
	}
	return openCSV(file, start)
}

type csvReader struct {
	*csv.Reader
	bound *rowBound
}

func (r csvReader) DecimalComma() bool { return r.Comma == ';' }

func openCSV(file io.ReadSeeker, start []byte) (Reader, error) {
	plain, err := decoded(file, start)
	if err != nil {
		return nil, err
	}
	bound := &rowBound{from: plain, left: 2 * longestRow}
	text := bufio.NewReaderSize(bound, 64<<10)
	head, err := text.Peek(16 << 10)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	r := csv.NewReader(text)
	r.Comma, r.FieldsPerRecord, r.ReuseRecord = separator(head), -1, true
	return csvReader{r, bound}, nil
}

// decoded returns the file as UTF-8 without a mark.
func decoded(file io.ReadSeeker, start []byte) (io.Reader, error) {
	switch {
	case bytes.HasPrefix(start, []byte("\xff\xfe")), bytes.HasPrefix(start, []byte("\xfe\xff")):
		return transform.NewReader(file, unicode.BOMOverride(unicode.UTF8.NewDecoder())), nil
	case bytes.HasPrefix(start, []byte("\xef\xbb\xbf")):
		_, err := file.Seek(3, io.SeekStart)
		return file, err
	}
	valid, err := isUTF8(file)
	if err != nil {
		return nil, err
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	if valid {
		return file, nil
	}
	return charmap.Windows1252.NewDecoder().Reader(file), nil
}

// isUTF8 reads the whole file; a zero byte in it means that it is no text.
func isUTF8(file io.Reader) (bool, error) {
	buffer := make([]byte, 256<<10)
	valid, rest := true, 0
	for {
		n, err := file.Read(buffer[rest:])
		part := buffer[:rest+n]
		if bytes.IndexByte(part, 0) >= 0 {
			return false, fault.Field("file", "", "XLSX or CSV",
				"The file is not a table: it holds bytes that no text has.")
		}
		rest = 0
		for valid && len(part) > 0 {
			r, size := utf8.DecodeRune(part)
			if r == utf8.RuneError && size < 2 {
				if !utf8.FullRune(part) && err == nil {
					rest = copy(buffer, part)
					break
				}
				valid = false
			}
			part = part[size:]
		}
		if errors.Is(err, io.EOF) {
			return valid, nil
		}
		if err != nil {
			return false, err
		}
	}
}

// separator finds which of comma, semicolon, tab and stroke the first line uses
// most outside of quotes.
func separator(head []byte) rune {
	counts := map[rune]int{}
	quoted := false
	for _, r := range string(head) {
		if r == '"' {
			quoted = !quoted
		}
		if !quoted {
			if r == '\n' {
				break
			}
			counts[r]++
		}
	}
	best := ','
	for _, r := range ";\t|" {
		if counts[r] > counts[best] {
			best = r
		}
	}
	return best
}

// Next reads the next row that has any text.
func (r csvReader) Next() (int, []string, error) {
	for {
		r.bound.left = longestRow
		record, err := r.Read()
		var broken *csv.ParseError
		if errors.As(err, &broken) {
			return 0, nil, fault.Field("file", "", "every quote closed", "Line %d of the file is broken: %v.",
				broken.StartLine, broken.Err)
		}
		if err != nil {
			return 0, nil, err
		}
		if err := tooWide(len(record)); err != nil {
			return 0, nil, err
		}
		line, _ := r.FieldPos(0)
		if !blank(record) {
			return line, record, nil
		}
	}
}

// Close does nothing: the file is its opener's.
func (r csvReader) Close() error { return nil }

func tooWide(cells int) error {
	if cells > MostCells {
		return fault.Field("file", cells, "300 columns or fewer",
			"A row of the file has %d columns. Is its separator a comma, semicolon, tab or stroke?", cells)
	}
	return nil
}

func blank(record []string) bool {
	for _, cell := range record {
		if strings.TrimSpace(cell) != "" {
			return false
		}
	}
	return true
}

type xlsxReader struct {
	file *excelize.File
	rows *excelize.Rows
	line int
	read int // cells
}

// The most that an XLSX may unpack to, and from when on it is unpacked to disk.
const (
	mostUnpacked = 400 << 20
	toDisk       = 16 << 20
)

func openXLSX(file io.Reader) (Reader, error) {
	book, err := excelize.OpenReader(file,
		excelize.Options{RawCellValue: true, UnzipSizeLimit: mostUnpacked, UnzipXMLSizeLimit: toDisk})
	if err != nil {
		return nil, fault.Field("file", "", "XLSX or CSV", "The file looks like XLSX and can't be read: %v.", err)
	}
	rows, err := book.Rows(book.GetSheetName(0))
	if err != nil {
		_ = book.Close()
		return nil, fault.Field("file", "", "a table on the first sheet",
			"The first sheet of the file can't be read: %v.", err)
	}
	return &xlsxReader{file: book, rows: rows}, nil
}

// Next reads the next row that has any text.
func (r *xlsxReader) Next() (int, []string, error) {
	for r.rows.Next() {
		r.line++
		record, err := r.rows.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return 0, nil, fault.Field("file", "", "a whole XLSX file", "Row %d of the file can't be read: %v.", r.line,
				err)
		}
		if err := tooWide(len(record)); err != nil {
			return 0, nil, err
		}
		if r.read += len(record); r.read > mostInAll {
			return 0, nil, fault.Field("file", r.read, "fewer rows or columns",
				"The file has more than 12 million cells.")
		}
		for i := range record {
			record[i] = shown(record[i])
			if cell := record[i]; cell != "" && (cell[0] == '=' || cell[0] == '\'') {
				record[i] = catalog.Marked(cell) // a text: of a formula there would be what it comes to
			}
		}
		if !blank(record) {
			return r.line, record, nil
		}
	}
	if err := r.rows.Error(); err != nil {
		return 0, nil, fault.Field("file", "", "a whole XLSX file", "The file can't be read to its end: %v.", err)
	}
	return 0, nil, io.EOF
}

// DecimalComma is false: XLSX writes its numbers in one way everywhere.
func (r *xlsxReader) DecimalComma() bool { return false }

// Close removes what was unpacked.
func (r *xlsxReader) Close() error { return errors.Join(r.rows.Close(), r.file.Close()) }

// shown is a number as it is shown: XLSX keeps binary fractions, of which 15
// digits count (ECMA-376 part 1, section 18.3.1.96), and long numbers with an
// exponent. Digits with zeros in front were text and stay.
func shown(cell string) string {
	if len(cell) < 16 && !strings.ContainsAny(cell, "eE") {
		return cell
	}
	number, err := strconv.ParseFloat(cell, 64)
	if err != nil || !strings.ContainsAny(cell, ".eE") {
		return cell
	}
	digits := 15
	if !strings.ContainsAny(cell, "eE") {
		digits = 13 // some programs cut the fraction off instead of rounding it
	}
	short, err := strconv.ParseFloat(strconv.FormatFloat(number, 'g', digits, 64), 64)
	if err != nil {
		return cell
	}
	return strconv.FormatFloat(short, 'f', -1, 64)
}
