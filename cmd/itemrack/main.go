// Command itemrack runs the shop: it serves the pages and the API, and does from
// the command line what an owner does without a browser.
package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"runtime/debug"
	"strings"
	"syscall"
	"time"
	_ "time/tzdata"

	"github.com/gofiber/fiber/v3"

	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/migrations"
	"itemrack/store/office"
	"itemrack/web"
	"itemrack/web/kit"
)

const usage = `itemrack COMMAND

  serve                         serve the shop; PORT or ITEMRACK_ADDR say where
  demo                          load the demo shop if the database is empty, and serve it
  migrate                       bring the tables up to date
  import catalog FILE [--dry-run] [--user LOGIN] [--branch N]
                                read a stock list (CSV or XLSX) in
  import opening FILE [--dry-run] [--user LOGIN] [--branch N]
                                read opening stock in: code, quantity, cost …
  export catalog [FILE]         write the catalog as CSV, or as XLSX by the file's name
  labels [--template T] [--skip N] [--out FILE] CODE[:N] … | --find WORDS [--each N] | list
                                write a PDF of labels
  verify                        prove that all records agree; exits 1 if they do not
  seed --variants N [--seed S]  fill a shop of any size
  user --login L --name N --role manager|register|stock [--branch N]
                                let a person sign in; the password comes from ITEMRACK_PASSWORD;
                                on an empty database with --shop NAME --first-branch NAME
                                [--currency GBP] [--without-tax] [--costing "first in, first out"]
                                [--practice] [--prefix 20] [--zone Z]
                                [--taxes Standard=20,Zero=0] it opens the shop, too
  token --user LOGIN            make an API token; it is shown once

ITEMRACK_TLS_CERT and ITEMRACK_TLS_KEY name the files of a certificate to serve over TLS;
ITEMRACK_PROXIES are addresses of proxies that do, and that are believed where a request
came from.

The database is ITEMRACK_DSN, as user:password@tcp(host:port)/name, or the one
named by ITEMRACK_DB_HOST (host:port) with the account itemrack.
`

// errDisagree makes verify exit with 1 without a further message.
var errDisagree = errors.New("the records disagree")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(deed.GarbagePercent)
	}
	err := boundMemory()
	if err == nil {
		err = run(ctx, os.Args[1:], os.Stdout)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "itemrack:", err)
		os.Exit(1)
	}
}

// command is what a word on the command line does.
type command func(ctx context.Context, args []string, out io.Writer) error

func run(ctx context.Context, args []string, out io.Writer) error {
	if len(args) == 0 {
		fmt.Fprint(out, usage)
		return errors.New("name a command")
	}
	commands := map[string]command{
		"serve":   opened(serve),
		"demo":    opened(runDemo),
		"migrate": opened(migrate),
		"import":  opened(importFile),
		"export":  opened(exportCatalog),
		"labels":  opened(labels),
		"verify":  opened(verify),
		"seed":    opened(seed),
		"user":    opened(user),
		"token":   opened(token),
	}
	run, ok := commands[args[0]]
	if !ok {
		fmt.Fprint(out, usage)
		return fmt.Errorf("there is no command %q", args[0])
	}
	return run(ctx, args[1:], out)
}

// dsn is the address of the database, from the environment.
func dsn() string {
	if full := os.Getenv("ITEMRACK_DSN"); full != "" {
		return full
	}
	host, name := os.Getenv("ITEMRACK_DB_HOST"), os.Getenv("ITEMRACK_DB")
	if host == "" {
		host = "127.0.0.1:3306"
	}
	if name == "" {
		name = "itemrack"
	}
	return store.DSN("itemrack", "itemrack", host, name)
}

// open connects, brings the tables up to date and returns the shop.
func open(ctx context.Context) (*deed.Shop, error) {
	db, err := store.Open(dsn())
	if err != nil {
		return nil, err
	}
	if err := migrations.Migrate(ctx, db); err != nil {
		return nil, fmt.Errorf("bring the tables up to date: %w", err)
	}
	return deed.New(ctx, db), nil
}

// shopDeed is a command that works on an open shop.
type shopDeed func(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error

// opened opens the shop for a command and closes it after.
func opened(deed shopDeed) command {
	return func(ctx context.Context, args []string, out io.Writer) error {
		s, err := open(ctx)
		if err != nil {
			return err
		}
		defer s.Store.Close()
		defer s.Close()
		return deed(ctx, s, args, out)
	}
}

func serve(ctx context.Context, s *deed.Shop, _ []string, out io.Writer) error {
	return listen(ctx, s, out)
}

// listen serves until the context ends, then finishes what was accepted.
func listen(ctx context.Context, s *deed.Shop, out io.Writer) error {
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level()})))
	cert, key := os.Getenv("ITEMRACK_TLS_CERT"), os.Getenv("ITEMRACK_TLS_KEY")
	if (cert == "") != (key == "") {
		return errors.New("TLS needs both ITEMRACK_TLS_CERT and ITEMRACK_TLS_KEY: files of the certificate and its key")
	}
	proxies := strings.FieldsFunc(os.Getenv("ITEMRACK_PROXIES"), func(r rune) bool { return r == ',' || r == ' ' })
	app, err := web.New(s, kit.Config{Secure: cert != "" || len(proxies) > 0, Proxies: proxies})
	if err != nil {
		return err
	}
	address := os.Getenv("ITEMRACK_ADDR")
	if address == "" {
		port := os.Getenv("PORT")
		if port == "" {
			port = "8080"
		}
		address = "127.0.0.1:" + port
	}
	listener, err := net.Listen("tcp", address)
	if err != nil {
		return fmt.Errorf("%w (set PORT to another one)", err)
	}
	scheme := "http"
	if cert != "" {
		pair, err := tls.LoadX509KeyPair(cert, key)
		if err != nil {
			return fmt.Errorf("the certificate of ITEMRACK_TLS_CERT: %w", err)
		}
		scheme = "https"
		listener = tls.NewListener(listener, &tls.Config{Certificates: []tls.Certificate{pair},
			MinVersion: tls.VersionTLS12})
	}
	fmt.Fprintf(out, "Item Rack is open at %s://%s\n", scheme, listener.Addr())
	done := make(chan error, 1)
	go func() {
		<-ctx.Done()
		end, cancel := context.WithTimeout(context.Background(), 30*time.Second)
		defer cancel()
		done <- app.ShutdownWithContext(end)
	}()
	go sweep(ctx, s)
	if err := app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}); err != nil {
		return err
	}
	return <-done
}

func level() slog.Level {
	var l slog.Level
	if l.UnmarshalText([]byte(os.Getenv("ITEMRACK_LOG"))) != nil {
		return slog.LevelInfo
	}
	return l
}

// sweep forgets expired web sessions, and what is only kept for a time, in small steps while nobody does anything.
func sweep(ctx context.Context, s *deed.Shop) {
	const pause = 100 * time.Millisecond // between two steps
	for {
		if err := office.WebSessions(s.Store).Sweep(); err != nil {
			slog.Warn("expired sessions stay for now", "err", err)
		}
		for more := true; more; {
			var err error
			if s.Store.Idle() {
				if more, err = office.Trim(ctx, s.Store, s.Now()); err != nil && ctx.Err() == nil {
					slog.Warn("what is old stays for now", "err", err)
				}
			}
			select {
			case <-ctx.Done():
				return
			case <-time.After(pause):
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Hour):
		}
	}
}
