package web

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/sale"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

// TestCodesOfVouchersAreNotListed for who might pay with one that they look through; who may block one sees it.
func TestCodesOfVouchersAreNotListed(t *testing.T) {
	s := testkit.New(t)
	s.Open(t, 1)
	_, err := register.AddVoucher(s.By(s.Tobi), 1, register.VoucherInput{Amount: "25"})
	require.NoError(t, err)
	done, err := s.Pay(t, 1, "k1", register.TenderInput{Kind: sale.Cash, Amount: "25"})
	require.NoError(t, err)
	code := done.Vouchers[0].Code
	for login, sees := range map[string]bool{"tobi": false, "maren": true} {
		c := newClient(t, s)
		c.signIn(login)
		for _, path := range []string{"/vouchers", "/vouchers?format=csv", "/api/v1/vouchers"} {
			status, body := c.get(path)
			require.Equal(t, http.StatusOK, status, path)
			if sees {
				assert.Contains(t, body, code, "%s for %s", path, login)
			} else {
				assert.NotContains(t, body, code, "%s for %s", path, login)
				assert.Contains(t, body, sale.PartOfCode(code), "%s for %s", path, login)
			}
		}
		status, _ := c.get("/vouchers/" + code)
		assert.Equal(t, http.StatusOK, status, "with the code in hand")
	}
}

// TestWhatCameOfARequest is told to who sent it, by its key.
func TestWhatCameOfARequest(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1.00")
	s.Open(t, 1)
	done, err := register.Sell(s.By(s.Tobi, "k-1"), register.SaleInput{Register: 1, Cash: "4.00",
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
	require.NoError(t, err)
	c, other := newClient(t, s), newClient(t, s)
	c.signIn("tobi")
	other.signIn("maren")
	_, body := c.get("/api/v1/requests/k-1")
	assert.JSONEq(t, `{"done": true, "number": "`+done.Number+`"}`, body)
	_, body = c.get("/api/v1/requests/k-2")
	assert.JSONEq(t, `{"done": false, "number": ""}`, body)
	_, body = other.get("/api/v1/requests/k-1")
	assert.JSONEq(t, `{"done": false, "number": ""}`, body, "it is not hers")
}

// TestHeadIsAnswered where GET is.
func TestHeadIsAnswered(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	for _, path := range []string{"/healthz", "/login", "/api/v1/openapi.json"} {
		status, _ := c.send(http.MethodHead, path, "", "")
		assert.Equal(t, http.StatusOK, status, path)
	}
}
