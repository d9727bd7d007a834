// Command itemrack runs the shop: it serves the pages and the API, and does from
// the command line what an owner does without a browser.
package main

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"
	"syscall"
	"time"
	_ "time/tzdata"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/demo"
	"itemrack/device"
	"itemrack/sheet"
	shopdeed "itemrack/shop/deed"
	shoplabels "itemrack/shop/labels"
	"itemrack/shop/lists"
	shopoffice "itemrack/shop/office"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
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
		debug.SetGCPercent(shopdeed.GarbagePercent)
	}
	err := run(ctx, os.Args[1:], os.Stdout)
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
func open(ctx context.Context) (*shopdeed.Shop, error) {
	db, err := store.Open(dsn())
	if err != nil {
		return nil, err
	}
	if err := migrations.Migrate(ctx, db); err != nil {
		return nil, fmt.Errorf("bring the tables up to date: %w", err)
	}
	return shopdeed.New(ctx, db), nil
}

// shopDeed is a command that works on an open shop.
type shopDeed func(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error

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

func serve(ctx context.Context, s *shopdeed.Shop, _ []string, out io.Writer) error {
	return listen(ctx, s, out)
}

// listen serves until the context ends, then finishes what was accepted.
func listen(ctx context.Context, s *shopdeed.Shop, out io.Writer) error {
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

// sweep forgets expired web sessions now and then.
func sweep(ctx context.Context, s *shopdeed.Shop) {
	for {
		if err := office.WebSessions(s.Store).Sweep(); err != nil {
			slog.Warn("expired sessions stay for now", "err", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Hour):
		}
	}
}

func runDemo(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("demo", flag.ContinueOnError)
	days := flags.Int("days", demo.Days, "days of history")
	seedNumber := flags.Uint64("seed", 26, "seed of the generator")
	if err := flags.Parse(args); err != nil {
		return err
	}
	began := time.Now()
	made, err := demo.Load(ctx, s, *days, *seedNumber, func(done int) {
		if done > 0 && done%20 == 0 {
			fmt.Fprintf(out, "%d of %d days of the demo shop are made …\n", done, *days)
		}
	})
	if err != nil {
		return err
	}
	if made {
		fmt.Fprintf(out, "The demo shop is made, with %d days of history, in %s.\n", *days,
			time.Since(began).Round(100*time.Millisecond))
	} else {
		fmt.Fprintln(out, "The demo shop is there from before; its data is kept (make demo-fresh starts over).")
	}
	fmt.Fprintln(out, "\nSign in with the password", demo.Password, "as")
	for _, p := range demo.People {
		fmt.Fprintf(out, "  %-8s %s, %s, PIN %s\n", p.Login, p.Name, p.Role, p.PIN)
	}
	fmt.Fprintln(out)
	return listen(ctx, s, out)
}

func migrate(_ context.Context, _ *shopdeed.Shop, _ []string, out io.Writer) error {
	fmt.Fprintln(out, "The tables are up to date.")
	return nil
}

// words parses flags that may stand before or after the other words.
func words(flags *flag.FlagSet, args []string) ([]string, error) {
	var rest []string
	for len(args) > 0 {
		if err := flags.Parse(args); err != nil {
			return nil, err
		}
		if flags.NArg() == 0 {
			break
		}
		rest = append(rest, flags.Arg(0))
		args = flags.Args()[1:]
	}
	return rest, nil
}

func importFile(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("import", flag.ContinueOnError)
	dryRun := flags.Bool("dry-run", false, "try it and keep nothing")
	login := flags.String("user", "", "who imports; the first manager, if it is not said")
	branch := flags.Uint64("branch", 1, "where the opening stock lies")
	rest, err := words(flags, args)
	if err != nil {
		return err
	}
	if len(rest) != 2 || rest[0] != lists.ImportCatalog && rest[0] != lists.ImportOpening {
		return errors.New("itemrack import catalog|opening FILE [--dry-run] [--user LOGIN] [--branch N]")
	}
	file, err := os.Open(rest[1])
	if err != nil {
		return err
	}
	defer file.Close()
	who, err := shopoffice.PersonByLogin(ctx, s, *login)
	if err != nil {
		return err
	}
	var report lists.ListReport
	if rest[0] == lists.ImportOpening {
		report, err = lists.ImportOpeningStock(ctx, s, who, "", file, *branch, *dryRun)
	} else {
		report, err = lists.ImportList(ctx, s, who, "", file, *branch, *dryRun)
	}
	if err != nil {
		return err
	}
	printReport(out, report)
	if report.Refused > 0 {
		return fmt.Errorf("%d rows are refused, so nothing was imported", report.Refused)
	}
	return nil
}

// exportCatalog writes the catalog as a stock list, which can be imported again.
func exportCatalog(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("export", flag.ContinueOnError)
	login := flags.String("user", "", "who exports; the first manager, if it is not said")
	rest, err := words(flags, args)
	if err != nil {
		return err
	}
	if len(rest) < 1 || len(rest) > 2 || rest[0] != lists.ImportCatalog {
		return errors.New("itemrack export catalog [FILE.csv|FILE.xlsx] [--user LOGIN]")
	}
	who, err := shopoffice.PersonByLogin(ctx, s, *login)
	if err != nil {
		return err
	}
	if len(rest) == 1 {
		return lists.ExportCatalog(ctx, s, who, goods.ListFilter{}, sheet.CSV, out)
	}
	format := sheet.CSV
	if strings.EqualFold(filepath.Ext(rest[1]), ".xlsx") {
		format = sheet.XLSX
	}
	file, err := os.Create(rest[1])
	if err != nil {
		return err
	}
	if err := lists.ExportCatalog(ctx, s, who, goods.ListFilter{}, format, file); err != nil {
		_ = file.Close()
		return err
	}
	return file.Close()
}

// labels writes a PDF of labels: for codes with how many each, or for all that a
// search of the catalog finds.
func labels(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("labels", flag.ContinueOnError)
	login := flags.String("user", "", "who prints; the first manager, if it is not said")
	template := flags.String("template", "", "the kind of label; list shows them")
	to := flags.String("out", "labels.pdf", "the file to write")
	find := flags.String("find", "", "words of the products")
	each := flags.Int("each", 1, "how many of each that --find finds")
	skip := flags.Int("skip", 0, "labels of the first sheet that are used already")
	rest, err := words(flags, args)
	if err != nil {
		return err
	}
	who, err := shopoffice.PersonByLogin(ctx, s, *login)
	if err != nil {
		return err
	}
	if len(rest) == 1 && rest[0] == "list" {
		list, err := shoplabels.LabelTemplates(ctx, s)
		for _, t := range list {
			fmt.Fprintf(out, "%-14s %s\n", t.Code, t.Name)
		}
		return err
	}
	in := shoplabels.LabelRequest{Template: *template, Skip: *skip}
	q := s.Store.Read(ctx)
	if *find != "" {
		ids, err := goods.VariantIDs(q, goods.ListFilter{Words: *find}, 0, 10_001)
		if err != nil {
			return err
		}
		for _, id := range ids {
			in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: id, Copies: *each})
		}
	}
	for _, arg := range rest {
		code, copies, counted := strings.Cut(arg, ":")
		n := 1
		if counted {
			if n, err = strconv.Atoi(copies); err != nil {
				return fmt.Errorf("%s does not say how many labels: CODE:3 takes three", arg)
			}
		}
		found, err := goods.Find(q, code, 2)
		if err != nil {
			return err
		}
		if len(found) != 1 || found[0].Kind != "variant" {
			return fmt.Errorf("nothing has the SKU or barcode %s", code)
		}
		in.Labels = append(in.Labels, shoplabels.LabelWish{Variant: found[0].ID, Copies: n})
	}
	printed, err := shoplabels.Labels(ctx, s, who, in)
	if err != nil {
		return err
	}
	for _, r := range printed.Remarks {
		fmt.Fprintln(out, "remark:", r)
	}
	data, err := device.PDF("Labels", printed.Pages)
	if err != nil {
		return err
	}
	if err := os.WriteFile(*to, data, 0o600); err != nil {
		return err
	}
	fmt.Fprintf(out, "%d labels on %d pages are in %s.\n", printed.Count, len(printed.Pages), *to)
	return nil
}

