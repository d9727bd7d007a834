package lists

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"slices"
	"sync"
	"time"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/sheet"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/lists"
)

// The kinds of list that are read in.
const (
	ImportCatalog = "catalog"
	ImportOpening = "opening"
)

// The states of an import.
const (
	ImportReady   = "ready"   // its columns can be matched
	ImportRunning = "running" // rows are worked on
	ImportTried   = "tried"   // a dry run ended
	ImportDone    = "done"    // everything is read in
	ImportRefused = "refused" // nothing was read in
)

// Bounds of an import.
const (
	MostListBytes    = 150 << 20
	MostPictureBytes = 300 << 20
	stale            = 30 * time.Second // without a sign of life
)

// importColumns are the columns that a kind of list may have.
func importColumns(kind string) ([]catalog.Column, error) {
	switch kind {
	case ImportCatalog:
		return catalog.ListColumns, nil
	case ImportOpening:
		return catalog.OpeningColumns, nil
	}
	return nil, fault.Field("kind", kind, "catalog or opening", "There is no list %q.", kind)
}

// ImportView is an import with its columns and how they are matched.
type ImportView struct {
	lists.ImportJob
	Heads   []string   `json:"heads"`
	Match   []string   `json:"columns"`
	Sample  [][]string `json:"sample"`
	Columns []string   `json:"known_columns"`
}

// kept is what an import remembers of its file.
type kept struct {
	Heads  []string   `json:"heads"`
	Match  []string   `json:"match"`
	Sample [][]string `json:"sample"`
}

// BeginImport keeps a file that is to be read in, and matches its columns.
func BeginImport(do deed.Deed, kind, name string, file io.Reader) (ImportView, error) {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return ImportView{}, err
	}
	columns, err := importColumns(kind)
	if err != nil {
		return ImportView{}, err
	}
	job := lists.ImportJob{
		Kind:      kind,
		Name:      text.Cut(name, 200),
		State:     ImportReady,
		UserID:    do.Who.ID,
		BranchID:  do.Who.Branch,
		CreatedAt: do.Shop.Now(),
		SeenAt:    do.Shop.Now(),
		DryRun:    true,
	}
	if err := lists.NewImportJob(do.Ctx, do.Shop.Store, &job, do.Shop.Now().AddDate(0, 0, -7)); err != nil {
		return ImportView{}, err
	}
	fail := func(err error) (ImportView, error) {
		_ = lists.UpdateImportJob(context.WithoutCancel(do.Ctx), do.Shop.Store, job.ID,
			map[string]any{"state": ImportRefused, "says": text.Cut(err.Error(), 1000)})
		return ImportView{}, err
	}
	size, err := lists.KeepFile(do.Ctx, do.Shop.Store, job.ID, "list", file, MostListBytes)
	if err != nil {
		return fail(err)
	}
	q := do.Shop.Store.Read(do.Ctx)
	kept, err := oneAtATime(do.Ctx, looking, func() (kept, error) { return sample(do.Shop, q, job.ID, kind, columns) })
	if err != nil {
		return fail(err)
	}
	err = lists.UpdateImportJob(do.Ctx, do.Shop.Store, job.ID, map[string]any{"size": size, "matching": deed.JSON(kept)})
	if err != nil {
		return fail(err)
	}
	return Import(do, job.ID)
}

// reading and looking are the places in which a large file is taken apart: one that is read
// in, and one that is looked at.
var reading, looking = make(chan struct{}, 1), make(chan struct{}, 1)

// oneAtATime does work when its place is free.
func oneAtATime[T any](ctx context.Context, place chan struct{}, work func() (T, error)) (T, error) {
	select {
	case place <- struct{}{}:
	case <-ctx.Done():
		var none T
		return none, ctx.Err()
	}
	defer func() { <-place }()
	return work()
}

