package web

import (
	"encoding/json"
	"maps"
	"net/http"
	"net/url"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/testkit"
)

// sameBrowser is a second window of a browser.
func sameBrowser(c *client) *client {
	other := *c
	other.cookies = maps.Clone(c.cookies)
	return &other
}

// signedIn reports whether somebody is signed in.
func (c *client) signedIn() bool {
	status, _ := c.get("/api/v1/variants?q=x")
	return status == http.StatusOK
}

// TestWhatEndsASessionEndsIt signs out and locks while pages of the same browser are under way, over two servers:
// neither is undone, and to show a page writes no session.
func TestWhatEndsASessionEndsIt(t *testing.T) {
	s := testkit.New(t)
	a, b := newClient(t, s), newClient(t, s) // two servers on one database
	for range 6 {
		a.signIn("maren")
		held := sameBrowser(a)
		var pages sync.WaitGroup
		for _, server := range []*client{a, b} {
			page := sameBrowser(a)
			page.app = server.app
			pages.Go(func() {
				for range 6 {
					_, _ = page.get("/stock")
				}
			})
		}
		status, _ := a.send("POST", "/logout", "application/x-www-form-urlencoded", url.Values{"_csrf": {a.csrf}}.Encode())
		require.Equal(t, http.StatusSeeOther, status)
		pages.Wait()
		assert.False(t, held.signedIn(), "the session was ended")
		held.app = b.app
		require.Eventually(t, func() bool { return !held.signedIn() }, time.Second, 20*time.Millisecond)
	}
	a.signIn("tobi")
	before := sameBrowser(a)
	status, body := a.json("POST", "/api/v1/lock", "{}")
	require.Equal(t, http.StatusOK, status, body)
	assert.False(t, before.signedIn(), "the browser has another secret from then on")
	_, _ = before.get("/stock")
	status, _ = a.get("/stock")
	assert.Equal(t, http.StatusSeeOther, status, "it waits for a PIN")
}

// TestWhatHangsOnAPINOrAPassword ends with it: sessions, tokens, the address of a calendar; and none comes back with a
// person who left.
func TestWhatHangsOnAPINOrAPassword(t *testing.T) {
	s := testkit.New(t)
	manager := newClient(t, s)
	manager.signIn("maren")
	tobi := newClient(t, s)
	tobi.signIn("tobi")
	byPIN := newClient(t, s)
	byPIN.signIn("callum")
	body, err := json.Marshal(map[string]any{"person_id": s.Tobi.ID, "pin": testkit.PIN})
	require.NoError(t, err)
	fixed := sameBrowser(byPIN)
	status, said := byPIN.json("POST", "/api/v1/at-register", string(body))
	require.Equal(t, http.StatusOK, status, said)
	assert.NotEqual(t, fixed.cookies["itemrack"], byPIN.cookies["itemrack"], "another person, another secret")
	assert.False(t, fixed.signedIn())
	require.True(t, byPIN.signedIn())
	status, said = tobi.json("POST", "/api/v1/me/pin", `{"old_password": "`+testkit.Password+`", "pin": "739164"}`)
	require.Equal(t, http.StatusOK, status, said)
	assert.True(t, tobi.signedIn(), "who changed it goes on")
	assert.False(t, byPIN.signedIn(), "who came with the old PIN does not")

	_, _ = tobi.get("/") // its pages bring another token from now on
	status, said = tobi.json("POST", "/api/v1/tokens", `{"name": "till"}`)
	require.Equal(t, http.StatusOK, status, said)
	var token struct{ Token string }
	require.NoError(t, json.Unmarshal([]byte(said), &token))
	status, said = tobi.json("POST", "/api/v1/me/calendar", "{}")
	require.Equal(t, http.StatusOK, status, said)
	var calendar struct{ Path string }
	require.NoError(t, json.Unmarshal([]byte(said), &calendar))
	program := newClient(t, s)
	program.token = token.Token
	require.True(t, program.signedIn())
	_, _ = tobi.get("/")
	status, said = tobi.json("POST", "/api/v1/me/password",
		`{"old_password": "`+testkit.Password+`", "password": "other words by the sea"}`)
	require.Equal(t, http.StatusOK, status, said)
	assert.True(t, tobi.signedIn())
	assert.False(t, program.signedIn(), "a token ends with the password under which it was made")
	stranger := newClient(t, s)
	status, _ = stranger.get(calendar.Path)
	assert.Equal(t, http.StatusNotFound, status, "so does the address of a calendar")
}
