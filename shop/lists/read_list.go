package lists

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/terms"
	"itemrack/sheet"
	"itemrack/shop/deed"
)

// rowSource pushes the rows of a list, with their records, from the first on;
// it can be run again.
type rowSource func(push func(row catalog.ListRow, record []string) error) error

// listSink takes what became of some rows.
type listSink func(done []ListResult) error

// ImportList reads a stock list in: products with their variants, prices and
// opening stock, which is posted at a branch. A dry run tries everything and
// keeps nothing. One refused row keeps all from being imported.
func ImportList(do deed.Deed, file io.ReadSeeker, branch uint64, dryRun bool) (ListReport, error) {
	heads, match, err := matched(do.Shop.Store.Read(do.Ctx), file, ImportCatalog, catalog.ListColumns)
	if err != nil {
		return ListReport{}, err
	}
	set, err := do.Shop.Store.Read(do.Ctx).Terms()
	if err != nil {
		return ListReport{}, err
	}
	source, err := listRows(file, heads, match, set)
	if err != nil {
		return ListReport{}, err
	}
	report, err := ImportRows(do, source, branch, dryRun)
	report.Left = notRead(heads, match)
	return report, err
}

// notRead lists the heads that no column was found for.
func notRead(heads []string, match catalog.Matching) []string {
	left := []string{}
	for i, h := range heads {
		if match[i] == "" && strings.TrimSpace(h) != "" {
			left = append(left, h)
		}
	}
	return left
}

// readHeads reads the first row of a table.
func readHeads(file io.ReadSeeker) ([]string, error) {
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	r, err := sheet.Open(file)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	_, heads, err := r.Next()
	if errors.Is(err, io.EOF) {
		err = fault.Field("file", "", "a head line and rows below it", "The file is empty.")
	}
	return slices.Clone(heads), err
}

// eachRecord reads the records of a table below its heads.
func eachRecord(file io.ReadSeeker, most int, take func(line int, record []string, decimalComma bool) error) error {
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	r, err := sheet.Open(file)
	if err != nil {
		return err
	}
	defer r.Close()
	if _, _, err := r.Next(); err != nil {
		return err
	}
	for n := 0; ; n++ {
		line, record, err := r.Next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if n == most {
			return fault.Field("file", n, fmt.Sprintf("%d rows or fewer", most), "The file has more than %d rows.",
				most)
		}
		if err := take(line, record, r.DecimalComma()); err != nil {
			return err
		}
	}
}

// listRows reads the rows of a file whose columns are matched.
func listRows(file io.ReadSeeker, heads []string, match catalog.Matching, set terms.Terms) (rowSource, error) {
	if _, err := catalog.NewListReader(heads, match); err != nil {
		return nil, err
	}
	return func(push func(catalog.ListRow, []string) error) error {
		reader, err := catalog.NewListReader(heads, match)
		if err != nil {
			return err
		}
		return eachRecord(file, catalog.MaxListRows, func(line int, record []string, comma bool) error {
			reader.DecimalComma, reader.Minor, reader.Moment = comma, set.Minor(), set.Moment
			return push(reader.Row(line, record), record)
		})
	}, nil
}

// RowsOf is a source of rows that are read already.
func RowsOf(rows []catalog.ListRow) func(push func(catalog.ListRow, []string) error) error {
	return func(push func(catalog.ListRow, []string) error) error {
		for _, r := range rows {
			if err := push(r, nil); err != nil {
				return err
			}
		}
		return nil
	}
}
