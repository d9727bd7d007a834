package buying

import (
	"bytes"
	"errors"
	"io"
	"slices"
	"strconv"
	"strings"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/sheet"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// SupplierRow is what becomes of a row of a list of suppliers.
type SupplierRow struct {
	Line    int    `json:"line"`
	Name    string `json:"name"`
	Outcome string `json:"outcome"` // made, changed, the same, or refused
	Says    string `json:"says"`
}

// The outcomes of a row.
const (
	rowMade    = "made"
	rowChanged = "changed"
	rowSame    = "the same"
	rowRefused = "refused"
)

// SuppliersRead is what became of a list of suppliers. Nothing is done where a row is
// refused, or it was only tried.
type SuppliersRead struct {
	Rows    []SupplierRow `json:"rows"`
	Refused int           `json:"refused"`
	Done    bool          `json:"done"`
}

// supplierColumns are the columns of a list of suppliers, and where each goes.
var supplierColumns = map[string]func(in *SupplierInput, cell string){
	"our number there": func(in *SupplierInput, cell string) { in.AccountNumber = cell },
	"discount %":       func(in *SupplierInput, cell string) { in.Discount = cell },
	"freight %":        func(in *SupplierInput, cell string) { in.Freight = cell },
	"markup %":         func(in *SupplierInput, cell string) { in.Markup = cell },
	"price ending":     func(in *SupplierInput, cell string) { in.Ending = cell },
	"days to pay":      func(in *SupplierInput, cell string) { in.DaysToPay = cell },
	"lead days":        func(in *SupplierInput, cell string) { in.LeadDays = cell },
	"minimum order":    func(in *SupplierInput, cell string) { in.MinimumOrder = cell },
	"currency note":    func(in *SupplierInput, cell string) { in.CurrencyNote = cell },
	"note":             func(in *SupplierInput, cell string) { in.Note = cell },
	"contact":          func(in *SupplierInput, cell string) { contactOf(in).Name = cell },
	"mail":             func(in *SupplierInput, cell string) { contactOf(in).Mail = cell },
	"phone":            func(in *SupplierInput, cell string) { contactOf(in).Phone = cell },
}

// figures are the columns whose comma may stand before decimals.
var supplierFigures = map[string]bool{"discount %": true, "freight %": true, "markup %": true, "minimum order": true}

// contactOf is the first person to ask, whom the columns are about.
func contactOf(in *SupplierInput) *goods.SupplierContact {
	if len(in.Contacts) == 0 {
		in.Contacts = []goods.SupplierContact{{}}
	}
	return &in.Contacts[0]
}

// typedSupplier is a supplier as it would be typed.
func typedSupplier(row goods.Supplier, contacts []goods.SupplierContact) SupplierInput {
	count := func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	}
	in := SupplierInput{Name: row.Name, AccountNumber: row.AccountNumber, CurrencyNote: row.CurrencyNote,
		Note: row.Note, Discount: number.Said(row.Discount),
		Freight: number.Said(row.Freight), DaysToPay: count(row.DaysToPay), LeadDays: count(row.LeadDays),
		MinimumOrder: number.Said(row.MinimumOrder),
		Contacts:     append([]goods.SupplierContact{}, contacts...)}
	if row.Markup != nil {
		in.Markup = row.Markup.String()
	}
	if row.Ending != nil {
		in.Ending = text.Or(*row.Ending, "none")
	}
	return in
}

// ReadSuppliersIn reads a list of suppliers in, CSV or XLSX, as the list goes out: those of a
// known name are changed as far as the file has columns, the others made. It is all or
// nothing, and with dry only tried.
func ReadSuppliersIn(do deed.Deed, data []byte, dry bool) (SuppliersRead, error) {
	if dry {
		do.Key = ""
	}
	var tried SuppliersRead
	done, err := deed.Once(do, staff.DeedSupplier, func(do deed.Deed) (SuppliersRead, error) {
		read, err := readSuppliers(do, data)
		if err != nil {
			return read, err
		}
		if dry || read.Refused > 0 {
			tried = read
			return read, deed.ErrTried
		}
		read.Done = true
		return read, nil
	})
	if errors.Is(err, deed.ErrTried) {
		return tried, nil
	}
	return done, err
}

