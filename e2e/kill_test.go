package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	shopbuying "itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/buying"
	"itemrack/store/till"
)

func itoa(n uint64) string { return strconv.FormatUint(n, 10) }

// program is the built program, as a process of its own.
type program struct {
	*exec.Cmd
	address string
}

// build builds the program once for a test.
func build(t testing.TB) string {
	t.Helper()
	built.Do(func() {
		built.path = filepath.Join(scratch, "itemrack")
		made := exec.Command("go", "build", "-o", built.path, "itemrack/cmd/itemrack")
		made.Env = append(os.Environ(), "CGO_ENABLED=0")
		built.said, built.err = made.CombinedOutput()
	})
	require.NoError(t, built.err, string(built.said))
	return built.path
}

// built is the program, which is built once.
var built struct {
	sync.Once
	path string
	said []byte
	err  error
}

// lastPort is the one that was given out last.
var lastPort atomic.Int64

// freePort finds a port that nobody listens at. It is below those that systems give to connections (32768 and up): a
// server that was killed gets its port again.
func freePort(t testing.TB) string {
	t.Helper()
	for range 10_000 {
		port := strconv.FormatInt(12_000+(int64(os.Getpid())*37+lastPort.Add(1))%20_000, 10)
		if free, err := net.Listen("tcp", "127.0.0.1:"+port); err == nil {
			require.NoError(t, free.Close())
			return port
		}
	}
	t.Fatal("no port is free")
	return ""
}

// run starts the program on a port and waits until it answers.
func run(t testing.TB, bin, dsn, port string) program {
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

// client asks the program for deeds in the name of a person.
type client struct{ address, token string }

// ask does a deed under a key and reads its answer; false is that it was not acknowledged.
func (c client) ask(key, path string, in, out any) bool {
	body, _ := json.Marshal(in)
	request, _ := http.NewRequest(http.MethodPost, c.address+"/api/v1"+path, bytes.NewReader(body))
	request.Header.Set("Authorization", "Bearer "+c.token)
	request.Header.Set("Idempotency-Key", key)
	caller := http.Client{Timeout: 10 * time.Second}
	answer, err := caller.Do(request)
	if err != nil {
		return false
	}
	defer answer.Body.Close()
	return answer.StatusCode == http.StatusOK && json.NewDecoder(answer.Body).Decode(out) == nil
}

// sell asks for a sale of one; its number is empty when it was not acknowledged.
func (c client) sell(key string, variant uint64) string {
	var done register.SaleResult
	c.ask(key, "/sales", register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: variant,
		Quantity: "1"}}, Cash: "5"}, &done)
	return done.Number
}

// buy orders four, takes them in, enters their bill and pays half of it, each under a key of
// its own; the numbers of delivery, bill and payment, empty when something was not
// acknowledged.
func (c client) buy(key string, variant uint64) string {
	none := struct{}{}
	var order shopbuying.OrderRef
	var came shopbuying.DeliveryRef
	var bill shopbuying.BillRef
	var delivered, billed, paid deed.Posted
	if c.ask(key+"o", "/orders", shopbuying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []shopbuying.OrderLineInput{{Variant: variant, Quantity: "4", Price: "1.37", Discount: "0"}}}, &order) &&
		c.ask(key+"p", "/orders/"+itoa(order.ID)+"/place", none, &order) &&
		c.ask(key+"d", "/deliveries", shopbuying.DeliveryInput{Supplier: 1, Branch: 1, BillLater: true,
			Orders: []uint64{order.ID}}, &came) &&
		c.ask(key+"f", "/deliveries/"+itoa(came.ID)+"/fill", none, &came) &&
		c.ask(key+"t", "/deliveries/"+itoa(came.ID)+"/post", none, &delivered) &&
		c.ask(key+"b", "/bills", shopbuying.BillInput{Supplier: 1, Branch: 1, Number: key,
			Deliveries: []uint64{came.ID}}, &bill) &&
		c.ask(key+"c", "/bills/"+itoa(bill.ID)+"/post", none, &billed) &&
		c.ask(key+"y", "/payments", shopbuying.PaymentInput{Supplier: 1,
			Parts: []shopbuying.PaymentPart{{Bill: bill.ID, Amount: "2"}}}, &paid) {
		return delivered.Number + " " + billed.Number + " " + paid.Number
	}
	return ""
}