// beat gives signs of life of an import until it ends.
func beat(ctx context.Context, s *deed.Shop, id uint64) (stop func()) {
	ctx, cancel := context.WithCancel(ctx)
	var done sync.WaitGroup
	done.Go(func() {
		for tick := time.NewTicker(stale / 6); ; {
			select {
			case <-ctx.Done():
				tick.Stop()
				return
			case <-tick.C:
				if err := lists.UpdateImportJob(ctx, s.Store, id, map[string]any{"seen_at": s.Now()}); err != nil {
					slog.Warn("an import could not give a sign of life", "import", id, "err", err)
				}
			}
		}
	})
	return func() { cancel(); done.Wait() }
}

// sample reads the heads and first rows of a kept file and matches its columns.
func sample(s *deed.Shop, q store.Q, job uint64, kind string, columns []catalog.Column) (kept, error) {
	var k kept
	file, err := lists.OpenFile(q, job, "list")
	if err != nil {
		return k, err
	}
	if k.Heads, k.Match, err = matched(q, file, kind, columns); err != nil {
		return k, err
	}
	const few = 3
	enough := fmt.Errorf("enough rows")
	err = eachRecord(file, catalog.MaxListRows, func(_ int, record []string, _ bool) error {
		row := slices.Clone(record)
		for i := range row {
			row[i] = text.Cut(row[i], 80)
		}
		if k.Sample = append(k.Sample, row); len(k.Sample) == few {
			return enough
		}
		return nil
	})
	if err != nil && err != enough { //nolint:errorlint // it is that very value
		return k, err
	}
	return k, nil
}

// matched reads the heads of a list and matches its columns, by memory first.
func matched(q store.Q, file io.ReadSeeker, kind string, columns []catalog.Column) ([]string, catalog.Matching, error) {
	heads, err := readHeads(file)
	if err != nil {
		return nil, nil, err
	}
	memory, err := lists.ColumnMemory(q, kind)
	return heads, catalog.Match(heads, columns, memory), err
}

// Import reads an import as it stands. One that has given no sign of life while
// it ran is told as interrupted.
func Import(do deed.Deed, id uint64) (ImportView, error) {
	if err := do.Who.May(staff.DeedCatalog); err != nil {
		return ImportView{}, err
	}
	job, err := lists.ReadImportJob(do.Shop.Store.Read(do.Ctx), id)
	if err != nil {
		return ImportView{}, err
	}
	if job.State == ImportRunning && job.SeenAt.Before(do.Shop.Now().Add(-stale)) {
		job.State, job.Says = ImportRefused, "The program ended in the middle; nothing was read in. Begin again."
	}
	v := ImportView{ImportJob: job, Match: []string{}, Heads: []string{}, Sample: [][]string{}}
	var k kept
	if json.Unmarshal([]byte(job.Matching), &k) == nil && k.Heads != nil {
		v.Heads, v.Match, v.Sample = k.Heads, k.Match, k.Sample
	}
	columns, err := importColumns(job.Kind)
	for _, c := range columns {
		v.Columns = append(v.Columns, c.Name)
	}
	return v, err
}

// MatchColumns says which column each head of the file is; it is remembered for
// the next file with the same heads.
func MatchColumns(do deed.Deed, id uint64, match []string) (ImportView, error) {
	v, err := Import(do, id)
	if err != nil {
		return v, err
	}
	columns, err := importColumns(v.Kind)
	if err != nil {
		return v, err
	}
	if len(match) != len(v.Heads) {
		return v, fault.Field("columns", len(match), fmt.Sprint(len(v.Heads)),
			"The file has %d columns; %d are matched.", len(v.Heads), len(match))
	}
	need := []string{"product"}
	if v.Kind == ImportOpening {
		need = []string{"code", "quantity", "cost"}
	}
	m := catalog.Matching(match)
	if err := m.Check(columns, need...); err != nil {
		return v, err
	}
	err = do.Shop.Store.Do(do.Ctx, func(tx store.Tx) error { return lists.RememberColumns(tx, v.Kind, m.Memory(v.Heads)) })
	if err != nil {
		return v, err
	}
	if err := lists.UpdateImportJob(do.Ctx, do.Shop.Store, id, map[string]any{"matching": deed.JSON(kept{v.Heads, match,
		v.Sample})}); err != nil {
		return v, err
	}
	return Import(do, id)
}