func readSuppliers(do deed.Deed, data []byte) (SuppliersRead, error) {
	read := SuppliersRead{Rows: []SupplierRow{}}
	file, err := sheet.Open(bytes.NewReader(data))
	if err != nil {
		return read, err
	}
	defer file.Close()
	known, err := goods.Suppliers(do.Tx.Q)
	if err != nil {
		return read, err
	}
	byKey := map[string]uint64{}
	for _, k := range known {
		byKey[k.NameKey] = k.ID
	}
	var heads []string
	seen := map[string]int{}
	var changed []uint64
	for {
		line, record, err := file.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return read, err
		}
		if heads == nil {
			for _, head := range record {
				heads = append(heads, strings.TrimSpace(text.Key(head)))
			}
			if !slices.Contains(heads, "supplier") {
				return read, fault.Field("file", "", "a column “supplier” with the names",
					"The file has no column “supplier”.")
			}
			continue
		}
		row := SupplierRow{Line: line}
		id, err := readSupplierRow(do.Tx, record, heads, byKey, file.DecimalComma(), &row)
		if key := text.Key(row.Name); err == nil && seen[key] > 0 {
			err = fault.Field("supplier", row.Name, "each supplier once", "%s stands in line %d already.", row.Name,
				seen[key])
		} else {
			seen[key] = line
		}
		if refusal := fault.Of(err); refusal != nil {
			row.Outcome, row.Says = rowRefused, refusal.Whole()
			read.Refused++
		} else if err != nil {
			return read, err
		} else if row.Outcome != rowSame {
			changed = append(changed, id)
		}
		read.Rows = append(read.Rows, row)
	}
	if len(read.Rows) == 0 {
		return read, fault.Field("file", "", "a row for each supplier", "The file has no suppliers in it.")
	}
	if read.Refused > 0 {
		return read, nil
	}
	for _, id := range changed {
		products, err := goods.ProductIDs(do.Tx.Q, goods.ListFilter{Supplier: id}, 0, 1_000_000)
		if err != nil {
			return read, err
		}
		if err := book.Restand(do.Tx, products, do.Shop.Now()); err != nil {
			return read, err
		}
	}
	return read, nil
}

// readSupplierRow reads one row of the list.
func readSupplierRow(tx store.Tx, record, heads []string, byKey map[string]uint64, comma bool,
	said *SupplierRow) (uint64, error) {
	if at := slices.Index(heads, "supplier"); at < len(record) {
		said.Name = text.Tidy(record[at])
	}
	row := goods.Supplier{}
	var contacts []goods.SupplierContact
	in := SupplierInput{Name: said.Name}
	said.Outcome = rowMade
	if id := byKey[text.Key(said.Name)]; id != 0 {
		var err error
		if row, contacts, err = goods.LockSupplier(tx, id); err != nil {
			return 0, err
		}
		in = typedSupplier(row, contacts)
		said.Outcome = rowChanged
	}
	before := deed.JSON(typedSupplier(row, contacts))
	for i, head := range heads {
		put, ok := supplierColumns[head]
		if !ok || i >= len(record) {
			continue
		}
		cell := strings.TrimSpace(record[i])
		if supplierFigures[head] {
			cell = number.InFile(cell, comma)
		}
		if cell == "" && strings.Contains("contact mail phone", head) {
			continue
		}
		put(&in, cell)
	}
	if err := readSupplier(tx, &row, in); err != nil {
		return 0, err
	}
	kept, err := readContacts(in.Contacts)
	if err != nil {
		return 0, err
	}
	if said.Outcome == rowChanged && deed.JSON(typedSupplier(row, kept)) == before {
		said.Outcome = rowSame
		return row.ID, nil
	}
	row.Revision++
	if err := goods.KeepSupplierRow(tx, &row, kept); err != nil {
		return 0, err
	}
	byKey[text.Key(row.Name)] = row.ID
	return row.ID, nil
}
