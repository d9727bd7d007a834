package e2e

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/office"
	"itemrack/shop/testkit"
	"itemrack/store/till"
)

// mariadb is a database server of a test's own, which it may kill.
type mariadb struct {
	t      *testing.T
	folder string
	port   string
	script *exec.Cmd
}

// newMariaDB starts a database server on a port of its own.
func newMariaDB(t *testing.T) *mariadb {
	t.Helper()
	d := &mariadb{t: t, folder: t.TempDir(), port: freePort(t)}
	d.start()
	t.Cleanup(d.end)
	return d
}

// start starts the server and waits until it takes connections.
func (d *mariadb) start() {
	d.t.Helper()
	ready := filepath.Join(d.folder, "ready")
	_ = os.Remove(ready)
	d.script = exec.Command("../tools/with-mariadb.sh", d.folder, d.port, "sh", "-c", "touch '"+ready+"'; exec sleep 600")
	// as a shop runs it: what is acknowledged is on the disk, whatever the other tests run with
	d.script.Env = append(os.Environ(), "ITEMRACK_DB_FLAGS=")
	d.script.Stderr = os.Stderr
	require.NoError(d.t, d.script.Start())
	require.Eventually(d.t, func() bool {
		_, err := os.Stat(ready)
		return err == nil
	}, time.Minute, 20*time.Millisecond)
}

// end ends the script, and with it what it started.
func (d *mariadb) end() {
	_ = d.script.Process.Signal(syscall.SIGTERM)
	_ = d.script.Wait()
}

// crash kills the server in the middle of what it does, and starts it again.
func (d *mariadb) crash() {
	d.t.Helper()
	text, err := os.ReadFile(filepath.Join(d.folder, "mariadb.pid"))
	require.NoError(d.t, err)
	pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
	require.NoError(d.t, err)
	require.NoError(d.t, syscall.Kill(pid, syscall.SIGKILL))
	d.end()
	d.start()
}

// sales are what clients were acknowledged, by key, and the keys that got no answer.
type sales struct {
	sync.Mutex
	numbers map[string]string
	open    []string
}

// sell lets four clients sell for a while, or until they get no answer.
func (s *sales) sell(c client, variant uint64, round int, stop chan struct{}) *sync.WaitGroup {
	var wait sync.WaitGroup
	for one := range 4 {
		wait.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-stop:
					return
				default:
				}
				key := fmt.Sprintf("%d-%d-%d", round, one, n)
				number := c.sell(key, variant)
				s.Lock()
				if number == "" {
					s.open = append(s.open, key)
				} else {
					s.numbers[key] = number
				}
				s.Unlock()
				if number == "" {
					return
				}
			}
		})
	}
	return &wait
}

// TestKilledThirtyTimes kills the program twenty times and the database ten times while four registers
// sell: every sale that was acknowledged is there once, and what got no answer is there once when it is
// asked for again.
func TestKilledThirtyTimes(t *testing.T) {
	database := newMariaDB(t)
	t.Setenv("ITEMRACK_DB_HOST", "127.0.0.1:"+database.port)
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "100000", "1.37")
	s.Open(t, 1)
	made, err := office.MakeToken(s.By(s.Maren), office.TokenInput{})
	require.NoError(t, err)
	bin := build(t)
	port := freePort(t)
	server := run(t, bin, s.DSN, port)
	at := client{server.address, made.Token}
	all := &sales{numbers: map[string]string{}}
	for round := range 30 {
		stop := make(chan struct{})
		wait := all.sell(at, v, round, stop)
		time.Sleep(time.Duration(120+17*(round%7)) * time.Millisecond)
		if round%3 == 2 {
			database.crash()
		} else {
			require.NoError(t, server.Process.Signal(syscall.SIGKILL))
			_ = server.Wait()
		}
		close(stop)
		wait.Wait()
		if round%3 != 2 {
			server = run(t, bin, s.DSN, port)
		}
		for _, key := range all.open {
			var number string
			require.Eventually(t, func() bool {
				number = at.sell(key, v)
				return number != ""
			}, 20*time.Second, 100*time.Millisecond, key)
			all.numbers[key] = number
		}
		all.open = nil
	}
	different := map[string]bool{}
	for key, number := range all.numbers {
		if strings.HasSuffix(key, "-0") { // the first of each round, asked for again
			require.Equal(t, number, at.sell(key, v), "asked again it is the same")
		}
		different[number] = true
	}
	require.Len(t, different, len(all.numbers))
	require.Greater(t, len(all.numbers), 60)
	count, _, err := till.TodaySales(s.Store.Read(context.Background()), s.Terms(t).DayBegan(s.Now()),
		s.Now().Add(time.Hour))
	require.NoError(t, err)
	assert.Equal(t, len(all.numbers), count, "each sale once, and none besides")
	s.InStep(t)
}
