package main

import (
	"cmp"
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"
	_ "time/tzdata"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/demo"
	"itemrack/device"
	"itemrack/sheet"
	"itemrack/shop/deed"
	shoplabels "itemrack/shop/labels"
	"itemrack/shop/lists"
	shopoffice "itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/store/book"
	"itemrack/store/goods"
)

func runDemo(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error {
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

func migrate(_ context.Context, _ *deed.Shop, _ []string, out io.Writer) error {
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

func importFile(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error {
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
		report, err = lists.ImportOpeningStock(deed.By(ctx, s, who, ""), file, *branch, *dryRun)
	} else {
		report, err = lists.ImportList(deed.By(ctx, s, who, ""), file, *branch, *dryRun)
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
func exportCatalog(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error {
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
		return lists.ExportCatalog(deed.By(ctx, s, who, ""), goods.ListFilter{}, sheet.CSV, out)
	}
	format := sheet.CSV
	if strings.EqualFold(filepath.Ext(rest[1]), ".xlsx") {
		format = sheet.XLSX
	}
	file, err := os.Create(rest[1])
	if err != nil {
		return err
	}
	if err := lists.ExportCatalog(deed.By(ctx, s, who, ""), goods.ListFilter{}, format, file); err != nil {
		_ = file.Close()
		return err
	}
	return file.Close()
}

// labels writes a PDF of labels: for codes with how many each, or for all that a
// search of the catalog finds.
func labels(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error {
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
	printed, err := shoplabels.Labels(deed.By(ctx, s, who, ""), in)
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

func verify(ctx context.Context, s *deed.Shop, _ []string, out io.Writer) error {
	if err := prices.PricesDue(ctx, s); err != nil {
		return err
	}
	var first error
	_, err := book.Verify(ctx, s.Store, s.Now(), func(c book.Check) {
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

func seed(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error {
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

func user(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error {
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

func token(ctx context.Context, s *deed.Shop, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("token", flag.ContinueOnError)
	login := flags.String("user", "", "whom the token acts for")
	if err := flags.Parse(args); err != nil {
		return err
	}
	who, err := shopoffice.PersonByLogin(ctx, s, *login)
	if err != nil {
		return err
	}
	one, err := shopoffice.MakeToken(deed.By(ctx, s, who, ""), shopoffice.TokenInput{Name: "command line"})
	if err != nil {
		return err
	}
	fmt.Fprintln(out, one.Token)
	return nil
}
