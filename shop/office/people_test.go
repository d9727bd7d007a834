package office_test

import (
	"sync"
	"testing"
	"time"

	kept "itemrack/store/office"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
)

const phrase = "four words by the sea"

func TestPeopleAreMadeChangedAndClosed(t *testing.T) {
	s := testkit.New(t)
	in := office.NewPerson{Login: "Žofie", Name: "Žofie Ünal 海", Password: phrase, Role: staff.Clerk, Branch: 2,
		Branches: []uint64{1}}
	_, err := office.AddPerson(s.By(s.Tobi), in)
	assert.True(t, fault.Is(err, fault.Forbidden), "people are a manager's")
	made, err := office.AddPerson(s.By(s.Maren, "k"), in)
	require.NoError(t, err)
	again, err := office.AddPerson(s.By(s.Maren, "k"), in)
	require.NoError(t, err)
	assert.Equal(t, made, again)
	for _, login := range []string{"žofie", "ŽOFIE", " Žofie ", "Z\u030cofie"} {
		who, err := office.SignIn(ctx, s.Shop, "10.0.0.1", login, phrase)
		require.NoError(t, err, login)
		assert.Equal(t, made.ID, who.ID)
		assert.NoError(t, who.At(1, "Quay Shop"), "she works at both")
	}
	twin := in
	twin.Login = "ŽOFIE"
	_, err = office.AddPerson(s.By(s.Maren), twin)
	assert.True(t, fault.Is(err, fault.Conflict))
	for field, bad := range map[string]office.NewPerson{"role": {Login: "a", Name: "A", Password: phrase, Role: "king",
		Branch: 1}, "login": {Login: "a b", Name: "A", Password: phrase, Role: staff.Clerk, Branch: 1},
		"password": {Login: "a", Name: "A", Password: "password1", Role: staff.Clerk,
			Branch: 1}, "branch_id": {Login: "a", Name: "A", Password: phrase, Role: staff.Clerk, Branch: 99}} {
		_, err := office.AddPerson(s.By(s.Maren), bad)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
	}

	token, err := office.MakeToken(s.By(staff.Actor{ID: made.ID, Role: staff.Clerk}), office.TokenInput{Name: "till"})
	require.NoError(t, err)
	change := office.PersonChange{NewPerson: in, Closed: true}
	change.Password = ""
	_, err = office.ChangePerson(s.By(s.Maren), made.ID, change)
	require.NoError(t, err)
	_, err = office.SignIn(ctx, s.Shop, "10.0.0.1", "žofie", phrase)
	assert.True(t, fault.Is(err, fault.Forbidden), "who is closed can't sign in")
	who, err := office.PersonByToken(ctx, s.Shop, token.Token)
	require.NoError(t, err)
	assert.Zero(t, who.ID, "nor by a token")
	who, err = office.PersonOf(ctx, kept.WebSessions(s.Store), office.Session{Person: made.ID, Version: 1}, time.Now())
	require.NoError(t, err)
	assert.Zero(t, who.ID, "nor by a session")
	change.Closed, change.Password = false, "other words by the sea"
	_, err = office.ChangePerson(s.By(s.Maren), made.ID, change)
	require.NoError(t, err)
	_, err = office.SignIn(ctx, s.Shop, "10.0.0.1", "žofie", "other words by the sea")
	assert.NoError(t, err)
	who, err = office.PersonByToken(ctx, s.Shop, token.Token)
	require.NoError(t, err)
	assert.Zero(t, who.ID, "a token does not come back with the person")
	_, err = office.ChangePerson(s.By(s.Maren), 999, change)
	assert.True(t, fault.Is(err, fault.NotFound))
}

func TestAShopKeepsAManager(t *testing.T) {
	s := testkit.New(t)
	in := office.NewPerson{Login: "second", Name: "Second", Password: phrase, Role: staff.Manager, Branch: 1}
	close := office.PersonChange{NewPerson: office.NewPerson{Login: "maren", Name: "Maren Holt", Role: staff.Manager,
		Branch: 1}, Closed: true}
	demote := close
	demote.Role, demote.Closed = staff.Clerk, false
	for _, change := range []office.PersonChange{close, demote} {
		_, err := office.ChangePerson(s.By(s.Maren), s.Maren.ID, change)
		assert.True(t, fault.Is(err, fault.Refused), "the last manager stays")
	}
	made, err := office.AddPerson(s.By(s.Maren), in)
	require.NoError(t, err)
	// two managers close each other at one moment: one of them stays
	other := office.PersonChange{NewPerson: in, Closed: true}
	other.Password = ""
	var both sync.WaitGroup
	errs := make([]error, 2)
	both.Go(func() { _, errs[0] = office.ChangePerson(s.By(s.Maren), made.ID, other) })
	both.Go(func() { _, errs[1] = office.ChangePerson(s.By(s.Maren), s.Maren.ID, close) })
	both.Wait()
	assert.True(t, (errs[0] == nil) != (errs[1] == nil), "%v", errs)
}