func printReport(out io.Writer, report lists.ListReport) {
	const most = 200 // of the rows that are made or the same; refusals are all said
	shown := 0
	for _, r := range report.Rows {
		if r.Outcome != lists.RowRefused {
			if shown++; shown > most {
				continue
			}
		}
		fmt.Fprintf(out, "line %d: %s: %s", r.Line, r.Outcome,
			strings.TrimSpace(catalog.FullName(r.Product, r.Variant)+" "+r.SKU))
		if r.Detail != "" {
			fmt.Fprintf(out, ": %s", fault.Error{Kind: fault.Invalid, Detail: r.Detail, Want: r.Want}.Whole())
		}
		fmt.Fprintln(out)
	}
	verb := ""
	if report.DryRun {
		verb = "would be "
	}
	fmt.Fprintf(out, "%d %smade, %d %schanged, %d the same, %d refused.", report.Made, verb, report.Changed, verb,
		report.Same, report.Refused)
	if report.Opening != "" && !report.DryRun && report.Refused == 0 {
		fmt.Fprintf(out, " Opening stock is posted as %s.", report.Opening)
	}
	fmt.Fprintln(out)
}

func verify(ctx context.Context, s *shopdeed.Shop, _ []string, out io.Writer) error {
	var first error
	_, err := book.Verify(ctx, s.Store, func(c book.Check) {
		if c.Wrong == "" {
			fmt.Fprintf(out, "agrees     %s (%d)\n", c.Name, c.Seen)
			return
		}
		fmt.Fprintf(out, "DISAGREES  %s: %s\n", c.Name, c.Wrong)
		if first == nil {
			first = fmt.Errorf("%w: %s: %s", errDisagree, c.Name, c.Wrong)
		}
	})
	return cmp.Or(err, first)
}

