package lists_test

import (
	"bufio"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"

	"itemrack/shop/lists"
	"itemrack/shop/testkit"
)

// longList writes a stock list of so many variants, 20 to a product.
func longList(t testing.TB, variants int) string {
	path := filepath.Join(t.TempDir(), "long.csv")
	file, err := os.Create(path)
	require.NoError(t, err)
	w := bufio.NewWriter(file)
	fmt.Fprintln(w, "product,style,category,supplier,colour,size,sku,price,cost,opening quantity")
	for n := range variants {
		p := n / 20
		fmt.Fprintf(w, "Tidal vest %05d,T%05d,Season > Part %d,Supplier %d,%s,%s,T%05d-%d,%d.95,%d.50,%d\n", p, p, p%30,
			p%9, []string{"Coral", "Slate", "Kelp", "Sand"}[n%20/5], []string{"XS", "S", "M", "L", "XL"}[n%5], p, n%20,
			20+p%60, 8+p%20, n%7)
	}
	require.NoError(t, w.Flush())
	require.NoError(t, file.Close())
	return path
}

// BenchmarkImport reads a stock list of 100 000 variants in through shop, opening
// stock and all, and beside it puts the bare file into one table without an index
// by LOAD DATA. It reports both, their ratio, how often progress moved, and the
// heap in the first fifth of the rows and at its highest.
func BenchmarkImport(b *testing.B) {
	const variants = 100_000
	path := longList(b, variants)
	for b.Loop() {
		s := testkit.New(b)
		file, err := os.Open(path)
		require.NoError(b, err)
		began := time.Now()
		v, err := lists.BeginImport(s.By(s.Maren), lists.ImportCatalog, "long.csv", file)
		require.NoError(b, err)
		require.NoError(b, file.Close())
		v, err = lists.StartImport(s.By(s.Maren), v.ID, lists.RunImport{Branch: 1})
		require.NoError(b, err)
		var early, most uint64
		moved, last := 0, -1
		for v.State != lists.ImportDone {
			time.Sleep(100 * time.Millisecond)
			v, err = lists.Import(s.By(s.Maren), v.ID)
			require.NoError(b, err)
			require.NotEqual(b, lists.ImportRefused, v.State, v.Says)
			if v.Done != last {
				moved, last = moved+1, v.Done
			}
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			most = max(most, m.HeapInuse)
			if v.Done < variants/5 {
				early = max(early, m.HeapInuse)
			}
		}
		through := time.Since(began)
		require.Equal(b, variants, v.Made)
		bare := bareLoad(b, s, path)
		b.ReportMetric(through.Seconds(), "s/import")
		b.ReportMetric(bare.Seconds(), "s/bare")
		b.ReportMetric(through.Seconds()/bare.Seconds(), "ratio")
		b.ReportMetric(float64(moved), "moves")
		b.ReportMetric(float64(early)/(1<<20), "MB-first-fifth")
		b.ReportMetric(float64(most)/(1<<20), "MB-most")
	}
}

// bareLoad times LOAD DATA of the same file, computing and checking nothing.
func bareLoad(b *testing.B, s *testkit.Shop, path string) time.Duration {
	db, err := sql.Open("mysql", s.DSN+"?parseTime=true")
	require.NoError(b, err)
	defer db.Close()
	_, err = db.Exec(
		"CREATE TABLE bare (product VARCHAR(120), style VARCHAR(20), category VARCHAR(200), supplier VARCHAR(120), " +
			"colour VARCHAR(60), size VARCHAR(60), sku VARCHAR(60), price DECIMAL(12,2), cost DECIMAL(18,6), " +
			"quantity DECIMAL(13,3))")
	require.NoError(b, err)
	mysql.RegisterLocalFile(path)
	defer mysql.DeregisterLocalFile(path)
	began := time.Now()
	_, err = db.Exec("LOAD DATA LOCAL INFILE '" + path + "' INTO TABLE bare FIELDS TERMINATED BY ',' IGNORE 1 LINES")
	require.NoError(b, err)
	return time.Since(began)
}