func TestAPasswordIsChangedByItsOwner(t *testing.T) {
	s := testkit.New(t)
	_, err := office.ChangePassword(s.By(s.Tobi), office.PasswordChange{Old: "wrong", New: phrase})
	assert.Equal(t, "old_password", fault.Of(err).Field)
	for _, weak := range []string{"short", "aaaaaaaaaaaaaa", "abababababab"} {
		_, err := office.ChangePassword(s.By(s.Tobi), office.PasswordChange{Old: testkit.Password, New: weak})
		assert.Equal(t, "password", fault.Of(err).Field, weak)
	}
	before, err := office.PersonOf(ctx, kept.WebSessions(s.Store), office.Session{Person: s.Tobi.ID, Version: 1},
		time.Now())
	require.NoError(t, err)
	now, err := office.ChangePassword(s.By(s.Tobi), office.PasswordChange{Old: testkit.Password, New: phrase})
	require.NoError(t, err)
	assert.NotEqual(t, before, now, "other sessions end")
	_, err = office.SignIn(ctx, s.Shop, "10.0.0.2", "tobi", testkit.Password)
	assert.Error(t, err)
	_, err = office.SignIn(ctx, s.Shop, "10.0.0.2", "tobi", phrase)
	assert.NoError(t, err)
}

func TestAPersonWithoutANameIsTold(t *testing.T) {
	s := testkit.New(t)
	_, err := office.MakePerson(ctx, s.Shop, office.NewPerson{Login: "nia", Name: " \u200b", Password: phrase,
		Role: staff.Clerk, Branch: 1})
	require.NotNil(t, fault.Of(err))
	assert.Equal(t, "name", fault.Of(err).Field)
}

func TestTokensHaveNamesAndAnEnd(t *testing.T) {
	s := testkit.New(t)
	s.Shop = s.At(testkit.Moment)
	kept, err := office.MakeToken(s.By(s.Tobi), office.TokenInput{Name: "till 漢", Days: 2})
	require.NoError(t, err)
	for _, bad := range []office.TokenInput{{Days: -1}, {Days: 4000}, {Name: string(make([]rune, 61))}} {
		_, err := office.MakeToken(s.By(s.Tobi), bad)
		if bad.Days != 0 {
			assert.Error(t, err)
		}
	}
	list, err := office.Tokens(s.By(s.Callum))
	require.NoError(t, err)
	assert.Empty(t, list, "others' tokens are not shown")
	list, err = office.Tokens(s.By(s.Tobi))
	require.NoError(t, err)
	assert.Equal(t, "till 漢", list[0].Name)
	_, err = office.EndToken(s.By(s.Callum), kept.ID)
	assert.True(t, fault.Is(err, fault.NotFound), "nor ended")
	s.Shop = s.At(testkit.Moment.Add(49 * time.Hour))
	who, err := office.PersonByToken(ctx, s.Shop, kept.Token)
	require.NoError(t, err)
	assert.Zero(t, who.ID, "its days are over")
	s.Shop = s.At(testkit.Moment.Add(time.Hour))
	who, err = office.PersonByToken(ctx, s.Shop, kept.Token)
	require.NoError(t, err)
	assert.Equal(t, s.Tobi.ID, who.ID)
	_, err = office.EndToken(s.By(s.Maren), kept.ID)
	require.NoError(t, err, "a manager ends anybody's")
	who, err = office.PersonByToken(ctx, s.Shop, kept.Token)
	require.NoError(t, err)
	assert.Zero(t, who.ID)
}

func TestTriesAreCountedHoweverALoginIsSpelled(t *testing.T) {
	s := testkit.New(t)
	s.Shop = s.At(testkit.Moment)
	spelled := []string{"maren", "MAREN", " Maren", "mArEn ", "maren\u200b"}
	for i := range 8 {
		_, err := office.SignIn(ctx, s.Shop, "10.0.0.3", spelled[i%len(spelled)], "wrong")
		require.Error(t, err)
		require.NotContains(t, err.Error(), "Too many")
	}
	_, err := office.SignIn(ctx, s.Shop, "10.9.9.9", "maren", testkit.Password)
	assert.ErrorContains(t, err, "Too many", "also from another address, and with the right password")
	_, err = office.SignIn(ctx, s.Shop, "10.0.0.3", "tobi", testkit.Password)
	assert.NoError(t, err, "who sits beside is let in")
	s.Shop = s.At(testkit.Moment.Add(2 * time.Minute))
	_, err = office.SignIn(ctx, s.Shop, "10.0.0.3", "maren", testkit.Password)
	assert.NoError(t, err)
}

// TestAPersonIsOfToday changes on another server what somebody may do, and closes the account: the next request knows.
func TestAPersonIsOfToday(t *testing.T) {
	s := testkit.New(t)
	other, sessions := s.Beside(t), kept.WebSessions(s.Store)
	now := func() staff.Actor {
		who, err := office.PersonOf(ctx, sessions, office.Session{Person: s.Tobi.ID, Version: 1}, time.Now())
		require.NoError(t, err)
		return who
	}
	assert.Equal(t, s.Tobi.Name, now().Name)
	change := office.PersonChange{NewPerson: office.NewPerson{Login: "tobi", Name: "Tobi ß 漢",
		Role: staff.Stock, Branch: 1}}
	_, err := office.ChangePerson(deed.By(ctx, other, s.Maren, ""), s.Tobi.ID, change)
	require.NoError(t, err)
	assert.Equal(t, "Tobi ß 漢", now().Name)
	assert.Equal(t, staff.Stock, now().Role)
	change.Closed = true
	_, err = office.ChangePerson(deed.By(ctx, other, s.Maren, ""), s.Tobi.ID, change)
	require.NoError(t, err)
	assert.Zero(t, now().ID)
}