func seed(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("seed", flag.ContinueOnError)
	variants := flags.Int("variants", 1000, "how many variants")
	number := flags.Uint64("seed", 26, "seed of the generator")
	if err := flags.Parse(args); err != nil {
		return err
	}
	if _, err := demo.SetUp(ctx, s); err != nil {
		return err
	}
	who, err := shopoffice.PersonByLogin(ctx, s, "maren")
	if err != nil {
		return err
	}
	began := time.Now()
	err = demo.Seed(ctx, s, who, *variants, *number,
		func(done int) { fmt.Fprintf(out, "\r%d of %d variants", done, *variants) })
	fmt.Fprintf(out, "\nin %s\n", time.Since(began).Round(time.Millisecond))
	return err
}

func user(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("user", flag.ContinueOnError)
	login := flags.String("login", "", "how the person signs in")
	name := flags.String("name", "", "the person's name")
	role := flags.String("role", "", "manager, register or stock")
	branch := flags.Uint64("branch", 1, "the person's branch")
	first := shopoffice.FirstStart{Password: os.Getenv("ITEMRACK_PASSWORD")}
	flags.StringVar(&first.Name, "shop", "", "name of the shop, to open it in an empty database")
	flags.StringVar(&first.Branch, "first-branch", "", "its first branch")
	flags.StringVar(&first.Currency, "currency", "", "its currency, such as GBP")
	flags.BoolVar(&first.WithoutTax, "without-tax", false, "prices are kept without tax")
	flags.StringVar(&first.Costing, "costing", "", "how stock is valued: moving average, or first in, first out")
	flags.BoolVar(&first.Practice, "practice", false, "what is posted can be cleared until the shop begins for real")
	flags.StringVar(&first.Prefix, "prefix", "", "prefix of its own barcodes")
	flags.StringVar(&first.Zone, "zone", "", "its time zone")
	taxes := flags.String("taxes", "Standard=20,Reduced=5,Zero=0", "its tax classes with percent")
	if err := flags.Parse(args); err != nil {
		return err
	}
	empty, err := shopoffice.IsEmpty(ctx, s)
	if err != nil {
		return err
	}
	if !empty {
		if _, err := shopoffice.MakePerson(ctx, s, shopoffice.NewPerson{Login: *login, Name: *name,
			Password: first.Password, Role: staff.Role(*role), Branch: *branch}); err != nil {
			return err
		}
		fmt.Fprintf(out, "%s can sign in as %s.\n", *name, *login)
		return nil
	}
	if first.Name == "" {
		return errors.New("there is no shop yet: say --shop NAME and --first-branch NAME to open it")
	}
	for _, text := range strings.Split(*taxes, ",") {
		class, percent, _ := strings.Cut(text, "=")
		first.Taxes = append(first.Taxes, shopoffice.FirstTax{Name: class, Percent: percent})
	}
	first.Manager, first.Login = *name, *login
	if _, err := shopoffice.Begin(ctx, s, first); err != nil {
		return err
	}
	fmt.Fprintf(out, "%s is open; %s can sign in as %s.\n", first.Name, *name, *login)
	return nil
}

func token(ctx context.Context, s *shopdeed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("token", flag.ContinueOnError)
	login := flags.String("user", "", "whom the token acts for")
	if err := flags.Parse(args); err != nil {
		return err
	}
	who, err := shopoffice.PersonByLogin(ctx, s, *login)
	if err != nil {
		return err
	}
	one, err := shopoffice.MakeToken(ctx, s, who, shopoffice.TokenInput{Name: "command line"})
	if err != nil {
		return err
	}
	fmt.Fprintln(out, one.Token)
	return nil
}
