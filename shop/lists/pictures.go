package lists

import (
	"archive/zip"
	"context"
	"fmt"
	"io"
	"path"
	"strings"

	_ "golang.org/x/image/webp"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
	"itemrack/store/lists"
)

// zipPictures are the pictures of a ZIP, by file name in small letters.
type zipPictures struct {
	shop  *deed.Shop
	files map[string]*zip.File
	kept  map[string]uint64
	ctx   context.Context
}

// mostZipFiles bounds how many pictures come at once.
const mostZipFiles = 20_000

// openPictures opens the ZIP that was kept with an import as one of its parts. Folders in it are
// passed over; a name that leads out of the ZIP is refused.
func openPictures(ctx context.Context, s *deed.Shop, job uint64, part string) (*zipPictures, error) {
	file, err := lists.OpenFile(s.Store.Read(ctx), job, part)
	if err != nil {
		return nil, err
	}
	z := &zipPictures{shop: s, files: map[string]*zip.File{}, kept: map[string]uint64{}, ctx: ctx}
	return z, z.list(file, file.Size())
}

// list notes what is in a ZIP.
func (z *zipPictures) list(file io.ReaderAt, size int64) error {
	archive, err := zip.NewReader(file, size)
	if err != nil {
		return fault.Field("pictures", "", "a ZIP file", "The pictures can't be read: they are not a ZIP file.")
	}
	for _, f := range archive.File {
		if strings.Contains(f.Name, "..") || strings.HasPrefix(f.Name, "/") || strings.Contains(f.Name, `\`) {
			return fault.Field("pictures", f.Name, "names inside the ZIP",
				"The ZIP holds %q, a name that leads out of it. Nothing of it is taken.", f.Name)
		}
		if f.FileInfo().IsDir() || strings.HasPrefix(path.Base(f.Name), ".") || strings.HasPrefix(f.Name, "__MACOSX") {
			continue
		}
		if len(z.files) == mostZipFiles {
			return fault.Field("pictures", len(archive.File), fmt.Sprintf("%d files or fewer", mostZipFiles),
				"The ZIP holds more than %d pictures.", mostZipFiles)
		}
		z.files[text.Key(path.Base(f.Name))] = f
	}
	return nil
}

// find reads a picture of the ZIP and keeps it; 0 when there is none of that name.
func (z *zipPictures) find(name string) (uint64, error) {
	key := text.Key(path.Base(name))
	if id, ok := z.kept[key]; ok {
		return id, nil
	}
	p, ok, err := z.read(name)
	if err != nil || !ok {
		return 0, err
	}
	var id uint64
	err = z.shop.Store.Do(z.ctx, func(tx store.Tx) error {
		var err error
		id, err = goods.KeepPicture(tx, p)
		return err
	})
	z.kept[key] = id
	return id, err
}

// read reads a picture of the ZIP; false when there is none of that name.
func (z *zipPictures) read(name string) (goods.Picture, bool, error) {
	var none goods.Picture
	f, ok := z.files[text.Key(path.Base(name))]
	if !ok {
		return none, false, nil
	}
	if f.UncompressedSize64 > catalog.MostPicture {
		return none, true, fault.Field("picture", name, "20 MB or less", "%s is larger than 20 MB.", name)
	}
	r, err := f.Open()
	if err != nil {
		return none, true, fault.Field("picture", name, "a ZIP that can be read", "%s can't be read from the ZIP: %v.",
			name,
			err)
	}
	defer r.Close()
	data, err := io.ReadAll(io.LimitReader(r, catalog.MostPicture+1))
	if err != nil {
		return none, true, fault.Field("picture", name, "a ZIP that can be read", "%s can't be read from the ZIP: %v.",
			name,
			err)
	}
	p, err := catalog.ReadPicture(name, data)
	return p, true, err
}
