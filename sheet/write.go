package sheet

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/shopspring/decimal"
	"github.com/xuri/excelize/v2"

	"itemrack/core/catalog"
	"itemrack/core/fault"
)

// Format is a kind of file.
type Format string

// The formats that tables are written in.
const (
	CSV  Format = "csv"
	XLSX Format = "xlsx"
)

// ParseFormat reads a format's name; empty is CSV.
func ParseFormat(text string) (Format, error) {
	switch f := Format(strings.ToLower(text)); f {
	case "":
		return CSV, nil
	case CSV, XLSX:
		return f, nil
	}
	return "", fault.Field("format", text, "csv or xlsx", "There is no format %q.", text)
}

// Type is the format's media type.
func (f Format) Type() string {
	if f == XLSX {
		return "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	}
	return "text/csv; charset=utf-8"
}

// Writer writes the rows of a table. A cell is a string, a decimal, an int, a
// bool, a date or moment (by its own clock), or nil for an empty one.
type Writer interface {
	Write(row []any) error
	Close() error
}

// NewWriter begins a table with its heads.
func NewWriter(f Format, to io.Writer, heads []string) (Writer, error) {
	row := make([]any, len(heads))
	for i, h := range heads {
		row[i] = h
	}
	if f == XLSX {
		return newXLSX(to, row)
	}
	if _, err := io.WriteString(to, "\xef\xbb\xbf"); err != nil { // so that spreadsheets see UTF-8
		return nil, err
	}
	w := csv.NewWriter(to)
	w.UseCRLF = true
	return csvWriter{w}, csvWriter{w}.Write(row)
}

type csvWriter struct{ *csv.Writer }

// Write writes a row; texts that a spreadsheet would take for a formula are
// neutralised.
func (w csvWriter) Write(row []any) error {
	record := make([]string, len(row))
	for i, cell := range row {
		if text, ok := cell.(string); ok {
			record[i] = catalog.Marked(text)
		} else {
			record[i] = written(cell)
		}
	}
	return w.Writer.Write(record)
}

// Close writes what is left.
func (w csvWriter) Close() error {
	w.Flush()
	return w.Error()
}

func written(cell any) string {
	switch v := cell.(type) {
	case nil:
		return ""
	case decimal.Decimal:
		return v.String()
	case bool:
		if v {
			return "yes"
		}
		return "no"
	case time.Time:
		if midnight(v) {
			return v.Format(time.DateOnly)
		}
		return v.Format("2006-01-02 15:04:05")
	}
	return fmt.Sprint(cell)
}

// midnight reports whether a moment is a day rather than a moment in it.
func midnight(at time.Time) bool { return at.Hour() == 0 && at.Minute() == 0 && at.Second() == 0 }

type xlsxWriter struct {
	to     io.Writer
	file   *excelize.File
	stream *excelize.StreamWriter
	line   int
	styles map[int32]int
	day    int
	moment int
}

func newXLSX(to io.Writer, heads []any) (Writer, error) {
	file := excelize.NewFile()
	w := &xlsxWriter{to: to, file: file, styles: map[int32]int{}}
	var err error
	if w.stream, err = file.NewStreamWriter(file.GetSheetName(0)); err != nil {
		return nil, err
	}
	format := "yyyy-mm-dd"
	if w.day, err = file.NewStyle(&excelize.Style{CustomNumFmt: &format}); err != nil {
		return nil, err
	}
	clock := "yyyy-mm-dd hh:mm:ss"
	if w.moment, err = file.NewStyle(&excelize.Style{CustomNumFmt: &clock}); err != nil {
		return nil, err
	}
	if err := w.stream.SetColWidth(1, max(1, len(heads)), 16); err != nil {
		return nil, err
	}
	if err := w.stream.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2",
		ActivePane: "bottomLeft"}); err != nil {
		return nil, err
	}
	bold, err := file.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return nil, err
	}
	for i := range heads {
		heads[i] = excelize.Cell{StyleID: bold, Value: heads[i]}
	}
	return w, w.Write(heads)
}

// number is the style of numbers with so many decimals.
func (w *xlsxWriter) number(places int32) (int, error) {
	if id, ok := w.styles[places]; ok {
		return id, nil
	}
	format := "0"
	if places > 0 {
		format = "0." + strings.Repeat("0", int(places))
	}
	id, err := w.file.NewStyle(&excelize.Style{CustomNumFmt: &format})
	w.styles[places] = id
	return id, err
}

// Write writes a row of typed cells: texts stay texts, whatever they look like.
func (w *xlsxWriter) Write(row []any) error {
	w.line++
	for i, cell := range row {
		switch v := cell.(type) {
		case decimal.Decimal:
			style, err := w.number(max(0, -v.Exponent()))
			if err != nil {
				return err
			}
			row[i] = excelize.Cell{StyleID: style, Value: v.InexactFloat64()}
		case time.Time:
			// a sheet has no zones: the clock's own figures count
			plain := time.Date(v.Year(), v.Month(), v.Day(), v.Hour(), v.Minute(), v.Second(), 0, time.UTC)
			style := w.moment
			if midnight(v) {
				style = w.day
			}
			row[i] = excelize.Cell{StyleID: style, Value: plain}
		case bool:
			row[i] = written(v)
		}
	}
	at, err := excelize.CoordinatesToCellName(1, w.line)
	if err != nil {
		return err
	}
	return w.stream.SetRow(at, row)
}

// Close writes the file.
func (w *xlsxWriter) Close() error {
	defer w.file.Close()
	if err := w.stream.Flush(); err != nil {
		return err
	}
	_, err := w.file.WriteTo(w.to)
	return err
}