// incoming is the part of an import's files that is not looked at yet.
const incoming = "incoming"

// AddImportPictures keeps a ZIP of pictures that the list names.
func AddImportPictures(do deed.Deed, id uint64, file io.Reader) (ImportView, error) {
	v, err := Import(do, id)
	if err != nil {
		return v, err
	}
	if v.Kind != ImportCatalog || v.State == ImportRunning || v.State == ImportDone {
		return v, fault.Refuse("import", id, "a catalog list that is not read in yet",
			"Pictures can't be added to this import.")
	}
	// what is refused does not take the place of what came before
	if _, err := lists.KeepFile(do.Ctx, do.Shop.Store, id, incoming, file, MostPictureBytes); err != nil {
		return v, err
	}
	zip, err := openPictures(do.Ctx, do.Shop, id, incoming)
	if err != nil {
		return v, errors.Join(err, lists.DropFile(do.Ctx, do.Shop.Store, id, incoming))
	}
	if err := lists.MoveFile(do.Ctx, do.Shop.Store, id, incoming, "pictures"); err != nil {
		return v, err
	}
	if err := lists.UpdateImportJob(do.Ctx, do.Shop.Store, id, map[string]any{"pictures": len(zip.files)}); err != nil {
		return v, err
	}
	return Import(do, id)
}

// RunImport is how an import is run.
type RunImport struct {
	DryRun bool   `json:"dry_run"`
	Branch uint64 `json:"branch_id"` // where opening stock lies; 0 is the person's own
}

// StartImport begins to read a list in, or to try it. It goes on by itself; how
// far it is stands in the import. One that runs, or is done, is not begun again.
func StartImport(do deed.Deed, id uint64, in RunImport) (ImportView, error) {
	v, err := Import(do, id)
	if err != nil {
		return v, err
	}
	if v.Size == 0 {
		return v, fault.Refuse("import", id, "a file that can be read",
			"The file of this import could not be read. Begin with another.")
	}
	began, err := lists.StartImportJob(do.Ctx, do.Shop.Store, id, in.DryRun, do.Shop.Now(), do.Shop.Now().Add(-stale))
	if err != nil {
		return v, err
	}
	if !began {
		return v, fault.Clash("import", id, "to wait for it",
			"The list is being read in, or was read in already; nothing is done twice.")
	}
	branch := in.Branch
	if branch == 0 {
		branch = do.Who.Branch
	}
	do.Shop.Behind(func(ctx context.Context) { runImport(do.Until(ctx), v, branch, in.DryRun) })
	return Import(do, id)
}

// runImport reads a list in and notes how that ends.
func runImport(do deed.Deed, v ImportView, branch uint64, dryRun bool) {
	stop := beat(do.Ctx, do.Shop, v.ID)
	report, err := oneAtATime(do.Ctx, reading, func() (ListReport, error) {
		return readImport(do, v, branch, dryRun)
	})
	stop()
	end := map[string]any{
		"state":           ImportDone,
		"made":            report.Made,
		"changed":         report.Changed,
		"same":            report.Same,
		"refused":         report.Refused,
		"document_number": text.Cut(report.Opening, 30),
		"seen_at":         do.Shop.Now(),
	}
	switch {
	case err != nil && fault.Of(err) != nil:
		end["state"], end["says"] = ImportRefused, text.Cut(err.Error(), 1000)
	case err != nil && do.Ctx.Err() != nil:
		end["state"], end["says"] = ImportRefused, "The program ended in the middle; nothing was read in. Begin again."
	case err != nil:
		slog.Error("import failed", "import", v.ID, "err", err)
		end["state"], end["says"] = ImportRefused, "Something went wrong here; nothing was read in. Try again."
	case dryRun:
		end["state"] = ImportTried
	case report.Refused > 0:
		end["state"], end["says"] = ImportRefused, "Nothing was read in: mend the refused rows, or leave them out."
	}
	if dryRun {
		delete(end, "document_number")
	}
	if err := lists.UpdateImportJob(context.WithoutCancel(do.Ctx), do.Shop.Store, v.ID, end); err != nil {
		slog.Error("the end of an import could not be noted", "import", v.ID, "err", err)
	}
}

