package till_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/internal/db"
	"itemrack/store/till"
)

// TestWhatIsLeftOutIsWhatTheTableTakes: what the program takes for the default of a column is what the table does.
func TestWhatIsLeftOutIsWhatTheTableTakes(t *testing.T) {
	s := testkit.Bare(t)
	for table, columns := range map[string][]db.Column{"sale": till.SaleColumns, "sale_line": till.LineColumns,
		"tender": till.TenderColumns, "entry": book.EntryColumns} {
		for _, c := range columns {
			var row struct {
				Default  *string
				Nullable string
			}
			require.NoError(t, db.SQL(s.Store.Read(context.Background())).Raw("SELECT column_default AS `default`, "+
				"is_nullable AS nullable FROM information_schema.columns WHERE table_schema = DATABASE() AND "+
				"table_name = ? AND "+
				"column_name = ?", table, strings.Trim(c.Name, "`")).Scan(&row).Error)
			name := table + "." + c.Name
			switch {
			case c.Default == db.Always:
				assert.Nil(t, row.Default, name)
				assert.Equal(t, "NO", row.Nullable, name)
			case c.Default == nil:
				assert.Equal(t, "YES", row.Nullable, name)
				assert.Equal(t, "NULL", *row.Default, name)
			default:
				require.NotNil(t, row.Default, name)
				is := strings.Trim(*row.Default, "'")
				if strings.Contains(is, ".") {
					is = strings.TrimRight(strings.TrimRight(is, "0"), ".")
				}
				said := strings.NewReplacer("false", "0", "true", "1").Replace(fmt.Sprint(c.Default))
				assert.Equal(t, said, is, name)
			}
		}
	}
}
