package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/trade"
)

func itoa(n uint64) string { return strconv.FormatUint(n, 10) }

// program is the built program, as a process of its own.
type program struct {
	*exec.Cmd
	address string
}

// build builds the program once for a test.
func build(t *testing.T) string {
	t.Helper()
	bin := filepath.Join(t.TempDir(), "itemrack")
	made := exec.Command("go", "build", "-o", bin, "itemrack/cmd/itemrack")
	made.Env = append(os.Environ(), "CGO_ENABLED=0")
	out, err := made.CombinedOutput()
	require.NoError(t, err, string(out))
	return bin
}

// run starts the program on a port and waits until it answers.
func run(t *testing.T, bin, dsn, port string) program {
	t.Helper()
	p := program{Cmd: exec.Command(bin, "serve"), address: "http://127.0.0.1:" + port}
	p.Env = append(os.Environ(), "ITEMRACK_DSN="+dsn, "PORT="+port, "ITEMRACK_LOG=error")
	p.Stderr = os.Stderr
	require.NoError(t, p.Start())
	t.Cleanup(func() { _ = p.Process.Kill(); _ = p.Wait() })
	require.Eventually(t, func() bool {
		answer, err := http.Get(p.address + "/healthz")
		if err != nil {
			return false
		}
		defer answer.Body.Close()
		return answer.StatusCode == http.StatusOK
	}, 20*time.Second, 50*time.Millisecond)
	return p
}

// sell asks for a sale of one under a key; ok is whether it was acknowledged.
func sell(address, token, key string, variant uint64) (number string, ok bool) {
	body, _ := json.Marshal(
		register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: variant, Quantity: "1"}}, Cash: "5"})
	request, _ := http.NewRequest(http.MethodPost, address+"/api/v1/sales", bytes.NewReader(body))
	request.Header.Set("Authorization", "Bearer "+token)
	request.Header.Set("Idempotency-Key", key)
	client := http.Client{Timeout: 10 * time.Second}
	answer, err := client.Do(request)
	if err != nil {
		return "", false
	}
	defer answer.Body.Close()
	var done register.SaleResult
	if answer.StatusCode != http.StatusOK || json.NewDecoder(answer.Body).Decode(&done) != nil {
		return "", false
	}
	return done.Number, true
}

// TestKilledInAStreamOfSales kills the server while four clients sell, starts it
// again, lets them ask again under the same keys, and holds that every sale is
// there once.
func TestKilledInAStreamOfSales(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "100000", "1.37")
	s.Open(t, 1)
	made, err := office.MakeToken(context.Background(), s.Shop, s.Tobi, office.TokenInput{})
	token := made.Token
	require.NoError(t, err)
	bin := build(t)
	port := strconv.Itoa(41000 + os.Getpid()%9000)
	server := run(t, bin, s.DSN, port)

	var mutex sync.Mutex
	acknowledged := map[string]string{} // key → number
	var open []string                   // keys that got no answer
	var wait sync.WaitGroup
	stop := make(chan struct{})
	for client := range 4 {
		wait.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-stop:
					return
				default:
				}
				key := fmt.Sprintf("%d-%d", client, n)
				number, ok := sell(server.address, token, key, v)
				mutex.Lock()
				if ok {
					acknowledged[key] = number
				} else {
					open = append(open, key)
				}
				mutex.Unlock()
				if !ok {
					return
				}
			}
		})
	}
	time.Sleep(1200 * time.Millisecond)
	require.NoError(t, server.Process.Signal(syscall.SIGKILL))
	close(stop)
	wait.Wait()
	_ = server.Wait()
	require.Greater(t, len(acknowledged), 10)

	server = run(t, bin, s.DSN, port)
	for key, number := range acknowledged {
		again, ok := sell(server.address, token, key, v)
		require.True(t, ok)
		require.Equal(t, number, again, "an acknowledged sale is there, and asked again is the same")
	}
	for _, key := range open {
		number, ok := sell(server.address, token, key, v)
		require.True(t, ok)
		acknowledged[key] = number
	}
	numbers := map[string]bool{}
	for _, number := range acknowledged {
		numbers[number] = true
	}
	assert.Len(t, numbers, len(acknowledged))
	sales, _, err := trade.TodaySales(s.Store.Read(context.Background()), s.Terms(t).DayBegan(s.Now()),
		s.Now().Add(time.Hour))
	require.NoError(t, err)
	assert.Equal(t, len(acknowledged), sales, "each sale once, and none besides")
	s.InStep(t)

	out, err := command(bin, s.DSN, "verify").CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "agrees")
	require.NoError(t, server.Process.Signal(syscall.SIGTERM))
	state, err := server.Process.Wait()
	require.NoError(t, err)
	assert.True(t, state.Success(), "it ends cleanly when asked to")
}

