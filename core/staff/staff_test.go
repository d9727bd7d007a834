package staff_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/staff"
)

// TestEveryDeedIsRefusedInWords holds that each deed that some role is not let do says
// who may, and that managers may do all.
func TestEveryDeedIsRefusedInWords(t *testing.T) {
	for deed := range staff.Permissions {
		require.NoError(t, staff.Actor{Name: "Maren Holt", Role: staff.Manager}.May(deed), deed)
		for _, role := range staff.Roles {
			who := staff.Actor{Name: "Ines Varga", Role: role}
			err := who.May(deed)
			assert.Equal(t, who.Can(deed), err == nil, "%s as %s", deed, role)
			if err == nil {
				continue
			}
			assert.True(t, fault.Is(err, fault.Forbidden))
			assert.Regexp(t, `^Only a manager( or a [a-z ]+)? may [a-z ]+; Ines Varga is a [a-z ]+\.$`, err.Error(),
				deed)
		}
	}
	err := staff.Actor{Name: "Tobi Ashdown", Role: staff.Clerk}.May(staff.DeedCatalog)
	assert.EqualError(t, err, "Only a manager may change the catalog; Tobi Ashdown is a clerk at the register.")
}

func TestWhoIsNobodyMayNothing(t *testing.T) {
	for deed := range staff.Permissions {
		assert.Error(t, staff.Actor{}.May(deed), deed)
	}
}