// killed lets four clients do one deed after the other, kills the server among them, starts
// it again, lets them ask again under the same keys, and returns the numbers of all that was
// acknowledged in the end, by key.
func killed(t *testing.T, s *testkit.Shop, bin string, do func(c client,
	key string) string) (map[string]string, program) {
	t.Helper()
	made, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	require.NoError(t, err)
	port := freePort(t)
	server := run(t, bin, s.DSN, port)
	at := client{server.address, made.Token}

	var mutex sync.Mutex
	acknowledged := map[string]string{} // key → numbers
	var open []string                   // keys that got no answer
	var wait sync.WaitGroup
	stop := make(chan struct{})
	for one := range 4 {
		wait.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-stop:
					return
				default:
				}
				key := fmt.Sprintf("%d-%d", one, n)
				numbers := do(at, key)
				mutex.Lock()
				if numbers != "" {
					acknowledged[key] = numbers
				} else {
					open = append(open, key)
				}
				mutex.Unlock()
				if numbers == "" {
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
	require.NotEmpty(t, acknowledged)

	server = run(t, bin, s.DSN, port)
	for key, numbers := range acknowledged {
		require.Equal(t, numbers, do(at, key), "what was acknowledged is there, and asked again is the same")
	}
	for _, key := range open {
		acknowledged[key] = do(at, key)
		require.NotEmpty(t, acknowledged[key])
	}
	different := map[string]bool{}
	for _, numbers := range acknowledged {
		different[numbers] = true
	}
	require.Len(t, different, len(acknowledged))
	return acknowledged, server
}

// TestKilledInAStreamOfSales: every sale is there once, and the server ends cleanly when
// asked to.
func TestKilledInAStreamOfSales(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "100000", "1.37")
	s.Open(t, 1)
	bin := build(t)
	acknowledged, server := killed(t, s, bin, func(c client, key string) string { return c.sell(key, v) })
	require.Greater(t, len(acknowledged), 10)
	sales, _, err := till.TodaySales(s.Store.Read(context.Background()), s.Terms(t).DayBegan(s.Now()),
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

// TestKilledWhileGoodsAreBought: every order is in once, billed once and paid in part once,
// and nothing is there besides.
func TestKilledWhileGoodsAreBought(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	_, err := shopbuying.SaveSupplier(s.By(s.Maren), 0,
		shopbuying.SupplierInput{Name: "Kelpline Textiles"})
	require.NoError(t, err)
	acknowledged, _ := killed(t, s, build(t), func(c client, key string) string { return c.buy(key, v) })
	q := s.Store.Read(context.Background())
	there := 0
	for page, more := 1, true; more; page++ {
		var bills []buying.BillView
		bills, more, err = buying.Bills(q, buying.BillFilter{}, page)
		require.NoError(t, err)
		there += len(bills)
		for _, bill := range bills {
			assert.Equal(t, "4.58", bill.Open.StringFixed(2), "5.48 and the tax, less 2.00")
		}
	}
	assert.Equal(t, len(acknowledged), there)
	orders, _, err := buying.Orders(q, buying.OrderFilter{Open: true}, 1)
	require.NoError(t, err)
	assert.Empty(t, orders, "all are in")
	s.InStep(t)
}

func command(bin, dsn string, args ...string) *exec.Cmd {
	c := exec.Command(bin, args...)
	c.Env = append(os.Environ(), "ITEMRACK_DSN="+dsn)
	return c
}

// TestTheCommandLine imports a stock list, tries it dry, and proves the shop.
func TestTheCommandLine(t *testing.T) {
	t.Parallel()
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
	t.Parallel()
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
	out, err = command(bin, s.DSN, "token", "--user", "pia").Output() // what it logs goes elsewhere
	require.NoError(t, err)
	who, err := office.PersonByToken(context.Background(), s.Shop, string(bytes.TrimSpace(out)))
	require.NoError(t, err)
	assert.Equal(t, "Pia", who.Name)
	out, err = command(bin, s.DSN, "migrate").CombinedOutput()
	require.NoError(t, err, string(out))
	s.InStep(t)
}

// TestKilledWhileCounting: every scan of a count is there once, the server having died in the middle; and so are
// those of eight who then scan at two servers at once, of one row all of them.
func TestKilledWhileCounting(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "40", "1.37")
	code := s.Sellables(t, v)[v].Barcode
	plan, err := counts.PlanCount(deed.By(ctx, s.Shop, s.Callum, ""), counts.CountPlan{Branch: 1, Whole: true})
	require.NoError(t, err)
	scan := func(c client, key string) string {
		var got counts.Counted
		if !c.ask(key, "/counts/"+itoa(plan.ID)+"/events", counts.CountInput{Code: code}, &got) {
			return ""
		}
		return itoa(got.Event)
	}
	bin := build(t)
	acknowledged, server := killed(t, s, bin, scan)
	made, err := office.MakeToken(deed.By(ctx, s.Shop, s.Callum, ""), office.TokenInput{})
	require.NoError(t, err)
	other := run(t, bin, s.DSN, freePort(t))
	var wait sync.WaitGroup
	for one := range 8 {
		wait.Go(func() {
			at := client{[]string{server.address, other.address}[one%2], made.Token}
			for n := range 10 {
				key := fmt.Sprintf("both-%d-%d", one, n)
				assert.NotEmpty(t, scan(at, key))
				if n == 0 { // the answer was lost: asked for again, of the other server
					assert.NotEmpty(t, scan(client{[]string{other.address, server.address}[one%2], made.Token}, key))
				}
			}
		})
	}
	wait.Wait()
	_, err = counts.SettleCount(deed.By(ctx, s.Shop, s.Maren, ""), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	assert.Equal(t, strconv.Itoa(len(acknowledged)+80), s.Held(t, v).Pools[v].Quantity.String(), "each scan once")
	s.InStep(t)
}