func command(bin, dsn string, args ...string) *exec.Cmd {
	c := exec.Command(bin, args...)
	c.Env = append(os.Environ(), "ITEMRACK_DSN="+dsn)
	return c
}

// TestTheCommandLine imports a stock list, tries it dry, and proves the shop.
func TestTheCommandLine(t *testing.T) {
	s := testkit.New(t)
	bin := build(t)
	file := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(
		t,
		os.WriteFile(
			file,
			[]byte(
				"product,size,category,price,cost,opening "+
					"quantity\nVest,M,Swim,34.95,13.95,6\nVest,L,Swim,34.95,13.95,\n"),
			0o600,
		),
	)
	say := func(args ...string) (string, error) {
		out, err := command(bin, s.DSN, args...).CombinedOutput()
		return string(out), err
	}
	out, err := say("import", "catalog", file, "--dry-run")
	require.NoError(t, err, out)
	assert.Contains(t, out, "2 would be made")
	out, err = say("import", "catalog", file)
	require.NoError(t, err, out)
	assert.Contains(t, out, "2 made")
	assert.Contains(t, out, "OS-0001")
	out, err = say("import", "catalog", file)
	require.NoError(t, err, out)
	assert.Contains(t, out, "2 the same")
	require.NoError(t, os.WriteFile(file, []byte("product,price,barcode\nX,1.00,2000000000010\n"), 0o600))
	out, err = say("import", "catalog", file)
	require.Error(t, err)
	assert.Contains(t, out, "line 2: refused")
	assert.Contains(t, out, "The check digit")
	out, err = say("verify")
	require.NoError(t, err, out)
	require.NoError(t, s.Spoil("UPDATE cost_pool SET value = value + 1 WHERE quantity > 0"))
	out, err = say("verify")
	require.Error(t, err)
	assert.Contains(t, out, "DISAGREES  every cost pool is the sum of its entries: variant ")
	out, err = say("token", "--user", "nobody")
	require.Error(t, err)
	assert.Contains(t, out, "Nobody signs in as nobody")
	out, err = say("fly")
	require.Error(t, err)
	assert.Contains(t, out, "no command")
}

// TestPeopleAndSeedFromTheCommandLine sets a shop up without a browser.
func TestPeopleAndSeedFromTheCommandLine(t *testing.T) {
	s := testkit.Bare(t)
	bin := build(t)
	out, err := command(bin, s.DSN, "seed", "--variants", "45").CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "45 of 45 variants")
	newcomer := command(bin, s.DSN, "user", "--login", "pia", "--name", "Pia", "--role", "register")
	newcomer.Env = append(newcomer.Env, "ITEMRACK_PASSWORD=boathouse-2026")
	out, err = newcomer.CombinedOutput()
	require.NoError(t, err, string(out))
	_, err = office.SignIn(context.Background(), s.Shop, "127.0.0.1", "pia", "boathouse-2026")
	require.NoError(t, err)
	out, err = command(bin, s.DSN, "user", "--login", "kim", "--name", "Kim", "--role", "king").CombinedOutput()
	require.Error(t, err)
	assert.Contains(t, string(out), "no role")
	out, err = command(bin, s.DSN, "token", "--user", "pia").CombinedOutput()
	require.NoError(t, err)
	who, err := office.PersonByToken(context.Background(), s.Shop, string(bytes.TrimSpace(out)))
	require.NoError(t, err)
	assert.Equal(t, "Pia", who.Name)
	out, err = command(bin, s.DSN, "migrate").CombinedOutput()
	require.NoError(t, err, string(out))
	s.InStep(t)
}