func readImport(do deed.Deed, v ImportView, branch uint64, dryRun bool) (ListReport, error) {
	file, err := lists.OpenFile(do.Shop.Store.Read(do.Ctx), v.ID, "list")
	if err != nil {
		return ListReport{}, err
	}
	total := 0
	if err := eachRecord(file, catalog.MaxListRows, func(int, []string,
		bool) error {
		total++
		return nil
	}); err != nil {
		return ListReport{}, err
	}
	if err := lists.UpdateImportJob(do.Ctx, do.Shop.Store, v.ID, map[string]any{"total": total,
		"seen_at": do.Shop.Now()}); err != nil {
		return ListReport{}, err
	}
	done := 0
	with := importOptions{branch: branch, dryRun: dryRun, again: func() {
		done = 0
		if err := lists.ClearImportRows(do.Ctx, do.Shop.Store, v.ID); err != nil {
			slog.Error("rows of an import stay", "import", v.ID, "err", err)
		}
	}, sink: func(list []ListResult) error {
		for i := range list {
			list[i].ImportID = v.ID
		}
		if err := lists.KeepImportRows(do.Ctx, do.Shop.Store, list); err != nil {
			return err
		}
		done += len(list)
		return lists.UpdateImportJob(do.Ctx, do.Shop.Store, v.ID, map[string]any{"done": done, "seen_at": do.Shop.Now()})
	}}
	key := fmt.Sprintf("import %d", v.ID)
	if v.Kind == ImportOpening {
		return importOpening(do.Under(key), file, v.Heads, v.Match, with)
	}
	if v.Pictures > 0 {
		zip, err := openPictures(do.Ctx, do.Shop, v.ID, "pictures")
		if err != nil {
			return ListReport{}, err
		}
		with.pictures = zip.find
	}
	set, err := do.Shop.Store.Read(do.Ctx).Terms()
	if err != nil {
		return ListReport{}, err
	}
	source, err := listRows(file, v.Heads, v.Match, set)
	if err != nil {
		return ListReport{}, err
	}
	return importRows(do.Under(key), source, with)
}

// RefusedRows writes the refused rows of an import as they stood, each with why,
// as a list to mend.
func RefusedRows(do deed.Deed, id uint64, format sheet.Format, to io.Writer) error {
	v, err := Import(do, id)
	if err != nil {
		return err
	}
	w, err := sheet.NewWriter(format, to, append(slices.Clone(v.Heads), "why it was refused"))
	if err != nil {
		return err
	}
	for after := 0; ; {
		rows, err := lists.ImportRows(do.Shop.Store.Read(do.Ctx), id, RowRefused, after, 500)
		if err != nil {
			return err
		}
		for _, r := range rows {
			record := make([]any, len(v.Heads)+1)
			for i, cell := range r.Cells() {
				if i < len(v.Heads) {
					record[i] = catalog.Typed(cell)
				} else { // it stands under no head
					record = append(record, catalog.Typed(cell))
				}
			}
			record[len(v.Heads)] = fault.Error{Kind: fault.Invalid, Detail: r.Detail, Want: r.Want}.Whole()
			if err := w.Write(record); err != nil {
				return err
			}
			after = r.Line
		}
		if len(rows) < 500 {
			return w.Close()
		}
	}
}

// Template writes an empty list of a kind, with one row as an example.
func Template(s *deed.Shop, kind string, format sheet.Format, to io.Writer) error {
	columns, err := importColumns(kind)
	if err != nil {
		return err
	}
	var heads []string
	var example []any
	for _, c := range columns {
		heads, example = append(heads, c.Name), append(example, c.Says)
	}
	w, err := sheet.NewWriter(format, to, heads)
	if err != nil {
		return err
	}
	if err := w.Write(example); err != nil {
		return err
	}
	return w.Close()
}
