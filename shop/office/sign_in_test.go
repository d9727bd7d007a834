package office_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
)

func TestSignIn(t *testing.T) {
	s := testkit.New(t)
	who, err := office.SignIn(ctx, s.Shop, "127.0.0.1", " Maren ", testkit.Password)
	require.NoError(t, err)
	assert.Equal(t, staff.Manager, who.Role)
	for _, pair := range [][2]string{{"maren", "wrong"}, {"nobody", testkit.Password}, {"", ""}} {
		_, err := office.SignIn(ctx, s.Shop, "127.0.0.1", pair[0], pair[1])
		assert.True(t, fault.Is(err, fault.Forbidden))
	}
	made, err := office.MakeToken(s.By(who), office.TokenInput{})
	token := made.Token
	require.NoError(t, err)
	same, err := office.PersonByToken(ctx, s.Shop, token)
	require.NoError(t, err)
	assert.Equal(t, who, same)
	nobody, err := office.PersonByToken(ctx, s.Shop, token+"x")
	require.NoError(t, err)
	assert.Zero(t, nobody.ID)
	for _, bad := range []office.NewPerson{{Login: "x", Name: "X", Password: "short", Role: staff.Clerk},
		{Login: "x", Name: "X", Password: testkit.Password, Role: "king"},
		{Login: "maren", Name: "X", Password: testkit.Password, Role: staff.Clerk, Branch: 1}} {
		_, err := office.MakePerson(ctx, s.Shop, bad)
		assert.NotNil(t, fault.Of(err))
	}
}
